"""The handset: no matter itself, it runs the flows of all."""

from __future__ import annotations

from mindful_crate.core.work.handset.decide import DECIDES
from mindful_crate.core.work.handset.fold import FOLDS
from mindful_crate.core.work.handset.words import WORDS
from mindful_crate.core.work.rows import Matter

HANDSET = Matter("handset", DECIDES, FOLDS, WORDS)
"""What it brings."""
