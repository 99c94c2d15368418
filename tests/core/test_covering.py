"""Cover that is kept: who is promised what as orders, goods and losses come, whatever comes in whatever order."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, timedelta
from decimal import Decimal

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mindful_crate.core.catalog.goods import Order, OrderKind, OrderLine
from mindful_crate.core.catalog.ids import ItemCode, OrderNo, PartnerCode, PlateKindCode, SiteCode, UnitCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.covers import Cover
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import TaskState
from mindful_crate.core.proving.levels import levels_of
from mindful_crate.core.releasing.cover import covers, going_out
from mindful_crate.core.releasing.settling import settled
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.work.covering.events import CoverChanged
from mindful_crate.core.work.rows import by_kind
from mindful_crate.core.work.table import TABLE
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.invariants import broken
from mindful_crate.demo.loader import demo_opening, demo_rulebook
from tests.playbook import STARTS, Play, from_snapshot, new_world
from tests.properties import tried

HQ = SiteCode("HQ")
ROPE, BOW, LATE = ItemCode("ROPE-06"), ItemCode("SHK-08"), date(2026, 3, 20)
TODAY = STARTS.date()


def order(number: str, quantity: int, promised: date = LATE, item: str = "ROPE-06", kind: str = "sales") -> Order:
    """An order of one line."""
    line = OrderLine(1, ItemCode(item), UnitCode("m" if item == "ROPE-06" else "pc"), quantity, Decimal(1))
    partner = {"sales": "C-500", "purchase": "V-120", "production": "W-900"}[kind]
    return Order(OrderNo(number), OrderKind(kind), HQ, PartnerCode(partner), promised, (line,))


def asked(play: Play, *orders: Order) -> Play:
    """These orders are written and confirmed in the host, and reach the floor."""
    for each in orders:
        play.do(acts.WriteOrder(each)).done().confirm(each.number).do(acts.Wait(60)).done()
    return play


def of(play: Play, number: str) -> tuple[int, list[tuple[str, int]], int]:
    """What the first line of an order has on hand, what it is tied to, and what it lacks."""
    state: State = play.state
    cover = state.covers.of_line(LineKey(OrderNo(number), 1))
    known = state.order(OrderNo(number))
    assert cover is not None and known is not None
    return (
        cover.on_hand,
        [(w.order, w.quantity) for w in cover.on_way],
        known.lines[0].quantity - cover.on_hand - cover.coming,
    )


def made(play: Play) -> tuple[object, ...]:
    """The events of the last command that was carried out."""
    done = next(e.outcome for e in reversed(play.world.log) if isinstance(e.outcome, ev.Done) and e.outcome.events)
    return done.events


WORDS = by_kind(row for matter in TABLE for row in matter.words)


def free(play: Play, item: ItemCode = ROPE) -> int:
    return levels_of(play.state, item).free


def sound(play: Play) -> None:
    """Nothing is promised twice, all that can be promised is, and a snapshot says the same."""
    state: State = play.state
    assert broken(state) == []
    for item in (ROPE, BOW):
        assert list(settled(state, item, TODAY)) == []
    assert from_snapshot(state).kept() == state.kept()


def test_who_is_confirmed_first_keeps_what_it_has(ground: Ground, rulebook: Rulebook) -> None:
    """A later order with an earlier promise takes nothing from it, but is served first when something comes free; an order that is not
    confirmed claims nothing, and the bench says what it would have of what is left."""
    play = Play(new_world(ground, rulebook))
    there = free(play)
    asked(play, order("SO-1", there - 10))
    asked(play, order("SO-2", 30, LATE - timedelta(9)), order("SO-3", 30))
    assert of(play, "SO-1") == (there - 10, [], 0)
    assert of(play, "SO-2") == (10, [], 20) and of(play, "SO-3") == (0, [], 30)
    play.do(acts.WriteOrder(order("SO-4", 5, LATE - timedelta(10)))).done()
    assert play.state.covers.of_line(LineKey(OrderNo("SO-4"), 1)) is None
    (supposed,) = covers(play.state, [order("SO-4", 5)], TODAY)[OrderNo("SO-4")]
    assert (supposed.on_hand, supposed.short) == (0, 5)
    sound(play)
    play.do(acts.CancelOrder(OrderNo("SO-1"))).done().do(acts.Wait(60)).done()
    assert of(play, "SO-2") == (30, [], 0) and of(play, "SO-3") == (30, [], 0)
    assert of(play, "SO-1")[0] == 0
    sound(play)


def test_an_order_that_wants_less_or_more_keeps_what_it_may(ground: Ground, rulebook: Rulebook) -> None:
    """Less gives back, to who is short; more is a claim behind the others."""
    play = Play(new_world(ground, rulebook))
    there = free(play)
    asked(play, order("SO-1", there), order("SO-2", 8))
    asked(play, order("SO-1", there - 5))
    assert of(play, "SO-1") == (there - 5, [], 0) and of(play, "SO-2") == (5, [], 3)
    asked(play, order("SO-1", there))
    assert of(play, "SO-1") == (there - 5, [], 5)
    sound(play)


def received(play: Play, number: str, quantity: int) -> Play:
    """The office receives rope of an order, on a pallet."""
    line = acts.OfficeLine(ROPE, quantity)
    return play.do(acts.ReceiveInOffice(OrderNo(number), (line,), PlateKindCode("PAL"), why="label torn"))


def put_away(play: Play) -> Play:
    """The office says that all open put-away tasks went where they were shown to go."""
    for task in [t.number for t in play.state.tasks.every() if t.state is TaskState.OPEN]:
        play.do(acts.PutAwayInOffice(task, why="scanner broken"))
    return play


def test_what_comes_goes_to_who_waits_for_it(ground: Ground, rulebook: Rulebook) -> None:
    """Tied to the earliest supply; still on its way while it stands where it arrived; on hand once it is put away, for who was tied to it
    and not for who is promised earlier; supply that is cancelled is untied."""
    play = Play(new_world(ground, rulebook))
    there = free(play)
    asked(play, order("PO-8", 40, LATE, kind="purchase"), order("PO-9", 100, LATE + timedelta(9), kind="purchase"))
    asked(play, order("SO-1", there + 50), order("SO-2", 20))
    assert of(play, "SO-1") == (there, [("PO-8", 40), ("PO-9", 10)], 0) and of(play, "SO-2") == (0, [("PO-9", 20)], 0)
    received(play, "PO-8", 40).done()
    asked(play, order("SO-3", 80, LATE - timedelta(15)))
    assert of(play, "SO-1") == (there, [("PO-8", 40), ("PO-9", 10)], 0) and of(play, "SO-3") == (0, [("PO-9", 70)], 10)
    sound(play)
    put_away(play)
    assert of(play, "SO-1") == (there + 40, [("PO-9", 10)], 0) and of(play, "SO-3") == (0, [("PO-9", 70)], 10)
    sound(play)
    play.do(acts.CancelOrder(OrderNo("PO-9"))).done().do(acts.Wait(60)).done()
    assert of(play, "SO-1") == (there + 40, [], 10) and of(play, "SO-2") == (0, [], 20) and of(play, "SO-3")[2] == 80
    sound(play)


def test_what_is_made_no_more_is_on_its_way_no_more(ground: Ground, rulebook: Rulebook) -> None:
    """The output of a production order is declared complete: who waited for the rest of it is short."""
    play = Play(new_world(ground, rulebook))
    asked(play, order("WO-8", 50, kind="production"))
    asked(play, order("SO-1", free(play) + 30))
    assert of(play, "SO-1")[1:] == ([("WO-8", 30)], 0)
    play.do(acts.DeclareOutput(OrderNo("WO-8"))).done()
    assert of(play, "SO-1")[1:] == ([], 30)
    sound(play)


def test_a_loss_falls_on_who_is_promised_last(ground: Ground, rulebook: Rulebook) -> None:
    """Stock kept for somebody else by hand: the latest promised loses, the log says whose; let go again, it has it back."""
    play = Play(new_world(ground, rulebook))
    there = free(play)
    asked(play, order("SO-1", there - 20, LATE), order("SO-2", 20, LATE + timedelta(1)))
    play.do(acts.ReserveStock("the yard", ROPE, 15)).done()
    assert of(play, "SO-1") == (there - 20, [], 0) and of(play, "SO-2") == (5, [], 15)
    (told,) = [e for e in made(play) if isinstance(e, CoverChanged)]
    assert WORDS[CoverChanged](told) == "`SO-2/1` has of `ROPE-06` 5 on hand (20 before)"
    sound(play)
    (kept,) = play.state.reservations.values()
    play.do(acts.LetGo(kept.number)).done()
    assert of(play, "SO-2") == (20, [], 0)
    sound(play)


def test_cover_is_shifted_by_hand_with_a_reason(ground: Ground, rulebook: Rulebook) -> None:
    """From one line to another of the same item, as much as one has and the other wants; it stays so whatever comes."""
    play = Play(new_world(ground, rulebook))
    there = free(play)
    asked(play, order("SO-1", there), order("SO-2", 8), order("SO-3", 5, item=BOW))

    def shifts(to: str, quantity: int, why: str = "the ferry leaves tonight", line: int = 1) -> Play:
        return play.do(acts.ShiftCover(OrderNo("SO-1"), 1, OrderNo(to), line, quantity, why))

    shifts("SO-2", 9).refused("wants_less", "8 m")
    shifts("SO-2", 0).refused("not_above_zero")
    shifts("SO-2", 3, "x").refused("no_reason")
    shifts("SO-3", 3).refused("other_item")
    shifts("SO-1", 3).refused("same_line")
    shifts("SO-2", 3, line=7).refused("no_such_line")
    shifts("SO-X", 3).refused("unknown_order")
    play.do(acts.ShiftCover(OrderNo("SO-2"), 1, OrderNo("SO-1"), 1, 1, "the other way")).refused("not_on_hand")
    shifts("SO-2", 6).done("6 m", "`SO-2/1` instead of `SO-1/1`", "the ferry leaves tonight")
    assert of(play, "SO-2") == (6, [], 2) and of(play, "SO-1") == (there - 6, [], 6)
    asked(play, order("SO-4", 5))
    assert of(play, "SO-2") == (6, [], 2) and of(play, "SO-4")[0] == 0
    sound(play)


def test_what_is_promised_as_the_floor_begins(ground: Ground, rulebook: Rulebook) -> None:
    """Orders that are confirmed at the opening have claimed, as those would that are confirmed one after another; what follows goes on
    from there."""
    opening = replace(
        ground.opening,
        orders=tuple(replace(o, confirmed=True) if o.kind is OrderKind.SALES else o for o in ground.opening.orders),
    )
    began = Ground(opening)
    play = Play(new_world(began, rulebook))
    supposed = covers(new_world(ground, rulebook).state, going_out(new_world(ground, rulebook).state), TODAY)
    kept = covers(play.state, going_out(play.state), TODAY)
    sales = [n for n in supposed if began.orders[n].kind is OrderKind.SALES]
    assert len(sales) > 40 and all(kept[n] == supposed[n] for n in sales)
    sound(play)
    play.do(acts.ReserveStock("the yard", ROPE, free(play))).done()
    assert all(c.on_hand == 0 for c in play.state.covers.of_item(ROPE))
    sound(play)


DOINGS = st.lists(
    st.one_of(
        st.tuples(st.just("ask"), st.integers(0, 4), st.integers(1, 90), st.integers(0, 5)),
        st.tuples(st.just("supply"), st.integers(0, 2), st.integers(1, 90), st.integers(0, 5)),
        st.tuples(st.just("cancel"), st.integers(0, 7), st.just(0), st.just(0)),
        st.tuples(st.just("keep"), st.just(0), st.integers(1, 60), st.just(0)),
        st.tuples(st.just("let go"), st.just(0), st.just(0), st.just(0)),
        st.tuples(st.just("shift"), st.integers(0, 4), st.integers(1, 20), st.integers(0, 4)),
        st.tuples(st.just("block"), st.integers(0, 3), st.integers(0, 1), st.just(0)),
        st.tuples(st.just("receive"), st.integers(0, 2), st.integers(1, 40), st.just(0)),
        st.tuples(st.just("put away"), st.just(0), st.just(0), st.just(0)),
    ),
    max_size=14,
)


GROUND, BOOK = Ground(demo_opening()), demo_rulebook()


@tried(30)
@given(DOINGS)
def test_whatever_happens_nothing_is_promised_twice(doings: list[tuple[str, int, int, int]]) -> None:
    """Orders, supply, losses, shifts in any sequence, refused or not: what is promised is there, and who lacks something does so because
    nothing more is free or on its way."""
    play = Play(new_world(GROUND, BOOK))
    bins = sorted({x.bin for x in play.state.lines(ROPE)})
    for what, which, much, more in doings:
        match what:
            case "ask":
                asked_or_not(play, order(f"SO-{which}", much, LATE + timedelta(more)))
            case "supply":
                asked_or_not(play, order(f"PO-{which}", much, LATE + timedelta(more), kind="purchase"))
            case "cancel":
                play.do(acts.CancelOrder(OrderNo(f"SO-{which}" if which < 5 else f"PO-{which - 5}")))
            case "keep":
                play.do(acts.ReserveStock("the yard", ROPE, much))
            case "let go":
                for kept in list(play.state.reservations.values())[:1]:
                    play.do(acts.LetGo(kept.number))
            case "shift":
                play.do(acts.ShiftCover(OrderNo(f"SO-{which}"), 1, OrderNo(f"SO-{more}"), 1, much, "as it must be"))
            case "block":
                play.do(acts.BlockBin(bins[which % len(bins)], "wet" if much else ""))
            case "receive":
                received(play, f"PO-{which}", much)
            case "put away":
                put_away(play)
        play.do(acts.Wait(60))
        promised: list[Cover] = list(play.state.covers.of_item(ROPE))
        if any(of(play, c.order)[2] > 0 and not play.state.is_cancelled(c.order) for c in promised):
            assert sum(c.on_hand for c in promised) >= free(play)
    sound(play)


def asked_or_not(play: Play, wanted: Order) -> None:
    """The order is written and confirmed, if the host takes it so."""
    play.do(acts.WriteOrder(wanted))
    play.confirm(wanted.number).do(acts.Wait(60))


@pytest.mark.parametrize("count", [1, 12])
def test_a_scan_that_touches_no_promised_item_changes_no_cover(ground: Ground, rulebook: Rulebook, count: int) -> None:
    """However many orders wait."""
    play = asked(Play(new_world(ground, rulebook)), *(order(f"SO-{n}", 1) for n in range(count)))
    before = play.state.covers.all()
    play.do(acts.ReserveStock("the yard", BOW, 5)).done()
    assert play.state.covers.all() == before
