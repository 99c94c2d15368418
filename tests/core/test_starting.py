"""When a task may be taken, and by whom: from a time of the day on, and by one person alone."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest

from mindful_crate.core.catalog.ids import CrewId, PersonId
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.proving.findings.whole import findings
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.recipes import Recipe, Starts
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.rulebook.words.parts import words_of
from mindful_crate.core.rulebook.words.recipes import recipe_sentence
from mindful_crate.core.work.tasks.acts import TaskDue
from mindful_crate.core.world import acts
from mindful_crate.core.world.world import due_command, next_time
from tests.core.test_recipes import HQ, received, sound, ways
from tests.playbook import Play


def at_a_time(book: Rulebook, time: str) -> Rulebook:
    """One recipe for all, whose tasks start at this time."""
    return ways(book, Recipe("RE-9", Need.PUT_AWAY, CrewId("quay"), starts=Starts.AT_TIME, time=time))  # type: ignore[arg-type]


def test_a_task_starts_when_its_time_has_come(ground: Ground, rulebook: Rulebook) -> None:
    """Until then it is on nobody's list and says why; then the clock lets it go, once, without anybody's doing; what is made after that time
    waits for the next day."""
    play = received(ground, at_a_time(rulebook, "14:00"), 1)
    (task,) = play.state.tasks.values()
    assert task.held == "it starts at 14:00"
    play.opens("F-PUTAWAY").scan(task.plate or "").refused("task_held", "it starts at 14:00")
    sound(play)
    play.do(acts.Wait(5 * 3600)).done()
    assert play.state.tasks[task.number].held == "it starts at 14:00"
    play.do(acts.Wait(3600)).done()
    assert not play.state.tasks[task.number].held
    came = [e for e in play.world.log if isinstance(e.command.act, TaskDue)]
    assert [e.command.stamp.who for e in came] == ["clock"]
    assert came[0].command.stamp.at >= datetime(2026, 3, 3, 14, 0, tzinfo=UTC)
    sound(play)
    play.scan(task.plate or "").scan(task.to_bin or "").done()
    play.press("leave").opens("F-RECEIVE").scan("PO-1001").scan("SHK-08").type("5").press("finish").done()
    later = max(play.state.tasks.values(), key=lambda t: t.made)
    play.do(acts.Wait(20 * 3600)).done()
    assert play.state.tasks[later.number].held
    play.do(acts.Wait(4 * 3600)).done()
    assert not play.state.tasks[later.number].held
    assert len([e for e in play.world.log if isinstance(e.command.act, TaskDue)]) == 2


def test_what_the_office_says_of_it_counts_more_than_the_time(ground: Ground, rulebook: Rulebook) -> None:
    """Let go before its time it may be taken at once; cancelled, no time comes; and nobody but the clock says that it is time."""
    play = received(ground, at_a_time(rulebook, "14:00"), 2)
    first, second = play.state.tasks.values()
    play.do(acts.LetTaskGo(first.number)).done().do(TaskDue(first.number)).refused("not_due")
    play.do(acts.HoldTask(first.number, "aisle closed")).done()
    play.do(acts.CancelTask(second.number, "sent back")).done().do(acts.Wait(9 * 3600)).done()
    assert play.state.tasks[first.number].held == "aisle closed"
    assert not any(isinstance(e.command.act, TaskDue) and e.command.stamp.who == "clock" for e in play.world.log)
    sound(play)


def test_a_time_is_looked_for_once(ground: Ground, rulebook: Rulebook) -> None:
    """However many commands come while tasks wait for their time, the calendar is asked once for each task."""
    play = received(ground, at_a_time(rulebook, "14:00"), 3)
    asked: list[datetime] = []

    def today(at: datetime) -> date:
        asked.append(at)
        return at.date()

    assert len(play.state.tasks.timed) == 3
    state, clock = play.state, play.state.clock
    assert due_command(state, clock, today) is None
    play.do(acts.Wait(60)).done()
    asked.clear()
    assert due_command(state, clock, today) is None and asked == []
    found = due_command(state, clock + timedelta(days=1), today)
    assert found is not None and isinstance(found.act, TaskDue) and found.act.task in state.tasks.timed
    assert asked == [found.stamp.at], "only for the date of the command"


@pytest.mark.parametrize(("zone", "made", "minute", "comes"), [
    ("UTC", datetime(2026, 3, 3, 13, 59, 59, tzinfo=UTC), 840, datetime(2026, 3, 3, 14, 0, tzinfo=UTC)),
    ("UTC", datetime(2026, 3, 3, 14, 0, tzinfo=UTC), 840, datetime(2026, 3, 4, 14, 0, tzinfo=UTC)),
    ("UTC", datetime(2026, 3, 3, 0, 0, tzinfo=UTC), 0, datetime(2026, 3, 4, 0, 0, tzinfo=UTC)),
    ("Pacific/Auckland", datetime(2026, 3, 3, 8, 30, tzinfo=UTC), 420, datetime(2026, 3, 3, 18, 0, tzinfo=UTC)),
    ("America/St_Johns", datetime(2026, 3, 3, 8, 30, tzinfo=UTC), 1439, datetime(2026, 3, 4, 3, 29, tzinfo=UTC)),
])  # fmt: skip
def test_the_time_is_that_of_the_site(zone: str, made: datetime, minute: int, comes: datetime) -> None:
    """East and west of Greenwich, just before and just after; always within a day."""

    def today(at: datetime) -> date:
        return at.astimezone(ZoneInfo(zone)).date()

    found = next_time(made, minute, today)
    assert found == comes
    assert made < found <= made + timedelta(days=1)


@pytest.mark.parametrize("time", ["", "25:00", "14:60", "2 pm", "14", "14:5"])
def test_a_time_that_is_none_blocks(ground: Ground, rulebook: Rulebook, time: str) -> None:
    """It is said at its place; a good one is said in the sentence."""
    assert ("no_time", "recipes/RE-9/time") in {
        (f.code, f.place) for f in findings(at_a_time(rulebook, time), ground, HQ)
    }
    good = at_a_time(rulebook, "6:30")
    assert "no_time" not in {f.code for f in findings(good, ground, HQ)}
    assert "from a time of the day on, 6:30 by the site's clock" in words_of(
        recipe_sentence(good.recipes[0], good.crews, ground)
    )


def test_a_task_of_one_person_is_on_no_other_list(ground: Ground, rulebook: Rulebook) -> None:
    """Given to one of the crew, another of it is refused by name and does not see it; given to anybody again, everybody does."""
    play = received(ground, rulebook, 1, "PO-1001", "SHK-08", "box")
    (task,) = play.state.tasks.values()
    mara = Play(play.world, "mara", "H2", ("quay",))
    give = acts.ReassignTask(task.number, CrewId("quay"), PersonId("mara"))
    play.do(give).done("is for @mara of Quay crew now").do(give).refused("nothing_changed", "@mara")
    assert play.state.tasks[task.number].whose == "mara"
    sound(play)
    play.opens("F-PUTAWAY")
    assert play.question().picks == () and "Nothing waits" in play.question().note
    play.scan(task.plate or "").refused("other_person", "is for @mara alone")
    mara.opens("F-PUTAWAY")
    assert [p.value for p in mara.question().picks] == [task.plate]
    play.do(replace(give, person=None)).done("is for Quay crew now")
    assert [p.value for p in play.question().picks] == [task.plate]
    mara.do(replace(give, person=PersonId("mara"))).scan(task.plate or "").scan(task.to_bin or "").done()
    assert play.state.tasks[task.number].going.state == "done"
    sound(play)
