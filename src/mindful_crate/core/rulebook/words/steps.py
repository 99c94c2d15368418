"""Step plans in sentences."""

from __future__ import annotations

from collections.abc import Iterable

from mindful_crate.core.catalog.ids import CrewId
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.flows import Crew
from mindful_crate.core.rulebook.orders import OrderClass
from mindful_crate.core.rulebook.steps import (
    ANYTHING,
    EXACT,
    Begins,
    BookingPoint,
    DeliveryNote,
    Found,
    Only,
    Over,
    Place,
    ReceiptBy,
    StepPlan,
    Tolerance,
)
from mindful_crate.core.rulebook.words.parts import NO_LAYERS, ORDERS, Layers, Names, Part, Sentence, just, layered

BOOKING = {
    BookingPoint.LINE_CONFIRMED: "line by line as loose goods are confirmed, and when a plate is finished",
    BookingPoint.PLATE_FINISHED: "when the plate or receipt is finished",
    BookingPoint.LINES_DONE: "when nothing of their orders is open any more",
    BookingPoint.LINES_ASKED: "when nothing of their orders is open any more, now or later as who finishes it says",
    BookingPoint.PUT_AWAY: "when the goods are put away",
    BookingPoint.BY_HAND: "by hand, from the office",
}
BEGINS = {
    Begins.ON_ARRIVAL: "by itself",
    Begins.ON_DEMAND: "on demand, when the office asks or somebody scans the goods",
    Begins.ON_NEED: "on need, when a step farther on lacks the goods",
}
DOCUMENT = {
    ReceiptBy.FIRST_SCAN: "is made by the first scan",
    ReceiptBy.OFFICE: "is made in the office first",
    ReceiptBy.NEVER: "is never made",
}
UNDO = {False: "cannot be undone", True: "may be undone as long as nothing after it has begun"}
ANNOUNCED = {False: "They may come unannounced", True: "They are received only once a notice announces them"}
UNLOADED = {False: "There is no step to unload them", True: "They are unloaded"}
INSPECTED = {False: "There is no inspection", True: "They are inspected"}
OVER = {
    Over.REFUSE: "is refused",
    Over.WARN: "is taken after a warning",
    Over.ACCEPT: "is taken",
    Over.HOLD: "is held apart until the office decides",
}
NOTE = {
    DeliveryNote.NO: "is not asked for",
    DeliveryNote.OPTIONAL: "may be given",
    DeliveryNote.REQUIRED: "must be given",
}
SENDS = {False: "cannot decide otherwise", True: "may send it in or past"}
PUT_AWAY = {False: "They stay there", True: "They are put away"}
ONLY_TITLES = {
    "item": "an item",
    "group": "an item group",
    "partner": "a partner",
    "partner_group": "a group of partners",
    "order_class": "a class of orders",
}
ANY_CREW = "any crew that has a flow for it"


def place_told(at: Place, names: Names, otherwise: str = "the bin the rules choose") -> str:
    """Where a step happens: ``RCV-01`` in backticks, ``the first free bin of Receiving``, or what the rules choose."""
    if not isinstance(at, Found):
        return f"`{at}`"
    return f"the first bin of {names.zone(at.zone)} that has room" if at.zone else otherwise


def only_told(only: Only, names: Names) -> str:
    """What a plan is for alone; empty when it is for anything."""
    if only.item is not None:
        return names.item(only.item)
    if only.partner is not None:
        return names.partner(only.partner)
    if only.order_class is not None:
        return f"class {names.order_class(only.order_class)}"
    return only.group or (f"partners of {only.partner_group}" if only.partner_group else "")


def every_told(every: int) -> str:
    """Which receipts are inspected."""
    if every == 1:
        return "every receipt"
    ending = "th" if every % 100 in (11, 12, 13) else {1: "st", 2: "nd", 3: "rd"}.get(every % 10, "th")
    return f"every {every}{ending} receipt of an item from a partner"


def sample_told(sample: int) -> str:
    """How much of it is looked at."""
    if not sample:
        return "all is looked at"
    return f"{sample:,} base units are looked at, all if one of them is not as it should be"


def scope_told(plan: StepPlan, names: Names) -> str:
    """Which goods a plan is for: ``purchase orders``, ``transfers of Rope``."""
    orders = ORDERS[plan.order_kind].lower() if plan.order_kind else "all orders"
    told = only_told(plan.only, names)
    link = " of " if plan.only.partner is None and plan.only.partner_group is None else " with "
    return f"{orders}{link}{told}" if told else orders


class Lines:
    """A sentence in the making, line by line: a line a step."""

    def __init__(self, path: str, names: Names | None, crews: Iterable[Crew]) -> None:
        self.path = path
        self.names = names
        self.crews = {c.id: c.name for c in crews}
        self.parts: list[Part] = []

    def line(self, lead: Part, out: bool = False) -> None:
        """A new line, set in unless it is ``out``."""
        self.parts.append(Part(lead.kind, lead.text, lead.path, lead.field, line="out" if out else "in"))

    def word(self, text: str, at: str, field: str) -> Part:
        """A word that can be changed, ``at`` a place within."""
        return Part("word", text, f"{self.path}/{at}", field)

    def say(self, *parts: Part | str) -> None:
        """On the same line."""
        self.parts += [just(p) if isinstance(p, str) else p for p in parts]

    def place(self, at: Place, path: str, field: str) -> Part:
        """Where a step happens."""
        told = place_told(at, self.names) if self.names else str(at)
        return self.word(told.strip("`"), path, field)

    def crew(self, crew: CrewId | None, path: str) -> Part:
        """Who does it."""
        told = self.crews.get(crew, f"{crew} (missing)") if crew else ANY_CREW
        return self.word(told, path, "step_crew")


def plan_sentence(
    plan: StepPlan, path: str = "", layers: Layers = NO_LAYERS, ground: Ground | None = None, crews: Iterable[Crew] = (),
    classes: Iterable[OrderClass] = (),
) -> Sentence:  # fmt: skip
    """One step plan in words, a line a step; ``layers`` are the settings and the site they are asked for."""
    says = Lines(path, Names(ground, classes) if ground else None, crews)
    says.say(says.word(ORDERS[plan.order_kind] if plan.order_kind else "All orders", "order_kind", "order_kind"))
    say_only(says, plan.only)
    says.say("." if plan.on else ". Switched off: it is for nothing. ")
    says.line(says.word(ANNOUNCED[plan.announce.on], "announce/on", "announce_on"))
    says.say(". ")
    unload, receive, inspect, away = plan.unload, plan.receive, plan.inspect, plan.put_away
    says.line(says.word(UNLOADED[unload.on], "unload/on", "unload_on"))
    if unload.on:
        says.say(
            " at ", says.place(unload.at, "unload/at", "unload_at"), ", by ", says.crew(unload.crew, "unload/crew")
        )
        says.say("; this ", says.word(UNDO[unload.undo], "unload/undo", "undo"))
    says.say(". ")
    says.line(just("They are received into "))
    says.say(says.place(receive.into, "receive/into", "receive_into"), ", by ", says.crew(receive.crew, "receive/crew"))
    says.say(". The receipt ", says.word(DOCUMENT[receive.document], "receive/document", "receipt_by"))
    says.say("; this ", says.word(UNDO[receive.undo], "receive/undo", "undo"))
    says.say(". More than ordered ", says.word(OVER[receive.over], "receive/over", "over"))
    if receive.over is not Over.REFUSE:
        says.say(", up to ")
        _tolerance(says, receive.more, "receive/more", "nothing more yet", "so much more")
    if receive.less == EXACT:
        says.say(". The rest of a line is waited for")
        says.parts.append(Part("add", "unless little lacks", f"{path}/receive/less", "tolerance"))
    else:
        says.say(". The rest of a line is not waited for when no more lacks than ")
        _tolerance(says, receive.less, "receive/less", "", "or so much")
    says.say(". A delivery note ", says.word(NOTE[receive.note], "receive/note", "delivery_note"), ". ")
    says.line(says.word(INSPECTED[inspect.on], "inspect/on", "inspect_on"))
    if inspect.on:
        says.say(
            " at ", says.place(inspect.at, "inspect/at", "inspect_at"), ", by ", says.crew(inspect.crew, "inspect/crew")
        )
        says.say(". It begins ", says.word(BEGINS[inspect.begins], "inspect/begins", "begins"))
        says.say("; of ", says.word(every_told(inspect.every), "inspect/every", "every"))
        says.say(", ", says.word(sample_told(inspect.sample), "inspect/sample", "sample"))
        says.say("; who finishes it ", says.word(SENDS[inspect.sends], "inspect/sends", "sends"))
        says.say("; this ", says.word(UNDO[inspect.undo], "inspect/undo", "undo"))
    says.say(". ")
    says.line(says.word(PUT_AWAY[away.on], "put_away/on", "put_away_on"))
    if away.on:
        says.say(" into ", says.place(away.at, "put_away/at", "put_away_at"))
        says.say(
            ", by the crews of the recipes. It begins ", says.word(BEGINS[away.begins], "put_away/begins", "begins")
        )
        says.say("; this ", says.word(UNDO[away.undo], "put_away/undo", "undo"))
    says.say(". ")
    says.line(just("The host is told "), out=True)
    says.say(layered(BOOKING, "booking", plan.booking, layers, path), ".")
    return tuple(says.parts)


def _tolerance(says: Lines, tolerance: Tolerance, path: str, nothing: str, add: str) -> None:
    """``5 % of it or 3 base units``: what is said of it, and what could be."""
    parts: list[Part | str] = (
        [says.word(f"{tolerance.percent} % of it", f"{path}/percent", "percent")] if tolerance.percent else []
    )
    if tolerance.units:
        parts += [" or "] if parts else []
        parts.append(says.word(f"{tolerance.units:,} base units", f"{path}/units", "units"))
    says.say(*(parts or [nothing]))
    if not (tolerance.percent and tolerance.units):
        says.parts.append(Part("add", add, f"{says.path}/{path}", "tolerance"))


def say_only(says: Lines, only: Only) -> None:
    """What a plan is for alone, or that it may be for some alone."""
    if only == ANYTHING:
        says.say(Part("add", "only for", f"{says.path}/only", "only"))
        return
    for name in only.named:
        value = str(getattr(only, name))
        told = only_told(evolve(ANYTHING, **{name: value}), says.names) if says.names else value
        says.say(
            ", only of " if name in ("item", "group", "order_class") else ", only with ",
            says.word(told, f"only/{name}", name),
        )
