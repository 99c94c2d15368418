"""What happens: shelves wait to be filled by the clock."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.record import record


@record
class RefillsAwaited:
    """Shelves are filled next at the first of these minutes of the day; none: never by the clock."""

    minutes: tuple[int, ...]
    kind: Literal["refills_awaited"] = "refills_awaited"


RefillingEvent = RefillsAwaited
"""What may happen."""
