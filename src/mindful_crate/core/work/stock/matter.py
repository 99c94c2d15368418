"""Care of stock: reservations and blocks. Its row among the matters."""

from __future__ import annotations

from mindful_crate.core.work.rows import Matter
from mindful_crate.core.work.stock.decide import DECIDES
from mindful_crate.core.work.stock.fold import FOLDS
from mindful_crate.core.work.stock.words import WORDS

STOCK = Matter("stock", DECIDES, FOLDS, WORDS)
"""What it brings."""
