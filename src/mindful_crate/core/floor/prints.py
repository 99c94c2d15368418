"""Labels that were sent to printers, and how the printers are. Printing takes no entry of its own: when a label comes out
follows from when it was sent and how its printer was set since."""

from __future__ import annotations

from bisect import bisect_left, bisect_right, insort
from collections.abc import Iterator
from datetime import datetime, timedelta
from typing import Any, Literal

from mindful_crate.core.catalog.ids import LabelRuleId, PersonId, PrinterCode
from mindful_crate.core.floor.keeper import Journal, Keeper
from mindful_crate.core.floor.pages import PaperPage
from mindful_crate.core.record import Word, evolve, record

TRAY = 200
"""So many labels that were printed last are kept; the oldest leave the tray."""
SLOW_SECONDS = 20
"""A slow printer takes so long for a label."""


class Condition(Word):
    """How a printer stand-in is."""

    READY = "ready"
    SLOW = "slow"
    NO_PAPER = "no_paper"
    OFF = "off"


STOPPED = {Condition.NO_PAPER: "has no paper", Condition.OFF: "does not answer"}
"""What is said of a printer that prints nothing."""
LabelOf = Literal["plate", "item", "bin", "cart", "printer", "badge", "number", "paper", "content", "page"]
Elements = tuple[tuple[str, str], ...]
"""GS1 application identifiers and values."""


@record
class Label:
    """One label as it is printed: ``title`` large, lines below, and a barcode of ``code``, or of GS1 ``elements``. ``also`` are
    the elements of a second one. A paper has ``pages`` instead, as they were when it was printed."""

    of: LabelOf
    code: str
    title: str
    lines: tuple[str, ...] = ()
    elements: Elements = ()
    also: Elements = ()
    pages: tuple[PaperPage, ...] = ()


@record
class Print:
    """Labels sent together. ``due`` is when they are printed; None while nothing prints them, for the reason ``why``."""

    number: str
    labels: tuple[Label, ...]
    copies: int
    by: PersonId
    sent: datetime
    seq: int
    turn: int
    printer: PrinterCode | None = None
    rule: LabelRuleId | None = None
    due: datetime | None = None
    why: str = ""

    @property
    def is_paper(self) -> bool:
        """Is it pages, and no labels?"""
        return bool(self.labels[0].pages)

    @property
    def count(self) -> int:
        """How many labels come out, or how many times a paper."""
        return len(self.labels) * self.copies

    def printed(self, now: datetime) -> bool:
        """Did they come out?"""
        return self.due is not None and self.due <= now


Place = tuple[int, int, str]
"""Where a print stands in the order of sending: entry, turn within it, number."""


class Prints(Keeper[str, Print]):
    """What was sent, in order; what waits is never let go. However much waits, sending and setting cost what they touch."""

    def __init__(self, journal: Journal) -> None:
        super().__init__(journal)
        self.conditions: Keeper[PrinterCode, Condition] = Keeper(journal)
        """How printers are that are not just ready."""
        self._order: list[Place] = []
        self._waits: dict[PrinterCode | None, list[Place]] = {}
        """What nothing prints, by its printer."""
        self._due: dict[PrinterCode | None, list[tuple[datetime, *Place]]] = {}
        """What is printed or being printed, by its printer, the first to come out first."""
        self._timed: list[tuple[datetime, *Place]] = []
        """The same of all printers."""

    def changed(self, key: str, before: Print | None, after: Print | None) -> None:
        """Its place in the order of sending, and among what waits or is printed."""
        for each, put in ((before, _out), (after, insort)):
            if each is None:
                continue
            place = (each.seq, each.turn, key)
            put(self._order, place)
            if each.due is None:
                put(self._waits.setdefault(each.printer, []), place)
            else:
                put(self._due.setdefault(each.printer, []), (each.due, *place))
                put(self._timed, (each.due, *place))

    def latest(self) -> Iterator[Print]:
        """All of them, the latest first."""
        return (self[number] for _, _, number in reversed(self._order))

    def condition(self, printer: PrinterCode) -> Condition:
        """How a printer is."""
        return self.conditions.get(printer) or Condition.READY

    def waiting(self, printer: PrinterCode) -> int:
        """How many wait for a printer."""
        return len(self._waits.get(printer, ()))

    def all_waiting(self) -> list[Print]:
        """All that nothing prints, in the order they were sent."""
        return [self[number] for _, _, number in sorted(p for places in self._waits.values() for p in places)]

    def send(self, made: Print, now: datetime) -> None:
        """Hand it to its printer; the oldest that were printed leave the tray."""
        self.put(made.number, self._handed(made, now))
        over = bisect_right(self._timed, now, key=lambda timed: timed[0]) - TRAY
        for *_, number in self._timed[: max(over, 0)]:
            self.put(number, None)

    def set(self, printer: PrinterCode, condition: Condition, now: datetime) -> None:
        """A printer is otherwise from now on: what it has not printed yet waits, or is printed one after another."""
        self.conditions.put(printer, None if condition is Condition.READY else condition)
        timed = self._due.get(printer, [])
        printing = [(seq, turn, number) for at, seq, turn, number in timed if at > now]
        unprinted = sorted([*self._waits.get(printer, ()), *printing])
        for _, _, number in printing:
            self.put(number, evolve(self[number], due=None, why=""))
        for _, _, number in unprinted:
            self.put(number, self._handed(self[number], now))

    def _handed(self, made: Print, now: datetime) -> Print:
        if made.printer is None:
            return evolve(made, due=None, why=made.why)
        condition = self.condition(made.printer)
        if condition in STOPPED:
            return evolve(made, due=None, why=f"`{made.printer}` {STOPPED[condition]}")
        before = self._due.get(made.printer)
        begins = max(before[-1][0], now) if before else now
        takes = timedelta(seconds=SLOW_SECONDS * made.count) if condition is Condition.SLOW else timedelta()
        return evolve(made, due=begins + takes, why="")


def _out(places: list[Any], place: Any) -> None:
    """Take one out of those in order."""
    del places[bisect_left(places, place)]
