"""What the studio needs of the catalogue: items, orders, plate kinds, the map; and codes drawn as barcodes."""

from __future__ import annotations

from functools import lru_cache
from typing import Any, Literal

from flask import Response, current_app
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field
from zint import InputMode, Symbology
from zint import Symbol as Zint

from mindful_crate.api.doors import check_site, needs
from mindful_crate.api.maps import SiteMap, site_map
from mindful_crate.api.openings import opening_state
from mindful_crate.api.rights import Right
from mindful_crate.api.shapes import PROBLEMS, ById
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.core.problem import Refusal

api = APIBlueprint("ground", __name__, url_prefix="/api", abp_tags=[Tag(name="ground")], doc_ui=WITH_DOCUMENT)


class UnitView(Answer):
    """A unit of an item."""

    code: str
    name: str
    plural: str
    quantity: int


class ItemView(Answer):
    """An item for choosing."""

    code: str
    name: str
    group: str
    tracking: str
    hazard_class: str
    units: list[UnitView]


class OrderLineView(Answer):
    """A line of an order."""

    no: int
    item: str
    name: str
    told: str
    quantity: int
    unit: str


class OrderView(Answer):
    """An order for choosing."""

    number: str
    partner: str
    confirmed: bool
    inbound: bool
    lines: list[OrderLineView]


class PlateKindView(Answer):
    """A kind of plate."""

    code: str
    name: str


class PartnerView(Answer):
    """Somebody we deal with."""

    code: str
    name: str
    shelf_life_days: int


class GroundView(Answer):
    """The catalogue behind a draft."""

    site: str
    site_name: str
    time_zone: str
    items: list[ItemView]
    orders: list[OrderView]
    plate_kinds: list[PlateKindView]
    partners: list[PartnerView]
    homes: list[str]
    """Items that are at home on some shelf of the site."""
    map: SiteMap


class BarcodeQuery(Body):
    """What to draw."""

    text: str = Field(min_length=1, max_length=120)
    symbol: Literal["code128", "gs1datamatrix"] = "code128"


@api.get("/drafts/<id>/ground", responses={200: GroundView, **PROBLEMS})
@needs(Right.LOOK)
def ground(path: ById) -> GroundView:
    """The catalogue behind a draft."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        row = parts.drafts.get(conn, path.id).row
        check_site(row.site)
        found = parts.worlds.ground(conn, row.opening)
    site = next(s for s in found.sites.values() if s.code == row.site)
    items = [
        ItemView(
            code=i.code, name=i.name, group=i.group, tracking=i.tracking.value, hazard_class=i.hazard_class or "",
            units=[UnitView(code=u.code, name=u.name, plural=u.plural, quantity=u.quantity) for u in i.units],
        )
        for i in found.items.values()
    ]  # fmt: skip
    orders = [
        OrderView(
            number=o.number, partner=found.partners[o.partner].name, confirmed=o.confirmed, inbound=o.inbound,
            lines=[
                OrderLineView(
                    no=x.no, item=x.item, name=found.items[x.item].name, quantity=x.quantity, unit=x.unit,
                    told=found.items[x.item].told(x.quantity),
                )
                for x in o.lines
            ],
        )
        for o in found.orders.values()
        if o.site == row.site
    ]  # fmt: skip
    return GroundView(
        site=site.code, site_name=site.name, time_zone=site.time_zone, items=items, orders=orders,
        plate_kinds=[PlateKindView(code=k.code, name=k.name) for k in found.opening.plate_kinds],
        partners=[PartnerView(code=p.code, name=p.name, shelf_life_days=p.shelf_life_days) for p in found.partners.values()],
        homes=sorted({h.item for h in found.opening.home_bins if found.site_of(h.bin) == row.site}),
        map=site_map(opening_state(found, row.site), site.code),
    )  # fmt: skip


@api.get("/barcode.svg", responses={200: {"content": {"image/svg+xml": {}}}, **PROBLEMS})
@needs(Right.LOOK)
def barcode(query: BarcodeQuery) -> Response:
    """A code drawn as a real barcode."""
    return Response(
        drawn(query.text, query.symbol), mimetype="image/svg+xml", headers={"Cache-Control": "max-age=86400"}
    )


@lru_cache(maxsize=2000)
def drawn(text: str, symbol: str) -> bytes:
    """SVG of a barcode, by zint; GS1 text has its identifiers in brackets."""
    drawing = Zint()
    try:
        if symbol == "gs1datamatrix":
            drawing.symbology = Symbology.DATAMATRIX
            drawing.input_mode = InputMode.GS1
            drawing.encode(text.replace("(", "[").replace(")", "]"))
        else:
            drawing.symbology = Symbology.CODE128
            drawing.show_text = False
            drawing.height = 22
            drawing.encode(text)
    except Exception as error:
        raise Refusal("undrawable", f"`{text}` cannot be drawn as a {symbol} barcode: {error}") from None
    return svg(drawing)


def svg(drawing: Any) -> bytes:
    """The drawing as SVG: black rectangles with a quiet margin, sized by its container."""
    drawing.buffer_vector()
    vector, margin = drawing.vector, 8
    bars = "".join(
        f'<path d="M{r.x + margin:g} {r.y + margin:g}h{r.width:g}v{r.height:g}h{-r.width:g}z"/>'
        for r in vector.rectangles
    )
    width, height = vector.width + 2 * margin, vector.height + 2 * margin
    head = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {width:g} {height:g}" shape-rendering="crispEdges">'
    return f'{head}<rect width="100%" height="100%" fill="#fff"/>{bars}</svg>'.encode()
