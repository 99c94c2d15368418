"""What happens: dialogues on handsets."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.ids import DeviceId, DialogueNo, FlowId, PersonId
from mindful_crate.core.floor.answers import Answers, Doubt
from mindful_crate.core.record import record


@record
class DialogueOpened:
    """A flow was opened on a handset."""

    dialogue: DialogueNo
    flow: FlowId
    person: PersonId
    device: DeviceId | None
    kind: Literal["dialogue_opened"] = "dialogue_opened"


@record
class DialogueMoved:
    """A dialogue stands at another question. ``past`` are the answers it may step back to."""

    dialogue: DialogueNo
    answers: Answers
    past: tuple[Answers, ...] = ()
    doubt: Doubt | None = None
    kind: Literal["dialogue_moved"] = "dialogue_moved"


@record
class DialogueLeft:
    """A dialogue ended. ``taken_over`` names the handset that goes on with its plate."""

    dialogue: DialogueNo
    taken_over: DeviceId | None = None
    by: PersonId | None = None
    kind: Literal["dialogue_left"] = "dialogue_left"


@record
class Scanned:
    """What came in and how it was read (``item ROPE-12, coil``)."""

    dialogue: DialogueNo
    text: str
    read_as: str
    kind: Literal["scanned"] = "scanned"


@record
class HandsetSynced:
    """A handset goes by these rules: it shows their menus and asks their questions."""

    device: DeviceId
    rules: str
    kind: Literal["handset_synced"] = "handset_synced"


HandsetEvent = DialogueOpened | DialogueMoved | DialogueLeft | Scanned | HandsetSynced
"""What may happen."""
