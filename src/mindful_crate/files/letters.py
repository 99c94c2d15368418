"""Messages between host and floor written down: JSON, CSV, and UBL (see :mod:`mindful_crate.files.ubl`); orders and
notices are read back from all three. Quantities are base units.
"""

from __future__ import annotations

import csv
import io
import json
import re
from typing import Any, cast, get_args

from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.notices import Notice
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.topics import OrderTopic, Topic
from mindful_crate.core.plain import Misfit, from_plain, to_plain
from mindful_crate.core.record import record
from mindful_crate.core.world.acts import HostAnnounces, HostTells
from mindful_crate.core.world.letters import Letter
from mindful_crate.files.cells import MEANT, guarded, unguarded, whole
from mindful_crate.files.reading import Unreadable, decoded, from_json
from mindful_crate.files.ubl import bad, from_ubl, ubl_text

MESSAGE_ID = r"[\x21-\x7e]{1,60}"
"""A message id of a host's own: printable, without blanks."""
MOST_BYTES = 4_000_000
"""A message is no longer than that."""
FORMS = ("json", "csv", "ubl")
DELIVERY = ("shipped", "ship_to", "carrier", "service", "ship_by", "priority", "channel", "notice_needed", "transfer")
"""Columns of an order's file that may be left out, and are the same in every line."""


@record
class Told:
    """What a host tells in a file: its message id, and an order or an advance notice. The id is in effect once."""

    message: str
    topic: Topic
    order: Order | None = None
    notice: Notice | None = None

    @property
    def act(self) -> HostTells | HostAnnounces:
        """What it asks of the floor; :class:`BadText` when it tells nothing."""
        if self.notice is not None:
            return HostAnnounces(self.notice)
        if self.order is None or self.topic not in get_args(OrderTopic):
            raise bad(self.message, "It tells neither an order nor a notice.")
        return HostTells(cast(OrderTopic, self.topic), self.order)


# Out


def letter_text(letter: Letter, form: str, ground: Ground) -> str:
    """A message in one of :data:`FORMS`."""
    if form == "csv":
        return _csv(letter)
    if form == "ubl":
        return ubl_text(letter, ground)
    return json.dumps(to_plain(letter), indent=1, ensure_ascii=False) + "\n"


def _csv(letter: Letter) -> str:
    out = io.StringIO()
    head = {"message": letter.message, "topic": letter.topic}
    rows: list[dict[str, Any]] = []
    order, receipt = letter.order, letter.receipt
    if order:
        fixed = {**head, "number": order.number, "kind": order.kind.value, "site": order.site, "partner": order.partner, "promised": order.promised, **_delivery_cells(order)}  # fmt: skip
        rows = [
            {**fixed, "no": x.no, "item": x.item, "unit": x.unit, "quantity": x.quantity, "net_price": x.net_price, "lot": x.lot, "serials": ";".join(x.serials), "line_promised": x.promised or ""}
            for x in order.lines
        ]  # fmt: skip
    if receipt:
        fixed = {**head, "receipt": receipt.number, "plate": receipt.plate, "site": letter.site}
        marked = {(m.order, m.order_line): m for m in receipt.returned}
        rows = [{**fixed, "order": x.order, "order_line": x.order_line, "item": x.item, "quantity": x.quantity, "lot": x.lot, "expiry": x.expiry or "", "delivery_note": x.note, "serials": ";".join(x.serials)} for x in receipt.lines]  # fmt: skip
        if marked:
            for row in rows:
                m = marked.get((row["order"], row["order_line"]))
                row |= {"mark": m.mark if m else "", "status": m.status.value if m else "", "credit": "yes" if m and m.credit else "no", "held": m.held if m else ""}  # fmt: skip
    if letter.notice:
        notice = letter.notice
        rows = [
            {**head, "notice": notice.number, "order": notice.order, "plate": p.number, "plate_kind": p.plate_kind, "order_line": x.order_line, "item": x.item, "unit": x.unit, "quantity": x.quantity, "lot": x.lot, "expiry": x.expiry or "", "serials": ";".join(x.serials)}
            for p in notice.plates for x in p.lines
        ]  # fmt: skip
    if letter.shipment:
        note = letter.shipment
        on = {p.number: p.on or "" for p in note.plates}
        fixed = {**head, "shipment": note.number, "partner": note.partner, "site": letter.site, "carrier": note.carrier or "", "service": note.service, "truck": note.truck or ""}  # fmt: skip
        rows = [
            {**fixed, "order": x.order, "order_line": x.order_line, "item": x.item, "quantity": x.quantity, "lot": x.lot, "expiry": x.expiry or "", "serials": ";".join(x.serials), "plate": x.plate or "", "on": on.get(x.plate, "") if x.plate else ""}
            for x in note.lines
        ]  # fmt: skip
    if letter.count:
        fixed = {**head, "count": letter.count.number, "site": letter.site, "why": letter.count.why}
        rows = [
            {**fixed, "bin": x.bin, "item": x.item, "lot": x.lot, "expiry": x.expiry or "", "status": x.status.value, "plate": x.plate or "", "book": x.book, "counted": x.counted, "difference": x.difference, "by": x.by or ""}
            for x in letter.count.lines
        ]  # fmt: skip
    if rows:
        writer = csv.DictWriter(out, list(rows[0]), lineterminator="\n")
        writer.writeheader()
        writer.writerows({k: guarded(str(v)) for k, v in row.items()} for row in rows)
    return out.getvalue()


def _delivery_cells(order: Order) -> dict[str, Any]:
    """Where an order's goods go, by whom and by when."""
    return {
        "shipped": "yes" if order.shipped else "no", "ship_to": ";".join(order.ship_to), "carrier": order.carrier or "",
        "service": order.service, "ship_by": order.ship_by or "", "priority": order.priority, "channel": order.channel,
        "notice_needed": "yes" if order.notice_needed else "no", "transfer": order.transfer,
    }  # fmt: skip


# In


def read_told(content: bytes, name: str, ground: Ground, site: str) -> Told:
    """What a host tells in a file, by its ending; :class:`BadText` says what is wrong and where."""
    if len(content) > MOST_BYTES:
        raise bad(name, f"It has more than {MOST_BYTES // 1_000_000} MB; send the order in parts.")
    if name.lower().endswith(".xml"):
        plain = from_ubl(content, name, ground, site)
    elif name.lower().endswith(".csv"):
        plain = _from_csv(content, name)
    else:
        plain = json_of(content, name)
        if isinstance(plain, dict):  # a message as it went out may come back: what else stands in it is left aside
            plain = {
                k: v
                for k, v in plain.items()
                if k not in ("site", "sent", "receipt", "partner", "shipment", "count") and v is not None
            }
    try:
        told = from_plain(Told, plain)
    except Misfit as misfit:
        raise bad(f"{name}: {misfit.place}", f"{misfit.says}.") from None
    if not re.fullmatch(MESSAGE_ID, told.message):
        raise bad(f"{name}: message", "A message id has 1 to 60 printable characters, no blanks among them.")
    return told


def json_of(content: str | bytes, name: str) -> Any:
    """What a JSON text holds; :class:`BadText` when it is none, or holds what cannot be taken."""
    try:
        return from_json(content)
    except Unreadable as error:
        raise bad(name, str(error)) from None


def _from_csv(content: bytes, name: str) -> Any:
    try:
        read = csv.DictReader(io.StringIO(decoded(content)))
        rows = [{k: unguarded(v) if isinstance(v, str) else v for k, v in row.items()} for row in read]
    except csv.Error as error:
        raise bad(name, f"This is no CSV: {error}.") from None
    except Unreadable as error:
        raise bad(name, str(error)) from None
    if not rows:
        raise bad(name, "There are no lines in it.")
    if "notice" in rows[0]:
        return _notice_from_csv(rows, name)
    needed = {"message", "topic", "number", "kind", "site", "partner", "promised", "no", "item", "unit", "quantity"}
    missing = sorted(needed - set(rows[0]))
    if missing:
        raise bad(name, f"The columns {', '.join(missing)} are missing.")
    lines = []
    for at, row in enumerate(rows, start=2):
        same = (
            "message",
            "topic",
            "number",
            "kind",
            "site",
            "partner",
            "promised",
            *(c for c in DELIVERY if c in rows[0]),
        )
        other = next((c for c in same if row[c] != rows[0][c]), None)
        if other:
            raise bad(
                f"{name} line {at}", f"{other} is {row[other]!r} here and {rows[0][other]!r} before: one order a file."
            )
        lines.append(
            {
                "no": _whole(row, "no", name, at),
                "item": row["item"],
                "unit": row["unit"],
                "quantity": _whole(row, "quantity", name, at),
                "net_price": row.get("net_price") or "0",
                **_said(lot=row.get("lot"), serials=_parts(row.get("serials")), promised=row.get("line_promised")),
            }
        )
    first = rows[0]
    return {
        "message": first["message"], "topic": first["topic"],
        "order": {
            "number": first["number"], "kind": first["kind"], "site": first["site"], "partner": first["partner"],
            "promised": first["promised"], "lines": lines,
            **_said(
                shipped=first.get("shipped") == "yes", ship_to=_parts(first.get("ship_to")), carrier=first.get("carrier"),
                service=first.get("service"), ship_by=first.get("ship_by"), channel=first.get("channel"),
                priority=_whole(first, "priority", name, 2) if first.get("priority") else None,
                notice_needed=first.get("notice_needed") == "yes", transfer=first.get("transfer"),
            ),
        },
    }  # fmt: skip


def _said(**fields: Any) -> dict[str, Any]:
    """The fields that say anything; the others are left to what an order says anyway."""
    return {name: said for name, said in fields.items() if said}


def _parts(text: str | None) -> list[str]:
    return [part for p in (text or "").split(";") if (part := p.strip())]


def _notice_from_csv(rows: list[dict[str, str]], name: str) -> Any:
    needed = {"message", "order", "plate", "plate_kind", "order_line", "item", "unit", "quantity"}
    missing = sorted(needed - set(rows[0]))
    if missing:
        raise bad(name, f"The columns {', '.join(missing)} are missing.")
    plates: dict[str, Any] = {}
    for at, row in enumerate(rows, start=2):
        plate = plates.setdefault(row["plate"], {"number": row["plate"], "plate_kind": row["plate_kind"], "lines": []})
        plate["lines"].append(
            {
                "order_line": _whole(row, "order_line", name, at), "item": row["item"], "unit": row["unit"],
                "quantity": _whole(row, "quantity", name, at), "lot": row.get("lot") or "", "expiry": row.get("expiry") or None,
                **_said(serials=_parts(row.get("serials"))),
            }
        )  # fmt: skip
    notice = {"number": rows[0]["notice"], "order": rows[0]["order"], "plates": list(plates.values())}
    return {"message": rows[0]["message"], "topic": "announce", "notice": notice}


def _whole(row: dict[str, str], column: str, name: str, at: int) -> int:
    try:
        return whole(row[column])
    except (TypeError, ValueError):
        says = f"{str(row[column])[:40]!r} in column {column} is not {MEANT[whole]}."
        raise bad(f"{name} line {at}", says) from None
