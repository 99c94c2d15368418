"""Of which items a decision changed what is free, what is here, what is wanted or what is on its way.

Goods that go from one place to another together with what keeps them for somebody change none of it: a picker's every take would else be
paid for by all lines of its item.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Hashable, Sequence

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import BinCode, ItemCode, PlateNo, TaskNo
from mindful_crate.core.floor.orders import NOTHING, HostOrder
from mindful_crate.core.floor.reservations import Reservation, parts_changed, place_of
from mindful_crate.core.floor.state import State
from mindful_crate.core.record import apart

Apart = Counter[tuple[ItemCode, Hashable]]
"""By item and place: how much more lies there than is kept there; by item and line: how much more is kept for it. Both since a decision
began, in base units."""


def items_touched(state: State) -> set[ItemCode]:
    """Items whose cover is to be judged anew after what was put since the decision began."""
    found: set[ItemCode] = set()
    sums: Apart = Counter()
    plates, bins, going = state.plates, state.bins, state.tasks.going
    seen: set[tuple[int, Hashable]] = set()
    for keeper, key, before in state.journal.puts():
        if keeper is plates.spots and before is None and key not in state.ground.plates:
            pass  # it was nowhere: what has come onto it since is counted by itself
        elif keeper is plates.spots:
            found.update(g.item for n in plates.tower(key) for g in plates.goods_on(n))
        elif keeper is bins.blocks:
            found.update(g.item for g in state.loose(key))
            found.update(g.item for p in plates.standing_in(key) for n in plates.tower(p) for g in plates.goods_on(n))
        elif keeper is state.progress:
            # what is noted on a plate is still on its way
            order, now = state.order(key.order), state.progress.get(key, NOTHING)
            was = before or NOTHING
            line = state.ordered.line(order, key.line) if order else None
            if line is not None and (was.arrived, was.closed, was.shipped) != (now.arrived, now.closed, now.shipped):
                found.add(line.item)
        elif keeper is state.ordered.told or keeper is state.ordered.in_host:
            was_so = before.order if isinstance(before, HostOrder) else before or state.ground.orders.get(key)
            found.update(x.item for x in (was_so.lines if was_so else ()))
        elif (id(keeper), key) in seen:
            continue  # counted from the first put of it to what is there now
        elif keeper is bins.loose_now:
            _lie(sums, (key, None, None), bins.loose_was(key, before), state.loose(key))
        elif keeper is plates.goods:
            _lie(sums, (BinCode(""), key, None), plates.goods_were(key, before), plates.goods_on(key))
        elif keeper is going:
            held = state.tasks.going.get(key)
            _lie(sums, (BinCode(""), None, key), before.hands if before else (), held.hands if held else ())
        elif keeper is state.reservations:
            _keep(sums, before, state.reservations.get(key))
        seen.add((id(keeper), key))
    found.update(item for (item, _), n in sums.items() if n)
    return found


def _lie(
    sums: Apart, at: tuple[BinCode, PlateNo | None, TaskNo | None], before: Sequence[Goods], now: Sequence[Goods]
) -> None:  # fmt: skip
    code, plate, task = at
    gone, come = apart(before, now)
    for goods, sign in (*((g, -1) for g in gone), *((g, 1) for g in come)):
        sums[goods.item, place_of(code, plate, goods, task)] += sign * goods.quantity


def _keep(sums: Apart, before: Reservation | None, now: Reservation | None) -> None:
    gone, come = parts_changed(before, now)
    for kept, parts, sign in ((before, gone, 1), (now, come, -1)):
        for part in parts:
            assert kept is not None
            if kept.task is None:
                sums[part.goods.item, place_of(part.bin, part.plate, part.goods, part.task)] += (
                    sign * part.goods.quantity
                )
            if kept.serves is not None:
                sums[kept.item, kept.serves] += sign * part.goods.quantity
