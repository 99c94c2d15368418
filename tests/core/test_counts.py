"""Counting: sheets by plan and by hand, what is found bin by bin, counted again by somebody else, taken into the books; stock adjusted, its status changed."""

from __future__ import annotations

import csv
import io
from dataclasses import replace
from datetime import timedelta
from functools import partial

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import (
    BinCode,
    CountNo,
    CountPlanId,
    CrewId,
    ItemCode,
    OrderNo,
    PersonId,
    PlateKindCode,
    PlateNo,
    StockReasonId,
)
from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.floor.counts import CountState
from mindful_crate.core.floor.ledger import Account, Cause
from mindful_crate.core.floor.messages import MessageState
from mindful_crate.core.floor.plates import Spot, in_bin, on_plate
from mindful_crate.core.placing.fit import Lying
from mindful_crate.core.proving.counts_board import counts_board
from mindful_crate.core.proving.findings.of_counting import counting as findings_of
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.counting import CountPlan, PhotoAsked, ReasonFor, SplitBy, StockReason
from mindful_crate.core.world import acts
from mindful_crate.core.world.chain import chain, told
from mindful_crate.core.world.invariants import broken
from mindful_crate.core.world.letters import letter
from mindful_crate.files.count_sheets import COLUMNS, read_counts, sheet_csv
from mindful_crate.files.reading import Unreadable
from mindful_crate.files.writing import as_workbook
from tests.core.test_covering import BOOK, GROUND, HQ
from tests.core.test_shipping import bar
from tests.core.test_waves import order, released, sound, tasks
from tests.playbook import Play, new_world
from tests.properties import tried

CS, BOW = CountNo("CSR-0001"), ItemCode("SHK-08")
SHELF = BinCode("P-01-02-4")
"""A shelf with 79 bow shackles, and nothing else."""
PLAN = CountPlan(CountPlanId("CP-1"), "Shelves", every_days=60, split=SplitBy.ZONE)


def by(*plans: CountPlan, **more: object) -> Rulebook:
    """The demo's rules with these count plans."""
    return replace(BOOK, count_plans=tuple(replace(p, **more) for p in plans or (PLAN,)))  # type: ignore[arg-type]


def much(play: Play, code: str, item: str, plate: str | None = None) -> int:
    spot = on_plate(PlateNo(plate)) if plate else in_bin(BinCode(code))
    return sum(g.quantity for g in play.state.ledger.at(spot) if g.item == item)


def spot_of(lying: Lying) -> Spot:
    """Where it lies: on its plate, or loose."""
    return on_plate(lying.plate) if lying.plate else in_bin(lying.bin)


def on_sheet(book: Rulebook, *codes: str) -> Play:
    """These bins are on a sheet that the office made."""
    return Play(new_world(GROUND, book)).do(acts.MakeCounts(tuple(map(BinCode, codes)))).done("CSR-0001")


def test_a_bin_is_counted_and_the_books_follow_only_when_somebody_else_posts_it() -> None:
    """Found, bin by bin: an item, none of another by its own button, one not on the sheet; nothing changes until it is posted, and not by who counted."""
    book = by(again=False)
    play = on_sheet(book, SHELF, "P-01-01-2", "P-01-01-3")
    before = {i: much(play, c, i) for c, i in ((SHELF, "SHK-08"), ("P-01-01-2", "SHK-06"))}
    play.opens("F-COUNT").scan("CSR-0001").asks("count_at", expect="P-01-01-2").scan("P-02-01-1").refused(
        "not_on_sheet"
    )
    play.scan("P-01-01-2").asks("count_item").scan(bar("SHK-06")).type("0").refused("zero_typed").press(
        "none_there"
    ).done("Nothing of")
    play.asks("count_at", expect="P-01-01-3").press("count_later").asks("count_at", expect=SHELF).scan(SHELF)
    play.scan(bar("CLT-15")).asks("counted").offers("back", "Step back", "leave", "Leave").type("3").done("3 pieces of")
    play.scan(bar("SHK-08")).type("80").done("80 pieces")
    play.asks("count_at", expect="P-01-01-3").scan("P-01-01-3").press("nothing_else").done(
        "All of `CSR-0001` is counted"
    )
    assert play.state.counts[CS].state is CountState.COUNTED
    assert {i: much(play, c, i) for c, i in ((SHELF, "SHK-08"), ("P-01-01-2", "SHK-06"))} == before
    sound(play)
    play.do(acts.PostCount(CS)).refused("nothing_to_post", "somebody else")
    ines = play.other("ines", "H9")
    ines.do(acts.PostCount(CS)).done("4 lines", "3 differences")
    assert (much(play, SHELF, "SHK-08"), much(play, SHELF, "CLT-15"), much(play, "P-01-01-2", "SHK-06")) == (80, 3, 0)
    assert play.state.ledger.accounts[Account(Cause.COUNT, BOW)] == 1
    assert play.state.counts[CS].state is CountState.POSTED and play.state.counts.with_bin(SHELF) is None
    assert [*play.state.counts] == [] and CS in play.state.counts, "it left the state, and is found"
    shown, all_of_it = (counts_board(play.state, play.world.rulebook, finished=x) for x in (False, True))
    assert (shown.sheets, shown.finished) == ((), 1) and [s.count for s in all_of_it.sheets] == [CS]
    (doc,) = told(play.state, [Ref(DocKind.COUNT, CS)])
    assert [(s.word, s.done) for s in doc.stages] == [("made", True), ("counted", True), ("in the books", True)]
    ines.do(acts.PostCount(CS)).refused("nothing_counted")
    (message,) = play.state.messages_about(CS)
    note = letter(play.state, message).count
    assert note and sorted((x.item, x.difference) for x in note.lines) == [
        ("CLT-15", 3),
        ("SHK-06", -53),
        ("SHK-08", 1),
    ]
    ines.do(acts.Wait(60)).done()
    assert play.state.messages_about(CS)[0].state is MessageState.ANSWERED
    assert [d.kind.value for d in chain(play.state, Ref(DocKind.COUNT, CS))] == ["count", "message"]
    sound(play)


def test_what_was_counted_on_paper_is_entered_all_of_it_or_none() -> None:
    """By whoever counted, who does not post it; a great difference is counted again by somebody else; one bad line, and nothing is counted."""
    play = on_sheet(by(), SHELF, "P-01-01-2")
    first, other = sorted(play.state.counts[CS].lines, key=lambda x: x.bin != SHELF)
    right, wrong = acts.EnteredLine(first.no, 79), acts.EnteredLine(other.no, 0)
    mila = PersonId("mila")
    play.do(acts.EnterCounts(CS, ())).refused("no_lines").do(acts.EnterCounts(CountNo("CSR-0009"), (right,))).refused(
        "unknown_count"
    )
    play.do(acts.EnterCounts(CS, (right, acts.EnteredLine(9, 1)))).refused("no_line", "no line 9")
    play.do(acts.EnterCounts(CS, (right, acts.EnteredLine(other.no, -1)))).refused("bad_number")
    assert all(x.counted is None for x in play.state.counts[CS].lines)
    play.do(acts.EnterCounts(CS, (right, wrong), mila)).done(
        "2 lines of `CSR-0001` counted by @mila on paper. 1 line differs greatly"
    )
    now = play.state.counts[CS]
    assert (now.lines[first.no - 1].by, now.lines[first.no - 1].counted) == (mila, 79)
    assert [x.no for x in now.open_lines] == [other.no] and now.open_lines[0].not_by == (mila,)
    play.do(acts.EnterCounts(CS, (right,), mila)).refused("counted_already", "@mila")
    play.do(acts.EnterCounts(CS, (wrong,), mila)).refused("other_person", "somebody else")
    play.do(acts.EnterCounts(CS, (wrong,))).done("All of `CSR-0001` is counted")
    play.do(acts.PostCount(CS)).done("1 line")
    sound(play)


def test_a_sheet_goes_out_as_a_file_and_comes_back_filled_in() -> None:
    """Blank is not counted, `none` is; what is of another line, twice, a nought or no number is told by its row, and the rest is read. Also a workbook."""
    play = on_sheet(by(), SHELF, "P-01-01-2", "P-01-01-3")
    rows = list(csv.DictReader(io.StringIO(sheet_csv(play.state, CS).decode())))
    assert tuple(rows[0]) == COLUMNS and len(rows) == len(play.state.counts[CS].lines)
    assert not any(r["book"] or r["counted"] for r in rows), "what the book says is not there"
    for row, much_ in zip(rows, ("79", "None"), strict=False):
        row["counted"] = much_
    back = io.StringIO()
    writer = csv.DictWriter(back, COLUMNS)
    writer.writeheader()
    writer.writerows(rows)
    lines, told, blank = read_counts(play.state, CS, "x.csv", back.getvalue().encode())
    assert [(x.line, x.quantity) for x in lines] == [(1, 79), (2, 0)] and not told and blank == len(rows) - 2
    bad = "line,counted,item\n1,0,\n2,many,\n3,4,ANC-99\n77,1,\n1,5,\n1,6,"
    lines, told, blank = read_counts(play.state, CS, "x.csv", bad.encode())
    assert (
        [x.quantity for x in lines] == [5]
        and len(told) == 5
        and "Row 2" in told[0]
        and "nought" in told[0]
        and "twice" in told[-1]
    )
    assert read_counts(play.state, CS, "x.csv", b"what,ever\n1,2")[1] == (
        "`x.csv` has no column `line`. Take the file of the sheet, and fill in its column `counted`.",
    )
    book = as_workbook({"counted": (("line", "counted"), [("1", "7")])})
    assert [(x.line, x.quantity) for x in read_counts(play.state, CS, "x.xlsx", book)[0]] == [(1, 7)]
    with pytest.raises(Unreadable):
        read_counts(play.state, CS, "x.csv", b"\0\0")


def test_a_great_difference_is_counted_again_by_another_and_what_moved_since_is_not_posted() -> None:
    """More than the plan lets stand: the same person is refused by name; the second count stands. Goods that came since: counted again first."""
    play = on_sheet(by(), SHELF)
    play.opens("F-COUNT").scan(SHELF).scan(SHELF).scan(bar("SHK-08")).type("60").done("Somebody else counts it again")
    play.asks("sheet").scan("CSR-0001").refused("other_person")
    line = play.state.counts[CS].lines[0]
    assert (line.counted, line.before, line.not_by) == (None, (60,), ("oren",))
    mara = (
        play.other("mara", "H2")
        .opens("F-COUNT")
        .scan("CSR-0001")
        .scan(SHELF)
        .scan(bar("SHK-08"))
        .type("60")
        .done("All of")
    )
    assert much(play, SHELF, "SHK-08") == 79
    tove = play.other("tove", "H3")
    tove.do(acts.CountAgain(CS, (1,), "")).done("counted again")
    mara.press("leave").opens("F-COUNT").scan("CSR-0001").refused("other_person")
    ines = play.other("ines", "H4").opens("F-COUNT").scan("CSR-0001").scan(SHELF).scan(bar("SHK-08")).type("61").done()
    tove.do(acts.AdjustStock(BinCode(SHELF), BOW, 70, "a box fell")).refused("on_a_sheet")
    tove.opens("F-MOVEGOODS").scan(SHELF).scan(bar("SHK-08")).type("4").scan("P-01-01-3")
    assert much(play, SHELF, "SHK-08") == 75
    tove.press("leave").do(acts.PostCount(CS, (1,))).refused("moved_since", "4 pieces")
    tove.do(acts.PostCount(CS)).refused("nothing_to_post", "went since")
    tove.do(acts.CountAgain(CS, (1,), "goods moved")).done()
    play.other("kiran", "H5").opens("F-COUNT").scan("CSR-0001").scan(SHELF).scan(bar("SHK-08")).type("57").done()
    assert ines.last and play.state.counts[CS].lines[0].before == (60, 60, 61)
    tove.do(acts.PostCount(CS, (1,))).done("1 difference")
    assert much(play, SHELF, "SHK-08") == 57
    assert (
        tove.last
        and play.state.bins_counted[BinCode(SHELF)].seq == tove.last.seq
        and play.state.ledger.movements.get(BinCode(SHELF)) is None
    )
    sound(play)


def test_due_bins_never_counted_ones_first_on_sheets_that_never_share_a_bin() -> None:
    """So many bins at a time, split as the plan says; what is on a sheet is not due; counted bins are due again when their days are over."""
    plan = replace(PLAN, zones=("PCK",), most_bins=10, most_lines=4, again=False, own_posts=True)
    play = Play(new_world(GROUND, by(plan)))
    play.do(acts.RunCountPlan(PLAN.id)).done("10 bins")
    sheets = [play.state.counts[n] for n in play.state.counts]
    assert all(len(s.lines) <= 4 for s in sheets) and len({x.bin for s in sheets for x in s.lines}) == 10
    play.do(acts.RunCountPlan(PLAN.id)).done("10 bins")
    first = {x.bin for s in sheets for x in s.lines}
    assert not first & {
        x.bin for n in play.state.counts for x in play.state.counts[n].lines if n not in {s.number for s in sheets}
    }
    play.do(acts.DropCount(CS, "no time")).done("counted no more")
    for sheet in sheets[1:]:
        for code in dict.fromkeys(x.bin for x in sheet.lines):
            play.do(acts.CountNothing(sheet.number, code)).done()
        play.do(acts.PostCount(sheet.number)).done()
    from mindful_crate.core.work.counting.looking import due_by

    plan_now = play.world.rulebook.count_plans[0]
    dropped = {x.bin for x in sheets[0].lines}
    assert set(due_by(play.state, play.world.rulebook, plan_now, 10_000)) >= dropped
    later = play.state.clock + timedelta(days=61)
    again = due_by(play.state, play.world.rulebook, plan_now, 10_000, later)
    counted = {x.bin for s in sheets[1:] for x in s.lines}
    assert set(again[-len(counted) :]) == counted, "those counted longest ago come after those never counted"
    sound(play)


def test_sheets_come_by_the_clock_after_a_short_pick_and_when_a_bin_becomes_empty() -> None:
    """At six the plan makes its sheets; a bin in which somebody found too little is counted, and what was kept aside for that is free after it; an emptied one too."""
    plan = replace(PLAN, zones=("PCK",), times="06:00", most_bins=3, at_zero=True, again=False, own_posts=True)
    book = by(plan)
    play = released(replace(book, wave_plans=()), order("SO-1", ("SHK-08", 20), carrier=None))
    (task,) = tasks(play)
    play.opens("F-PICK").scan(task.number).scan("LPR-900001").press("short").type("the bin is empty").done(
        "is counted on `CSR-0001`"
    )
    short = play.state.counts[CS].lines[0].bin
    book_says = much(play, short, "SHK-08")
    held = [r for r in play.state.reservations.values() if r.missed_by]
    assert held
    play.press("leave")
    mara = (
        play.other("mara", "H2")
        .opens("F-COUNT")
        .scan(short)
        .scan(short)
        .scan(bar("SHK-08"))
        .type(str(book_says - 4))
        .done()
    )
    mara.press("leave").do(acts.PostCount(CS)).done()
    assert much(play, short, "SHK-08") == book_says - 4 and not [
        r for r in play.state.reservations.values() if r.missed_by
    ]
    sound(play)
    mara.opens("F-MOVEGOODS").scan("P-01-01-2").scan(bar("SHK-06")).press("confirm").done("it became empty")
    mara.scan("P-01-01-3").done()
    assert play.state.counts.with_bin(BinCode("P-01-01-2")) is not None
    before = len(play.state.counts)
    play.do(acts.Wait(86_400)).done()
    assert len(play.state.counts) == before + 1, play.world.log[-1].says
    sound(play)


def test_plates_lots_and_numbered_pieces_are_counted_as_such() -> None:
    """A plate as its label says, one found elsewhere is shifted and not gone and come; of pieces each number, those of elsewhere come from there; never seen ones are not."""
    play = Play(new_world(GROUND, by(again=False, own_posts=True)))
    piece = next(
        x
        for x in play.state.lines(ItemCode("PLOT-12"))
        if play.state.ground.zones[play.state.ground.bins[x.bin].zone].purpose.value == "pick"
    )
    numbers = play.state.serials.at(in_bin(piece.bin), piece.goods)
    plate = next(x for x in play.state.lines(ItemCode("ROPE-12")) if x.plate)
    other = next(x for x in play.state.lines(ItemCode("ROPE-08")) if x.plate and x.bin != plate.bin)
    assert plate.plate and other.plate
    play.do(acts.MakeCounts((piece.bin, plate.bin))).done()
    play.opens("F-COUNT").scan(plate.bin).scan(plate.bin).asks("count_item")
    play.scan("LPR-999999").refused("unknown_plate")
    play.scan(plate.plate).press("as_labelled").done()
    if play.question().asks == "count_item":
        play.press("nothing_else").press("yes") if play.question().picks else play.press("nothing_else")
    play.asks("sheet").scan("CSR-0002").asks("count_at").scan(piece.bin)
    play.scan(other.plate).asks("yes_no", f"stands in `{other.bin}`").press("yes").done("is found in")
    play.scan(bar("PLOT-12")).asks("count_serials")
    play.scan("NEVER-1").refused("unknown_piece")
    play.scan(numbers[0]).scan(numbers[0]).refused("scanned_already")
    play.press("that_is_all").done("1 piece")
    for each in list(play.state.counts.values()):
        if each.open_lines:
            play.do(acts.DropCount(each.number, "enough"))
        play.do(acts.PostCount(each.number)).done()
    assert play.state.bin_of(other.plate) == piece.bin
    assert play.state.serials.at(in_bin(piece.bin), piece.goods) == numbers[:1]
    assert Account(Cause.COUNT, ItemCode("ROPE-08")) not in play.state.ledger.accounts
    sound(play)


def test_stock_is_set_with_a_reason_and_what_was_kept_of_it_is_given_up_and_said() -> None:
    """Less than is kept for an order: the order is named. More, with a new lot: refused. A bin is quarantined, and free for nobody; a lot everywhere."""
    play = released(BOOK, order("SO-1", ("SHK-08", 20), carrier=None))
    kept = next(r for r in play.state.reservations.values() if r.order == OrderNo("SO-1")).parts[0]
    here = much(play, kept.bin, "SHK-08")
    play.do(acts.AdjustStock(kept.bin, BOW, here - 5, "")).refused("no_reason")
    play.do(acts.AdjustStock(kept.bin, BOW, here, "looked")).refused("no_difference")
    play.do(acts.AdjustStock(kept.bin, ItemCode("NONE"), 1, "looked")).refused("unknown_item")
    play.do(acts.AdjustStock(kept.bin, BOW, 5, "a box fell into the dock")).done("are not kept for line 1 of `SO-1`")
    assert much(play, kept.bin, "SHK-08") == 5
    sound(play)
    play.do(acts.AdjustStock(kept.bin, BOW, 9, "four were fished out")).done("4 pieces more")
    play.do(acts.ChangeStatus(Status.DAMAGED, "sea water", bin=kept.bin)).done("damaged")
    assert [g.status for g in play.state.loose(kept.bin)] == [Status.DAMAGED]
    play.do(acts.ChangeStatus(Status.DAMAGED, "sea water", bin=kept.bin)).refused("nothing_there")
    play.do(acts.ChangeStatus(Status.AVAILABLE, "dried", bin=kept.bin, was=Status.DAMAGED)).done()
    play.do(acts.ChangeStatus(Status.QUARANTINE, "vendor calls it back")).refused("say_what")
    lot = next(x for x in play.state.lines(ItemCode("AF-RED-25")) if x.goods.lot and x.goods.status is Status.AVAILABLE)
    play.do(acts.ChangeStatus(Status.QUARANTINE, "vendor calls it back", item=lot.goods.item, lot=lot.goods.lot)).done(
        "in quarantine"
    )
    assert {x.goods.status for x in play.state.lines(lot.goods.item) if x.goods.lot == lot.goods.lot} == {
        Status.QUARANTINE
    }
    play.do(acts.AdjustStock(lot.bin, lot.goods.item, 5, "found", lot="NEW-1", plate=lot.plate)).refused("new_lot")
    sound(play)


@pytest.mark.parametrize("kind", [PlateKindCode("PAL"), None], ids=["on a plate", "loose"])
def test_pieces_are_set_less_by_their_numbers_and_not_from_under_a_task(kind: PlateKindCode | None) -> None:
    """Which are gone is said; none that is not there, none that somebody is about to put away."""
    plot, numbers = ItemCode("PLOT-12"), ("P12-A", "P12-B")
    play = Play(new_world(GROUND, BOOK))
    line = acts.OfficeLine(plot, 2, serials=numbers)
    play.do(acts.ReceiveInOffice(OrderNo("PO-1006"), (line,), kind, why="label torn")).done()
    came = next(x for x in play.state.lines(plot) if numbers[0] in play.state.serials.at(spot_of(x), x.goods))
    set_ = partial(acts.AdjustStock, came.bin, plot, 1, "fell", status=came.goods.status, plate=came.plate)
    play.do(set_()).refused("name_pieces")
    play.do(set_(serials=("P12-Z",))).refused("not_there")
    play.do(set_(serials=("P12-B",))).refused("in_work")
    (task,) = play.state.tasks.values()
    play.do(acts.CancelTask(task.number, "not today")).done()
    play.do(set_(serials=("P12-B",))).done("less of")
    assert play.state.serials.at(spot_of(came), came.goods) == ("P12-A",)
    sound(play)


def test_bins_are_closed_while_they_are_counted() -> None:
    """Blocked with the reason, and free again once all of it is in the books, or dropped."""
    play = on_sheet(by(closes=True, own_posts=True, again=False), SHELF, "P-01-01-2")
    assert "CSR-0001" in (play.state.blocked(BinCode(SHELF)) or "")
    play.do(acts.CountGoods(CS, BinCode(SHELF), BOW, 79)).do(acts.PostCount(CS)).done("no difference")
    assert play.state.blocked(BinCode(SHELF)) is None and play.state.blocked(BinCode("P-01-01-2"))
    play.do(acts.DropCount(CS, "the shift ends")).done()
    assert play.state.blocked(BinCode("P-01-01-2")) is None
    sound(play)


def test_what_cannot_be_counted_is_a_finding() -> None:
    """A plan that nothing is left for, one without a flow anybody sees, a time that is none, storage that nobody counts."""
    book = by(
        PLAN,
        replace(PLAN, id=CountPlanId("CP-2"), times="25:00", most_bins=1),
        replace(PLAN, id=CountPlanId("CP-3"), zones=("GONE",)),
    )
    codes = [f.code for f in findings_of(replace(book, menus=()), GROUND, HQ)]
    assert codes == ["never_reached", "bad_time", "missing_zone", "nobody_counts"]
    assert [f.code for f in findings_of(by(replace(PLAN, zones=("PCK",))), GROUND, HQ)] == ["never_counted"]
    assert [f.code for f in findings_of(by(PLAN, most_bins=1, times="06:00"), GROUND, HQ)] == ["too_slow"]


acts_drawn = st.lists(
    st.tuples(st.sampled_from(["count", "nothing", "again", "post", "drop", "move", "make", "adjust"]), st.integers(0, 9), st.integers(0, 90), st.sampled_from(["oren", "mara", "tove"])),
    max_size=14,
)  # fmt: skip
BINS = ("P-01-02-4", "P-01-01-2", "P-01-02-2", "P-01-01-3")


@tried(25)
@given(acts_drawn, st.booleans())
def test_whatever_is_counted_and_moved_the_books_balance(drawn: list[tuple[str, int, int, str]], again: bool) -> None:
    """Any order of counting, moving, posting, dropping: no invariant breaks, what was posted is so in the books when nothing moved after it, a snapshot says the same."""
    world = new_world(GROUND, by(again=again))
    for what, n, quantity, who in drawn:
        play = Play(world, who, f"H-{who}")
        code = BinCode(BINS[n % len(BINS)])
        number = play.state.counts.with_bin(code)
        held = play.state.loose(code)
        item = held[0].item if held and n < 8 else ItemCode("CLT-15")
        if what == "make":
            play.do(acts.MakeCounts((code,)))
        elif what == "adjust":
            play.do(acts.AdjustStock(code, item, quantity, "looked"))
        elif what == "move" and held:
            play.opens("F-MOVEGOODS").scan(code).scan(bar(item)).type(str(1 + quantity % held[0].quantity)).scan(
                BINS[(n + 1) % len(BINS)]
            )
            play.press("leave")
        elif number is not None:
            act = {
                "count": acts.CountGoods(number, code, item, quantity),
                "nothing": acts.CountNothing(number, code),
                "again": acts.CountAgain(number, (1 + n % 3,), ""),
                "post": acts.PostCount(number),
                "drop": acts.DropCount(number, "no time"),
            }.get(what)
            lines = play.state.counts[number].unposted
            if act is not None:
                play.do(act)
            if what == "post":
                for line in lines:
                    now = play.state.counts[number].lines[line.no - 1]
                    if now.posted == play.state.seq and line.item is not None:
                        assert much(play, line.bin, line.item) >= 0
                        assert sum(g.quantity for g in play.state.ledger.at(line.spot) if line.is_of(g)) == line.counted
        assert broken(play.state) == []
    sound(Play(world))


@pytest.mark.parametrize("bins", [(), ("NOWHERE",)])
def test_bad_bins_make_no_sheet(bins: tuple[str, ...]) -> None:
    play = Play(new_world(GROUND, by()))
    play.do(acts.MakeCounts(tuple(map(BinCode, bins)))).refused("no_bins" if not bins else "unknown_bin")
    assert len(play.state.counts) == 0


REASONS = (
    StockReason(StockReasonId("SR-1"), "Broken", photo=PhotoAsked.MUST),
    StockReason(StockReasonId("SR-2"), "Not there", ReasonFor.NUMBER),
    StockReason(StockReasonId("SR-3"), "Good again", ReasonFor.STATUS, (CrewId("inspect"),)),
)
PHOTO = "photo-0123456789abcdef"


def test_a_number_is_corrected_on_the_handset_by_a_reason_of_the_list() -> None:
    """Where, of what, how many, why, with a photo where the reason wants one; a nought by its button; what is no reason, or not theirs, is refused by
    name; without a list words are written."""
    play = Play(new_world(GROUND, replace(BOOK, stock_reasons=REASONS)))
    before = much(play, SHELF, "SHK-08")
    play.opens("F-ADJUST").scan("RCV-01").refused("nothing_there").scan(SHELF).asks("stock_item")
    play.scan(bar("CLT-15")).refused("not_there").scan(bar("SHK-08")).asks("stock_count")
    play.type(str(before)).refused("no_difference").type("0").refused("typed_nought").type(str(before - 4))
    assert [p.label for p in play.question().picks] == ["Broken", "Not there"]
    play.asks("stock_reason").type("Good again").refused("not_among").type("Broken")
    play.asks("stock_photo").type("no photo").refused("no_photo").press("no_photo").refused("no_photo").type(PHOTO)
    play.done(f"4 pieces less of Bow shackle 8 mm in `{SHELF}`", "Broken", PHOTO)
    assert much(play, SHELF, "SHK-08") == before - 4
    (note,) = (letter(play.state, m).count for m in play.state.messages_about(CS))
    assert note and [x.difference for x in note.lines] == [-4]
    play.opens("F-ADJUST").scan(SHELF).scan(bar("SHK-08")).press("none_there").type("Not there").done("none now")
    assert much(play, SHELF, "SHK-08") == 0
    sound(play)
    free = Play(new_world(GROUND, replace(BOOK, stock_reasons=())))
    free.opens("F-ADJUST").scan(SHELF).scan(bar("SHK-08")).type("3").asks("stock_reason").type("x").refused("no_reason")
    free.type("fell into the dock").done("fell into the dock")
    sheet = on_sheet(BOOK, SHELF)
    sheet.opens("F-ADJUST").scan(SHELF).refused("on_a_sheet")


def test_pieces_that_are_gone_are_named_and_a_kind_is_chosen_where_there_are_several() -> None:
    """Of numbered ones which are gone; of an item in two statuses which; on a plate what is on it."""
    play = Play(new_world(GROUND, replace(BOOK, stock_reasons=REASONS)))
    item, spot = ItemCode("PLOT-12"), None
    lying = next(x for x in play.state.lines(item) if x.goods.quantity > 3 and x.plate is None)
    spot = in_bin(lying.bin)
    numbers = play.state.serials.at(spot, lying.goods)
    play.opens("F-ADJUST").scan(lying.bin).scan(bar("PLOT-12")).asks("stock_gone").press("that_is_all").refused(
        "nothing_gone"
    )
    play.type("NO-SUCH").refused("not_there").type(numbers[0]).type(numbers[0]).refused("scanned_already").type(
        numbers[2]
    )
    play.press("that_is_all").type("Not there").done("2 pieces less")
    assert play.state.serials.at(spot, lying.goods) == tuple(n for n in numbers if n not in (numbers[0], numbers[2]))
    play.do(acts.ChangeStatus(Status.DAMAGED, "wet", bin=SHELF)).done()
    play.do(acts.AdjustStock(SHELF, BOW, 5, "found some")).done()
    play.opens("F-ADJUST").scan(SHELF).scan(bar("SHK-08")).asks("stock_item").type("Bow shackle 8 mm, damaged").asks(
        "stock_count"
    )
    play.type("7").type("Not there").done("less of Bow shackle 8 mm")
    assert sorted((g.status.value, g.quantity) for g in play.state.ledger.at(in_bin(SHELF))) == [
        ("available", 5),
        ("damaged", 7),
    ]
    sound(play)


def test_a_status_is_changed_on_the_handset_by_who_may_give_the_reason() -> None:
    """Loose goods alone, or all that is on a plate; what only the inspection may say is refused by name to others."""
    play = Play(new_world(GROUND, replace(BOOK, stock_reasons=REASONS)))
    play.opens("F-STATUS").scan(SHELF).scan(bar("SHK-08")).asks("new_status").type("inspect").refused("not_among")
    play.type("damaged").type("Good again").refused("not_yours", "Inspection crew").type("Not there").refused(
        "not_among"
    ).type("Broken").type(PHOTO)
    play.done("damaged now", PHOTO)
    plate = next(n for n in play.state.ground.plates if play.state.all_goods(n) and play.state.bin_of(n))
    play.opens("F-STATUS").scan(plate).press("all_here").type("quarantine").type("Broken").type(PHOTO).done(
        "in quarantine now"
    )
    assert {g.status for g in play.state.all_goods(plate)} == {Status.QUARANTINE}
    judge = Play(play.world, "tess", "H7", ("inspect",))
    judge.opens("F-STATUS").scan(plate).press("all_here").type("available").type("Good again").done("available now")
    assert {g.status for g in play.state.all_goods(plate)} == {Status.AVAILABLE}
    act = acts.ChangeStatus(Status.DAMAGED, "", plate=plate, reason=StockReasonId("SR-9"))
    play.do(act).refused("unknown_reason")
    play.do(replace(act, reason=StockReasonId("SR-1"))).refused("no_photo")
    play.do(replace(act, reason=StockReasonId("SR-1"), photo=PHOTO, why="all of it")).done("Broken: all of it", PHOTO)
    sound(play)


def test_a_plate_that_is_found_empty_stays_empty() -> None:
    """One of the opening, that stands on another, and one that was received: nothing of what they held comes back, and what stands on a plate is
    offered with it."""
    play = Play(new_world(GROUND, replace(BOOK, stock_reasons=REASONS)))
    stacked = next(n for n in play.state.ground.plates if play.state.plates.plates_on(n) and play.state.bin_of(n))
    inner = play.state.plates.plates_on(stacked)[0]
    play.opens("F-ADJUST").scan(stacked).asks("stock_item").scan(inner).asks("stock_count").press("none_there").type(
        "Not there"
    )
    play.done(f"on `{inner}`, none now")
    assert not play.state.plates.goods_on(inner) and play.state.plates.plates_on(stacked)[0] == inner
    sound(play)
    play.confirm("PO-1001").do(acts.Wait(60))
    play.opens("F-RECEIVE").scan("PO-1001").scan(bar("SHK-08")).type("4").press("finish").done()
    (task,) = play.state.tasks.values()
    assert task.plate and task.to_bin
    play.opens("F-PUTAWAY").scan(task.plate).scan(task.to_bin).done("stands in")
    item = play.state.plates.goods_on(task.plate)[0].item
    play.do(acts.AdjustStock(task.to_bin, item, 0, "it is empty", plate=task.plate)).done("none now")
    assert not play.state.plates.goods_on(task.plate) and play.state.bin_of(task.plate) == task.to_bin
    sound(play)


def test_a_reason_nobody_may_give_is_a_finding() -> None:
    """Of a crew that is gone; and a flow whose crew has no reason to give."""
    lost = replace(REASONS[1], crews=(CrewId("gone"),))
    found = findings_of(replace(BOOK, stock_reasons=(lost,)), GROUND, HQ)
    assert {f.code for f in found if "reason" in f.code} == {"unknown_crew_of_reason", "no_reason_to_give"}
    assert not [f for f in findings_of(replace(BOOK, stock_reasons=REASONS), GROUND, HQ) if "reason" in f.code]


def test_goods_lie_elsewhere_than_the_books_say() -> None:
    """Some of them, all of them, pieces by their numbers, a whole plate: said on the handset or in the office, with a reason for that; nothing is more
    or less by it, the host is told nothing, and what was kept of it is given up and said."""
    reasons = (*REASONS, StockReason(StockReasonId("SR-4"), "Wrong bin", ReasonFor.PLACE))
    play = Play(new_world(GROUND, replace(BOOK, stock_reasons=reasons)))
    other = next(b.code for b in GROUND.bins_at(HQ) if b.code.startswith("P-") and b.code != SHELF)
    before, there = much(play, SHELF, "SHK-08"), much(play, other, "SHK-08")
    everything = sum(x.goods.quantity for x in play.state.lines(BOW))
    play.opens("F-ELSEWHERE").scan(SHELF).press("all_here").refused("say_what").scan(bar("SHK-08")).asks("stock_count")
    play.press("none_there").refused("not_now").type(str(before + 1)).refused("more_than_there").type("3").asks(
        "stock_to"
    )
    play.scan(SHELF).refused("same_bin").scan(bar("SHK-08")).refused("wrong_kind").scan(other).asks("stock_reason")
    play.type("Not there").refused("not_among").type("Wrong bin").done(
        f"3 pieces of Bow shackle 8 mm lie in `{other}`, not in `{SHELF}`"
    )
    assert (much(play, SHELF, "SHK-08"), much(play, other, "SHK-08")) == (before - 3, there + 3)
    play.do(acts.ReserveStock("a friend", BOW, 5)).done()
    (kept,) = next(r for r in play.state.reservations.values() if r.holder == "a friend").parts
    play.opens("F-ELSEWHERE").scan(kept.bin).scan(bar("SHK-08")).press("all_of_it").scan("RCV-02").type(
        "Wrong bin"
    ).done("not kept for a friend any more")
    assert much(play, kept.bin, "SHK-08") == 0 and not play.state.messages_about(CS)
    assert sum(x.goods.quantity for x in play.state.lines(BOW)) == everything
    item = ItemCode("PLOT-12")
    lying = next(x for x in play.state.lines(item) if x.goods.quantity > 3 and x.plate is None)
    numbers = play.state.serials.at(in_bin(lying.bin), lying.goods)
    play.opens("F-ELSEWHERE").scan(lying.bin).scan(bar("PLOT-12")).asks("stock_gone").type(numbers[1]).press(
        "that_is_all"
    )
    play.scan(other).type("Wrong bin").done("1 piece of Chart plotter 12 inch lies in")
    assert play.state.serials.where(item, numbers[1]).spot == in_bin(other)  # type: ignore[union-attr]
    office = acts.ShiftStock(lying.bin, other, "so somebody says", item, 2)
    play.do(office).refused("name_pieces").do(replace(office, serials=(numbers[0], numbers[1]))).refused("name_pieces")
    play.do(replace(office, serials=(numbers[0], numbers[2]))).done("2 pieces")
    plate = next(n for n in play.state.ground.plates if play.state.all_goods(n) and play.state.bin_of(n))
    play.opens("F-ELSEWHERE").scan(plate).press("all_here").asks("stock_to").scan("B-05-20-1").type("Wrong bin").done(
        f"`{plate}` stands in `B-05-20-1`"
    )
    assert play.state.bin_of(plate) == "B-05-20-1"
    at = play.state.bin_of(plate)
    assert at is not None
    play.do(acts.ShiftStock(at, at, "nothing at all", plate=plate)).refused("same_bin")
    play.do(acts.ShiftStock(at, BinCode("NOWHERE"), "so somebody says", plate=plate)).refused("unknown_bin")
    play.do(acts.ShiftStock(kept.bin, other, "so somebody says", BOW)).refused("nothing_there")
    play.do(acts.ShiftStock(kept.bin, other, "", BOW)).refused("no_reason")
    sound(play)
