"""The last step that somebody has finished, as far as it may be undone."""

from __future__ import annotations

from mindful_crate.core.catalog.refs import DocKind, Ref
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
