"""Documents that are settled leave the state; whoever asks for one is answered as if it were there."""

from __future__ import annotations

import pytest

from mindful_crate.core.catalog.ids import OrderNo, PlateNo, SiteCode, TaskNo
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.floor.messages import MessageState
from mindful_crate.core.floor.state import Settings, State, WorldKind
from mindful_crate.core.floor.tasks import TaskState
from mindful_crate.core.floor.topics import HostStandIn
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.work.host.decide import in_host
from mindful_crate.core.world import acts
from mindful_crate.core.world.chain import chain
from mindful_crate.core.world.changes import changes
from mindful_crate.core.world.decide import decide
from mindful_crate.core.world.fold import apply
from mindful_crate.core.world.world import World
from mindful_crate.demo.loader import demo_rehearsals, demo_rules
from tests.core.test_host import written
from tests.core.test_loose import at
from tests.core.test_rehearse import ran
from tests.core.test_world import pallet
from tests.playbook import STARTS, Play, barcode, from_snapshot, new_world


class Hoarder(State):
    """A state that lets nothing go."""

    def settle(self) -> None:
        pass


def answers_as_if_all_were_here(world: World) -> None:
    """A hoarder would have decided every command of a world the same, and tells the same of every document."""
    here, all_ = world.state, Hoarder(world.state.ground, world.state.settings)
    for entry in world.log:
        assert decide(all_, world.rulebook, entry.command) == entry
        apply(all_, entry)
    assert changes(here) == changes(all_)
    tasks, receipts, messages = all_.tasks, all_.receipts, all_.messages
    assert list(tasks.values()) == here.tasks.every() and list(messages.values()) == here.messages.every()
    assert list(receipts.values()) == here.receipts.every()
    assert not any(t.state.ended for t in here.tasks.values())
    refs = [Ref(DocKind.PLATE, r.plate) for r in receipts.values() if not r.loose]
    refs += [d.ref for keeper in (tasks, receipts, messages) for d in keeper.values()]
    refs += [Ref(DocKind.ORDER, o.number) for o in all_.all_orders() if o.site == world.state.settings.site]
    for ref in refs:
        assert chain(here, ref) == chain(all_, ref) and chain(here, ref, short=True) == chain(all_, ref, short=True)
        if ref.kind is DocKind.ORDER:
            assert in_host(here, OrderNo(ref.number)) == in_host(all_, OrderNo(ref.number))
        assert [m.number for m in here.messages_about(ref.number)] == [
            m.number for m in all_.messages_about(ref.number)
        ]


@pytest.mark.parametrize("script", demo_rehearsals(), ids=lambda s: s.id)
def test_a_rehearsal_goes_as_if_nothing_had_left(ground: Ground, script) -> None:  # type: ignore[no-untyped-def]
    """Every entry, every chain, what the host and the desk are told."""
    answers_as_if_all_were_here(ran(script, ground, demo_rules(script.site, ground))[1])


def test_what_is_settled_is_out_of_the_snapshot_and_still_answered(ground: Ground, rulebook: Rulebook) -> None:
    """A pallet that was put away and booked: nothing of it waits, refusals and the lookup know it, loaded or not."""
    play = pallet(ground, rulebook, book_seconds=0)
    assert play.state.receipts.every()[0].booked
    for state in (play.state, from_snapshot(play.state)):
        kept = state.kept()
        assert not kept.plans and not kept.going and not kept.receipts and not kept.messages
        task = state.task_of(PlateNo("LPR-000417"))
        assert task and task.state is TaskState.DONE and state.has_task(task.number)
        assert not state.has_task(TaskNo("TR-0999")) and not state.has_task(TaskNo("TR-" + "9" * 30))
        assert not state.tasks.plans.of_plate and not state.messages._about and not state.tasks._unplaced
    play.world.state = from_snapshot(play.state)
    play.opens("F-PUTAWAY").scan("LPR-000417").refused("task_done", "put away").scan("TR-0204").refused("task_done")
    play.do(acts.HoldTask(TaskNo("TR-0204"), "x")).refused("task_done")
    play.do(acts.BookReceipt(play.state.receipts.every()[0].number)).refused("already_booked")
    play.do(acts.RepeatMessage(play.state.messages.every()[0].number)).refused("answered", "was accepted")


def test_goods_received_loose_leave_with_their_receipt(ground: Ground) -> None:
    """Who finished it is still said, by the receipt's number; it is no plate in any list."""
    play = at(ground, SiteCode("GL")).opens("F-RECEIVE").scan("GL-502").scan("CLT-15").type("20").press("finish").done()
    plates = {p.number for p in play.state.plates.values()}
    play.opens("F-PUTAWAY").scan("CLT-15").scan(play.state.tasks.every()[0].to_bin).done().do(acts.Wait(600))
    (receipt,) = play.state.receipts.every()
    for state in (play.state, from_snapshot(play.state)):
        kept = state.kept()
        assert not kept.cards and not kept.receipts and not kept.plans and not kept.messages
        assert plates - {p.number for p in state.plates.values()} == {receipt.plate}
    play.world.state = from_snapshot(play.state)
    play.do(acts.FinishPlate(receipt.plate)).refused("plate_finished", "Receipt `RCR-0093` was finished by @oren")
    answers_as_if_all_were_here(play.world)


def test_a_receipt_stays_while_its_goods_are_put_away(ground: Ground, rulebook: Rulebook) -> None:
    """Booked before its plate is placed; the task that ends last takes it along."""
    play = Play(pallet(ground, rulebook, book_seconds=0).world)
    play.confirm("PO-1001").opens("F-RECEIVE").scan("PO-1001").scan(barcode(ground, "SHK-08", "box")).type("4")
    play.press("finish").press("leave")
    (receipt,) = play.state.receipts.values()
    assert not receipt.loose
    while not play.state.receipts[receipt.number].booked:
        play.do(acts.Wait(60))
    assert list(play.state.receipts) == [receipt.number] and not list(play.state.messages)
    play.opens("F-PUTAWAY").scan(str(receipt.plate)).scan(play.question().expect).done()
    assert not list(play.state.receipts) and not list(play.state.tasks.values())
    answers_as_if_all_were_here(play.world)


def test_a_message_that_comes_again_is_found_and_settles_again(ground: Ground, rulebook: Rulebook) -> None:
    """A real host answers once more long after: the message is back for that entry, counted, and settled again."""
    outside = Settings(SiteCode("HQ"), STARTS, WorldKind.LIVE, host=HostStandIn(outside=True))
    play = Play(World(ground, outside, rulebook, lambda at: at.date()))
    play.opens("F-RECEIVE").scan("PO-1001").scan(barcode(ground, "SHK-08", "box")).type("4").press("finish")
    (sent,) = play.state.to_send()
    for n in range(3):
        assert [*play.state.messages] == ([] if n else [sent.number])
        play.do(acts.HostAnswers(sent.number)).done("came a second time" if n else "booked")
    assert play.state.messages[sent.number].heard_again == 2 and not list(play.state.messages)
    answers_as_if_all_were_here(play.world)


def test_a_refused_message_stays_until_a_later_one_is_accepted(ground: Ground, rulebook: Rulebook) -> None:
    """It may be repeated; once it is overtaken it is settled, and repeating it is refused by that reason."""
    play = Play(new_world(ground, rulebook)).confirm("PO-1007").do(acts.Wait(60)).opens("F-RECEIVE").scan("PO-1007")
    play.scan(barcode(ground, "ROPE-12", "coil")).scan("P-02-01-1").type("2").press("finish")
    play.do(written(play, "PO-1007", line1=200)).do(acts.Wait(60))
    (refused,) = (m for m in play.state.messages.values() if m.from_host)
    assert refused.state is MessageState.REFUSED and "refused" in in_host(play.state, OrderNo("PO-1007")).floor
    play.do(written(play, "PO-1007", line1=600)).do(acts.Wait(60))
    assert not [m for m in play.state.messages.values() if m.from_host]
    assert in_host(play.state, OrderNo("PO-1007")).floor == "knows it"
    play.do(acts.RepeatMessage(refused.number)).refused("overtaken", refused.number)
    answers_as_if_all_were_here(play.world)
