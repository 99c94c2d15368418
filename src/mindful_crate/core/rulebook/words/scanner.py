"""Scanner flows in sentences."""

from __future__ import annotations

from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.rulebook.bin_rules import (
    BinPurpose,
)
from mindful_crate.core.rulebook.flows import (
    Asks,
    Check,
    Each,
    Flow,
    FlowPurpose,
    Listed,
    OtherBin,
    PlateBy,
    Prompt,
    Proposes,
    Short,
)
from mindful_crate.core.rulebook.words.parts import NO_LAYERS, ORDERS, Layers, Part, Sentence, any_of, just, layered

PLATE_BY = {
    PlateBy.MADE: "gets the site's next number",
    PlateBy.ASKED: "is asked from the worker, who scans a label",
    PlateBy.NONE: "is not built: goods are received loose",
}


NEXT_CONFIRMS = {
    True: "confirms the quantity of the last",
    False: "is refused until the quantity of the last is confirmed",
}


OTHER_BIN = {
    OtherBin.NEVER: "is never taken",
    OtherBin.WARN: "is taken after a warning, if the goods fit",
    OtherBin.REASON: "is taken with a reason, if the goods fit",
}


CHECK = {Check.SCAN: "must be scanned", Check.BELIEVE: "may be scanned, typed or tapped"}


PROPOSES = {Proposes.REST: "what is still open", Proposes.ONE: "one", Proposes.BLANK: "nothing"}


SKIP = {True: "passed over when there is only one", False: "asked even when there is only one"}


FROM_RULES = {
    None: "the worker chooses",
    BinPurpose.PICK_FROM: "the rules that pick propose",
    BinPurpose.REPLENISH_FROM: "the rules that take from reserve propose",
}


TO_RULES = {
    None: "the worker chooses",
    BinPurpose.PUT_AWAY: "the rules that put away propose",
    BinPurpose.REPLENISH_TO: "the rules that bring reserve propose",
    BinPurpose.HOLD_AT: "the rules for held goods propose",
    BinPurpose.RETURN_TO: "the rules for returned goods propose",
    BinPurpose.STAGE_AT: "the rules that stage propose",
    BinPurpose.LOAD_AT: "the rules that load propose",
}


LISTED = {
    Listed.CAME: "is listed as it came",
    Listed.BINS: "is listed in the order of the bins it goes to",
    Listed.GIVEN: "is not listed: one after another is given, the next on the walk",
}
COUNT_LISTED = {
    **LISTED,
    Listed.BINS: "is listed as it came",
    Listed.GIVEN: "is not listed: one sheet after another is given",
}
PICK_LISTED = {**LISTED, Listed.BINS: "is listed in the order of the bins it begins at"}
SHORT = {
    Short.OTHER_BIN: "is looked for in another bin by the rules; where they find none it waits for reserve, or stays open on its order",
    Short.STAYS_OPEN: "stays open on its order",
}
SEVERAL = {True: "Several plates may be", False: "One plate at a time is"}


EACH = {Each.ONCE: "once", Each.LINE: "for each line"}
TO_BINS = (
    FlowPurpose.PUT_AWAY, FlowPurpose.PICK, FlowPurpose.REPLENISH, FlowPurpose.MOVE_GOODS, FlowPurpose.MOVE_PLATES,
)  # fmt: skip
"""Purposes of flows that bring something to a bin that is shown."""
COUNTED = (Asks.QUANTITY, Asks.PICK_COUNT)
"""Asked as a number, or piece by piece."""
FIXED = (Asks.UNIT, Asks.QUANTITY, Asks.COUNT, Asks.LOT, Asks.FROM, Asks.TO)
"""Whose answer the analyst may say beforehand; a test holds it to what the machine can."""
HOW_ASKED = {
    Asks.LOADS: "are scanned one by one, or said as a number",
    Asks.PIECES: "are asked where it is not clear by itself, scanned or typed",
    Asks.UNIT: "is asked where the item has several and no code said which, scanned or chosen from a list",
    Asks.NOTE: "is asked when a step plan wants it, scanned or typed",
    Asks.VERDICT: "is chosen from a list",
    Asks.FAILED: "is asked as a number when only some pass",
    Asks.FAULT: "is chosen from a list when something fails",
    Asks.REMARK: "is written when something fails, or left out",
    Asks.CARTON_KIND: "is chosen from a list, or typed by its code",
    Asks.CARRIER: "is chosen from a list, or typed by its code",
    Asks.RETURN_SERIALS: "are scanned one by one until that is all",
    Asks.DISPOSITION: "is chosen from a list",
    Asks.RETURN_REMARK: "is written, or left out",
    Asks.COUNT_SERIALS: "are scanned one by one until that is all",
    Asks.STOCK_GONE: "are scanned one by one until that is all; only of items kept by them",
    Asks.STOCK_COUNT: "is asked as a number; a typed nought is refused",
    Asks.NEW_STATUS: "is chosen from a list",
    Asks.STOCK_TO: "is scanned as a bin",
    Asks.STOCK_REASON: "is chosen from the reasons of the chapter Stock care, or written where there are none",
    Asks.STOCK_PHOTO: "is taken where the reason asks for one",
    Asks.REVIEW: "shows what is about to be done, which is confirmed or stepped back from",
}
"""How prompts are answered that nobody could scan."""
PURPOSE_NOTES = {
    FlowPurpose.UNLOAD: "What comes off a truck, counted where it is set down; it is not stock, and may then be received.",
    FlowPurpose.RECEIVE: "Goods of an order, scanned onto a plate or loose; finishing makes them stock.",
    FlowPurpose.INSPECT: "Brings what a plan stops to where it is inspected, and says whether it passes, in whole or in part.",
    FlowPurpose.PUT_AWAY: "Takes what waits in receiving to the bin the rules chose, plate by plate or loose.",
    FlowPurpose.PICK: "Fetches what waves keep for orders, stop by stop, and sets it down at the station; each stop counts as soon as it is answered.",
    FlowPurpose.SORT: "Brings what was fetched for several orders at once to each order's place of the sort wall, or its tote, item by item.",
    FlowPurpose.PACK: "What was picked goes into cartons item by item, each checked; a carton is closed with its kind and weight. Any bench goes on where another stopped.",
    FlowPurpose.STAGE: "Brings closed cartons, pallets and loose goods to the lane where a shipment waits for its truck.",
    FlowPurpose.LOAD: "Puts what is staged onto a truck, one by one or a shipment at once; another shipment's is refused by its name.",
    FlowPurpose.SHIP: "Sends a shipment off: the goods are stock no more, and the host is told.",
    FlowPurpose.REPLENISH: "Brings what orders wait for, and what shelves have too little of, from reserve: fetched stop by stop, then placed shelf by shelf.",
    FlowPurpose.RETURN: "Takes back what a customer sends, announced or not: judged at the first scan, marked line by line; finishing makes its number, the stock and the tasks.",
    FlowPurpose.COUNT: "Counts what a sheet names, bin by bin, and whatever else is there. The books change only when somebody posts it.",
    FlowPurpose.ADJUST: "Says how many of something really lie in a bin or on a plate, with a reason; the books change at once, and the host is told.",
    FlowPurpose.RESTATUS: "Keeps goods from being used, as damaged, expired or in quarantine, or lets them be used again, with a reason.",
    FlowPurpose.RELOCATE: "Says that goods, or a whole plate, lie in another bin than the books say, with a reason; nobody carries anything.",
    FlowPurpose.MOVE_PLATES: "Plates from where they stand to another place, one or several at a time.",
    FlowPurpose.MOVE_GOODS: "Pieces out of a bin or off a plate to another place; also to fill a shelf from reserve.",
    FlowPurpose.UNDO_LAST: "Takes back the unloading, receipt, inspection or put-away one has just finished, while nothing after it has begun.",
    FlowPurpose.LOOK_UP: "Scans anything and tells what it is, where it lies and why; changes nothing.",
}
"""What each purpose is for, in a sentence."""
ASKS_NOTES = {
    Asks.DELIVERY: "What is unloaded: an order, a notice, an announced plate; or the truck first.",
    Asks.DOOR: "The door, dock or lane where it is set down.",
    Asks.LOADS: "Each announced plate as it comes off, or how many pallets and packages.",
    Asks.ORDER: "Which order the goods come on.",
    Asks.NOTE: "The number of the delivery note, where the step plan asks for one.",
    Asks.LINE: "The number of the order line; it says which item comes.",
    Asks.PLATE: "The plate that is built: a label, or one that is gone on with.",
    Asks.INTO: "The bin it is received into, before anything is counted; as far as its step plan leaves that open.",
    Asks.ITEM: "What was received.",
    Asks.EXPIRY: "Until when it keeps; only of items kept by it.",
    Asks.LOT: "Which lot it is; only of items kept by it.",
    Asks.UNIT: "In which unit it is counted, where the item has several and its code said none.",
    Asks.QUANTITY: "How many were received, or each piece scanned.",
    Asks.SERIAL: "The number of each piece; before the quantity, it counts them. Only of items kept by it.",
    Asks.PIECES: "Which of those that lie there, by their serial numbers, where only some go on.",
    Asks.INSPECTED: "What is inspected next: scanned, or chosen from a list.",
    Asks.INSPECT_AT: "The place it is brought to, unless it stands there.",
    Asks.KIND: "Which of several kinds of goods on a plate is looked at.",
    Asks.VERDICT: "Whether all of it passes, some, or nothing.",
    Asks.FAILED: "How many fail, when only some do.",
    Asks.FAULT: "What they are then: damaged, or kept apart.",
    Asks.REMARK: "A few words on what was seen; only of what fails.",
    Asks.TASK: "What is put away next: scanned, or chosen from a list.",
    Asks.LOT_HELD: "Which lot it is that is put away, only of items kept by it: another one is refused.",
    Asks.BIN: "Where it was put; where goods are received, they are put away in one go then.",
    Asks.REFILL: "What is brought from reserve next: scanned, or chosen from a list.",
    Asks.PICKED: "Which task is picked: by its list, its wave, an order, goods at hand, or from a list.",
    Asks.TOTE: "An empty tote for each order, before anything is fetched; not where orders are fetched together and sorted.",
    Asks.PICK_AT: "The bin of each stop, or the plate that stands there.",
    Asks.PICK_ITEM: "The item of each stop; another one is refused by its name.",
    Asks.PICK_LOT: "The lot that leaves first; only of items kept by it.",
    Asks.PICK_COUNT: "How many are picked at a stop, or each piece scanned; fewer leave the rest at the same stop.",
    Asks.PICK_INTO: "The order's own tote; another one is refused by the order it belongs to.",
    Asks.SET_AT: "Where it is set down once all is fetched: the station the plan says, or another place that is no storage.",
    Asks.SORT_AT: "Where it was set down: its bin, its wave, or an order that is to be sorted.",
    Asks.SORT_ITEM: "Any item that lies there; for whom it is, is told.",
    Asks.SORT_COUNT: "How many go to that order; all it wants is proposed.",
    Asks.SORT_INTO: "The order's place of the wall or its tote; the first time any free one. Another order's is refused by its name.",
    Asks.PACKED: "What is packed: an order, its tote, a shipment, or the bench and what waits there.",
    Asks.PACK_ITEM: "Any item that is left to pack; another order's, and one too many, are refused by name. A label begins another carton.",
    Asks.PACK_COUNT: "How many go in; all that is left is proposed. Not asked where every piece is scanned.",
    Asks.CARTON_KIND: "Which carton it is, when it is closed; the one that was proposed stands first.",
    Asks.WEIGHT: "What it weighs, when it is closed: the scale is read, or it is said by hand. Beyond what may be it is counted again.",
    Asks.STAGED: "A carton, a plate or a tote; an order or a shipment for all of it that is ready.",
    Asks.LANE: "Where it is staged: where the shipment stands already, else where the plan and the rules say.",
    Asks.TRUCK: "The truck that is loaded, or the door it stands at.",
    Asks.LOADED: "One carton or plate after another, or a shipment at once after a look.",
    Asks.SHIPPED: "A shipment, by its number, an order, or a carton of it; what is not complete is asked about.",
    Asks.CARRIER: "Who drives; another than it was meant for is asked about.",
    Asks.FROM: "The bin or plate goods are taken from.",
    Asks.GOODS: "What is taken.",
    Asks.LOT_THERE: "Which lot is taken, where several lie.",
    Asks.COUNT: "How many are taken.",
    Asks.PART: "How many of them go into the next bin, when they are divided; also off a plate that is put away.",
    Asks.PLATES: "Which plates are taken up.",
    Asks.TO: "The bin or plate it goes to.",
    Asks.LAST: "The step that was finished last: chosen, or its plate scanned.",
    Asks.LOOK: "What is looked up.",
    Asks.RETURNED_BY: "The customer: by number, name, an order, a former shipment or its label; or the number under which it was announced.",
    Asks.RETURN_ITEM: "Any item that comes back; whether it is accepted is said at once, with the last shipment.",
    Asks.RETURN_LOT: "Which lot it is; only of items kept by it.",
    Asks.RETURN_SERIALS: "The number of each piece: one that this customer got from here. Only of items kept by them.",
    Asks.RETURN_COUNT: "How many come back; more than the customer got is judged like what was never shipped.",
    Asks.DISPOSITION: "What becomes of it, by one of the marks of the chapter Returns.",
    Asks.RETURN_REMARK: "A few words on what was seen, or a photo; it may be left out.",
    Asks.SHEET: "Which sheet is counted: by its number, a bin or an item on it, words, or from a list.",
    Asks.COUNT_AT: "Which bin: the next on the sheet is told, any other of it will do.",
    Asks.COUNT_ITEM: "An item or a plate that is there, on the sheet or not; or nothing else is.",
    Asks.COUNT_LOT: "Which lot it is; only of items kept by it.",
    Asks.COUNT_SERIALS: "Each piece that is there, by its number; only of items kept by them.",
    Asks.COUNTED: "How many are there. None has a button of its own; a typed nought is refused.",
    Asks.STOCK_AT: "The bin, or the plate that stands there.",
    Asks.STOCK_ITEM: "What lies there: scanned, or chosen; of one that lies there in several lots or statuses, which.",
    Asks.STOCK_GONE: "The numbers of the pieces that are gone; only of items kept by them.",
    Asks.STOCK_COUNT: "How many there really are. None has a button of its own.",
    Asks.STOCK_TO: "The bin it really lies in.",
    Asks.NEW_STATUS: "What it may be used for from now on.",
    Asks.STOCK_REASON: "One of the reasons that this crew may give.",
    Asks.STOCK_PHOTO: "A photo, where the reason wants one or lets one be taken.",
    Asks.REVIEW: "All of it once more, before it is done: what, how many, from where and to where.",
}
"""What each prompt is for, in a sentence."""


def flow_sentence(flow: Flow, path: str = "", layers: Layers = NO_LAYERS, ground: Ground | None = None) -> Sentence:
    """What a flow does as a whole; its prompts have sentences of their own. The ground says what kinds of plate are called."""
    loose = flow.purpose is FlowPurpose.RECEIVE and flow.plate_by is PlateBy.NONE
    parts = [just(f"People use it to {'receive goods loose' if loose else flow.purpose.says}.")]
    if flow.purpose is FlowPurpose.RECEIVE:
        parts += [
            just(" A new plate "),
            Part("word", PLATE_BY[flow.plate_by], f"{path}/plate_by", "plate_by"),
            *_kind_of_plate(flow, path, ground),
            just(". Scanning the next item "),
            layered(NEXT_CONFIRMS, "next_item_confirms", flow.next_item_confirms, layers, path),
            just("."),
        ]
        if flow.order_kinds:
            told = any_of(ORDERS[k].lower() for k in flow.order_kinds)
            parts += [
                just(" It shows and takes "),
                Part("word", told, f"{path}/order_kinds", "kinds_in"),
                just(" alone."),
            ]
        else:
            parts += [just(" "), Part("add", "only some kinds of orders", f"{path}/order_kinds", "kinds_in")]
        if all(p.asks is not Asks.ORDER for p in flow.prompts):
            parts.append(
                just(" No order is named: what comes goes to the order that was promised first, then to the next.")
            )
        if any(p.asks is Asks.BIN for p in flow.prompts):
            parts.append(just(" What is finished is taken up and put away at once, if that is for who received it."))
    if flow.purpose is FlowPurpose.MOVE_GOODS:
        parts += [
            just(" Where goods are taken from, "),
            Part("word", FROM_RULES.get(flow.from_rules, "?"), f"{path}/from_rules", "from_rules"),
            just("."),
        ]
    picks = flow.purpose is FlowPurpose.PICK
    begins_there = picks or flow.purpose is FlowPurpose.REPLENISH
    if begins_there or flow.purpose is FlowPurpose.PUT_AWAY:
        parts += [
            just(" What waits "),
            Part(
                "word",
                (PICK_LISTED if begins_there else LISTED)[flow.listed],
                f"{path}/listed",
                "pick_listed" if begins_there else "listed",
            ),
            just("."),
        ]
    if flow.purpose is FlowPurpose.COUNT:
        listed = Part("word", COUNT_LISTED[flow.listed], f"{path}/listed", "count_listed")
        parts += [just(" What is to be counted "), listed, just(".")]
    if flow.purpose is FlowPurpose.MOVE_PLATES:
        parts += [just(" "), Part("word", SEVERAL[flow.several], f"{path}/several", "several"), just(" taken up.")]
    if flow.purpose in (FlowPurpose.MOVE_GOODS, FlowPurpose.MOVE_PLATES):
        parts += [
            just(" Where it goes, "),
            Part("word", TO_RULES.get(flow.to_rules, "?"), f"{path}/to_rules", "to_rules"),
            just("."),
        ]
    if picks or flow.purpose is FlowPurpose.SORT:
        parts += [just(" What is not there "), Part("word", SHORT[flow.short], f"{path}/short", "short"), just(".")]
    if flow.purpose in TO_BINS:
        parts += [
            just(
                " Another bin to pick from, or place to set it down, " if picks else " Another bin than the one shown "
            ),
            layered(OTHER_BIN, "other_bin", flow.other_bin, layers, path),
            just("."),
        ]
    return tuple(parts)


def _kind_of_plate(flow: Flow, path: str, ground: Ground | None) -> list[Part]:
    if flow.plate_by is PlateBy.NONE:
        return []
    kind = flow.plate_kind
    known = ground.plate_kinds.get(kind) if ground and kind else None
    says = (known.name if known else f"{kind} (missing)" if ground else str(kind)) if kind else "none yet"
    return [just("; its kind is "), Part("word", says, f"{path}/plate_kind", "plate_kind")]


def prompt_sentence(prompt: Prompt, path: str = "") -> Sentence:
    """One prompt of a flow in words."""
    parts: list[Part] = [just(prompt.asks.says + " ")]
    if prompt.asks in COUNTED:
        parts += [
            just("is asked as a number; it proposes "),
            Part("word", PROPOSES[prompt.proposes], f"{path}/proposes", "proposes"),
        ]
        if prompt.pieces:
            upto = f"the first {prompt.pieces:,} of a line"
            parts += [just("; scanned one by one are "), Part("word", upto, f"{path}/pieces", "each_piece")]
    elif prompt.asks in (Asks.COUNT, Asks.SORT_COUNT, Asks.PART):
        parts.append(just("is asked when the worker says so" if prompt.asks is Asks.PART else "is asked as a number"))
    elif prompt.asks in (Asks.EXPIRY, Asks.LOT, Asks.LOT_HELD, Asks.SERIAL, Asks.PICK_LOT):
        are = (
            "are asked for items tracked by them and "
            if prompt.asks is Asks.SERIAL
            else "is asked for items tracked by it and "
        )
        parts += [
            just(are),
            Part("word", CHECK[prompt.check], f"{path}/check", "check"),
        ]
    elif prompt.asks in HOW_ASKED:
        parts.append(just(HOW_ASKED[prompt.asks]))
    else:
        parts.append(Part("word", CHECK[prompt.check], f"{path}/check", "check"))
    if prompt.asks in (Asks.ORDER, Asks.TASK, Asks.PICKED, Asks.REFILL):
        parts += [just("; it is "), Part("word", SKIP[prompt.skip_single], f"{path}/skip_single", "skip_single")]
    parts += [just(", "), Part("word", EACH[prompt.each], f"{path}/each", "each")]
    if prompt.asks in FIXED:
        if prompt.fixed:
            parts += [just("; it is not asked but taken to be "), Part("word", prompt.fixed, f"{path}/fixed", "fixed")]
            parts.append(just(" as long as that can be"))
        else:
            parts.append(Part("add", "a fixed answer", f"{path}/fixed", "fixed"))
    if prompt.asks in COUNTED and not prompt.pieces:
        parts.append(Part("add", "each piece scanned", f"{path}/pieces", "each_piece"))
    if prompt.words:
        parts += [just(", in the words "), Part("word", f"\u201c{prompt.words}\u201d", f"{path}/words", "prompt_words")]
    else:
        parts.append(Part("add", "in other words", f"{path}/words", "prompt_words"))
    parts.append(just("."))
    return tuple(parts)
