"""All tasks of a floor, kept: who may take which, by priority and by the walk, who carries what, and what each claims."""

from __future__ import annotations

from bisect import bisect_left, insort
from collections.abc import Callable, Iterable, Iterator
from datetime import datetime
from heapq import heappop, heappush, merge
from itertools import islice
from typing import TypeVar, cast

from mindful_crate.core.catalog.ids import (
    BinCode,
    CrewId,
    ItemCode,
    OrderNo,
    PersonId,
    PlateNo,
    ReceiptNo,
    TaskNo,
)
from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.floor.bins import Bins
from mindful_crate.core.floor.keeper import Journal
from mindful_crate.core.floor.past import Leaving, Past
from mindful_crate.core.floor.tasks import Do, Going, Plan, Task, TaskState
from mindful_crate.core.record import maker
from mindful_crate.core.rulebook.steps import Need

T = TypeVar("T")
Place = tuple[int, int, TaskNo]
"""The entry that made a task, and its number in order."""
_task: Callable[..., Task] = maker(Task)


class _Plans(Leaving[TaskNo, Plan]):
    def __init__(self, journal: Journal, recall: Callable[[TaskNo], Plan | None]) -> None:
        super().__init__(journal, recall)
        self.of_plate: dict[PlateNo, list[Place]] = {}
        self.of_order: dict[OrderNo, list[Place]] = {}

    def changed(self, key: TaskNo, before: Plan | None, after: Plan | None) -> None:
        if before is not None:
            self.left(key, before)
        if after is not None:
            place = (after.made, len(key), key)
            for plate in after.plates:
                insort(self.of_plate.setdefault(plate, []), place)
            for order in after.orders:
                insort(self.of_order.setdefault(order, []), place)

    def left(self, key: TaskNo, plan: Plan) -> None:
        """Nothing of it is looked for any more."""
        place = (plan.made, len(key), key)
        for plate in plan.plates:
            _taken_out(self.of_plate, plate, place)
        for order in plan.orders:
            _taken_out(self.of_order, order, place)


def _taken_out(index: dict[T, list[Place]], key: T, place: Place) -> None:
    index[key].remove(place)
    if not index[key]:
        del index[key]


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
        self._by_walk: dict[tuple[CrewId | None, Need], list[tuple[int, int, TaskNo]]] = {}
        """The same by priority, where on the walk the bin is they go to, or begin at when they are fetched for orders or shelves, and number."""
        self._loose: dict[tuple[CrewId | None, Need, ItemCode | None], list[tuple[int, TaskNo]]] = {}
        """Open tasks for loose goods, all of them and by item."""
        self._carried: dict[PersonId, dict[TaskNo, None]] = {}
        self._unplaced: dict[ReceiptNo, int] = {}
        self._totes: dict[PlateNo, dict[TaskNo, None]] = {}
        """Of tasks that have not ended: whose each tote is."""
        self.timed: dict[TaskNo, _Since] = {}
        """Those that are held until a minute of the day, with when they were made."""
        self._untold: list[TaskNo] = []
        """Those of them whose time was not asked for yet."""
        self._times: list[tuple[datetime, TaskNo, _Since]] = []
        """The others as a heap, the earliest first, with some that do not wait any more."""

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

    def with_tote(self, plate: PlateNo) -> Task | None:
        """The task that has not ended and picks into this tote, or is handed it."""
        known = self._totes.get(plate)
        return self[next(iter(known))] if known else None

    def picking(self, order: OrderNo) -> list[TaskNo]:
        """The tasks that are not settled and pick something for an order, the first made first."""
        return [number for *_, number in self.plans.of_order.get(order, ())]

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
        may, here = self.going.may_leave, self.going.here
        numbers = sorted(may) if len(may) > 1 else list(may)
        may.clear()
        found = []
        for number in numbers:
            now = here(number)
            if now is None or not now.state.ended:
                continue
            plan = self.plans.drop(number)
            self.going.drop(number)  # one that has ended is in none of the indexes
            self.plans.left(number, plan)
            found.append(_task(number, plan, now))
        return found

    def unplaced(self, receipt: ReceiptNo) -> int:
        """How many tasks for loose goods of a receipt are not done."""
        return self._unplaced.get(receipt, 0)

    def due(self, until: datetime, at: Callable[[datetime, int], datetime]) -> tuple[datetime, TaskNo] | None:
        """The task whose time comes first by ``until``. ``at`` tells when a minute of the day comes next after a moment; it is asked
        once for each task."""
        for number in self._untold:
            if since := self.timed.get(number):
                heappush(self._times, (at(*since), number, since))
        self._untold.clear()
        while self._times and self.timed.get(self._times[0][1]) != self._times[0][2]:
            heappop(self._times)
        return self._times[0][:2] if self._times and self._times[0][0] <= until else None

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

    def on_the_walk(self, crews: Iterable[CrewId | None], need: Need, most: int) -> list[TaskNo]:
        """Open tasks of a need that these crews may take, the first so many by priority and by the walk to their bins."""
        return [number for *_, number in self._walked(crews, need, most)]

    def next_on_the_walk(
        self, crews: Iterable[CrewId | None], need: Need, after: int, but: tuple[TaskNo, ...] = ()
    ) -> TaskNo | None:  # fmt: skip
        """The open task that comes next on the walk from a place on, of those of the highest priority; from the beginning again
        after the last. Those of ``but`` are passed over while there are others."""
        passed = set(but)
        found = [t for t in self._walked(crews, need, len(passed) + 1) if t[2] not in passed]
        if not found:
            first = self._walked(crews, need, 1)
            return first[0][2] if first else None
        urgent = found[0][0]
        for known in (self._by_walk.get((c, need), []) for c in set(crews)):
            at = bisect_left(known, (urgent, after, TaskNo("")))
            found += [t for t in known[at : at + len(passed) + 1] if t[2] not in passed]
        mine = [t for t in found if t[0] == urgent]
        return min(mine, key=lambda t: (t[1] < after, t[1], t[2]))[2]

    def _walked(self, crews: Iterable[CrewId | None], need: Need, most: int) -> list[tuple[int, int, TaskNo]]:
        known = [self._by_walk[c, need] for c in set(crews) if (c, need) in self._by_walk]
        return list(islice(merge(*known), most))

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
        left = self._among(plan.need, before) if before is not None and was_open else None
        come = self._among(plan.need, after) if after is not None and is_open else None
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
        if after is not None and after.at_minute is not None and after.since is not None and is_open:
            since = after.since, after.at_minute
            if self.timed.get(number) != since:
                self.timed[number] = since
                self._untold.append(number)
        elif self.timed:
            self.timed.pop(number, None)
        had = before.totes if before is not None and was_open else ()
        has = after.totes if after is not None and is_open else ()
        if had is not has:
            for tote in had:
                self._totes[tote.plate].pop(number, None)
                if not self._totes[tote.plate]:
                    del self._totes[tote.plate]
            for tote in has:
                self._totes.setdefault(tote.plate, {})[number] = None
        claimed = before.bound if before is not None and was_open else ()
        claims = after.bound if after is not None and is_open else ()
        if claimed is claims or claimed == claims:
            return
        for code, *_ in claimed:
            self.bins.unclaim(number, code)
        for code, goods, plates in claims:
            self.bins.claim(number, code, goods, plates)

    def _among(self, need: Need, going: Going) -> _Found | None:
        """Where a task that is not ended is found: with who carries it, or among what a crew may take; None: nowhere. On the walk it stands where
        it goes to; what is picked, where it begins."""
        if going.state is TaskState.TAKEN:
            return (going.person, None, 0, 0) if going.person else None
        if going.held:
            return None
        picked = need in (Need.PICK, Need.REPLENISH)
        at = next((m.at for m in going.remaining if (m.do is Do.TAKE) is picked and m.at), None)
        crew = going.crew if going.whose is None else alone(going.whose)
        return None, crew, going.priority, LAST if at is None else self.bins.ground.bins[at].walk

    def _shift(self, number: TaskNo, plan: Plan, left: _Found | None, come: _Found | None) -> None:
        if left is not None and left[0] is not None:
            self._carried[left[0]].pop(number, None)
        elif left is not None:
            place = (-left[2], number)
            for known in self._waiting(plan, left[1]):
                del known[bisect_left(known, place)]
            walked = self._by_walk[left[1], plan.need]
            del walked[bisect_left(walked, (-left[2], left[3], number))]
        if come is not None and come[0] is not None:
            self._carried.setdefault(come[0], {})[number] = None
        elif come is not None:
            place = (-come[2], number)
            for known in self._waiting(plan, come[1]):
                insort(known, place)
            insort(self._by_walk.setdefault((come[1], plan.need), []), (-come[2], come[3], number))

    def _waiting(self, plan: Plan, crew: CrewId | None) -> list[list[tuple[int, TaskNo]]]:
        """The lists in which an open task of a plan stands."""
        found = [self._open.setdefault((crew, plan.need), [])]
        if not plan.plates:
            for item in (None, *dict.fromkeys(g.item for m in plan.moves if m.do is not Do.PLACE for g in m.goods)):
                found.append(self._loose.setdefault((crew, plan.need, item), []))
        return found


def alone(person: PersonId) -> CrewId:
    """The crew of one: under it stand the tasks that are for this person alone."""
    return CrewId(f"@{person}")


_Since = tuple[datetime, int]
"""When a task was made, and at which minute of the day after that it may be taken."""
_Found = tuple[PersonId | None, CrewId | None, int, int]
"""With whom a task is, or else which crew may take it, at what priority, and where on the walk its bin is."""
LAST = 1 << 40
"""Where on the walk a task stands that has no bin yet: behind all others."""
