"""What the log says of its events: dialogues on handsets."""

from __future__ import annotations

from mindful_crate.core.work.handset.events import DialogueLeft, DialogueMoved, DialogueOpened, HandsetSynced, Scanned
from mindful_crate.core.work.rows import Row, Words, silent, telling


def _dialogue_left(e: DialogueLeft) -> str:
    return f"the dialogue moved to handset `{e.taken_over}`" if e.taken_over else ""


WORDS: tuple[Row[Words[object]], ...] = (
    silent(DialogueOpened),
    silent(DialogueMoved),
    telling(DialogueLeft, _dialogue_left),
    telling(HandsetSynced, lambda e: f"handset `{e.device}` has what is in force"),
    telling(Scanned, lambda e: f"read `{e.text}` as {e.read_as}"),
)
"""What the log says of its events."""
