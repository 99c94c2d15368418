"""The rounds of a wave: every task walked once, by one picker, shared as evenly as the longest allow; where pickers meet."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import pytest

from mindful_crate.core.catalog.ids import BinCode, PersonId, WaveNo
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.wave_bench import Wave, sorted_out, wave_of
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.waves import Method
from mindful_crate.core.walking.distance import tours_of
from mindful_crate.core.work.picking.rounds import rounds_at_work, rounds_of
from mindful_crate.core.world import acts
from tests.core.test_shipping import steps
from tests.core.test_waves import order, released, tasks
from tests.playbook import new_world


@pytest.mark.parametrize("method", [Method.ORDER, Method.CLUSTER, Method.BATCH])
@pytest.mark.parametrize("pickers", [1, 3, 9])
def test_every_task_is_walked_by_one_picker(ground: Ground, rulebook: Rulebook, method: Method, pickers: int) -> None:
    """Each round once; metres add up, as far as the walk drawn on the map; nobody of a crew is given what would be shorter with another."""
    world = new_world(ground, rulebook)
    state, stamp = world.state, world.stamp("x", PersonId("ines"))
    plan = replace(rulebook.wave_plans[0], method=method, pickers=pickers, totes=4, cart_lines=6)
    orders = [g.order for g in sorted_out(state, rulebook, stamp)][:30]
    made: Wave = wave_of(state, rulebook, plan, orders, stamp)
    found = rounds_of(state, made.picking.tasks, pickers)
    tours = tours_of(state.ground, state.settings.site)
    by_no = {r.no: r for r in found.rounds}
    assert len(by_no) > 5 and not found.unwalked and len(by_no) == len(made.picking.tasks)
    assert sorted(no for p in found.pickers for no in p.rounds) == sorted(by_no)
    assert all(p.mm == sum(by_no[no].mm for no in p.rounds) for p in found.pickers)
    assert all(by_no[no].crew == p.crew for p in found.pickers for no in p.rounds)
    walks = [p.crew for p in found.pickers]
    assert walks.count(walks[0]) == pickers and all(walks.count(c) == 1 for c in set(walks) - {walks[0]})
    for each in found.rounds:
        corners = each.spots
        assert corners[0] == corners[-1] and {*each.bins} == {k.bin for k in made.picking.tasks[each.no - 1].kept}
        drawn = sum(abs(a[0] - b[0]) + abs(a[1] - b[1]) for a, b in pairwise(corners))
        assert drawn <= each.mm == tours.length([tours.network.number(c) or 0 for c in (found.start or "", *each.bins)])
    first = [p for p in found.pickers if p.crew == walks[0]]
    longest, least = max(first, key=lambda p: p.mm), min(first, key=lambda p: p.mm)
    assert all(least.mm + by_no[no].mm >= longest.mm for no in longest.rounds) or longest is least
    assert found.over_even_permille == -(-1000 * longest.mm * pickers // sum(p.mm for p in first)) - 1000
    for meeting in found.meetings:
        assert len(meeting.pickers) > 1
        for n in meeting.pickers:
            bins = [ground.bins[b] for no in found.pickers[n - 1].rounds for b in by_no[no].bins]
            assert any((ground.zones[b.zone].name, b.aisle) == (meeting.zone, meeting.aisle) for b in bins)
    assert bool(found.meetings) == (len(found.pickers) > 1)


def test_what_is_left_of_a_wave_at_work_is_walked_by_whoever_took_it(rulebook: Rulebook) -> None:
    """Tasks nobody has taken are a row of their crew, without meetings; one that is taken is its picker's, with what is left of it; what is done is none."""
    play = released(steps(rulebook), order("SO-1", ("SHK-08", 6), ("CLT-15", 3), ("FLT-F", 5)))
    (wave,) = play.state.waves.values()
    first, other = sorted(tasks(play), key=lambda t: t.crew or "", reverse=True)
    found = rounds_at_work(play.state, wave.number)
    assert {r.task for r in found.rounds} == {first.number, other.number} and not found.meetings and not found.unwalked
    assert [p.person for p in found.pickers] == [None] * len(found.pickers)
    assert all(p.mm == sum(r.mm for r in found.rounds if r.no in p.rounds) > 0 for p in found.pickers)
    play.opens("F-PICK").scan(other.number).done()
    now = rounds_at_work(play.state, wave.number)
    assert now.pickers[0].person == play.person and [p.person for p in now.pickers[1:]] == [None]
    assert {r.task for r in now.rounds} == {first.number, other.number}
    play.do(acts.PickInOffice(first.number, "by paper", None if first.to_bin else BinCode("STG-01"))).done()
    assert first.number not in {r.task for r in rounds_at_work(play.state, wave.number).rounds}
    with pytest.raises(Refusal, match="no wave"):
        rounds_at_work(play.state, WaveNo("WR-9999"))
