"""Orders are released by their gates into shipments, with stock kept for them; and taken back to where they were."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

from hypothesis import given
from hypothesis import strategies as st

from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import CarrierCode, GateId, OrderNo, PartnerCode, UnitCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.refs import DocKind, LineKey, Ref
from mindful_crate.core.floor.state import State
from mindful_crate.core.proving.facts import facts_of
from mindful_crate.core.proving.levels import levels_of
from mindful_crate.core.proving.today import FLOOR
from mindful_crate.core.record import evolve
from mindful_crate.core.releasing.judging import row_for
from mindful_crate.core.releasing.settling import settled
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.gates import Gate, GateKind, GateVerdict
from mindful_crate.core.work.releasing.events import OrderReleased
from mindful_crate.core.world import acts
from mindful_crate.core.world.invariants import broken
from tests.core.test_covering import BOOK, BOW, GROUND, LATE, ROPE, asked, asked_or_not, free, made, of, order
from tests.playbook import STARTS, Play, from_snapshot, new_world
from tests.properties import tried


def releases(play: Play, *orders: str, **how: bool) -> Play:
    return play.do(acts.ReleaseOrders(tuple(OrderNo(o) for o in orders), **how))


def kept(play: Play, number: str) -> int:
    """How much is kept in bins for the first line of an order."""
    return int(play.state.reservations.of_line(LineKey(OrderNo(number), 1)))


def takes_back(play: Play, number: str, why: str = "the truck is broken") -> Play:
    return play.do(acts.UndoRelease(OrderNo(number), why))


def test_a_dry_run_says_what_would_happen_and_changes_nothing(ground: Ground, rulebook: Rulebook) -> None:
    """Its answer is the one that the release then gives, with shipments, waves and tasks by the numbers they get; nothing else is another than before. What
    may not go is refused alike."""
    play = Play(new_world(ground, rulebook))
    asked(play, order("SO-1", 5), order("SO-2", 8, date(2026, 3, 5)), order("SO-3", 10**6))
    before = play.state.kept()
    says = (
        releases(play, "SO-1", "SO-2", "SO-3", dry=True)
        .done("Only tried, nothing was done", "2 of 3 orders", "Wave `WR-0001`")
        .last.says
    )
    assert play.last.outcome.events == ()  # type: ignore[union-attr]
    assert evolve(play.state.kept(), seq=before.seq, clock=before.clock) == before
    refused = releases(play, "SO-3", dry=True).last.outcome
    assert refused == releases(play, "SO-3").last.outcome
    assert says.endswith(releases(play, "SO-1", "SO-2", "SO-3").done().last.says) and kept(play, "SO-1") == 5
    assert not broken(play.state)


def test_released_taken_back_and_released_again(ground: Ground, rulebook: Rulebook) -> None:
    """Stock is kept in bins by the rules that take, for that line; taken back it is promised as before, to the same order, though another
    waits; nothing is left over."""
    play = Play(new_world(ground, rulebook))
    there = free(play)
    asked(play, order("SO-1", there - 5), order("SO-2", 20, date(2026, 3, 5)))
    before = play.state.covers.all(), free(play)
    releases(play, "SO-1").done("`SO-1` was released into `SHR-0001`.")
    assert kept(play, "SO-1") == there - 5 and of(play, "SO-1") == (0, [], there - 5) and free(play) == 5
    assert levels_of(play.state, ROPE).promised == 5
    facts = (
        facts_of(play.state, rulebook, Ref(DocKind.ORDER, "SO-1")),
        facts_of(play.state, rulebook, Ref(DocKind.ORDER, "SO-2")),
    )
    name = ground.items[ROPE].name
    assert [f.says for (f,) in facts] == [
        f"{there - 5} m {name}, {there - 5} kept in bins",
        f"20 m {name}, 5 promised on hand",
    ]
    lying = {(x.bin, x.plate): x.goods.quantity for x in play.state.lines(ROPE)}
    for number in play.state.reservations.of_order(OrderNo("SO-1"))[1]:
        assert all(p.goods.quantity <= lying[p.bin, p.plate] for p in play.state.reservations[number].parts)
    assert broken(play.state) == [] and from_snapshot(play.state).kept() == play.state.kept()
    releases(play, "SO-1").refused("released_already", "SHR-0001")
    takes_back(play, "SO-1", "no").refused("no_reason")
    takes_back(play, "SO-1").done("1 reservation is given up", "`SHR-0001` has ended", "the truck is broken")
    assert (play.state.covers.all(), free(play)) == before and len(play.state.shipments) == 0
    takes_back(play, "SO-1").refused("not_released")
    releases(play, "SO-1").done()
    assert kept(play, "SO-1") == there - 5 and broken(play.state) == []


def test_each_verdict_answers_in_its_words(ground: Ground, rulebook: Rulebook) -> None:
    """Stopped: which gate, where it comes from, the rate, what is missing. With a warning: it was released, and says so. Past the gate: by
    hand with a reason."""
    play = Play(new_world(ground, rulebook))
    there = free(play)
    asked(play, order("SO-1", there * 10), order("SO-2", 8, item=BOW))
    asked(play, order("SO-3", free(play, BOW) * 10 // 9, item=BOW))
    releases(play, "SO-1").refused(
        "stopped", "`SO-1` is stopped: Most of it (it is for whatever no other is for) measures 10.00 %, below 65 %.",
        f"line 1, {ground.items[ROPE].name}: {there:,} m of {there * 10:,} m on hand",
    )  # fmt: skip
    releases(play, "SO-3", warned=False).refused("warned", "would go with a warning")
    releases(play, "SO-2", "SO-3", whole=True).done("1 of 2 orders are released.", "Not all of `SO-3` is on hand")
    releases(play, "SO-3").done(
        "`SO-3` was released with a warning into", "below 95 %", "What is not on hand stays: line 1 lacks"
    )
    play.do(acts.PassGate(OrderNo("SO-3"), "the ferry waits")).refused("released_already")
    play.do(acts.PassGate(OrderNo("SO-1"), "")).refused("no_reason")
    play.do(acts.PassGate(OrderNo("SO-1"), "the ferry waits")).done(
        "`SO-1` was released past its gate", "the ferry waits"
    )
    (event,) = [e for e in made(play) if isinstance(e, OrderReleased)]
    assert (event.verdict, event.rate, event.passed) == (GateVerdict.STOP, "10.00 %", "the ferry waits")
    assert kept(play, "SO-1") == there and broken(play.state) == []


def test_what_may_not_go_says_why(ground: Ground, rulebook: Rulebook) -> None:
    """Goods that come in, another site's, not confirmed, cancelled, open in the host, nothing on hand, nobody's; of many each by itself, and
    nothing of those that are refused is left."""
    play = Play(new_world(ground, rulebook))
    asked(play, order("SO-1", free(play)), order("SO-2", 5), order("SO-3", 5, item=BOW), order("SO-4", 6, item=BOW))
    play.do(acts.WriteOrder(order("SO-5", 5))).done()
    play.do(acts.CancelOrder(OrderNo("SO-3"))).done().do(acts.Wait(60)).done()
    play.other("ines", "H2").do(acts.OpenOrder(OrderNo("SO-4"))).done()
    for number, code in (
        ("PO-1001", "other_kind"), ("SO-3", "order_cancelled"), ("SO-4", "order_held"), ("SO-5", "not_confirmed"), ("SO-X", "unknown_order"),
        ("SO-2", "stopped"),
    ):  # fmt: skip
        releases(play, number).refused(code)
    releases(play).refused("no_orders")
    play.do(acts.PassGate(OrderNo("SO-2"), "it must go")).refused("nothing_on_hand")
    releases(play, "SO-2", "SO-5").refused("none_may_go", "`SO-2` is stopped", "`SO-5` is not confirmed")
    play.do(acts.PassGate(OrderNo("SO-1"), "it must go")).refused("not_stopped")
    releases(play, "SO-2", "SO-1", "SO-5").done(
        "1 of 3 orders are released.", "`SO-1` was released", "`SO-5` is not confirmed"
    )
    assert len(play.state.reservations) == 1 and broken(play.state) == []


def test_the_rest_goes_once_it_is_here(ground: Ground, rulebook: Rulebook) -> None:
    """Released in part; what comes free later is released too, into the same shipment; taken back, all of it is promised again."""
    play = Play(new_world(ground, rulebook))
    there = free(play)
    play.do(acts.ReserveStock("the yard", ROPE, there - 80)).done()
    asked(play, order("SO-1", 100))
    releases(play, "SO-1").done("with a warning", "line 1 lacks 20 m")
    releases(play, "SO-1").refused("released_already", "nothing more of it is on hand")
    play.do(acts.LetGo(min(n for n, r in play.state.reservations.items() if r.order is None))).done()
    assert (kept(play, "SO-1"), of(play, "SO-1")[0]) == (80, 20)
    releases(play, "SO-1").done("What else is on hand of `SO-1` was released into `SHR-0001`.")
    assert kept(play, "SO-1") == 100 and [s.orders for s in play.state.shipments.values()] == [("SO-1",)]
    assert broken(play.state) == []
    takes_back(play, "SO-1").done("2 reservations are given up")
    assert of(play, "SO-1") == (100, [], 0) and broken(play.state) == []


def test_the_rest_of_an_order_waits_for_a_word_as_well(ground: Ground, rulebook: Rulebook) -> None:
    """Released in part; then the host changes it, and what was said holds no more. The rest is stopped until somebody says yes again."""
    word = Gate(GateId("G-9"), "Accounts", kind=GateKind.WORD, whose="accounts")
    play = Play(new_world(ground, replace(rulebook, gates=(word, *rulebook.gates))))
    there = free(play)
    play.do(acts.ReserveStock("the yard", ROPE, there - 80)).done()
    asked(play, order("SO-1", 100))
    releases(play, "SO-1").refused("stopped", "waits for the word of accounts")
    yes = acts.SayToOrder(OrderNo("SO-1"), word.id, True)
    play.do(yes).done("@oren says yes to `SO-1` at Accounts. It may go with a warning: Most of it")
    releases(play, "SO-1").done("line 1 lacks 20 m")
    play.do(yes).refused("released_already", "nothing more of it is on hand")
    play.do(acts.LetGo(min(n for n, r in play.state.reservations.items() if r.order is None))).done()
    known = play.state.order(OrderNo("SO-1"))
    assert known is not None
    play.do(acts.WriteOrder(replace(known, priority=1))).done().do(acts.Wait(60)).done()
    assert OrderNo("SO-1") in play.state.words_said, "another priority is no other order"
    play.do(acts.WriteOrder(replace(known, lines=(replace(known.lines[0], quantity=110),)))).done().do(
        acts.Wait(60)
    ).done()
    assert OrderNo("SO-1") not in play.state.words_said
    releases(play, "SO-1").refused("stopped", "waits for the word of accounts")
    play.do(yes).done("It may go.")
    releases(play, "SO-1").done()
    assert kept(play, "SO-1") == 110 and broken(play.state) == []


def test_an_order_of_before_cover_was_kept_covers_itself(ground: Ground, rulebook: Rulebook) -> None:
    """On a floor whose log is older than cover: told as it would be covered, and covered once it is to be released."""
    play = Play(new_world(ground, rulebook))
    asked(play, order("SO-1", 10), order("SO-2", 10))
    for number in ("SO-1", "SO-2"):
        play.state.covers.put(LineKey(OrderNo(number), 1), None)
        play.state.gates_given.put(OrderNo(number), None)
    releases(play, "SO-1").done()
    assert kept(play, "SO-1") == 10 and play.state.covers.of_line(LineKey(OrderNo("SO-2"), 1)) is None
    play.do(acts.PassGate(OrderNo("SO-2"), "it must go")).refused("not_stopped")
    releases(play, "SO-2").done()
    assert kept(play, "SO-2") == 10 and broken(play.state) == []


def test_what_leaves_alike_leaves_together(ground: Ground, rulebook: Rulebook) -> None:
    """Two orders of one customer in one shipment; another address, day or carrier, or a customer who forbids it, apart; one of two is taken
    back and the shipment goes on."""
    play = Play(new_world(ground, rulebook))
    base = order("SO-1", 1, item=BOW)
    alone = next(p.code for p in ground.partners.values() if not p.joins)
    orders = (
        base, replace(base, number=OrderNo("SO-2")), replace(base, number=OrderNo("SO-3"), ship_to=("Quay 9",)),
        replace(base, number=OrderNo("SO-4"), ship_by=date(2026, 3, 19)), replace(base, number=OrderNo("SO-5"), carrier=CarrierCode("TIDE")),
        replace(base, number=OrderNo("SO-6"), partner=PartnerCode(alone)), replace(base, number=OrderNo("SO-7"), partner=PartnerCode(alone)),
    )  # fmt: skip
    asked(play, *orders)
    releases(play, *(o.number for o in orders)).done("All 7 orders are released.")
    state: State = play.state
    into = {s.orders for s in state.shipments.values()}
    assert into == {("SO-1", "SO-2"), ("SO-3",), ("SO-4",), ("SO-5",), ("SO-6",), ("SO-7",)}
    takes_back(play, "SO-1").done("goes on without it")
    assert state.shipments[state.releases[OrderNo("SO-2")].shipment].orders == ("SO-2",)


def test_a_gate_stays_with_its_order(ground: Ground, rulebook: Rulebook) -> None:
    """What the site's gate says later leaves orders alone that are on the floor; another gate is given by hand, with a reason."""
    play = Play(new_world(ground, rulebook))
    asked(play, order("SO-1", free(play) * 10 // 8))
    known = play.state.order(OrderNo("SO-1"))
    (had,) = row_for(play.state, rulebook, known)
    softer = replace(rulebook, gates=tuple(replace(g, rungs=()) for g in rulebook.gates))
    assert row_for(play.state, softer, known) == (had,) and row_for(new_world(ground, softer).state, softer, known) != (
        had,
    )
    play.do(acts.ChangeGate(OrderNo("SO-1"), "No such", "he asked")).refused("unknown_gate")
    play.do(acts.ChangeGate(OrderNo("SO-1"), "Whole orders only", "")).refused("no_reason")
    play.do(acts.ChangeGate(OrderNo("SO-1"), "Whole orders only", "he asked for all of it")).done(
        "has the gate Whole orders only"
    )
    releases(play, "SO-1").refused("stopped", "Whole orders only (@oren gave it) measures 80.00 %")
    play.do(acts.ChangeGate(OrderNo("SO-1"), "", "no matter")).done("waits at no gate")
    releases(play, "SO-1").done()
    play.do(acts.ChangeGate(OrderNo("SO-1"), "Most of it", "too late")).refused("released_already")
    play.do(acts.ChangeGate(OrderNo("PO-1001"), "Most of it", "it comes in")).refused("not_open")


def test_the_hosts_word_takes_a_release_back_first(ground: Ground, rulebook: Rulebook) -> None:
    """Cancelled, or changed, once released: stock is kept for it no more, and it passes its gate again."""
    play = Play(new_world(ground, rulebook))
    asked(play, order("SO-1", 10), order("SO-2", 12))
    assert FLOOR["may_go"][1](play.state, rulebook, STARTS.replace(tzinfo=None)).value == 2
    releases(play, "SO-1", "SO-2").done()
    assert (
        FLOOR["may_go"][1](play.state, rulebook, STARTS.replace(tzinfo=None)).says == "No order waits to be released."
    )
    asked(play, order("SO-9", 10_000))
    assert (
        FLOOR["stopped"][1](play.state, rulebook, STARTS.replace(tzinfo=None)).says
        == "`SO-9`: Most of it measures 3.78 %, below 65 %."
    )
    asked(play, order("SO-1", 6))
    assert kept(play, "SO-1") == 0 and of(play, "SO-1") == (6, [], 0) and "SO-1" not in play.state.releases
    play.do(acts.CancelOrder(OrderNo("SO-2"))).done().do(acts.Wait(60)).done()
    assert kept(play, "SO-2") == 0 and len(play.state.releases) == 0 and len(play.state.shipments) == 0
    assert broken(play.state) == []
    play.confirm("SO-2001").do(acts.Wait(60)).done()
    first = play.state.order(OrderNo("SO-2001"))
    assert len(first.lines) == 1
    for changed in (
        replace(first, lines=(replace(first.lines[0], item=BOW, unit=UnitCode("pc"), quantity=3),)),
        replace(first, ship_to=("Quay 9",)),
    ):  # of the opening; another item, then another address
        releases(play, "SO-2001").done()
        play.do(acts.WriteOrder(changed)).done().do(acts.Wait(60)).done()
        assert "SO-2001" not in play.state.releases and len(play.state.reservations) == 0
        assert broken(play.state) == [] and list(settled(play.state, first.lines[0].item, date(2026, 3, 3))) == []
        assert of(play, "SO-2001")[2] == 0


def test_stock_that_is_taken_away_is_missed_by_its_order(ground: Ground, rulebook: Rulebook) -> None:
    """A reservation is let go by hand: the order looks for the same again, and is promised it."""
    play = Play(new_world(ground, rulebook))
    asked(play, order("SO-1", free(play)))
    releases(play, "SO-1").done()
    (number,) = play.state.reservations.of_order(OrderNo("SO-1"))[1]
    play.do(acts.LetGo(number)).done()
    assert kept(play, "SO-1") == 0 and of(play, "SO-1")[2] == 0
    assert broken(play.state) == []


DOINGS = st.lists(
    st.one_of(
        st.tuples(st.just("ask"), st.integers(0, 3), st.integers(1, 90)),
        st.tuples(st.just("release"), st.integers(0, 3), st.integers(0, 1)),
        st.tuples(st.just("pass"), st.integers(0, 3), st.just(0)),
        st.tuples(st.just("back"), st.integers(0, 3), st.just(0)),
        st.tuples(st.just("cancel"), st.integers(0, 3), st.just(0)),
        st.tuples(st.just("keep"), st.just(0), st.integers(1, 60)),
        st.tuples(st.just("let go"), st.just(0), st.just(0)),
    ),
    max_size=14,
)


@tried(25)
@given(DOINGS)
def test_whatever_is_released_and_taken_back_nothing_is_kept_twice(doings: list[tuple[str, int, int]]) -> None:
    """In any sequence; once everything is taken back, nothing of it is left."""
    play = Play(new_world(GROUND, BOOK))
    for what, which, much in doings:
        number = OrderNo(f"SO-{which}")
        match what:
            case "ask":
                wanted: Order = order(number, much)
                asked_or_not(play, wanted)
            case "release":
                releases(play, number, "SO-0", warned=bool(much))
            case "pass":
                play.do(acts.PassGate(number, "it must go"))
            case "back":
                takes_back(play, number)
            case "cancel":
                play.do(acts.CancelOrder(number)).do(acts.Wait(60))
            case "keep":
                play.do(acts.ReserveStock("the yard", ROPE, much))
            case "let go":
                for each in list(play.state.reservations.values())[:1]:
                    play.do(acts.LetGo(each.number))
    assert broken(play.state) == []
    for number in list(play.state.releases):
        takes_back(play, number).done()
    assert not [r for r in play.state.reservations.values() if r.order] and len(play.state.shipments) == 0
    assert LATE and broken(play.state) == []
