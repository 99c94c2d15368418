"""Work before it is made: which tasks recipes would make, of orders on a bench or of what waits on a floor."""

from __future__ import annotations

from datetime import date, datetime
from typing import Literal

from flask import Response, current_app
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field, RootModel

from mindful_crate.api.benches import asked_state
from mindful_crate.api.catalogue import shown_pdf
from mindful_crate.api.doors import needs
from mindful_crate.api.drafts import seen_draft
from mindful_crate.api.openings import asked_now, local_date, opening_state
from mindful_crate.api.rights import Right
from mindful_crate.api.shapes import PROBLEMS, ById
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.api.worlds import world_row
from mindful_crate.core.catalog.ids import FlowId, ItemCode, OrderNo, SiteCode, TaskNo
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.at_stations import at_stations
from mindful_crate.core.proving.counting import KEY_MS, SCAN_MS, TAP_MS, Cost, cost_of, given_up, orders_for
from mindful_crate.core.proving.preview import Preview, of_orders, of_refills, of_rests
from mindful_crate.core.proving.undoable import Undoable, undoable
from mindful_crate.core.proving.wave_bench import of_going
from mindful_crate.core.proving.work_lists import StillOpen, WorkLists, still_open, work_lists
from mindful_crate.core.rulebook.chapter import Draw
from mindful_crate.core.rulebook.chapters import draw
from mindful_crate.core.rulebook.flows import FlowPurpose
from mindful_crate.core.rulebook.recipes import Cause
from mindful_crate.core.work.office import must_scan
from mindful_crate.core.work.picking.pick_list import pick_list
from mindful_crate.core.work.tasks.offered import Offered, offered
from mindful_crate.files.paper_pages import pdf
from mindful_crate.store import db
from mindful_crate.store.rows import WorldRow

api = APIBlueprint("work", __name__, url_prefix="/api", abp_tags=[Tag(name="work")], doc_ui=WITH_DOCUMENT)


class TasksBody(Body):
    """Orders whose goods are supposed to have come, or which are supposed to be released; ``together``: as if the office gathered them."""

    need: Literal["put_away", "pick"] = "put_away"
    orders: list[str] = Field(min_length=1, max_length=50)
    together: bool = False
    world: str | None = Field(default=None, max_length=80)


class RefillsBody(Body):
    """What is asked of reserve: so much of an item that orders lack, in base units, or its shelves filled."""

    item: str = Field(max_length=40)
    quantity: int = Field(default=1, ge=1, le=10_000_000)
    cause: Cause = Cause.WANTED
    world: str | None = Field(default=None, max_length=80)


class CostBody(Body):
    """A flow of the draft, and the order it is counted on; none: the first that suits the flow."""

    flow: str = Field(max_length=80)
    order: str = Field(default="", max_length=40)


class CostView(Answer):
    """What the order takes with the flow as the draft has it, and as what is in force has it; the proofs that were given up."""

    now: Cost
    before: Cost | None
    given_up: list[str]
    order: str
    orders: list[str]
    """Those that suit the flow."""
    scan_ms: int = SCAN_MS
    tap_ms: int = TAP_MS
    key_ms: int = KEY_MS


class RestsBody(Body):
    """Some of what waits for a task."""

    keys: list[str] = Field(min_length=1, max_length=500)
    together: bool = False


class TasksView(RootModel[Preview]):
    """The tasks that would be made."""


class FloorQuery(Body):
    """A floor."""

    world: str = Field(max_length=80)


class StationsView(Answer):
    """What is at stations now, by their ids; those where nothing is are left out."""

    now: dict[str, str]


class WorkView(Answer):
    """What is to be done on a floor, with the time of each entry that a list names, and what the office may do about its tasks."""

    clock: datetime
    seq: int
    lists: WorkLists
    times: dict[int, datetime]
    offered: list[Offered]
    scanned: dict[str, list[str]]
    """What the floor must scan to receive, to put away, to fill shelves: who does it in the office says why."""


class DoneView(Answer):
    """The latest finished steps that may be undone, and when each was finished."""

    clock: datetime
    done: tuple[Undoable, ...]
    times: dict[int, datetime]


class OrderPath(Body):
    """An order on a floor."""

    id: str = Field(max_length=80)
    order: str = Field(max_length=40)


class TaskPath(Body):
    """A task on a floor."""

    id: str = Field(max_length=80)
    task: str = Field(max_length=40)


class KindName(Answer):
    """A kind of plate."""

    code: str
    name: str


class OpenView(Answer):
    """What of an order is still to come, and the kinds of plates it may be put on."""

    order: str
    lines: list[StillOpen]
    plates: list[KindName]


@api.post("/drafts/<id>/bench/tasks", responses={200: TasksView, **PROBLEMS})
@needs(Right.LOOK)
def bench_tasks(path: ById, body: TasksBody) -> TasksView:
    """The tasks that recipes would make if all that is open of some orders came now. Nothing is stored."""
    with wired(current_app).database.transaction() as conn:
        found = seen_draft(conn, path.id)
        with asked_state(conn, found, body.world, alone=True) as state:
            stamp = asked_now(state)
            orders = [OrderNo(o.strip().upper()) for o in body.orders]
            if body.need == "pick":
                return TasksView(of_going(state, found.rulebook, orders, stamp))
            return TasksView(of_orders(state, found.rulebook, orders, stamp.today, together=body.together))


@api.post("/drafts/<id>/bench/refills", responses={200: TasksView, **PROBLEMS})
@needs(Right.LOOK)
def bench_refills(path: ById, body: RefillsBody) -> TasksView:
    """The tasks that would bring an item from reserve now. Nothing is stored."""
    with wired(current_app).database.transaction() as conn:
        found = seen_draft(conn, path.id)
        with asked_state(conn, found, body.world, alone=True) as state:
            item = ItemCode(body.item.strip().upper())
            return TasksView(of_refills(state, found.rulebook, item, body.quantity, body.cause, asked_now(state)))


@api.post("/drafts/<id>/bench/cost", responses={200: CostView, **PROBLEMS})
@needs(Right.LOOK)
def bench_cost(path: ById, body: CostBody) -> CostView:
    """How many scans, taps, keys and seconds an order takes with a flow, by running it; nothing is stored."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        found = seen_draft(conn, path.id)
        ground, site = parts.worlds.ground(conn, found.row.opening), SiteCode(found.row.site)
        force = parts.drafts.in_force(conn, site)
        old = parts.worlds.rulebook(conn, force.rulebook) if force else None
    starts = opening_state(ground, site).settings.starts
    flow = FlowId(body.flow)
    suits = [o.number for o in orders_for(ground, site, found.rulebook.flow(flow))]
    order = OrderNo(body.order.strip().upper()) or (suits[0] if suits else OrderNo(""))

    def today(at: datetime) -> date:
        return local_date(ground, site, at)

    now = cost_of(found.rulebook, ground, site, flow, order, starts, today)
    known = old.flow(flow) if old else None
    before = cost_of(old, ground, site, flow, order, starts, today) if old and known else None
    mine = found.rulebook.flow(flow)
    assert mine is not None
    return CostView(now=now, before=before, given_up=given_up(known, mine), order=order, orders=list(suits))


@api.get("/drafts/<id>/stations", responses={200: StationsView, **PROBLEMS})
@needs(Right.LOOK)
def stations(path: ById, query: FloorQuery) -> StationsView:
    """What is at each station of a draft's map now, on a floor."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        found = seen_draft(conn, path.id)
        world_row(conn, query.world)
        with parts.worlds.reading(conn, query.world) as w:
            site = SiteCode(found.row.site)
            if w.settings.site != site:
                raise Refusal("other_site", "That floor is of another site than this draft.", "world")
            pages = [draw("steps", Draw(found.rulebook, w.ground, site), tab) for tab in ("in", "out")]
            now: dict[str, str] = {}
            for graph in (s.graph for page in pages if page for s in page.sections if s.graph):
                now |= at_stations(w.state, graph)
            return StationsView(now=now)


def _times(conn: db.Conn, row: WorldRow, seqs: set[int]) -> dict[int, datetime]:
    """When each of these entries of a world was made."""
    return {e.seq: e.command.stamp.at for e in wired(current_app).worlds.entries_at(conn, row, sorted(seqs))}


@api.get("/worlds/<id>/work", responses={200: WorkView, **PROBLEMS})
@needs(Right.LOOK)
def work(path: ById) -> WorkView:
    """What is to be done on a floor, list by list."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        row = world_row(conn, path.id)
        with parts.worlds.reading(conn, path.id) as w:
            lists = work_lists(w.state, w.rulebook)
            times = _times(conn, row, lists.seqs)
            may = list(offered(w.state, w.rulebook))
            floor = (
                FlowPurpose.UNLOAD,
                FlowPurpose.RECEIVE,
                FlowPurpose.INSPECT,
                FlowPurpose.PUT_AWAY,
                FlowPurpose.REPLENISH,
            )
            scanned = {p.value: must_scan(w.rulebook, w.settings.site, p) for p in floor}
            return WorkView(
                clock=w.state.clock, seq=w.state.seq, lists=lists, times=times, offered=may, scanned=scanned
            )  # fmt: skip


@api.get("/worlds/<id>/tasks/<task>/list.pdf", responses={200: {"content": {"application/pdf": {}}}, **PROBLEMS})
@needs(Right.LOOK)
def list_pdf(path: TaskPath) -> Response:
    """The pick list of a task as it stands now, with a packing list for each order."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        world_row(conn, path.id)
        with parts.worlds.reading(conn, path.id) as w:
            number = TaskNo(path.task.strip().upper())
            made = pick_list(w.state, w.rulebook, number)
    return shown_pdf(pdf(made, f"Pick list {number}"), number)


@api.get("/worlds/<id>/done", responses={200: DoneView, **PROBLEMS})
@needs(Right.LOOK)
def done(path: ById) -> DoneView:
    """What was finished lately on a floor and may be undone: asked apart, for each row reads what happened since."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        row = world_row(conn, path.id)
        with parts.worlds.reading(conn, path.id) as w:
            rows = undoable(w.state, w.rulebook)
            return DoneView(clock=w.state.clock, done=rows, times=_times(conn, row, {r.seq for r in rows}))


@api.get("/worlds/<id>/orders/<order>/open", responses={200: OpenView, **PROBLEMS})
@needs(Right.LOOK)
def open_of_order(path: OrderPath) -> OpenView:
    """What the office may still receive of an order."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        world_row(conn, path.id)
        with parts.worlds.reading(conn, path.id) as w:
            number = OrderNo(path.order.strip().upper())
            lines = list(still_open(w.state, w.rulebook, number))
            kinds = [KindName(code=k.code, name=k.name) for k in w.ground.opening.plate_kinds]
    return OpenView(order=number, lines=lines, plates=kinds)


@api.post("/worlds/<id>/rests/preview", responses={200: TasksView, **PROBLEMS})
@needs(Right.LOOK)
def preview_rests(path: ById, body: RestsBody) -> TasksView:
    """The tasks that would be made of what waits; nothing is made."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        world_row(conn, path.id)
        with parts.worlds.reading(conn, path.id) as w:
            today = local_date(w.ground, w.settings.site, w.state.clock)
            return TasksView(of_rests(w.state, w.rulebook, body.keys, today, together=body.together))
