"""What a result says, and whether it still speaks for the rehearsal, the rules and the engine of today."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.proving.rehearse import ENGINE
from mindful_crate.core.record import record

Verdict = Literal["passed", "failed", "nothing_expected"]


@record
class Basis:
    """What a run stands on: the rehearsal's version, its opening state and the rulebook by their hashes, the engine."""

    version: int
    opening: str
    rulebook: str
    engine: str = ENGINE


def verdict(passed: bool, checked: int) -> Verdict:
    """What came of a run that looked at so many expectations: with none, that nothing went wrong says little."""
    return "failed" if not passed else "passed" if checked else "nothing_expected"


def stale(ran: Basis, today: Basis) -> str:
    """Why a result no longer speaks for today, in words; empty while it does. With no rulebook of today, whatever rules
    it ran on will do."""
    if ran.version != today.version:
        return f"it ran as version {ran.version}"
    if ran.opening != today.opening:
        return "it ran on another opening state"
    if ran.engine != today.engine:
        return "another version of Mindful Crate ran it"
    return "the rules were others" if today.rulebook and ran.rulebook != today.rulebook else ""
