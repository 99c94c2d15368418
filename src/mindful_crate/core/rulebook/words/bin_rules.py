"""Bin rules in sentences."""

from __future__ import annotations

from collections.abc import Sequence

from mindful_crate.core.rulebook.bin_rules import (
    Between,
    BinPurpose,
    BinRule,
    Conditions,
    Disposition,
    IfNothing,
    LookIn,
    Prefer,
    Target,
    UnitForm,
    UpTo,
    Wants,
    Weekday,
)
from mindful_crate.core.rulebook.words.parts import (
    ORDER_KINDS,
    STATUSES,
    TRACKINGS,
    Names,
    Part,
    Sentence,
    any_of,
    between,
    just,
)

DISPOSITIONS = {
    Disposition.RESTOCK: "to restock",
    Disposition.REPAIR: "to repair",
    Disposition.SEND_BACK: "to send back",
    Disposition.SCRAP: "to scrap",
}


DAYS = {d: d.name.capitalize() for d in Weekday}


UNIT_FORMS = {UnitForm.WHOLE_PLATE: "A whole plate", UnitForm.CASE: "Full cases", UnitForm.EACH: "Single pieces"}


WANTS = {
    Wants.SAME_ITEM_AND_LOT: "a bin that holds the same item and lot",
    Wants.SAME_ITEM: "a bin that holds the same item",
    Wants.EMPTY: "an empty bin",
    Wants.ANY: "any bin that fits",
    Wants.ONE_COVERS: "one bin that covers all",
    Wants.WHOLE_PLATE: "whole plates exactly",
}


PREFER = {
    Prefer.WALK_ORDER: "in walk order",
    Prefer.NEAREST_DOOR: "nearest to where it was received",
    Prefer.NEAREST_LAST: "nearest to where the goods are now",
    Prefer.NEAREST_PACK: "nearest to a packing station",
    Prefer.LOWEST_LEVEL: "lowest level first",
    Prefer.FULLEST: "fullest first",
    Prefer.EMPTIEST: "emptiest first",
    Prefer.FEFO: "earliest expiry first",
    Prefer.FIFO: "earliest arrival first",
    Prefer.LIFO: "latest arrival first",
    Prefer.SMALLEST_REMAINDER: "least left behind first",
    Prefer.FEWEST_BINS: "from the fewest bins",
}


TAKING_ANY = "any bin that has some"


IF_NOTHING = {
    IfNothing.NEXT_RULE: "the next rule is asked",
    IfNothing.ASK: "the worker is asked",
    IfNothing.OVERFLOW: "the overflow bin takes it",
}


SPLIT = {False: "all in one bin", True: "split over several bins if need be"}


UP_TO = {UpTo.ROOM: "as much as there is room for", UpTo.HOME_MAXIMUM: "up to its home maximum"}


TAB_TITLES = {
    BinPurpose.PUT_AWAY: "Put away",
    BinPurpose.PICK_FROM: "Pick from",
    BinPurpose.REPLENISH_FROM: "Replenish from",
    BinPurpose.REPLENISH_TO: "Replenish to",
    BinPurpose.UNLOAD_AT: "Unload at",
    BinPurpose.RECEIVE_INTO: "Receive into",
    BinPurpose.INSPECT_AT: "Inspect at",
    BinPurpose.HOLD_AT: "Hold at",
    BinPurpose.RETURN_TO: "Return to",
    BinPurpose.SORT_AT: "Sort at",
    BinPurpose.PACK_AT: "Pack at",
    BinPurpose.STAGE_AT: "Stage at",
    BinPurpose.LOAD_AT: "Load at",
}
"""The lists in short, in the order they are shown."""
PURPOSE_TITLES = {
    BinPurpose.UNLOAD_AT: "Where goods are unloaded",
    BinPurpose.RECEIVE_INTO: "Where goods are received",
    BinPurpose.INSPECT_AT: "Where goods are inspected",
    BinPurpose.HOLD_AT: "Where goods are held that nobody may use",
    BinPurpose.PUT_AWAY: "Where goods are put away",
    BinPurpose.RETURN_TO: "Where returned goods go",
    BinPurpose.REPLENISH_FROM: "Where reserve is taken from",
    BinPurpose.REPLENISH_TO: "Where reserve is brought to",
    BinPurpose.PICK_FROM: "Where goods are picked from",
    BinPurpose.SORT_AT: "Where batches are sorted",
    BinPurpose.PACK_AT: "Where goods are packed",
    BinPurpose.STAGE_AT: "Where shipments are staged",
    BinPurpose.LOAD_AT: "At which door they are loaded",
}


def rule_sentence(rule: BinRule, names: Names, path: str = "", purpose: BinPurpose = BinPurpose.PUT_AWAY) -> Sentence:
    """One bin rule, every field that matters in words."""
    takes = purpose.takes
    return (
        *_conditions(rule, names, f"{path}/applies", takes),
        *_targets(rule, names, path, takes),
        *_ending(rule, path, takes),
    )


def _conditions(rule: BinRule, names: Names, path: str, takes: bool) -> list[Part]:
    go = ("is taken from ", "are taken from ") if takes else ("goes to ", "go to ")
    return conditions_words(rule.applies, names, path, go, takes)


def conditions_words(c: Conditions, names: Names, path: str, go: tuple[str, str], takes: bool = False) -> list[Part]:
    """For which goods something holds, as the beginning of its sentence; ``go`` is its verb, of one and of several."""
    parts: list[Part] = []

    def word(field: str, values: Sequence[str], lead: str, trail: str = "") -> None:
        if values:
            parts.extend([just(lead), Part("word", any_of(values), f"{path}/{field}", field)])
            if trail:
                parts.append(just(trail))

    def span(field: str, value: Between, unit: str) -> None:
        if not value.open:
            parts.extend([just(", "), Part("word", between(value), f"{path}/{field}", field), just(unit)])

    forms = [UNIT_FORMS[f] for f in c.unit_forms]
    if c == type(c)():
        return [Part("word", "Anything", path, "conditions"), just(f" {go[0]}")]
    if forms:
        parts.append(Part("word", _first_large(any_of(forms)), f"{path}/unit_forms", "unit_forms"))
    else:
        parts.append(just("Goods"))
    word("groups", c.groups, " of ")
    word("items", [names.item(i) for i in c.items], " of " if not c.groups else ", namely ")
    word("hazard_classes", [f"hazard class {h}" for h in c.hazard_classes], " of ")
    word("velocity_classes", [f"velocity class {v}" for v in c.velocity_classes], " of ")
    word("trackings", [TRACKINGS[t] for t in c.trackings], " that are ")
    word("statuses", [STATUSES[s] for s in c.statuses], ", ")
    word("order_kinds", [ORDER_KINDS[k] for k in c.order_kinds], " for " if takes else " from ")
    word("partners", [names.partner(p) for p in c.partners], " for " if takes else " supplied by ")
    word("partner_groups", c.partner_groups, " for partners of " if takes else " supplied by partners of ")
    word("dispositions", [DISPOSITIONS[d] for d in c.dispositions], " marked ")
    word("weekdays", [DAYS[d] for d in c.weekdays], " on ")
    if not c.worth.open:
        parts.extend([just(" worth "), Part("word", between(c.worth), f"{path}/worth", "worth"), just(" apiece")])
    span("quantity", c.quantity, " in base units")
    span("weight_kg", c.weight_kg, " kg")
    span("height_mm", c.height_mm, " mm high")
    parts.append(Part("add", "and when", path, "conditions"))
    single = len(forms) == 1 and c.unit_forms[0] is UnitForm.WHOLE_PLATE
    parts.append(just(f" {go[0] if single else go[1]}"))
    return parts


def _first_large(text: str) -> str:
    first, *rest = text.split(" or ")
    return " or ".join([first, *(r[0].lower() + r[1:] for r in rest)])


def _targets(rule: BinRule, names: Names, path: str, takes: bool) -> list[Part]:
    parts: list[Part] = []
    for n, target in enumerate(rule.targets):
        at = f"{path}/targets/{target.id}"
        look_in = _look_in(target.look_in, names, f"{at}/look_in", takes)
        if n and target.look_in == rule.targets[n - 1].look_in:
            look_in = [
                Part("word", "there", look_in[0].path or look_in[-1].path, look_in[0].field or look_in[-1].field)
            ]
        if n:
            parts.append(just("; what is left to " if rule.split and not takes else "; if there is none, "))
        wants = TAKING_ANY if takes and target.wants is Wants.ANY else WANTS[target.wants]
        parts += [
            *look_in,
            just(", "),
            Part("word", wants, f"{at}/wants", "take_wants" if takes else "wants"),
            just(", "),
            Part("word", prefer_words(target), f"{at}/prefer", "take_prefer" if takes else "prefer"),
        ]
        if target.up_to is not UpTo.ROOM and not takes:
            parts += [just(", "), Part("word", UP_TO[target.up_to], f"{at}/up_to", "up_to")]
        if target.most is not None:
            most = f"at most {target.most:,} a bin"
            parts += [just(", "), Part("word", most, f"{at}/most", "most")]
        if target.most is None or (target.up_to is UpTo.ROOM and not takes):
            parts.append(Part("add", "but only", at, "take_limit" if takes else "limit"))
    return parts or [just("no place yet")]


def prefer_words(target: Target) -> str:
    """The order of preference of a target in words."""
    return ", then ".join(PREFER[p] for p in target.prefer) or "in order of the bin code"


def _look_in(look_in: LookIn, names: Names, path: str, takes: bool) -> list[Part]:
    parts: list[Part] = []

    def word(field: str, text: str, lead: str) -> None:
        parts.extend([*([just(lead)] if lead else []), Part("word", text, f"{path}/{field}", field)])

    if look_in.home_bins:
        word("home_bins", "the item's home bins", "")
    if look_in.own_plate:
        word("own_plate", "the bin of the plate being built", " that are also " if parts else "")
    if look_in.zones:
        word("zones", any_of(map(names.zone, look_in.zones)), " in " if parts else "")
    if look_in.aisles:
        plural = "aisles" if len(look_in.aisles) > 1 else "aisle"
        word("aisles", f"{plural} {any_of(look_in.aisles)}", " in " if parts else "")
    if look_in.bin_types:
        word(
            "bin_types",
            any_of(map(names.bin_type, look_in.bin_types)),
            " with bins of type " if parts else "bins of type ",
        )
    if look_in.bins:
        word("bins", any_of(look_in.bins), ", only " if parts else "")
    if not parts:
        return [Part("word", "any bin of the site", path, "look_in")]
    return [*parts, Part("add", "only where", path, "look_in")]


def _ending(rule: BinRule, path: str, takes: bool) -> list[Part]:
    split = {False: "all from one bin", True: "from several bins if need be"} if takes else SPLIT
    parts = [just(", "), Part("word", split[rule.split], f"{path}/split", "take_split" if takes else "split")]
    if rule.split:
        least = f"at least {rule.least_percent} % each" if rule.least_percent else "however little each"
        parts += [just(", "), Part("word", least, f"{path}/least_percent", "least_percent")]
    if takes:
        days = "1 day" if rule.fefo_days == 1 else f"{rule.fefo_days} days"
        told = f"passed over by up to {days}" if rule.fefo_days else "never passed over"
        parts += [just(". The earliest expiry is "), Part("word", told, f"{path}/fefo_days", "fefo_days")]
    nothing = IF_NOTHING[rule.if_nothing]
    parts += [
        just(
            ". If something is left, " if rule.split else ". If nothing is found, " if takes else ". If nothing fits, "
        ),
        Part("word", nothing, f"{path}/if_nothing", "take_if_nothing" if takes else "if_nothing"),
    ]
    if rule.if_nothing is IfNothing.OVERFLOW:
        parts += [just(": "), Part("word", rule.overflow or "none yet", f"{path}/overflow", "overflow")]
    parts.append(just("." if rule.on else ". Switched off: it is passed over."))
    return parts


def list_title(purpose: BinPurpose) -> str:
    """Heading of a list of bin rules."""
    return PURPOSE_TITLES[purpose]
