"""What may be asked: the till."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from mindful_crate.core.record import record


@record
class SetTill:
    """There is a till that copies the stock every so many minutes, from now on; 0: once, and never again. None: there is none."""

    minutes: int | None
    kind: Literal["set_till"] = "set_till"


@record
class TillDue:
    """It is time for the till to copy the stock; ``due``: since when."""

    due: datetime
    kind: Literal["till_due"] = "till_due"


TillAct = SetTill
"""What may be asked."""
