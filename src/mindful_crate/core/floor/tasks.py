"""Tasks: what was asked for as it was made, and how far it is. Two records, since only the second changes."""

from __future__ import annotations

from bisect import bisect_left, insort
from collections.abc import Callable, Iterable, Iterator
from enum import StrEnum
from heapq import merge
from itertools import islice

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import BinCode, CrewId, ItemCode, PersonId, PlateNo, ReceiptNo, RuleId, TaskNo
from mindful_crate.core.floor.bins import Bins
from mindful_crate.core.floor.keeper import Journal, Keeper
from mindful_crate.core.record import maker, record
from mindful_crate.core.rulebook.steps import Need


class TaskState(StrEnum):
    """How far a task is."""

    OPEN = "open"
    TAKEN = "taken"
    DONE = "done"
    CANCELLED = "cancelled"

    @property
    def ended(self) -> bool:
        """Is there nothing left to do?"""
        return self in (TaskState.DONE, TaskState.CANCELLED)


@record
class Placed:
    """A share of a task that was placed."""

    bin: BinCode
    quantity: int
    plate: PlateNo | None = None
    """The plate it was placed on, if it was."""
    reason: str = ""
    seq: int = 0
    """The entry that placed it."""


@record
class Plan:
    """A task as it was made, for a crew: take a plate or loose goods at ``from_bin``, perhaps off a plate there."""

    plate: PlateNo | None
    from_bin: BinCode
    crew: CrewId | None
    need: Need
    goods: tuple[Goods, ...] = ()
    from_plate: PlateNo | None = None
    receipt: ReceiptNo | None = None
    made: int = 0
    """The entry that made it."""


@record
class Going:
    """How far a task is. ``goods`` are what is still to be placed when it is no plate."""

    state: TaskState
    to_bin: BinCode | None
    rule: RuleId | None
    goods: tuple[Goods, ...] = ()
    person: PersonId | None = None
    placed: tuple[Placed, ...] = ()
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


@record
class Task:
    """Work one person takes, as a whole: take a plate or loose goods at ``from_bin``, place them at ``to_bin``. ``goods``
    are what is still to be placed when it is no plate."""

    number: TaskNo
    plate: PlateNo | None
    from_bin: BinCode
    crew: CrewId | None
    to_bin: BinCode | None
    rule: RuleId | None
    state: TaskState = TaskState.OPEN
    person: PersonId | None = None
    need: Need = Need.PUT_AWAY
    goods: tuple[Goods, ...] = ()
    from_plate: PlateNo | None = None
    placed: tuple[Placed, ...] = ()
    receipt: ReceiptNo | None = None
    made: int = 0
    taken: int = 0
    again: tuple[int, ...] = ()
    held: str = ""
    priority: int = 0
    cancelled: int = 0

    @property
    def placed_in(self) -> BinCode | None:
        """Where the last share was placed."""
        return self.placed[-1].bin if self.placed else None


_task: Callable[..., Task] = maker(Task)


class _Plans(Keeper[TaskNo, Plan]):
    def __init__(self, journal: Journal) -> None:
        super().__init__(journal)
        self.of_plate: dict[PlateNo, list[tuple[int, int, TaskNo]]] = {}

    def changed(self, key: TaskNo, before: Plan | None, after: Plan | None) -> None:
        if before is not None and before.plate:
            self.of_plate[before.plate].remove((before.made, len(key), key))
        if after is not None and after.plate:
            insort(self.of_plate.setdefault(after.plate, []), (after.made, len(key), key))


class _Going(Keeper[TaskNo, Going]):
    def __init__(self, journal: Journal, tasks: Tasks) -> None:
        super().__init__(journal)
        self._tasks = tasks

    def changed(self, key: TaskNo, before: Going | None, after: Going | None) -> None:
        self._tasks.went_on(key, before, after)


class Tasks:
    """All tasks: who may take which, who carries what, and which bins they are on their way to."""

    def __init__(self, journal: Journal, bins: Bins) -> None:
        self.bins = bins
        self.plans = _Plans(journal)
        self.going: Keeper[TaskNo, Going] = _Going(journal, self)
        self._open: dict[tuple[CrewId | None, Need], list[tuple[int, TaskNo]]] = {}
        """Those that may be taken, by priority and number, so that the first of many is found without looking at the rest;
        the same for ``_loose``."""
        self._loose: dict[tuple[CrewId | None, Need, ItemCode | None], list[tuple[int, TaskNo]]] = {}
        """Open tasks for loose goods, all of them and by item."""
        self._carried: dict[PersonId, dict[TaskNo, None]] = {}
        self._unplaced: dict[ReceiptNo, int] = {}

    def get(self, number: TaskNo) -> Task | None:
        """A task as a whole."""
        return self[number] if number in self.plans else None

    def __getitem__(self, number: TaskNo) -> Task:
        """A task that is there."""
        plan, going = self.plans[number], self.going[number]
        return _task(
            number, plan.plate, plan.from_bin, going.crew, going.to_bin, going.rule, going.state, going.person, plan.need,
            going.goods, plan.from_plate, going.placed, plan.receipt, plan.made, going.taken, going.again,
            going.held, going.priority, going.cancelled,
        )  # fmt: skip

    def __contains__(self, number: object) -> bool:
        """Is there a task of that number?"""
        return number in self.plans

    def __len__(self) -> int:
        """How many there are."""
        return len(self.plans)

    def values(self) -> Iterator[Task]:
        """All tasks, by number."""
        return (self[n] for n in self.plans)

    def task_of(self, plate: PlateNo) -> Task | None:
        """The latest task of a plate."""
        known = self.plans.of_plate.get(plate)
        return self[known[-1][2]] if known else None

    def unplaced(self, receipt: ReceiptNo) -> int:
        """How many tasks for loose goods of a receipt are not done."""
        return self._unplaced.get(receipt, 0)

    def open_count(self, crews: Iterable[CrewId], need: Need) -> int:
        """How many open tasks of a need there are that these crews may take."""
        return sum(len(self._open.get((c, need), ())) for c in set(crews))

    def open_tasks(self, crews: Iterable[CrewId], need: Need, most: int | None = None) -> list[Task]:
        """Open tasks of a need that these crews may take, the first so many by priority and number."""
        return [self[n] for n in self.open_numbers(crews, need, most)]

    def open_numbers(self, crews: Iterable[CrewId], need: Need, most: int | None = None) -> list[TaskNo]:
        """Their numbers alone."""
        found = [known for c in set(crews) if (known := self._open.get((c, need)))]
        first = found[0][:most] if len(found) == 1 else islice(merge(*found), most)
        return [number for _, number in first]

    def first_loose(self, crews: Iterable[CrewId], need: Need, item: ItemCode | None = None) -> Task | None:
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
        found = self.going.get(task)
        return found.to_bin if found and not found.state.ended else None

    def goods_of(self, number: TaskNo) -> tuple[Goods, ...]:
        """What a task is about: all on its plate, or what is left of its loose goods."""
        plan = self.plans[number]
        return self.bins.plates.all_goods(plan.plate) if plan.plate else self.going[number].goods

    def went_on(self, number: TaskNo, before: Going | None, after: Going | None) -> None:
        """A task is farther, or goes elsewhere: who may take it or carries it, and which bin it claims room in."""
        plan = self.plans[number]
        left, come = _among(before), _among(after)
        if left != come:
            self._shift(number, plan, left, come)
        was_open, is_open = (g is not None and not g.state.ended for g in (before, after))
        if plan.receipt and was_open is not is_open:
            self._unplaced[plan.receipt] = self._unplaced.get(plan.receipt, 0) + (1 if is_open else -1)
        claimed = before.to_bin if before is not None and was_open else None
        claims = after.to_bin if after is not None and is_open else None
        if claimed == claims and (claims is None or (before and before.goods) is (after and after.goods)):
            return
        if claimed is not None:
            self.bins.unclaim(number, claimed)
        if claims is not None and after is not None:
            self.bins.claim(number, claims, self.goods_of(number), plan.plate)

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
        if plan.plate is None:
            for item in (None, *dict.fromkeys(g.item for g in plan.goods)):
                found.append(self._loose.setdefault((crew, plan.need, item), []))
        return found


_Found = tuple[PersonId | None, CrewId | None, int]
"""With whom a task is, or else which crew may take it, and at what priority."""


def _among(going: Going | None) -> _Found | None:
    """Where a task is found: with who carries it, or among what a crew may take; None: nowhere."""
    if going is None or going.state.ended or (going.state is TaskState.OPEN and going.held):
        return None
    if going.state is TaskState.TAKEN:
        return (going.person, None, 0) if going.person else None
    return None, going.crew, going.priority
