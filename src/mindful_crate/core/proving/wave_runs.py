"""When a wave plan runs next and what each run would take, were all that may go released now: the clock's turns, gone through beforehand."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime, timedelta

from mindful_crate.core.catalog.ids import OrderNo, WavePlanId
from mindful_crate.core.floor.state import State
from mindful_crate.core.record import record
from mindful_crate.core.releasing.planning import LeftOut, as_they_go, awaited_after, filled, size_of, to_come
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.waves import WavePlan
from mindful_crate.core.rulebook.words.parts import counted
from mindful_crate.core.world.world import Today, next_time

TIMES = 3
"""So many runs of a plan are gone through."""


@record
class Run:
    """One run of a plan: what it takes, what of its orders it leaves and why, and what goes with it after the day it should have left."""

    at: datetime
    takes: tuple[OrderNo, ...]
    left: tuple[LeftOut, ...]
    late: tuple[OrderNo, ...]


def next_runs(
    state: State, book: Rulebook, plan: WavePlan, orders: Sequence[OrderNo], today: Today, times: int = TIMES
) -> list[Run]:
    """The next runs of a plan. All plans run in turn, since an order may be another's on another day; a plan that no order waits for does not
    run, so there may be fewer than ``times``. ``orders``: released ones that wait, and others as if they were released at the state's clock."""
    now, plans = state.clock, book.waves_at(state.settings.site)
    known = [o for n in orders if (o := state.order(n)) is not None]
    waiting = {o.number: size_of(state, book, o) for o in as_they_go(known)}
    timed = {p.id: p for p in plans if p.minutes}
    since = {p: awaited.since for p, awaited in state.waves_awaited.all().items() if p in timed}

    def released(number: OrderNo) -> datetime:
        release = state.releases.get(number)
        return (release.at if release is not None else None) or now

    def ahead(number: OrderNo, at: datetime) -> dict[WavePlanId, int]:
        return {p.id: days for p, days in to_come(state, plans, waiting[number], today(at))}

    for number in [n for n in waiting if n not in state.releases]:
        days = ahead(number, now)
        if 0 not in days.values():
            del waiting[number]  # it goes at once
            continue
        for coming in days.keys() & timed.keys():
            then = now + timedelta(minutes=awaited_after(days[coming], timed[coming].cut_off))
            since[coming] = min(since.get(coming, then), then)
    runs: list[Run] = []
    while plan.id in since and len(runs) < times:
        at, name = min((min(next_time(s, m, today) for m in timed[p].minutes), p) for p, s in since.items())
        its = timed[name]
        mine = [n for n in waiting if ahead(n, at).get(name) == 0]
        by = at - timedelta(minutes=its.cut_off)
        taken, over = filled(its.most, [waiting[n] for n in mine if released(n) <= by])
        if name == plan.id:
            words = f"it is released less than {counted(its.cut_off, 'minute')} before"
            after = [LeftOut(n, words) for n in mine if released(n) > by]
            late = tuple(t.order.number for t in taken if t.order.leaves < today(at))
            runs.append(Run(at, tuple(t.order.number for t in taken), (*after, *over), late))
        for each in taken:
            del waiting[each.order.number]
        left = [days[name] for n in waiting if name in (days := ahead(n, at))]
        if left:
            since[name] = at + timedelta(minutes=awaited_after(min(left)))
        else:
            del since[name]
    return runs
