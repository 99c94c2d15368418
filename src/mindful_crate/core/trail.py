"""The why trail: the record of how bins were chosen.

Deciding records a line for every rule and target that was asked, and the winners. The counts behind the lines
are computed by ``placing.explain`` when somebody asks.
"""

from __future__ import annotations

from enum import StrEnum

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import BinCode, DockRuleId, PlateNo, RecipeId, RuleId, TargetId
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.record import record


class Outcome(StrEnum):
    """What became of a rule or target."""

    OFF = "off"
    DOES_NOT_APPLY = "does_not_apply"
    NO_BIN = "no_bin"
    PART = "part"
    """Bins were found for a part; what is left goes on."""
    CHOSEN = "chosen"
    """Bins were found for all that was left."""
    OVERFLOW = "overflow"
    """What was left goes to the rule's overflow bin."""
    ASKS = "asks"
    """No bin, and the rule says to ask the worker."""
    REPLENISH = "replenish"
    """The earliest expiry lies where only replenishment takes from."""


@record
class Allocation:
    """A share of the quantity in one bin. For taking, ``goods`` says exactly what, ``plate`` from which plate."""

    bin: BinCode
    quantity: int
    rule: RuleId
    target: TargetId | None = None
    plate: PlateNo | None = None
    goods: Goods | None = None


@record
class TrailLine:
    """One rule or target that was asked. ``says`` gives the condition that failed, or why the bin was chosen."""

    rule: RuleId
    outcome: Outcome
    says: str
    target: TargetId | None = None


_passed_over: dict[tuple[RuleId, str], TrailLine] = {}


def does_not_apply(rule: RuleId, says: str) -> TrailLine:
    """The line of a rule that does not apply. The same few come again and again, so they are shared."""
    line = _passed_over.get((rule, says))
    if line is None:
        if len(_passed_over) > 20_000:
            _passed_over.clear()
        line = _passed_over[rule, says] = TrailLine(rule, Outcome.DOES_NOT_APPLY, says)
    return line


@record
class RecipeLook:
    """One task recipe that was asked: whether it makes the task, and why or why not."""

    recipe: RecipeId
    makes: bool
    says: str


@record
class DockLook:
    """One rule of cross-docking that was asked for an order line: whether the goods go there instead of being stored, and why or why not."""

    rule: DockRuleId
    line: str
    takes: bool
    says: str


@record
class Trail:
    """The answer to a :class:`BinRequest`: where each share goes or comes from, and how that came about."""

    request: BinRequest
    lines: tuple[TrailLine, ...]
    allocations: tuple[Allocation, ...] = ()
    rest: int = 0
    """What no rule found a bin for, in base units."""
    recipe: tuple[RecipeLook, ...] = ()
    """The recipes that were asked how this becomes a task."""
    docks: tuple[DockLook, ...] = ()
    """Of goods that come: the rules of cross-docking that were asked, for whom."""

    @property
    def bin(self) -> BinCode | None:
        """The first bin."""
        return self.allocations[0].bin if self.allocations else None

    @property
    def rule(self) -> RuleId | None:
        """The rule that chose the first bin."""
        return self.allocations[0].rule if self.allocations else None
