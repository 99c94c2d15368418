"""How its events change a state: dialogues on handsets."""

from __future__ import annotations

from mindful_crate.core.floor.devices import Synced
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.floor.state import State
from mindful_crate.core.record import evolve
from mindful_crate.core.work.handset.events import DialogueLeft, DialogueMoved, DialogueOpened, HandsetSynced, Scanned
from mindful_crate.core.work.rows import folding
from mindful_crate.core.work.stamp import At


def _dialogue_opened(state: State, e: DialogueOpened, _: At) -> None:
    before = state.talking(e.device)
    if before is not None and not before.open:  # only the latest of a handset can still be asked about
        state.dialogues.put(before.number, None)
    state.dialogues.put(e.dialogue, Dialogue(e.dialogue, e.flow, e.person, e.device, rules=state.given_to(e.device)))


def _dialogue_moved(state: State, e: DialogueMoved, _: At) -> None:
    d = state.dialogues[e.dialogue]
    now = evolve(d, answers=e.answers, past=e.past, doubt=e.doubt, step=d.step + 1, rules=state.given_to(d.device))
    state.dialogues.put(e.dialogue, now)


def _dialogue_left(state: State, e: DialogueLeft, _: At) -> None:
    d = state.dialogues[e.dialogue]
    state.dialogues.put(e.dialogue, evolve(d, open=False, taken_over=e.taken_over, taken_by=e.by))


def _nothing(_: State, __: Scanned, ___: At) -> None:
    """Kept for people; changes nothing that decisions read."""


def _synced(state: State, e: HandsetSynced, at: At) -> None:
    state.devices.put(e.device, Synced(e.device, e.rules, at.stamp.at))


FOLDS = (
    folding(DialogueOpened, _dialogue_opened),
    folding(DialogueMoved, _dialogue_moved),
    folding(DialogueLeft, _dialogue_left),
    folding(Scanned, _nothing),
    folding(HandsetSynced, _synced),
)
"""How its events change a state."""
