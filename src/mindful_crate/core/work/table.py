"""Every matter in one place: what it decides, folds and tells."""

from __future__ import annotations

from mindful_crate.core.work import clock
from mindful_crate.core.work.handset import decide as handset_decide
from mindful_crate.core.work.handset import fold as handset_fold
from mindful_crate.core.work.handset import words as handset_words
from mindful_crate.core.work.host import decide as host_decide
from mindful_crate.core.work.host import fold as host_fold
from mindful_crate.core.work.host import words as host_words
from mindful_crate.core.work.moving import decide as moving_decide
from mindful_crate.core.work.putting import decide as putting_decide
from mindful_crate.core.work.receiving import decide as receiving_decide
from mindful_crate.core.work.receiving import fold as receiving_fold
from mindful_crate.core.work.receiving import words as receiving_words
from mindful_crate.core.work.rows import Matter
from mindful_crate.core.work.stock import decide as stock_decide
from mindful_crate.core.work.stock import fold as stock_fold
from mindful_crate.core.work.stock import words as stock_words
from mindful_crate.core.work.tasks import decide as tasks_decide
from mindful_crate.core.work.tasks import fold as tasks_fold
from mindful_crate.core.work.tasks import words as tasks_words

MATTERS = (
    Matter("host", host_decide.DECIDES, host_fold.FOLDS, host_words.WORDS),
    Matter("handset", handset_decide.DECIDES, handset_fold.FOLDS, handset_words.WORDS),
    Matter("tasks", tasks_decide.DECIDES, folds=tasks_fold.FOLDS, words=tasks_words.WORDS),
    Matter("receiving", receiving_decide.DECIDES, receiving_fold.FOLDS, receiving_words.WORDS),
    Matter("putting", putting_decide.DECIDES),
    Matter("moving", moving_decide.DECIDES),
    Matter("stock", stock_decide.DECIDES, stock_fold.FOLDS, stock_words.WORDS),
    Matter("clock", clock.DECIDES, clock.FOLDS, clock.WORDS),
)
