"""Rules of cross-docking: which goods that come need not be stored, because somebody waits for them."""

from __future__ import annotations

from mindful_crate.core.catalog.goods import OrderKind
from mindful_crate.core.catalog.ids import DockRuleId, SiteCode
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.bin_rules import Conditions
from mindful_crate.core.rulebook.steps import BY_RULES, Place


@record
class DockRule:
    """For goods for which its conditions hold, and orders of the kinds in ``goes``, all when there are none. They go to the lane ``to`` and are picked
    from there, or, with ``through``, straight to the first station after picking. They may leave before goods elsewhere that expire up to
    ``jumps`` days earlier."""

    id: DockRuleId
    applies: Conditions = Conditions()
    goes: tuple[OrderKind, ...] = ()
    through: bool = False
    to: Place = BY_RULES
    jumps: int = 0
    site: SiteCode | None = None
    on: bool = True
