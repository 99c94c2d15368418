"""A floor as it is at the opening, and the day on which a rehearsal begins there."""

from __future__ import annotations

from datetime import date, datetime
from zoneinfo import ZoneInfo

from mindful_crate.core.catalog.ids import PersonId, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.state import Settings, State
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.store.worlds import local_start


def local_date(ground: Ground, site: SiteCode, at: datetime) -> date:
    """The site's date at a moment."""
    return at.astimezone(ZoneInfo(ground.sites[site].time_zone)).date()


def local_now(ground: Ground, site: SiteCode, at: datetime) -> datetime:
    """A moment by the clocks of the site, without a zone."""
    return at.astimezone(ZoneInfo(ground.sites[site].time_zone)).replace(tzinfo=None)


def asked_now(state: State) -> Stamp:
    """The stamp of what is asked of a floor on a bench, as its clock stands."""
    now = local_now(state.ground, state.settings.site, state.clock)
    return Stamp("bench", state.clock, now.date(), PersonId("bench"), minute=now.hour * 60 + now.minute)


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
