"""The rulebook in sentences, written from the data.

A sentence is a row of parts: plain text, and *words* that carry the path of the field they stand for, so that
the studio can edit them in place. The why trail, findings and comparison use the same sentences.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from typing import Literal

from mindful_crate.core.catalog.goods import OrderKind
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.bin_rules import (
    BinRule,
    BinRuleList,
    IfNothing,
    LookIn,
    Prefer,
    Target,
    UnitForm,
    Wants,
)
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Asks, Check, Flow, FlowPurpose, OtherBin, PlateBy, Prompt, Proposes
from mindful_crate.core.rulebook.steps import BookingPoint, Recipe, StepPlan


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
}
ORDERS = {
    OrderKind.PURCHASE: "Purchase orders",
    OrderKind.TRANSFER: "Transfers",
    OrderKind.PRODUCTION: "Production output",
    OrderKind.CUSTOMER_RETURN: "Announced returns",
}
UNIT_FORMS = {UnitForm.WHOLE_PLATE: "A whole plate", UnitForm.CASE: "Full cases", UnitForm.EACH: "Single pieces"}
WANTS = {
    Wants.SAME_ITEM_AND_LOT: "a bin that holds the same item and lot",
    Wants.SAME_ITEM: "a bin that holds the same item",
    Wants.EMPTY: "an empty bin",
    Wants.ANY: "any bin that fits",
}
PREFER = {
    Prefer.WALK_ORDER: "in walk order",
    Prefer.NEAREST_DOOR: "nearest to where it was received",
    Prefer.LOWEST_LEVEL: "lowest level first",
    Prefer.FULLEST: "fullest first",
    Prefer.EMPTIEST: "emptiest first",
}
IF_NOTHING = {IfNothing.NEXT_RULE: "the next rule is asked", IfNothing.ASK: "the worker is asked"}
ON_OFF = {True: "on", False: "off"}
BOOKING = {
    BookingPoint.PLATE_FINISHED: "when the plate is finished",
    BookingPoint.PUT_AWAY: "when the goods are put away",
    BookingPoint.BY_HAND: "by hand, from the office",
}
PLATE_BY = {PlateBy.MADE: "gets the site's next number", PlateBy.ASKED: "is asked from the worker, who scans a label"}
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
PURPOSES = {FlowPurpose.RECEIVE: "receive goods onto a license plate", FlowPurpose.PUT_AWAY: "put plates away"}
ASKS = {
    Asks.ORDER: "The order",
    Asks.PLATE: "The plate",
    Asks.ITEM: "The item",
    Asks.EXPIRY: "The expiry date",
    Asks.LOT: "The lot",
    Asks.QUANTITY: "The quantity",
    Asks.TASK: "The plate to put away",
    Asks.BIN: "The bin",
}


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

    def _name(self, known: object, code: str) -> str:
        found = known.get(code)  # type: ignore[attr-defined]
        return found.name if found else f"{code} (missing)"


def rule_sentence(rule: BinRule, names: Names, path: str = "") -> Sentence:
    """One bin rule, every field that matters in words."""
    return (*_conditions(rule, names, f"{path}/applies"), *_targets(rule, names, path), *_ending(rule, path))


def _conditions(rule: BinRule, names: Names, path: str) -> list[Part]:
    c = rule.applies
    parts: list[Part] = []

    def word(field: str, values: Sequence[str], name: Callable[[str], str], lead: str) -> None:
        if values:
            parts.extend([_t(lead), Part("word", any_of(map(name, values)), f"{path}/{field}", field)])

    forms = [UNIT_FORMS[f] for f in c.unit_forms]
    if forms:
        parts.append(Part("word", _first_large(any_of(forms)), f"{path}/unit_forms", "unit_forms"))
    elif any((c.items, c.groups, c.hazard_classes, c.order_kinds, c.partners)):
        parts.append(_t("Goods"))
    else:
        return [Part("word", "Anything", path, "conditions"), _t(" goes to ")]
    word("groups", c.groups, str, " of ")
    word("items", c.items, names.item, " of " if not c.groups else ", namely ")
    word("hazard_classes", c.hazard_classes, lambda h: f"hazard class {h}", " of ")
    word("order_kinds", [ORDER_KINDS[k] for k in c.order_kinds], str, " from ")
    word("partners", c.partners, names.partner, " supplied by ")
    parts.append(Part("add", "and when", path, "conditions"))
    single = len(forms) == 1 and c.unit_forms[0] is UnitForm.WHOLE_PLATE
    parts.append(_t(" goes to " if single else " go to "))
    return parts


def _first_large(text: str) -> str:
    first, *rest = text.split(" or ")
    return " or ".join([first, *(r[0].lower() + r[1:] for r in rest)])


def _targets(rule: BinRule, names: Names, path: str) -> list[Part]:
    parts: list[Part] = []
    for n, target in enumerate(rule.targets):
        at = f"{path}/targets/{target.id}"
        look_in = _look_in(target.look_in, names, f"{at}/look_in")
        if n and target.look_in == rule.targets[n - 1].look_in:
            look_in = [Part("word", "there", look_in[-1].path, look_in[-1].field)]
        if n:
            parts.append(_t("; if there is none, "))
        parts += [
            *look_in,
            _t(", "),
            Part("word", WANTS[target.wants], f"{at}/wants", "wants"),
            _t(", "),
            Part("word", prefer_words(target), f"{at}/prefer", "prefer"),
        ]
    return parts or [_t("no place yet")]


def prefer_words(target: Target) -> str:
    """The order of preference of a target in words."""
    return ", then ".join(PREFER[p] for p in target.prefer) or "in order of the bin code"


def _look_in(look_in: LookIn, names: Names, path: str) -> list[Part]:
    parts: list[Part] = []

    def word(field: str, text: str, lead: str) -> None:
        parts.extend([_t(lead), Part("word", text, f"{path}/{field}", field)])

    if look_in.zones:
        word("zones", any_of(map(names.zone, look_in.zones)), "")
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


def _ending(rule: BinRule, path: str) -> list[Part]:
    return [
        _t(", all in one bin. If nothing fits, "),
        Part("word", IF_NOTHING[rule.if_nothing], f"{path}/if_nothing", "if_nothing"),
        _t("." if rule.on else ". Switched off: it is passed over."),
    ]


def plan_sentence(plan: StepPlan, path: str = "") -> Sentence:
    """One step plan in words."""
    parts = [
        Part("word", ORDERS[plan.order_kind] if plan.order_kind else "All orders", f"{path}/order_kind", "order_kind"),
        _t(" are received onto plates that stand in "),
        Part("word", plan.receive.into, f"{path}/receive/into", "receiving_bins"),
        _t(". Then they "),
        Part(
            "word",
            "are put away by the bin rules" if plan.put_away.on else "stay there",
            f"{path}/put_away/on",
            "put_away_on",
        ),
        _t(". The host is told "),
        Part("word", BOOKING[plan.booking], f"{path}/booking", "booking"),
        _t("."),
    ]
    return tuple(parts)


def recipe_sentence(recipe: Recipe, rulebook: Rulebook) -> Sentence:
    """One recipe in words; read-only for now, so without live words."""
    crew = next((c.name for c in rulebook.crews if c.id == recipe.crew), f"{recipe.crew} (missing)")
    return (
        _t(
            f"Each finished plate that is to be put away becomes one task for {crew}: take the plate where it was "
            "received, place it in the bin the rules choose. It starts at once and may be taken by anyone of the crew."
        ),
    )


def flow_sentence(flow: Flow, path: str = "") -> Sentence:
    """What a flow does as a whole; its prompts have sentences of their own."""
    parts = [_t(f"People use it to {PURPOSES[flow.purpose]}.")]
    if flow.purpose is FlowPurpose.RECEIVE:
        parts += [
            _t(" A new plate "),
            Part("word", PLATE_BY[flow.plate_by], f"{path}/plate_by", "plate_by"),
            _t(". Scanning the next item "),
            Part("word", NEXT_CONFIRMS[flow.next_item_confirms], f"{path}/next_item_confirms", "next_item_confirms"),
            _t("."),
        ]
    else:
        parts += [
            _t(" Another bin than the one shown "),
            Part("word", OTHER_BIN[flow.other_bin], f"{path}/other_bin", "other_bin"),
            _t("."),
        ]
    return tuple(parts)


def prompt_sentence(prompt: Prompt, path: str = "") -> Sentence:
    """One prompt of a flow in words."""
    parts: list[Part] = [_t(ASKS[prompt.asks] + " ")]
    if prompt.asks is Asks.QUANTITY:
        parts += [
            _t("is asked as a number; it proposes "),
            Part("word", PROPOSES[prompt.proposes], f"{path}/proposes", "proposes"),
        ]
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


def list_title(rules: BinRuleList) -> str:
    """Heading of a list of bin rules."""
    return {"put_away": "Where goods are put away"}[rules.purpose.value]
