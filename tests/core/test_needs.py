"""The table of needs is what the rehearsals and the tests of screens say."""

from __future__ import annotations

from dataclasses import replace

import pytest

from mindful_crate.demo.loader import demo_rehearsals
from tests import needs


def test_the_table_is_what_is_pinned() -> None:
    """Written anew it is the same: a step, a pin or a test that is gone shows here. ``python -m tests.needs`` writes it."""
    assert needs.PATH.read_text() == needs.table()


def test_nothing_counts_that_pins_nothing(monkeypatch: pytest.MonkeyPatch) -> None:
    """A step that says it shows something and expects nothing is an error, and so is a number that is none."""
    script = next(r for r in demo_rehearsals() if r.at_end and any(s.shows for s in r.steps))
    bare = replace(script, steps=tuple(replace(s, expect=()) if s.shows else s for s in script.steps))
    monkeypatch.setattr(needs, "demo_rehearsals", lambda: [bare])
    with pytest.raises(ValueError, match="pins nothing"):
        needs.table()
    monkeypatch.setattr(needs, "demo_rehearsals", lambda: [replace(script, shows=("Z99",))])
    with pytest.raises(ValueError, match="is no need"):
        needs.table()
