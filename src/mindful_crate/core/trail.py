"""The why trail: the record of how a bin was chosen.

Deciding records a line for every rule and target that was asked, and the winner. The counts behind the lines
are computed by ``placing.explain`` when somebody asks.
"""

from __future__ import annotations

from enum import StrEnum

from mindful_crate.core.catalog.ids import BinCode, RuleId, TargetId
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.record import record


class Outcome(StrEnum):
    """What became of a rule or target."""

    OFF = "off"
    DOES_NOT_APPLY = "does_not_apply"
    NO_BIN = "no_bin"
    CHOSEN = "chosen"
    ASKS = "asks"
    """No bin, and the rule says to ask the worker."""


@record
class TrailLine:
    """One rule or target that was asked. ``says`` gives the condition that failed, or why the bin was chosen."""

    rule: RuleId
    outcome: Outcome
    says: str
    target: TargetId | None = None


@record
class Trail:
    """The answer to a :class:`BinRequest`: the bin, or None, and how that came about."""

    request: BinRequest
    lines: tuple[TrailLine, ...]
    bin: BinCode | None = None
    rule: RuleId | None = None
