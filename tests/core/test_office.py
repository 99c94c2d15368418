"""Steps done in the office: the same decisions and the same events as on the floor, with a reason where the floor must scan."""

from __future__ import annotations

from dataclasses import replace
from datetime import date
from typing import Any

from mindful_crate.core.catalog.ids import BinCode, ItemCode, OrderNo, PlateKindCode, PlateNo, SiteCode, TaskNo
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.state import Settings
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Check
from mindful_crate.core.rulebook.starter import starter
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.invariants import broken
from mindful_crate.core.world.world import World
from tests.playbook import STARTS, Play, barcode, new_world

PALLET = PlateKindCode("PAL")


def lines(*said: tuple[str, int]) -> tuple[acts.OfficeLine, ...]:
    return tuple(acts.OfficeLine(ItemCode(item), quantity) for item, quantity in said)


def receives(order: str, *said: tuple[str, int], **more: Any) -> acts.ReceiveInOffice:
    return acts.ReceiveInOffice(OrderNo(order), lines(*said), **{"plate_kind": PALLET, "why": "scanner broken", **more})


def events(entry: ev.Entry | None) -> list[ev.Event]:
    assert entry and isinstance(entry.outcome, ev.Done), entry and entry.says
    return list(entry.outcome.events)


def office(ground: Ground, book: Rulebook) -> Play:
    """Anouk in the office, in no crew that receives here."""
    return Play(new_world(ground, book), "anouk", "DESK", ())


def test_both_ways_of_receiving_give_the_same(ground: Ground, rulebook: Rulebook) -> None:
    """What the office receives in one act is what hands receive scan by scan: the same plate, receipt, message and task."""
    hands = Play(new_world(ground, rulebook)).opens("F-RECEIVE").scan("PO-1005")
    hands.scan(barcode(ground, "ANC-10", "pc")).type("5").scan(barcode(ground, "ANC-16", "pc")).type("3").press(
        "finish"
    )
    desk = office(ground, rulebook).do(receives("PO-1005", ("ANC-10", 5), ("ANC-16", 3))).done("Put-away task")
    handled = {"dialogue_opened", "dialogue_moved", "scanned"}

    def made(play: Play) -> list[str]:
        every = [e for entry in play.world.log for e in events(entry) if e.kind not in handled]
        return [e.kind for e in every if getattr(e, "series", "") != "dialogue"]

    by_hand, by_desk = made(hands), made(desk)
    assert sorted(by_hand) == sorted(by_desk) and broken(desk.state) == []
    plate = next(iter(desk.state.tasks.values())).plate
    assert plate == next(iter(hands.state.tasks.values())).plate
    assert desk.state.plate(plate).goods == hands.state.plate(plate).goods


def test_the_office_says_why_where_the_floor_must_scan(ground: Ground, rulebook: Rulebook) -> None:
    """With a demanded scan on the menu no step is done without a reason; where nothing must be scanned none is asked."""

    def checking(check: Check) -> Play:
        flows = (replace(f, prompts=tuple(replace(p, check=check) for p in f.prompts)) for f in rulebook.flows)
        return office(ground, replace(rulebook, flows=tuple(flows)))

    strict = checking(Check.SCAN)
    strict.do(receives("PO-1005", ("ANC-10", 5), why="")).refused("no_reason", "the item", "must be scanned")
    strict.do(receives("PO-1005", ("ANC-10", 5), why="x" * 121)).refused("no_reason")
    strict.do(receives("PO-1005", ("ANC-10", 5), why="screen broken")).done()
    task = next(iter(strict.state.tasks.values())).number
    strict.do(acts.PutAwayInOffice(task)).refused("no_reason", "the bin", "must be scanned")
    strict.do(acts.PutAwayInOffice(task, None, "screen broken")).done("stands in")
    believing = checking(Check.BELIEVE).do(receives("PO-1005", ("ANC-10", 5), why="")).done()
    believing.do(acts.PutAwayInOffice(next(iter(believing.state.tasks.values())).number)).done("stands in")


def test_what_cannot_be_received_is_refused_whole(ground: Ground, rulebook: Rulebook) -> None:
    """The second line is too much: nothing of the first is kept. Labels in use, unknown items and empty forms are said."""
    play = office(ground, rulebook)
    play.do(receives("PO-1005", ("ANC-10", 5), ("ANC-16", 900))).refused("more_than_ordered")
    assert not list(play.state.tasks.values()) and not play.state.building()
    play.do(receives("PO-1005")).refused("nothing_received")
    play.do(receives("PO-1005", ("NIX", 1))).refused("unknown_item", "NIX")
    play.do(receives("PO-1005", ("ANC-10", 5), plate=PlateNo("LP-000064"))).refused("plate_known")
    play.do(receives("PO-1007", ("ROPE-12", 200))).refused("not_confirmed")
    play.do(receives("PO-1005", ("ANC-10", 5), plate_kind=PlateKindCode("NIX"))).refused("no_plate_kind")
    play.do(receives("PO-1002", ("AF-RED-25", 4))).refused("lot_missing")
    line = acts.OfficeLine(ItemCode("AF-RED-25"), 4, "L2603X", date(2028, 5, 1))
    play.do(acts.ReceiveInOffice(OrderNo("PO-1002"), (line,), PALLET, None, "paper only")).done("Put-away task")


def test_noted_in_the_office_and_finished_by_hand(ground: Ground, rulebook: Rulebook) -> None:
    """Not finished it is no stock; it stands among the plates being built, and hands go on with it."""
    play = office(ground, rulebook).do(receives("PO-1005", ("ANC-10", 5), finish=False)).done("noted and not stock")
    (plate,) = play.state.building()
    oren = Play(play.world).opens("F-RECEIVE").scan("PO-1005").scan(plate.number)
    oren.scan(barcode(ground, "ANC-10", "pc")).type("2").press("finish").done("7")


def test_a_task_is_done_in_the_office_but_not_out_of_hands(ground: Ground, rulebook: Rulebook) -> None:
    """Where it was shown to go, or elsewhere if it fits; what somebody carries is theirs, by name; a door is no storage."""
    play = office(ground, rulebook).do(receives("PO-1005", ("ANC-10", 5))).do(receives("PO-1005", ("ANC-10", 7)))
    first, second = (t.number for t in play.state.tasks.values())
    oren = Play(play.world).opens("F-PUTAWAY").scan(play.state.tasks[first].plate or "")
    play.do(acts.PutAwayInOffice(first, None, "found there")).refused("task_taken", "@oren carries")
    play.do(acts.PutAwayInOffice(second, BinCode("DOOR-1"), "found there")).refused("no_storage")
    play.do(acts.PutAwayInOffice(TaskNo("T-9"), None, "found there")).refused("unknown_task")
    play.do(acts.PutAwayInOffice(second, None, "found there")).done("stands in")
    play.do(acts.PutAwayInOffice(second, None, "found there")).refused("task_done")
    oren.scan(play.state.tasks[first].to_bin).done()
    assert not list(play.state.tasks.values()) and broken(play.state) == []
    assert play.state.settings.site == SiteCode("HQ")


def test_loose_goods_are_received_and_put_away(ground: Ground) -> None:
    """At a site without plates: each kind becomes a task of its own, placed where it was shown to go; a plate is refused."""
    site = SiteCode("GL")
    world = World(ground, Settings(site, STARTS), starter("First", ground, site), lambda at: at.date())
    play = Play(world, "anouk", "DESK", ())
    order = next(o for o in ground.orders.values() if o.site == site and o.inbound and o.confirmed and len(o.lines) > 1)
    some = [(x.item, x.quantity) for x in order.lines[:2]]
    play.do(receives(order.number, *some)).refused("takes_no_plate", "receive the goods loose")
    play.do(receives(order.number, *some, plate_kind=None)).done()
    tasks = [t.number for t in play.state.tasks.values()]
    assert len(tasks) >= 2
    for number in tasks:
        play.do(acts.PutAwayInOffice(number, None, "paper only")).done("placed in")
    assert not list(play.state.tasks.values()) and broken(play.state) == []
