"""Tasks: work one person takes, a list of moves. What was asked for as it was made, and how far it is: two records, since only
the second changes."""

from __future__ import annotations

from bisect import bisect_left, insort
from collections.abc import Callable, Iterable, Iterator
from enum import StrEnum
from heapq import merge
from itertools import islice
from typing import cast

from mindful_crate.core.catalog.amounts import Goods, portion
from mindful_crate.core.catalog.ids import (
    BinCode,
    CrewId,
    ItemCode,
    PersonId,
    PlateNo,
    ReceiptNo,
    RecipeId,
    RuleId,
    TaskNo,
)
from mindful_crate.core.catalog.refs import DocKind, Ref, ref_to
from mindful_crate.core.floor.bins import Bins
from mindful_crate.core.floor.keeper import Journal
from mindful_crate.core.floor.past import Leaving, Past
from mindful_crate.core.record import Word, maker, record
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
    def follows(self) -> tuple[Ref, ...]:
        """Those receipts, or the plates that are moved, or from which goods are taken."""
        if receipts := self.receipts:
            return tuple(Ref(DocKind.RECEIPT, r) for r in receipts)
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
        """The whole plates that are in hands."""
        if self.state is not TaskState.TAKEN:
            return ()
        places = (m for m in self.remaining if m.do is Do.PLACE and not m.goods)
        return tuple(m.plate for m in places if m.plate and self.has_taken(m))


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


_task: Callable[..., Task] = maker(Task)


class _Plans(Leaving[TaskNo, Plan]):
    def __init__(self, journal: Journal, recall: Callable[[TaskNo], Plan | None]) -> None:
        super().__init__(journal, recall)
        self.of_plate: dict[PlateNo, list[tuple[int, int, TaskNo]]] = {}

    def changed(self, key: TaskNo, before: Plan | None, after: Plan | None) -> None:
        if before is not None:
            for plate in before.plates:
                self.of_plate[plate].remove((before.made, len(key), key))
                if not self.of_plate[plate]:
                    del self.of_plate[plate]
        if after is not None:
            for plate in after.plates:
                insort(self.of_plate.setdefault(plate, []), (after.made, len(key), key))


class Tasks:
    """All tasks: who may take which, who carries what, and which bins they are on their way to. One that is done or
    cancelled is settled."""

    def __init__(self, journal: Journal, bins: Bins, past: Past, drawn: Callable[[str], bool]) -> None:
        self.bins = bins
        self.past = past
        self._drawn = drawn
        """Was a number drawn for a task?"""
        self.plans = _Plans(journal, self._plan)
        self.going = Leaving[TaskNo, Going](journal, self._going, self.went_on)
        self._open: dict[tuple[CrewId | None, Need], list[tuple[int, TaskNo]]] = {}
        """Those that may be taken, by priority and number, so that the first of many is found without looking at the rest;
        the same for ``_loose``."""
        self._loose: dict[tuple[CrewId | None, Need, ItemCode | None], list[tuple[int, TaskNo]]] = {}
        """Open tasks for loose goods, all of them and by item."""
        self._carried: dict[PersonId, dict[TaskNo, None]] = {}
        self._unplaced: dict[ReceiptNo, int] = {}

    def _settled(self, number: TaskNo) -> Task | None:
        return cast(Task | None, self.past.find(Ref(DocKind.TASK, number)))

    def _plan(self, number: TaskNo) -> Plan | None:
        found = self._settled(number)
        return found.plan if found else None

    def _going(self, number: TaskNo) -> Going | None:
        found = self._settled(number)
        return found.going if found else None

    def get(self, number: TaskNo) -> Task | None:
        """A task as a whole, settled or not."""
        plan = self.plans.here(number)
        return self._settled(number) if plan is None else _task(number, plan, self.going[number])

    def __getitem__(self, number: TaskNo) -> Task:
        """A task that is there, settled or not."""
        found = self.get(number)
        if found is None:
            raise KeyError(number)
        return found

    def has_task(self, number: TaskNo) -> bool:
        """Is there a task of that number, settled or not? Asked of whatever is scanned."""
        return self.plans.here(number) is not None or (self._drawn(number) and self._settled(number) is not None)

    def __len__(self) -> int:
        """How many there are that are not settled."""
        return len(self.plans)

    def values(self) -> Iterator[Task]:
        """The tasks that are not settled, by number."""
        return (self[n] for n in self.plans)

    def every(self, most: int | None = None) -> list[Task]:
        """All tasks by number; of the settled ones the last so many, or all."""
        settled = cast(list[Task], self.past.latest(DocKind.TASK, most))
        here = list(self.values())
        return sorted([*here, *(t for t in settled if self.plans.here(t.number) is None)], key=lambda t: t.number)

    def task_of(self, plate: PlateNo) -> Task | None:
        """The latest task of a plate."""
        known = self.plans.of_plate.get(plate)
        if known:
            return self[known[-1][2]]
        return cast(Task | None, self.past.last(DocKind.TASK, Ref(DocKind.PLATE, plate)))

    def following(self, plates: Iterable[PlateNo], receipts: Iterable[ReceiptNo]) -> list[Task]:
        """The tasks that have not ended of whole plates, or of loose goods of receipts, by number."""
        found = {n for plate in plates for _, _, n in self.plans.of_plate.get(plate, ())}
        wanted = {r for r in receipts if self._unplaced.get(r)}
        if wanted:
            found.update(n for n, plan in self.plans.items() if wanted & set(plan.receipts))
        return [task for task in (self[n] for n in sorted(found)) if not task.state.ended]

    def busy_with(self, plate: PlateNo) -> bool:
        """Is there a task of a plate that is not settled?"""
        return plate in self.plans.of_plate

    def leaving(self) -> list[Task]:
        """Those that are settled, which are here no more."""
        may, here, of_plate = self.going.may_leave, self.going.here, self.plans.of_plate
        numbers = sorted(may) if len(may) > 1 else list(may)
        may.clear()
        found = []
        for number in numbers:
            now = here(number)
            if now is None or now.state not in _ENDED:
                continue
            plan = self.plans.drop(number)
            self.going.drop(number)  # one that has ended is in none of the indexes
            for plate in plan.plates:
                if len(of_plate[plate]) > 1:
                    of_plate[plate].remove((plan.made, len(number), number))
                else:
                    del of_plate[plate]
            found.append(_task(number, plan, now))
        return found

    def unplaced(self, receipt: ReceiptNo) -> int:
        """How many tasks for loose goods of a receipt are not done."""
        return self._unplaced.get(receipt, 0)

    def open_count(self, crews: Iterable[CrewId | None], need: Need) -> int:
        """How many open tasks of a need there are that these crews may take."""
        return sum(len(self._open.get((c, need), ())) for c in set(crews))

    def open_tasks(self, crews: Iterable[CrewId | None], need: Need, most: int | None = None) -> list[Task]:
        """Open tasks of a need that these crews may take, the first so many by priority and number."""
        return [self[n] for n in self.open_numbers(crews, need, most)]

    def open_numbers(self, crews: Iterable[CrewId | None], need: Need, most: int | None = None) -> list[TaskNo]:
        """Their numbers alone."""
        found = [known for c in set(crews) if (known := self._open.get((c, need)))]
        first = found[0][:most] if len(found) == 1 else islice(merge(*found), most)
        return [number for _, number in first]

    def first_loose(self, crews: Iterable[CrewId | None], need: Need, item: ItemCode | None = None) -> Task | None:
        """The first open task of a need for loose goods, of an item if one is named, that these crews may take."""
        found = [known[0] for c in set(crews) if (known := self._loose.get((c, need, item)))]
        return self[min(found)[1]] if found else None

    def carried(self, person: PersonId, need: Need) -> list[Task]:
        """Tasks of a need whose plates or goods a person carries, by number."""
        found = (n for n in sorted(self._carried.get(person, ())) if self.plans[n].need is need)
        return [self[n] for n in found]

    def all_carried(self) -> list[TaskNo]:
        """Numbers of the tasks whose plates or goods are carried, in order."""
        return sorted(n for carried in self._carried.values() for n in carried)

    def claim_of(self, task: TaskNo) -> BinCode | None:
        """The bin a task claims room in."""
        found = self.going.here(task)
        place = found.place if found and not found.state.ended else None
        return place.at if place else None

    def went_on(self, number: TaskNo, before: Going | None, after: Going | None) -> None:
        """A task is farther, or goes elsewhere: who may take it or carries it, and which bins it claims room in."""
        plan = self.plans[number]
        if after is not None and before is None and self.plans.here(number) is None:
            self.plans.put(number, plan)  # it had left, and is back
        was = None if before is None else before.state
        now = None if after is None else after.state
        was_open = was is TaskState.OPEN or was is TaskState.TAKEN
        is_open = now is TaskState.OPEN or now is TaskState.TAKEN
        left = _among(before) if before is not None and was_open else None
        come = _among(after) if after is not None and is_open else None
        if left != come:
            self._shift(number, plan, left, come)
        if was_open is not is_open and plan.about:
            for receipt in plan.receipts:
                left_of = self._unplaced.get(receipt, 0) + (1 if is_open else -1)
                if left_of:
                    self._unplaced[receipt] = left_of
                else:
                    self._unplaced.pop(receipt, None)
        if after is not None and not is_open:
            self.going.may_leave[number] = None
        claimed = before.bound if before is not None and was_open else ()
        claims = after.bound if after is not None and is_open else ()
        if claimed is claims or claimed == claims:
            return
        for code, *_ in claimed:
            self.bins.unclaim(number, code)
        for code, goods, plates in claims:
            self.bins.claim(number, code, goods, plates)

    def _shift(self, number: TaskNo, plan: Plan, left: _Found | None, come: _Found | None) -> None:
        if left is not None and left[0] is not None:
            self._carried[left[0]].pop(number, None)
        elif left is not None:
            place = (-left[2], number)
            for known in self._waiting(plan, left[1]):
                del known[bisect_left(known, place)]
        if come is not None and come[0] is not None:
            self._carried.setdefault(come[0], {})[number] = None
        elif come is not None:
            place = (-come[2], number)
            for known in self._waiting(plan, come[1]):
                insort(known, place)

    def _waiting(self, plan: Plan, crew: CrewId | None) -> list[list[tuple[int, TaskNo]]]:
        """The lists in which an open task of a plan stands."""
        found = [self._open.setdefault((crew, plan.need), [])]
        if not plan.plates:
            for item in (None, *dict.fromkeys(g.item for m in plan.moves if m.do is not Do.PLACE for g in m.goods)):
                found.append(self._loose.setdefault((crew, plan.need, item), []))
        return found


_Found = tuple[PersonId | None, CrewId | None, int]
"""With whom a task is, or else which crew may take it, and at what priority."""


def _among(going: Going) -> _Found | None:
    """Where a task that is not ended is found: with who carries it, or among what a crew may take; None: nowhere."""
    if going.state is TaskState.TAKEN:
        return (going.person, None, 0) if going.person else None
    return None if going.held else (None, going.crew, going.priority)
