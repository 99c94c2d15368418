"""Load Halloway Quay: its opening state, people, rulebook in force, a draft of it, rehearsals and a live floor."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, date, datetime
from functools import cache
from pathlib import Path

from argon2 import PasswordHasher

from mindful_crate.core.catalog.goods import OrderKind, Tracking
from mindful_crate.core.catalog.ids import (
    BinCode,
    CarrierCode,
    CountNo,
    MessageNo,
    NoticeNo,
    PersonId,
    PlateKindCode,
    PlateNo,
    ReceiptNo,
    ShipmentNo,
    SiteCode,
    TruckNo,
)
from mindful_crate.core.catalog.notices import Notice, NoticeLine, NoticePlate
from mindful_crate.core.catalog.opening import Ground, Opening
from mindful_crate.core.floor.plates import PlateLine
from mindful_crate.core.floor.state import Settings, WorldKind
from mindful_crate.core.proving.script import Rehearsal
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.starter import starter
from mindful_crate.core.world.letters import (
    CorrectedLine,
    CountNote,
    Letter,
    ReceiptNote,
    ShipmentNote,
    ShippedLine,
    ShippedPlate,
)
from mindful_crate.demo.drawings import drawing
from mindful_crate.demo.people import DEMO_PASSWORD, DEMO_PEOPLE
from mindful_crate.files.pictures import taken
from mindful_crate.files.tables import opening_of
from mindful_crate.files.texts import read_path, read_rehearsal, read_rulebook
from mindful_crate.store import db, pictures, rehearsals
from mindful_crate.store.drafts import Drafts
from mindful_crate.store.rows import PersonRow
from mindful_crate.store.worlds import Worlds

HERE = Path(__file__).parent
FOLDER = HERE / "halloway_quay"
SITE = SiteCode("HQ")
OTHERS = {
    SiteCode("GL"): ("gull_lane", "d-2", "Drawers"),
    SiteCode("SW"): ("slipway", "d-3", "One room"),
}
"""The other sites: their folder, their draft, and its name. A parts store whose bins take no plates, and a stockroom
without bins."""


def demo_opening() -> Opening:
    """The opening state of the demo: three sites, read as files that somebody brings in."""
    return opening_of("Halloway Quay", [FOLDER, *(HERE / folder for folder, _, _ in OTHERS.values())])


def demo_rulebook() -> Rulebook:
    """The rulebook of the demo."""
    return read_rulebook(read_path(FOLDER / "rulebook.json"))


def demo_rules(site: SiteCode, ground: Ground) -> Rulebook:
    """The rules a site of the demo begins with: the other sites have first rules of their own."""
    return starter(ground.sites[site].name, ground, site) if site in OTHERS else demo_rulebook()


@cache
def demo_rehearsals() -> tuple[Rehearsal, ...]:
    """The rehearsals of the demo, of all its sites, by file name."""
    folders = (FOLDER, *(HERE / folder for folder, _, _ in OTHERS.values()))
    found = [p for folder in folders for p in (folder / "rehearsals").glob("*.yaml")]
    return tuple(read_rehearsal(read_path(p), p.name) for p in sorted(found, key=lambda p: p.name))


def demo_letters(opening: Opening) -> list[tuple[str, Letter]]:
    """A message of each kind about the demo's goods, for the page that tells how they are written."""
    sent = datetime(2026, 3, 3, 9, 15, tzinfo=UTC)
    item = next(i for i in opening.items if i.tracking is Tracking.LOT_EXPIRY)
    order = next(o for o in opening.orders if o.inbound and any(x.item == item.code for x in o.lines))
    line = next(x for x in order.lines if x.item == item.code)
    plate, lot, expiry = PlateNo("395200010000000012"), "L2603-7", date(2027, 9, 30)
    site, kind = order.site, opening.plate_kinds[-1].code
    coming = NoticeLine(line.no, line.item, item.base.code, line.quantity, lot, expiry)
    notice = Notice(NoticeNo("AN-0001"), order.number, (NoticePlate(plate, kind, (coming,)),))
    arrived = PlateLine(1, order.number, line.no, line.item, line.unit, line.quantity, lot, expiry)
    note = ReceiptNote(ReceiptNo("R-0001"), plate, (arrived,), PersonId("oren"), sent)
    whole = replace(order, kind=OrderKind.TRANSFER, lines=(replace(line, unit=item.base.code),), shipped=True)
    sale = next(o for o in opening.orders if o.kind is OrderKind.SALES and o.site == site)
    out, carton = sale.lines[0], PlateNo("395200010000000029")
    gone = ShippedLine(sale.number, out.no, out.item, out.quantity, plate=carton)
    left = ShipmentNote(
        ShipmentNo("SH-0001"), sale.partner, ("3 Slip Lane", "Ardle Sound"), CarrierCode("TIDE"), "next day", TruckNo("TK-74"), PersonId("oren"), sent,
        (gone,), (ShippedPlate(carton, PlateKindCode("M"), 4_210_000),),
    )  # fmt: skip
    fewer = CorrectedLine(BinCode("P-01-01-1"), item.code, 24, 22, -2, lot, expiry, by=PersonId("mara"))
    counted = CountNote(CountNo("CS-0001"), "due by Shelves", (fewer,))
    return [
        ("Orders: `confirm_order`, `change_order`, `cancel_order`", Letter(MessageNo("ext-4711"), "confirm_order", site, sent, order=whole)),
        ("Advance notices: `announce`", Letter(MessageNo("ext-4712"), "announce", site, sent, notice=notice, partner=order.partner)),
        ("Receipts: `note_arrival`, `book_receipt`", Letter(MessageNo("M-0001"), "book_receipt", site, sent, receipt=note, partner=order.partner)),
        ("Shipments: `book_shipment`, `undo_shipment`", Letter(MessageNo("M-0002"), "book_shipment", site, sent, shipment=left)),
        ("Counts: `book_count`", Letter(MessageNo("M-0003"), "book_count", site, sent, count=counted)),
    ]  # fmt: skip


def loaded(database: db.Database) -> bool:
    """Is the demo there already?"""
    with database.transaction() as conn:
        return bool(db.rows(conn, PersonRow, "people"))


def load(database: db.Database) -> None:
    """Load the demo into an empty database, all of it or nothing."""
    worlds = Worlds(database)
    drafts = Drafts(worlds)
    password = PasswordHasher().hash(DEMO_PASSWORD)
    with database.transaction() as conn:
        for p in DEMO_PEOPLE:
            db.run(
                conn, "put_person", id=p.id, name=p.name, role=p.role, sites=[SITE, *(OTHERS if p.role in ("analyst", "buyer", "viewer") else ())], crews=list(p.crews), login=p.login,
                password_hash=password,
            )  # fmt: skip
            db.run(conn, "put_where", id=p.id, default_site=p.site, default_flow=p.flow)
        rulebook = demo_rulebook()
        opening = worlds.keep_opening(conn, demo_opening())
        db.run(conn, "put_ground", no=1, opening=opening, says="The demo was loaded.", made_by="ines")
        drafts.create(
            conn, id_="d-1", name="Spring rules", site=SITE, opening=opening, rulebook=rulebook, by="ines", parent=None
        )
        drafts.put_in_force(conn, "d-1", 1, "ines")
        ground = worlds.ground(conn, opening)
        for item in ground.items.values():
            drawn = drawing(item) if item.picture else None
            if drawn:
                pictures.keep(conn, item.picture, taken(drawn), "ines")
        for site, (_, id_, name) in OTHERS.items():
            first = demo_rules(site, ground)
            drafts.create(conn, id_=id_, name=name, site=site, opening=opening, rulebook=first, by="ines", parent=None)
        settings = Settings(SITE, datetime.now(UTC).replace(microsecond=0), WorldKind.LIVE)
        worlds.create(
            conn, name="Halloway Quay floor", settings=settings, opening=opening,
            rulebook=drafts.get(conn, "d-1").row.rulebook, made_by="ines",
        )  # fmt: skip
        for script in demo_rehearsals():
            rehearsals.put(conn, script, "ines", "from the demo")
