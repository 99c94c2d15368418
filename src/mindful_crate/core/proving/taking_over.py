"""What stays as it is on a floor when it goes by other rules from now on: said before it does."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator

from mindful_crate.core.floor.state import State
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import FlowPurpose
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.rulebook.words.parts import Names, counted
from mindful_crate.core.rulebook.words.steps import place_told

DOES = {
    Need.INSPECT: (FlowPurpose.INSPECT,),
    Need.PUT_AWAY: (FlowPurpose.PUT_AWAY,),
    Need.PICK: (FlowPurpose.PICK,),
    Need.REPLENISH: (FlowPurpose.REPLENISH,),
    Need.MOVE: (FlowPurpose.MOVE_PLATES, FlowPurpose.MOVE_GOODS),
}
"""The purposes of flows that do tasks of a need."""


def left_as_it_is(state: State, book: Rulebook) -> list[str]:
    """Open tasks, plates and handsets that a rulebook, should it hold from now on, leaves as they are, in sentences."""
    return [*_tasks(state, book), *_handsets(state, book)]


def _tasks(state: State, book: Rulebook) -> Iterator[str]:
    site, crews = state.settings.site, {c.id: c.name for c in book.crews}
    going = [t for t in state.tasks.values() if not t.state.ended]
    away = sum(t.need is Need.PUT_AWAY for t in going)
    plans = [p for p in book.step_plans if p.on and p.site in (None, site)]
    if away and plans and not any(p.put_away.on for p in plans):
        names = Names(state.ground)
        stays = ", ".join(dict.fromkeys(place_told(p.receive.into, names) for p in plans))
        yield (
            f"{counted(away, 'task')} to put away {'stays' if away == 1 else 'stay'} open and may be done; what is received from "
            f"then on gets none and stays in {stays}."
        )
    nobody = Counter(
        (t.crew, t.need) for t in going
        if t.crew is not None and t.need in DOES and not any(f.purpose in DOES[t.need] for f in book.menu_for(site, (t.crew,)))
    )  # fmt: skip
    for (crew, _), n in sorted(nobody.items()):
        name = crews.get(crew, f"{crew}, a crew that is gone") if crew else ""
        yield f"{counted(n, 'task')} {'waits' if n == 1 else 'wait'} for {name}, and no flow on its menu does them: reassign them, or put one there."


def _handsets(state: State, book: Rulebook) -> Iterator[str]:
    for dialogue in sorted(state.dialogues.values(), key=lambda d: d.device or ""):
        if dialogue.open and book.flow(dialogue.flow) is None:
            yield f"`{dialogue.device}` is in a flow that is gone: @{dialogue.person} can only leave it."
