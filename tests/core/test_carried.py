"""Lines of a wave are kept stock for one after another with what is free carried along: as if each had asked anew."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from mindful_crate.core.catalog.ids import ReservationNo
from mindful_crate.core.floor.reservations import Reserved
from mindful_crate.core.floor.state import State
from mindful_crate.core.placing.choose import choose
from mindful_crate.core.placing.free import Carried
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.bin_rules import BinRule
from mindful_crate.core.trail import Trail
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.fold import apply
from tests.core import small
from tests.core.test_placing import Stock
from tests.properties import tried


def kept(floor: State, trail: Trail, number: int) -> None:
    """What a decision gave is reserved."""
    parts = tuple(Reserved(a.bin, a.goods, a.plate, a.rule) for a in trail.allocations if a.goods)
    if parts:
        event = ev.StockReserved(ReservationNo(f"R{number}"), "O", trail.request.goods[0].item, parts)
        stamp = acts.Stamp(f"r{number}", small.STARTS, small.TODAY, "office")  # type: ignore[arg-type]
        act = acts.BlockBin("Z1-0")  # type: ignore[arg-type]
        apply(floor, ev.Entry(floor.seq + 1, acts.Command(stamp, act), ev.Done((event,), "x")))


@tried(300)
@given(small.stocks(), st.lists(small.takings, min_size=2, max_size=8), small.taking_lists, small.taking_lists)
def test_what_is_carried_decides_as_what_is_asked_anew(
    stock: Stock, asked: list[BinRequest], rules: tuple[BinRule, ...], replenish: tuple[BinRule, ...]
) -> None:
    """Whatever was taken before, of whatever lot, for partners with whatever keeping days: the same trail, line by line."""
    rows, plates = stock
    once = {evolve(row, quantity=1): row for row in rows}  # as no opening has a row twice
    floor, carried = small.floor(tuple(once.values()), plates), Carried()
    for number, request in enumerate(asked):
        anew = choose(request, rules, floor, replenish)
        along = choose(request, rules, floor, replenish, carried)
        assert along == anew
        kept(floor, along, number)
