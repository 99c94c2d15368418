"""What stands on the papers of a shipment: packing lists by order, loading list, bill of lading, pallet sheets; as it is now, or as it left."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from datetime import datetime
from itertools import groupby

from mindful_crate.core.catalog.ids import ItemCode, OrderNo, PlateNo, ShipmentNo, TruckNo
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.cartons import loose_load
from mindful_crate.core.floor.pages import PaperPage, PaperTable
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve, record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.papers import Along, Column, Paper, PaperForm
from mindful_crate.core.rulebook.words.papers import TITLES
from mindful_crate.core.work.leaving.contents import CartonContent, CartonShown, contents
from mindful_crate.core.work.leaving.looking import open_tasks
from mindful_crate.core.work.leaving.places import truck_for
from mindful_crate.core.work.packing.looking import kilos


@record
class OrderPart:
    """What of an order leaves: carton by carton, and loose; ``rest`` is what stays open of it, in words."""

    order: OrderNo
    partner: str
    ship_to: tuple[str, ...]
    cartons: tuple[tuple[PlateNo, str, tuple[CartonContent, ...]], ...]
    loose: tuple[CartonContent, ...]
    rest: tuple[str, ...]


@record
class Papers:
    """Everything the papers say."""

    shipment: ShipmentNo
    site: str
    partner: str
    address: tuple[str, ...]
    carrier: str
    service: str
    truck: TruckNo | None
    made: datetime
    left: datetime | None
    orders: tuple[OrderPart, ...]
    cartons: tuple[CartonShown, ...]
    loose: tuple[CartonContent, ...]
    loaded: tuple[OrderNo, ...]
    """Orders whose loose goods are on the truck."""
    group: str
    """The group of the partner."""


def papers(state: State, rulebook: Rulebook, number: ShipmentNo, paper: Paper) -> Papers:
    """What a paper of a shipment says. Packing lists are refused while something of the shipment is still picked; a bill of lading, while it has no
    carrier."""
    shown = contents(state, rulebook, number)
    shipment, gone = state.shipments[number], state.departures.get(number)
    if gone is None and paper is Paper.PACKING_LIST and (open_ := open_tasks(state, number)):
        raise Refusal(
            "still_picked", f"`{open_[0]}` of `{number}` is still to be picked: the list would be wrong.", "paper"
        )
    partner = state.ground.partners.get(shipment.leaves.partner)
    code = gone.carrier if gone else shipment.leaves.carrier
    carrier = state.ground.carriers.get(code) if code else None
    if paper is Paper.BILL and carrier is None:
        raise Refusal("no_carrier", f"No carrier drives `{number}` yet, so there is no bill of lading.", "paper")
    service = gone.service if gone else shipment.leaves.service
    truck = gone.truck if gone else truck_for(state, number)
    return Papers(
        number, state.ground.sites[state.settings.site].name, partner.name if partner else shipment.leaves.partner, shipment.leaves.address,
        carrier.name if carrier else "", service, truck, state.clock, gone.at if gone else None,
        tuple(_order(state, o, shown.cartons, shown.loose) for o in shipment.orders), shown.cartons, shown.loose,
        tuple(o for o in shipment.orders if loose_load(o) in state.loaded), partner.group if partner else "",
    )  # fmt: skip


def _order(
    state: State, number: OrderNo, cartons: tuple[CartonShown, ...], loose: tuple[CartonContent, ...]
) -> OrderPart:  # fmt: skip
    order = state.order(number)
    assert order is not None
    partner = state.ground.partners.get(order.partner)
    address = tuple(order.ship_to) or (tuple(partner.address) if partner else ())
    mine = tuple(
        (c.number, c.kind, tuple(x for x in c.content if x.order == number))
        for c in cartons
        if any(x.order == number for x in c.content)
    )
    rest = []
    for line in order.lines:
        here = state.reservations.for_line(LineKey(number, line.no))
        kept = sum(p.goods.quantity for n in here for p in state.reservations[n].parts)
        left = state.ordered.left_to_ship(number, line) - kept
        if left > 0:
            item = state.ground.items[line.item]
            rest.append(f"{item.told(left)} of {item.name}")
    return OrderPart(
        number, partner.name if partner else order.partner, address, mine, tuple(x for x in loose if x.order == number), tuple(rest)
    )  # fmt: skip


MOST_NUMBERS = 60
"""So many serial numbers stand in one row: a row is never larger than a page."""
_WIDE = {
    Column.LINE: 10, Column.ITEM: 16, Column.NAME: 38, Column.LOT: 14, Column.EXPIRY: 13, Column.SERIALS: 24, Column.MUCH: 22,
    Column.PIECES: 11, Column.WEIGHT: 15, Column.CARTON: 29, Column.KIND: 26, Column.STANDS: 17, Column.TRACKING: 24, Column.LOADED: 14,
}  # fmt: skip
_HEADS = {
    Column.LINE: "Line", Column.ITEM: "Item", Column.NAME: "", Column.LOT: "Lot", Column.EXPIRY: "Expires", Column.SERIALS: "Numbers",
    Column.MUCH: "How many", Column.PIECES: "Units", Column.WEIGHT: "Weight", Column.CARTON: "In", Column.KIND: "Kind",
    Column.STANDS: "Stands", Column.TRACKING: "Tracking number", Column.LOADED: "Loaded",
}  # fmt: skip
_TIGHT = (Column.LOT, Column.EXPIRY, Column.SERIALS)
"""What stands beneath the name, where there is a name: most goods have none of it, and no column stays empty."""


def paper_pages(state: State, rulebook: Rulebook, number: ShipmentNo, paper: Paper) -> tuple[PaperPage, ...]:
    """A paper of a shipment by the form that is for its partner."""
    found = papers(state, rulebook, number, paper)
    return pages(state.ground, found, paper, rulebook.form_for(state.settings.site, paper, found.group))


def pages(ground: Ground, found: Papers, paper: Paper, form: PaperForm) -> tuple[PaperPage, ...]:
    """What stands on a paper by its form, page by page."""
    if paper is Paper.PACKING_LIST:
        return tuple(_packing(ground, found, o, form) for o in found.orders)
    if paper is Paper.PALLETS:
        return tuple(_pallet(found, c, form) for c in _tops(found)) or (
            _page(found, paper, form, found.shipment, (), ("There is no carton and no pallet.",)),
        )
    return (_loading(found, form) if paper is Paper.LOADING_LIST else _bill(found, form),)


def _page(
    found: Papers, paper: Paper, form: PaperForm, code: str, tables: tuple[PaperTable, ...], beneath: tuple[str, ...] = (),
    *, title: str = "", says: tuple[str, ...] = (), signed: tuple[str, ...] = (),
) -> PaperPage:  # fmt: skip
    by = ", ".join(x for x in (found.carrier, found.service, f"truck {found.truck}" if found.truck else "") if x)
    return PaperPage(
        title or TITLES[paper], code, (found.partner, *found.address), (f"From {found.site}", *((f"By {by}",) if by else ()), *says),
        form.above or "", tables, (*beneath, *((form.beneath,) if form.beneath else ())), signed, _foot(found, paper),
    )  # fmt: skip


def _foot(found: Papers, paper: Paper) -> str:
    """Which paper it is, and how old."""
    stands = "as it left" if found.left else f"as it stood {found.made:%Y-%m-%d %H:%M} UTC"
    return f"{TITLES[paper]} of {found.shipment}, {stands}."


def _goods_table(
    title: str, content: Iterable[tuple[CartonContent, str]], form: PaperForm, *, orders: bool = False
) -> PaperTable:
    """Goods in the columns of a form, each with the carton it is in. A row has no more numbers than go onto a page; more stand in rows beneath it."""
    named = Column.NAME in form.shows
    shown = [c for c in form.shows if not (named and c in _TIGHT)]
    beneath = [c for c in form.shows if named and c in _TIGHT]
    rows: list[tuple[str, ...]] = []
    for x, carton in content:
        for at in range(0, max(len(x.serials), 1) if Column.SERIALS in form.shows else 1, MOST_NUMBERS):
            cells = {} if at else {
                Column.LINE: f"{x.order}/{x.line}" if orders else str(x.line), Column.ITEM: x.item, Column.NAME: x.name, Column.LOT: x.lot,
                Column.EXPIRY: x.expiry, Column.MUCH: x.much, Column.PIECES: f"{x.pieces:,}", Column.WEIGHT: kilos(x.weight_mg),
                Column.CARTON: carton,
            }  # fmt: skip
            cells[Column.SERIALS] = ", ".join(x.serials[at : at + MOST_NUMBERS])
            lead = {Column.LOT: "lot ", Column.EXPIRY: "expires "}
            under = [lead.get(c, "") + cells[c] for c in beneath if cells.get(c)]
            cells[Column.NAME] = "\n".join([*([cells[Column.NAME]] if cells.get(Column.NAME) else []), *under])
            rows.append(tuple(cells.get(c, "") for c in shown))
    wide = tuple(_WIDE[c] + (12 if orders and c is Column.LINE else 0) for c in shown)
    return PaperTable(title, tuple(_HEADS[c] for c in shown), wide, tuple(rows))


def _packing(ground: Ground, found: Papers, order: OrderPart, form: PaperForm) -> PaperPage:
    if form.along is Along.CARTON:
        tables = [
            _goods_table(f"{kind} {number}".strip(), ((x, number) for x in content), form)
            for number, kind, content in order.cartons
        ]
        if order.loose:
            tables.append(_goods_table("Without a carton", ((x, "") for x in order.loose), form))
    else:
        every = [(x, str(number)) for number, _, content in order.cartons for x in content]
        every += [(x, "") for x in order.loose]
        tables = [_goods_table("", _added_up(ground, every, form.along), form)] if every else []
    beneath = () if tables else ("Nothing of it is packed yet.",)
    if order.rest:
        beneath = (*beneath, "Not in this shipment: " + "; ".join(order.rest) + ".")
    page = _page(
        found, Paper.PACKING_LIST, form, order.order, tuple(tables), beneath, says=(f"Shipment {found.shipment}",)
    )
    return evolve(page, to=(order.partner, *order.ship_to))


def _added_up(
    ground: Ground, every: list[tuple[CartonContent, str]], along: Along
) -> Iterator[tuple[CartonContent, str]]:  # fmt: skip
    """What is in several cartons, once, with all of them."""

    def key(pair: tuple[CartonContent, str]) -> tuple[object, ...]:
        x = pair[0]
        return (x.item, x.line, x.lot) if along is Along.ITEM else (x.line, x.item, x.lot)

    for _, some in groupby(sorted(every, key=key), key=key):
        mine = list(some)
        first, much = mine[0][0], sum(x.pieces for x, _ in mine)
        whole = evolve(
            first, pieces=much, much=ground.items[ItemCode(first.item)].told(much), serials=tuple(n for x, _ in mine for n in x.serials),
            weight_mg=sum(x.weight_mg for x, _ in mine), expiry=", ".join(sorted({x.expiry for x, _ in mine if x.expiry})),
        )  # fmt: skip
        yield whole, "\n".join(dict.fromkeys(carton or "loose" for _, carton in mine))


def _tops(found: Papers) -> list[CartonShown]:
    return [c for c in found.cartons if c.on is None]


def _inside(found: Papers, carton: CartonShown) -> list[CartonShown]:
    return [x for x in found.cartons if x.on == carton.number]


def _loading(found: Papers, form: PaperForm) -> PaperPage:
    def row(c: CartonShown, number: str, kind: str, stands: str, box: str) -> tuple[str, ...]:
        cells = {
            Column.CARTON: number, Column.KIND: kind, Column.WEIGHT: c.weight, Column.STANDS: stands, Column.TRACKING: c.tracking, Column.LOADED: box,
        }  # fmt: skip
        return tuple(cells[x] for x in form.shows)

    rows: list[tuple[str, ...]] = []
    for n, c in enumerate(_tops(found), start=1):
        inner = _inside(found, c)
        kind = c.kind + (f" with {len(inner)}" if inner else "")
        box = "☒" if c.loaded or found.left else "☐"
        rows.append((str(n), *row(c, c.number, kind, c.at or c.stands, box)))
        rows += [("", *row(x, f"   {x.number}", x.kind, "", "")) for x in inner]
    for x in found.loose:
        cells = {
            Column.CARTON: "loose", Column.KIND: f"{x.name}\n{x.much}", Column.WEIGHT: kilos(x.weight_mg),
            Column.LOADED: "☒" if found.left or x.order in found.loaded else "☐",
        }  # fmt: skip
        rows.append(("", *(cells.get(c, "") for c in form.shows)))
    heads = tuple("Carton or pallet" if c is Column.CARTON else _HEADS[c] for c in form.shows)
    table = PaperTable("", ("", *heads), (4, *(_WIDE[c] for c in form.shows)), tuple(rows))
    signed = ("Loaded by", "Driver")
    return _page(found, Paper.LOADING_LIST, form, found.shipment, (table,), signed=signed)


def _bill(found: Papers, form: PaperForm) -> PaperPage:
    kinds: dict[str, list[CartonShown]] = {}
    for c in _tops(found):
        kinds.setdefault(c.kind or "plate", []).append(c)
    rows: list[tuple[str, ...]] = []
    for kind, some in kinds.items():
        numbers = {s.number for s in some}
        names = sorted({x.name for c in found.cartons if c in some or c.on in numbers for x in c.content})
        weight = kilos(sum(c.weight_mg for c in some)) if all(c.weight_mg for c in some) else ""
        rows.append((str(len(some)), f"{kind}\n{', '.join(names)}", weight))
    if found.loose:
        names = sorted({x.name for x in found.loose})
        rows.append((str(len(found.loose)), "Loose\n" + ", ".join(names), ""))
    table = PaperTable("", ("Pieces", "What", "Weight"), (18, 122, 40), tuple(rows), large=(1,))
    orders = ", ".join(o.order for o in found.orders)
    return _page(
        found, Paper.BILL, form, found.shipment, (table,), ("Received in apparent good order, except as noted:",), says=(f"Orders: {orders}",),
        signed=("For the sender", "For the carrier", "Date"),
    )  # fmt: skip


def _pallet(found: Papers, c: CartonShown, form: PaperForm) -> PaperPage:
    tables = [_goods_table("", ((x, "") for x in c.content), form, orders=True)] if c.content else []
    for x in _inside(found, c):
        weight = f", {x.weight}" if x.weight else ""
        tables.append(_goods_table(f"{x.kind} {x.number}{weight}", ((y, "") for y in x.content), form, orders=True))
    return _page(found, Paper.PALLETS, form, c.number, tuple(tables), title=c.kind or "Plate")
