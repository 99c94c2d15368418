"""Goods that leave: the dock board, shipments with their cartons, pack stations, devices and carriers; and how a draft would pack an order."""

from __future__ import annotations

from flask import Response, current_app
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field, RootModel

from mindful_crate.api.benches import asked_state
from mindful_crate.api.catalogue import shown_pdf
from mindful_crate.api.doors import needs
from mindful_crate.api.drafts import seen_draft
from mindful_crate.api.printing import STAND_IN, PreviewPrint, preview, real_ones
from mindful_crate.api.rights import Right
from mindful_crate.api.shapes import PROBLEMS, ById
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.api.worlds import world_row
from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import DeviceId, OrderNo, ShipmentNo
from mindful_crate.core.floor.devices import CarrierStandIn, Scale
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.dock_board import DockBoard, ShipmentShown, dock_board, shipment_shown
from mindful_crate.core.proving.pack_bench import PackedOrder, packed_order
from mindful_crate.core.proving.pack_station import (
    BenchStation,
    PackView,
    WaitsAtBench,
    begun_on,
    pack_view,
    stations,
    waits,
)
from mindful_crate.core.proving.paper_bench import PapersOf, papers_of
from mindful_crate.core.proving.rehearse import open_dialogue
from mindful_crate.core.rulebook.papers import Paper
from mindful_crate.core.rulebook.words.papers import TITLES
from mindful_crate.core.work.leaving.shipping_papers import paper_pages
from mindful_crate.core.work.packing.prompts import BENCH
from mindful_crate.files.paper_pages import pdf

api = APIBlueprint("shipping", __name__, url_prefix="/api", abp_tags=[Tag(name="shipping")], doc_ui=WITH_DOCUMENT)


class DockBoardView(RootModel[DockBoard]):
    """The dock board."""


class ShipmentView(RootModel[ShipmentShown]):
    """A shipment with all its cartons."""


class ShipmentPath(Body):
    """A shipment on a floor."""

    id: str = Field(max_length=80)
    shipment: str = Field(max_length=40)


class PaperPath(Body):
    """A paper of a shipment."""

    id: str = Field(max_length=80)
    shipment: str = Field(max_length=40)
    paper: Paper


class StationQuery(Body):
    """Whose hands are at which station: the name of its screen."""

    device: str = Field(default="", max_length=40)


class StationView(Answer):
    """The pack stations of a floor, what waits, and the shipment that is packed on this screen."""

    stations: list[BenchStation]
    waits: list[WaitsAtBench]
    packing: PackView | None
    at: str
    """The bench that was scanned on this screen; empty: none."""
    carriers: dict[str, str]


class ScaleView(Answer):
    """A scale, and how it is in words. ``real``: where it is asked in earnest; empty: it is a stand-in. ``failed``: why it says nothing."""

    station: str
    name: str
    bin: str
    scale: Scale
    says: str
    real: str
    failed: str


class CarrierView(Answer):
    """A carrier, its services, and what is booked with it. ``real``: where it is asked in earnest; empty: it is a stand-in. ``failed``: why it does not
    answer. ``waits``: shipments about which it has not answered."""

    code: str
    name: str
    services: list[str]
    stand_in: CarrierStandIn
    booked: list[str]
    waits: list[str]
    real: str
    failed: str


class TillView(Answer):
    """The till: every how many minutes it copies the stock (0: never again), how many items it knows, and how old what it says is."""

    minutes: int
    items: int
    minutes_old: int


class DevicesView(Answer):
    """Scales and carriers of a floor, and its till, if there is one."""

    scales: list[ScaleView]
    carriers: list[CarrierView]
    till: TillView | None


class PackBody(Body):
    """An order that is to be packed by the draft; none: the first that goes out."""

    order: str = Field(default="", max_length=40)
    world: str | None = Field(default=None, max_length=80)


class PackedView(Answer):
    """How it would be packed, and the orders that may be asked about."""

    packed: PackedOrder | None
    orders: list[str]


class PapersBody(Body):
    """Which paper of which order is looked at; no order: the first that goes out."""

    order: str = Field(default="", max_length=40)
    paper: Paper = Paper.PACKING_LIST
    world: str | None = Field(default=None, max_length=80)


class PapersView(Answer):
    """The paper, the labels as drawings, and the orders that may be asked about."""

    found: PapersOf | None
    prints: list[PreviewPrint]
    orders: list[str]


class BenchPaperPath(Body):
    """A paper of a draft."""

    id: str = Field(max_length=80)
    paper: Paper


class BenchPaperQuery(Body):
    """Of which order, on which floor."""

    order: str = Field(default="", max_length=40)
    world: str = Field(default="", max_length=80)


@api.get("/worlds/<id>/dock", responses={200: DockBoardView, **PROBLEMS})
@needs(Right.LOOK)
def dock(path: ById) -> DockBoardView:
    """Trucks and doors, shipments with what is missing, and what has left."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        world_row(conn, path.id)
        with parts.worlds.reading(conn, path.id) as w:
            return DockBoardView(dock_board(w.state, w.rulebook))


@api.get("/worlds/<id>/shipments/<shipment>", responses={200: ShipmentView, **PROBLEMS})
@needs(Right.LOOK)
def shipment(path: ShipmentPath) -> ShipmentView:
    """One shipment: its cartons with what is in each, and what carriers take for it."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        world_row(conn, path.id)
        with parts.worlds.reading(conn, path.id) as w:
            return ShipmentView(shipment_shown(w.state, w.rulebook, ShipmentNo(path.shipment)))


@api.get(
    "/worlds/<id>/shipments/<shipment>/papers/<paper>.pdf",
    responses={200: {"content": {"application/pdf": {}}}, **PROBLEMS},
)
@needs(Right.LOOK)
def paper_pdf(path: PaperPath) -> Response:
    """A paper of a shipment as PDF."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        world_row(conn, path.id)
        with parts.worlds.reading(conn, path.id) as w:
            made = paper_pages(w.state, w.rulebook, ShipmentNo(path.shipment), path.paper)
    return shown_pdf(pdf(made, f"{TITLES[path.paper]} of {path.shipment}"), f"{path.shipment}-{path.paper.value}")


@api.get("/worlds/<id>/stations", responses={200: StationView, **PROBLEMS})
@needs(Right.LOOK)
def pack_stations(path: ById, query: StationQuery) -> StationView:
    """What a pack station shows."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        world_row(conn, path.id)
        with parts.worlds.reading(conn, path.id) as w:
            dialogue = open_dialogue(w.state, DeviceId(query.device)) if query.device else None
            found = begun_on(w.state, w.rulebook, dialogue) if dialogue else None
            return StationView(
                stations=list(stations(w.state)), waits=list(waits(w.state, w.rulebook)),
                at=dialogue.answers[BENCH] or "" if dialogue else "",
                packing=pack_view(w.state, w.rulebook, *found) if found else None,
                carriers={c: x.name for c, x in w.ground.carriers.items()},
            )  # fmt: skip


@api.get("/worlds/<id>/devices", responses={200: DevicesView, **PROBLEMS})
@needs(Right.LOOK)
def devices(path: ById) -> DevicesView:
    """Scales and carriers: how each behaves, and what is booked."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        world_row(conn, path.id)
        real, driving = real_ones(conn, path.id, "scale"), real_ones(conn, path.id, "carrier")
        with parts.worlds.reading(conn, path.id) as w:
            state = w.state
            scales = [
                ScaleView(
                    station=s.code, name=s.name, bin=s.bin, scale=state.scales.get(s.code) or Scale(), says=s.scale,
                    real=real.get(s.code, STAND_IN).says, failed=real.get(s.code, STAND_IN).failed,
                )
                for s in stations(state) if s.scale
            ]  # fmt: skip
            carriers = [
                CarrierView(
                    code=c.code, name=c.name, services=list(c.services), stand_in=state.carriers_set.get(c.code) or CarrierStandIn(),
                    booked=sorted(x.shipment for x in state.carriages.values() if x.carrier == c.code and not x.refused),
                    waits=sorted(x.shipment for x in state.carriages.values() if x.carrier == c.code and x.asked),
                    real=driving.get(c.code, STAND_IN).says, failed=driving.get(c.code, STAND_IN).failed,
                )
                for c in w.ground.opening.carriers
            ]  # fmt: skip
            there = w.state.till
            till = TillView(
                minutes=there.minutes, items=len(w.state.till_says), minutes_old=there.minutes_old(w.state.clock)
            ) if there else None  # fmt: skip
            return DevicesView(scales=scales, carriers=carriers, till=till)


@api.post("/drafts/<id>/bench/packing", responses={200: PackedView, **PROBLEMS})
@needs(Right.LOOK)
def bench_packing(path: ById, body: PackBody) -> PackedView:
    """How an order would be packed by the draft: which cartons, what lies where, and what each carrier takes. Nothing is stored."""
    with wired(current_app).database.transaction() as conn:
        found = seen_draft(conn, path.id)
        with asked_state(conn, found, body.world, alone=True) as state:
            mine, order = _asked(state, body.order)
            packed = packed_order(state, found.rulebook, order) if order else None
            return PackedView(packed=packed, orders=mine)


def _asked(state: State, number: str) -> tuple[list[str], Order | None]:
    """Orders whose goods go out, and the one that is asked about: the first where none is named."""
    site = state.settings.site
    mine = sorted(
        (o for o in state.all_orders() if not o.inbound and o.site == site and not state.is_cancelled(o.number)),
        key=lambda o: (not o.confirmed, o.number),
    )
    order = state.order(OrderNo(number)) if number else next(iter(mine), None)
    if number and (order is None or order.inbound):
        raise Refusal("unknown_order", f"There is no order `{number}` whose goods go out.", "order")
    return [o.number for o in mine[:300]], order


@api.post("/drafts/<id>/bench/papers", responses={200: PapersView, **PROBLEMS})
@needs(Right.LOOK)
def bench_papers(path: ById, body: PapersBody) -> PapersView:
    """A paper of an order and the labels of its cartons, as if it were packed now by the draft. Nothing is stored."""
    with wired(current_app).database.transaction() as conn:
        found = seen_draft(conn, path.id)
        with asked_state(conn, found, body.world, alone=True) as state:
            mine, order = _asked(state, body.order)
            made = papers_of(state, found.rulebook, order, body.paper) if order else None
            prints = [preview(state.ground, p) for p in made.prints] if made else []
            return PapersView(found=made, prints=prints, orders=mine)


@api.get("/drafts/<id>/bench/papers/<paper>.pdf", responses={200: {"content": {"application/pdf": {}}}, **PROBLEMS})
@needs(Right.LOOK)
def bench_paper_pdf(path: BenchPaperPath, query: BenchPaperQuery) -> Response:
    """The same as PDF."""
    with wired(current_app).database.transaction() as conn:
        draft = seen_draft(conn, path.id)
        with asked_state(conn, draft, query.world or None, alone=True) as state:
            _, order = _asked(state, query.order)
            if order is None:
                raise Refusal("unknown_order", "No order goes out from here.", "order")
            made = papers_of(state, draft.rulebook, order, path.paper).pages
            title = f"{TITLES[path.paper]} of {order.number}, supposed"
            return shown_pdf(pdf(made, title), f"{order.number}-{path.paper.value}")
