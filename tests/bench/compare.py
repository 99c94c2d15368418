"""Our answer in the yardsticks' terms."""

from __future__ import annotations

from mindful_crate.core.floor.state import State
from mindful_crate.core.placing.choose import choose
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.trail import Outcome
from tests.bench.big import BigSite
from tests.bench.naive import Answer


def ours(site: BigSite, state: State, request: BinRequest) -> Answer:
    """The answer of ``choose`` with its outcomes."""
    trail = choose(request, site.taking if request.purpose.takes else site.putting, state)
    shares = [(a.bin, a.plate or "", a.quantity) for a in trail.allocations]
    asked = [(x.rule, x.target or "", x.outcome) for x in trail.lines if x.outcome is not Outcome.REPLENISH]
    return shares, trail.rest, asked  # type: ignore[return-value]
