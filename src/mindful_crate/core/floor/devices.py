"""Handsets on a live floor, and by which rules each shows its menu and asks its questions; scales."""

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


@record
class Scale:
    """A scale stand-in: ``down`` it answers nothing; it reads so much more or less than lies on it; ``typed_mg``: what somebody says that lies on it,
    whatever does."""

    down: bool = False
    drift_mg: int = 0
    typed_mg: int | None = None


@record
class CarrierStandIn:
    """How a carrier stand-in behaves: ``down`` it answers nothing, ``refuses`` why it takes no booking, and how many seconds it takes for one. ``real``: it is
    none, but asked in earnest, and answers when it does."""

    down: bool = False
    refuses: str = ""
    seconds: int = 0
    real: bool = False
