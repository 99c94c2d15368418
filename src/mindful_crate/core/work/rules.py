"""Other rules on a live floor: from one entry on it is decided by another revision. Handsets show its menus and flows at once, or
when each takes them, as the settings say."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.floor.state import State, WorldKind
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve, record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.settings import Sync
from mindful_crate.core.work.making import Making
from mindful_crate.core.work.rows import Matter, deciding, folding, telling
from mindful_crate.core.work.stamp import At, Stamp


@record
class TakeRules:
    """Puts a revision in force on a live floor; ``rulebook`` is the hash of its rules. Only the shell asks it, which has seen
    that they can be run."""

    rulebook: str
    revision: int
    sync: Sync = Sync.AT_ONCE
    """When handsets take them, as they say."""
    kind: Literal["take_rules"] = "take_rules"


@record
class RulesTaken:
    """From the next entry on it is decided by these rules."""

    rulebook: str
    revision: int
    at_once: bool = True
    """Handsets ask by them from their next question on; else by what each was given, until it takes them."""
    kind: Literal["rules_taken"] = "rules_taken"


def _take_rules(state: State, making: Making, _: Rulebook, __: Stamp, act: TakeRules) -> str:
    if state.settings.kind is not WorldKind.LIVE:
        raise Refusal(
            "not_live", "Rules are put in force on a live floor. A rehearsal goes on under others from any entry."
        )
    if state.rules == act.rulebook:
        raise Refusal("rules_held", "These rules hold here already.")
    making.event(RulesTaken(act.rulebook, act.revision, act.sync is Sync.AT_ONCE))
    if act.sync is not Sync.AT_ONCE:
        when = f"after {act.sync.minutes} minutes, at the menu" if act.sync.minutes else "when somebody taps for it"
        return f"Revision {act.revision} is in force here from now on. Handsets show its menus and flows {when}."
    talking = sum(d.open for d in state.dialogues.values())
    hands = "No handset is in the middle of something."
    if talking:
        hands = (
            f"{talking} handsets take it at their next question."
            if talking > 1
            else "1 handset takes it at its next question."
        )
    return f"Revision {act.revision} is in force here from now on. {hands}"


def _rules_taken(state: State, e: RulesTaken, at: At) -> None:
    state.rules_taken.put(str(at.seq), e.rulebook)
    if not e.at_once:
        return
    for dialogue in state.dialogues.values():
        if dialogue.open:  # what was asked by the old rules is not answered by the new ones
            state.dialogues.put(dialogue.number, evolve(dialogue, step=dialogue.step + 1))


RULES = Matter(
    "rules",
    decides=(deciding(TakeRules, _take_rules),),
    folds=(folding(RulesTaken, _rules_taken),),
    words=(telling(RulesTaken, lambda e: f"revision {e.revision} in force"),),
)
"""What it brings."""
