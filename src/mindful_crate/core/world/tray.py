"""The scan tray: everything worth scanning now, right ones and instructive wrong ones.

Whether a code is right is not claimed here: each is put to ``decide`` as a dry run, and its answer is shown.
"""

from __future__ import annotations

from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.floor.state import State
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.scanning.dialogue import ask, current
from mindful_crate.core.scanning.kinds import Symbol
from mindful_crate.core.scanning.reading import How
from mindful_crate.core.work.handset.decide import context
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.decide import decide


@record
class TrayCode:
    """Something that can be scanned, and what would come of it."""

    label: str
    text: str
    how: How
    symbol: Symbol
    taken: bool
    says: str


MOST = 8


def tray(state: State, rulebook: Rulebook, stamp: acts.Stamp, dialogue: Dialogue) -> tuple[TrayCode, ...]:
    """Codes for the question a dialogue asks now, accepted ones first."""
    flow = rulebook.flow(dialogue.flow)
    if flow is None or dialogue.doubt:
        return ()
    ctx = context(state, rulebook, stamp, flow)
    prompt = current(ctx, dialogue.answers)
    if prompt is None:
        return ()
    found: dict[str, TrayCode] = {}
    for label, scan, symbol in ctx.prompt(prompt.asks).codes(ctx, dialogue.answers, ask(ctx, dialogue)):
        if scan.text in found:
            continue
        outcome = decide(state, rulebook, acts.Command(stamp, acts.Answer(dialogue.number, scan))).outcome
        taken = isinstance(outcome, ev.Done)
        says = outcome.says if isinstance(outcome, ev.Done) else outcome.problem.says
        found[scan.text] = TrayCode(label, scan.text, scan.how, symbol, taken, says)
    listed = sorted(found.values(), key=lambda c: not c.taken)
    taken_ones = [c for c in listed if c.taken][: MOST // 2 + 1]
    return (*taken_ones, *[c for c in listed if not c.taken][: MOST - len(taken_ones)])
