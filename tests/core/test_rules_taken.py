"""Rules put in force on a live floor: decided by from the next entry on, taken by handsets at their next question."""

from __future__ import annotations

from dataclasses import replace

from mindful_crate.core.catalog.ids import DeviceId, FlowId, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.state import Settings, State, WorldKind
from mindful_crate.core.proving.findings.whole import findings
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.settings import SettingsLayer, Sync
from mindful_crate.core.scanning.reading import Scan
from mindful_crate.core.world import acts
from mindful_crate.core.world.fold import apply
from mindful_crate.core.world.invariants import broken
from mindful_crate.core.world.world import World
from tests.playbook import STARTS, Play, from_snapshot, new_world


def floor(ground: Ground, rulebook: Rulebook) -> Play:
    return Play(World(ground, Settings(SiteCode("HQ"), STARTS, WorldKind.LIVE), rulebook, lambda at: at.date()))


def test_a_handset_takes_other_rules_at_its_next_question(ground: Ground, rulebook: Rulebook) -> None:
    """An answer to the question of before is refused, the same to the new one counts; folded and loaded alike."""
    play = floor(ground, rulebook).opens("F-RECEIVE").asks("order")
    (dialogue,) = play.state.dialogues.values()
    other = replace(rulebook, flows=tuple(replace(f, name=f"{f.name} anew") for f in rulebook.flows))
    play.do(acts.TakeRules("hash-2", 2)).done("Revision 2 is in force here", "1 handset takes it at its next question")
    play.world.rulebook = other
    assert play.state.rules == "hash-2" and not play.state.dialogues[dialogue.number].rules
    old = acts.Answer(dialogue.number, Scan("PO-1001"), dialogue.step)
    play.do(old).refused("stale_step", "Look at the new one")
    play.scan("PO-1001").done().asks("item")
    assert play.state.dialogues[dialogue.number].rules == "hash-2"
    play.do(acts.TakeRules("hash-2", 2)).refused("rules_held")
    folded = State(ground, play.state.settings)
    for entry in play.world.log:
        apply(folded, entry)
    for state in (folded, from_snapshot(play.state)):
        assert state.kept() == play.state.kept() and state.rules == "hash-2" and broken(state) == []


def test_a_flow_that_is_no_more_can_be_left(ground: Ground, rulebook: Rulebook) -> None:
    """Its question says so; what was noted stays, and another flow can be opened."""
    play = floor(ground, rulebook).opens("F-RECEIVE").scan("PO-1001")
    (dialogue,) = play.state.dialogues.values()
    play.do(acts.TakeRules("hash-2", 2))
    play.world.rulebook = replace(rulebook, flows=tuple(f for f in rulebook.flows if f.id != "F-RECEIVE"))
    play.do(acts.Answer(dialogue.number, Scan("X"))).refused("unknown_flow", "Leave it")
    play.do(acts.LeaveFlow(dialogue.number)).done("no more")
    play.opens("F-PUTAWAY").done()


def test_only_a_live_floor_takes_rules(ground: Ground, rulebook: Rulebook) -> None:
    """A rehearsal goes on under others by going on from an entry."""
    Play(new_world(ground, rulebook)).do(acts.TakeRules("hash-2", 2)).refused("not_live", "from any entry")


def test_a_handset_that_takes_rules_later_asks_the_old_questions_of_the_new_floor(
    ground: Ground, rulebook: Rulebook
) -> None:
    """Its flow goes on under the hand, old answers count, and what is decided is decided by what is in force; at its menu it takes
    the new rules when it is told to, not in the middle of a flow. Folded and loaded alike."""
    play = floor(ground, rulebook).opens("F-RECEIVE").asks("order")
    assert play.state.devices[DeviceId("H1")].rules == ""
    renamed = tuple(replace(f, name=f"{f.name} anew") for f in rulebook.flows)
    hourly = (SettingsLayer("general", sync=Sync.EVERY_60),)
    other = replace(rulebook, flows=renamed, settings=hourly, step_plans=())
    says = "Handsets show its menus and flows after 60 minutes, at the menu"
    play.do(acts.TakeRules("hash-2", 2, Sync.EVERY_60)).done(says)
    play.world.rulebook = other.shown_by(rulebook)
    play.asks("order").scan("PO-1001").refused("no_plan")
    play.do(acts.SyncHandset()).refused("flow_open", "Leave the flow first").press("leave").done()
    assert play.state.devices[DeviceId("H1")].rules == "" and play.state.given_to(DeviceId("H2")) == "hash-2"
    assert play.world.rulebook.flow(FlowId("F-RECEIVE")).name == "Receive to a pallet"  # type: ignore[union-attr]
    play.do(acts.SyncHandset()).done("in force")
    assert play.state.devices[DeviceId("H1")].rules == "hash-2"
    folded = State(ground, play.state.settings)
    for entry in play.world.log:
        apply(folded, entry)
    for state in (folded, from_snapshot(play.state)):
        assert state.kept() == play.state.kept() and broken(state) == []
    Play(new_world(ground, rulebook)).do(acts.SyncHandset()).refused("not_live")


def test_never_to_take_rules_is_a_finding(ground: Ground, rulebook: Rulebook) -> None:
    """At the layer that says so; any other interval is none."""
    for sync in Sync:
        book = replace(rulebook, settings=(SettingsLayer("HQ", SiteCode("HQ"), sync=sync),))
        found = [f.place for f in findings(book, ground, SiteCode("HQ")) if f.code == "never_synced"]
        assert found == (["settings/HQ/sync"] if sync is Sync.NEVER else [])
