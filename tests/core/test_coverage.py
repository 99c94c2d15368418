"""What runs have tried of a rulebook: each place is one that there is, and what nobody tried is named."""

from __future__ import annotations

from dataclasses import replace

import pytest

from mindful_crate.core.catalog.ids import OrderNo, RuleId, SiteCode
from mindful_crate.core.proving.coverage import TITLES, WATCHED, Covered, coverage, tried
from mindful_crate.core.rulebook.layers import LISTS
from mindful_crate.core.world import acts
from mindful_crate.demo.loader import demo_rehearsals
from tests.core.test_covering import BOOK, GROUND
from tests.core.test_rehearse import ran
from tests.playbook import Play, new_world

HQ = SiteCode("HQ")
SCRIPTS = {s.id: s for s in demo_rehearsals()}


def of(title: str, found: list[Covered]) -> Covered:
    return next(c for c in found if c.title == title)


def test_every_list_is_watched_or_said_not_to_be() -> None:
    """A list of the rulebook that is added later is missed here."""
    assert set(LISTS) - set(WATCHED) == {"paper_forms"} and set(WATCHED) <= set(TITLES)


@pytest.mark.parametrize(
    "name", ["rope-by-the-pallet", "outside-and-held", "put-right-on-the-floor", "where-it-stands-on-its-way-out"]
)
def test_what_a_run_has_tried_is_there_and_is_what_it_did(name: str) -> None:
    """Its flows are those it opened; a rule is tried when it chose, not when it was asked."""
    script = SCRIPTS[name]
    result, world = ran(script, GROUND, BOOK)
    every = {u.link for c in coverage(BOOK, GROUND, HQ, ()) for u in c.untried}
    assert {p for p in result.tried if p.startswith("flows/")} == {
        f"flows/{e.command.act.flow}" for e in world.log if isinstance(e.command.act, acts.OpenFlow)
    }
    before, after = coverage(BOOK, GROUND, HQ, ()), coverage(BOOK, GROUND, HQ, result.tried)
    assert [c.total for c in before] == [c.total for c in after] and all(c.tried == 0 for c in before)
    assert sum(c.tried for c in after) == len(set(result.tried)) and every
    chosen = {str(a.rule) for e in world.log for t in getattr(e.outcome, "trails", ()) for a in t.allocations}
    rules = {p.rpartition("/")[2] for p in result.tried if p.startswith("bin_rules/")}
    known = {str(r.id) for lst in BOOK.bin_rules for r in lst.rules}
    assert rules >= chosen & known and rules <= known


def test_a_rule_that_refuses_and_one_that_lets_leave_as_it_is_were_tried() -> None:
    """What is never accepted back leaves nothing but the refusal, which names the rule; a tote that leaves as it is packs nothing."""
    assert "return_rules/RA-1" in ran(SCRIPTS["never-taken-back"], GROUND, BOOK)[0].tried
    assert "pack_rules/PK-2" in ran(SCRIPTS["a-tote-leaves-as-it-is"], GROUND, BOOK)[0].tried


def test_what_did_nothing_is_not_tried_and_what_is_off_is_not_asked_for() -> None:
    """An empty run has tried nothing; a gate is tried by a release that it judges; a rule that is switched off is no hole."""
    play = Play(new_world(GROUND, BOOK))
    assert tried(play.world) == frozenset()
    play.do(acts.ConfirmOrder(OrderNo("SO-2060"))).done().do(acts.Wait(60)).done()
    assert not any(p.startswith("gates/") for p in tried(play.world))
    play.do(acts.ReleaseOrders((OrderNo("SO-2060"),)))
    assert any(p.startswith("gates/") for p in tried(play.world))
    first = BOOK.bin_rules[0]
    off = replace(
        first, rules=(replace(first.rules[0], on=False), *first.rules[1:], replace(first.rules[0], id=RuleId("BR-900")))
    )
    book = replace(BOOK, bin_rules=(off, *BOOK.bin_rules[1:]))
    mine, before = of("Bin rules", coverage(book, GROUND, HQ, ())), of("Bin rules", coverage(BOOK, GROUND, HQ, ()))
    assert mine.total == before.total
    assert any(u.link == "bin-rules/BR-900" for u in mine.untried)
