"""Packing to shipping: what was picked goes into cartons, is staged, loaded and sent off; and what left may come back."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime
from itertools import product

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import (
    BinCode,
    CartonKindCode,
    ItemCode,
    LabelRuleId,
    OrderNo,
    PaperFormId,
    PlateNo,
    ShipmentNo,
    SiteCode,
)
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.cartons import Weighed
from mindful_crate.core.floor.devices import Scale
from mindful_crate.core.floor.pages import PaperPage
from mindful_crate.core.floor.topics import HostStandIn
from mindful_crate.core.proving.findings import of_papers
from mindful_crate.core.proving.paper_bench import papers_of
from mindful_crate.core.releasing.onward import Stop, kept_in, top_of
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.packing import PLAIN, Proof, Short, Weigh
from mindful_crate.core.rulebook.papers import Along, Column, LabelRule, Paper, PaperForm, Prints, When
from mindful_crate.core.rulebook.shipping import Rest, Station, StationStep
from mindful_crate.core.rulebook.steps import Found, Need
from mindful_crate.core.rulebook.waves import Goes, Method
from mindful_crate.core.work.leaving.contents import content_of
from mindful_crate.core.work.leaving.looking import ORDER_OF_STOPS, standing
from mindful_crate.core.work.leaving.shipping_papers import OrderPart, Papers, pages, papers
from mindful_crate.core.work.packing import looking
from mindful_crate.core.work.packing.looking import source_of
from mindful_crate.core.world import acts
from mindful_crate.core.world.chain import documents
from tests.core.test_covering import BOOK, GROUND
from tests.core.test_picking import TOTES, bar, fetches
from tests.core.test_waves import order, plan, released, sound, tasks
from tests.playbook import Play, new_world
from tests.properties import tried

SH = ShipmentNo("SHR-0001")
CLOSED = {"S": CartonKindCode("S"), "M": CartonKindCode("M"), "L": CartonKindCode("L")}


def steps(book: Rulebook, *on: Station, picks: bool = True, rest: Rest = Rest.BACK_ORDER) -> Rulebook:
    """The demo's rules, with these stations for sales orders and no wave plan."""
    plan = book.ship_plans[0]
    at = {
        Station.SORT: BinCode("STG-10"),
        Station.PACK: Found("PAK"),
        Station.STAGE: Found("STG"),
        Station.LOAD: Found("DOR"),
    }  # type: ignore[arg-type]
    made = {s.value: StationStep(s in on, at[s]) for s in Station}
    plans = (replace(plan, picks=picks, rest=rest, **made), *book.ship_plans[1:])
    return replace(book, ship_plans=plans, wave_plans=())


def by(book: Rulebook, **more: object) -> Rulebook:
    """The same, packed by this rule alone."""
    return replace(book, pack_rules=(replace(PLAIN, **{"id": "PK-1", "weigh": Weigh.NO, **more}),))  # type: ignore[arg-type]


def numbered(number: str, *lines: tuple[str, int], pieces: int = 1) -> Order:
    """An order whose second line is of chart plotters, with their numbers fixed."""
    made = order(number, *lines)
    serials = tuple(f"P12-2510-{37 + n:04}" for n in range(pieces))
    found = [replace(x, serials=serials) if x.item == "PLOT-12" else x for x in made.lines]
    return replace(made, lines=tuple(found))


def picked(book: Rulebook, *orders: Order) -> Play:
    """Orders that were picked and stand where they were brought."""
    play = released(book, *orders)
    for task in tasks(play):
        play.do(acts.PickInOffice(task.number, "picked by paper", None if task.to_bin else BinCode("STG-01"))).done()
    return play


def stages(play: Play, number: str) -> dict[str, bool]:
    doc = next(d for d in documents(play.state) if d.number == number)
    return {s.word: s.done for s in doc.stages}


def test_from_the_tote_into_a_carton_and_away(rulebook: Rulebook) -> None:
    """Picked, packed, staged, loaded, shipped: each step stands after the one before, and in the end the goods are gone and the order is shipped."""
    book = by(steps(rulebook, Station.PACK, Station.STAGE, Station.LOAD))
    play = picked(book, order("SO-1", ("SHK-08", 20), ("ROPE-06", 30), carrier=None))
    here = {i: sum(x.goods.quantity for x in play.state.lines(i)) for i in ("SHK-08", "ROPE-06")}
    play.opens("F-PACK").asks("packed").scan("SO-1").done()
    play.asks("pack_item").scan(bar("SHK-08")).asks("pack_count").type("21").refused("more_than_wanted", "20")
    play.press("confirm").done("20")
    (carton,) = play.state.cartons.of(SH)
    play.scan(bar("SHK-08")).refused("all_packed", "one too many")
    play.scan(bar("ROPE-06")).press("confirm").done()
    play.asks("pack_item", "All is packed").press("close_carton").asks("carton_kind").scan("M", "tapped").done(
        "is closed"
    )
    sound(play)
    play.press("leave").opens("F-STAGE").asks("staged").scan(carton.number).asks("lane", expect="STG-01").scan(
        "STG-01"
    ).done("All of")
    sound(play)
    play.press("leave").opens("F-LOAD").scan("TK-73").asks("loaded").scan(carton.number).done("is loaded")
    sound(play)
    play.press("leave").opens("F-SHIP").scan("SO-1").asks("carrier").scan("HEAV", "tapped").asks("review")
    play.press("it_is_so").done("has left", "is shipped")
    sound(play)
    now = {i: sum(x.goods.quantity for x in play.state.lines(i)) for i in ("SHK-08", "ROPE-06")}
    assert {i: here[i] - now[i] for i in here} == {"SHK-08": 20, "ROPE-06": 30}
    assert play.state.ordered.is_shipped(play.state.order(OrderNo("SO-1")))
    assert stages(play, "SO-1")["shipped"]
    play.do(acts.Wait(60)).done()
    assert play.state.departures[SH].booked
    play.opens("F-STAGE").scan(carton.number).refused("wrong_kind")
    sound(play)


def walk(play: Play, book: Rulebook, shipment: ShipmentNo) -> list[str]:
    """Whoever does what comes next, as the floor says it, until the shipment has left; the steps that were taken."""
    taken: list[str] = []
    for _ in range(60):
        if shipment in play.state.departures:
            return taken
        now = standing(play.state, book, shipment)
        kept = list(kept_in(play.state, book, shipment))
        stop = min((k.next for k in kept), key=ORDER_OF_STOPS.index)
        if not taken or taken[-1] != stop.value:
            taken.append(stop.value)
        mine = [k for k in kept if k.next is stop]
        if stop is Stop.PICK:
            task = play.state.tasks[now.tasks[0]]
            play.do(
                acts.PickInOffice(task.number, "picked by paper", None if task.to_bin else BinCode("STG-01"))
            ).done()
        elif stop is Stop.SORT:
            k = mine[0]
            play.do(
                acts.SortInto(
                    k.part.bin,
                    k.line.order,
                    k.line.line,
                    k.part.goods.quantity,
                    None,
                    PlateNo(f"LPR-90000{k.line.order[-1]}"),
                )
            ).done()
        elif stop is Stop.PACK:
            open_ = play.state.cartons.open_of(shipment)
            if open_:
                play.do(acts.CloseCarton(open_[0].number, CLOSED["L"])).done()
            else:
                play.do(acts.PackRest(shipment, BinCode("PACK-1"))).done()
        elif stop is Stop.STAGE:
            plates = tuple(dict.fromkeys(top_of(play.state, k.part.plate) for k in mine if k.part.plate))
            loose = tuple(dict.fromkeys(k.line.order for k in mine if not k.part.plate))
            play.do(acts.StageGoods(shipment, BinCode("STG-02"), plates, loose)).done()
        elif stop is Stop.LOAD:
            play.do(acts.LoadGoods(shipment, BinCode("DOOR-3"))).done()
        else:
            play.do(acts.ShipShipment(shipment)).done()
    raise AssertionError(taken)


def test_every_combination_of_steps_works(rulebook: Rulebook) -> None:
    """All 32 of them: whoever does what comes next gets a shipment away, in the order of its stations and none of those that are off."""
    for on in product((False, True), repeat=5):
        picks, stations = on[0], [s for s, so in zip(Station, on[1:], strict=True) if so]
        book = by(steps(rulebook, *stations, picks=picks))
        if Station.SORT in stations:
            book = replace(book, wave_plans=(plan(Method.BATCH, goes=Goes.LET_GO),))
        play = released(book, *(order(f"SO-{n}", ("SHK-08", 3), ("ROPE-06", 10)) for n in (1, 2)))
        if book.wave_plans:
            play.do(acts.MakeWave(book.wave_plans[0].id)).done()
        taken = walk(play, book, SH)
        there = Station.STAGE in stations and Station.PACK not in stations  # what is brought to a lane first is staged
        expected = ["pick", *(s.value for s in stations if s is not Station.STAGE or not there)] if picks else []
        assert taken == [*expected, "ship"], (on, taken)
        assert all(play.state.ordered.is_shipped(o) for o in map(play.state.order, (OrderNo("SO-1"), OrderNo("SO-2"))))
        sound(play)


def to_pack(book: Rulebook, *orders: Order, **rule: object) -> Play:
    """Orders that stand where they are packed, the first of them begun on the handset."""
    play = picked(by(steps(book, Station.PACK, Station.STAGE), **rule), *orders)
    return play.opens("F-PACK").scan(orders[0].number).done()


def test_what_does_not_belong_is_refused_by_name(rulebook: Rulebook) -> None:
    """Another order's item, one that nobody wants, a case that holds too many, another shipment's carton; each by its name, and nothing is lost."""
    play = to_pack(
        rulebook, order("SO-1", ("SHK-08", 4)), order("SO-2", ("ROPE-06", 30), partner="C-510"), proof=Proof.COUNT
    )
    play.asks("pack_item").scan(bar("ROPE-06")).refused("other_order", "SO-2", "not for `SO-1`")
    play.scan(bar("SHK-10")).refused("not_wanted")
    play.scan("P-01-02-4").refused("wrong_kind", "P-01-02-4")
    assert "pack_rest" not in [b.action for b in play.question().buttons]
    other = play.other("mara", "H2").opens("F-PACK").scan("SO-2").done()
    other.scan(bar("ROPE-06")).type("10").done().asks("pack_item")
    (carton,) = play.state.cartons.values()
    play.asks("pack_item").scan(carton.number).refused("other_shipment", "SO-2")
    play.scan(bar("SHK-08")).press("confirm").done("4")
    mine = next(c for c in play.state.cartons.values() if c.number != carton.number)
    play.scan(mine.number).done().asks("pack_item")
    sound(play)


def test_every_piece_is_scanned(rulebook: Rulebook) -> None:
    """Where the rule says so each scan is one piece, a case counts its pieces and may not overshoot; of pieces with numbers each must be one that was picked."""
    case = next(u for u in GROUND.items["SHK-08"].units if u.quantity > 4)  # type: ignore[index]
    play = to_pack(rulebook, numbered("SO-1", ("SHK-08", 2), ("PLOT-12", 1)), proof=Proof.EACH)
    play.scan(bar("SHK-08", case.code)).refused("more_than_wanted", "Scan single ones")
    play.scan(bar("SHK-08")).done("1 piece left").asks("pack_item").scan(bar("SHK-08")).done().scan(
        bar("SHK-08")
    ).refused("all_packed")
    play.scan(bar("PLOT-12")).asks("pieces").scan("PLOT-12-NOBODY").refused("other_piece", "that were picked")
    kept = next(p for r in play.state.reservations.values() if r.item == "PLOT-12" for p in r.parts)
    (piece,) = play.state.serials.at(source_of(kept), kept.goods)
    play.scan(piece).done("PLOT" if False else "Chart plotter")
    (carton,) = play.state.cartons.of(SH)
    assert play.state.serials.where("PLOT-12", piece).spot.code == carton.number
    sound(play)


def test_the_scale_agrees_differs_and_is_down(rulebook: Rulebook) -> None:
    """It is read and confirmed; beyond tolerance what could explain it is said, and only who has counted again closes it; where it is down, reads nonsense
    or is none, the weight is said by hand."""
    play = to_pack(
        rulebook, order("SO-1", ("SHK-08", 12)), order("SO-2", ("ROPE-06", 30), partner="C-510"), weigh=Weigh.SCALE
    )
    station = next(
        p for p in GROUND.opening.pack_stations if p.bin == next(iter(play.state.releases.values())) or p.scale
    )
    (lot,) = [r for r in play.state.reservations.values() if r.order == "SO-1"]
    code = lot.parts[0].bin if lot.parts[0].plate is None else play.state.bin_of(lot.parts[0].plate)
    station = next(p for p in GROUND.opening.pack_stations if p.bin == code)
    play.scan(bar("SHK-08")).press("confirm").press("close_carton").scan("S", "tapped").asks(
        "weight", "The scale reads"
    )
    weight = GROUND.items["SHK-08"].base.weight_mg  # type: ignore[index]
    play.do(acts.SetScale(station.code, Scale(drift_mg=-weight))).done()
    if weight > 50_000:
        play.press("confirm").refused("no_proposal")
    play.do(acts.SetScale(station.code, Scale(drift_mg=-3 * weight))).done()
    facts = " ".join(play.question().facts)
    assert "lighter" in facts and "3 x 1 piece of Bow shackle 8 mm missing" in facts, facts
    play.do(acts.SetScale(station.code, Scale(down=True))).done()
    play.asks("weight", "What does it weigh").type("0").refused("no_weight")
    play.do(acts.SetScale(station.code, Scale(typed_mg=-5))).done()
    assert "which no carton weighs" in play.question().note
    play.type("99").done().asks("yes_no", "Count it again").press("no").done()
    play.do(acts.SetScale(station.code, Scale(drift_mg=-3 * weight))).done()
    play.press("counted_again").done("is closed")
    (carton,) = play.state.cartons.of(SH)
    should = looking.weighs(play.state, play.state.all_goods(carton.number), carton.kind)
    assert (carton.weighed, carton.weight_mg) == (Weighed.SCALE, should - 3 * weight)
    sound(play)


def test_a_tote_leaves_as_it_is_where_its_rule_lets_it(rulebook: Rulebook) -> None:
    """It is asked first; without the rule what is packed is scanned. Opened again, it is packed like the rest."""
    one, two = order("SO-1", ("SHK-08", 4)), order("SO-2", ("ROPE-06", 30), partner="C-510")
    book = by(steps(rulebook, Station.PACK, Station.STAGE), proof=Proof.TOTE)
    play = on_totes(book, one, two)
    play.opens("F-PACK").scan("SO-1").scan(TOTES[1]).refused("other_shipment", "SO-2")
    play.scan(TOTES[0]).done().asks("yes_no", "leaves as it is").press("yes").done("leaves as it is").asks("packed")
    assert play.state.cartons.is_closed(PlateNo(TOTES[0]))
    play.do(acts.ReopenCarton(PlateNo(TOTES[0]))).done()
    play.scan("SO-1").press("pack_rest").press("yes").done("1 line")
    assert not play.state.has_plate(TOTES[0]), "an emptied tote is free again"
    sound(play)
    strict = on_totes(by(steps(rulebook, Station.PACK), proof=Proof.COUNT), one)
    strict.do(acts.PackAsIs(PlateNo(TOTES[0]))).refused("must_scan", "SO-1")


def on_totes(book: Rulebook, *orders: Order) -> Play:
    """Orders that were picked into a tote each and stand at a bench."""
    play = released(book, *orders)
    for n, o in enumerate(orders):
        task = next(t for t in tasks(play) if o.number in t.plan.orders)
        play.opens("F-PICK").scan(task.number).scan(TOTES[n]).done()
        while play.question().asks != "set_at":
            fetches(play)
        play.scan(play.question().expect).done("is done").press("leave")
    return play


def test_taken_out_moved_opened_again(rulebook: Rulebook) -> None:
    """What is in a carton is taken out, or moved to another of the same shipment; a closed one is opened until it is staged."""
    play = to_pack(rulebook, order("SO-1", ("SHK-08", 6), ("ROPE-06", 30)))
    play.scan(bar("SHK-08")).press("confirm").done()
    asked = play.question()
    assert asked.list_title == f"In carton `{play.state.cartons.of(SH)[0].number}`"
    assert [(b.action, b.label, b.counts) for b in asked.of_line] == [("take_out", "Take out", True)]
    assert [(x.line, x.told, x.rest) for x in asked.so_far] == [(1, "6 pieces for SO-1", "")]
    play.press("take_out", line=1, count="2").done("out of")
    assert {g.quantity for c in play.state.cartons.of(SH) for g in play.state.all_goods(c.number)} == {4}
    play.press("take_out", line=1, count="1.5").refused("no_number", "whole")
    play.press("take_out", line=9).refused("no_such_line").press("take_out", line=1, count="x").refused("no_number")
    play.press("new_carton").done("is begun").scan(bar("ROPE-06")).press("confirm").done()
    one, two = play.state.cartons.of(SH)
    play.do(acts.TakeOut(one.number, OrderNo("SO-1"), 1, 3, two.number)).done(two.number)
    play.do(acts.TakeOut(one.number, OrderNo("SO-1"), 1, 3)).refused("more_than_there", "1 piece")
    play.do(acts.CloseCarton(two.number, CLOSED["L"])).done()
    play.do(acts.TakeOut(one.number, OrderNo("SO-1"), 1, 1, two.number)).refused("carton_closed")
    play.do(acts.StageGoods(SH, BinCode("STG-03"), (two.number,))).done("not packed")
    play.do(acts.ReopenCarton(two.number)).refused("staged", "STG-03")
    play.do(acts.StageGoods(SH, BinCode("STG-03"), (one.number,))).refused("carton_open")
    sound(play)


def test_a_carton_of_a_release_that_is_taken_back_is_none_any_more() -> None:
    """It was begun and is empty: with the last order of its shipment it goes too, and its number means nothing."""
    play = released(by(steps(BOOK, Station.PACK)), order("SO-1", ("SHK-08", 12), carrier=None))
    play.do(acts.BeginCarton(SH, BinCode("PACK-1"))).done()
    (carton,) = play.state.cartons.of(SH)
    play.do(acts.UndoRelease(OrderNo("SO-1"), "the ferry is late")).done("has ended")
    assert not len(play.state.cartons) and not play.state.has_plate(carton.number)
    sound(play)


@pytest.mark.parametrize("short", Short)
def test_closed_short(rulebook: Rulebook, short: Short) -> None:
    """What is left is put back and stays open on its order, or stays at the bench, kept for it; the shipment goes on with what is packed."""
    play = to_pack(rulebook, order("SO-1", ("SHK-08", 6), ("ROPE-06", 30)), short=short)
    play.scan(bar("SHK-08")).press("confirm").press("close_carton").scan("S", "tapped").done()
    play.press("pack_short").asks("reason", "1 line of `SO-1`").type("no").refused("no_reason").type(
        "wet through"
    ).done("wet through")
    back = [t for t in play.state.tasks.values() if t.need is Need.PUT_AWAY and not t.state.ended]
    assert bool(back) is (short is Short.BACK)
    kept = {r.item for r in play.state.reservations.values() if r.order == "SO-1"}
    assert ("ROPE-06" in kept) is (short is Short.STAY)
    sound(play)


def test_what_changes_hands_on_its_way_is_not_picked_yet(rulebook: Rulebook) -> None:
    """Filters are handed over to another crew: while its task is open they are still to be picked, wherever they stand."""
    book = steps(rulebook, Station.PACK)
    play = released(book, order("SO-1", ("SHK-08", 6), ("FLT-F", 5)))
    for task in tasks(play):
        play.do(acts.PickInOffice(task.number, "by paper", None if task.to_bin else BinCode("STG-01"))).done()
    now = standing(play.state, book, SH)
    (on,) = now.tasks
    assert (now.steps[0].done, now.steps[0].of) == (1, 2) and now.steps[0].missing == (
        "5 pieces of Fuel filter for `SO-1`",
    )
    play.do(acts.PickInOffice(on, "by paper", None if play.state.tasks[on].to_bin else BinCode("STG-01"))).done()
    assert standing(play.state, book, SH).steps[0].whole


def test_what_is_ready_is_loaded_and_leaves_without_the_rest(rulebook: Rulebook) -> None:
    """Of a shipment that is not complete nothing is loaded, unless the office says that what is ready goes; then it leaves, and the rest stays kept."""
    book = by(steps(rulebook, Station.PACK, Station.STAGE, Station.LOAD), short=Short.STAY)
    play = picked(book, order("SO-1", ("SHK-08", 6), ("ROPE-06", 30))).opens("F-PACK").scan("SO-1").done()
    play.scan(bar("SHK-08")).press("confirm").press("close_carton").scan("S", "tapped").done()
    play.press("pack_short").type("wet through").done("stay at the station")
    (carton,) = play.state.cartons.of(SH)
    play.do(acts.LoadGoods(SH, BinCode("DOOR-3"), partly=True)).refused("nothing_to_load")
    play.do(acts.StageGoods(SH, BinCode("STG-04"), (carton.number,))).done("not packed: 30 m of Braided rope 6 mm")
    play.do(acts.LoadGoods(SH, BinCode("DOOR-3"))).refused("not_complete")
    play.do(acts.LoadGoods(SH, BinCode("DOOR-3"), partly=True)).done("Still to be loaded: 30 m of Braided rope 6 mm")
    play.do(acts.ShipShipment(SH)).refused("not_complete").do(acts.ShipShipment(SH, partly=True)).done("has left")
    assert [(r.order, r.item) for r in play.state.reservations.values()] == [("SO-1", "ROPE-06")]
    sound(play)


def test_staged_when_all_is_there(rulebook: Rulebook) -> None:
    """Loose picks and whole pallets: nothing is loaded before both are staged, and what is missing is named. Another shipment's plate is refused at the truck;
    cartons go onto a pallet and leave with it."""
    book = by(steps(rulebook, Station.PACK, Station.STAGE, Station.LOAD))
    play = picked(book, order("SO-1", ("SHK-08", 6), ("ROPE-06", 30)), order("SO-2", ("SHK-10", 3), partner="C-510"))
    play.do(acts.PackRest(SH, BinCode("PACK-1"), OrderNo("SO-1"))).done()
    (one,) = play.state.cartons.of(SH)
    play.do(acts.TakeOut(one.number, OrderNo("SO-1"), 1, 6)).done()
    play.do(acts.CloseCarton(one.number, CLOSED["L"])).done()
    play.do(acts.PackRest(SH, BinCode("PACK-1"))).done()
    two = play.state.cartons.open_of(SH)[0]
    play.do(acts.LoadGoods(SH, BinCode("DOOR-3"))).refused("not_complete", "not packed")
    play.do(acts.CloseCarton(two.number, CLOSED["L"])).done()
    other = ShipmentNo("SHR-0002")
    play.do(acts.PackRest(other, BinCode("PACK-1"))).done()
    (third,) = play.state.cartons.of(other)
    play.do(acts.CloseCarton(third.number, CLOSED["S"])).done()
    play.do(acts.StageGoods(SH, BinCode("STG-04"), (one.number,))).done(two.number)
    play.do(acts.StageGoods(SH, BinCode("STG-04"), (third.number,))).refused("other_shipment", "SO-2", other)
    play.do(acts.StageGoods(SH, BinCode("P-01-02-4"), (two.number,))).refused("no_lane")
    play.do(acts.LoadGoods(SH, BinCode("DOOR-3"), None, (one.number,))).refused("not_complete", two.number)
    play.do(acts.StageGoods(SH, BinCode("STG-04"), (two.number,))).done("All of")
    play.do(acts.StackPlates((one.number, two.number))).done("on `")
    pallet = top_of(play.state, one.number)
    assert play.state.plates_on(pallet) == tuple(sorted((one.number, two.number)))
    play.do(acts.StackPlates((one.number,), PlateNo("LPR-900009"))).done("LPR-900009")
    play.do(acts.StackPlates((two.number,), PlateNo("LPR-900009"))).done(f"`{pallet}` is empty and drops out")
    assert not play.state.has_plate(pallet)
    sound(play)
    play.opens("F-LOAD").asks("truck").scan("TK-71").refused("brings").scan("STG-01").refused("no_door").scan(
        "TK-74"
    ).done()
    play.asks("loaded").scan(third.number).refused("not_so_far", "staged")
    play.scan(SH).asks("yes_no", "Look").press("yes").done("All of")
    assert set(play.state.loaded) == {"LPR-900009"}
    play.do(acts.TakeOffTruck("LPR-900009")).done().do(acts.TakeOffTruck("LPR-900009")).refused("not_loaded")
    play.do(acts.LoadGoods(SH, BinCode("DOOR-3"))).done().do(acts.ShipShipment(SH)).done("has left")
    assert not play.state.loaded and not play.state.has_plate(one.number)
    sound(play)


def away(book: Rulebook, *orders: Order, host: str = "") -> Play:
    """Orders that were packed and sent off."""
    play = picked(by(steps(book, Station.PACK), weigh=Weigh.NO), *orders)
    play.do(acts.SetHost(HostStandIn(refuses=host))).done()
    walk(play, play.world.rulebook, SH)
    return play


def test_the_host_refuses_and_is_told_again(rulebook: Rulebook) -> None:
    """What left has left; the message that was refused is repeated, and in effect once."""
    play = away(rulebook, order("SO-1", ("SHK-08", 6)), host="closed period").do(acts.Wait(60)).done()
    left = play.state.departures[SH]
    assert not left.booked and left.refused == "closed period"
    message = next(m for m in play.state.messages.values() if m.topic == "book_shipment")
    play.do(acts.SetHost(HostStandIn(twice=True))).do(acts.RepeatMessage(message.number)).done().do(
        acts.Wait(90)
    ).done()
    assert play.state.departures[SH].booked and play.state.messages_about(SH)[0].heard_again == 1
    sound(play)


def test_what_left_comes_back(rulebook: Rulebook) -> None:
    """The host is asked; while it refuses all stays as it is. Then goods, cartons and what was kept stand again where they left from, and may leave again."""
    play = away(rulebook, numbered("SO-1", ("SHK-08", 6), ("PLOT-12", 1)))
    before = play.state.departures[SH]
    play.do(acts.Wait(60)).done()
    play.do(acts.ReverseShipment(SH, "")).refused("no_reason")
    play.do(acts.SetHost(HostStandIn(book_seconds=60, refuses="invoiced"))).do(
        acts.ReverseShipment(SH, "wrong truck")
    ).done("asked")
    play.do(acts.ReverseShipment(SH, "wrong truck")).refused("asked_already").do(acts.Wait(90)).done()
    assert play.state.departures[SH].undoing is False and play.state.ordered.is_shipped(play.state.order("SO-1"))
    play.do(acts.SetHost(HostStandIn())).do(acts.ReverseShipment(SH, "wrong truck")).do(acts.Wait(60)).done()
    assert SH not in play.state.departures and not play.state.shipments[SH].left
    sound(play)
    assert {c.number for c in play.state.cartons.of(SH)} == {b.number for b in before.bearers}
    play.do(acts.ShipShipment(SH)).done("has left")
    again = play.state.departures[SH]
    assert {(p.plate, p.goods, p.serials) for p in again.parcels} == {
        (p.plate, p.goods, p.serials) for p in before.parcels
    }
    sound(play)


@pytest.mark.parametrize("rest", Rest)
def test_partly_shipped(rulebook: Rulebook, rest: Rest) -> None:
    """What is ready leaves; what is still picked leaves in a shipment of its own; what nobody has is on back order, or not waited for, as the plan says."""
    book = by(steps(rulebook, Station.PACK, rest=rest))
    play = picked(book, order("SO-1", ("SHK-08", 6), ("ROPE-06", 30)))
    play.do(acts.PackInto(BinCode("PACK-1"), OrderNo("SO-1"), 1, 6)).done()
    (carton,) = play.state.cartons.of(SH)
    play.do(acts.ShipShipment(SH, None, True)).refused("nothing_ready")
    play.do(acts.CloseCarton(carton.number, CLOSED["S"])).done()
    play.do(acts.ShipShipment(SH)).refused("not_complete", "not packed")
    play.do(acts.ShipShipment(SH, None, True)).done("partly shipped", "SHR-0002")
    assert play.state.releases["SO-1"].shipment == "SHR-0002"
    sound(play)
    play.do(acts.PackShort(OrderNo("SO-1"), "wet through")).done()
    play.do(acts.ReverseShipment(SH, "wrong truck")).refused("released_again", "SHR-0002")
    sound(play)


def test_an_order_that_lacks_something(rulebook: Rulebook) -> None:
    """Of an order of which not all is on hand what left is shipped; the rest is open and may be released when it is there, or is closed."""
    for rest in Rest:
        book = by(steps(rulebook, rest=rest))
        there = sum(x.goods.quantity for x in Play(new_world(GROUND, book)).state.lines("SHK-08"))
        play = picked(replace(book, gates=()), order("SO-1", ("SHK-08", there + 50), ("ROPE-06", 10)))
        play.do(acts.ShipShipment(SH)).done("partly shipped")
        progress = play.state.line_progress("SO-1", 1)
        assert (progress.closed > 0) is (rest is Rest.CLOSE)
        assert play.state.ordered.is_shipped(play.state.order("SO-1")) is (rest is Rest.CLOSE)
        assert "SO-1" not in play.state.releases
        sound(play)


@tried(20)
@given(st.data())
def test_whatever_is_done_nothing_is_lost(data: st.DataObject) -> None:
    """Packing, taking out, closing, opening, staging, stacking, loading, shipping and taking back in any order: every act is carried out or refused in
    words, what is not shipped is here, and a snapshot says the same."""
    book = by(steps(BOOK, Station.PACK, Station.STAGE, Station.LOAD), proof=Proof.TOTE)
    play = picked(
        book,
        numbered("SO-1", ("SHK-08", 6), ("ROPE-06", 30), ("PLOT-12", 2), pieces=2),
        order("SO-2", ("SHK-08", 3), partner="C-510"),
    )
    for _ in range(14):
        numbers = [
            *play.state.cartons.all(),
            *(p.plate for r in play.state.reservations.values() for p in r.parts if p.plate),
            PlateNo("LPR-900007"),
        ]
        plate, other = data.draw(st.sampled_from(numbers)), data.draw(st.sampled_from([None, *numbers]))
        shipment = data.draw(st.sampled_from([SH, ShipmentNo("SHR-0002")]))
        number = OrderNo(data.draw(st.sampled_from(["SO-1", "SO-2"])))
        line, many = data.draw(st.integers(1, 3)), data.draw(st.integers(1, 30))
        act = data.draw(st.sampled_from([
            acts.PackInto(BinCode("PACK-1"), number, line, many, other), acts.PackRest(shipment, BinCode("PACK-2"), None, other),
            acts.TakeOut(plate, number, line, many, other), acts.CloseCarton(plate, CLOSED["L"]), acts.ReopenCarton(plate), acts.BeginCarton(shipment, BinCode("PACK-1")),
            acts.StageGoods(shipment, BinCode("STG-05"), (plate,)), acts.StackPlates((plate,), other), acts.LoadGoods(shipment, BinCode("DOOR-3")),
            acts.ShipShipment(shipment, None, data.draw(st.booleans())), acts.ReverseShipment(shipment, "wrong truck"), acts.Wait(60), acts.PackAsIs(plate),
            acts.PackShort(number, "wet through"), acts.TakeOffTruck(plate), acts.PackRest(shipment, BinCode("PACK-1")), acts.CloseCarton(plate, CLOSED["L"]),
        ]))  # fmt: skip
        play.do(act)
        sound(play)


def test_cartons_are_put_onto_pallets_by_scan_and_moved_between_them(rulebook: Rulebook) -> None:
    """A carton scanned, then a new label: a pallet begins where the carton stands; another joins it from its bench; both go onto another pallet, and the
    first, empty, drops out. A carton is no pallet, nothing stands on itself, and pallets of two shipments stay apart."""
    book = by(steps(rulebook, Station.PACK, Station.STAGE, Station.LOAD))
    play = picked(
        book, order("SO-1", ("SHK-08", 12), ("CLT-15", 3), carrier=None), order("SO-2", ("SHK-10", 4), carrier=None, partner="C-510")
    )  # fmt: skip
    for shipment, line, much in ((SH, 1, 12), (SH, 2, 3), (ShipmentNo("SHR-0002"), 1, 4)):
        of = OrderNo("SO-2" if shipment != SH else "SO-1")
        play.do(acts.PackInto(BinCode("PACK-1"), of, line, much)).done()
        play.do(acts.CloseCarton(play.state.cartons.of(shipment)[-1].number, CLOSED["S"])).done()
    a, b = (c.number for c in play.state.cartons.of(SH))
    (other,) = (c.number for c in play.state.cartons.of(ShipmentNo("SHR-0002")))
    play.opens("F-STAGE").scan(a).asks("lane").scan("STG-04").done()
    play.scan(a).scan(b).refused("no_pallet", "is a carton")
    play.scan("LPR-900061").done("on `LPR-900061` in `STG-04`")
    play.scan(b).asks("lane").scan("LPR-900061").done("in `STG-04`")
    assert top_of(play.state, a) == top_of(play.state, b) == "LPR-900061"
    play.scan(other).scan("LPR-900061").refused("other_shipment")
    play.press("back")
    play.scan(a).scan("LPR-900062").done().scan(b).scan("LPR-900062").done("`LPR-900061` is empty and drops out")
    assert not play.state.has_plate(PlateNo("LPR-900061"))
    play.scan(b).scan("LPR-900062").refused("same_plate")
    sound(play)
    play.do(acts.LoadGoods(SH, BinCode("DOOR-3"))).done()
    play.do(acts.ShipShipment(SH)).done("is shipped")
    sound(play)


def test_the_loading_list_knows_loose_goods_on_the_truck(rulebook: Rulebook) -> None:
    """What goes without a carton is open on the list until it is loaded."""
    book = by(steps(rulebook, Station.LOAD))
    play = picked(book, order("SO-1", ("SHK-08", 6), carrier=None))
    assert papers(play.state, book, SH, Paper.LOADING_LIST).loaded == ()
    play.do(acts.LoadGoods(SH, BinCode("DOOR-3"))).done("is loaded")
    assert papers(play.state, book, SH, Paper.LOADING_LIST).loaded == ("SO-1",)


def two_cartons(book: Rulebook) -> Play:
    """One order with two lines; of the first some is in each of two cartons."""
    play = picked(book, order("SO-1", ("SHK-08", 12), ("CLT-15", 3), carrier=None))
    for line, much in ((1, 8), (1, 4), (2, 3)):
        play.do(acts.PackInto(BinCode("PACK-1"), OrderNo("SO-1"), line, much)).done()
        if (line, much) != (1, 4):
            play.do(acts.CloseCarton(play.state.cartons.of(SH)[-1].number, CLOSED["S"])).done()
    return play


def test_a_packing_list_has_the_columns_and_texts_that_were_chosen(rulebook: Rulebook) -> None:
    """Carton by carton as is usual; line by line, what is in two cartons is added up and both are named; for a group alone; the site's own first."""
    book = by(steps(rulebook, Station.PACK))
    play = two_cartons(book)
    first, second = (c.number for c in play.state.cartons.of(SH))
    partner = play.state.ground.partners[play.state.order(OrderNo("SO-1")).partner]  # type: ignore[union-attr]

    def page(*forms: PaperForm) -> PaperPage:
        made = replace(book, paper_forms=forms)
        found = papers(play.state, made, SH, Paper.PACKING_LIST)
        form = made.form_for(play.state.settings.site, Paper.PACKING_LIST, found.group)
        (only,) = pages(play.state.ground, found, Paper.PACKING_LIST, form)
        return only

    usual = page()
    assert [t.title.split()[-1] for t in usual.tables] == [first, second]
    assert usual.tables[0].heads == ("Line", "Item", "", "How many") and usual.beneath == ()
    mine = PaperForm(
        PaperFormId("PF-1"), columns=(Column.ITEM, Column.PIECES, Column.CARTON, Column.WEIGHT), along=Along.LINE, beneath="Count it.",
        partner_groups=(partner.group,),
    )  # fmt: skip
    (table,) = page(mine).tables
    assert table.heads == ("Item", "Units", "In", "Weight") and page(mine).beneath[-1] == "Count it."
    assert [r[:3] for r in table.rows] == [("SHK-08", "12", f"{first}\n{second}"), ("CLT-15", "3", second)]
    (by_item,) = page(replace(mine, along=Along.ITEM)).tables
    assert [r[0] for r in by_item.rows] == ["CLT-15", "SHK-08"]
    other = replace(mine, partner_groups=("Nobody",))
    assert page(other) == usual and page(replace(mine, on=False)) == usual
    general = PaperForm(PaperFormId("all-PF-1"), above="From all sites")
    own = replace(general, id=PaperFormId("PF-2"), above="From here", site=play.state.settings.site)
    assert page(general, own).above == "From here"
    found = papers_of(
        play.state,
        replace(book, paper_forms=(other, general)),
        order("SO-9", ("SHK-08", 12), carrier=None),
        Paper.PACKING_LIST,
    )
    assert found.form == 2 and found.pages[0].above == "From all sites"
    assert [r[3] for t in found.pages[0].tables for r in t.rows] == ["12 pieces"]


def test_numbers_are_never_more_than_a_row_holds_and_a_form_that_cannot_be_is_found() -> None:
    """A hundred numbers stand in two rows; a column the paper has not, too many of them, a text too long, one that is never reached."""
    item = GROUND.items[ItemCode("PLOT-12")]
    many = content_of(item, LineKey(OrderNo("SO-1"), 1), (Goods(item.code, 100),), tuple(f"N{n}" for n in range(100)))
    part = OrderPart(OrderNo("SO-1"), "Yard", (), (), (many,), ())
    found = Papers(SH, "HQ", "Yard", (), "", "", None, datetime(2026, 3, 2, tzinfo=UTC), None, (part,), (), (many,), (), "")  # fmt: skip
    (page,) = pages(GROUND, found, Paper.PACKING_LIST, PaperForm(PaperFormId("PF-1")))
    assert [len(r[2].split(", ")) for r in page.tables[0].rows] == [60, 40] and page.tables[0].rows[1][0] == ""
    bad = (
        PaperForm(PaperFormId("PF-1"), columns=(Column.LOADED,)),
        PaperForm(PaperFormId("PF-2"), columns=tuple(Column)[:9], above="x" * 401, partner_groups=("Nobody",)),
    )  # fmt: skip
    book = Rulebook("Only papers", paper_forms=bad)
    codes = [f.code for f in of_papers.papers(book, GROUND, SiteCode("HQ"))]
    assert codes == ["no_such_column", "never_reached", "nobody", "too_many_columns", "too_long"]


def test_each_kind_of_goods_in_a_carton_has_its_label(rulebook: Rulebook) -> None:
    """A rule prints what is in a carton as it is closed: a label for each kind, with how many as the trade's own elements."""
    rule = LabelRule(LabelRuleId("LR-1"), Prints.CONTENT, When.CLOSED)
    book = replace(by(steps(rulebook, Station.PACK)), label_rules=(rule,))
    play = two_cartons(book)
    labels = [x for p in reversed(list(play.state.prints.latest())) for x in p.labels]
    assert [(x.code, x.lines[1]) for x in labels] == [
        ("SHK-08", "8 pieces"),
        ("CLT-15", "3 pieces"),
        ("SHK-08", "4 pieces"),
    ]
    gtin = bar("SHK-08").zfill(14)
    assert labels[0].elements == (("02", gtin), ("37", "8")) and labels[0].lines[-1].startswith("in ")
