"""All that is decided, folded and told: every matter, and the handset that runs their flows."""

from __future__ import annotations

from mindful_crate.core.work.handset.matter import HANDSET
from mindful_crate.core.work.matters import MATTERS

TABLE = (*MATTERS, HANDSET)
