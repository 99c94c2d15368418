"""Rehearsals: run, compared with what was recorded, recorded from what was done."""

from __future__ import annotations

from dataclasses import replace

import pytest

from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.proving import script as sc
from mindful_crate.core.proving.recording import Played, record
from mindful_crate.core.proving.rehearse import Result, gs1_elements, run, run_all, settings_of
from mindful_crate.core.proving.telling import step_told
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.work.stamp import Lost
from mindful_crate.core.world.world import World
from mindful_crate.demo.loader import demo_rehearsals, demo_rules
from mindful_crate.files import gs1
from tests.core.test_rulebook import change_rule, with_target
from tests.playbook import beside

SCRIPTS = {s.id: s for s in demo_rehearsals()}


def ran(script: sc.Rehearsal, ground: Ground, rulebook: Rulebook) -> tuple[Result, World]:
    return run(script, ground, rulebook, lambda at: at.date(), gs1.split, beside(script, ground))


@pytest.mark.parametrize("name", sorted(SCRIPTS))
def test_the_demos_rehearsals_pass_and_read_as_recorded(ground: Ground, name: str) -> None:
    """Green, without a difference, on the opening they were made on, with the hashes they speak for."""
    script = SCRIPTS[name]
    rulebook = demo_rules(script.site, ground)
    assert script.opening == ground.hash
    result, _ = ran(script, ground, rulebook)
    assert result.passed, result
    assert result.first_difference is None
    assert (result.opening, result.rehearsal) == (ground.hash, name)


@pytest.mark.parametrize("name", sorted(SCRIPTS))
def test_a_run_recorded_again_is_the_same_script(ground: Ground, name: str) -> None:
    """Doing is recording: the log of a run turns back into its script, references and all, and passes."""
    script = SCRIPTS[name]
    rulebook = demo_rules(script.site, ground)
    _, worlds = run_all(script, ground, rulebook, lambda at: at.date(), gs1.split, beside(script, ground))
    mine, *others = (
        Played(tuple(w.log), World(ground, replace(settings_of(script), site=s), w.rulebook, w.today), {}, s)
        for s, w in worlds.items()
    )
    again = record(script, mine.log, mine.fresh, {}, (), beside=others)
    assert [s.site for s in again.steps] == [s.site for s in script.steps]
    assert [s.answered for s in again.steps] == [s.answered for s in script.steps]
    assert [s.asked for s in again.steps] == [s.asked for s in script.steps]
    kinds = [type(s.do) for s in script.steps]
    assert [type(s.do) for s in again.steps] == kinds
    replayed, _ = ran(again, ground, rulebook)
    assert replayed.passed and replayed.first_difference is None


def test_references_are_found_while_recording(ground: Ground, rulebook: Rulebook) -> None:
    """The bin shown, the plate of a step, an item's coil: not their literal codes."""
    script = SCRIPTS["rope-by-the-pallet"]
    _, world = ran(script, ground, rulebook)
    again = record(script, tuple(world.log), World(ground, settings_of(script), rulebook, world.today), {}, ())
    codes = [s.do.code for s in again.steps if isinstance(s.do, sc.DoScan)]
    plate_step = next(s.id for s in again.steps if "made" in s.answered)
    assert codes == [
        sc.TheOrder("PO-1007"),  # type: ignore[arg-type]
        sc.TheItem("ROPE-12", "coil"),  # type: ignore[arg-type]
        sc.Literally("10"),
        sc.PlateOf(plate_step),
        sc.Shown(),
    ]
    paint = SCRIPTS["paint-with-lots"]
    _, world = ran(paint, ground, rulebook)
    again = record(paint, tuple(world.log), World(ground, settings_of(paint), rulebook, world.today), {}, ())
    assert paint.steps[6].do in [s.do for s in again.steps], "a GS1 code is kept by item, lot, date and count"


def test_a_changed_rule_turns_it_red_where_it_matters(ground: Ground, rulebook: Rulebook) -> None:
    """The first step that differs is named, both answers are there, and the steps after it still run."""
    elsewhere = change_rule(rulebook, "BR-3", with_target(zones=("RSV",)))
    result, world = ran(SCRIPTS["rope-by-the-pallet"], ground, elsewhere)
    assert not result.passed
    assert result.first_difference == "s6"
    step = next(s for s in result.steps if s.id == "s6")
    assert "B-02-01-1" in step.was_says and "R-01-02-3" in step.says
    assert [c.holds for c in step.checks] == [False]
    assert "Reserve" in step.checks[0].found
    assert result.steps[-1].outcome == "done", "the scan of the bin shown went on to the other bin"
    assert all(c.holds for c in result.at_end), "what came to stand in the bin chosen is as expected all the same"
    assert world.state.tasks["TR-0204"].placed_in == "R-01-02-3"  # type: ignore[index]


def test_what_cannot_be_referred_to_fails_its_step_alone(ground: Ground, rulebook: Rulebook) -> None:
    """When the plate was never made, the step that scans it is untried, and the rest goes on."""
    script = SCRIPTS["rope-by-the-pallet"]
    steps = tuple(s for s in script.steps if s.id != "s5")
    result, _ = ran(replace(script, steps=steps), ground, rulebook)
    untried = next(s for s in result.steps if s.id == "s9")
    assert (untried.outcome, untried.fails) == ("untried", True)
    assert "Step s5 made no plate" in untried.says
    assert result.steps[-1].outcome == "untried"


@pytest.mark.parametrize(
    ("expectation", "holds", "found"),
    [
        (sc.ExpectStock(sc.BinOf("s6"), "ROPE-12", 1999), False, "holds 2,000 m"),  # type: ignore[arg-type]
        (sc.ExpectStock(sc.TheBin("NO-BIN"), "ROPE-12", 1), False, "no bin"),  # type: ignore[arg-type]
        (sc.ExpectStock(sc.BinOf("s1"), "ROPE-12", 1), False, "chose no bin"),  # type: ignore[arg-type]
        (sc.ExpectLine("PO-1007", 1, 2000, 0), False, "booked 2000"),  # type: ignore[arg-type]
        (sc.ExpectLine("PO-1007", 2, 0, 0), True, "arrived 0"),  # type: ignore[arg-type]
        (sc.ExpectRefused("expired"), False, "carried out"),
        (sc.ExpectAsks("task"), True, "asks for the task"),
        (sc.ExpectAsks("bin"), False, "asks for the task"),
        (sc.ExpectChosen(rule="BR-1"), False, "no bin was chosen"),
    ],
)
def test_expectations_say_what_was_found(
    ground: Ground, rulebook: Rulebook, expectation: sc.Expectation, holds: bool, found: str
) -> None:
    """Held or not, each tells what is so."""
    script = SCRIPTS["rope-by-the-pallet"]
    result, _ = ran(replace(script, at_end=(expectation,)), ground, rulebook)
    assert result.at_end[0].holds is holds
    assert found in result.at_end[0].found
    assert result.passed is holds


def test_an_unexpected_refusal_fails_and_an_expected_one_does_not(ground: Ground, rulebook: Rulebook) -> None:
    """A step that was carried out once must be carried out again, unless its refusal is expected."""
    script = SCRIPTS["wrong-scans"]
    done = tuple(replace(s, was="done", expect=()) for s in script.steps)
    result, _ = ran(replace(script, steps=done), ground, rulebook)
    assert [s.id for s in result.steps if s.fails] == [s.id for s in script.steps if s.was == "refused"]


def test_gs1_elements_stand_in_their_order(ground: Ground) -> None:
    """Fixed lengths first, the lot last, and the splitter at the edge reads them back."""
    from datetime import date

    ref = sc.TheItem("AF-RED-25", "case", "K2611", date(2027, 8, 31), 6)  # type: ignore[arg-type]
    elements = gs1_elements(ground, ref)
    assert [ai for ai, _ in elements] == ["01", "17", "37", "10"]
    assert gs1.split("".join(f"({ai}){v}" for ai, v in elements)) == elements
    raw = "]d2" + "".join(ai + v + ("\x1d" if ai == "37" else "") for ai, v in elements)
    assert gs1.split(raw) == elements
    assert gs1.split("PO-1007") == gs1.split("10") == gs1.split("2900000000087") == ()


@pytest.mark.parametrize("name", ["rope-by-the-pallet", "paint-with-lots", "put-away-by-scan", "wrong-scans"])
def test_a_lost_network_changes_nothing(ground: Ground, name: str) -> None:
    """Every answer lost and everything sent again: the log says so, and is the same in all else."""
    script = SCRIPTS[name]
    rules = demo_rules(script.site, ground)
    once, world = ran(script, ground, rules)
    told: tuple[tuple[Lost, str], ...] = (("before", "arrives when it is sent again."), ("after", "done once."))
    for lost, says in told:
        steps = tuple(replace(s, lost=lost) for s in script.steps)
        again, there = ran(replace(script, steps=steps), ground, rules)
        assert again == once and [e.outcome for e in there.log] == [e.outcome for e in world.log]
        assert {e.command.stamp.lost for e in there.log if not e.command.stamp.id.startswith("host")} == {lost}
        assert step_told(steps[0]).endswith(says)
