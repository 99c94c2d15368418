"""Which site an order goes to that names none: the one that serves the channel it came by."""

from __future__ import annotations

from collections.abc import Iterable

from mindful_crate.core.catalog.goods import Channel
from mindful_crate.core.catalog.ids import SiteCode


def serving(channels: Iterable[Channel], channel: str) -> SiteCode | None:
    """The site that serves a channel; None: there is none, or no such channel."""
    return next((c.site for c in channels if c.code == channel), None)


def not_served(channel: str) -> str:
    """Why an order that names no site has none, for a sentence."""
    return f"no site serves its channel `{channel}`" if channel else "it names no channel either"
