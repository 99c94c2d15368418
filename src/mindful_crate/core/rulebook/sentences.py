"""The rulebook in sentences, written from the data.

A sentence is a row of parts: plain text, and *words* that carry the path of the field they stand for, so that
the studio can edit them in place. The why trail, findings and comparison use the same sentences.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any, Literal, Protocol

from mindful_crate.core.catalog.goods import OrderKind, Status, Tracking
from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.bin_rules import (
    Between,
    BinPurpose,
    BinRule,
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
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Asks, Check, Flow, FlowPurpose, OtherBin, PlateBy, Prompt, Proposes
from mindful_crate.core.rulebook.settings import Level, SettingsLayer, levels
from mindful_crate.core.rulebook.steps import BookingPoint, Recipe, StepPlan


class Called(Protocol):
    """Something that has a name."""

    @property
    def name(self) -> str:
        """What people call it."""
        ...


@record
class Part:
    """A piece of a sentence. A ``word`` may be edited at ``path`` with the choices of ``field``; an ``add`` is a
    word that is not there yet; ``code`` is set in mono."""

    kind: Literal["text", "word", "add", "code"]
    text: str
    path: str = ""
    field: str = ""


Sentence = tuple[Part, ...]


def words_of(sentence: Sequence[Part]) -> str:
    """The sentence as one line of text, without the words that are not there yet."""
    return "".join(p.text for p in sentence if p.kind != "add")


def _t(text: str) -> Part:
    return Part("text", text)


ORDER_KINDS = {
    OrderKind.PURCHASE: "a purchase order",
    OrderKind.TRANSFER: "a transfer",
    OrderKind.PRODUCTION: "production",
    OrderKind.CUSTOMER_RETURN: "an announced return",
    OrderKind.SALES: "a sales order",
    OrderKind.VENDOR_RETURN: "a return to the vendor",
}
ORDERS = {
    OrderKind.PURCHASE: "Purchase orders",
    OrderKind.TRANSFER: "Transfers",
    OrderKind.PRODUCTION: "Production output",
    OrderKind.CUSTOMER_RETURN: "Announced returns",
    OrderKind.SALES: "Sales orders",
    OrderKind.VENDOR_RETURN: "Returns to vendors",
}
TRACKINGS = {
    Tracking.NONE: "not tracked",
    Tracking.LOT: "tracked by lot",
    Tracking.LOT_EXPIRY: "tracked by lot with expiry",
}
STATUSES = {
    Status.AVAILABLE: "available",
    Status.INSPECT: "to be inspected",
    Status.QUARANTINE: "in quarantine",
    Status.DAMAGED: "damaged",
    Status.EXPIRED: "expired",
}
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
PURPOSE_TITLES = {
    BinPurpose.RECEIVE_INTO: "Where goods are received",
    BinPurpose.INSPECT_AT: "Where goods are inspected",
    BinPurpose.PUT_AWAY: "Where goods are put away",
    BinPurpose.RETURN_TO: "Where returned goods go",
    BinPurpose.REPLENISH_FROM: "Where reserve is taken from",
    BinPurpose.REPLENISH_TO: "Where reserve is brought to",
    BinPurpose.PICK_FROM: "Where goods are picked from",
    BinPurpose.SORT_AT: "Where batches are sorted",
    BinPurpose.PACK_AT: "Where goods are packed",
    BinPurpose.STAGE_AT: "Where shipments are staged",
}
ON_OFF = {True: "on", False: "off"}
BOOKING = {
    BookingPoint.PLATE_FINISHED: "when the plate or receipt is finished",
    BookingPoint.PUT_AWAY: "when the goods are put away",
    BookingPoint.BY_HAND: "by hand, from the office",
}
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
    BinPurpose.RETURN_TO: "the rules for returned goods propose",
    BinPurpose.STAGE_AT: "the rules that stage propose",
}
SEVERAL = {True: "Several plates may be", False: "One plate at a time is"}


def any_of(names: Iterable[str]) -> str:
    """``A``, ``A or B``, ``A, B or C``."""
    listed = list(names)
    return " or ".join([", ".join(listed[:-1]), listed[-1]] if len(listed) > 1 else listed)


class Names:
    """What codes are called; a code the catalogue lacks says so."""

    def __init__(self, ground: Ground) -> None:
        self.ground = ground

    def zone(self, code: str) -> str:
        """Name of a zone."""
        return self._name(self.ground.zones, code)

    def item(self, code: str) -> str:
        """Name of an item."""
        return self._name(self.ground.items, code)

    def partner(self, code: str) -> str:
        """Name of a partner."""
        return self._name(self.ground.partners, code)

    def bin_type(self, code: str) -> str:
        """Name of a bin type."""
        return self._name(self.ground.bin_types, code)

    def _name(self, known: Mapping[Any, Called], code: str) -> str:
        found = known.get(code)
        return found.name if found else f"{code} (missing)"


def thousandths(count: int) -> str:
    """A count of thousandths as a number: 2500 reads 2.5."""
    whole, rest = divmod(count, 1000)
    return f"{whole:,}.{rest:03d}".rstrip("0") if rest else f"{whole:,}"


def between(span: Between) -> str:
    """A range in words."""
    if span.least is None:
        return f"at most {span.most:,}" if span.most is not None else "any number"
    if span.most is None:
        return f"at least {span.least:,}"
    return f"{span.least:,}" if span.least == span.most else f"{span.least:,} to {span.most:,}"


def rule_sentence(rule: BinRule, names: Names, path: str = "", purpose: BinPurpose = BinPurpose.PUT_AWAY) -> Sentence:
    """One bin rule, every field that matters in words."""
    takes = purpose.takes
    return (
        *_conditions(rule, names, f"{path}/applies", takes),
        *_targets(rule, names, path, takes),
        *_ending(rule, path, takes),
    )


def _conditions(rule: BinRule, names: Names, path: str, takes: bool) -> list[Part]:
    c = rule.applies
    parts: list[Part] = []

    def word(field: str, values: Sequence[str], lead: str, trail: str = "") -> None:
        if values:
            parts.extend([_t(lead), Part("word", any_of(values), f"{path}/{field}", field)])
            if trail:
                parts.append(_t(trail))

    def span(field: str, value: Between, unit: str) -> None:
        if not value.open:
            parts.extend([_t(", "), Part("word", between(value), f"{path}/{field}", field), _t(unit)])

    go = ("is taken from ", "are taken from ") if takes else ("goes to ", "go to ")
    forms = [UNIT_FORMS[f] for f in c.unit_forms]
    if c == type(c)():
        return [Part("word", "Anything", path, "conditions"), _t(f" {go[0]}")]
    if forms:
        parts.append(Part("word", _first_large(any_of(forms)), f"{path}/unit_forms", "unit_forms"))
    else:
        parts.append(_t("Goods"))
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
    span("quantity", c.quantity, " in base units")
    span("weight_kg", c.weight_kg, " kg")
    span("height_mm", c.height_mm, " mm high")
    parts.append(Part("add", "and when", path, "conditions"))
    single = len(forms) == 1 and c.unit_forms[0] is UnitForm.WHOLE_PLATE
    parts.append(_t(f" {go[0] if single else go[1]}"))
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
            parts.append(_t("; what is left to " if rule.split and not takes else "; if there is none, "))
        wants = TAKING_ANY if takes and target.wants is Wants.ANY else WANTS[target.wants]
        parts += [
            *look_in,
            _t(", "),
            Part("word", wants, f"{at}/wants", "take_wants" if takes else "wants"),
            _t(", "),
            Part("word", prefer_words(target), f"{at}/prefer", "take_prefer" if takes else "prefer"),
        ]
        if target.up_to is not UpTo.ROOM and not takes:
            parts += [_t(", "), Part("word", UP_TO[target.up_to], f"{at}/up_to", "up_to")]
        if target.most is not None:
            most = f"at most {target.most:,} a bin"
            parts += [_t(", "), Part("word", most, f"{at}/most", "most")]
        if target.most is None or (target.up_to is UpTo.ROOM and not takes):
            parts.append(Part("add", "but only", at, "take_limit" if takes else "limit"))
    return parts or [_t("no place yet")]


def prefer_words(target: Target) -> str:
    """The order of preference of a target in words."""
    return ", then ".join(PREFER[p] for p in target.prefer) or "in order of the bin code"


def _look_in(look_in: LookIn, names: Names, path: str, takes: bool) -> list[Part]:
    parts: list[Part] = []

    def word(field: str, text: str, lead: str) -> None:
        parts.extend([*([_t(lead)] if lead else []), Part("word", text, f"{path}/{field}", field)])

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
    parts = [_t(", "), Part("word", split[rule.split], f"{path}/split", "take_split" if takes else "split")]
    if rule.split:
        least = f"at least {rule.least_percent} % each" if rule.least_percent else "however little each"
        parts += [_t(", "), Part("word", least, f"{path}/least_percent", "least_percent")]
    if takes:
        days = "1 day" if rule.fefo_days == 1 else f"{rule.fefo_days} days"
        told = f"passed over by up to {days}" if rule.fefo_days else "never passed over"
        parts += [_t(". The earliest expiry is "), Part("word", told, f"{path}/fefo_days", "fefo_days")]
    nothing = IF_NOTHING[rule.if_nothing]
    parts += [
        _t(". If something is left, " if rule.split else ". If nothing is found, " if takes else ". If nothing fits, "),
        Part("word", nothing, f"{path}/if_nothing", "take_if_nothing" if takes else "if_nothing"),
    ]
    if rule.if_nothing is IfNothing.OVERFLOW:
        parts += [_t(": "), Part("word", rule.overflow or "none yet", f"{path}/overflow", "overflow")]
    parts.append(_t("." if rule.on else ". Switched off: it is passed over."))
    return parts


AS_SET = {
    Level.OWN: "",
    Level.SITE: " (as set for this site)",
    Level.GENERAL: " (as set for all sites)",
    Level.BUILT_IN: " (as usual)",
}


def _layered(table: dict[Any, str], name: str, own: Any, layers: Layers, path: str) -> Part:
    """A live word whose value may come from the settings; where from is said in brackets."""
    level, value = levels(layers[0], name, layers[1], own)[0]
    return Part("word", table[value] + AS_SET[level], f"{path}/{name}", name)


Layers = tuple[Sequence[SettingsLayer], SiteCode]
NO_LAYERS: Layers = ((), SiteCode(""))


def plan_sentence(plan: StepPlan, path: str = "", layers: Layers = NO_LAYERS) -> Sentence:
    """One step plan in words; ``layers`` are the settings and the site they are asked for."""
    parts = [
        Part("word", ORDERS[plan.order_kind] if plan.order_kind else "All orders", f"{path}/order_kind", "order_kind"),
        _t(" are received into "),
        Part("word", plan.receive.into, f"{path}/receive/into", "receiving_bins"),
        _t(". Then they "),
        Part(
            "word",
            "are put away by the bin rules" if plan.put_away.on else "stay there",
            f"{path}/put_away/on",
            "put_away_on",
        ),
        _t(". The host is told "),
        _layered(BOOKING, "booking", plan.booking, layers, path),
        _t("."),
    ]
    return tuple(parts)


def recipe_sentence(recipe: Recipe, rulebook: Rulebook) -> Sentence:
    """One recipe in words; read-only for now, so without live words."""
    crew = next((c.name for c in rulebook.crews if c.id == recipe.crew), f"{recipe.crew} (missing)")
    return (
        _t(
            f"Each finished plate that is to be put away becomes one task for {crew}: take the plate where it was "
            "received, place it in the bin the rules choose. Goods received loose become one for each bin they go to. It "
            "starts at once and may be taken by anyone of the crew."
        ),
    )


def flow_sentence(flow: Flow, path: str = "", layers: Layers = NO_LAYERS) -> Sentence:
    """What a flow does as a whole; its prompts have sentences of their own."""
    parts = [_t(f"People use it to {flow.purpose.says}.")]
    if flow.purpose is FlowPurpose.RECEIVE:
        parts += [
            _t(" A new plate "),
            Part("word", PLATE_BY[flow.plate_by], f"{path}/plate_by", "plate_by"),
            _t(". Scanning the next item "),
            _layered(NEXT_CONFIRMS, "next_item_confirms", flow.next_item_confirms, layers, path),
            _t("."),
        ]
    if flow.purpose is FlowPurpose.MOVE_GOODS:
        parts += [
            _t(" Where goods are taken from, "),
            Part("word", FROM_RULES.get(flow.from_rules, "?"), f"{path}/from_rules", "from_rules"),
            _t("."),
        ]
    if flow.purpose is FlowPurpose.MOVE_PLATES:
        parts += [_t(" "), Part("word", SEVERAL[flow.several], f"{path}/several", "several"), _t(" taken up.")]
    if flow.purpose in (FlowPurpose.MOVE_GOODS, FlowPurpose.MOVE_PLATES):
        parts += [
            _t(" Where it goes, "),
            Part("word", TO_RULES.get(flow.to_rules, "?"), f"{path}/to_rules", "to_rules"),
            _t("."),
        ]
    if flow.purpose in (FlowPurpose.PUT_AWAY, FlowPurpose.MOVE_GOODS, FlowPurpose.MOVE_PLATES):
        parts += [
            _t(" Another bin than the one shown "),
            _layered(OTHER_BIN, "other_bin", flow.other_bin, layers, path),
            _t("."),
        ]
    return tuple(parts)


def prompt_sentence(prompt: Prompt, path: str = "") -> Sentence:
    """One prompt of a flow in words."""
    parts: list[Part] = [_t(prompt.asks.says + " ")]
    if prompt.asks is Asks.QUANTITY:
        parts += [
            _t("is asked as a number; it proposes "),
            Part("word", PROPOSES[prompt.proposes], f"{path}/proposes", "proposes"),
        ]
    elif prompt.asks in (Asks.COUNT, Asks.PART):
        parts.append(_t("is asked as a number" if prompt.asks is Asks.COUNT else "is asked when the worker says so"))
    elif prompt.asks in (Asks.EXPIRY, Asks.LOT):
        parts += [
            _t("is asked for items tracked by it and "),
            Part("word", CHECK[prompt.check], f"{path}/check", "check"),
        ]
    else:
        parts.append(Part("word", CHECK[prompt.check], f"{path}/check", "check"))
    if prompt.asks in (Asks.ORDER, Asks.TASK):
        parts += [_t("; it is "), Part("word", SKIP[prompt.skip_single], f"{path}/skip_single", "skip_single")]
    parts.append(_t("."))
    return tuple(parts)


def list_title(purpose: BinPurpose) -> str:
    """Heading of a list of bin rules."""
    return PURPOSE_TITLES[purpose]
