"""Moves and look-ups on the handset, as scripts: scans in, questions and replies out."""

from __future__ import annotations

from dataclasses import replace

import pytest

from mindful_crate.core.catalog.ids import BinCode, CrewId, FlowId, ItemCode, PromptId, SiteCode, StockReasonId
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.tasks import TaskState
from mindful_crate.core.plain import canonical
from mindful_crate.core.proving.findings.of_counting import counting as findings
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.counting import PhotoAsked, ReasonFor, StockReason
from mindful_crate.core.rulebook.flows import Asks, OtherBin, Prompt
from mindful_crate.core.work.tasks.events import MoveDone
from mindful_crate.core.world import acts
from mindful_crate.core.world.invariants import broken
from mindful_crate.core.world.versions import stored
from tests.core.test_loose import GL, at
from tests.playbook import Play, barcode, from_snapshot, new_world


@pytest.fixture
def play(ground: Ground, rulebook: Rulebook) -> Play:
    """Oren with a handset at Halloway Quay."""
    return Play(new_world(ground, rulebook))


def sound(play: Play) -> None:
    """Every invariant holds, and a snapshot taken now is as good as the log."""
    assert broken(play.state) == []
    again = from_snapshot(play.state)
    assert again.kept() == play.state.kept() and broken(again) == []
    assert [*again.stock()] == [*play.state.stock()]
    for state in (play.state, again):  # where an item lies is known without listing what it is
        for item in state.ground.items:
            coming = {code for code, _ in state.bins.coming_with.get(item, ())}
            assert state.bins_with(item) == {x.bin for x in state.lines(item)} | coming


def test_goods_are_moved_in_parts_and_every_wrong_scan_says_why(play: Play, ground: Ground) -> None:
    """Out of a shelf, more than there is, onto a rack that takes plates only, five here and fifteen there."""
    shackle = barcode(ground, "SHK-06", "pc")
    play.opens("F-MOVEGOODS").asks("from", "Where is it taken from?").type("P-01-01-2").refused("must_scan")
    play.scan("P-01-01-3").refused("bin_empty", "nothing to take").scan(shackle).refused("wrong_kind")
    play.scan("P-01-01-2").done().asks("goods").scan(barcode(ground, "ROPE-12", "coil"))
    play.refused("not_there", "There is no `ROPE-12`", "It lies in `B-")
    play.scan(shackle).asks("count", "How many pieces?")
    assert play.question().proposal == "53"
    play.type("0").refused("not_above_zero").type("54").refused("more_than_there", "53 pieces").type("P-01-01-1")
    play.refused("wrong_kind", "enter how many pieces").type("20").done("20 pieces of Bow shackle 6 mm taken")
    assert next((c, p) for c, p, g in play.state.stock() if c is None and g.item == "SHK-06") == (None, None)
    play.asks("to").scan("R-01-02-1").refused("bin_plate_needed", "license plates only", "another bin")
    play.press("part").asks("part").type("21").refused("not_carried", "You carry 20").type("5").asks("to")
    play.scan("P-01-01-3").done("5 pieces", "15 pieces are left").press("leave").done("You still carry 15 pieces")
    play.opens("F-MOVEGOODS").asks("to").scan("P-01-01-3").done("15 pieces")
    task = play.state.tasks["TR-0204"]
    assert [(p.bin, p.quantity) for p in task.placed] == [("P-01-01-3", 5), ("P-01-01-3", 15)]
    assert play.state.quantity_in("P-01-01-3", "SHK-06") == 20
    sound(play)


def asking_why(rulebook: Rulebook, flow: str) -> Rulebook:
    """The rulebook with a flow that asks why goods are moved, and takes a photo where the reason wants one."""
    flows = tuple(
        replace(f, prompts=(*f.prompts, Prompt(PromptId("PR-900"), Asks.STOCK_REASON), Prompt(PromptId("PR-901"), Asks.STOCK_PHOTO)))
        if f.id == flow else f
        for f in rulebook.flows
    )  # fmt: skip
    reasons = (
        StockReason(StockReasonId("SR-W"), "Wet bay", ReasonFor.MOVED, photo=PhotoAsked.MUST),
        StockReason(StockReasonId("SR-Q"), "Quieter there", ReasonFor.MOVED),
        StockReason(StockReasonId("SR-S"), "For the store", ReasonFor.MOVED, crews=(CrewId("store"),)),
        StockReason(StockReasonId("SR-N"), "Miscounted", ReasonFor.NUMBER),
    )
    return replace(rulebook, flows=flows, stock_reasons=reasons)


def why(play: Play) -> str:
    """The reason that stands in the log with what was moved last."""
    return next(
        e.reason
        for entry in reversed(play.world.log)
        for e in getattr(entry.outcome, "events", ())
        if isinstance(e, MoveDone)
    )


def test_why_goods_are_moved_is_asked_with_a_photo_where_it_must_be(ground: Ground, rulebook: Rulebook) -> None:
    """Of the reasons for that, those of this crew; it stands in the log with the photo. Sent past the question, it is checked all the same."""
    play = Play(new_world(ground, asking_why(rulebook, "F-MOVEGOODS")))
    shackle, photo = barcode(ground, "SHK-06", "pc"), "photo-0123456789abcdef"
    play.opens("F-MOVEGOODS").scan("P-01-01-2").scan(shackle).type("20").done("20 pieces").asks("to")
    play.scan("P-01-01-3").asks("stock_reason", "Why?")
    assert [p.label for p in play.question().picks] == ["Wet bay", "Quieter there"]
    play.type("Miscounted").refused("not_among", "Wet bay, Quieter there").type("For the store").refused(
        "not_yours", "ask one of them"
    )
    play.type("Wet bay").asks("stock_photo").press("no_photo").refused("no_photo", "a photo of it must be taken")
    task = play.state.tasks.get("TR-0204")
    assert task and not task.placed
    play.type(photo).done("20 pieces of Bow shackle 6 mm placed")
    assert why(play) == f"Wet bay, with photo `{photo}`"
    play.opens("F-MOVEGOODS").scan("P-01-01-3").scan(shackle).type("5").asks("to")
    (carried,) = (t.number for t in play.state.tasks.values() if t.state is TaskState.TAKEN)
    for given, code in (("SR-W", "no_photo"), ("SR-N", "unknown_reason"), ("SR-S", "not_yours")):
        act = acts.PlaceGoods(FlowId("F-MOVEGOODS"), carried, BinCode("P-01-01-2"), why=StockReasonId(given))
        play.do(act).refused(code)
    play.scan("P-01-01-2").asks("stock_reason").type("Quieter there").done("5 pieces")
    sound(play)


def test_a_flow_that_asks_why_and_takes_no_photo_is_a_finding(ground: Ground, rulebook: Rulebook) -> None:
    """Where a reason is refused without one; and not where it is asked for, or no reason wants one."""

    def found(book: Rulebook) -> list[str]:
        return [f.place for f in findings(book, ground, SiteCode("HQ")) if f.code == "photo_not_asked"]

    book = asking_why(rulebook, "F-MOVEGOODS")
    assert found(book) == []
    bare = tuple(replace(f, prompts=tuple(p for p in f.prompts if p.asks is not Asks.STOCK_PHOTO)) for f in book.flows)
    assert "flows/F-MOVEGOODS/prompts" in found(replace(book, flows=bare))
    assert found(replace(book, flows=bare, stock_reasons=book.stock_reasons[1:])) == []


def test_why_plates_are_moved_is_written_where_there_is_no_list(ground: Ground, rulebook: Rulebook) -> None:
    """A few words do."""
    book = replace(asking_why(rulebook, "F-MOVEPLATES"), stock_reasons=())
    play = Play(new_world(ground, book))
    play.opens("F-MOVEPLATES").scan("LP-000064").press("go_on").asks("to").scan("R-08-20-4")
    play.asks("yes_no", "is not the bin shown").press("yes").asks("stock_reason").type("no").refused("no_reason").type(
        "the roof leaks"
    ).done("Plate `LP-000064` stands in `R-08-20-4`")
    assert "the roof leaks" in why(play)
    sound(play)


def test_a_shelf_is_refilled_from_reserve_as_the_rules_say(play: Play, ground: Ground) -> None:
    """Earliest arrival from reserve, the home bin up to its maximum, and the rest elsewhere."""
    play.opens("F-REFILL").asks("goods").scan(barcode(ground, "SHK-06", "box")).type("3").asks("from")
    source = play.question().expect
    assert "take 150 pieces there" in play.question().note
    play.scan("R-01-02-1").refused("not_there").scan("P-01-01-2").asks("yes_no", "is not the bin shown")
    play.offers("no", "No, go back", "yes", "Take it here", "leave", "Leave").press("no")
    play.scan(source).done(
        "150 pieces of Bow shackle 6 mm taken", f"in `{source}`", "Take 20 pieces of it to `P-01-08-3`"
    )
    play.asks("to", expect="P-01-08-3").scan("P-01-08-3").done("20 pieces", "130 pieces are left")
    trail = play.last.outcome.trails[-1]  # type: ignore[union-attr]
    assert trail.request.without == ("P-01-08-3",) and trail.bin != "P-01-08-3"
    play.asks("to", expect=trail.bin).scan(trail.bin)
    while play.state.tasks["TR-0204"].goods:
        shown = play.question().expect
        play.scan(shown).done()
    placed = play.state.tasks["TR-0204"].placed
    assert sum(p.quantity for p in placed) == 150 and len({p.bin for p in placed}) == len(placed) > 1
    play.asks("goods")
    sound(play)


def test_a_bin_with_too_little_room_offers_to_take_what_fits(play: Play, ground: Ground) -> None:
    """A shelf bears 200 kg: the rest of the anchors stays with the worker."""
    play.opens("F-MOVEGOODS").scan("LP-000064").asks("goods").scan(barcode(ground, "ANC-25", "pc")).type("3").asks("to")
    play.scan("P-01-01-3").done("3 pieces of Plough anchor 25 kg")
    heavy = next(x for x in play.state.lines("ANC-40") if x.plate and x.goods.quantity >= 5)
    play.scan(heavy.plate).scan(barcode(ground, "ANC-40", "pc"))
    count = min(8, heavy.goods.quantity)
    play.type(str(count)).asks("to").scan("P-01-02-1")
    play.asks("yes_no", "has room for").offers("no", "No, go back", "yes", "Place those", "leave", "Leave")
    play.press("yes").done("are left")
    assert 0 < sum(g.quantity for g in play.state.tasks["TR-0205"].goods) < count
    sound(play)


def test_plates_are_moved_together_nested_and_taken_apart(play: Play) -> None:
    """Two pallets to one lane; a tote off its pallet, onto another, never onto itself; content goes along."""
    play.opens("F-MOVEPLATES").asks("plates").scan("LP-999999").refused("unknown_plate").scan("P-01-01-1")
    play.refused("wrong_kind", "scan a plate").scan("LP-000064").done("Plough anchor", "Take it to")
    play.scan("LP-000064").refused("plate_carried", "@oren carries").scan("LP-000901").done("Handheld VHF").asks(
        "plates"
    )
    play.press("go_on").asks("to").scan("R-01-01-2").refused("bin_plates_full", "one license plate")
    play.scan("LP-000901").done().asks("to").press("back").asks("to").scan("RCV-02").done(
        "Plates `LP-000064`, `LP-000901`"
    )
    assert play.state.bin_of("LP-000901") == "RCV-02" and play.state.plate("LP-000900").goods == ()
    sound(play)
    play.asks("plates").scan("LP-000901").press("go_on").scan("LP-000901").asks("to").scan("LP-000064")
    play.done("Plate `LP-000901` stands on `LP-000064` in `RCV-02`")
    assert play.state.plate("LP-000901").on == "LP-000064" and play.state.plate("LP-000901").bin is None
    play.scan("LP-000064").done().press("go_on").scan("LP-000901").refused("plate_carried", "being carried")
    play.scan("RCV-03").asks("yes_no").press("yes").done()
    assert play.state.bin_of("LP-000901") == "RCV-03"
    assert sum(x.goods.quantity for x in play.state.lines("VHF-H") if x.bin == "RCV-03") == 12
    sound(play)


def test_a_plate_that_waits_to_be_put_away_is_left_alone(play: Play, ground: Ground) -> None:
    """Its task would lose it: the move flows say to use the other flow, for the plate and for its goods."""
    play.confirm("PO-1007").opens("F-RECEIVE").scan("PO-1007").scan(barcode(ground, "ROPE-12", "coil")).type("10")
    play.opens("F-MOVEPLATES").scan("LPR-000417").refused("plate_building", "Finish it first")
    play.do(acts.FinishPlate("LPR-000417")).opens("F-MOVEPLATES").scan("LPR-000417").refused("has_task", "TR-0204")  # type: ignore[arg-type]
    play.opens("F-MOVEGOODS").scan("LPR-000417").refused("has_task").scan("RCV-01").scan(
        barcode(ground, "ROPE-12", "m")
    )
    play.refused("has_task")


def test_moving_reserved_goods_lets_go_the_latest_reservation(play: Play, ground: Ground) -> None:
    """53 shackles in the shelf: 30 kept for one, 20 for another; taking ten leaves the first whole."""
    for holder, count in (("Ardle Sound", 30), ("Old Mole", 20)):
        play.do(acts.ReserveStock(holder, "SHK-06", count)).done("are kept for")  # type: ignore[arg-type]
    both = [r.parts[0].bin for r in play.state.reservations.values()]
    assert len(set(both)) == 1
    there = play.state.quantity_in(both[0], "SHK-06")
    play.do(acts.ReserveStock("x", "NOPE", 1)).refused("unknown_item")  # type: ignore[arg-type]
    play.do(acts.ReserveStock("", "SHK-06", 1)).refused("no_holder")  # type: ignore[arg-type]
    play.opens("F-MOVEGOODS").scan(both[0]).scan(barcode(ground, "SHK-06", "pc")).type(str(there - 40))
    play.done("10 pieces reserved for Old Mole are let go")
    assert [sum(p.goods.quantity for p in r.parts) for r in play.state.reservations.values()] == [30, 10]
    play.do(acts.LetGo("RSR-0031")).done("is let go").do(acts.LetGo("RSR-0031")).refused("unknown_reservation")  # type: ignore[arg-type]
    assert list(play.state.reservations) == ["RSR-0032"]
    sound(play)


def test_a_flow_that_keeps_to_the_bin_shown(ground: Ground, rulebook: Rulebook) -> None:
    """Another bin is refused, or a reason is asked and kept with the task."""
    for other in (OtherBin.NEVER, OtherBin.REASON):
        flows = tuple(
            replace(f, other_bin=other, several=False) if f.id == "F-MOVEPLATES" else f for f in rulebook.flows
        )
        play = (
            Play(new_world(ground, replace(rulebook, flows=flows))).opens("F-MOVEPLATES").scan("LP-000064").asks("to")
        )
        if other is OtherBin.NEVER:
            play.scan("RCV-02").refused("not_the_bin")
        else:
            play.scan("RCV-02").asks("reason").type("lift is out").done()
            assert play.state.tasks["TR-0204"].placed[0].reason == "lift is out"


def test_looking_up_items_bins_and_plates(play: Play, ground: Ground) -> None:
    """The floor sees what the office sees: through all plates, with what is reserved, blocked, on its way."""
    play.opens("F-LOOK").asks("look").scan("PO-1007").refused("wrong_kind").scan("LP-000901").done()
    assert play.question().facts[0].startswith("stands on `LP-000900` in `R-04-02-1`")
    play.do(acts.BlockBin("R-04-02-1", "beam bent")).scan("R-04-02-1")  # type: ignore[arg-type]
    assert "blocked: beam bent" in play.question().facts
    play.do(acts.ReserveStock("SO-1", "VHF-H", 2)).scan(barcode(ground, "VHF-H", "pc"))  # type: ignore[arg-type]
    facts = play.question().facts
    assert "2 pieces reserved" in facts[0] and any("on `LP-000901`: 12 pieces" in f for f in facts)


def test_looking_up_all_day_does_not_make_its_log_grow(play: Play, ground: Ground) -> None:
    """The questions one may step back to are bounded: the hundredth look-up takes no more room than the fortieth."""
    play.opens("F-LOOK")
    sizes = []
    for n in range(100):
        play.scan(("R-04-02-1", "RCV-01")[n % 2]).done()
        sizes.append(len(canonical(stored(play.last))))  # type: ignore[arg-type]
    assert sizes[99] <= sizes[39] + 8
    for _ in range(3):
        play.press("back").done()
    assert play.question().facts


def test_two_lots_are_told_apart(play: Play, ground: Ground) -> None:
    """Pallets that stand together are scanned; on one pallet with two lots the lot is asked, and must be there."""
    tin = barcode(ground, "AF-RED-25", "tin")
    pallets = {x.goods.lot: x for x in play.state.lines("AF-RED-25") if x.plate}
    (one, first), (two, second) = sorted(pallets.items())[:2]
    play.opens("F-MOVEPLATES").scan(first.plate).done().scan(second.plate).done().press("go_on").asks("to")
    play.scan("RCV-02")
    if play.question().asks == "yes_no":
        play.press("yes")
    play.done().press("leave").opens("F-MOVEGOODS").scan("RCV-02").scan(tin)
    play.refused("several_plates", first.plate, second.plate, "scan the plate").scan(first.plate).scan(tin).type("2")
    play.done().asks("to").scan(second.plate).done("2 tins").scan(second.plate).scan(tin)
    play.done().asks("lot_there", "Which lot").type("Z0000").refused("lot_not_there", f"`{one}`", f"`{two}`")
    assert sorted(p.value for p in play.question().picks) == [one, two]
    play.scan(one, "tapped").asks("count").type("3").refused("more_than_there", "2 tins")
    play.press("back").asks("lot_there").scan(two, "tapped").asks("count").type("1").done()
    carried = next(t for t in play.state.tasks.every() if t.goods and t.person == "oren")
    assert [(g.lot, g.quantity) for g in carried.goods] == [(two, 1)]
    sound(play)


def test_a_plate_in_the_bin_narrows_what_is_taken(play: Play, ground: Ground) -> None:
    """The bin first, then one of its plates; a plate of another bin is refused with where it stands."""
    play.opens("F-MOVEGOODS").scan("R-04-02-1").asks("goods").scan("LP-000064").refused(
        "plate_elsewhere", "`LP-000064` stands in `"
    )
    play.scan("LP-000901").asks("goods")
    assert "out of plate LP-000901" in play.question().note
    play.scan(barcode(ground, "ROPE-12", "m")).refused("not_there").scan(barcode(ground, "VHF-H", "pc"))
    play.asks("count").type("two").refused("no_number", "`two` is no number", "pieces").type("2").done()
    play.press("part").asks("part").type("x").refused("no_number").type("1").asks("to")
    assert play.question().facts == ("You carry 2 pieces of Handheld VHF radio", "into the next bin: 1 piece")
    sound(play)


def test_two_people_at_one_shelf(play: Play, ground: Ground) -> None:
    """What one carries is not there for the other; who goes on elsewhere finds what was carried; a plate is one's."""
    shackle = barcode(ground, "SHK-06", "pc")
    there = play.state.quantity_in("P-01-01-2", "SHK-06")
    mara = play.other("mara", "H2")
    play.opens("F-MOVEGOODS").scan("P-01-01-2").scan(shackle).type(str(there - 3)).done()
    mara.opens("F-MOVEGOODS").scan("P-01-01-2").scan(shackle).asks("count")
    assert mara.question().proposal == "3"
    mara.type("4").refused("more_than_there", "3 pieces").type("3").done().scan("P-01-01-3").done("3 pieces")
    third = play.other("oren", "H3")
    third.opens("F-MOVEGOODS").asks("to").scan("P-01-01-3").done(f"{there - 3} pieces")
    assert play.state.quantity_in("P-01-01-3", "SHK-06") == there
    mara.opens("F-MOVEPLATES").scan("LP-000064").done()
    play.opens("F-MOVEPLATES").scan("LP-000064").refused("plate_carried", "@mara")
    play.opens("F-MOVEGOODS").scan("LP-000064").refused("plate_carried")
    sound(play)


def test_room_is_claimed_for_the_share_that_goes_there(ground: Ground) -> None:
    """Of ten taken four fit the bin that is shown: room for four is claimed, so the bin is not expected to be too full."""
    play = at(ground, GL)
    for count in (17, 18):
        play.opens("F-RECEIVE").scan("GL-502").scan("CLT-15").type(str(count)).press("finish").done().press("leave")
        if count == 17:
            task = next(iter(play.state.tasks.every()))
            play.do(acts.Take(task.number)).done().do(acts.Place(task.number, task.to_bin)).done()  # type: ignore[arg-type]
    play.do(acts.TakeGoods(FlowId("F-MOVE"), BinCode("GL-COUNTER"), ItemCode("CLT-15"), 10)).done(
        "4 pieces of it to `D1-01-2`"
    )
    sound(play)
    move = next(t for t in play.state.tasks.every() if t.need.value == "move")
    assert [(code, sum(g.quantity for g in goods)) for code, goods, _ in move.going.bound] == [("D1-01-2", 4)]
