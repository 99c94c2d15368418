"""Picking on the handset: begun, stop by stop, by tote, short, later, left and gone on with, set down."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import BinCode, CrewId, ItemCode, LegId, OrderNo, PlateNo
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.places import PlateNeed
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.tasks import Do, TaskState
from mindful_crate.core.floor.waves import WaveState
from mindful_crate.core.proving.work_lists import station, work_lists
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Asks, OtherBin, Short
from mindful_crate.core.rulebook.recipes import Leg
from mindful_crate.core.rulebook.steps import Begins, Need
from mindful_crate.core.rulebook.waves import Method
from mindful_crate.core.work.picking.looking import without_tote
from mindful_crate.core.world import acts
from tests.core.test_covering import BOOK, GROUND, asked
from tests.core.test_releasing import releases, takes_back
from tests.core.test_waves import all_there, by, by_hand, order, plan, released, sound, state, tasks
from tests.playbook import Play, barcode, new_world
from tests.properties import tried

TOTES = ("LPR-900001", "LPR-900002", "LPR-900003")


def bar(item: str, unit: str = "") -> str:
    """What is scanned of an item."""
    return barcode(GROUND, item, unit or GROUND.items[ItemCode(item)].base.code)


def stock(play: Play, code: str, item: str) -> int:
    """How much of an item lies in a bin, loose and on plates."""
    return sum(x.goods.quantity for x in play.state.lines(ItemCode(item)) if x.bin == code)


def wanted(play: Play) -> str:
    """The item that is asked for, as its question names it."""
    return play.question().title.split("`")[1]


def fetches(play: Play, count: str = "") -> Play:
    """One stop: the bin shown, unless one is there already, the item, all that is wanted or so many."""
    if play.question().asks == "pick_at":
        play.scan(play.question().expect).done()
    play.asks("pick_item").scan(bar(wanted(play))).done()
    if play.question().asks == "pick_lot":
        play.scan(play.question().picks[0].value, "tapped").done()
    play.asks("pick_count")
    return play.type(count).done() if count else play.press("confirm").done()


def test_an_order_is_picked_into_its_tote_and_set_down(rulebook: Rulebook) -> None:
    """The list is scanned, the task is whose scanned it, a tote is named, each stop counts when it is answered, and the tote stands at the
    station as a plate with all of it, kept for the order."""
    play = released(rulebook, order("SO-1", ("SHK-08", 20), ("ROPE-06", 30), carrier=None))
    (task,) = tasks(play)
    play.opens("F-PICK").asks("picked").scan(task.number).done("is yours")
    play.asks("tote", "SO-1").scan(TOTES[0]).done()
    fetches(play)
    assert play.question().so_far[0].count in ("20", "30")
    fetches(play)
    play.asks("set_at").scan(play.question().expect).done("is done")
    now = play.state.tasks[task.number]
    assert now.state is TaskState.DONE
    at = now.placed_in
    assert {(g.item, g.quantity) for g in play.state.all_goods(TOTES[0])} == {("SHK-08", 20), ("ROPE-06", 30)}
    assert play.state.bin_of(TOTES[0]) == at
    kept = [p for r in play.state.reservations.values() if r.order == "SO-1" for p in r.parts]
    assert {(p.bin, p.plate, p.task) for p in kept} == {(at, TOTES[0], None)}
    sound(play)
    play.asks("picked")


def test_from_another_bin_where_the_same_lies_free(rulebook: Rulebook) -> None:
    """After a warning, with a reason or never, as the flow has it; as much as is free there, the rest where it was shown. What is kept for others, of
    another lot, or no goods of that kind is refused by that. The rule that was passed over knows it."""
    play = released(with_flow(rulebook, other_bin=OtherBin.WARN), order("SO-1", ("SHK-08", 40), carrier=None))
    (task,) = tasks(play)
    (take,) = [m for m in task.plan.moves if m.do is Do.TAKE]
    play.opens("F-PICK").scan(task.number).scan(TOTES[0]).done()
    play.asks("pick_at", expect=take.at)
    other = next(x for x in play.state.lines(ItemCode("SHK-08")) if x.bin != take.at and x.goods.quantity < 40)
    play.scan("P-01-01-1").refused("other_bin", "By the book no Bow shackle 8 mm lies there")
    play.scan("STG-01").refused("other_bin", "Nothing is picked from")
    play.scan(other.bin).asks("yes_no", f"{other.goods.quantity} pieces of Bow shackle 8 mm may be taken there").press(
        "no"
    )
    play.asks("pick_at", expect=take.at).scan(other.bin).press("yes")
    play.done(
        f"fetched from `{other.bin}` instead of `{take.at}`",
        f"{40 - other.goods.quantity} pieces are still fetched from `{take.at}`",
    )
    sound(play)
    fetches(play)  # she stands there: the bin is not asked again
    play.asks("pick_at", expect=take.at)
    fetches(play)
    play.asks("set_at").scan(play.question().expect).done("is done")
    assert stock(play, other.bin, "SHK-08") == 0
    assert {(g.item, g.quantity) for g in play.state.all_goods(TOTES[0])} >= {("SHK-08", other.goods.quantity)}
    assert sum(g.quantity for g in play.state.all_goods(TOTES[0])) == 40
    (one,) = play.state.overruled[take.rule].latest
    assert (one.shown, one.taken, one.by) == (take.at, other.bin, "oren")
    sound(play)


def test_another_bin_as_the_flow_has_it(rulebook: Rulebook) -> None:
    """Never, or with a reason that is kept; what is all kept for others is no other bin; a lot is that which was told, and a whole plate is that plate."""
    for other_bin, second in ((OtherBin.NEVER, None), (OtherBin.REASON, "the aisle is wet")):
        play = released(with_flow(rulebook, other_bin=other_bin), order("SO-1", ("SHK-08", 20), carrier=None))
        (task,) = tasks(play)
        play.opens("F-PICK").scan(task.number).scan(TOTES[0]).done()
        shown = play.question().expect
        other = next(x for x in play.state.lines(ItemCode("SHK-08")) if x.bin != shown and x.goods.quantity >= 20)
        play.scan(other.bin)
        if second is None:
            play.refused("other_bin", f"go to bin `{shown}`")
            continue
        play.asks("reason", "Why is it taken?").scan(second).done("instead of")
        (one,) = [o for o in play.state.overruled.values() if o.latest[-1].taken == other.bin]
        assert one.latest[-1].reason == second
        fetches(play)
        play.asks("set_at")
        sound(play)
    first = released(rulebook, order("SO-1", ("SHK-08", 20), carrier=None), order("SO-2", ("SEAL-3", 5), carrier=None))
    seal = next(t for t in tasks(first) if "SO-2" in t.plan.orders)
    first.opens("F-PICK").scan(seal.number).scan(TOTES[0]).done()
    lots = {x.bin: x.goods.lot for x in first.state.lines(ItemCode("SEAL-3"))}
    here = next(g for m in seal.plan.moves for g in m.goods)
    first.scan(next(b for b, lot in lots.items() if lot != here.lot)).refused("other_bin", f"not `{here.lot}`")


def on_a_cart(book: Rulebook, *orders: Order, method: Method = Method.CLUSTER) -> Play:
    """A wave of orders that one person picks in one round."""
    play = released(by(book, plan(method)), *orders)
    return play.do(acts.MakeWave(plan().id)).done()


def with_flow(book: Rulebook, **more: object) -> Rulebook:
    """The demo's rules with another first pick flow."""
    flows = tuple(replace(f, **more) if f.id == "F-PICK" else f for f in book.flows)  # type: ignore[arg-type]
    return replace(book, flows=flows)


def test_three_totes_on_a_cart_and_the_wrong_one(rulebook: Rulebook) -> None:
    """Each order has its tote, told and checked at every stop; another is refused by the name of the order it belongs to."""
    orders = [order(f"SO-{n}", ("SHK-08", n)) for n in (1, 2, 3)]
    play = on_a_cart(rulebook, *orders)
    (task,) = tasks(play)
    play.opens("F-PICK").scan("WR-0001").done("is yours")
    for n, tote in enumerate(TOTES, start=1):
        play.asks("tote", f"SO-{n}")
        if n == 2:
            play.scan(TOTES[0]).refused("tote_in_use", "SO-1")
            play.scan("SHK-08").refused("wrong_kind")
        play.scan(tote).done()
    for _ in range(3):
        fetches(play).asks("pick_into")
        expect = play.question().expect
        other = next(t for t in TOTES if t != expect)
        play.scan(other).refused("other_tote", "That is the tote of", expect)
        play.scan("LPR-900009").refused("other_tote", "no tote of this task")
        play.scan(expect).done()
    play.asks("set_at").scan(play.question().expect).done()
    for n, tote in enumerate(TOTES, start=1):
        assert [(g.item, g.quantity) for g in play.state.all_goods(tote)] == [("SHK-08", n)]
        (kept,) = [r for r in play.state.reservations.values() if r.order == f"SO-{n}"]
        assert [p.plate for p in kept.parts] == [tote]
    assert play.state.tasks[task.number].state is TaskState.DONE
    sound(play)


def test_together_it_goes_into_no_tote_and_where_it_is_sorted(rulebook: Rulebook) -> None:
    """One take for three orders, no tote, set down where it is sorted; what is kept for each stays its own."""
    play = on_a_cart(rulebook, *(order(f"SO-{n}", ("SHK-08", n)) for n in (1, 2, 3)), method=Method.BATCH)
    play.opens("F-PICK").scan("SO-2").done("3 orders")
    fetches(play).asks("set_at")
    assert "sorted there" in play.question().note
    play.scan("SHK-08").refused("wrong_kind")
    play.scan(play.question().expect).done()
    assert sorted(r.quantity for r in play.state.reservations.values() if r.order) == [1, 2, 3]
    sound(play)


def test_what_is_short_is_looked_for_elsewhere_or_stays_open(rulebook: Rulebook) -> None:
    """What is not there is kept for nobody until it is counted; the rules send the same person to another bin; what they do not find stays
    open on its order, and the wave goes on."""
    play = released(rulebook, order("SO-1", ("SHK-08", 20), ("ROPE-06", 30), carrier=None))
    (task,) = tasks(play)
    play.opens("F-PICK").scan(task.number).scan(TOTES[0]).done()
    first = play.asks("pick_at").question().expect
    play.press("short").done().asks("reason").type("no").refused("no_reason")
    play.type("bin is empty").done("short in", "Nobody is sent there")
    move = play.state.tasks[task.number].going.remaining[0]
    again = play.asks("pick_at").question().expect
    assert again != first and move.at is not None
    (held,) = work_lists(play.state, play.world.rulebook).not_found
    assert (held.at, held.who) == (first, "oren")
    sound(play)
    while play.question().asks == "pick_at":
        fetches(play)
    play.scan(play.question().expect).done("is done")
    assert sum(g.quantity for g in play.state.all_goods(TOTES[0])) == 50
    sound(play)


def test_what_no_bin_has_stays_open(rulebook: Rulebook) -> None:
    """By a flow that asks for no other bin it stays open at once. A task of which nothing was there ends, and says so."""
    book = with_flow(rulebook, short=Short.STAYS_OPEN)
    play = released(book, order("SO-1", ("SHK-08", 20), carrier=None))
    (task,) = tasks(play)
    play.opens("F-PICK").scan(task.number).scan(TOTES[0]).done()
    play.press("short").type("bin is empty").done("stay open")
    assert play.state.tasks[task.number].state is TaskState.CANCELLED
    play.asks("picked")
    assert play.state.reservations.of_line(LineKey(OrderNo("SO-1"), 1)) == 0
    sound(play)


def test_later_left_and_gone_on_with(rulebook: Rulebook) -> None:
    """A stop is passed over and comes again; on another handset the same person goes on where she stands; what is in hands is set down and the
    rest left, and somebody else brings that to the same tote."""
    play = released(rulebook, order("SO-1", ("SHK-08", 20), ("ROPE-06", 30), ("SHK-10", 4), carrier=None))
    (task,) = tasks(play)
    play.opens("F-PICK").scan(task.number).scan(TOTES[0]).done()
    first = play.question().expect
    play.press("later").done("next stop")
    second = play.asks("pick_at").question().expect
    assert second != first
    fetches(play)
    other = Play(play.world, "oren", "H2").opens("F-PICK").asks("pick_at")
    assert other.question().expect == first  # what was passed over is a matter of the handset it was on
    third = other.press("later").done().question().expect
    assert third not in (first, second)
    fetches(other)
    assert other.asks("pick_at").question().expect == first
    mara = Play(play.world, "mara", "H3").opens("F-PICK")
    mara.scan(task.number).refused("task_taken", "@oren")
    other.press("set_down_now").asks("set_at").scan(other.question().expect).done("left for whoever")
    at = play.state.bin_of(TOTES[0])
    mara.scan(task.number).done("is yours").asks("pick_at", first)
    sound(play)
    fetches(mara).asks("set_at").scan("PACK-1" if at != "PACK-1" else "PACK-2").done()
    mara.type("lane is full").refused("tote_elsewhere", at)
    mara.press("leave").opens("F-PICK").asks("set_at").scan(at).done("is done")
    assert len(play.state.all_goods(TOTES[0])) == 3
    sound(play)


def test_given_back_and_put_back(rulebook: Rulebook) -> None:
    """Before anything is fetched a task is given back; afterwards the office may have it put back, to the piece, and it is picked again."""
    play = released(rulebook, order("SO-1", ("SHK-08", 20), ("ROPE-06", 30), carrier=None))
    (task,) = tasks(play)
    before = {code: stock(play, code, "SHK-08") for code in play.state.ground.bins}
    play.opens("F-PICK").scan(task.number).scan(TOTES[0]).press("give_back").done("given back").asks("picked")
    assert play.state.tasks[task.number].state is TaskState.OPEN
    play.scan(task.number).scan(TOTES[1]).done()
    fetches(play, "7")
    sound(play)
    play.press("give_back").refused("not_now")
    play.do(acts.SetDown(task.number)).done("is open again")
    assert {code: stock(play, code, "SHK-08") for code in play.state.ground.bins} == before
    kept = [p for r in play.state.reservations.values() if r.order for p in r.parts]
    assert all(p.task is None for p in kept) and sum(p.goods.quantity for p in kept) == 50
    sound(play)
    play.opens("F-PICK").scan(task.number).scan(TOTES[1]).done()
    fetches(fetches(play)).scan(play.question().expect).done("is done")


def test_fewer_leave_the_rest_at_the_same_stop_and_more_are_refused(rulebook: Rulebook) -> None:
    """Seven of twenty leave thirteen at the same bin; one more than wanted is refused, as is a case that holds too many; zero is no number."""
    play = released(rulebook, order("SO-1", ("SHK-08", 20), carrier=None))
    (task,) = tasks(play)
    play.opens("F-PICK").scan(task.number).scan(TOTES[0]).done()
    fetches(play, "7").asks("pick_item")  # she stands there still
    play.scan(bar("SHK-08")).asks("pick_count").type("14").refused("more_than_wanted", "13")
    play.type("0").refused("not_above_zero")
    play.press("confirm").done().asks("set_at").scan(play.question().expect).done()
    sound(play)


def test_every_piece_then_the_rest_and_a_case_that_would_overshoot(rulebook: Rulebook) -> None:
    """Four of nine pieces are scanned, then the rest is asked as a number; a case with more than is wanted is refused, never cut."""
    prompts = next(f for f in rulebook.flows if f.id == "F-PICK").prompts
    book = with_flow(rulebook, prompts=tuple(replace(p, pieces=4) if p.asks is Asks.PICK_COUNT else p for p in prompts))
    play = released(book, order("SO-1", ("SHK-08", 9), carrier=None))
    (task,) = tasks(play)
    play.opens("F-PICK").scan(task.number).scan(TOTES[0]).scan(play.question().expect).done()
    case = next((u.code for u in GROUND.items[ItemCode("SHK-08")].units if u.quantity > 9), "")
    if case:
        play.asks("pick_item").scan(bar("SHK-08", case)).refused("more_than_wanted")
    for n in range(4):
        play.scan(bar("SHK-08")).done()
        if n < 3:
            play.asks("pick_count", f"{n + 1} of 9").type("5").refused("must_scan")
    play.asks("pick_count", "more").press("short").refused("confirm_first")
    assert play.question().proposal == "5"
    play.press("confirm").done().asks("set_at")
    sound(play)


def test_another_bin_another_item_another_lot(rulebook: Rulebook) -> None:
    """What is scanned and is not what is shown is refused by its name, with what is wanted; nothing is lost by it."""
    play = released(rulebook, order("SO-1", ("AF-RED-25", 2), carrier=None))
    (task,) = [t for t in tasks(play) if t.crew == "hazard"] or tasks(play)
    play = Play(play.world, crews=(str(task.crew),))
    play.opens("F-PICK").scan(task.number).scan(TOTES[0]).done()
    play.scan("P-01-02-4").refused("other_bin", "go to", play.question().expect)
    play.scan(play.question().expect).done()
    play.scan(bar("SHK-08")).refused("other_item", "AF-RED-25")
    play.scan(bar("AF-RED-25")).done().asks("pick_lot")
    lot = play.question().picks[0].value
    play.scan("L0000").refused("other_lot", lot)
    play.scan(lot).done().asks("pick_count")


def test_whose_it_is_and_what_it_is(rulebook: Rulebook) -> None:
    """A list of another crew, held, cancelled or done is refused with why; an order and a wave of which nothing is left too."""
    play = released(rulebook, order("SO-1", ("SHK-08", 5), carrier=None), order("SO-2", ("PLOT-12", 1), carrier=None))
    mine, dear = (next(t for t in tasks(play) if t.crew == c) for c in ("quay", "store"))
    play.opens("F-PICK").scan(dear.number).refused("other_crew", "store")
    play.do(acts.HoldTask(mine.number, "aisle closed")).done()
    play.scan("SO-1").refused("task_held", "aisle closed")
    play.do(acts.LetTaskGo(mine.number)).done()
    play.scan("SHK-10").refused("no_task")
    play.scan("P-01-02-4").refused("wrong_kind")
    play.scan("NOTHING").refused("unknown_code")
    play.scan(bar("SHK-08")).done("is yours").scan(TOTES[0]).done()
    fetches(play).scan("P-01-02-4").refused("storage")
    play.scan(play.question().expect).done("is done")
    play.scan("SO-1").refused("task_done")


def test_a_pallet_is_fetched_whole(rulebook: Rulebook) -> None:
    """A whole plate is scanned where it stands and set down as it is, kept for its order all the way."""
    play = released(rulebook, order("SO-1", ("SHK-08", 6400), carrier=None))
    whole = [t for t in tasks(play) if t.plan.plates]
    if not whole:
        pytest.skip("no rule keeps a whole plate for it")
    task = whole[0]
    play = Play(play.world, crews=(str(task.crew),))
    play.opens("F-PICKPLATE").scan(task.number).done()
    plate = play.asks("pick_at").question().expect
    assert plate == task.plate
    play.scan(play.state.bin_of(plate)).refused("scan_the_plate", plate)
    play.scan(plate).done("taken").asks("set_at").scan(play.question().expect).done("is done")
    sound(play)


def test_a_piece_that_was_ordered_by_its_number(rulebook: Rulebook) -> None:
    """It is kept where it lies, whatever the rules prefer; no other piece will do, nobody else gets it, and where it is gone it stays open."""
    by_number = order("SO-1", ("PLOT-12", 1), carrier=None)
    (line,) = by_number.lines
    wanted = "P12-2510-0040"
    by_number = replace(by_number, lines=(replace(line, serials=(wanted,)),))
    gone = order("SO-3", ("PLOT-12", 1), carrier=None)
    gone = replace(gone, lines=(replace(gone.lines[0], serials=("P12-0000-0000",)),))
    play = released(rulebook, by_number, order("SO-2", ("PLOT-12", 1), carrier=None), gone)
    assert "with the numbers that were ordered" in next(e.says for e in play.world.log if "released into" in e.says)
    mine, other = tasks(play)
    play = Play(play.world, "ines", "H2", ("store",))
    play.opens("F-PICKDEAR").scan(other.number).done()
    at = play.question().expect
    assert at == play.state.serials.where(ItemCode("PLOT-12"), wanted).spot.code  # both lie in one bin
    play.scan(at).scan(bar("PLOT-12")).asks("pieces").scan(wanted).refused("ordered_piece")
    play.scan("P12-2510-0041").done().asks("set_at").scan("PACK-2").refused("not_the_bin")
    play.scan(play.question().expect).done("is done")
    play.scan(mine.number).scan(at).scan(bar("PLOT-12")).asks("pieces")
    assert wanted in play.question().note
    play.scan("P12-2510-0042").refused("other_piece", "that were ordered").scan(wanted).done()
    play.scan(play.question().expect).done("is done")
    assert play.state.serials.where(ItemCode("PLOT-12"), wanted).spot.code == play.state.tasks[mine.number].placed_in
    sound(play)


HANDS = st.lists(
    st.tuples(
        st.sampled_from(
            [
                "scan",
                "tote",
                *["fetch"] * 4,
                "short",
                "set",
                "set",
                "leave",
                "down",
                "lose",
                "back",
                "pick",
                "less",
                "elsewhere",
                "along",
            ]
        ),
        st.integers(0, 3),
        st.integers(0, 60),
    ),
    min_size=4,
    max_size=24,
)


@tried(40)
@given(st.sampled_from(list(Method)), HANDS)
def test_whatever_is_picked_nothing_is_lost_or_doubled(method: Method, doings: list[tuple[str, int, int]]) -> None:
    """Two people, the office and a loss in any sequence: what there is stays what it was, what is kept for orders is where it is said to be, every task
    is one person's, and a snapshot says the same."""
    orders = [order(f"SO-{n}", ("SHK-08", 7 * n), ("ROPE-06", 10)) for n in (1, 2, 3)]
    play = on_a_cart(BOOK, *orders, method=method)
    before = all_there(play)
    for what, which, much in doings:
        for task in tasks(play)[which % 2 :][:1]:
            match what:
                case "tote":
                    for each in without_tote(task)[:1]:
                        play.do(acts.SetTote(task.number, each, PlateNo(f"LPR-90000{which}")))
                case "lose":
                    for lost in [r for r in play.state.reservations.values() if r.order][which : which + 1]:
                        play.do(acts.LetGo(lost.number))
                case "back":
                    takes_back(play, OrderNo(f"SO-{which}"))
                case "less":
                    by_the_host(play, f"SO-{which}", much % 9) if OrderNo(
                        f"SO-{which}"
                    ) in play.state.releases else None
                case "elsewhere":
                    for take in [m for m in task.going.remaining if m.do is Do.TAKE][:1]:
                        lying = play.state.lines(take.goods[0].item)
                        at = lying[(which + much) % len(lying)]
                        play.do(acts.PickElsewhere(task.number, take.no, at.bin, at.plate))
                case "along":
                    for handed in task.going.totes[:1]:
                        missing = acts.ToteMissing(task.number, handed.plate, "gone")
                        play.do(missing if much % 2 else acts.TakeTote(task.number, handed.plate))
                case "pick":
                    play.do(acts.PickInOffice(task.number, "no scanner", begin=bool(much % 2)))
                case _:
                    by_hand(play, what, task, much)
        assert all_there(play) == before
    sound(play)


def test_what_was_answered_counts_for_the_stop_it_was_answered_at(rulebook: Rulebook) -> None:
    """While a stop is asked about, the same person fetches it with another handset: the bin and item of the next are asked, whatever was answered. So it
    is when why it is short was still to be said: that is refused, and the next is not short for it. A task that is done meanwhile is asked for anew."""
    play = released(rulebook, order("SO-1", ("SHK-08", 20), ("ROPE-06", 30), ("SHK-10", 4), carrier=None))
    (task,) = tasks(play)
    play.opens("F-PICK").scan(task.number).scan(TOTES[0]).done()
    first = play.question().expect
    play.scan(first).done().asks("pick_item").scan(bar(wanted(play))).done().asks("pick_count")
    other = Play(play.world, "oren", "H2").opens("F-PICK")
    fetches(other)
    assert play.asks("pick_at").question().expect == other.question().expect != first
    play.press("short").asks("reason")
    fetches(other)
    play.type("bin is empty").refused("fetched")
    play.press("no").asks("pick_at")
    assert play.question().expect == other.asks("pick_at").question().expect
    fetches(other).scan(other.question().expect).done("is done")
    play.asks("picked")
    sound(play)


def test_what_is_listed_by_bins_is_in_the_order_in_which_it_begins(rulebook: Rulebook) -> None:
    """All goes to one station, so the walk is to where each task begins; so it is when one after another is given."""
    items = ("SHK-10", "ROPE-06", "SHK-08")
    play = released(rulebook, *(order(f"SO-{n}", (item, 3), carrier=None) for n, item in enumerate(items, start=1)))
    bins = play.state.ground.bins
    walked = sorted(tasks(play), key=lambda t: bins[t.from_bin].walk)
    assert [t.number for t in walked] != [t.number for t in tasks(play)]
    listed = play.state.tasks.on_the_walk(("quay",), Need.PICK, 9)
    assert listed == [t.number for t in walked]
    assert play.opens("F-PICKNEXT").question().expect == listed[0]
    sound(play)


def test_a_place_takes_totes_or_loose_goods_as_its_type_says(rulebook: Rulebook) -> None:
    """Where no plate may stand a tote is refused, and where only plates may, goods without one; nothing is lost by it."""

    def lanes(need: PlateNeed) -> Ground:
        types = tuple(replace(t, plates=need) if t.code == "LANE" else t for t in GROUND.opening.bin_types)
        return Ground(replace(GROUND.opening, bin_types=types))

    def picked(need: PlateNeed, flow: str) -> Play:
        play = asked(Play(new_world(lanes(need), rulebook)), order("SO-1", ("SHK-08", 5), carrier=None))
        releases(play, OrderNo("SO-1")).done()
        play.opens(flow).scan("SO-1").done()
        if play.question().asks == "tote":
            play.scan(TOTES[0]).done()
        return fetches(play).asks("set_at")

    tote, loose = picked(PlateNeed.NONE, "F-PICK"), picked(PlateNeed.REQUIRED, "F-PICKNEXT")
    tote.scan(tote.question().expect).refused("no_plates", TOTES[0]).asks("set_at")
    loose.scan("PACK-1").refused("plate_needed").asks("set_at")
    sound(tote)
    sound(loose)


def test_of_many_stops_the_latest_are_listed_and_the_rest_counted(
    rulebook: Rulebook, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A list of hundreds of stops is not built and sent with every scan."""
    monkeypatch.setattr("mindful_crate.core.work.picking.flow.LISTED", 1)
    play = released(rulebook, order("SO-1", ("SHK-08", 20), ("ROPE-06", 30), carrier=None))
    play.opens("F-PICK").scan(tasks(play)[0].number).done()
    play.asks("tote").scan(TOTES[0]).done()
    for earlier in (0, 1):
        before = wanted(play) if play.question().asks == "pick_item" else ""
        fetches(play)
        (row,) = play.question().so_far
        assert play.question().earlier == earlier
        assert not before or row.item == before


def by_the_host(play: Play, number: str, quantity: int = 0) -> Play:
    """The host wants that much of the first line, or cancels the order; the floor hears of it."""
    if not quantity:
        play.do(acts.CancelOrder(OrderNo(number))).done()
    else:
        known = play.state.order(OrderNo(number))
        lines = (replace(known.lines[0], quantity=quantity), *known.lines[1:])
        play.do(acts.WriteOrder(replace(known, lines=lines, confirmed=False)))
    return play.do(acts.Wait(60)).done()


def back(play: Play) -> list[tuple[str, str, int]]:
    """What is put back: from where, which item, how much."""
    away = (t for t in play.state.tasks.values() if t.need is Need.PUT_AWAY and not t.state.ended)
    return sorted((t.from_bin, g.item, g.quantity) for t in away for g in t.plan.loose)


def test_the_host_cancels_while_it_is_picked(rulebook: Rulebook) -> None:
    """What is still in its bin is fetched no more, what is in hands is put back once it was set down, and the release ends."""
    play = released(rulebook, order("SO-1", ("SHK-08", 20), ("ROPE-06", 30), carrier=None))
    (task,) = tasks(play)
    play.opens("F-PICK").scan(task.number).done().asks("tote").scan(TOTES[0]).done()
    fetches(play)
    fetched = play.state.tasks[task.number].going.hands[0]
    by_the_host(play, "SO-1")
    said = [e.says for e in play.world.log if "is picked no further" in e.says]
    assert said and "are fetched no more" in said[0] and "put back from where they are set down" in said[0], said
    assert OrderNo("SO-1") not in play.state.releases and back(play) == []
    assert [m.do for m in play.state.tasks[task.number].going.remaining] == [Do.PLACE]
    play.press("leave")
    play.opens("F-PICK").asks("set_at").scan(play.question().expect).done("is done")
    assert back(play) == [(play.state.tasks[task.number].placed_in, fetched.item, fetched.quantity)]
    assert not [r for r in play.state.reservations.values() if r.order]
    sound(play)
    (put,) = [t for t in play.state.tasks.values() if t.need is Need.PUT_AWAY and not t.state.ended]
    assert station(rulebook, GROUND, put) == "Put back"
    hand = Play(play.world, "oren", "H9", ("quay", "reach", "store", "hazard"))
    hand.do(acts.Take(put.number)).done().do(acts.Place(put.number, put.to_bin)).done()
    assert stock(play, put.to_bin, fetched.item) >= fetched.quantity
    sound(play)


def test_the_host_cancels_one_order_of_a_wave_while_it_is_picked() -> None:
    """The wave goes on without it; what is in hands for it is set down, and nothing more is fetched."""
    play = on_a_cart(BOOK, *(order(f"SO-{n}", ("SHK-08", 7 * n), ("ROPE-06", 10)) for n in (1, 2)), method=Method.ORDER)
    mine = tasks(play)[0]
    for what in ("scan", "scan", "fetch"):
        by_hand(play, what, play.state.tasks[mine.number], 0)
    by_the_host(play, "SO-1")
    (wave,) = play.state.waves.values()
    assert wave.orders == (OrderNo("SO-2"),) and mine.number in wave.tasks
    assert [m.do for m in play.state.tasks[mine.number].going.remaining] == [Do.PLACE]
    sound(play)


def test_the_host_wants_less_of_what_stands_at_its_station(rulebook: Rulebook) -> None:
    """Only what is too much is put back, off its tote; the rest stays kept. What wants more is a new part that is released by itself."""
    play = released(rulebook, order("SO-1", ("SHK-08", 20), carrier=None))
    (task,) = tasks(play)
    play.opens("F-PICK").scan(task.number).done().asks("tote").scan(TOTES[0]).done()
    fetches(play).scan(play.question().expect).done("is done")
    at = play.state.tasks[task.number].placed_in
    by_the_host(play, "SO-1", 12)
    assert back(play) == [(at, "SHK-08", 8)]
    assert play.state.reservations.of_line(LineKey(OrderNo("SO-1"), 1)) == 12
    assert OrderNo("SO-1") in play.state.releases
    sound(play)
    by_the_host(play, "SO-1", 30)
    assert back(play) == [(at, "SHK-08", 8)] and play.state.reservations.of_line(LineKey(OrderNo("SO-1"), 1)) == 12
    releases(play, "SO-1").done()
    assert play.state.reservations.of_line(LineKey(OrderNo("SO-1"), 1)) == 30
    sound(play)


def test_another_order_on_the_same_cart_goes_on(rulebook: Rulebook) -> None:
    """Of a cart that is under way only what the cancelled order wanted is dropped."""
    play = on_a_cart(rulebook, *[order(f"SO-{n}", ("SHK-08", n)) for n in (1, 2, 3)])
    (task,) = tasks(play)
    play.opens("F-PICK").scan("WR-0001").done()
    for tote in TOTES:
        play.asks("tote").scan(tote).done()
    by_the_host(play, "SO-2")
    left = [s.line.order for m in play.state.tasks[task.number].going.remaining if m.do is Do.TAKE for s in m.serves]
    assert sorted(left) == ["SO-1", "SO-3"]
    play.press("leave")
    play.opens("F-PICK")
    while play.question().asks != "set_at":
        _ = fetches(play) if play.question().asks != "pick_into" else play.scan(play.question().expect).done()
    play.scan(play.question().expect).done("is done")
    assert back(play) == []
    sound(play)


def handed_over(book: Rulebook, **leg: object) -> Rulebook:
    """The demo's rules: what the quay picks is handed over at a lane, and brought to its station by the reach trucks."""
    over = Leg(LegId("LG-9"), CrewId("quay"), BinCode("STG-01"), **leg)  # type: ignore[arg-type]
    recipes = tuple(replace(r, crew=CrewId("reach"), legs=(over,)) if r.id == "RE-7" else r for r in book.recipes)
    return replace(book, recipes=recipes)


@pytest.mark.parametrize("method", [Method.ORDER, Method.CLUSTER, Method.BATCH])
def test_what_is_picked_is_handed_over_to_a_second_crew(rulebook: Rulebook, method: Method) -> None:
    """The first crew sets it down at the hand-over point, the second takes on whatever stands there, tote by tote or loose, and brings it to its
    station; it stays kept all the way, and the wave is done with the last of it."""
    orders = [order(f"SO-{n}", ("SHK-08", n), ("SHK-10", 2)) for n in (1, 2)]
    book = handed_over(rulebook)
    play = released(by(book, plan(method)), *orders).do(acts.MakeWave(plan().id)).done()
    while first := [t for t in tasks(play) if t.crew == "quay" and not t.going.parts]:
        play.opens("F-PICK").scan(first[0].number).done()
        while play.question().asks != "set_at":
            asks = play.question().asks
            if asks == "tote":
                play.scan(f"LPR-9000{50 + len(play.world.log)}").done()
            elif asks == "pick_into":
                play.scan(play.question().expect).done()
            else:
                fetches(play)
        play.asks("set_at", expect="STG-01").scan("STG-01").done("Reach crew takes it on from here")
        play.press("leave")
        sound(play)
    assert {state(play, "WR-0001")} <= {WaveState.IN_PROGRESS, WaveState.LET_GO}
    second = Play(play.world, "sefa", "H5", ("reach", "quay"))
    for task in [t for t in tasks(play) if t.crew == "reach"]:
        assert task.plan.leg == 1 and task.from_bin == "STG-01"
        second.opens("F-PICK" if method is Method.BATCH else "F-PICKPLATE").scan(task.number).done()
        while second.question().asks != "set_at":
            _ = fetches(second) if method is Method.BATCH else second.scan(second.question().expect).done()
        second.scan(second.question().expect).done("is done")
        second.press("leave")
    assert state(play, "WR-0001") is WaveState.DONE
    parts = [p for r in play.state.reservations.values() if r.order for p in r.parts]
    assert sum(p.goods.quantity for p in parts) == 1 + 2 + 2 + 2 and {p.task for p in parts} == {None}
    assert "STG-01" not in {play.state.bin_of(p.plate) if p.plate else p.bin for p in parts}
    sound(play)


def test_the_next_part_of_the_way_may_wait_for_the_office(rulebook: Rulebook) -> None:
    """It is held until somebody lets it go."""
    play = released(handed_over(rulebook, next=Begins.ON_DEMAND), order("SO-1", ("SHK-08", 3), carrier=None))
    (task,) = tasks(play)
    play.opens("F-PICK").scan(task.number).done().scan(TOTES[0]).done()
    fetches(play).scan("STG-01").done("takes it on")
    (held,) = tasks(play)
    assert held.held and held.crew == "reach"
    play.do(acts.LetTaskGo(held.number)).done()
    sound(play)
