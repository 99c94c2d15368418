"""Live worlds go on by themselves, and a real host's files are in effect once, in order, with a word on each."""

from __future__ import annotations

import json
import uuid
from collections.abc import Iterator
from dataclasses import replace
from datetime import date
from pathlib import Path
from typing import Any

import pytest

from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import MessageNo, NoticeNo, PlateKindCode, PlateNo
from mindful_crate.core.catalog.notices import Notice, NoticeLine, NoticePlate
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.topics import HostStandIn
from mindful_crate.core.scanning.reading import Scan, gs1_check_digit
from mindful_crate.core.world import acts
from mindful_crate.core.world.letters import Letter
from mindful_crate.files.letters import letter_text
from mindful_crate.outside.caretaker import Caretaker
from mindful_crate.store import db
from mindful_crate.store.db import Database
from mindful_crate.store.loaded import Who
from mindful_crate.store.rows import WorldRow
from mindful_crate.store.worlds import Worlds
from tests.playbook import STARTS, barcode

OREN = Who("oren", None, "H1", ("quay",))
TOVE = Who("tove")


class Floor:
    """The demo's live floor, with a caretaker and its folder."""

    def __init__(self, database: Database, folder: Path) -> None:
        self.worlds = Worlds(database)
        self.care = Caretaker(self.worlds, folder)
        self.folder = folder / "HQ"
        with database.transaction() as conn:
            row = db.row(conn, WorldRow, "live_world", site="HQ")
        assert row
        self.id = row.id

    def do(self, act: acts.Act, who: Who = TOVE) -> str:
        return self.worlds.run(self.id, uuid.uuid4().hex, act, who).says

    def look(self) -> Any:
        with self.worlds.database.transaction() as conn, self.worlds.reading(conn, self.id) as w:
            return w.state

    def drop(self, name: str, content: str | bytes) -> None:
        (self.folder / "in").mkdir(parents=True, exist_ok=True)
        (self.folder / "in" / name).write_bytes(content.encode() if isinstance(content, str) else content)

    def notes(self, kind: str) -> dict[str, str]:
        return {p.name.removesuffix(".txt"): p.read_text().strip() for p in (self.folder / kind).glob("*.txt")}

    def receive(self, order: str, code: str, count: str) -> str:
        """A plate of an order, finished; its receipt."""
        self.do(acts.OpenFlow("F-RECEIVE"), OREN)  # type: ignore[arg-type]
        for text in (order, code, count):
            dialogue = self.look().talking("H1").number
            self.do(acts.Answer(dialogue, Scan(text)), OREN)
        self.do(acts.Press(self.look().talking("H1").number, "finish"), OREN)
        return str(max(self.look().receipts))


@pytest.fixture
def floor(dsn: str, tmp_path: Path) -> Iterator[Floor]:
    database = Database(dsn, most=6)
    made = Floor(database, tmp_path / "host")
    yield made
    made.do(acts.SetHost(HostStandIn()))
    database.close()


def order(ground: Ground, number: str, **more: Any) -> Order:
    return replace(ground.orders["PO-1007"], number=number, confirmed=False, **more)  # type: ignore[index]


def told(id_: str, topic: Any, order: Order) -> Letter:
    return Letter(id_, topic, order.site, STARTS, order)  # type: ignore[arg-type]


def test_the_stand_in_answers_without_anybody(floor: Floor, ground: Ground) -> None:
    """In a live world a receipt is booked when its time has come, though nobody touches the world; a look at it changes
    nothing, and a second caretaker finds nothing to do."""
    floor.do(acts.SetHost(HostStandIn(book_seconds=0)))
    receipt = floor.receive("PO-1001", barcode(ground, "SHK-08", "box"), "1")
    floor.care.round()
    seq = floor.look().seq
    assert floor.look().receipts[receipt].booked
    Caretaker(Worlds(floor.worlds.database), None).round()
    floor.care.round()
    assert floor.look().seq == seq


def test_a_bug_in_one_world_stops_no_round(floor: Floor, monkeypatch: pytest.MonkeyPatch) -> None:
    """It is logged, and the caretaker goes on."""
    monkeypatch.setattr(floor.care, "_see_to", lambda row: 1 // 0)
    floor.care.round()


@pytest.mark.parametrize("form", ["json", "csv", "xml"])
def test_an_order_comes_in_as_a_file(floor: Floor, ground: Ground, form: str) -> None:
    """In any of the three forms, once, however often the file is dropped; then changed and cancelled."""
    floor.do(acts.SetHost(HostStandIn(outside=True)))
    number = f"FILE-{form.upper()}"
    whole = order(ground, number)
    less = replace(whole, lines=whole.lines[:1])
    for n, (topic, each) in enumerate((("confirm_order", whole), ("change_order", less))):
        text = letter_text(told(f"{form}-{n}", topic, each), "ubl" if form == "xml" else form, ground)
        floor.drop(f"{n}.{form}", text)
        floor.drop(f"{n}-again.{form}", text)
    floor.care.round()
    state = floor.look()
    assert state.is_confirmed(number)
    assert [(x.item, x.quantity) for x in state.order(number).lines] == [(x.item, x.quantity) for x in less.lines]
    notes = floor.notes("done")
    assert notes[f"0.{form}"] == notes[f"0-again.{form}"] == f"The host confirmed `{number}`, 3 lines."
    assert not list((floor.folder / "in").iterdir())
    floor.drop(
        f"9.{form}", letter_text(told(f"{form}-9", "cancel_order", less), "ubl" if form == "xml" else form, ground)
    )
    floor.care.round()
    assert floor.look().is_cancelled(number)


@pytest.mark.parametrize("form", ["json", "csv", "xml"])
def test_an_advance_notice_comes_in_as_a_file(floor: Floor, ground: Ground, form: str) -> None:
    """As JSON, CSV or UBL despatch advice; what comes out of the message is what went in, lots and dates too."""
    floor.do(acts.SetHost(HostStandIn(outside=True)))
    number = f"ASN-{form.upper()}"
    paint = next(o for o in ground.orders.values() if o.site == "HQ" and any(x.item == "AF-RED-25" for x in o.lines))
    line = next(x for x in paint.lines if x.item == "AF-RED-25")
    whole = replace(paint, number=number, confirmed=False)
    floor.drop("0.json", letter_text(told(f"{form}-o", "confirm_order", whole), "json", ground))
    serial = f"0952000100000{['json', 'csv', 'xml'].index(form):04}"
    sscc = PlateNo(f"{serial}{gs1_check_digit(serial)}")
    goods = NoticeLine(line.no, line.item, ground.items[line.item].base.code, line.quantity, "LOT-7", date(2028, 5, 1))
    notice = Notice(NoticeNo(f"AN-{form}"), whole.number, (NoticePlate(sscc, PlateKindCode("PAL"), (goods,)),))
    letter = Letter(MessageNo(f"{form}-n"), "announce", whole.site, STARTS, notice=notice)
    floor.drop(f"1.{form}", letter_text(letter, "ubl" if form == "xml" else form, ground))
    floor.care.round()
    assert "announced" in floor.notes("done")[f"1.{form}"], floor.notes("failed")
    assert floor.look().announced(sscc) == (notice, notice.plates[0])


BAD = {
    "torn.json": ('{"message": "x", "to', "This is no JSON"),
    "empty.csv": ("", "There are no lines in it."),
    "latin.csv": (b"message,topic\n\xe9,x\n", "no text in UTF-8"),
    "bomb.xml": ('<!DOCTYPE o [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]><o>&b;</o>', "It defines entities"),
    "other.xml": (
        "<Invoice/>",
        "It is a Invoice; Order, OrderChange, OrderCancellation, DespatchAdvice are read here.",
    ),
    "big.json": (b" " * 4_000_001, "more than 4 MB"),
    "answer.json": ('{"answers": "M-9999", "accepted": "perhaps"}', "accepted"),
    "nobody.json": ('{"answers": "M-9999", "accepted": true}', "There is no message `M-9999`."),
}


def test_what_cannot_be_used_is_put_aside_with_the_reason(floor: Floor, ground: Ground) -> None:
    """Each bad file goes to failed with a sentence; the good one beside them is taken; nothing is left behind."""
    floor.do(acts.SetHost(HostStandIn(outside=True)))
    for name, (content, _) in BAD.items():
        floor.drop(name, content)
    stranger = order(ground, "FILE-X", partner="V-NOBODY")
    floor.drop("stranger.json", letter_text(told("s-1", "confirm_order", stranger), "json", ground))
    floor.drop("good.json", letter_text(told("g-1", "confirm_order", order(ground, "FILE-G")), "json", ground))
    floor.care.round()
    notes = floor.notes("failed")
    for name, (_, says) in BAD.items():
        assert says in notes[name], notes
    assert "partner `V-NOBODY` does not exist" in notes["stranger.json"]
    assert set(floor.notes("done")) == {"good.json"}
    assert not list((floor.folder / "in").iterdir())
    assert floor.look().order("FILE-X") is None


def test_messages_are_put_out_and_answered(floor: Floor, ground: Ground) -> None:
    """A file waits in out until the host answers; a refusal comes back and can be repeated."""
    floor.do(acts.SetHost(HostStandIn(outside=True)))
    receipt = floor.receive("PO-1001", barcode(ground, "SHK-08", "box"), "1")
    floor.care.round()
    (file,) = [p for p in (floor.folder / "out").iterdir() if receipt in p.read_text()]
    letter = json.loads(file.read_text())
    assert (letter["topic"], letter["receipt"]["lines"][0]["item"]) == ("book_receipt", "SHK-08")
    floor.drop("no.json", json.dumps({"answers": letter["message"], "accepted": False, "reason": "no such account"}))
    floor.care.round()
    assert floor.look().receipts[receipt].refused == "no such account"
    assert not file.exists()
    floor.do(acts.RepeatMessage(letter["message"]))
    floor.care.round()
    assert file.exists()
    floor.drop("yes.json", json.dumps({"answers": letter["message"], "accepted": True}))
    floor.drop("yes-again.json", json.dumps({"answers": letter["message"], "accepted": True}))
    floor.care.round()
    assert floor.look().receipts[receipt].booked
    assert "a second time" in floor.notes("done")["yes.json"] + floor.notes("done")["yes-again.json"]
    assert not file.exists()
