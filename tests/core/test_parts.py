"""A part of what is carried goes elsewhere: out of the hands or off the plate, again and again, and the rest is what is left."""

from __future__ import annotations

import pytest

from mindful_crate.core.catalog.ids import BinCode, ItemCode, OrderNo, PlateKindCode, TaskNo
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import OtherBin, PlateBy
from mindful_crate.core.world import acts, chain
from mindful_crate.core.world.acts import OfficeLine
from mindful_crate.core.world.invariants import broken
from tests.playbook import Play, barcode, from_snapshot, new_world


def flows(book: Rulebook, *, loose: bool = False, other: OtherBin = OtherBin.WARN) -> Rulebook:
    """The demo's rules, received loose if one likes, and how another bin than the one shown is taken."""
    changed = tuple(
        evolve(f, plate_by=PlateBy.NONE) if loose and f.id == "F-RECEIVE" else evolve(f, other_bin=other) if f.id == "F-PUTAWAY" else f
        for f in book.flows
    )  # fmt: skip
    return evolve(book, flows=changed)


def sound(play: Play) -> None:
    assert broken(play.state) == []
    assert broken(from_snapshot(play.state)) == []


def lies(play: Play, code: str, item: str) -> int:
    return sum(x.goods.quantity for x in play.state.lines(ItemCode(item)) if x.bin == code)


@pytest.fixture
def pallet(ground: Ground, rulebook: Rulebook) -> Play:
    """A pallet with two kinds of shackles, taken up."""
    play = Play(new_world(ground, flows(rulebook)))
    lines = (OfficeLine(ItemCode("SHK-08"), 250), OfficeLine(ItemCode("SHK-10"), 100))
    play.do(acts.ReceiveInOffice(OrderNo("PO-1001"), lines, PlateKindCode("PAL"), why="label torn")).done()
    return play.opens("F-PUTAWAY").scan("LPR-000417").asks("bin")


def test_parts_come_off_a_mixed_plate_again_and_again(pallet: Play, ground: Ground) -> None:
    """Asked of which item, how many, and where; the plate goes where it was shown, with what is left, and each bin is told."""
    to = pallet.question().expect
    pallet.press("part").done().asks("part", "Of which item").scan("ROPE-12").refused("wrong_kind")
    pallet.scan(barcode(ground, "SHK-08", "pc")).done().asks("part", "How many pieces").type("251").refused(
        "not_carried"
    )
    pallet.scan(barcode(ground, "SHK-08", "box")).done().asks("bin", "Scan the bin 50 pieces go to")
    pallet.scan("B-01-01-1").refused("bin_plate_needed", "another bin").scan("RCV-01").refused("no_storage")
    here = next(b.code for b in ground.bins.values() if b.bin_type == "SHELF" and not pallet.state.held(b.code).kinds)
    pallet.scan(here).asks("yes_no").press("yes").done("50 pieces of Bow shackle 8 mm placed", "200 pieces", to)
    pallet.asks("bin", expect=to).press("part").scan(barcode(ground, "SHK-10", "pc")).type("100").scan(here)
    pallet.refused("bin_other_item")
    pallet.press("back").press("back").press("back").asks("bin", expect=to)
    pallet.press("part").scan(barcode(ground, "SHK-08", "pc")).type("10").scan(here).press("yes").done("190 pieces")
    sound(pallet)
    pallet.scan(to).done(f"stands in `{to}`").press("leave")
    assert (lies(pallet, here, "SHK-08"), lies(pallet, to, "SHK-08"), lies(pallet, to, "SHK-10")) == (60, 190, 100)
    task = next(d for d in chain.chain(pallet.state, Ref(DocKind.TASK, "TR-0204")) if d.number == "TR-0204")
    assert f"in `{here}`, 50 pieces, in `{here}`, 10 pieces, in `{to}`, the plate" in task.stages[-1].says
    pallet.opens("F-UNDO").scan("TR-0204", "tapped").refused("parted", "move them back onto it first")
    sound(pallet)


def test_what_is_left_claims_less(pallet: Play, ground: Ground) -> None:
    """Room that the plate was to take is free again as soon as a part is elsewhere."""
    to = BinCode(pallet.question().expect)
    before = pallet.state.held(to)
    here = next(b.code for b in ground.bins.values() if b.bin_type == "SHELF" and not pallet.state.held(b.code).kinds)
    pallet.do(acts.PlacePart(TaskNo("TR-0204"), here, ItemCode("SHK-08"), 200)).done()
    after = pallet.state.held(to)
    item = ground.items[ItemCode("SHK-08")]
    assert before.weight_mg - after.weight_mg == item.bulk(250)[1] - item.bulk(50)[1] and after.plates == before.plates
    sound(pallet)


def test_loose_goods_are_divided_with_both_bins_kept(ground: Ground, rulebook: Rulebook) -> None:
    """Two parts and the rest: all of them stand in the task, and undoing brings all of them back."""
    book = flows(rulebook, loose=True, other=OtherBin.REASON)
    plans = tuple(evolve(p, put_away=evolve(p.put_away, undo=True)) for p in book.step_plans)
    play = Play(new_world(ground, evolve(book, step_plans=plans)))
    play.opens("F-RECEIVE").scan("PO-1001").scan(barcode(ground, "SHK-08", "pc")).type("60").press("finish").press(
        "leave"
    )
    play.opens("F-PUTAWAY").scan("SHK-08").done()
    free = [b.code for b in ground.bins.values() if b.bin_type == "SHELF" and not play.state.held(b.code).kinds]
    shown = play.question().expect
    play.press("part").type("60").scan(free[0])
    if shown:
        play.asks("reason").type("more room here")
    play.refused("no_part", "a part is fewer")
    while play.question().asks != "bin" or "Scan the bin" in play.question().title:
        play.press("back")
    for much, code in ((20, free[0]), (15, free[1])):
        play.press("part").type(str(much)).scan(code)
        if shown:
            play.asks("reason").type("shown one is full")
        play.done(f"{much} pieces of Bow shackle 8 mm placed in `{code}`", "You still carry")
    rest = shown or free[2]
    play.scan(rest).done()
    task = play.state.tasks[TaskNo("TR-0204")]
    assert [(p.bin, p.quantity) for p in task.placed] == [(free[0], 20), (free[1], 15), (rest, 25)]
    sound(play)
    play.press("leave").opens("F-UNDO").scan("TR-0204", "tapped").press("yes").done()
    assert play.state.quantity_in("RCV-01", "SHK-08") == 60  # type: ignore[arg-type]
    sound(play)


def test_who_may_divide_what(pallet: Play, ground: Ground, rulebook: Rulebook) -> None:
    """Only who carries it; not all of it; nothing that is not there; not into another bin where the flow keeps to the one shown."""
    task, shackle = TaskNo("TR-0204"), ItemCode("SHK-08")
    other = Play(pallet.world, "tom", "H2")
    other.do(acts.PlacePart(task, BinCode("P-01-01-1"), shackle, 5)).refused("task_taken", "@oren")
    pallet.do(acts.PlacePart(task, BinCode("P-01-01-1"), ItemCode("ROPE-12"), 5)).refused("not_carried")
    pallet.do(acts.PlacePart(task, BinCode("P-01-01-1"), shackle, 0)).refused("not_above_zero")
    pallet.do(acts.PlacePart(task, BinCode("P-01-01-1"), shackle, 251)).refused("no_part")
    pallet.do(acts.PlacePart(task, BinCode("NO-BIN"), shackle, 5)).refused("unknown_bin")
    strict = Play(new_world(ground, flows(rulebook, other=OtherBin.NEVER)))
    strict.do(
        acts.ReceiveInOffice(OrderNo("PO-1001"), (OfficeLine(shackle, 250),), PlateKindCode("PAL"), why="label torn")
    ).done()
    strict.opens("F-PUTAWAY").scan("LPR-000417").press("part").type("50")
    here = next(b.code for b in ground.bins.values() if b.bin_type == "SHELF" and not strict.state.held(b.code).kinds)
    strict.scan(here).refused("not_the_bin")
