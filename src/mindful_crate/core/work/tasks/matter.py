"""Tasks, whatever they are for. Its row among the matters."""

from __future__ import annotations

from mindful_crate.core.work.rows import Matter
from mindful_crate.core.work.tasks import before
from mindful_crate.core.work.tasks.decide import DECIDES
from mindful_crate.core.work.tasks.fold import FOLDS
from mindful_crate.core.work.tasks.invariants import tasks
from mindful_crate.core.work.tasks.papers import PAPERS
from mindful_crate.core.work.tasks.words import ASKED, MAKES, WORDS

TASKS = Matter(
    "tasks",
    DECIDES,
    (*FOLDS, *before.FOLDS),
    WORDS,
    papers=PAPERS,
    asked=ASKED,
    makes=MAKES,
    invariants=(tasks,),
)
"""What it brings."""
