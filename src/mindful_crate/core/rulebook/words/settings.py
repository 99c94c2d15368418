"""Layered settings in words."""

from __future__ import annotations

from typing import Any

from mindful_crate.core.rulebook.settings import Level, Sync
from mindful_crate.core.rulebook.words.scanner import NEXT_CONFIRMS, OTHER_BIN
from mindful_crate.core.rulebook.words.steps import BOOKING

SYNC = {
    Sync.AT_ONCE: "at their next question",
    Sync.EVERY_5: "when 5 minutes have passed, at the menu",
    Sync.EVERY_15: "when 15 minutes have passed, at the menu",
    Sync.EVERY_60: "when an hour has passed, at the menu",
    Sync.NEVER: "never by themselves: each when somebody taps for it",
}
TABLES: dict[str, dict[Any, str]] = {
    "booking": BOOKING,
    "other_bin": OTHER_BIN,
    "next_item_confirms": NEXT_CONFIRMS,
    "sync": SYNC,
}
"""The words of each setting's values."""
WHENCE = {
    Level.OWN: "set there",
    Level.SITE: "set for this site",
    Level.GENERAL: "set for all sites",
    Level.BUILT_IN: "as usual",
}
"""Where a value comes from, in a list of what holds."""
TITLES = {
    "booking": "The host is told",
    "other_bin": "Another bin than the one shown",
    "next_item_confirms": "Scanning the next item",
    "sync": "Handsets take new menus and flows",
}
