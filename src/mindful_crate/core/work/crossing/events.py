"""What happens: goods that are still to come are tied to orders."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.tasks import Serves
from mindful_crate.core.record import record


@record
class LineTied:
    """So much of a line that comes in goes straight to these lines, in their order; none: it is stored like anything else."""

    inbound: LineKey
    to: tuple[Serves, ...]
    kind: Literal["line_tied"] = "line_tied"


CrossingEvent = LineTied
"""What may happen."""
