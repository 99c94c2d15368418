"""The host: its orders, and the messages between it and the floor. Its row among the matters."""

from __future__ import annotations

from mindful_crate.core.work.host.decide import DECIDES
from mindful_crate.core.work.host.fold import FOLDS
from mindful_crate.core.work.host.papers import PAPERS
from mindful_crate.core.work.host.production import DECIDES as PRODUCTION
from mindful_crate.core.work.host.words import ASKED, WORDS
from mindful_crate.core.work.rows import Matter

HOST = Matter("host", (*DECIDES, *PRODUCTION), FOLDS, WORDS, papers=PAPERS, asked=ASKED)
"""What it brings."""
