"""The host: its orders, and messages that are in effect once, in order, whatever the host does."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mindful_crate.core.catalog.goods import OrderKind, OrderLine
from mindful_crate.core.catalog.ids import OrderNo, SiteCode
from mindful_crate.core.catalog.notices import Notice, NoticeLine, NoticePlate
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.messages import MessageState
from mindful_crate.core.floor.state import Settings, WorldKind
from mindful_crate.core.floor.topics import HostStandIn
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.books import books_of
from mindful_crate.core.proving.on_handset import orders_shown
from mindful_crate.core.proving.recording import record
from mindful_crate.core.proving.rehearse import run
from mindful_crate.core.proving.script import DoScan, Rehearsal, TheOrder
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.steps import BookingPoint
from mindful_crate.core.scanning.reading import gs1_check_digit
from mindful_crate.core.work.host.decide import in_host
from mindful_crate.core.work.host.taking import take_notice
from mindful_crate.core.world import acts, chain
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.invariants import broken
from mindful_crate.core.world.world import World
from mindful_crate.files import gs1
from mindful_crate.files.texts import read_rehearsal, rehearsal_text
from tests.playbook import STARTS, Play, barcode, from_snapshot, making_of, new_world
from tests.properties import tried

QUICK = HostStandIn(book_seconds=2)


def order_of(play: Play, number: str) -> Any:
    return play.state.host_order(number).order


def written(play: Play, number: str, **lines: int) -> acts.WriteOrder:
    """The order as the host has it, with other quantities of some lines (``line1=500``); 0 takes the line out."""
    order = order_of(play, number)
    changed = (replace(x, quantity=lines.get(f"line{x.no}", x.quantity)) for x in order.lines)
    return acts.WriteOrder(replace(order, lines=tuple(x for x in changed if x.quantity)))


def message(play: Play, n: int) -> Any:
    return play.state.messages[f"MR-{n:04}"]


def why_not(play: Play, number: str) -> str:
    shown = next(s for s in orders_shown(play.state, play.world.rulebook) if s.order == number)
    assert not shown.shown
    return shown.says


def test_an_order_is_made_confirmed_changed_and_cancelled(ground: Ground, rulebook: Rulebook) -> None:
    """As its user would in the host; the floor works with what it was told last."""
    play = Play(new_world(ground, rulebook))
    new = replace(ground.orders["PO-1007"], number="PO-2000", lines=ground.orders["PO-1007"].lines[:1])  # type: ignore[index]
    play.do(acts.WriteOrder(replace(new, lines=()))).refused("no_lines")
    play.do(acts.WriteOrder(replace(new, number="po 1"))).refused("bad_number")
    line = OrderLine(1, "NOPE", "pc", 3)  # type: ignore[arg-type]
    play.do(acts.WriteOrder(replace(new, lines=(line,)))).refused("bad_order", "item `NOPE` does not exist")
    play.do(acts.WriteOrder(new)).done("not confirmed yet")
    assert why_not(play, "PO-2000").startswith("Not confirmed")
    play.opens("F-RECEIVE").scan("PO-2000").refused("not_confirmed")
    play.do(written(play, "PO-2000", line1=600)).done().confirm("PO-2000").done()
    play.scan("PO-2000").asks("item")
    play.do(written(play, "PO-2000", line1=400)).done("The floor will hear of it")
    assert play.state.order("PO-2000").lines[0].quantity == 400
    play.do(written(play, "PO-2000", line1=400)).refused("nothing_changed")
    play.scan(barcode(ground, "ROPE-12", "coil")).type("1")  # 200 m of the 400
    play.do(written(play, "PO-2000", line1=100)).done()
    assert message(play, 3).state is MessageState.REFUSED
    assert "200 m of line 1 are here already" in message(play, 3).says
    assert play.state.order("PO-2000").lines[0].quantity == 400
    play.do(acts.CancelOrder("PO-2000")).done()  # type: ignore[arg-type]
    assert "being built" in message(play, 4).says
    play.press("finish").done().do(acts.RepeatMessage("MR-0004")).done()  # type: ignore[arg-type]
    assert message(play, 4).state is MessageState.ANSWERED
    assert why_not(play, "PO-2000") == "Cancelled in the host."
    play.opens("F-RECEIVE").scan("PO-2000").refused("order_cancelled")
    assert broken(play.state) == []


def test_an_order_open_in_the_office_waits(ground: Ground, rulebook: Rulebook) -> None:
    """The handset says who has it open since when, and so does the list of why; others may not change it."""
    play = Play(new_world(ground, rulebook)).confirm("PO-1007")
    office = play.other("ines", "")
    office.do(acts.OpenOrder("PO-1007")).done()  # type: ignore[arg-type]
    play.opens("F-RECEIVE").scan("PO-1007").refused("order_held", "@ines has it open for editing", "since 08:30")
    assert "@ines has it open for editing" in why_not(play, "PO-1007")
    play.do(written(play, "PO-1007", line1=1000)).refused("opened_for_editing", "@ines")
    office.do(written(play, "PO-1007", line1=1000)).done().do(acts.CloseOrder("PO-1007")).done()  # type: ignore[arg-type]
    play.scan("PO-1007").asks("item")
    assert order_of(play, "PO-1007").lines[0].quantity == 1000


def test_an_order_forgotten_open_is_free_again(ground: Ground, rulebook: Rulebook) -> None:
    """Ten minutes after the last thing done to it; before, somebody else takes it over, by name, and then is the one to save."""
    play = Play(new_world(ground, rulebook)).confirm("PO-1007")
    office = play.other("ines", "")
    office.do(acts.OpenOrder("PO-1007")).done()  # type: ignore[arg-type]
    play.do(acts.Wait(500)).opens("F-RECEIVE").scan("PO-1007").refused("order_held", "@ines")
    office.do(written(play, "PO-1007", line1=1000)).done()
    play.do(acts.Wait(300)).scan("PO-1007").refused("order_held", "@ines")
    play.do(acts.Wait(301)).scan("PO-1007").asks("item")
    office.do(acts.OpenOrder("PO-1007")).done("is open for editing. Nobody")  # type: ignore[arg-type]
    other = play.other("jonah", "")
    other.do(acts.OpenOrder("PO-1007")).refused("opened_for_editing", "@ines", "Take it over")  # type: ignore[arg-type]
    other.do(acts.OpenOrder("PO-1007", take_over=True)).done("was open with @ines since", "open with you now")  # type: ignore[arg-type]
    office.do(written(play, "PO-1007", line1=900)).refused("opened_for_editing", "@jonah")
    assert broken(play.state) == []


def test_a_transfer_comes_when_it_was_shipped(ground: Ground, rulebook: Rulebook) -> None:
    """Until the other site has shipped it, it is not on the handset, nor without a plan for transfers, which is said before
    anything is scanned; goods that go out never are."""
    planned = replace(rulebook, step_plans=(replace(rulebook.step_plans[0], order_kind=None),))
    only = replace(rulebook, step_plans=rulebook.step_plans[:1])
    play, without = Play(new_world(ground, planned)), Play(new_world(ground, only))
    lines = ground.orders["PO-1007"].lines  # type: ignore[index]
    transfer = replace(ground.orders["PO-1007"], number="TO-1", kind=OrderKind.TRANSFER, lines=lines)  # type: ignore[index]
    play.do(acts.WriteOrder(transfer)).confirm("TO-1").done()
    assert why_not(play, "TO-1") == "Held: the other site has not shipped it yet."
    play.opens("F-RECEIVE").scan("TO-1").refused("order_held", "not shipped it yet")
    play.do(acts.ShipTransfer("TO-1")).done().do(acts.ShipTransfer("TO-1")).refused("already_shipped")  # type: ignore[arg-type]
    play.scan("TO-1").asks("item")
    without.do(acts.WriteOrder(replace(transfer, shipped=True))).confirm("TO-1").opens("F-RECEIVE")
    assert "TO-1" not in [p.value for p in without.question().picks]
    without.scan("TO-1").refused("no_plan", "Steps has none for such transfers in").asks("order")
    play.do(acts.ShipTransfer("PO-1007")).refused("no_transfer")  # type: ignore[arg-type]
    play.do(acts.TryOrder(OrderKind.SALES)).done("TEST-001")
    play.press("leave").opens("F-RECEIVE").scan("TEST-001").refused("other_kind", "its goods go out")
    assert why_not(play, "TEST-001").startswith("Sales orders go out")


@pytest.mark.parametrize("kind", OrderKind)
def test_a_test_order_of_any_kind(ground: Ground, rulebook: Rulebook, kind: OrderKind) -> None:
    """One act, and the floor knows it; those that come in can be received, under the plan for their kind."""
    play = Play(new_world(ground, rulebook)).do(acts.TryOrder(kind)).done("made and confirmed `TEST-001`")
    order = play.state.order("TEST-001")
    assert play.state.is_confirmed("TEST-001")
    assert order.kind is kind
    assert order.lines
    if not order.inbound:
        assert all(play.state.lines(x.item) for x in order.lines)
    elif rulebook.plan_for(rulebook.asked(ground, replace(order, kind=kind))):
        play.opens("F-RECEIVE").scan("TEST-001").asks("item")


def test_a_host_that_is_down_is_tried_again(ground: Ground, rulebook: Rulebook) -> None:
    """Further and further apart, then given up; repeated by hand it goes through, and what waited behind it too."""
    play = Play(new_world(ground, rulebook)).do(acts.SetHost(replace(QUICK, down=True))).done("is down")
    play.confirm("PO-1007").done().do(written(play, "PO-1007", line1=1000)).done()
    assert (message(play, 1).state, message(play, 1).tries) == (MessageState.WAITING, 3)
    assert "reaches the floor at" in why_not(play, "PO-1007")
    assert "The host is down" in why_not(play, "PO-1007")
    play.do(acts.Wait(3600))
    assert (message(play, 1).state, message(play, 1).tries) == (MessageState.GIVEN_UP, 8)
    assert (message(play, 2).state, message(play, 2).tries) == (MessageState.WAITING, 0)
    assert "did not arrive" in why_not(play, "PO-1007")
    play.do(acts.SetHost(QUICK)).done().do(acts.RepeatMessage("MR-0001")).done()  # type: ignore[arg-type]
    assert [message(play, n).state for n in (1, 2)] == [MessageState.ANSWERED] * 2
    assert play.state.order("PO-1007").lines[0].quantity == 1000
    play.do(acts.RepeatMessage("MR-0001")).refused("answered")  # type: ignore[arg-type]
    play.do(acts.RepeatMessage("MR-0009")).refused("unknown_message")  # type: ignore[arg-type]


def test_a_host_that_refuses(ground: Ground, rulebook: Rulebook) -> None:
    """Arrived stays arrived, the reason stands at the receipt, and a repeat books it."""
    play = Play(new_world(ground, rulebook)).confirm("PO-1007")
    play.do(acts.SetHost(replace(QUICK, refuses="The period is closed."))).done("The period is closed")
    play.opens("F-RECEIVE").scan("PO-1007").scan(barcode(ground, "ROPE-12", "coil")).type("2").press("finish").done()
    receipt = next(iter(play.state.receipts.every()))
    assert (receipt.booked, receipt.refused) == (False, "The period is closed.")
    play.do(acts.BookReceipt(receipt.number)).refused("not_taken_in", "MR-0002", "The period is closed.")
    play.do(acts.SetHost(QUICK)).do(acts.RepeatMessage("MR-0002")).done()  # type: ignore[arg-type]
    receipt = play.state.receipts[receipt.number]
    assert (receipt.booked, receipt.refused) == (True, "")


def test_arrival_is_noted_before_it_is_booked(ground: Ground, rulebook: Rulebook) -> None:
    """Where booking comes later than the finished plate, the host hears of the arrival at once."""
    by_hand = replace(rulebook.step_plans[0], booking=BookingPoint.BY_HAND)
    play = Play(new_world(ground, replace(rulebook, step_plans=(by_hand,)))).confirm("PO-1007")
    play.opens("F-RECEIVE").scan("PO-1007").scan(barcode(ground, "ROPE-12", "coil")).type("2").press("finish").done()
    receipt = next(iter(play.state.receipts.every())).number
    assert [m.topic for m in play.state.messages_about(receipt)] == ["note_arrival"]
    play.do(acts.BookReceipt(receipt)).done()
    assert [m.topic for m in play.state.messages_about(receipt)] == ["note_arrival", "book_receipt"]
    assert play.state.receipts[receipt].booked


def test_a_real_host_answers_for_itself(ground: Ground, rulebook: Rulebook) -> None:
    """The stand-in keeps still; orders come with ids of their own, answers in the order of each document."""
    made = Settings(SiteCode("HQ"), STARTS, WorldKind.LIVE, host=HostStandIn(outside=True))
    play = Play(World(ground, made, rulebook, lambda at: at.date()))
    new = replace(ground.orders["PO-1007"], number="EXT-1")  # type: ignore[index]
    play.do(acts.HostTells("confirm_order", new), "in-1").done("confirmed `EXT-1`")
    seq = play.state.seq
    play.do(acts.HostTells("confirm_order", new), "in-1").done()
    assert play.state.seq == seq
    play.do(acts.HostTells("change_order", new), "in-2").done("stands so already")
    play.do(acts.TryOrder(OrderKind.PURCHASE)).refused("outside_host").confirm("PO-1007").refused("outside_host")
    play.opens("F-RECEIVE").scan("EXT-1").scan(barcode(ground, "ROPE-12", "coil")).type("1").press("finish").done()
    receipt = next(iter(play.state.receipts.every())).number
    sent = play.state.messages_about(receipt)[0]
    assert not play.state.receipts[receipt].booked
    play.do(acts.HostAnswers(sent.number, "unknown account")).done("refused", "unknown account")
    play.do(acts.HostAnswers(sent.number)).refused("answered")
    play.do(acts.RepeatMessage(sent.number)).done().do(acts.HostAnswers(sent.number)).done("booked receipt")
    play.do(acts.HostAnswers(sent.number)).done("a second time")
    assert play.state.receipts[receipt].booked
    stood_in = Play(new_world(ground, rulebook))
    stood_in.do(acts.HostTells("confirm_order", new)).refused("stand_in")
    stood_in.do(acts.SetHost(HostStandIn(outside=True))).refused("outside_host", "Only a live world")


def test_a_real_host_takes_over_from_the_stand_in(ground: Ground, rulebook: Rulebook) -> None:
    """Not while a message of the stand-in is on its way; then an order the stand-in knew stands in the host as the real
    one tells it, and its chain names the entries that did."""
    made = Settings(SiteCode("HQ"), STARTS, WorldKind.LIVE, host=HostStandIn(confirm_seconds=600))
    play = Play(World(ground, made, rulebook, lambda at: at.date()))
    old = replace(ground.orders["PO-1007"], number="OLD-1")  # type: ignore[index]
    play.do(acts.WriteOrder(old)).done()
    play.do(acts.ConfirmOrder(old.number)).done()
    waits = play.state.messages_about("OLD-1")[0].number
    play.do(acts.SetHost(HostStandIn(outside=True))).refused("stand_in_waits", waits)
    play.do(acts.RepeatMessage(waits)).done().do(acts.HostAnswers(waits))
    play.do(acts.WriteOrder(replace(old, number="OLD-2"))).done()  # type: ignore[arg-type]
    play.do(acts.SetHost(HostStandIn(outside=True))).done()
    mine = replace(old, number="OLD-2", lines=old.lines[:1])  # type: ignore[arg-type]
    play.do(acts.HostTells("confirm_order", mine), "in-1").done("confirmed `OLD-2`")
    confirmed = play.state.seq
    known = in_host(play.state, mine.number)
    assert (known.state, known.floor, known.held.order.lines) == ("confirmed", "knows it", mine.lines)
    play.do(acts.HostTells("cancel_order", mine), "in-2").done("cancelled `OLD-2`")
    assert in_host(play.state, mine.number).state == "cancelled"
    doc = next(d for d in chain.chain(play.state, chain.Ref(chain.DocKind.ORDER, "OLD-2")))
    assert [(s.word, s.seq) for s in doc.stages] == [("confirmed", confirmed), ("cancelled", play.state.seq)]


def test_what_was_done_in_the_host_is_recorded(ground: Ground, rulebook: Rulebook) -> None:
    """A run with a made, changed and tried order becomes a script that gives the same answers."""
    play = Play(new_world(ground, rulebook)).do(acts.TryOrder(OrderKind.PURCHASE)).confirm("PO-1007")
    play.do(acts.SetHost(replace(QUICK, twice=True))).do(written(play, "PO-1007", line1=800)).do(acts.Wait(60))
    play.opens("F-RECEIVE").scan("TEST-001").done()
    head = Rehearsal("r", "Host", play.state.settings.site, ground.hash, STARTS, ())
    script = record(head, tuple(play.world.log), new_world(ground, rulebook), {}, ())
    assert TheOrder("TEST-001") in [s.do.code for s in script.steps if isinstance(s.do, DoScan)]  # type: ignore[arg-type]
    read = read_rehearsal(rehearsal_text(script), "host.yaml")
    result, world = run(read, ground, rulebook, lambda at: at.date(), gs1.split)
    assert result.passed
    assert result.first_difference is None
    assert world.state.kept().orders == play.state.kept().orders


moods = st.builds(
    HostStandIn,
    confirm_seconds=st.integers(0, 90),
    book_seconds=st.integers(0, 90),
    down=st.booleans(),
    twice=st.booleans(),
    refuses=st.sampled_from(["", "", "no"]),
)


@given(st.data())
@tried(15)
def test_every_message_is_in_effect_once_and_in_order(ground: Ground, rulebook: Rulebook, data: st.DataObject) -> None:
    """Whatever the host does meanwhile: when it is well again and what came back was repeated, host and floor agree,
    nothing took effect twice, and about one document nothing overtook."""
    play = Play(new_world(ground, rulebook))
    numbers = ("PO-1007", "PO-1008", "PO-1009")
    for _ in range(data.draw(st.integers(3, 14))):
        number = data.draw(st.sampled_from(numbers))
        match data.draw(st.sampled_from(["confirm", "change", "cancel", "receive", "mood", "mood", "wait"])):
            case "confirm":
                play.confirm(number)
            case "change":
                play.do(written(play, number, line1=200 * data.draw(st.integers(1, 12))))
            case "cancel":
                play.do(acts.CancelOrder(number))  # type: ignore[arg-type]
            case "receive":
                play.opens("F-RECEIVE").scan(number)
                line = play.state.order(number).lines[0]
                play.scan(barcode(ground, line.item, line.unit)).type("1")
                if play.state.building():
                    play.press("finish")
            case "mood":
                play.do(acts.SetHost(data.draw(moods)))
            case _:
                play.do(acts.Wait(data.draw(st.integers(1, 5000))))
        assert broken(play.state) == []
    play.do(acts.SetHost(HostStandIn()))
    for _ in range(40):
        back = [m for m in play.state.messages.every() if m.state is MessageState.GIVEN_UP]
        back += [m for m in play.state.messages.every() if m.state is MessageState.REFUSED and not m.from_host]
        if not back and not play.state.waiting():
            break
        for each in back:
            play.do(acts.RepeatMessage(each.number)).done()
        play.do(acts.Wait(86_400))
    assert not play.state.waiting()
    assert all(r.booked for r in play.state.receipts.every())
    effects = Counter[str]()
    settled: dict[str, list[str]] = {}
    for entry in play.world.log:
        for event in entry.outcome.events if isinstance(entry.outcome, ev.Done) else ():
            match event:
                case ev.OrderConfirmed() | ev.OrderDropped():
                    effects[f"{event.kind} {event.order}"] += 1
                case ev.ReceiptBooked():
                    effects[f"booked {event.receipt}"] += 1
                case ev.MessageAnswered():
                    effects[event.message] += 1
                    settled.setdefault(play.state.messages[event.message].subject, []).append(event.message)
                case _:
                    pass
    assert not {k: v for k, v in effects.items() if v > 1}
    assert all(numbers == sorted(numbers) for numbers in settled.values())
    for number in numbers:
        held, last = play.state.host_order(number), play.state.messages_about(number)
        if last and all(m.state is MessageState.ANSWERED for m in last):
            assert (held.confirmed, held.cancelled) == (
                play.state.is_confirmed(number),
                play.state.is_cancelled(number),
            )
            if not held.cancelled:
                assert replace(play.state.order(number), confirmed=False) == held.order
    assert from_snapshot(play.state).kept() == play.state.kept()


def announced(play: Play, order: str) -> Any:
    play.confirm(order)
    play.do(acts.AnnounceOrder(order)).done("announced")  # type: ignore[arg-type]
    return play.state.announced_of(order)


def test_an_announced_plate_is_received_with_one_scan(ground: Ground, rulebook: Rulebook) -> None:
    """Its SSCC brings its lines, lots and dates too; they are checked, may be changed, and finished like any others."""
    play = Play(new_world(ground, rulebook))
    play.do(acts.AnnounceOrder("PO-1007")).refused("not_confirmed")  # type: ignore[arg-type]
    plates = announced(play, "PO-1007")
    assert len(plates) == len(ground.orders["PO-1007"].lines)  # type: ignore[index]
    assert all(len(p.number) == 18 and gs1_check_digit(p.number[:-1]) == int(p.number[-1]) for p in plates)
    play.do(acts.AnnounceOrder("PO-1007")).refused("nothing_open")  # type: ignore[arg-type]
    shown = next(s for s in orders_shown(play.state, rulebook) if s.order == "PO-1007")
    assert "3 of its plates are announced." in [a.says for a in shown.agrees]
    play.opens("F-RECEIVE").scan(plates[0].number).done("as announced").asks("item")
    assert play.question().plate == plates[0].number
    play.press("change_line", line=1, count="1").done()
    play.press("finish").done("finished")
    assert play.state.quantity_in("RCV-01", plates[0].lines[0].item) == 200
    play.scan(plates[0].number).refused("wrong_kind")
    play.press("leave").opens("F-RECEIVE").scan("PO-1007").scan(plates[1].number).done("as announced").press(
        "finish"
    ).done()
    assert len(play.state.announced_of("PO-1007")) == len(plates) - 2
    assert broken(play.state) == []
    assert from_snapshot(play.state).kept() == play.state.kept()


SSCC = f"09520001000000001{gs1_check_digit('09520001000000001')}"
NOTICES: dict[str, tuple[Any, str]] = {
    "no_plate_label": (lambda n: with_plate(n, number=f"{SSCC[:-1]}{9 - int(SSCC[-1])}"), "check digit"),
    "bad_plate": (lambda n: replace(n, plates=(n.plates[0], n.plates[0])), "stands twice"),
    "no_plate_kind": (lambda n: with_plate(n, plate_kind="BARGE"), "no kind of plate"),
    "not_on_order": (lambda n: with_line(n, item="SHK-08"), "wants no `SHK-08`"),
    "bad_line": (lambda n: with_line(n, unit="barge"), "no such unit"),
    "more_than_ordered": (lambda n: with_line(n, quantity=999_999), "are open"),
    "unknown_order": (lambda n: replace(n, order="PO-NONE"), "no order whose goods are awaited"),
    "no_plates": (lambda n: replace(n, plates=()), "announces no plate"),
}


def with_plate(notice: Any, **fields: Any) -> Any:
    return replace(notice, plates=(replace(notice.plates[0], **fields),))


def with_line(notice: Any, **fields: Any) -> Any:
    return with_plate(notice, lines=(replace(notice.plates[0].lines[0], **fields),))


@pytest.mark.parametrize("code", sorted(NOTICES))
def test_a_notice_of_what_cannot_come_is_refused(ground: Ground, rulebook: Rulebook, code: str) -> None:
    """Each mistake in words, and nothing of the notice is taken; sound, it is taken once, and once more to no effect."""
    play = Play(new_world(ground, rulebook))
    sound = Notice("AN-1", "PO-1007", (play_plate(play),))  # type: ignore[arg-type]
    play.confirm("PO-1007")
    bend, says = NOTICES[code]
    before = play.state.kept()
    with play.state.tentatively():
        making = making_of(play.world)
        with pytest.raises(Refusal) as caught:
            take_notice(play.state, making, bend(sound))
        assert (caught.value.problem.code, says in caught.value.problem.says) == (code, True), caught.value.problem
        assert not making.events and take_notice(play.state, making, sound) and making.events
        assert sound.number in play.state.notices
    assert play.state.kept() == before
    outside = Settings(SiteCode("HQ"), STARTS, WorldKind.LIVE, host=HostStandIn(outside=True))
    real = Play(World(ground, outside, rulebook, lambda at: at.date()))
    real.do(acts.HostTells("confirm_order", replace(ground.orders["PO-1007"], confirmed=False)))  # type: ignore[index]
    real.do(acts.HostAnnounces(sound)).done("1 plate").do(acts.HostAnnounces(sound)).done("known already")
    real.do(acts.HostAnnounces(replace(sound, number="AN-2"))).refused("plate_used")  # type: ignore[arg-type]


def play_plate(play: Play) -> Any:
    line = play.state.ground.orders["PO-1007"].lines[0]
    return NoticePlate(SSCC, "PAL", (NoticeLine(line.no, line.item, line.unit, 400),))  # type: ignore[arg-type]


def test_the_hosts_books_stand_beside_the_floors_numbers(ground: Ground, rulebook: Rulebook) -> None:
    """Line by line: ordered, received; noted, arrived, told. What is not booked, not told of or not heard of is said."""
    play = Play(new_world(ground, rulebook))
    number = OrderNo("PO-1007")
    assert {b.differs for b in books_of(play.state, number)} == {"the floor does not know it"}
    play.do(acts.SetHost(HostStandIn(book_seconds=40)))
    play.confirm("PO-1007").opens("F-RECEIVE").scan("PO-1007").scan("2900000000087").type("2").done()

    def books() -> list[tuple[int, int, int, int, str]]:
        return [(b.received, b.noted, b.arrived, b.told, b.differs) for b in books_of(play.state, number)]

    noted = books()[0]
    assert noted[:4] == (0, 400, 0, 0) and not noted[4], "what is noted is nobody's business yet"
    play.press("finish").done()
    (receipt,) = play.state.receipts.values()
    told = books()[0]
    assert told[:4] == (0, 0, 400, 400) and told[4].endswith("it was told of and has not booked")
    play.do(acts.Wait(60))
    assert books()[0] == (400, 0, 400, 400, "") and receipt.number
    with pytest.raises(Refusal):
        books_of(play.state, OrderNo("PO-9"))
