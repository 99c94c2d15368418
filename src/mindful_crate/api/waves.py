"""Waves: those of a floor with their orders, lines and tasks, and what waits for one; and what the wave plans of a draft would do."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime

from flask import current_app
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field

from mindful_crate.api.benches import asked_state
from mindful_crate.api.doors import needs
from mindful_crate.api.drafts import seen_draft
from mindful_crate.api.openings import asked_now, local_date
from mindful_crate.api.rights import Right
from mindful_crate.api.shapes import PROBLEMS, ById
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.api.worlds import world_row
from mindful_crate.core.catalog.ids import RecipeId, SiteCode, WaveNo
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.waves import WaveState
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.wave_bench import Goes, Wave, in_no_plan, sorted_out, wave_of
from mindful_crate.core.proving.wave_board import (
    AwaitedPlan,
    Inside,
    LineIn,
    OnBoard,
    OrderIn,
    TaskIn,
    awaited,
    board,
    inside,
    on_board,
)
from mindful_crate.core.proving.wave_runs import Run, next_runs
from mindful_crate.core.releasing.planning import LeftOut
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.times import clock
from mindful_crate.core.rulebook.waves import WavePlan
from mindful_crate.core.rulebook.words.recipes import crew_name
from mindful_crate.core.rulebook.words.waves import NAMES
from mindful_crate.core.work.picking.rounds import WaveRounds, rounds_at_work, rounds_of
from mindful_crate.core.work.stamp import Stamp

api = APIBlueprint("waves", __name__, url_prefix="/api", abp_tags=[Tag(name="waves")], doc_ui=WITH_DOCUMENT)
MOST = 300
"""So many orders, lines or tasks are told at once."""


class WaveRow(Answer):
    """A wave in a line."""

    number: str
    plan: str | None
    name: str
    method: str
    stands: WaveState
    held: str
    made: datetime
    orders: int
    open: int
    at_work: int
    done: int


class AwaitedView(Answer):
    """Orders that wait for a wave of a plan; ``runs``: when it runs, empty by hand."""

    plan: str | None
    name: str
    runs: str
    orders: list[str]


class WavesView(Answer):
    """All waves of a floor, the latest first, what waits, and the plans there are."""

    waves: list[WaveRow]
    awaited: list[AwaitedView]
    time_zone: str


class WaveOrderView(Answer):
    """An order of a wave."""

    number: str
    partner: str
    order_class: str
    shipment: str | None
    day: date
    tasks: list[str]
    leaves: bool


class WaveLineView(Answer):
    """A line of it, what is kept and what was fetched, in base units."""

    order: str
    line: int
    item: str
    name: str
    wants: str
    kept: int
    fetched: int
    unit: str
    tasks: list[str]
    waits: str
    """What of it lies in no bin it may be taken from, and what brings it; empty: nothing."""
    to_sort: int


class WaveTaskView(Answer):
    """A task of it."""

    number: str
    stands: str
    crew: str
    person: str | None
    held: str
    bins: list[str]
    to: str | None
    orders: list[str]
    lines: int


class WaveView(Answer):
    """A wave with all it is made of, and released orders that wait and may join it."""

    wave: WaveRow
    orders: list[WaveOrderView]
    lines: list[WaveLineView]
    tasks: list[WaveTaskView]
    may_join: list[str]


class WaveQuery(Body):
    """Which wave."""

    wave: str = Field(max_length=40)


class WaveBenchBody(Body):
    """On which floor, or on the opening state; and the plan whose wave is asked for, else the first that takes something."""

    world: str | None = Field(default=None, max_length=80)
    plan: str = Field(default="", max_length=40)


class PassedView(Answer):
    """A plan that was asked before, and why it does not take the order."""

    plan: str
    says: str


class GoesView(Answer):
    """An order and the plan it belongs to; without one it goes at once."""

    order: str
    partner: str
    plan: str | None
    passed: list[PassedView]
    lines: int
    kilograms: int
    released: bool


class MethodView(Answer):
    """A way to pick the wave: carts, metres of all, of whoever walks most, and what else it asks for."""

    method: str
    own: bool
    """Is it the plan's?"""
    carts: int
    metres: int
    longest: int
    sort_scans: int
    hand_overs: int


class WaveTaskShown(Answer):
    """A task as it would be made."""

    crew: str
    recipe: int
    cart: int
    orders: list[str]
    lines: int
    bins: list[str]
    to: str
    metres: int | None


class RoundView(Answer):
    """A task as it is walked: its bins in order, with the way back, and its corners on the map in mm. ``task``: its number, once it is made; ``begins``: where it
    begins and ends, when that is where its zone is handed totes."""

    no: int
    task: str
    crew: str
    cart: int
    orders: list[str]
    lines: int
    bins: list[str]
    to: str
    metres: int
    spots: list[list[int]]
    begins: str


class PickerView(Answer):
    """What one picker walks: rounds by their numbers. ``person``: who, at work; empty there: nobody has taken them yet."""

    crew: str
    person: str
    rounds: list[int]
    metres: int


class MeetingView(Answer):
    """An aisle to which several pickers go, by their places in the list."""

    zone: str
    aisle: str
    pickers: list[int]


class RoundsView(Answer):
    """The rounds of the wave a plan would make now, given to pickers; or what is still to be walked of a wave at work. ``over_even``: how much more whoever walks most has than an even share, in
    per cent; ``unwalked``: tasks that lead to where one cannot walk."""

    site: str
    plan: str
    start: str
    rounds: list[RoundView]
    pickers: list[PickerView]
    meetings: list[MeetingView]
    over_even: int
    unwalked: int
    more: int
    """So many rounds are not drawn."""


class RunView(Answer):
    """A run to come: what it takes, what of its orders it leaves and why, and what goes with it after the day it should have left."""

    at: datetime
    takes: list[str]
    left: list[PassedView]
    late: list[str]


class WaveBenchView(Answer):
    """Which plan takes which order, and the wave that one of them would make now."""

    orders: list[GoesView]
    counts: dict[str, int]
    """How many orders each plan takes; under an empty name those that go at once."""
    in_no_plan: str
    """What no plan takes, in a sentence; empty when some plan takes everything."""
    plan: str
    takes: list[str]
    left: list[PassedView]
    tasks: list[WaveTaskShown]
    no_task: list[str]
    short: list[str]
    methods: list[MethodView]
    why_not: str
    times: str
    """When the plan runs; empty: by hand."""
    runs: list[RunView]
    """Its next runs, as long as an order waits for one."""
    clock: datetime
    """From when on they are counted."""
    time_zone: str


@api.get("/worlds/<id>/waves", responses={200: WavesView, **PROBLEMS})
@needs(Right.LOOK)
def waves(path: ById) -> WavesView:
    """All waves of a floor, and what waits for one."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        world_row(conn, path.id)
        with parts.worlds.reading(conn, path.id) as w:
            today = local_date(w.ground, w.settings.site, w.state.clock)
            return WavesView(
                waves=[_row(x) for x in board(w.state)],
                awaited=[_awaited(x) for x in awaited(w.state, w.rulebook, today)],
                time_zone=w.ground.sites[w.settings.site].time_zone,
            )


@api.get("/worlds/<id>/wave", responses={200: WaveView, **PROBLEMS})
@needs(Right.LOOK)
def wave(path: ById, query: WaveQuery) -> WaveView:
    """One wave: its orders, lines and tasks, each with the others."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        world_row(conn, path.id)
        with parts.worlds.reading(conn, path.id) as w:
            found = w.state.waves.get(WaveNo(query.wave))
            if found is None:
                raise Refusal("unknown_wave", f"There is no wave `{query.wave}`.")
            within = inside(w.state, w.rulebook, found)
            joins = not found.gone and not found.cancelled
            waiting = sorted(r.order for r in w.state.releases.values() if r.waits) if joins else []
            return _view(on_board(w.state, found), within, waiting[:MOST])


def _row(x: OnBoard) -> WaveRow:
    return WaveRow(
        number=x.number, plan=x.plan, name=x.name, method=NAMES[x.method], stands=x.stands, held=x.held, made=x.made,
        orders=x.orders, open=x.open, at_work=x.at_work, done=x.done,
    )  # fmt: skip


def _awaited(x: AwaitedPlan) -> AwaitedView:
    runs = ", ".join(map(clock, x.minutes))
    return AwaitedView(plan=x.plan, name=x.name, runs=runs, orders=list(x.orders))


def _view(row: OnBoard, within: Inside, joins: Sequence[str]) -> WaveView:
    return WaveView(
        wave=_row(row), orders=[_order(o) for o in within.orders[:MOST]], lines=[_line(x) for x in within.lines[:MOST]],
        tasks=[_task(t) for t in within.tasks[:MOST]], may_join=list(joins),
    )  # fmt: skip


def _order(o: OrderIn) -> WaveOrderView:
    return WaveOrderView(
        number=o.number,
        partner=o.partner,
        order_class=o.order_class,
        shipment=o.shipment,
        day=o.day,
        tasks=list(o.tasks),
        leaves=o.leaves,
    )


def _line(x: LineIn) -> WaveLineView:
    return WaveLineView(
        order=x.order, line=x.line, item=x.item, name=x.name, wants=x.wants, kept=x.kept, fetched=x.fetched, unit=x.unit,
        tasks=list(x.tasks), waits=x.waits, to_sort=x.to_sort,
    )  # fmt: skip


def _task(t: TaskIn) -> WaveTaskView:
    return WaveTaskView(
        number=t.number, stands=t.stands, crew=t.crew, person=t.person, held=t.held, bins=list(t.bins), to=t.to,
        orders=list(t.orders), lines=t.lines,
    )  # fmt: skip


@api.post("/drafts/<id>/bench/waves", responses={200: WaveBenchView, **PROBLEMS})
@needs(Right.LOOK)
def bench_waves(path: ById, body: WaveBenchBody) -> WaveBenchView:
    """Which plan takes which of the orders that may go, and the wave one of them would make of them now: its tasks, and all ways to pick it side by
    side. Nothing is released, and nothing stored."""
    with wired(current_app).database.transaction() as conn:
        found = seen_draft(conn, path.id)
        with asked_state(conn, found, body.world, alone=True) as state:
            stamp = asked_now(state)
            orders, plan, made = _asked(state, found.rulebook, body.plan, stamp)
            gap = in_no_plan(state, found.rulebook, [o.order for o in orders], stamp.today)
            numbers = found.rulebook.numbered_recipes(SiteCode(found.row.site))
            site = state.settings.site
            runs = (
                next_runs(
                    state,
                    found.rulebook,
                    plan,
                    [o.order for o in orders],
                    lambda at: local_date(state.ground, site, at),
                )
                if plan is not None
                else []
            )
            zone = state.ground.sites[site].time_zone
            return _bench(orders, plan, made, found.rulebook, numbers, gap, runs, state.clock, zone)


def _asked(state: State, book: Rulebook, wanted: str, stamp: Stamp) -> tuple[list[Goes], WavePlan | None, Wave | None]:
    """Where each order belongs, the plan that is asked for (else the first that takes something), and the wave it would make."""
    orders, plans = sorted_out(state, book, stamp), book.waves_at(state.settings.site)
    taken = {o.plan for o in orders}
    plan = next((p for p in plans if p.id == wanted), None) or next((p for p in plans if p.id in taken), None)
    mine = [o.order for o in orders if plan is not None and o.plan == plan.id]
    return orders, plan, wave_of(state, book, plan, mine, stamp) if plan is not None and mine else None


@api.post("/drafts/<id>/bench/rounds", responses={200: RoundsView, **PROBLEMS})
@needs(Right.LOOK)
def bench_rounds(path: ById, body: WaveBenchBody) -> RoundsView:
    """The rounds in which the wave would be picked that a plan would make now, and which picker walks which. Nothing is stored."""
    with wired(current_app).database.transaction() as conn:
        found = seen_draft(conn, path.id)
        with asked_state(conn, found, body.world, alone=True) as state:
            _, plan, made = _asked(state, found.rulebook, body.plan, asked_now(state))
            if plan is None or made is None:
                raise Refusal("no_wave", "No order that may go is for this plan: there is nothing to walk.", "plan")
            all_ = rounds_of(state, made.picking.tasks, plan.pickers)
            return _rounds(state, found.rulebook, plan.name, all_, (all_.over_even_permille + 5) // 10)


@api.get("/worlds/<id>/wave/rounds", responses={200: RoundsView, **PROBLEMS})
@needs(Right.LOOK)
def rounds_now(path: ById, query: WaveQuery) -> RoundsView:
    """What is still to be walked of a wave, and by whom."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        world_row(conn, path.id)
        with parts.worlds.reading(conn, path.id) as w:
            return _rounds(w.state, w.rulebook, query.wave, rounds_at_work(w.state, WaveNo(query.wave)), 0)


def _rounds(state: State, book: Rulebook, of: str, all_: WaveRounds, over_even: int) -> RoundsView:
    crews = book.crews
    return RoundsView(
        site=state.settings.site, plan=of, start=all_.start or "", over_even=over_even, unwalked=len(all_.unwalked), more=max(0, len(all_.rounds) - MOST),
        rounds=[
            RoundView(
                no=r.no, task=r.task or "", crew=crew_name(crews, r.crew), cart=r.cart, orders=list(r.orders), lines=r.lines, bins=list(r.bins),
                to=r.to or "", metres=r.mm // 1000, spots=[list(s) for s in r.spots],
                begins=r.begins or "",
            )
            for r in all_.rounds[:MOST]
        ],
        pickers=[
            PickerView(crew=crew_name(crews, p.crew), person=p.person or "", rounds=list(p.rounds), metres=p.mm // 1000) for p in all_.pickers
        ],
        meetings=[MeetingView(zone=m.zone, aisle=m.aisle, pickers=list(m.pickers)) for m in all_.meetings],
    )  # fmt: skip


def _bench(
    orders: list[Goes], plan: WavePlan | None, made: Wave | None, book: Rulebook, numbers: dict[RecipeId, int], gap: str,
    runs: list[Run], now: datetime, zone: str,
) -> WaveBenchView:  # fmt: skip
    counts: dict[str, int] = {}
    for each in orders:
        counts[each.plan or ""] = counts.get(each.plan or "", 0) + 1
    views = [
        GoesView(
            order=o.order, partner=o.partner, plan=o.plan, passed=[PassedView(plan=p.plan, says=p.says) for p in o.passed],
            lines=o.lines, kilograms=o.weight_mg // 1_000_000, released=o.released,
        )
        for o in orders[:MOST]
    ]  # fmt: skip
    view = WaveBenchView(
        orders=views, counts=counts, in_no_plan=gap, plan=plan.id if plan else "", takes=[], left=[], tasks=[], no_task=[], short=[], methods=[], why_not="",
        times=", ".join(map(clock, plan.minutes)) if plan else "", runs=list(map(_run, runs)), clock=now, time_zone=zone,
    )  # fmt: skip
    if made is None:
        return view
    tasks = [
        WaveTaskShown(
            crew=crew_name(book.crews, t.recipe.crew), recipe=numbers.get(t.recipe.id, 0), cart=t.cart, orders=list(t.orders),
            lines=len({k.line for k in t.kept}), bins=list(dict.fromkeys(k.bin for k in t.kept)), to=t.moves[-1].at or "",
            metres=None if t.walk_mm is None else t.walk_mm // 1000,
        )
        for t in made.picking.tasks[:MOST]
    ]  # fmt: skip
    methods = [
        MethodView(
            method=NAMES[c.method], own=c.method is made.plan.method, carts=len(c.split.carts), metres=c.mm // 1000,
            longest=c.longest_mm // 1000, sort_scans=c.sort_scans, hand_overs=c.hand_overs,
        )
        for c in made.methods
    ]  # fmt: skip
    no_task = [f"`{k.line}`: {why}" for k, why in made.picking.left]
    return view.model_copy(
        update={
            "takes": list(made.orders), "left": _left(made.left), "tasks": tasks, "no_task": no_task[:MOST],
            "short": list(made.short)[:MOST], "methods": methods, "why_not": made.why_not,
        }
    )  # fmt: skip


def _run(run: Run) -> RunView:
    return RunView(at=run.at, takes=list(run.takes[:MOST]), left=_left(run.left[:MOST]), late=list(run.late[:MOST]))


def _left(orders: Sequence[LeftOut]) -> list[PassedView]:
    """Orders that a run leaves; each stands where a plan does."""
    return [PassedView(plan=x.order, says=x.says) for x in orders]
