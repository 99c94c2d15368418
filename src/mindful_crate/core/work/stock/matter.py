"""Care of stock: reservations and blocks. Its row among the matters."""

from __future__ import annotations

from mindful_crate.core.work.rows import Matter
from mindful_crate.core.work.stock.decide import DECIDES
from mindful_crate.core.work.stock.fold import FOLDS
from mindful_crate.core.work.stock.invariants import reservations
from mindful_crate.core.work.stock.words import ASKED, MAKES, WORDS

STOCK = Matter("stock", DECIDES, FOLDS, WORDS, asked=ASKED, makes=MAKES, invariants=(reservations,))
"""What it brings."""
