"""Dialogues: the runs of flows on handsets."""

from __future__ import annotations

from mindful_crate.core.catalog.ids import DeviceId, DialogueNo, FlowId, PersonId, PlateNo, TaskNo
from mindful_crate.core.floor.answers import PLATE, TASK, Answers, Doubt
from mindful_crate.core.floor.keeper import Journal, Keeper
from mindful_crate.core.record import record


@record
class Dialogue:
    """One run of a flow on a handset. ``step`` counts its questions."""

    number: DialogueNo
    flow: FlowId
    person: PersonId
    device: DeviceId | None
    answers: Answers = Answers()
    past: tuple[Answers, ...] = ()
    doubt: Doubt | None = None
    step: int = 0
    open: bool = True
    taken_over: DeviceId | None = None
    taken_by: PersonId | None = None
    rules: str = ""
    """The hash of the rules its latest question is of; empty: those the floor was begun with."""


class Dialogues(Keeper[DialogueNo, Dialogue]):
    """Dialogues that are open, and the latest of every handset, which can still be asked about."""

    def __init__(self, journal: Journal) -> None:
        super().__init__(journal)
        self._on: dict[DeviceId | None, list[DialogueNo]] = {}

    def changed(self, key: DialogueNo, before: Dialogue | None, after: Dialogue | None) -> None:
        """Which handset it runs on."""
        if before is None and after is not None:
            known = self._on.setdefault(after.device, [])
            known.append(key)
            known.sort(key=_drawn)
        elif before is not None and after is None:
            self._on[before.device].remove(key)

    def talking(self, device: DeviceId | None) -> Dialogue | None:
        """The dialogue that was opened last on a handset, open or not."""
        known = self._on.get(device)
        return self[known[-1]] if known else None

    def open_on(self, device: DeviceId | None) -> list[Dialogue]:
        """The open dialogues of a handset, by number."""
        return [d for n in self._on.get(device, ()) if (d := self[n]).open]

    def open_about(self, plate: PlateNo | None = None, task: TaskNo | None = None) -> list[Dialogue]:
        """The open dialogues in which a plate is built, or a task is done, by number."""
        found = [
            d
            for d in self._held.values()
            if d.open and ((plate and d.answers[PLATE] == plate) or (task and d.answers[TASK] == task))
        ]
        return sorted(found, key=lambda d: _drawn(d.number))


def _drawn(number: DialogueNo) -> tuple[int, str]:
    return len(number), number
