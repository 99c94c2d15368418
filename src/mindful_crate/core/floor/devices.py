"""Handsets on a live floor, and by which rules each shows its menu and asks its questions."""

from __future__ import annotations

from datetime import datetime

from mindful_crate.core.catalog.ids import DeviceId
from mindful_crate.core.record import record


@record
class Synced:
    """What a handset was given last: the hash of the rules (empty: those the floor was begun with), and when."""

    device: DeviceId
    rules: str
    at: datetime
