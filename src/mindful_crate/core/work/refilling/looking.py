"""How full shelves are: what lies there free, what is on its way, what orders wait for."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from mindful_crate.core.catalog.goods import HomeBin, Status
from mindful_crate.core.catalog.ids import BinCode, CrewId, ItemCode, OrderNo, PersonId, TaskNo
from mindful_crate.core.floor.covers import Cover
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, Task
from mindful_crate.core.record import record
from mindful_crate.core.releasing.planning import as_they_go
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.work.tasks.following import task_to_begin


@record
class Stand:
    """How an item stands on a shelf it is at home on, in base units: what lies there, how much of that is free for whoever comes, and what open
    tasks bring."""

    home: HomeBin
    lying: int
    free: int
    coming: int

    @property
    def low(self) -> bool:
        """Is less there, and on its way, than is to be kept?"""
        return self.free + self.coming < self.home.least

    @property
    def wants(self) -> int:
        """How much it takes to fill it; what is kept for orders lies there until it is picked."""
        return max(0, (self.home.most or self.home.least) - self.lying - self.coming)


def stand(state: State, home: HomeBin) -> Stand:
    """How an item stands on a shelf now."""
    lying = [x for x in state.lines(home.item) if x.bin == home.bin and x.goods.status is Status.AVAILABLE]
    free = sum(max(0, x.goods.quantity - state.reserved(x)) for x in lying)
    there = sum(x.goods.quantity for x in lying)
    return Stand(home, there, free, sum(q for (code, _), q in coming(state, home.item) if code == home.bin))


def coming(state: State, item: ItemCode) -> Iterable[tuple[tuple[BinCode, TaskNo], int]]:
    """What of an item open tasks bring, by bin and task."""
    return state.bins.coming_with.get(item, {}).items()


def homes_here(state: State, item: ItemCode | None = None) -> Iterator[HomeBin]:
    """The bins of the site items are at home in, or one item is, in the order of the walk."""
    ground = state.ground
    items = ground.homes if item is None else {item: ground.homes.get(item, {})}
    found = (h for homes in items.values() for h in homes.values() if ground.site_of(h.bin) == state.settings.site)
    return iter(sorted(found, key=lambda h: (ground.bins[h.bin].walk, h.bin, h.item)))


def brought(state: State, item: ItemCode) -> list[tuple[TaskNo, int]]:
    """The open refills that bring an item, and how much each."""
    found: dict[TaskNo, int] = {}
    for (_, task), quantity in coming(state, item):
        if quantity and (known := state.tasks.get(task)) is not None and known.need is Need.REPLENISH:
            found[task] = found.get(task, 0) + quantity
    return sorted(found.items())


def missing(state: State, item: ItemCode) -> list[tuple[OrderNo, int, int]]:
    """The order lines that are promised some of an item, are in a wave for which stock was kept, and have it in no bin: (order, line,
    quantity), the first to be served first."""
    found: dict[OrderNo, list[Cover]] = {}
    for cover in state.covers.of_item(item):
        release = state.releases.get(cover.order)
        if not cover.on_hand or release is None or (release.lines and cover.line not in release.lines):
            continue
        if state.waves.at_work_on(cover.order):
            found.setdefault(cover.order, []).append(cover)
    orders = as_they_go([o for number in found if (o := state.order(number)) is not None])
    return [(o.number, c.line, c.on_hand) for o in orders for c in found[o.number]]


def task_to_refill(state: State, number: TaskNo, crews: tuple[CrewId, ...], mine: PersonId) -> Task:
    """A refill that these crews may take, or that ``mine`` has; refused with the reason otherwise."""
    return task_to_begin(state, number, Need.REPLENISH, crews, mine)


def begun_by(state: State, person: PersonId) -> Task | None:
    """The refill that a person has begun."""
    return next(iter(state.carried(person, Need.REPLENISH)), None)


def goes_to(task: Task) -> list[BinCode]:
    """The shelves a refill still fills."""
    return list(dict.fromkeys(m.at for m in task.going.remaining if m.do is Do.PLACE and m.at))
