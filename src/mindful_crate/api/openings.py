"""A floor as it is at the opening, and the day on which a rehearsal begins there."""

from __future__ import annotations

from datetime import date, datetime
from zoneinfo import ZoneInfo

from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.state import Settings, State
from mindful_crate.store.worlds import local_start


def local_date(ground: Ground, site: SiteCode, at: datetime) -> date:
    """The site's date at a moment."""
    return at.astimezone(ZoneInfo(ground.sites[site].time_zone)).date()


def opening_state(ground: Ground, site: str) -> State:
    """The floor as it is at the opening."""
    key = ("opening state", site)
    if key not in ground.remembered:
        zone = ground.sites[SiteCode(site)].time_zone
        starts = local_start(zone, first_day(ground, SiteCode(site)), 8, 30)
        ground.remembered[key] = State(ground, Settings(SiteCode(site), starts))
    found: State = ground.remembered[key]
    return found


FIRST_DAY = date(2026, 1, 5)
"""When a rehearsal starts on a site that has no order yet."""


def first_day(ground: Ground, site: SiteCode) -> date:
    """The day a site's first order is promised: rehearsals start then."""
    return min((o.promised for o in ground.orders.values() if o.site == site), default=FIRST_DAY)
