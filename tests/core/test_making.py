"""What a command makes is folded as it is made, and seen by the rest of the command; at the end nothing of it is left."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace
from datetime import timedelta

import pytest

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Series
from mindful_crate.core.catalog.ids import (
    BinCode,
    CrewId,
    ItemCode,
    MessageNo,
    PersonId,
    PlateKindCode,
    PlateNo,
    ReservationNo,
    TaskNo,
)
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.reservations import Reserved
from mindful_crate.core.placing.choose import choose
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.plain import canonical
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.bin_rules import BinPurpose
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.work.tasks.doing import make
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.acts import FinishPlate
from mindful_crate.core.world.decide import decide
from mindful_crate.core.world.invariants import broken
from tests.playbook import Play, barcode, from_snapshot, making_of, new_world


def test_fifty_tasks_of_one_command_share_the_bins(ground: Ground, rulebook: Rulebook) -> None:
    """Each is asked for after those before it, so no bin is filled twice and no number drawn twice."""
    world = new_world(ground, rulebook)
    before = canonical(world.state.kept())
    rules = rulebook.rules_for(world.state.settings.site, BinPurpose.PUT_AWAY)
    with world.state.tentatively():
        making = making_of(world)
        goods, pallet, lane = (Goods(ItemCode("ROPE-12"), 2_000),), PlateKindCode("PAL"), BinCode("RCV-01")
        chosen: list[BinCode] = []
        for _ in range(50):
            plate, site = PlateNo(making.draw("plate")), world.state.settings.site
            making.event(ev.PlateStarted(plate, pallet, lane, PersonId("ines")))
            request = BinRequest(site, BinPurpose.PUT_AWAY, goods, pallet, plate, today=world.state.clock.date())
            trail = choose(request, rules, world.state)
            number = TaskNo(making.draw("task"))
            make(making, number, Need.PUT_AWAY, CrewId("quay"), lane, trail.bin, trail.rule, plate=plate)
            chosen += [trail.bin] if trail.bin else []
        tasks = [e.task for e in making.events if isinstance(e, ev.WorkMade)]
        assert len(set(tasks)) == 50 and len(set(chosen)) > 10
        for code in set(chosen):
            most = ground.bin_types[ground.bins[code].bin_type].max_plates
            assert most is None or world.state.held(code).plates <= most
    assert canonical(world.state.kept()) == before and broken(world.state) == []


def test_twenty_reservations_of_one_command_promise_nothing_twice(ground: Ground, rulebook: Rulebook) -> None:
    """Until nothing is free any more; then the trail says what is short."""
    world = new_world(ground, rulebook)
    state, item = world.state, ItemCode("SHK-06")
    site = state.settings.site
    with state.tentatively():
        making = making_of(world)
        kept: Counter[tuple[str, str]] = Counter()
        each = sum(x.goods.quantity for x in state.lines(item)) // 15
        short = 0
        for _ in range(20):
            request = BinRequest(site, BinPurpose.PICK_FROM, (Goods(item, each),), today=state.clock.date())
            trail = choose(request, rulebook.rules_for(site, BinPurpose.PICK_FROM), state)
            short += trail.rest
            parts = tuple(Reserved(a.bin, a.goods, a.plate) for a in trail.allocations if a.goods)
            if parts:
                making.event(ev.StockReserved(ReservationNo(making.draw("reservation")), "SO-1", item, parts))
            for part in parts:
                kept[part.bin, part.plate or ""] += part.goods.quantity
        lying = Counter({(x.bin, x.plate or ""): 0 for x in state.lines(item)})
        for line in state.lines(item):
            lying[line.bin, line.plate or ""] += line.goods.quantity
        assert kept and short and all(kept[place] <= lying[place] for place in kept)
        assert broken(state) == []
    assert not state.has_reservations(item)


def test_two_messages_of_one_command_have_an_order(ground: Ground, rulebook: Rulebook) -> None:
    """Two numbers; the second waits for the first."""
    world = new_world(ground, rulebook)
    state, at = world.state, world.state.clock
    with state.tentatively():
        making = making_of(world)
        numbers = [MessageNo(making.draw("message")) for _ in range(2)]
        for n, number in enumerate(numbers):
            making.event(ev.MessageSent(number, "announce", "PO-1007", at - timedelta(seconds=n)))
        assert [m.number for m in state.messages_about("PO-1007")] == numbers
        assert len(set(numbers)) == 2 and state.first_open("PO-1007") == numbers[0]
        assert (due := state.due(at)) and due.number == numbers[0]
    assert not state.messages and state.due(at) is None


def test_what_is_refused_within_a_command_is_taken_back(ground: Ground, rulebook: Rulebook) -> None:
    """Events, folds and numbers of the part that was refused, not those before it."""
    world = new_world(ground, rulebook)
    with world.state.tentatively():
        making = making_of(world)
        making.event(ev.BinBlocked(BinCode("B-02-01-1"), "wet"))
        with pytest.raises(Refusal), making.unless_refused():
            making.draw("task")
            making.event(ev.BinBlocked(BinCode("B-02-01-1"), ""))
            raise Refusal("no", "No.")
        assert world.state.blocked(BinCode("B-02-01-1")) == "wet" and len(making.events) == 1
        assert "task" not in world.state.next_numbers
    assert world.state.blocked(BinCode("B-02-01-1")) is None


def test_a_refused_command_leaves_nothing_although_most_of_it_was_made(ground: Ground, rulebook: Rulebook) -> None:
    """The last number that is needed is not there: what was folded before it is taken back."""
    numbers = tuple(s if s.document != "task" else Series("task", "T-", "TR-", 4, 10, 9) for s in ground.opening.series)
    full = Ground(replace(ground.opening, series=numbers))
    play = Play(new_world(full, rulebook)).confirm("PO-1007").opens("F-RECEIVE").scan("PO-1007")
    play.scan(barcode(full, "ROPE-12", "coil")).type("10")
    before = canonical(play.state.kept())
    entry = decide(play.state, rulebook, replace(play.last.command, act=FinishPlate("LPR-000417")))  # type: ignore[union-attr,arg-type]
    assert isinstance(entry.outcome, ev.Refused) and entry.outcome.problem.code == "series_full"
    assert canonical(play.state.kept()) == before and broken(play.state) == []
    assert [*play.state.stock()] == [*replace_state(play)]


def replace_state(play: Play) -> list[object]:
    """The stock of a state made from this one's snapshot."""
    return [*from_snapshot(play.state).stock()]
