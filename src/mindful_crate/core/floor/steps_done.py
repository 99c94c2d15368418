"""The last step that somebody has finished, as far as it may be undone."""

from __future__ import annotations

from mindful_crate.core.catalog.ids import PersonId
from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.floor.keeper import Keeper
from mindful_crate.core.record import record


@record
class StepDone:
    """A step, by the document it ended with, and the entry in which it was finished."""

    kind: DocKind
    number: str
    seq: int

    @property
    def ref(self) -> Ref:
        """The document."""
        return Ref(self.kind, self.number)


def forget(steps: Keeper[PersonId, StepDone], kind: DocKind, number: str) -> None:
    """Whose last step it was has none now."""
    for person, step in steps.items():
        if step.ref == Ref(kind, number):
            steps.put(person, None)
            return
