"""Goods that leave: the dock board, shipments with their cartons, pack stations, devices and carriers; and how a draft would pack an order."""

from __future__ import annotations

from flask import Response, current_app
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field, RootModel

from mindful_crate.api.benches import asked_state
from mindful_crate.api.doors import needs
from mindful_crate.api.drafts import seen_draft
from mindful_crate.api.rights import Right
from mindful_crate.api.shapes import PROBLEMS, ById
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.api.worlds import world_row
from mindful_crate.core.catalog.ids import DeviceId, OrderNo, ShipmentNo
from mindful_crate.core.floor.devices import CarrierStandIn, Scale
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
from mindful_crate.core.proving.rehearse import open_dialogue
from mindful_crate.core.proving.shipping_papers import Paper, papers
from mindful_crate.core.work.packing.prompts import BENCH
from mindful_crate.files.shipping_lists import pdf

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
    """A scale stand-in, and how it is in words."""

    station: str
    name: str
    bin: str
    scale: Scale
    says: str


class CarrierView(Answer):
    """A carrier stand-in, its services, and what is booked with it."""

    code: str
    name: str
    services: list[str]
    stand_in: CarrierStandIn
    booked: list[str]


class DevicesView(Answer):
    """Scales and carriers of a floor."""

    scales: list[ScaleView]
    carriers: list[CarrierView]


class PackBody(Body):
    """An order that is to be packed by the draft; none: the first that goes out."""

    order: str = Field(default="", max_length=40)
    world: str | None = Field(default=None, max_length=80)


class PackedView(Answer):
    """How it would be packed, and the orders that may be asked about."""

    packed: PackedOrder | None
    orders: list[str]


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
            found = papers(w.state, w.rulebook, ShipmentNo(path.shipment), path.paper)
    headers = {"Content-Disposition": f'inline; filename="{found.shipment}-{path.paper.value}.pdf"'}
    return Response(pdf(found, path.paper), mimetype="application/pdf", headers=headers)


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
        with parts.worlds.reading(conn, path.id) as w:
            state = w.state
            scales = [
                ScaleView(station=s.code, name=s.name, bin=s.bin, scale=state.scales.get(s.code) or Scale(), says=s.scale)
                for s in stations(state) if s.scale
            ]  # fmt: skip
            carriers = [
                CarrierView(
                    code=c.code, name=c.name, services=list(c.services), stand_in=state.carriers_set.get(c.code) or CarrierStandIn(),
                    booked=sorted(x.shipment for x in state.carriages.values() if x.carrier == c.code and not x.refused),
                )
                for c in w.ground.opening.carriers
            ]  # fmt: skip
            return DevicesView(scales=scales, carriers=carriers)


@api.post("/drafts/<id>/bench/packing", responses={200: PackedView, **PROBLEMS})
@needs(Right.LOOK)
def bench_packing(path: ById, body: PackBody) -> PackedView:
    """How an order would be packed by the draft: which cartons, what lies where, and what each carrier takes. Nothing is stored."""
    with wired(current_app).database.transaction() as conn:
        found = seen_draft(conn, path.id)
        with asked_state(conn, found, body.world, alone=True) as state:
            site = state.settings.site
            mine = sorted(
                (
                    o
                    for o in state.all_orders()
                    if not o.inbound and o.site == site and not state.is_cancelled(o.number)
                ),
                key=lambda o: (not o.confirmed, o.number),
            )
            order = state.order(OrderNo(body.order)) if body.order else next(iter(mine), None)
            if body.order and (order is None or order.inbound):
                raise Refusal("unknown_order", f"There is no order `{body.order}` whose goods go out.", "order")
            packed = packed_order(state, found.rulebook, order) if order else None
            return PackedView(packed=packed, orders=[o.number for o in mine[:300]])
