"""Returns: what is accepted from whom and how long after it was shipped, and how what comes back is marked."""

from __future__ import annotations

from enum import StrEnum

from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import ItemCode, PartnerCode, ReturnMarkId, ReturnRuleId, SiteCode
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.bin_rules import Disposition


class Accepts(StrEnum):
    """What a rule says of goods that come back."""

    WITHIN = "within"
    """Accepted so many days after they were shipped; the last day counts."""
    ALWAYS = "always"
    NEVER = "never"


class Otherwise(StrEnum):
    """What becomes of what is not accepted, or was never shipped to whoever sends it."""

    REFUSE = "refuse"
    HOLD = "hold"
    """It is taken in and kept apart until a supervisor has looked."""
    ACCEPT = "accept"


@record
class ReturnRule:
    """A rule: goods that come back go by the first of a list that is for them. Empty conditions hold for everything."""

    id: ReturnRuleId
    items: tuple[ItemCode, ...] = ()
    groups: tuple[str, ...] = ()
    partners: tuple[PartnerCode, ...] = ()
    partner_groups: tuple[str, ...] = ()
    stranger: PartnerCode | None = None
    """Only of whoever is no customer here; what they send back is written down under this partner."""
    accepts: Accepts = Accepts.WITHIN
    days: int = 30
    outside: Otherwise = Otherwise.REFUSE
    never_shipped: Otherwise = Otherwise.REFUSE
    site: SiteCode | None = None
    on: bool = True


@record
class ReturnMark:
    """How goods that come back may be marked: what they become, what is to be done with them (the bin rules ask that), and whether the host credits them."""

    id: ReturnMarkId
    name: str
    status: Status = Status.QUARANTINE
    goes: Disposition = Disposition.RESTOCK
    credits: bool = True
    site: SiteCode | None = None
    on: bool = True
