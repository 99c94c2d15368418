"""Sites without plates: goods received loose, put away by the piece; a stockroom that is one place."""

from __future__ import annotations

import re
from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mindful_crate.core.catalog.ids import BinCode, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.state import Settings
from mindful_crate.core.proving.agreement import agreement
from mindful_crate.core.proving.findings.finding import usable
from mindful_crate.core.proving.findings.whole import findings
from mindful_crate.core.proving.journey import journey
from mindful_crate.core.proving.recording import record
from mindful_crate.core.proving.rehearse import run
from mindful_crate.core.proving.script import Rehearsal
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.choices import choices
from mindful_crate.core.rulebook.flows import PlateBy
from mindful_crate.core.rulebook.starter import starter
from mindful_crate.core.rulebook.steps import BookingPoint, PutAwayStep
from mindful_crate.core.rulebook.words.parts import words_of
from mindful_crate.core.rulebook.words.scanner import flow_sentence
from mindful_crate.core.world import acts
from mindful_crate.core.world.chain import chain, find
from mindful_crate.core.world.invariants import broken
from mindful_crate.core.world.world import World
from mindful_crate.files import gs1
from tests.playbook import STARTS, Play, barcode, from_snapshot
from tests.properties import tried

GL, SW = SiteCode("GL"), SiteCode("SW")


def at(ground: Ground, site: SiteCode, **more: Any) -> Play:
    """The first rules of a site, and its floor."""
    book = starter("First", ground, site)
    if more:
        book = replace(book, step_plans=tuple(replace(p, **more) for p in book.step_plans))
    return Play(World(ground, Settings(site, STARTS), book, lambda at: at.date()), crews=("floor",))


@pytest.mark.parametrize("site", [GL, SW])
def test_first_rules_suit_a_site_without_plates(ground: Ground, site: SiteCode) -> None:
    """No plates are built, nothing blocks, and the stockroom has no put-away to tell nobody where."""
    book = starter("First", ground, site)
    found = findings(book, ground, site)
    assert usable(found), [f.says for f in found if f.severity.value == "blocks"]
    receive = next(f for f in book.flows if f.purpose == "receive")
    assert receive.plate_by is PlateBy.NONE
    assert book.step_plans[0].put_away.on == (site == GL)
    assert book.step_plans[0].receive.into == ("GL-COUNTER" if site == GL else "SLIPWAY")


def test_a_site_of_one_room_reads_as_one(ground: Ground) -> None:
    """Nothing is missing that it does not need: whatever the bench lists agrees, the room can be chosen, and no plate is
    spoken of."""
    play = at(ground, SW)
    book, room = play.world.rulebook, ground.bins[BinCode("SLIPWAY")]
    order = next(o for o in ground.orders.values() if o.site == SW and o.inbound and o.confirmed)
    pairs = agreement(play.state, book, ground.items[order.lines[0].item], room, order)
    assert pairs and [p.says for p in pairs if not p.holds] == []
    receiving = choices("receive_into", ground, SW, lambda zone: (0, 0))
    assert receiving and "SLIPWAY" in [c.value for c in receiving.choices]
    flow = next(f for f in book.flows if f.purpose == "receive")
    told = words_of(flow_sentence(flow)) + " ".join(journey(book, ground, order).stations)
    assert "plate" not in told.replace("A new plate is not built", "")


def test_loose_goods_are_received_and_put_away(ground: Ground) -> None:
    """Two items on one receipt become tasks by bin; a scan of the item takes its task; other bins are judged; the chain
    leads from the order to the bins, and it is booked."""
    play = at(ground, GL).opens("F-RECEIVE").scan("GL-501").asks("item")
    play.scan(barcode(ground, "SHK-08", "box")).type("4").done("Receipt `RCR-0093` begun")
    assert len(play.state.receipts.every()) == 0
    assert all(p.bin is None for p in play.state.building())
    play.scan("RNG-8").type("60").done().press("finish").done("Receipt `RCR-0093` finished", "arrived in `GL-COUNTER`")
    tasks = list(play.state.tasks.every())
    assert {t.goods[0].item for t in tasks} == {"SHK-08", "RNG-8"}
    assert sum(t.goods[0].quantity for t in tasks) == 260
    assert play.state.quantity_in("GL-COUNTER", "SHK-08") == 200
    assert broken(play.state) == []
    play.opens("F-PUTAWAY").asks("task", "Scan what is put away").scan("CLT-15").refused(
        "no_task", "waits to be put away"
    )
    while any(t.state != "done" for t in play.state.tasks.every()):
        task = next(t for t in play.state.tasks.every() if t.state != "done")
        play.scan(barcode(ground, task.goods[0].item, "pc")).asks("bin", expect=task.to_bin)
        assert broken(play.state) == []
        play.scan("L-01").press("no") if task.number.endswith("4") else play.scan(task.to_bin)
        if play.state.tasks[task.number].state != "done":
            play.scan(task.to_bin)
        play.done(f"placed in `{task.to_bin}`")
    assert play.state.quantity_in("GL-COUNTER", "SHK-08") == 0
    assert broken(play.state) == []
    docs = chain(play.state, find(play.state, "RCR-0093"))  # type: ignore[arg-type]
    told = [d.says for d in docs if d.kind.value == "task"]
    assert told and all(re.match(r"put away [\d,]+ .+ of .+ from `", says) for says in told), told
    assert [d.kind.value for d in docs if d.kind != "message"] == ["order", "receipt", *["task"] * len(tasks)]
    receipt = next(d for d in docs if d.kind == "receipt")
    assert [s.word for s in receipt.stages] == ["noted", "noted", "arrived", "booked"]
    assert {r.number for r in receipt.after} >= {t.number for t in tasks}


def test_what_is_no_longer_there_is_not_taken(ground: Ground) -> None:
    """Somebody moved the goods off the counter meanwhile: the task says what should lie there, and nothing is lost."""
    play = at(ground, GL).opens("F-RECEIVE").scan("GL-502").scan("CLT-15").type("20").press("finish").done()
    other = play.other("mara", "H2")
    other.crews = play.crews
    other.do(acts.TakeGoods("F-MOVE", "GL-COUNTER", "CLT-15", 5)).done()  # type: ignore[arg-type]
    play.opens("F-PUTAWAY").scan("CLT-15").refused("not_there", "20 pieces", "15 pieces")
    assert broken(play.state) == []


def test_a_stockroom_asks_for_no_bin(ground: Ground) -> None:
    """Received, it is in the stockroom and booked; no task, and no question where."""
    play = at(ground, SW).opens("F-RECEIVE").scan("SW-71")
    play.scan(barcode(ground, "SOAP-5", "case")).type("2").press("finish").done("arrived in `SLIPWAY`.")
    assert play.state.quantity_in("SLIPWAY", "SOAP-5") == 22 + 12
    assert len(play.state.tasks.every()) == 0
    assert play.state.line_progress("SW-71", 1).booked == 12
    book = starter("First", ground, SW)
    on = replace(book, step_plans=(replace(book.step_plans[0], put_away=PutAwayStep(True)),))
    assert "put_away_nowhere" in {f.code for f in findings(on, ground, SW)}


def test_plates_and_loose_do_not_mix(ground: Ground, rulebook: Rulebook) -> None:
    """A flow that builds plates is refused where the bin takes none and the check says so beforehand; a plate of one
    kind of flow is not gone on with in the other."""
    loose = starter("First", ground, GL)
    receive = next(f for f in loose.flows if f.id == "F-RECEIVE")
    plates = replace(loose, flows=tuple(replace(f, plate_by=PlateBy.MADE, plate_kind="PAL") if f is receive else f for f in loose.flows))  # type: ignore[arg-type]  # fmt: skip
    assert "plates_not_taken" in {f.code for f in findings(plates, ground, GL)}
    play = Play(World(ground, Settings(GL, STARTS), plates, lambda at: at.date()), crews=("floor",))
    play.opens("F-RECEIVE").scan("GL-502").scan("CLT-15").type("1").refused("takes_no_plate")
    play = at(ground, GL).opens("F-RECEIVE").scan("GL-502").scan("CLT-15").type("1").done()
    play.press("leave").done("Receipt `RCR-0093` is still open").opens("F-RECEIVE").scan("GL-502").asks("plate")
    play.scan("RCR-0093").scan("SNP-8").type("3").press("finish").done("Receipt `RCR-0093` finished")
    play.opens("F-RECEIVE").scan("GL-501").asks("item")


def test_booking_waits_for_the_last_piece(ground: Ground) -> None:
    """Where it is booked at put-away, the host hears when the last task of the receipt is placed, not before."""
    play = at(ground, GL, booking=BookingPoint.PUT_AWAY).opens("F-RECEIVE").scan("GL-502").scan("CLT-15").type("20")
    play.scan("SNP-8").type("30").press("finish").done().opens("F-PUTAWAY")
    tasks = list(play.state.tasks.every())
    assert len(tasks) >= 2
    for n, task in enumerate(tasks, start=1):
        assert not play.state.receipts["RCR-0093"].told
        play.scan(task.number).scan(task.to_bin).done()
        assert play.state.receipts["RCR-0093"].told == (n == len(tasks))


def test_a_loose_receipt_is_recorded_and_replayed(ground: Ground) -> None:
    """The run as a script gives the same answers."""
    play = at(ground, GL).opens("F-RECEIVE").scan("GL-502").scan("CLT-15").type("20").press("finish").done()
    play.opens("F-PUTAWAY").scan("CLT-15").scan(next(iter(play.state.tasks.every())).to_bin).done()
    head = Rehearsal("r", "Loose", GL, ground.hash, STARTS, ())
    fresh = World(ground, Settings(GL, STARTS), play.world.rulebook, lambda at: at.date())
    script = record(head, tuple(play.world.log), fresh, {}, ())
    result, _ = run(script, ground, play.world.rulebook, lambda at: at.date(), gs1.split)
    assert result.passed
    assert result.first_difference is None


@given(st.data())
@tried(10)
def test_loose_goods_are_never_lost(ground: Ground, data: st.DataObject) -> None:
    """Any mixture of noting, finishing, taking, placing anywhere and moving keeps every invariant, and a snapshot
    stands where the log does."""
    play = at(ground, GL)
    bins = ["GL-COUNTER", "D1-01-1", "D1-01-2", "D2-05-3", "L-01", "GL-DOOR", "P-01-01-1"]
    for _ in range(data.draw(st.integers(4, 18))):
        match data.draw(st.sampled_from(["note", "note", "finish", "take", "place", "move"])):
            case "note":
                number = data.draw(st.sampled_from(["GL-501", "GL-502"]))
                play.press("leave") if play.state.talking("H1") and play.state.talking("H1").open else None
                play.opens("F-RECEIVE").scan(number)
                building = play.state.building()
                if building:
                    play.scan(building[0].number)
                item = data.draw(st.sampled_from([x.item for x in play.state.order(number).lines]))
                play.scan(item).type(str(data.draw(st.integers(1, 70))))
            case "finish":
                for plate in play.state.building():
                    play.do(acts.FinishPlate(plate.number)).done()
            case "take":
                for task in [t for t in play.state.tasks.every() if t.state == "open"][:1]:
                    play.do(acts.Take(task.number))
            case "place":
                for task in [t for t in play.state.tasks.every() if t.state == "taken" and t.need == "put_away"][:1]:
                    play.do(acts.Place(task.number, data.draw(st.sampled_from([task.to_bin or "L-01", *bins]))))
            case _:
                item = data.draw(st.sampled_from(["SHK-08", "CLT-15", "SNP-8"]))
                play.do(acts.TakeGoods("F-MOVE", data.draw(st.sampled_from(bins[:3])), item, data.draw(st.integers(1, 30))))  # type: ignore[arg-type]  # fmt: skip
        assert broken(play.state) == []
    assert from_snapshot(play.state).kept() == play.state.kept()
    assert broken(from_snapshot(play.state)) == []
