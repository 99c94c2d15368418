"""What other rules leave as it is on a floor, and a plan whose goods go nowhere."""

from __future__ import annotations

from dataclasses import replace

from mindful_crate.core.catalog.ids import CrewId, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.proving.findings.whole import findings
from mindful_crate.core.proving.taking_over import left_as_it_is
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import FlowPurpose
from mindful_crate.core.rulebook.steps import PutAwayStep
from tests.playbook import Play, barcode, new_world

HQ = SiteCode("HQ")


def with_a_task(ground: Ground, rulebook: Rulebook) -> Play:
    """A plate was received and finished; its task waits."""
    play = Play(new_world(ground, rulebook)).opens("F-RECEIVE").scan("PO-1001")
    play.scan(barcode(ground, "SHK-08", "box")).type("1").press("finish")
    assert [t.crew for t in play.state.tasks.values()] == [CrewId("quay")]
    return play.press("leave")


def test_put_away_switched_off_with_a_task_open(ground: Ground, rulebook: Rulebook) -> None:
    """The old task stays open, new plates stay where they are received: both are said, and the plan is a finding."""
    play = with_a_task(ground, rulebook)
    assert left_as_it_is(play.state, rulebook) == []
    off = replace(rulebook, step_plans=(replace(rulebook.step_plans[0], put_away=PutAwayStep(False)),))
    (said,) = left_as_it_is(play.state, off)
    assert said.startswith("1 task to put away stays open") and "`RCV-01`" in said
    found = [f for f in findings(off, ground, HQ) if f.code == "stays_in_receiving"]
    assert [(f.place, f.witness) for f in found] == [("step_plans/SP-1/put_away/on", "RCV-01")]


def test_tasks_that_nobody_could_do_and_flows_that_are_gone(ground: Ground, rulebook: Rulebook) -> None:
    """A task for a crew without a flow that does it; a handset in a flow that is no more."""
    play = with_a_task(ground, rulebook).opens("F-RECEIVE")
    doing = {f.id for f in rulebook.flows if f.purpose is FlowPurpose.PUT_AWAY}
    menus = tuple(replace(m, flows=tuple(f for f in m.flows if f not in doing)) for m in rulebook.menus)
    gone = replace(rulebook, menus=menus, flows=tuple(f for f in rulebook.flows if f.id != "F-RECEIVE"))
    tasks, handset = left_as_it_is(play.state, gone)
    assert tasks.startswith("1 task waits for Quay crew, and no flow") and handset.startswith(
        "`H1` is in a flow that is gone"
    )
