"""How many examples the dear properties try: few with everything else, many by a command (``CRATE_MANY=10 ./crate test core``)."""

from __future__ import annotations

import os
from typing import Any

from hypothesis import settings

MANY = int(os.environ.get("CRATE_MANY", "1"))
"""So many times what is tried with everything else."""


def tried(few: int, **more: Any) -> settings:
    """Settings of a property that tries ``few`` examples, or ``MANY`` times as many."""
    return settings(max_examples=few * MANY, deadline=None, **more)
