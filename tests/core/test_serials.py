"""Serial numbers: every piece in one place, named where only some go on, wherever goods come, lie, are carried and undone."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mindful_crate.core.catalog.checking import check_opening
from mindful_crate.core.catalog.goods import SerialRow, Status
from mindful_crate.core.catalog.ids import BinCode, ItemCode, OrderNo, PlateKindCode, ReceiptNo, TaskNo
from mindful_crate.core.catalog.opening import Ground, Opening
from mindful_crate.core.catalog.serials import SerialTable
from mindful_crate.core.catalog.stock import StockTable
from mindful_crate.core.catalog.tables import amend
from mindful_crate.core.floor.plates import in_bin
from mindful_crate.core.plain import Misfit
from mindful_crate.core.proving.findings.whole import findings
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Asks, PlateBy
from mindful_crate.core.rulebook.steps import Over
from mindful_crate.core.world import acts
from mindful_crate.core.world.acts import OfficeLine, Verdict
from mindful_crate.core.world.invariants import broken
from tests.playbook import Play, from_snapshot, new_world
from tests.properties import tried

P09, P12 = ItemCode("PLOT-09"), ItemCode("PLOT-12")


def loose(book: Rulebook, **step: object) -> Rulebook:
    """The demo's rules with goods received loose, undone if one likes, and electronics inspected piece by piece or not at all."""
    flows = tuple(evolve(f, plate_by=PlateBy.NONE) if f.id == "F-RECEIVE" else f for f in book.flows)
    plans = tuple(
        evolve(
            p, inspect=evolve(p.inspect, **{"on": False, "sample": 0, **step}), put_away=evolve(p.put_away, undo=True),
            receive=evolve(p.receive, undo=True),
        )
        if p.id == "SP-5" else p
        for p in book.step_plans
    )  # fmt: skip
    # whoever works here is in the quay crew: dear goods are theirs too
    return evolve(book, flows=flows, step_plans=plans, recipes=tuple(r for r in book.recipes if r.id != "RE-2"))


def numbers(begin: str, count: int) -> tuple[str, ...]:
    """So many numbers that nobody has."""
    return tuple(f"{begin}-{n:03}" for n in range(1, count + 1))


def receive(play: Play, item: str, serials: tuple[str, ...], *, finish: bool = True) -> Play:
    """Pieces of PO-1006 by the handset, each by its number."""
    play.opens("F-RECEIVE").scan("PO-1006").done()
    if play.question().asks == "plate":
        play.press("new_plate").done()
    play.scan(item).type(str(len(serials))).done()
    for serial in serials:
        play.scan(serial).done()
    if finish:
        play.press("finish").done()
    return play.press("leave")


def sound(play: Play) -> None:
    """Nothing is made or lost, every piece is in one place, and a snapshot says the same."""
    assert broken(play.state) == []
    again = from_snapshot(play.state)
    assert broken(again) == [] and again.serials.moved.all() == play.state.serials.moved.all()


# The opening


def test_a_table_of_numbers_finds_them_and_keeps_them(ground: Ground) -> None:
    """By item and number, by place; its columns are read back; what is no table of them is refused."""
    table = ground.serials
    row = table[700]
    assert table.find(row.item, row.serial) == 700 and table.find(row.item, row.serial + "X") is None
    assert table.find("NO", "NO") is None and table.items_with(row.serial) == [row.item]
    there = [table[n] for n in table.rows_at(row.bin, row.plate or "")]
    assert row in there and there == [r for r in table if (r.bin, r.plate) == (row.bin, row.plate)]
    assert SerialTable.from_plain(table.to_plain(), "") == table == SerialTable.of(reversed(list(table)))
    assert len(table[3:9]) == 6 and not SerialTable.of()
    for odd in ([], {"serials": "A"}, {**table.to_plain(), "bin": [1]}):  # type: ignore[dict-item]
        with pytest.raises(Misfit):
            SerialTable.from_plain(odd, "serials")


def put(opening: Opening, *rows: SerialRow, **tables: object) -> Opening:
    return amend(opening, {"serials": rows, **tables})[0]  # type: ignore[dict-item]


def test_stock_follows_the_numbers(ground: Ground) -> None:
    """A number that comes, goes or moves changes how much lies there; nothing else."""
    o = ground.opening
    first = next(s for s in o.serials if s.item == P09 and not s.plate)
    other = BinCode("P-04-20-1" if first.bin != "P-04-20-1" else "P-02-03-2")

    def lies(opening: Opening, code: str) -> int:
        return sum(r.quantity for r in opening.stock if r.bin == code and r.item == P09)

    more = put(o, SerialRow("NEW-1", P09, first.bin, None, "", first.status, first.arrived))
    assert lies(more, first.bin) == lies(o, first.bin) + 1 and check_opening(more) == []
    moved = put(o, replace(first, bin=other))
    assert (lies(moved, first.bin), lies(moved, other)) == (lies(o, first.bin) - 1, lies(o, other) + 1)
    assert check_opening(moved) == [] and len(moved.serials) == len(o.serials)
    every = [(s.serial, s.item) for s in o.serials if (s.item, s.bin) == (P09, first.bin)]
    none, (change,) = amend(o, {}, {"serials": every})
    assert lies(none, first.bin) == 0 and check_opening(none) == [] and change.gone == len(every)


def test_numbers_and_stock_that_do_not_agree_are_named(ground: Ground) -> None:
    """Fewer or more numbers than pieces, numbers of what has none, odd ones, a day for what is kept by number."""
    o = ground.opening
    first = next(s for s in o.serials if s.item == P09 and not s.plate)

    def said(opening: Opening) -> str:
        return "; ".join(p.says for p in check_opening(opening))

    lost = evolve(o, serials=SerialTable.of(s for s in o.serials if s != first))
    assert "serial numbers are named there: bring the table `serials`" in said(lost)
    more = SerialTable.of([*o.serials, replace(first, serial="X-1", status=Status.DAMAGED)])
    assert f"a serial number of `{P09}` is named in `{first.bin}`, where none lies" in said(evolve(o, serials=more))
    of_rope = [*o.serials, replace(first, item=ItemCode("ROPE-12")), replace(first, item=ItemCode("NOTHING"))]
    assert "item `ROPE-12` is not kept by serial numbers" in said(evolve(o, serials=SerialTable.of(of_rope)))
    assert "item `NOTHING` does not exist" in said(evolve(o, serials=SerialTable.of(of_rope)))
    assert "stands twice" in said(evolve(o, serials=SerialTable.of([*o.serials, first])))
    odd = [s if s != first else replace(s, serial=" " * 21) for s in o.serials]
    assert "is no serial number" in said(evolve(o, serials=SerialTable.of(odd)))
    dated = [r if r.item != P09 else replace(r, expiry=date(2027, 1, 1)) for r in o.stock]
    assert "kept by serial numbers, not by days" in said(evolve(o, stock=StockTable.of(dated)))
    tracked = tuple(
        replace(i, tracking=next(x for x in o.items if x.code == P09).tracking) if i.code == "ROPE-12" else i
        for i in o.items
    )
    assert "`ROPE-12` lie in" in said(evolve(o, items=tracked))


# As they come


def test_each_piece_is_scanned_once_and_is_then_where_it_lies(ground: Ground, rulebook: Rulebook) -> None:
    """A number twice, of a piece in stock, of another item, typed as nothing; a GS1 code says item and number at once; a look-up
    of the number tells where it is."""
    play = Play(new_world(ground, loose(rulebook)))
    known = ground.serials.serial[ground.serials.rows_of_item(P09)[0]]
    gtin = next(b.code for b in ground.barcodes_of[P09] if b.unit == "pc").zfill(14)
    play.opens("F-RECEIVE").scan("PO-1006").scan(f"(01){gtin}(21)A-1").done().asks("quantity")
    play.type("0").refused("not_above_zero").type("3").done().asks("serial", "1 of 3")
    play.scan("A-1").refused("serial_twice").scan(known).refused("serial_here", "is here already, ")
    play.scan(gtin.lstrip("0")).refused("same_item").scan("PLOT-12").refused("wrong_kind").type("x" * 21).refused(
        "no_serial"
    )
    play.press("finish").refused("line_unfinished").scan(f"(01){gtin}(21)A-2").done().press("back").done()
    play.asks("serial", "1 of 3").scan("A-3").done().scan("A-4").done("3 pieces of Chart plotter 9 inch on")
    play.press("change_line", 1, "2").refused("has_serials").press("finish").done().press("leave")
    assert play.state.serials.where(P09, "A-3").spot == in_bin(BinCode("RCV-01"))
    play.opens("F-LOOK").scan("A-3").done()
    assert "`RCV-01`" in " ".join(play.question().facts)
    sound(play)


def test_the_quantity_is_counted_by_the_numbers_where_they_come_first(ground: Ground, rulebook: Rulebook) -> None:
    """Scanned until all that is open is there, or until somebody says that this is all."""
    play = Play(new_world(ground, loose(rulebook)))
    play.opens("F-PIECES").scan("PO-1006").scan("PLOT-12").asks("serial", "0 so far").press("that_is_all").refused(
        "not_now"
    )
    play.scan("B-1").done().press("that_is_all").done("1 piece of Chart plotter 12 inch")
    play.scan("PLOT-12").done()
    for serial in numbers("C", 7):
        play.scan(serial).done()
    play.done("7 pieces of Chart plotter 12 inch")  # all eight that were ordered
    sound(play)


def test_without_numbers_nothing_kept_by_them_comes(ground: Ground, rulebook: Rulebook) -> None:
    """A flow that does not ask cannot note it, and is a finding; the office says as many numbers as pieces, each once."""
    book = loose(rulebook)
    flows = tuple(
        evolve(f, prompts=tuple(p for p in f.prompts if p.asks not in (Asks.SERIAL, Asks.PIECES))) for f in book.flows
    )
    bare = evolve(book, flows=flows)
    play = Play(new_world(ground, bare))
    play.opens("F-RECEIVE").scan("PO-1006").scan("PLOT-09").type("2").refused(
        "serials_missing", "0 are said of 2 pieces"
    )
    found = {(f.code, f.place.split("/")[1]) for f in findings(bare, ground, play.state.settings.site)}
    assert {("tracking_not_asked", "F-RECEIVE"), ("pieces_not_asked", "F-MOVEGOODS"), ("pieces_not_asked", "F-PUTAWAY"),
            ("pieces_not_asked", "F-INSPECT")} <= found  # fmt: skip
    assert not any(
        c in ("tracking_not_asked", "pieces_not_asked")
        for c in (f.code for f in findings(book, ground, play.state.settings.site))
    )

    def office(*serials: str, item: str = "PLOT-09") -> Play:
        line = OfficeLine(ItemCode(item), 2, serials=serials)
        return play.do(acts.ReceiveInOffice(OrderNo("PO-1006"), (line,), PlateKindCode("PAL"), why="label torn"))

    office("D-1").refused("serials_missing")
    office("D-1", "D-1").refused("serial_twice")
    office("D-1", " ").refused("no_serial")
    office("D-1", "D-2", item="VHF-H").refused("no_serials_kept")
    office("D-1", " D-2 ").done()
    sound(play)


def test_the_pieces_an_order_fixes_go_to_its_lines(ground: Ground, rulebook: Rulebook) -> None:
    """Only those that are named, each to the line that names it; announced pieces come with one scan."""
    order = next(o for o in ground.opening.orders if o.number == "PO-1006")
    line = replace(order.lines[0], quantity=2, unit="pc", serials=("E-1", "E-2"))
    lines = (line, replace(line, no=9, quantity=1, serials=("E-3",)), *order.lines[1:])
    orders = tuple(replace(o, lines=lines) if o is order else o for o in ground.opening.orders)
    play = Play(new_world(Ground(evolve(ground.opening, orders=orders)), loose(rulebook)))
    play.opens("F-RECEIVE").scan("PO-1006").scan("PLOT-09").type("2").scan("E-9").refused(
        "other_serial", "`E-1`, `E-2` and `E-3`"
    )
    play.scan("E-3").scan("E-2").done()
    noted = {x.order_line: x.serials for p in play.state.building() for x in p.lines}
    assert noted == {1: ("E-2",), 9: ("E-3",)}
    play.press("finish").done().press("leave")
    play.do(acts.AnnounceOrder(OrderNo("PO-1006"))).done()
    sound(play)


def test_an_announced_plate_brings_its_numbers(ground: Ground, rulebook: Rulebook) -> None:
    """The notice says the number of each piece; a plate of which it does not is received by item."""
    play = Play(new_world(ground, rulebook)).confirm("PO-1021")
    play.do(acts.AnnounceOrder(OrderNo("PO-1021"))).done()
    plates = {p.lines[0].order_line: p for p in play.state.announced_of("PO-1021")}
    assert plates[1].lines[0].serials == ("R4-2603-0101", "R4-2603-0102", "R4-2603-0103")
    play.opens("F-RECEIVE").scan(plates[2].number).done().press("finish").done()
    two = plates[2].lines[0].serials
    assert len(set(two)) == 2 and all(play.state.serials.here(ItemCode("LRAFT-6"), n) for n in two)
    bare = tuple(
        evolve(p, lines=tuple(evolve(x, serials=()) for x in p.lines)) for p in play.state.announced_of("PO-1021")
    )
    notice = play.state.announced(plates[1].number)[0]
    play.state.notices.put(notice.number, evolve(notice, plates=bare))
    play.press("leave").opens("F-RECEIVE").scan(plates[1].number).refused("serials_missing", "Receive it by item")


def test_surplus_keeps_its_own_pieces(ground: Ground, rulebook: Rulebook) -> None:
    """What is more than ordered is held with the numbers scanned last, and goes with just those."""
    book = loose(rulebook)
    plans = tuple(evolve(p, receive=evolve(p.receive, over=Over.HOLD, more=evolve(p.receive.more, percent=50))) if p.id == "SP-5" else p for p in book.step_plans)  # fmt: skip
    play = Play(new_world(ground, evolve(book, step_plans=plans)))
    receive(play, "PLOT-09", numbers("F", 14))
    held = next(r for r in play.state.receipts.values() if r.held)
    assert held.lines[0].serials == ("F-013", "F-014")
    assert play.state.serials.where(P09, "F-014").goods.status is Status.QUARANTINE
    sound(play)
    play.do(acts.SendSurplusBack(held.number, "not ordered")).done()
    assert not play.state.serials.here(P09, "F-014") and play.state.serials.here(P09, "F-012")
    sound(play)


# As they go on


@pytest.fixture
def two(ground: Ground, rulebook: Rulebook) -> Play:
    """Two loose receipts of the same plotter in the same place, eight and four pieces."""
    play = Play(new_world(ground, loose(rulebook)))
    receive(play, "PLOT-09", numbers("G", 8))
    return receive(play, "PLOT-09", numbers("H", 4))


def test_each_task_takes_the_pieces_of_its_receipt(two: Play) -> None:
    """Nobody is asked which: what a receipt brought is what its task takes; they come back by being set down and by undoing."""
    _, second = (t.number for t in two.state.open_tasks(("quay",), "put_away"))
    two.opens("F-PUTAWAY").scan(second, "tapped").done().asks("bin")
    task = two.state.tasks[second]
    assert {n for n in two.state.serials.moved.all() if two.state.serials.where(*n).spot.code == second} == {
        (P09, n) for n in numbers("H", 4)
    }
    sound(two)
    two.press("set_down").done()
    assert len(two.state.serials.at(in_bin(BinCode("RCV-01")), task.plan.loose[0])) == 12
    two.scan(second, "tapped").scan("P-02-07-4").done().press("leave")
    where = two.state.tasks[second].placed_in
    assert two.state.serials.where(P09, "H-002").spot == in_bin(where)
    sound(two)
    two.opens("F-UNDO").scan(second, "tapped").press("yes").done().press("leave")
    assert two.state.serials.where(P09, "H-002").spot == in_bin(BinCode("RCV-01"))
    sound(two)
    desk = Play(two.world, "tove", "x")
    desk.device = None  # type: ignore[assignment]
    desk.do(acts.UndoReceipt(two.state.receipts[ReceiptNo("RCR-0094")].plate)).done("asked whether it may be undone")
    desk.do(acts.Wait(120)).done()
    assert not two.state.serials.here(P09, "H-001") and two.state.plates.lines.noted[P09, "H-001"]
    two.opens("F-RECEIVE").scan("PO-1006").scan("RCR-0094").press("finish").done().press("leave")
    assert two.state.serials.here(P09, "H-001")
    sound(two)


def test_some_of_the_pieces_are_named(two: Play, ground: Ground) -> None:
    """Moved in part: each is named, at the take and where a part is placed; then the task of a receipt has lost some."""
    two.opens("F-MOVEGOODS").scan("RCV-01").scan("PLOT-09").type("3").asks("pieces", "0 of 3")
    two.scan("A-9").refused("other_piece").scan("G-001").done().scan("G-001").refused("serial_twice")
    two.scan("H-004").done().type("G-002").done("3 pieces of Chart plotter 9 inch taken").asks("to")
    two.press("part").type("1").scan("P-02-03-2").asks("pieces", "0 of 1").scan("G-003").refused(
        "other_piece", "in `RCV-01`"
    )
    two.scan("H-004").done()
    while two.question().asks in ("to", "yes_no"):
        two.press("yes") if two.question().asks == "yes_no" else two.scan("P-04-20-1")
    assert two.state.serials.where(P09, "H-004").spot == in_bin(BinCode("P-02-03-2"))
    assert two.state.serials.where(P09, "G-002").spot == in_bin(BinCode("P-04-20-1"))
    sound(two)
    two.press("leave").opens("F-PUTAWAY").scan("TR-0205", "tapped").asks("pieces", "0 of 4")
    for serial in ("H-001", "H-002", "H-003", "G-008"):
        two.scan(serial).done()
    two.asks("bin").press("leave")
    sound(two)


def test_the_office_says_which_where_it_is_not_clear(two: Play) -> None:
    """A task that may be of these pieces or of those is refused without their numbers."""
    two.opens("F-MOVEGOODS").scan("RCV-01").scan("PLOT-09").type("1").scan("H-001").done().scan("P-02-03-2")
    if two.question().asks == "yes_no":
        two.press("yes")
    two.press("leave")
    task = TaskNo("TR-0205")
    two.do(acts.PutAwayInOffice(task, BinCode("P-02-07-4"), "scanner broken")).refused(
        "which_pieces", "say which, by their serial numbers"
    )
    two.do(
        acts.PutAwayInOffice(task, BinCode("P-02-07-4"), "scanner broken", ("H-002", "H-003", "H-004", "H-001"))
    ).refused("which_pieces")
    two.do(
        acts.PutAwayInOffice(task, BinCode("P-02-07-4"), "scanner broken", ("H-002", "H-003", "H-004", "G-001"))
    ).done()
    sound(two)


def test_which_pieces_fail_is_said(ground: Ground, rulebook: Rulebook) -> None:
    """Loose, two receipts in one lane: each inspection is of its own pieces; a part that fails is named, in the office as well."""
    play = Play(new_world(ground, loose(rulebook, on=True)))
    receive(play, "PLOT-12", numbers("K", 3))
    receive(play, "PLOT-12", numbers("L", 3))
    lotte = Play(play.world, "lotte", "H7", ("inspect",)).opens("F-INSPECT")
    lotte.scan("TR-0205", "tapped").scan("INS-01").type("partly").type("1").asks("pieces", "Which piece fails?")
    lotte.scan("K-001").refused("other_piece").scan("L-002").type("damaged").press("no_remark").done()
    assert play.state.serials.where(P12, "L-002").goods.status is Status.DAMAGED
    assert play.state.serials.where(P12, "L-001").goods.status is Status.AVAILABLE
    assert play.state.serials.where(P12, "K-001").goods.status is Status.INSPECT
    sound(play)
    lotte.press("leave")
    desk = Play(play.world, "tove", "x")
    desk.device = None  # type: ignore[assignment]

    def says(failed: int, *failing: str) -> Play:
        verdict = Verdict(P12, failed, Status.DAMAGED if failed else None, failing=failing)
        return desk.do(acts.InspectInOffice(TaskNo("TR-0204"), (verdict,), "inspector ill"))

    says(2, "K-001").refused("which_pieces", "by their serial numbers")
    says(2, "K-001", "L-001").refused("other_piece")
    says(2, "K-001", "K-003").done()
    assert play.state.serials.where(P12, "K-003").goods.status is Status.DAMAGED
    sound(play)


def test_two_handsets_and_a_plate_begun_meanwhile(ground: Ground, rulebook: Rulebook) -> None:
    """A number that somebody scans just now, or has noted, is refused with who and where; a plate that somebody begins meanwhile
    is not asked about in the middle of a line."""
    play = Play(new_world(ground, rulebook))
    other = Play(play.world, "tom", "H2")
    play.opens("F-RECEIVE").scan("PO-1006").scan("PLOT-09").type("2").scan("M-1").done()
    other.opens("F-RECEIVE").scan("PO-1006").scan("PLOT-09").type("1").scan("M-1").refused(
        "serial_taken", "@oren", "H1"
    )
    other.scan("M-2").done()
    play.asks("serial", "1 of 2").scan("M-2").refused("serial_noted", "LPR-000417").scan("M-3").done("made")
    sound(play)


STEPS = st.lists(
    st.tuples(st.sampled_from(("receive", "move", "put", "undo", "drop")), st.integers(0, 99), st.integers(1, 4)),
    max_size=14,
)


@tried(10)
@given(STEPS)
def test_whatever_is_done_every_piece_is_in_one_place(
    ground: Ground, rulebook: Rulebook, steps: list[tuple[str, int, int]]
) -> None:
    """Random receipts, moves of some pieces, put-away, undoing: refused or done, the world is whole, and so is its snapshot."""
    play = Play(new_world(ground, loose(rulebook)))
    bins = ("P-02-03-2", "P-04-20-1", "RCV-01", "P-02-07-4")
    for n, (what, which, many) in enumerate(steps):
        open_ = list(play.state.open_tasks(("quay",), "put_away"))
        match what:
            case "receive":
                line = OfficeLine(P09, many, serials=numbers(f"Z{n}", many))
                play.do(acts.ReceiveInOffice(OrderNo("PO-1006"), (line,), None, why="by hand"))
            case "put" if open_:
                task = open_[which % len(open_)]
                there = play.state.serials.of(in_bin(task.from_bin), task.goods)
                said = there[which % 5 :][: sum(g.quantity for g in task.goods)] if which % 2 else ()
                play.do(
                    acts.PutAwayInOffice(task.number, BinCode(bins[which % 4]) if which % 3 else None, "by hand", said)
                )
            case "undo":
                done = [t.number for t in play.state.tasks.every() if t.state.ended]
                if done:
                    play.do(acts.UndoTask(done[which % len(done)], "by hand"))
            case "drop":
                receipts = [r for r in play.state.receipts.every() if not r.undone]
                if receipts:
                    play.do(acts.UndoReceipt(receipts[which % len(receipts)].plate, "by hand"))
            case _:
                code = BinCode(bins[which % 4])
                goods = next((g for g in play.state.loose(code) if g.item == P09), None)
                if goods is not None:
                    there = play.state.serials.at(in_bin(code), goods)
                    many = min(many, len(there))
                    said = there[which % 7 :][:many]
                    play.do(acts.TakeGoods("F-MOVEGOODS", code, P09, many, serials=said))  # type: ignore[arg-type]
                    carried = next((t for t in play.state.carried("oren", "move")), None)
                    if carried:
                        play.do(acts.PlaceGoods("F-MOVEGOODS", carried.number, BinCode(bins[(which + 1) % 4])))  # type: ignore[arg-type]
        assert broken(play.state) == []
    sound(play)
