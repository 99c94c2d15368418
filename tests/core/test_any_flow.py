"""Whatever flow somebody composes, it runs or is a finding that names the prompt; none ends in an error, and every question
can be left."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest
from hypothesis import HealthCheck, Phase, given
from hypothesis import strategies as st

from mindful_crate.core.catalog.ids import DeviceId, FlowId, OrderNo, PlateKindCode, PromptId, SiteCode, WavePlanId
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.findings.whole import findings
from mindful_crate.core.proving.rehearse import open_dialogue
from mindful_crate.core.rulebook.bin_rules import BinPurpose
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import (
    Asks,
    Check,
    Each,
    Flow,
    FlowPurpose,
    Menu,
    OtherBin,
    PlateBy,
    Prompt,
    Proposes,
)
from mindful_crate.core.scanning.dialogue import pressed
from mindful_crate.core.scanning.question import Question
from mindful_crate.core.work.handset.decide import context
from mindful_crate.core.work.matters import BUTTONS, MACHINE
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.invariants import broken
from mindful_crate.demo.loader import demo_opening, demo_rulebook
from tests.core.test_machine import CODES, PRESSES
from tests.playbook import Play, new_world
from tests.properties import tried

GROUND, RULEBOOK = Ground(demo_opening()), demo_rulebook()
"""Flows that are composed; two thousand by hand."""
ANY = FlowId("F-ANY")


@st.composite
def flows(draw: st.DrawFn) -> Flow:
    """Prompts of all kinds in any order, mostly with those that the purpose needs."""
    purpose = draw(st.sampled_from(FlowPurpose))
    asks = draw(st.lists(st.sampled_from(Asks), max_size=7))
    if draw(st.integers(0, 4)):
        asks += [a for a in MACHINE.flows[purpose].needed if a not in asks]
    asks = draw(st.permutations(asks))
    prompts = tuple(
        Prompt(
            PromptId(f"P-{n}"), a, draw(st.sampled_from(Each)), draw(st.sampled_from(Check)), draw(st.sampled_from(Proposes)),
            draw(st.booleans()), fixed=draw(st.sampled_from(["", "", "1", "400", "RECV-1", "P-01-01-1", "L2603A", "?"])),
        )
        for n, a in enumerate(asks)
    )  # fmt: skip
    rules = st.sampled_from([None, BinPurpose.PUT_AWAY, BinPurpose.PICK_FROM, BinPurpose.REPLENISH_TO])
    return Flow(
        ANY, "Any", purpose, prompts, draw(st.sampled_from(PlateBy)),
        draw(st.sampled_from([PlateKindCode("PAL"), PlateKindCode("NONE"), None])), draw(st.booleans()),
        draw(st.sampled_from(OtherBin)), draw(rules), draw(rules), draw(st.booleans()),
    )  # fmt: skip


def with_flow(flow: Flow) -> Rulebook:
    """The demo's rulebook with one flow more, on a menu of its own."""
    menus = (*RULEBOOK.menus, Menu("MN-ANY", RULEBOOK.crews[0].id, (ANY,)))
    return replace(RULEBOOK, flows=(*RULEBOOK.flows, flow), menus=menus)


def assert_accepted_as_offered(play: Play, book: Rulebook, flow: Flow, question: Question) -> None:
    """Every button there is: the dialogue goes on exactly when the question offers it, below it or beside its lines."""
    dialogue = open_dialogue(play.state, DeviceId("H1"))
    assert dialogue is not None
    ctx = context(play.state, book, play.stamp(), flow)
    line = question.so_far[0].line if question.so_far else 1
    offered = {b.action for b in (*question.buttons, *question.of_line)}
    for action in sorted(BUTTONS - {"back", "leave"}):
        try:
            pressed(ctx, dialogue, action, line, "1")
        except Refusal as refusal:
            assert action not in offered, refusal.problem.says
        else:
            assert action in offered, action


@given(flows(), st.data())
@tried(15, phases=[Phase.generate], suppress_health_check=list(HealthCheck))
def test_any_flow_runs_or_is_a_finding(flow: Flow, data: st.DataObject) -> None:
    """Opened and answered twenty times, with right codes and wrong: every answer is done or a refusal in words, the floor
    stays sound, and the flow can be left whatever it asks. A flow without a blocking finding opens."""
    book = with_flow(flow)
    own = [f for f in findings(book, GROUND, SiteCode("HQ")) if f.place.startswith(f"flows/{ANY}")]
    play = Play(new_world(GROUND, book)).confirm("PO-1007")
    play.opens("F-RECEIVE").scan("PO-1007").scan("2900000000087").type("2").press("finish").press("leave")
    if flow.purpose is FlowPurpose.PICK:  # something of every kind waits to be picked
        play.confirm("SO-2009", "SO-2003").do(acts.Wait(60)).do(
            acts.ReleaseOrders((OrderNo("SO-2009"), OrderNo("SO-2003")), True)
        )
        play.do(acts.MakeWave(None, ()))
    if flow.purpose is FlowPurpose.SORT:
        play.confirm("SO-2001", "SO-2051").do(acts.Wait(60))
        play.do(acts.ReleaseOrders((OrderNo("SO-2001"), OrderNo("SO-2051")), True)).do(
            acts.MakeWave(WavePlanId("WP-1"))
        )
        for task in list(play.state.tasks.values()):
            play.do(acts.PickInOffice(task.number, "picked by paper"))
    play.opens(ANY)
    assert play.last is not None
    if isinstance(play.last.outcome, ev.Refused):
        assert any(f.code == "prompt_missing" for f in own), play.last.says
        return
    for _ in range(20):
        if not open_dialogue(play.state, DeviceId("H1")):
            break
        question = play.question()
        assert question.buttons[-1].action == "leave"
        assert_accepted_as_offered(play, book, flow, question)
        right = [p.value for p in question.picks] + [c for c in (question.expect, question.proposal) if c]
        choice = data.draw(
            st.sampled_from([*right * 3, *(b.action for b in question.buttons), *CODES[:24], *PRESSES[:4]])
        )
        pressed: Any = choice
        if choice in {*PRESSES, *(b.action for b in question.buttons)}:
            play.press(pressed)
        else:
            play.scan(choice, data.draw(st.sampled_from(["scanned", "typed"])))
        assert play.last.says and broken(play.state) == []
    if open_dialogue(play.state, DeviceId("H1")):
        play.press("leave").done()


PUZZLES = [
    ("F-RECEIVE", [Asks.QUANTITY, Asks.ORDER, Asks.PLATE, Asks.ITEM, Asks.LOT, Asks.EXPIRY], "prompt_waits"),
    ("F-RECEIVE", [Asks.ITEM, Asks.ORDER, Asks.QUANTITY, Asks.PLATE, Asks.EXPIRY, Asks.LOT], "prompt_waits"),
    ("F-RECEIVE", [Asks.ORDER, Asks.PLATE, Asks.ITEM, Asks.EXPIRY, Asks.LOT, Asks.QUANTITY, Asks.TO], "prompt_idle"),
    ("F-RECEIVE", [Asks.LINE, Asks.PLATE, Asks.ITEM, Asks.EXPIRY, Asks.LOT, Asks.QUANTITY], "prompt_idle"),
    ("F-PUTAWAY", [Asks.ITEM, Asks.TASK, Asks.BIN], "prompt_idle"),
]


@pytest.mark.parametrize(("flow", "asks", "code"), PUZZLES)
def test_prompts_in_another_order_do_the_same_work(flow: str, asks: list[Asks], code: str) -> None:
    """What stands too early waits, what there is no use for is passed over; both are doubts that name the prompt."""
    old = next(f for f in RULEBOOK.flows if f.id == flow)
    known = {p.asks: p for p in old.prompts}
    prompts = tuple(
        replace(known.get(a, Prompt(PromptId("P-X"), a)), id=PromptId(f"P-{n}")) for n, a in enumerate(asks)
    )
    book = replace(RULEBOOK, flows=tuple(replace(f, prompts=prompts) if f.id == flow else f for f in RULEBOOK.flows))
    own = [f for f in findings(book, GROUND, SiteCode("HQ")) if f.place.startswith(f"flows/{flow}/prompts/P-")]
    assert code in [f.code for f in own] and all(f.severity.value == "doubt" for f in own)
    play = Play(new_world(GROUND, book)).confirm("PO-1007").opens("F-RECEIVE")
    if flow != "F-RECEIVE" or Asks.ORDER in asks:
        play.asks("order").scan("PO-1007")
    play.asks("item").scan("2900000000087").asks("quantity").type("2").done("made").press("finish").done(
        "Put-away task"
    ).press("leave")
    play.opens("F-PUTAWAY").asks("task").scan("LPR-000417").asks("bin").scan(play.question().expect).done("stands in")


def test_a_move_goes_by_rules_of_its_own_way() -> None:
    """Rules that take do not say where goods go: a finding that blocks, and without effect."""
    old = next(f for f in RULEBOOK.flows if f.id == "F-MOVEPLATES")
    wrong = replace(old, to_rules=BinPurpose.PICK_FROM, from_rules=BinPurpose.PUT_AWAY)
    book = replace(RULEBOOK, flows=tuple(wrong if f.id == old.id else f for f in RULEBOOK.flows))
    own = {(f.code, f.place) for f in findings(book, GROUND, SiteCode("HQ")) if f.severity.value == "blocks"}
    assert own == {("rules_wrong_way", f"flows/{old.id}/{field}") for field in ("to_rules", "from_rules")}
    Play(new_world(GROUND, book)).opens("F-MOVEPLATES").scan("LP-000064").done("taken").asks("plates")


def test_every_purpose_knows_what_its_prompts_wait_for() -> None:
    """Only for prompts of its own, and never in a ring."""
    for known in (kind.waits for kind in MACHINE.flows.values()):
        done: set[Asks] = set()
        while len(done) < len(known):
            ready = {a for a, waits in known.items() if set(waits) <= done} - done
            assert ready, known
            done |= ready
