"""The tables are closed: whatever acts, events, purposes, prompts and series there are, each is known wherever it must be.
What is forgotten fails here, and not before a user."""

from __future__ import annotations

import ast
import dataclasses
from pathlib import Path
from typing import Any, get_args, get_type_hints

import pytest

from mindful_crate.core.catalog.ids import BinCode, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.keeper import Keeper
from mindful_crate.core.floor.numbers import Drawn
from mindful_crate.core.floor.state import Settings, State
from mindful_crate.core.proving.recording import RECORDED
from mindful_crate.core.rulebook.flows import Asks, FlowPurpose
from mindful_crate.core.scanning.dialogue import _COMPLETE
from mindful_crate.core.scanning.registry import KINDS, NEEDED, WAITS
from mindful_crate.core.scanning.tray import _CODES
from mindful_crate.core.work.rows import by_kind, silent
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.decide import DECIDERS
from mindful_crate.core.world.fold import FOLDS
from mindful_crate.core.world.words import MADE, TOLD
from tests.playbook import STARTS

CORE = Path(acts.__file__).parents[1]
BY_THEMSELVES = {acts.HostAnswers, acts.HostTells, acts.HostAnnounces}
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
    """In the office and on the handset; what flows do within them, and what the host does, are no steps of their own."""
    hands = leaves(acts.OfficeAct) | leaves(acts.HandsetAct)
    assert set(RECORDED) == hands
    assert not hands & BY_THEMSELVES and leaves(acts.Act) > BY_THEMSELVES


def test_every_event_that_chooses_a_bin_says_so() -> None:
    """A script refers to the bin a step chose; an event with a bin to go to must answer for it."""
    choosing = {e for e in leaves(ev.Event) for f in dataclasses.fields(e) if f.name == "to_bin"}
    assert set(MADE["bin"]) == choosing
    assert all(get_type_hints(e)["to_bin"] == BinCode | None for e in choosing)
    making = {e for e in leaves(ev.Event) if e.__name__.endswith(("Started", "Finished"))}
    assert set(MADE["plate"]) == making


def test_purposes_have_flows_and_prompts_have_kinds() -> None:
    """Every purpose completes and says which prompts it needs; every question has its kind and codes for the tray."""
    assert set(NEEDED) == set(WAITS) == set(_COMPLETE) == set(FlowPurpose)
    assert all(set(NEEDED[p]) <= set(WAITS[p]) for p in FlowPurpose)
    assert {a for known in WAITS.values() for a in known} == set(Asks)
    assert set(KINDS) == set(_CODES) == set(Asks)


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
