"""What if: the open goods of a site asked for one after another, each keeping what was chosen for those before it.

Nothing is stored and no world is changed: what is supposed is put under the journal and taken back. Whoever asks has the
state to themselves meanwhile.
"""

from __future__ import annotations

from dataclasses import dataclass

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Order, OrderLine
from mindful_crate.core.catalog.ids import BinCode, PlateKindCode
from mindful_crate.core.floor.state import State
from mindful_crate.core.placing.choose import choose
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.placing.rules import bins_in
from mindful_crate.core.rulebook.bin_rules import BinPurpose, BinRule
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.trail import Trail
from mindful_crate.core.work.tasks.fold import suppose


@dataclass(frozen=True, slots=True)
class Supposed:
    """What the rules answer for one open order line, or for one case of an item."""

    trail: Trail
    quantity: int
    item: str
    order: Order | None = None
    line: OrderLine | None = None


def open_goods(
    state: State, rulebook: Rulebook, purpose: BinPurpose, plate_kind: PlateKindCode | None, door: BinCode | None
) -> list[Supposed]:
    """Every open line of inbound orders, put by these rules; or for a purpose that takes, one unit of every item
    that is in stock, the largest unit there is a barcode for."""
    if purpose.takes:
        return _taken(state, rulebook, purpose)
    rules = rulebook.rules_for(state.settings.site, purpose)
    today = state.settings.starts.date()
    found: list[Supposed] = []
    orders = [o for o in state.all_orders() if o.site == state.settings.site and o.inbound]
    with state.tentatively():
        for order in sorted(orders, key=lambda o: (o.promised, o.number)):
            for line in order.lines:
                still = state.open_quantity(order, line)
                if still <= 0:
                    continue
                request = BinRequest(
                    state.settings.site, purpose, (Goods(line.item, still),), plate_kind, order_kind=order.kind,
                    partners=(order.partner,), from_bin=door, door=door, today=today,
                )  # fmt: skip
                trail = choose(request, rules, state)
                suppose(state, trail, f"what-if {len(found)}")
                found.append(Supposed(trail, still, line.item, order, line))
    return found


def _taken(state: State, rulebook: Rulebook, purpose: BinPurpose) -> list[Supposed]:
    site, today = state.settings.site, state.settings.starts.date()
    rules = rulebook.rules_for(site, purpose)
    replenish = rulebook.rules_for(site, BinPurpose.REPLENISH_FROM) if purpose is BinPurpose.PICK_FROM else ()
    found: list[Supposed] = []
    for item in state.ground.items.values():
        if state.lines(item.code):
            coded = {b.unit for b in state.ground.barcodes_of.get(item.code, ())}
            quantity = max((u.quantity for u in item.units if u.code in coded), default=1)
            request = BinRequest(site, purpose, (Goods(item.code, quantity),), today=today)
            found.append(Supposed(choose(request, rules, state, replenish), quantity, item.code))
    return found


@dataclass(frozen=True, slots=True)
class Reach:
    """How many bins a rule looks at, how many of them are empty and free, and how many open goods it decides."""

    bins: int
    empty: int
    decides: int


def reach_told(each: Reach, of: int, purpose: BinPurpose) -> str:
    """How far a rule reaches, in words; ``of`` so many open goods that were asked about."""
    bins = "1 bin" if each.bins == 1 else f"{each.bins:,} bins"
    what = "items" if purpose.takes else "open lines"
    return f"looks at {bins}, {each.empty:,} empty; decides {each.decides} of {of} {what}"


def reach(state: State, rules: tuple[BinRule, ...], supposed: list[Supposed]) -> dict[str, Reach]:
    """The reach of every rule of a list."""
    found = {}
    for rule in rules:
        homes = {code for bins in state.ground.homes.values() for code in bins}
        bins = {
            b.code
            for t in rule.targets
            for b in bins_in(state.ground, state.settings.site, t.look_in)
            if not t.look_in.own_plate and (not t.look_in.home_bins or b.code in homes)
        }
        empty = sum(
            1 for c in bins if state.blocked(c) is None and not state.held(c).kinds and not state.held(c).plates
        )
        decides = sum(any(a.rule == rule.id for a in s.trail.allocations) for s in supposed)
        found[rule.id] = Reach(len(bins), empty, decides)
    return {str(k): v for k, v in found.items()}
