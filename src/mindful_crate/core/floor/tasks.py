"""Tasks: work one person takes, a list of moves. What was asked for as it was made, and how far it is: two records, since only
the second changes."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime
from enum import StrEnum

from mindful_crate.core.catalog.amounts import Goods, portion
from mindful_crate.core.catalog.ids import (
    BinCode,
    CrewId,
    ItemCode,
    OrderNo,
    PersonId,
    PlateNo,
    ReceiptNo,
    RecipeId,
    RuleId,
    TaskNo,
)
from mindful_crate.core.catalog.refs import DocKind, LineKey, Ref, ref_to
from mindful_crate.core.memo import Memo
from mindful_crate.core.record import Word, evolve, record
from mindful_crate.core.rulebook.steps import Need


class TaskState(Word):
    """How far a task is."""

    OPEN = "open"
    TAKEN = "taken"
    DONE = "done"
    CANCELLED = "cancelled"

    @property
    def ended(self) -> bool:
        """Is there nothing left to do?"""
        return self in _ENDED


_ENDED = frozenset((TaskState.DONE, TaskState.CANCELLED))


class Do(StrEnum):
    """What one move is."""

    TAKE = "take"
    PLACE = "place"
    LOOK = "look"
    """Go there and say what is so; what was said is kept by whoever asked."""


@record
class Serves:
    """So much of a move is for an order line, in base units."""

    line: LineKey
    quantity: int


def divided(serves: tuple[Serves, ...], quantity: int) -> tuple[tuple[Serves, ...], tuple[Serves, ...]]:
    """The order lines that so much is for, the first lines first, and those that the rest is for."""
    first, rest = [], []
    for each in serves:
        part = min(each.quantity, quantity)
        quantity -= part
        if part:
            first.append(evolve(each, quantity=part))
        if each.quantity > part:
            rest.append(evolve(each, quantity=each.quantity - part))
    return tuple(first), tuple(rest)


def line_by_line(serves: Iterable[Serves]) -> tuple[Serves, ...]:
    """Each order line once, with all that is for it."""
    found: dict[LineKey, int] = {}
    for each in serves:
        found[each.line] = found.get(each.line, 0) + each.quantity
    return tuple(Serves(line, quantity) for line, quantity in found.items())


@record
class Move:
    """One take, place or look. ``at`` None: no rule found a bin, the worker chooses. With ``goods``, ``plate`` is what they
    are taken off; without, the whole plate is moved."""

    no: int
    do: Do
    at: BinCode | None
    goods: tuple[Goods, ...] = ()
    plate: PlateNo | None = None
    rule: RuleId | None = None
    share: int = 0
    """Of a place: so much of the goods goes there, the rest elsewhere; 0: all of it."""
    serves: tuple[Serves, ...] = ()
    """The order lines it is for, where goods go out."""


@record
class PartDone:
    """What was done of a move in one go."""

    move: int
    bin: BinCode
    quantity: int
    """In base units; of a whole plate, all that was on it and on plates on it."""
    plate: PlateNo | None = None
    """The plate it was put on."""
    reason: str = ""
    seq: int = 0
    """The entry that did it."""
    serials: tuple[str, ...] = ()
    """Which pieces were put there, of goods that are kept by serial numbers."""
    off: ItemCode | None = None
    """Goods of this item were taken off the plate that is moved, and put there; the rest of it goes on."""


LASTING = (Need.MOVE, Need.PICK, Need.REPLENISH)
"""What is done by these is not undone: it is moved back, or put back."""
AT_WORK = 5_000
"""So many tasks may be open at once and each is known again with every scan."""
_ORDERS = Memo(AT_WORK)
"""Whose goods a plan picks: asked several times with every scan of a task that may have hundreds of stops."""


@record
class Plan:
    """A task as it was made, for a crew. ``about`` are the documents it serves."""

    need: Need
    crew: CrewId | None
    moves: tuple[Move, ...]
    about: tuple[Ref, ...] = ()
    made: int = 0
    """The entry that made it."""
    plate: PlateNo | None = None
    """The plate that is moved as a whole, if it is one; it follows from ``moves``."""
    several: tuple[PlateNo, ...] = ()
    """The plates that are moved as a whole, if they are more than one; one is taken after another."""
    recipe: RecipeId | None = None
    """The recipe it was made by."""
    leg: int = 0
    """Which part of the way it is, by that recipe: so many hand-overs come before it."""
    behind: TaskNo | None = None
    """The task in the zone before, from which it is handed the totes."""

    @property
    def plates(self) -> tuple[PlateNo, ...]:
        """All plates that are moved as a whole."""
        return (self.plate,) if self.plate else self.several

    @property
    def from_bin(self) -> BinCode:
        """Where it begins."""
        found = self.moves[0].at
        assert found is not None
        return found

    @property
    def from_plate(self) -> PlateNo | None:
        """The plate that goods are taken off."""
        first = self.moves[0]
        return first.plate if first.goods else None

    @property
    def loose(self) -> tuple[Goods, ...]:
        """The loose goods it is about, wherever they are taken up or looked at."""
        return tuple(g for m in self.moves if m.do is Do.TAKE for g in m.goods) or self.moves[-1].goods

    @property
    def receipts(self) -> tuple[ReceiptNo, ...]:
        """The receipts of loose goods that are put away."""
        return tuple(ReceiptNo(r.number) for r in self.about if r.kind is DocKind.RECEIPT)

    @property
    def orders(self) -> tuple[OrderNo, ...]:
        """The orders whose goods are picked, in order; each has a tote of its own, by its place."""
        return _ORDERS.answer(
            self, "", lambda: tuple(dict.fromkeys(s.line.order for m in self.moves for s in m.serves))
        )

    @property
    def follows(self) -> tuple[Ref, ...]:
        """Those receipts, or the wave that is picked, or the plates that are moved, or from which goods are taken."""
        if receipts := self.receipts:
            return tuple(Ref(DocKind.RECEIPT, r) for r in receipts)
        if self.need is Need.PICK:
            return tuple(r for r in self.about if r.kind is DocKind.WAVE)
        plate = self.plate or self.from_plate
        return (Ref(DocKind.PLATE, plate),) if plate else tuple(Ref(DocKind.PLATE, p) for p in self.several)


Bound = tuple[tuple[BinCode, tuple[Goods, ...], tuple[PlateNo, ...]], ...]
"""Bins in which a task claims room, each once, with the loose goods and the whole plates that are to be placed there."""


def bound(remaining: tuple[Move, ...]) -> Bound:
    """Where moves still to do will place something."""
    found: Bound = ()
    for move in remaining:
        if move.do is Do.PLACE and move.at is not None:
            goods = portion(move.goods, move.share) if move.share else move.goods
            found = (*found, (move.at, goods, () if move.goods or move.plate is None else (move.plate,)))
    if len(found) < 2:
        return found
    by_bin: dict[BinCode, tuple[tuple[Goods, ...], tuple[PlateNo, ...]]] = {}
    for code, goods, plates in found:
        before = by_bin.get(code, ((), ()))
        by_bin[code] = (*before[0], *goods), (*before[1], *plates)
    return tuple((code, *what) for code, what in by_bin.items())


@record
class Tote:
    """The tote that goods of an order go into while they are picked; it is a plate once it stands somewhere. One that was handed on ``came`` to a bin, where it
    waits until it is ``taken`` along."""

    order: OrderNo
    plate: PlateNo
    came: BinCode | None = None
    taken: bool = False

    @property
    def waits(self) -> bool:
        """Is it still to be taken up?"""
        return self.came is not None and not self.taken


@record
class Going:
    """How far a task is: the moves still to do, each with where it goes now and what is left of it, and loose goods in
    hands. ``bound`` follows from ``remaining``."""

    state: TaskState
    remaining: tuple[Move, ...]
    bound: Bound = ()
    hands: tuple[Goods, ...] = ()
    person: PersonId | None = None
    taken: int = 0
    """The entry in which somebody took it."""
    again: tuple[int, ...] = ()
    """Entries that gave it another bin."""
    crew: CrewId | None = None
    """Whose it is now."""
    held: str = ""
    """Why nobody may take it, when it is held."""
    priority: int = 0
    """Higher comes first."""
    cancelled: int = 0
    """The entry that cancelled it."""
    parts: tuple[PartDone, ...] = ()
    """What was done, in the order it was done; that a whole plate was taken, ``taken`` says."""
    shown: Move | None = None
    """Once all is done: the last place, as it was shown."""
    whose: PersonId | None = None
    """Who alone may take it; None: anybody of its crew."""
    at_minute: int | None = None
    """It is held until this minute of the day, the next one after ``since``."""
    since: datetime | None = None
    totes: tuple[Tote, ...] = ()
    """Of what is picked: which tote is whose."""

    @property
    def place(self) -> Move | None:
        """The next place to go to: with what is carried, else with what is to be taken next."""
        first = None
        for move in self.remaining:
            if move.do is Do.PLACE:
                first = first or move
                if self.has_taken(move):
                    return move
        return first

    def has_taken(self, place: Move) -> bool:
        """Is what is to be placed there in hands?"""
        whole = None if place.goods else place.plate
        return not any(m.do is Do.TAKE and (None if m.goods else m.plate) == whole for m in self.remaining)

    @property
    def carried(self) -> tuple[PlateNo, ...]:
        """The whole plates that are in hands, with totes that are taken along."""
        if self.state is not TaskState.TAKEN:
            return ()
        places = (m for m in self.remaining if m.do is Do.PLACE and not m.goods)
        along = tuple(t.plate for t in self.totes if t.taken) if self.totes else ()
        return (*(m.plate for m in places if m.plate and self.has_taken(m)), *along)


@record
class Task:
    """A task as a whole."""

    number: TaskNo
    plan: Plan
    going: Going

    @property
    def ref(self) -> Ref:
        """Its name."""
        return ref_to(DocKind.TASK, self.number)

    @property
    def follows(self) -> tuple[Ref, ...]:
        """What it follows from."""
        return self.plan.follows

    @property
    def placed(self) -> tuple[PartDone, ...]:
        """What was placed, share by share."""
        places = {m.no for m in self.plan.moves if m.do is Do.PLACE}
        return tuple(p for p in self.going.parts if p.move in places)

    @property
    def plate(self) -> PlateNo | None:
        """The plate that is moved as a whole; of several, the one whose turn it is."""
        if not self.plan.several:
            return self.plan.plate
        move = self.going.place or self.going.shown
        return move.plate if move else None

    @property
    def from_bin(self) -> BinCode:
        """Where it begins; of several plates, where the one stood whose turn it is."""
        if self.plan.several:
            return next(
                (m.at for m in self.plan.moves if m.do is Do.TAKE and m.plate == self.plate and m.at),
                self.plan.from_bin,
            )
        return self.plan.from_bin

    @property
    def in_hands(self) -> bool:
        """Does who took it carry something of it?"""
        place = self.going.place
        return self.state is TaskState.TAKEN and place is not None and self.going.has_taken(place)

    @property
    def from_plate(self) -> PlateNo | None:
        """The plate that goods are taken off."""
        return self.plan.from_plate

    @property
    def need(self) -> Need:
        """What it is for."""
        return self.plan.need

    @property
    def receipts(self) -> tuple[ReceiptNo, ...]:
        """The receipts of loose goods that are put away."""
        return self.plan.receipts

    @property
    def made(self) -> int:
        """The entry that made it."""
        return self.plan.made

    @property
    def crew(self) -> CrewId | None:
        """Whose it is now."""
        return self.going.crew

    @property
    def state(self) -> TaskState:
        """How far it is."""
        return self.going.state

    @property
    def person(self) -> PersonId | None:
        """Who took it."""
        return self.going.person

    @property
    def goods(self) -> tuple[Goods, ...]:
        """What is still to be placed, when it is no plate."""
        place = self.going.place
        return place.goods if place else ()

    @property
    def to_bin(self) -> BinCode | None:
        """Where it goes now; when it is done, where it was to go."""
        place = self.going.place or self.going.shown
        return place.at if place else None

    @property
    def rule(self) -> RuleId | None:
        """The rule that chose that bin."""
        place = self.going.place or self.going.shown
        return place.rule if place else None

    @property
    def taken(self) -> int:
        """The entry in which somebody took it."""
        return self.going.taken

    @property
    def again(self) -> tuple[int, ...]:
        """Entries that gave it another bin."""
        return self.going.again

    @property
    def whose(self) -> PersonId | None:
        """Who alone may take it; None: anybody of its crew."""
        return self.going.whose

    @property
    def held(self) -> str:
        """Why nobody may take it, or why it was cancelled."""
        return self.going.held

    @property
    def priority(self) -> int:
        """Higher comes first."""
        return self.going.priority

    @property
    def cancelled(self) -> int:
        """The entry that cancelled it."""
        return self.going.cancelled

    @property
    def placed_in(self) -> BinCode | None:
        """Where the last share was placed."""
        placed = self.placed
        return placed[-1].bin if placed else None
