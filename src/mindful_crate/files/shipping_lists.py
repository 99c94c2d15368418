"""Papers of a shipment as PDF, by reportlab: packing list by order, loading list, bill of lading, a sheet for each pallet."""

from __future__ import annotations

from io import BytesIO
from typing import Any

from reportlab.lib.pagesizes import A4
from reportlab.lib.units import mm
from reportlab.platypus import PageBreak, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from mindful_crate.core.proving.dock_board import CartonContent, CartonShown
from mindful_crate.core.proving.shipping_papers import TITLES, OrderPart, Paper, Papers
from mindful_crate.files.labels import PLAIN, fonts
from mindful_crate.files.pick_lists import GRID, HEAD, LARGE, TEXT, bars, safe

_PLAIN_ROWS = TableStyle([("FONTNAME", (0, 1), (-1, -1), PLAIN), ("FONTSIZE", (0, 1), (-1, -1), 9)])


MOST_NUMBERS = 60
"""So many serial numbers stand in one row: a row is never larger than a page."""


def pdf(found: Papers, paper: Paper) -> bytes:
    """A4 pages. Every page says of which shipment it is, and when it was made."""
    fonts()
    made = f"{found.made:%Y-%m-%d %H:%M} UTC"
    stands = "as it left" if found.left else f"as it stood {made}"

    def foot(canvas: Any, document: Any) -> None:
        canvas.saveState()
        canvas.setFont(PLAIN, 8)
        canvas.drawString(15 * mm, 10 * mm, f"{TITLES[paper]} of {found.shipment}, {stands}.")
        canvas.drawRightString(195 * mm, 10 * mm, f"page {document.page}")
        canvas.restoreState()

    page = BytesIO()
    document = SimpleDocTemplate(
        page, pagesize=A4, leftMargin=15 * mm, rightMargin=15 * mm, topMargin=15 * mm, bottomMargin=18 * mm,
        title=f"{TITLES[paper]} {found.shipment}", author="Mindful Crate",
    )  # fmt: skip
    document.build(_STORIES[paper](found), onFirstPage=foot, onLaterPages=foot)
    return page.getvalue()


def _text(text: str, style: Any = TEXT) -> Paragraph:
    return Paragraph(safe(text), style)


def _head(title: str, code: str) -> Table:
    return Table([[_text(f"{title} {code}", HEAD), bars(code)]])


def _to(found: Papers) -> list[Any]:
    by = ", ".join(x for x in (found.carrier, found.service, f"truck {found.truck}" if found.truck else "") if x)
    return [
        _text(f"From {found.site}"), Spacer(0, 2 * mm),
        *(_text(x, LARGE if n == 0 else TEXT) for n, x in enumerate((found.partner, *found.address))),
        *([_text(f"By {by}")] if by else []), Spacer(0, 4 * mm),
    ]  # fmt: skip


def _lines(content: tuple[CartonContent, ...], *, orders: bool = False) -> Table:
    rows: list[list[Any]] = [["Line", "Item", "", "How many"]]
    for x in content:
        more = [f"lot {x.lot}"] if x.lot else []
        more += [", ".join(x.serials[:MOST_NUMBERS])] if x.serials else []
        rows.append(
            [
                f"{x.order}/{x.line}" if orders else str(x.line), x.item,
                [_text(x.name), *(_text(m) for m in more)], x.much,
            ]
        )  # fmt: skip
        for at in range(MOST_NUMBERS, len(x.serials), MOST_NUMBERS):
            rows.append(["", "", _text(", ".join(x.serials[at : at + MOST_NUMBERS])), ""])
    first = 35 * mm if orders else 15 * mm
    table = Table(rows, colWidths=[first, 32 * mm, 108 * mm - first, 40 * mm], repeatRows=1, style=GRID)
    table.setStyle(_PLAIN_ROWS)
    return table


def _packing(found: Papers) -> list[Any]:
    story: list[Any] = []
    for n, order in enumerate(found.orders):
        story += [PageBreak()] if n else []
        story += _of_order(order, found)
    return story


def _of_order(order: OrderPart, found: Papers) -> list[Any]:
    story: list[Any] = [_head("Packing list", order.order)]
    story += [_text(x) for x in (order.partner, *order.ship_to)]
    story.append(_text(f"Shipment {found.shipment}"))
    for number, kind, content in order.cartons:
        story += [Spacer(0, 4 * mm), _text(f"{kind} {number}", LARGE), _lines(content)]
    if order.loose:
        story += [Spacer(0, 4 * mm), _text("Without a carton", LARGE), _lines(order.loose)]
    if not order.cartons and not order.loose:
        story += [Spacer(0, 4 * mm), _text("Nothing of it is packed yet.")]
    if order.rest:
        story += [Spacer(0, 5 * mm), _text("Not in this shipment: " + "; ".join(order.rest) + ".")]
    return story


def _tops(found: Papers) -> list[CartonShown]:
    return [c for c in found.cartons if c.on is None]


def _loading(found: Papers) -> list[Any]:
    rows: list[list[Any]] = [["", "Carton or pallet", "Kind", "Weight", "Stands", "Loaded"]]
    inside = {c.number: [x for x in found.cartons if x.on == c.number] for c in found.cartons}
    for n, c in enumerate(_tops(found), start=1):
        kind = c.kind + (f" with {len(inside[c.number])}" if inside[c.number] else "")
        rows.append([str(n), c.number, kind, c.weight, c.at or c.stands, "☒" if c.loaded or found.left else "☐"])
        rows += [["", f"   {x.number}", x.kind, x.weight, "", ""] for x in inside[c.number]]
    for x in found.loose:
        rows.append(["", "loose", _text(x.name), x.much, "", "☒" if found.left or x.order in found.loaded else "☐"])
    table = Table(rows, colWidths=[8 * mm, 52 * mm, 48 * mm, 26 * mm, 30 * mm, 16 * mm], repeatRows=1, style=GRID)
    table.setStyle(_PLAIN_ROWS)
    sign = _text("Loaded by ______________________      Driver ______________________")
    return [_head("Loading list", found.shipment), *_to(found), table, Spacer(0, 12 * mm), sign]


def _bill(found: Papers) -> list[Any]:
    rows: list[list[Any]] = [["Pieces", "What", "Weight"]]
    kinds: dict[str, list[CartonShown]] = {}
    for c in _tops(found):
        kinds.setdefault(c.kind or "plate", []).append(c)
    for kind, some in kinds.items():
        weights = ", ".join(dict.fromkeys(c.weight for c in some if c.weight))
        names = sorted(
            {x.name for c in found.cartons if c in some or c.on in {s.number for s in some} for x in c.content}
        )
        rows.append([str(len(some)), [_text(kind, LARGE), _text(", ".join(names))], _text(weights)])
    if found.loose:
        rows.append([str(len(found.loose)), _text("Loose: " + ", ".join(sorted({x.name for x in found.loose}))), ""])
    table = Table(rows, colWidths=[18 * mm, 122 * mm, 40 * mm], repeatRows=1, style=GRID)
    table.setStyle(_PLAIN_ROWS)
    orders = ", ".join(o.order for o in found.orders)
    return [
        _head("Bill of lading", found.shipment), *_to(found), _text(f"Orders: {orders}"), Spacer(0, 3 * mm), table, Spacer(0, 8 * mm),
        _text("Received in apparent good order, except as noted:"), Spacer(0, 14 * mm),
        _text("For the sender ______________________      For the carrier ______________________      Date ____________"),
    ]  # fmt: skip


def _pallets(found: Papers) -> list[Any]:
    story: list[Any] = []
    for n, c in enumerate(_tops(found)):
        story += [PageBreak()] if n else []
        mine = [x for x in found.cartons if x.on == c.number]
        story += [_head(c.kind or "Plate", c.number), *_to(found)]
        if c.content:
            story.append(_lines(c.content, orders=True))
        for x in mine:
            weight = f", {x.weight}" if x.weight else ""
            story += [Spacer(0, 4 * mm), _text(f"{x.kind} {x.number}{weight}", LARGE), _lines(x.content, orders=True)]
    return story or [_head("Pallet sheet", found.shipment), _text("There is no carton and no pallet.")]


_STORIES = {
    Paper.PACKING_LIST: _packing,
    Paper.LOADING_LIST: _loading,
    Paper.BILL: _bill,
    Paper.PALLETS: _pallets,
}
