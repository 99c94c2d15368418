"""Sorting on the handset: what was fetched for several orders at once comes to each order's own place."""

from __future__ import annotations

from dataclasses import replace

from hypothesis import given
from hypothesis import strategies as st

from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import BinCode, ItemCode, OrderNo, PlateNo, WaveNo
from mindful_crate.core.floor.tasks import Do
from mindful_crate.core.proving.findings.whole import findings
from mindful_crate.core.proving.wave_board import inside
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Asks, Short
from mindful_crate.core.rulebook.waves import Method
from mindful_crate.core.work.sorting.looking import free_places, place_of, stations, waits_at
from mindful_crate.core.world import acts
from mindful_crate.core.world.chain import documents
from tests.core.test_covering import BOOK, GROUND
from tests.core.test_picking import TOTES, bar, on_a_cart
from tests.core.test_waves import HQ, all_there, order, sound, tasks
from tests.playbook import Play
from tests.properties import tried

STATION = BinCode("STG-10")


def fetched(book: Rulebook, *orders: Order) -> Play:
    """A batch of orders that was fetched and set down where it is sorted."""
    play = on_a_cart(book, *orders, method=Method.BATCH)
    for task in tasks(play):
        play.do(acts.PickInOffice(task.number, "picked by paper")).done()
    return play


def stages(play: Play, number: str) -> dict[str, tuple[bool, str]]:
    """How far a document is after it was released or let go."""
    doc = next(d for d in documents(play.state) if d.number == number)
    return {s.word: (s.done, s.says) for s in doc.stages if s.word in ("picked", "sorted")}


def test_how_far_an_order_and_its_wave_are(rulebook: Rulebook) -> None:
    """An order says what of it was picked and what is beside no other order's; a wave how many lines are; each line how much is to be sorted."""
    play = on_a_cart(rulebook, *(order(f"SO-{n}", ("SHK-08", 4), ("ROPE-06", 10)) for n in (1, 2)), method=Method.BATCH)
    assert stages(play, "SO-1") == {
        "picked": (False, "0 of 2 lines picked"), "sorted": (False, "0 of 2 lines sorted")
    }  # fmt: skip
    assert stages(play, "WR-0001")["sorted"] == (False, "nothing is picked yet")
    for task in tasks(play):
        play.do(acts.PickInOffice(task.number, "picked by paper")).done()
    assert stages(play, "SO-1") == {
        "picked": (True, "2 of 2 lines picked"), "sorted": (False, "0 of 2 lines sorted")
    }  # fmt: skip
    play.do(acts.SortInto(STATION, OrderNo("SO-1"), 1, 3, BinCode("SRT-1-A"), None)).done()
    play.do(acts.SortInto(STATION, OrderNo("SO-1"), 2, 10, BinCode("SRT-1-A"), None)).done()
    assert stages(play, "SO-1")["sorted"] == (False, "1 of 2 lines sorted, 1 in part")
    assert stages(play, "WR-0001")["sorted"] == (False, "1 of 4 lines that were picked")
    lines = inside(play.state, rulebook, play.state.waves[WaveNo("WR-0001")]).lines
    assert [(x.order, x.line, x.fetched, x.to_sort) for x in lines] == [
        ("SO-1", 1, 4, 1), ("SO-1", 2, 10, 0), ("SO-2", 1, 4, 4), ("SO-2", 2, 10, 10)
    ]  # fmt: skip
    play.do(acts.SortInto(STATION, OrderNo("SO-1"), 1, 1, BinCode("SRT-1-A"), None)).done()
    for no, much in ((1, 4), (2, 10)):
        play.do(acts.SortInto(STATION, OrderNo("SO-2"), no, much, None, TOTES[0])).done()
    assert stages(play, "SO-2")["sorted"] == (True, "2 of 2 lines sorted")
    assert stages(play, "WR-0001")["sorted"] == (True, "4 of 4 lines that were picked")


def test_any_item_is_scanned_and_its_place_told_and_checked(rulebook: Rulebook) -> None:
    """Each order gets a free place of the wall with its first item, and all of it comes there; a taken one is refused by whose it is, storage and
    the place of another by what they are. A tote serves as well, and is a plate beside the station. In the end nothing is left."""
    orders = [order(f"SO-{n}", ("SHK-08", n), ("ROPE-06", 10)) for n in (1, 2, 3)]
    play = fetched(rulebook, *orders)
    assert list(stations(play.state)) == [STATION]
    play.opens("F-SORT").asks("sort_at").scan("P-01-02-4").refused("nothing_to_sort").scan("WR-0001").done()
    play.asks("sort_item").scan(bar("SHK-10")).refused("left_over", "wanted by no order")
    play.scan(bar("ROPE-06")).done().asks("sort_count").type("11").refused("more_than_wanted", "10")
    play.press("confirm").done().asks("sort_into", "SO-1", expect="SRT-1-A")
    play.scan("P-01-02-4").refused("no_place").scan("SRT-1-A").done("for `SO-1`")
    play.asks("sort_item").scan(bar("SHK-08")).press("confirm").asks("sort_into", expect="SRT-1-A")
    play.scan("SRT-1-B").refused("other_place", "SRT-1-A").scan("SRT-1-A").done()
    play.scan(bar("SHK-08")).press("confirm").asks("sort_into", "SO-2", expect="SRT-1-B")
    play.scan("SRT-1-A").refused("place_taken", "SO-1").scan("SRT-3-C").done("SO-2")
    play.scan(bar("ROPE-06")).press("confirm").asks("sort_into", expect="SRT-3-C").scan("SRT-3-C").done()
    play.scan(bar("SHK-08")).type("2").asks("sort_into", "SO-3").scan("LP-000001").refused("tote_in_use")
    play.scan(TOTES[0]).done("SO-3")
    play.scan(bar("ROPE-06")).press("confirm").scan("SRT-1-D").refused("other_place", TOTES[0]).scan(TOTES[0]).done()
    play.scan(bar("SHK-08")).press("confirm").scan(TOTES[0]).done("All of `STG-10` is sorted").asks("sort_at")
    assert not waits_at(play.state, STATION) and play.state.bin_of(TOTES[0]) == STATION
    assert place_of(play.state, OrderNo("SO-1"), STATION) == ("SRT-1-A", None)
    assert {(g.item, g.quantity) for g in play.state.all_goods(TOTES[0])} == {("SHK-08", 3), ("ROPE-06", 10)}
    assert next(free_places(play.state)) == "SRT-1-B"
    sound(play)


def test_what_is_not_there_is_fetched_elsewhere_or_stays_open(rulebook: Rulebook) -> None:
    """What does not come to hand is short for its order: kept from everybody until it is counted, and fetched from another bin by a task of the wave, to be
    sorted to the same place; or it stays open, as the flow has it. At the end all that is left is said in one go."""
    play = fetched(rulebook, order("SO-1", ("SHK-08", 4), ("ROPE-06", 10)), order("SO-2", ("SHK-08", 3)))
    play.opens("F-SORT").scan("WR-0001").asks("sort_item").offers(
        "sort_short", "Nothing more is there", "back", "Step back", "leave", "Leave"
    )
    play.scan(bar("SHK-08")).asks("sort_count").type("1").scan("SRT-1-A").done("1 piece", "SO-1")
    play.scan(bar("ROPE-06")).press("confirm").asks("sort_into").press("sort_short").refused("not_now").scan(
        "SRT-1-A"
    ).done()
    play.scan(bar("SHK-08")).asks("sort_count").press("sort_short").asks(
        "reason", "3 pieces of Bow shackle 8 mm for `SO-1` not there"
    )
    play.scan("not in the box").done("3 pieces of Bow shackle 8 mm for `SO-1` are not in `STG-10`", "1 task")
    sound(play)
    (again,) = tasks(play)
    assert [(m.at != STATION, m.goods[0].quantity) for m in again.plan.moves if m.do is Do.TAKE] == [(True, 3)]
    (missed,) = [r for r in play.state.reservations.values() if r.missed_by]
    assert (missed.item, missed.quantity, missed.parts[0].bin) == ("SHK-08", 3, STATION)
    play.asks("sort_item").press("sort_short").asks("reason", "3 pieces of Bow shackle 8 mm for `SO-2` not there")
    play.press("no").asks("sort_item")
    play.scan(bar("SHK-08")).press("confirm").asks("sort_into", "SO-2").scan("SRT-1-B").done(
        "All of `STG-10` is sorted"
    )
    play.do(acts.PickInOffice(again.number, "picked by paper")).done()
    play.asks("sort_item").scan(bar("SHK-08")).press("confirm")
    play.asks("sort_into", expect="SRT-1-A").scan("SRT-1-A").done("SO-1")
    assert stages(play, "SO-1")["sorted"][0]
    sound(play)
    flows = tuple(replace(f, short=Short.STAYS_OPEN) if f.id == "F-SORT" else f for f in rulebook.flows)
    play = fetched(replace(rulebook, flows=flows), order("SO-1", ("SHK-08", 4)), order("SO-2", ("SHK-08", 3)))
    play.opens("F-SORT").scan("WR-0001").press("sort_short").scan("the box is gone").done(
        "`SO-1/1`, `SO-2/1` stay open"
    )
    assert not tasks(play) and not list(stations(play.state))
    play.asks("sort_at")
    sound(play)
    play.do(acts.SortShort(STATION, "again")).refused("nothing_to_sort")


def test_what_is_short_is_what_was_asked_about(rulebook: Rulebook) -> None:
    """While somebody types why, another sorts it, or all that was left: nothing else is short for it, here or where she sorts next."""
    play = fetched(rulebook, order("SO-1", ("SHK-08", 4)), order("SO-2", ("SHK-08", 3)))
    other = Play(play.world, "mara", "H2").opens("F-SORT").scan("STG-10")
    play.opens("F-SORT").scan("STG-10").scan(bar("SHK-08")).press("sort_short").asks("reason", "for `SO-1` not there")
    other.scan(bar("SHK-08")).press("confirm").scan("SRT-1-A").done("SO-1")
    play.scan("gone").refused("nothing_to_sort", "SO-1/1")
    play.press("no").asks("sort_count").press("sort_short").asks("reason", "for `SO-2` not there").press("no")
    third = Play(play.world, "ada", "H3").opens("F-SORT").scan("STG-10")
    third.press("sort_short").asks("reason", "3 pieces of Bow shackle 8 mm for `SO-2`")
    other.scan(bar("SHK-08")).press("confirm").scan("SRT-1-B").done("All of `STG-10` is sorted")
    third.scan("gone").refused("nothing_to_sort")
    third.press("no").asks("sort_at")
    assert not [r for r in play.state.reservations.values() if r.missed_by]
    sound(play)


def test_two_people_sort_one_batch(rulebook: Rulebook) -> None:
    """What somebody else sorted meanwhile is asked for no more: the next item is, or where to sort, and nothing is doubled."""
    play = fetched(rulebook, *(order(f"SO-{n}", ("SHK-08", 1), ("ROPE-06", n)) for n in (1, 2)))
    other = Play(play.world, "mara", "H2")
    for hand in (play, other):
        hand.opens("F-SORT").scan("STG-10").scan(bar("SHK-08")).press("confirm").asks("sort_into", expect="SRT-1-A")
    play.scan("SRT-1-A").done("SO-1")
    other.asks("sort_into", "SO-2", expect="SRT-1-B")
    play.scan(bar("SHK-08")).press("confirm").scan("SRT-1-B").done("SO-2")
    other.asks("sort_item").scan(bar("SHK-08")).refused("left_over")
    other.scan(bar("ROPE-06")).press("confirm").asks("sort_into", expect="SRT-1-A")
    for place in ("SRT-1-A", "SRT-1-B"):
        play.scan(bar("ROPE-06")).press("confirm").scan(place).done()
    other.asks("sort_at")
    sound(play)


def test_nobody_who_sorts_is_found(rulebook: Rulebook) -> None:
    """Where a plan sorts and no flow on a menu does."""
    menus = tuple(replace(m, flows=tuple(f for f in m.flows if f != "F-SORT")) for m in rulebook.menus)
    found = {(f.code, f.place) for f in findings(replace(rulebook, menus=menus), GROUND, HQ)}
    assert ("nobody_sorts", "ship_plans/SH-1/sort/on") in found
    flow = next(f for f in rulebook.flows if f.id == "F-SORT")
    blind = replace(flow, prompts=tuple(p for p in flow.prompts if p.asks is not Asks.PIECES))
    flows = tuple(blind if f is flow else f for f in rulebook.flows)
    found = {(f.code, f.place) for f in findings(replace(rulebook, flows=flows), GROUND, HQ)}
    assert ("pieces_not_asked", "flows/F-SORT/prompts") in found


@tried(30)
@given(
    st.lists(
        st.tuples(
            st.integers(1, 3),
            st.integers(1, 2),
            st.integers(0, 9),
            st.sampled_from(["SRT-1-A", "SRT-1-B", "SRT-2-A", *TOTES]),
        ),
        max_size=14,
    )
)
def test_whatever_is_sorted_nothing_is_lost_or_doubled(doings: list[tuple[int, int, int, str]]) -> None:
    """In any sequence: what there is stays what it was, what is kept is where it is said to be, and a place is one order's."""
    play = fetched(BOOK, *(order(f"SO-{n}", ("SHK-08", 3 * n), ("ROPE-06", 5)) for n in (1, 2, 3)))
    before = all_there(play)
    for which, line, much, to in doings:
        tote = PlateNo(to) if to in TOTES else None
        place = None if tote else BinCode(to)
        play.do(acts.SortInto(STATION, OrderNo(f"SO-{which}"), line, much, place, tote))
        assert all_there(play) == before
    kept = sum(r.quantity for r in play.state.reservations.values() if r.item == ItemCode("SHK-08") and r.order)
    assert kept == 18
    sound(play)
