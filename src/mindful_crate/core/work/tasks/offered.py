"""What the office may do about a task as it stands; the deciders refuse what is not offered here."""

from __future__ import annotations

from mindful_crate.core.catalog.ids import SiteCode, TaskNo
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Task, TaskState
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Crew
from mindful_crate.core.rulebook.steps import Need

PRIORITIES = tuple(range(10))
"""The highest comes first; most tasks have 0."""


@record
class Offered:
    """What may be done about one task: put back, held, let go, cancelled; the crews it may be given to, and priorities."""

    task: TaskNo
    set_down: bool = False
    hold: bool = False
    let_go: bool = False
    cancel: bool = False
    crews: tuple[Crew, ...] = ()
    priorities: tuple[int, ...] = ()


def may_go_back(task: Task) -> bool:
    """Can what is carried go back to where it was taken? What is moved at will, or placed in part, is placed instead."""
    return task.state is TaskState.TAKEN and task.need is not Need.MOVE and (bool(task.plan.several) or not task.placed)


def able(rulebook: Rulebook, site: SiteCode, need: Need) -> tuple[Crew, ...]:
    """The crews that have a flow for a need on their menu; of what is picked any where none has one, since the office says what was."""
    found = tuple(
        c for c in rulebook.crews if any(f.purpose.value == need.value for f in rulebook.menu_for(site, (c.id,)))
    )
    return rulebook.crews if need is Need.PICK and not found else found


def offered(state: State, rulebook: Rulebook) -> tuple[Offered, ...]:
    """What may be done about each task about which anything may, by number."""
    crews = {need: able(rulebook, state.settings.site, need) for need in Need}
    found = []
    for task in state.tasks.values():
        if task.state is TaskState.OPEN:
            held = bool(task.held)
            found.append(
                Offered(task.number, False, not held, held, task.need is not Need.PICK, crews[task.need], PRIORITIES)
            )
        elif may_go_back(task):
            found.append(Offered(task.number, set_down=True))
    return tuple(found)
