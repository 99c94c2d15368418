"""Taking back: words, invariants, and its row among the matters."""

from __future__ import annotations

from mindful_crate.core.floor.state import State
from mindful_crate.core.rulebook.words.parts import counted
from mindful_crate.core.work.returning.decide import DECIDES, after
from mindful_crate.core.work.returning.events import (
    ReturnBegun,
    ReturnEnded,
    ReturnLineDropped,
    ReturnMarked,
    ReturnNoted,
)
from mindful_crate.core.work.returning.flow import FLOWS
from mindful_crate.core.work.returning.fold import FOLDS
from mindful_crate.core.work.returning.prompts import PROMPTS
from mindful_crate.core.work.rows import Matter, telling


def nothing_held_is_available(state: State) -> list[str]:
    """What is held for a supervisor is marked for nothing else, and never credited."""
    return [f"{key} is held and credited" for key, m in state.returned.items() if m.held and (m.credits or m.goes)]


RETURNING = Matter(
    "returning",
    DECIDES,
    FOLDS,
    (
        telling(ReturnBegun, lambda e: f"goods of `{e.partner}` come back" + (f", `{e.order}`" if e.order else "")),
        telling(
            ReturnNoted, lambda e: f"{e.line.quantity} of `{e.line.item}` noted" + (", held" if e.line.held else "")
        ),
        telling(ReturnLineDropped, lambda e: f"line {e.line} of what comes back is none"),
        telling(
            ReturnEnded, lambda e: f"return `{e.finished}` is finished" if e.finished else "nothing was taken back"
        ),
        telling(ReturnMarked, lambda e: f"{counted(len(e.marks), 'line')} of what came back marked"),
    ),
    flows=FLOWS,
    prompts=PROMPTS,
    invariants=(nothing_held_is_available,),
    after=after,
)
"""What it brings."""
