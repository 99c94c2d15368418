"""What was written before is read: entries, whole logs, rulebooks and openings of earlier versions, kept as they were."""

from __future__ import annotations

import gzip
import json
from collections.abc import Callable
from datetime import UTC, date, datetime
from decimal import Decimal
from typing import Any

import pytest

from mindful_crate.core.catalog.ids import BinCode, ItemCode, PersonId, PlateKindCode, PlateNo, SiteCode
from mindful_crate.core.catalog.opening import Ground, Opening
from mindful_crate.core.catalog.refs import Ref
from mindful_crate.core.floor.answers import Answers
from mindful_crate.core.floor.state import Settings, State
from mindful_crate.core.plain import Misfit, canonical, digest, from_plain, to_plain
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook import book, versions
from mindful_crate.core.rulebook.edits import Edit, apply_edits
from mindful_crate.core.scanning.kinds import BIN, COUNT, EXPIRY
from mindful_crate.core.work.looking.prompts import LOOKED
from mindful_crate.core.work.moving.from_prompts import GOING
from mindful_crate.core.work.receiving.coming import ORDER
from mindful_crate.core.work.tasks.dialogue import TASKS
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.acts import At, ReserveStock, Stamp
from mindful_crate.core.world.chain import chain, documents
from mindful_crate.core.world.fold import apply, fold
from mindful_crate.core.world.invariants import broken
from mindful_crate.core.world.versions import VERSION, read_entry, stored
from mindful_crate.core.world.world import World
from mindful_crate.demo.loader import demo_rehearsals
from tests.kept import ENDS, SAMPLES, end_of
from tests.playbook import Play, from_snapshot

LOGS = sorted(SAMPLES.glob("v*/*.jsonl"))


@pytest.fixture(scope="module")
def then() -> Ground:
    """The ground the logs stand on."""
    return Ground(from_plain(Opening, json.loads(gzip.decompress((SAMPLES / "v2" / "opening.json.gz").read_bytes()))))


def test_an_opening_keeps_its_hash(ground: Ground, then: Ground) -> None:
    """It stands in every rehearsal and result: what a new field or table would change shows here. The demo's own are made on the
    demo as it is."""
    assert then.hash == "5ad775a5724dda7b70beb81a525b8760"
    assert {r.opening for r in demo_rehearsals()} == {ground.hash}


@pytest.mark.parametrize("log", LOGS, ids=[f"{p.parent.name} {p.stem}" for p in LOGS])
def test_a_whole_log_of_any_version_folds_to_what_was_so(then: Ground, log: Any) -> None:
    """Read entry for entry, folded, sound, at the end as the version that wrote it said; and it can be gone on with."""
    rulebook = versions.read_rulebook(json.loads((SAMPLES / "v2" / "rulebook.json").read_text()))
    settings = Settings(SiteCode("HQ"), datetime(2026, 3, 3, 8, 30, tzinfo=UTC))
    world = World(then, settings, rulebook, lambda at: at.date())
    for line in log.read_text().splitlines():
        entry = read_entry(json.loads(line))
        assert json.loads(line)["version"] == int(log.parent.name[1:]) and read_entry(stored(entry)) == entry
        apply(world.state, entry)
        world.log.append(entry)
        assert broken(world.state) == []
    assert end_of(world.state) == ENDS[log.stem]
    assert from_snapshot(world.state).kept() == world.state.kept()
    for doc in documents(world.state):
        assert chain(world.state, Ref(doc.kind, doc.number))
    Play(world).do(ReserveStock("Ferry", ItemCode("SHK-06"), 1)).done("kept for Ferry")
    assert broken(world.state) == []


def test_a_plate_that_took_the_number_of_an_old_one_is_the_same_after_a_restart(then: Ground) -> None:
    """As 0.5.0's live floors could: the old plate is gone, whether the log is folded or its snapshot read."""
    settings = Settings(SiteCode("HQ"), datetime(2026, 3, 3, 8, 30, tzinfo=UTC))
    state, number = State(then, settings), PlateNo("LP-000417")
    item = State(then, settings).plates[number].goods[0].item
    at = At(1, Stamp("x", settings.starts, settings.starts.date(), PersonId("oren")))
    fold(state, ev.PlateStarted(number, PlateKindCode("PAL"), BinCode("RCV-01"), PersonId("oren")), at)
    again = from_snapshot(state)
    for each in (state, again):
        assert each.plates[number].goods == () and each.bin_of(number) == "RCV-01"
        assert each.bins_with(item) == {x.bin for x in each.lines(item)}
    assert [*state.lines(item)] == [*again.lines(item)] and state.kept() == again.kept()


def test_entries_of_every_version_are_read() -> None:
    """Kept samples of each version; one from the future is refused by name."""
    for plain in json.loads((SAMPLES / "entry_v1.json").read_text()):
        assert to_plain(read_entry(plain))["seq"] == plain["seq"]
    with pytest.raises(Misfit, match="up to version"):
        read_entry({"version": VERSION + 1})


def test_slots_are_read_as_answers() -> None:
    """What a dialogue was told in version 2, what it could step back to, and what it would be after a warning."""
    slots = {"order": "PO-1", "count": "2.5", "tasks": ["T-1"], "going": True, "expiry": "2027-03-31"}
    looked = {"looked": {"kind": "item", "code": "ROPE 12"}}
    doubt = {"asks": "yes_no", "says": "Here?", "then": {**slots, "bin": "B-1"}}
    moved = {"kind": "dialogue_moved", "dialogue": "D-1", "slots": slots, "past": [looked, {}], "doubt": doubt}
    plain = json.loads((SAMPLES / "entry_v1.json").read_text())[0]
    outcome = {"kind": "done", "events": [moved, {"kind": "dialogue_left", "dialogue": "D-1"}], "says": "Done."}
    found = read_entry({**plain, "version": 2, "outcome": outcome})
    assert isinstance(found.outcome, ev.Done)
    event = found.outcome.events[0]
    assert isinstance(event, ev.DialogueMoved) and event.doubt
    assert (event.answers[ORDER], event.answers[COUNT], event.answers[TASKS]) == ("PO-1", Decimal("2.5"), ("T-1",))
    assert event.answers[GOING] and event.answers[EXPIRY] == date(2027, 3, 31) and event.answers[BIN] is None
    assert event.past[0][LOOKED] == ("item", "ROPE 12") and event.past[1] == Answers()
    assert event.doubt.then == event.answers.having(BIN, BinCode("B-1")) and event.doubt.yes == "Place here"


def test_upcasters_run_one_after_the_other() -> None:
    """An entry two versions old goes through both before it is read."""
    plain = json.loads((SAMPLES / "entry_v1.json").read_text())[0]
    old = {
        **plain,
        "version": 1,
        "seq_no": plain["seq"],
        "outcome": {"kind": "refused", "problem": {"code": "x", "says": "y"}},
    }
    del old["seq"]
    steps: dict[int, Callable[[Any], Any]] = {
        1: lambda p: {**p, "seq_two": p["seq_no"]},
        2: lambda p: {k: v for k, v in {**p, "seq": p["seq_two"]}.items() if k not in ("seq_no", "seq_two")},
    }
    found = read_entry(old, steps, 3)
    assert found.seq == plain["seq"] and isinstance(found.outcome, ev.Refused)


def test_a_rulebook_without_a_shape_is_of_the_first() -> None:
    """As installations hold them, under the hash they were stored by; later shapes say theirs; none from the future."""
    text = (SAMPLES / "v2" / "rulebook.json").read_bytes()
    plain = json.loads(text)
    assert "shape" not in plain
    found = versions.read_rulebook(plain)
    assert canonical(found) == text and digest(found) == "46ceeb0e1c5bd8c781bbe9b5af9878e3"
    assert ("shape" in json.loads(canonical(found))) is (book.SHAPE > 1)
    steps: dict[int, Callable[[Any], Any]] = {
        1: lambda p: {**p, "name": p["name"] + "!"},
        2: lambda p: {**p, "name": p["name"] + "?"},
    }
    later = versions.read_rulebook(plain, steps, 3)
    assert (later.shape, later.name) == (3, found.name + "!?") and json.loads(canonical(later))["shape"] == 3
    assert versions.read_rulebook({**plain, "shape": 2}, steps, 3).name == found.name + "?"
    for shape in (0, book.SHAPE + 1, "1", True):
        with pytest.raises(Misfit, match="up to shape"):
            versions.read_rulebook({**plain, "shape": shape})
    with pytest.raises((Misfit, Refusal)):
        versions.read_rulebook(apply_edits(plain, (Edit("set", "shape", book.SHAPE + 1),)))
