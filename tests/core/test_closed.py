"""The tables are closed: whatever acts, events, purposes, prompts and series there are, each is known wherever it must be.
What is forgotten fails here, and not before a user."""

from __future__ import annotations

import ast
from pathlib import Path
from typing import Any, get_args, get_type_hints

import pytest

from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.refs import DocKind
from mindful_crate.core.floor.keeper import Keeper
from mindful_crate.core.floor.numbers import Drawn
from mindful_crate.core.floor.state import Settings, State
from mindful_crate.core.floor.tasks import Move
from mindful_crate.core.proving import script as sc
from mindful_crate.core.proving.recording import RECORDED
from mindful_crate.core.rulebook.flows import Asks, FlowPurpose
from mindful_crate.core.scanning.dialogue import OFFERED_BY_ALL
from mindful_crate.core.scanning.kinds import FlowKind, PromptKind
from mindful_crate.core.work.matters import MACHINE, MATTERS
from mindful_crate.core.work.rows import by_kind, silent
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.decide import DECIDERS
from mindful_crate.core.world.fold import FOLDS
from mindful_crate.core.world.words import ASKED, MADE, TOLD
from tests.playbook import STARTS

CORE = Path(acts.__file__).parents[1]
BY_THEMSELVES = {acts.HostAnswers, acts.HostTells, acts.HostAnnounces, acts.TaskDue}
"""What a host does; a rehearsal's stand-in does it again by itself."""


def leaves(union: Any) -> set[Any]:
    """The members of a union, of unions within it too."""
    inner = get_args(union)
    return {leaf for member in inner for leaf in leaves(member)} if inner else {union}


def test_every_act_is_decided_and_every_event_folds_and_has_words() -> None:
    """No more and no fewer than the unions name."""
    assert set(DECIDERS) == leaves(acts.Act)
    assert set(FOLDS) == set(TOLD) == leaves(ev.Event)


def test_every_kind_is_named_once_and_says_its_name() -> None:
    """Stored data finds its class by ``kind``, so no two may share one."""
    for union in (acts.Act, ev.Event):
        kinds = [get_args(get_type_hints(member)["kind"]) for member in leaves(union)]
        assert all(len(k) == 1 for k in kinds) and len(set(kinds)) == len(kinds)


def test_every_act_of_hands_is_recorded() -> None:
    """What the office does is recorded as it is where it has no step of its own, and has words; what is done on a handset has
    its step. What flows do within them, and what the host does, are no steps."""
    office, handset = leaves(acts.OfficeAct), leaves(acts.HandsetAct)
    assert handset <= set(RECORDED) <= office | handset
    assert set(ASKED) == office
    assert not office & BY_THEMSELVES and leaves(acts.Act) > BY_THEMSELVES | office | handset


def test_numbers_of_every_kind_that_events_make_can_be_referred_to() -> None:
    """Whatever a step may make, some field of an act of the office may mean."""
    assert set(sc.NAMED.values()) == set(MADE) - {"bin"}
    assert all(rows for rows in MADE.values())


def test_every_event_that_chooses_a_bin_says_so() -> None:
    """A script refers to the bin a step chose; an event in which a rule chose where to go must answer for it."""
    hints = {e: get_type_hints(e) for e in leaves(ev.Event)}
    choosing = {e for e, known in hints.items() if "rule" in known or known.get("moves") == tuple[Move, ...]}
    assert set(MADE["bin"]) == choosing
    assert set(MADE["task"]) == {e for e in choosing if e.__name__.endswith("Made")}
    making = {
        e
        for e, known in hints.items()
        if e.__name__.endswith(("Started", "Finished", "CartonBegun")) or "onto" in known
    }
    assert set(MADE["plate"]) == making


def test_purposes_have_flows_and_prompts_have_kinds() -> None:
    """Every purpose has its flow and every question its prompt, once; each says what it must."""
    assert sorted(p for m in MATTERS for p in m.flows) == sorted(FlowPurpose)
    assert sorted(a for m in MATTERS for a in m.prompts) == sorted(Asks)
    assert all(set(kind.needed) <= set(kind.waits) for kind in MACHINE.flows.values())
    assert {a for kind in MACHINE.flows.values() for a in kind.waits} == set(Asks)
    for prompt in MACHINE.prompts.values():
        must = ("needed", "take", "title", "codes")
        own = [getattr(type(prompt), name) is not getattr(PromptKind, name) for name in must]
        assert all(own) and isinstance(prompt, PromptKind), prompt
    for flow in MACHINE.flows.values():
        closes = len(flow.waits) > 1 or flow.buttons
        assert not closes or type(flow).complete is not FlowKind.complete, flow


def test_every_kind_of_document_is_told() -> None:
    """Once, and by the matter whose it is."""
    assert sorted(p.kind for m in MATTERS for p in m.papers) == sorted(DocKind)


def test_buttons_have_one_name_each() -> None:
    """Scripts name buttons; in one flow no two share a name, and none takes one of those that every flow has."""
    for flow in MACHINE.flows.values():
        names = [b.action for b in flow.buttons]
        assert all(names) and len(set(names)) == len(names) and not OFFERED_BY_ALL & set(names)


def test_every_series_that_is_drawn_from_is_declared() -> None:
    """The checker holds what is drawn to the declared; none is declared that nothing draws."""
    drawn = set()
    for path in (CORE / "work").rglob("*.py"):
        for node in ast.walk(ast.parse(path.read_text())):
            named = isinstance(node, ast.Call) and isinstance(node.func, ast.Attribute) and node.func.attr
            if named in ("draw", "draw_some") and isinstance(node.args[0], ast.Constant):  # type: ignore[union-attr]
                drawn.add(node.args[0].value)  # type: ignore[union-attr]
    assert drawn == set(get_args(Drawn))


def test_every_keeper_is_in_the_snapshot(ground: Ground) -> None:
    """What a floor keeps and a snapshot forgets would be another floor after a restart."""
    state = State(ground, Settings(SiteCode("HQ"), STARTS))
    seen: dict[int, Any] = {}
    waiting: list[Any] = [state]
    while waiting:
        each = waiting.pop()
        if id(each) in seen or not type(each).__module__.startswith("mindful_crate.core.floor"):
            continue
        seen[id(each)] = each
        waiting += getattr(each, "__dict__", {}).values()
    keepers = {id(k) for k in seen.values() if isinstance(k, Keeper)}
    assert len(keepers) > 15 and keepers == {id(k) for k in state._keepers().values()}


def test_a_kind_has_one_row() -> None:
    """Two rows of one kind would let the second win in silence."""
    with pytest.raises(ValueError, match="has two rows"):
        by_kind((silent(ev.TimePassed), silent(ev.TimePassed)))
