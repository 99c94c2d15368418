"""The world is a log: one outcome a command, the same log the same world, rewinding, the host by the clock."""

from __future__ import annotations

import json
from dataclasses import replace
from datetime import timedelta

import pytest

from mindful_crate.core.catalog.ids import PlateNo, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.state import Settings, State, WorldKind
from mindful_crate.core.plain import canonical
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.steps import BookingPoint, PutAwayStep
from mindful_crate.core.world import acts
from mindful_crate.core.world.changes import changes
from mindful_crate.core.world.decide import enact_if
from mindful_crate.core.world.events import Done, Entry
from mindful_crate.core.world.fold import apply
from mindful_crate.core.world.invariants import broken
from mindful_crate.core.world.tray import tray
from mindful_crate.core.world.versions import read_entry, stored
from mindful_crate.core.world.world import World
from tests.playbook import STARTS, Play, barcode, new_world


def pallet(ground: Ground, rulebook: Rulebook, **host: int) -> Play:
    """A pallet of rope received, finished, taken and placed, with a refusal on the way."""
    play = Play(new_world(ground, rulebook, **host)).confirm("PO-1007").opens("F-RECEIVE").scan("PO-1007")
    play.scan(barcode(ground, "ROPE-12", "coil")).scan("P-02-01-1").type("10").press("finish").press("leave")
    play.opens("F-PUTAWAY").scan("LPR-000417")
    return play.scan(play.question().expect).done()


def test_the_same_commands_give_the_same_log_byte_for_byte(ground: Ground, rulebook: Rulebook) -> None:
    """Twice from the start, and folded from the log alone: equal to the last byte."""
    one, two = pallet(ground, rulebook).world, pallet(ground, rulebook).world
    assert canonical(tuple(one.log)) == canonical(tuple(two.log))
    folded = State(ground, one.state.settings)
    for entry in one.log:
        apply(folded, read_entry(json.loads(json.dumps(stored(entry)))))
    assert canonical(folded.kept()) == canonical(one.state.kept())
    assert broken(folded) == []


def test_a_snapshot_at_any_point_is_as_good_as_the_log(ground: Ground, rulebook: Rulebook) -> None:
    """Kept and loaded after each entry, then folded on: the same state, with the same indexes."""
    world = pallet(ground, rulebook).world
    state = State(ground, world.state.settings)
    for entry in world.log:
        state = State.load_snapshot(ground, world.state.settings, json.loads(json.dumps(state.keep())), state.past)
        apply(state, entry)
        assert broken(state) == []
    assert state.kept() == world.state.kept()
    assert all(state.held(code) == world.state.held(code) for code in ground.bins)


def test_what_is_not_written_changes_nothing(ground: Ground, rulebook: Rulebook) -> None:
    """Others were quicker, or the log is out of reach, when it was decided: all is as before, indexes too; asked again it is the same, and then it stays."""
    play = Play(new_world(ground, rulebook)).confirm("PO-1007").opens("F-RECEIVE").scan("PO-1007")
    play.scan(barcode(ground, "ROPE-12", "coil")).type("10")
    world, state = play.world, play.state
    finish = replace(world.log[-1].command, act=acts.FinishPlate(PlateNo("LPR-000417")))
    before, told = canonical(state.kept()), changes(state)

    made: list[Entry] = []

    def others_were_quicker(entry: Entry) -> bool:
        made.append(entry)
        return False

    def out_of_reach(entry: Entry) -> bool:
        raise ConnectionError

    assert enact_if(state, rulebook, finish, others_were_quicker) is None
    with pytest.raises(ConnectionError):
        enact_if(state, rulebook, finish, out_of_reach)
    assert canonical(state.kept()) == before and changes(state) == told and broken(state) == []
    assert enact_if(state, rulebook, finish, lambda entry: True) == made[0]
    assert isinstance(made[0].outcome, Done)
    assert state.seq == made[0].seq and canonical(state.kept()) != before and broken(state) == []


def test_a_command_sent_twice_is_answered_as_the_first_time(ground: Ground, rulebook: Rulebook) -> None:
    """Done or refused, the second time changes nothing and says the same."""
    play = Play(new_world(ground, rulebook)).opens("F-RECEIVE")
    first = play.do(acts.ConfirmOrder("PO-1007"), "same").last  # type: ignore[arg-type]
    again = play.do(acts.ConfirmOrder("PO-1007"), "same").last  # type: ignore[arg-type]
    assert again is first
    refused = play.do(acts.ConfirmOrder("PO-1007"), "other").refused("already_confirmed").last  # type: ignore[arg-type]
    assert play.do(acts.ConfirmOrder("PO-1007"), "other").last is refused  # type: ignore[arg-type]
    assert [e.seq for e in play.world.log] == list(range(1, len(play.world.log) + 1))


def test_a_refusal_takes_its_place_and_changes_nothing_else(ground: Ground, rulebook: Rulebook) -> None:
    """Only the place in the log and the clock move."""
    play = Play(new_world(ground, rulebook)).opens("F-RECEIVE")
    before = play.state.kept()
    play.scan("NONSENSE").refused("unknown_code")
    after = play.state.kept()
    assert replace(after, seq=before.seq, clock=before.clock) == before
    assert after.seq == before.seq + 1


def test_rewinding_makes_a_child_and_leaves_the_parent(ground: Ground, rulebook: Rulebook) -> None:
    """A child goes on from an earlier point under another rulebook; the parent keeps its log."""
    play = pallet(ground, rulebook)
    parent = play.world
    finish = next(e.seq for e in parent.log if isinstance(e.command.act, acts.Press))
    off = replace(rulebook, step_plans=(replace(rulebook.step_plans[0], put_away=PutAwayStep(False)),))
    before = canonical(tuple(parent.log))
    child = Play(parent.branch(finish - 1, off))
    child.press("finish").done("arrived in `RCV-01`")
    assert len(child.state.tasks.every()) == 0
    assert child.state.standing("RCV-01")[0].receipt == "RCR-0093", "numbers go on from where the child began"
    assert canonical(tuple(parent.log)) == before
    with pytest.raises(ValueError, match="entries 1 to"):
        parent.branch(999)


def test_the_host_answers_by_the_worlds_clock(ground: Ground, rulebook: Rulebook) -> None:
    """Arrived and booked are apart until the host has answered; time passes only as the log says."""
    play = pallet(ground, rulebook, book_seconds=3600, confirm_seconds=0)
    line = play.state.line_progress("PO-1007", 1)
    assert (line.arrived, line.booked) == (2000, 0)
    assert changes(play.state).waiting == ("book receipt RCR-0093",)
    play.do(acts.BookReceipt("RCR-0093")).refused("already_sent")  # type: ignore[arg-type]
    play.do(acts.Wait(3600)).done()
    line = play.state.line_progress("PO-1007", 1)
    assert (line.arrived, line.booked) == (2000, 2000)
    answered = play.world.log[-1]
    assert answered.command.stamp.actor == "host"
    play.do(acts.Wait(0)).refused("bad_wait").do(acts.HostAnswers("MR-0001")).refused("answered")  # type: ignore[arg-type]


def test_the_host_confirms_late(ground: Ground, rulebook: Rulebook) -> None:
    """Until it has, the order is not on the handset, and asking again is refused with the reason."""
    play = (
        Play(new_world(ground, rulebook, confirm_seconds=120))
        .confirm("PO-1007")
        .confirm("PO-1007")
        .refused("already_sent")
    )
    play.opens("F-RECEIVE").scan("PO-1007").refused("not_confirmed").do(acts.Wait(120)).scan("PO-1007").asks("item")
    play.confirm("PO-0000").refused("unknown_order")


@pytest.mark.parametrize(
    ("point", "booked"), [(BookingPoint.PLATE_FINISHED, 2000), (BookingPoint.PUT_AWAY, 0), (BookingPoint.BY_HAND, 0)]
)
def test_the_booking_point_decides_when_the_host_is_told(
    ground: Ground, rulebook: Rulebook, point: BookingPoint, booked: int
) -> None:
    """At the finished plate, at put-away, or by hand from the office."""
    book = replace(rulebook, step_plans=(replace(rulebook.step_plans[0], booking=point),))
    play = Play(new_world(ground, book)).confirm("PO-1007").opens("F-RECEIVE").scan("PO-1007")
    play.scan(barcode(ground, "ROPE-12", "coil")).type("10").press("finish").press("leave")
    assert play.state.line_progress("PO-1007", 1).booked == booked
    play.opens("F-PUTAWAY").scan("LPR-000417").scan("B-02-01-1").done()
    if point is BookingPoint.BY_HAND:
        assert play.state.line_progress("PO-1007", 1).booked == 0
        play.do(acts.BookReceipt("RCR-0093")).done("told").do(acts.BookReceipt("RCR-0093")).refused("already_booked")  # type: ignore[arg-type]
        play.do(acts.BookReceipt("RCR-7777")).refused("unknown_receipt")  # type: ignore[arg-type]
    assert play.state.line_progress("PO-1007", 1).booked == 2000


def test_a_bin_that_no_longer_holds_is_asked_for_again(ground: Ground, rulebook: Rulebook) -> None:
    """Blocked on the way: the rules are asked again, the trail says so, and the plate is still carried."""
    play = Play(new_world(ground, rulebook)).confirm("PO-1007").opens("F-RECEIVE").scan("PO-1007")
    play.scan(barcode(ground, "ROPE-12", "coil")).type("10").press("finish").press("leave").opens("F-PUTAWAY").scan(
        "LPR-000417"
    )
    play.do(acts.BlockBin("B-02-01-1", "wet floor")).done("wet floor").do(acts.BlockBin("B-0", "x")).refused(
        "unknown_bin"
    )  # type: ignore[arg-type]
    play.scan("B-02-01-1").done("wet floor", "Take the plate to `B-01-03-1`").asks("bin", expect="B-01-03-1")
    assert play.last and play.last.outcome.trails[0].rule == "BR-3"  # type: ignore[union-attr]
    play.do(acts.BlockBin("B-02-01-1")).done("free to use").scan("B-01-03-1").done()  # type: ignore[arg-type]
    assert broken(play.state) == []


def test_lines_of_other_plans_do_not_share_a_plate(ground: Ground, rulebook: Rulebook) -> None:
    """A line whose next step differs from that of the plate is refused, naming both plans."""
    orders = tuple(
        replace(o, kind="transfer", shipped=True) if o.number == "PO-1001" else o for o in ground.opening.orders
    )
    from mindful_crate.core.catalog.goods import OrderKind

    orders = tuple(replace(o, kind=OrderKind(o.kind)) for o in orders)
    other = replace(
        rulebook.step_plans[0],
        id="SP-2",
        name="Transfers stay",
        order_kind=OrderKind.TRANSFER,
        put_away=PutAwayStep(False),
    )
    ground2 = Ground(replace(ground.opening, orders=orders))
    play = (
        Play(new_world(ground2, replace(rulebook, step_plans=(rulebook.step_plans[0], other))))
        .opens("F-RECEIVE")
        .scan("PO-1008")
    )
    play.scan(barcode(ground, "FEN-15", "pc")).type("2").press("other_order").scan("PO-1001").scan(
        barcode(ground, "SHK-08", "box")
    )
    play.refused("other_plan", "Purchase receipts", "Transfers stay", "Finish this one")


def test_every_code_of_the_scan_tray_does_what_it_says(ground: Ground, rulebook: Rulebook) -> None:
    """At every question of a run there is a right code and a wrong one, and each is answered as the tray says."""
    play = pallet(ground, rulebook)
    seen: set[str] = set()
    for entry in play.world.log:
        if entry.command.stamp.device != "H1":
            continue
        world: World = play.world.branch(entry.seq)
        dialogue = next((d for d in world.state.dialogues.values() if d.open), None)
        if dialogue is None:
            continue
        stamp = replace(entry.command.stamp, id="try", at=world.state.clock + timedelta(seconds=10))
        codes = tray(world.state, rulebook, stamp, dialogue)
        asks = Play(world).question().asks
        seen.add(asks)
        assert any(not c.taken for c in codes), asks
        assert any(c.taken for c in codes) or asks == "task", asks
        for code in codes:
            again = Play(play.world.branch(entry.seq)).scan(code.text, code.how.value)
            assert again.last and again.last.says == code.says
    assert {"order", "item", "quantity", "task", "bin"} <= seen


def test_numbers_that_plates_of_the_opening_bear_are_passed_over(ground: Ground, rulebook: Rulebook) -> None:
    """The demo's live series stands below plates in stock: a new plate gets the next free number, none loses its goods."""
    settings = Settings(SiteCode("HQ"), STARTS, WorldKind.LIVE)
    world = World(ground, settings, rulebook, lambda at: at.date())
    taken = ground.series["plate"].next
    assert PlateNo(f"LP-{taken:06}") in ground.plates
    play = Play(world).confirm("PO-1007").opens("F-RECEIVE").scan("PO-1007").scan(barcode(ground, "ROPE-12", "coil"))
    play.type("10").done("Plate `LP-000487` made")
    assert world.state.next_numbers["plate"] == 488 and broken(world.state) == []
    play.press("finish").done("arrived")
    assert play.world.state.plate(PlateNo(f"LP-{taken:06}")) == State(ground, settings).plate(PlateNo(f"LP-{taken:06}"))
    assert broken(world.state) == []
