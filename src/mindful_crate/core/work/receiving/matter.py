"""Receiving: its row among the matters."""

from __future__ import annotations

from mindful_crate.core.rulebook.flows import FlowPurpose
from mindful_crate.core.work.receiving.decide import DECIDES
from mindful_crate.core.work.receiving.flow import Receive
from mindful_crate.core.work.receiving.fold import FOLDS
from mindful_crate.core.work.receiving.goods_prompts import GOODS_PROMPTS
from mindful_crate.core.work.receiving.invariants import orders, received
from mindful_crate.core.work.receiving.order_prompts import ORDER_PROMPTS
from mindful_crate.core.work.receiving.papers import PAPERS
from mindful_crate.core.work.receiving.words import ASKED, MAKES, WORDS
from mindful_crate.core.work.rows import Matter

RECEIVING = Matter(
    "receiving",
    DECIDES,
    FOLDS,
    WORDS,
    {FlowPurpose.RECEIVE: Receive()},
    {**ORDER_PROMPTS, **GOODS_PROMPTS},
    PAPERS,
    ASKED,
    MAKES,
    (received, orders),
)
"""What it brings."""
