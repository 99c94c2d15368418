"""By which rules a handset goes, and when it takes those that were put in force since."""

from __future__ import annotations

from datetime import datetime, timedelta

from mindful_crate.core.catalog.ids import DeviceId
from mindful_crate.core.floor.state import State
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.settings import Sync


def behind(state: State, rulebook: Rulebook, device: DeviceId | None) -> bool:
    """Does a handset show menus and ask questions of other rules than those in force?"""
    return state.given_to(device) != state.rules and rulebook.sync_of(state.settings.site) is not Sync.AT_ONCE


def due_in(state: State, rulebook: Rulebook, device: DeviceId, now: datetime) -> timedelta | None:
    """How long until a handset that is behind takes what is in force at its menu; None: it is not behind, or never does by itself."""
    minutes = rulebook.sync_of(state.settings.site).minutes
    known = state.devices.get(device)
    if not minutes or known is None or not behind(state, rulebook, device):
        return None
    return max(timedelta(), known.at + timedelta(minutes=minutes) - now)
