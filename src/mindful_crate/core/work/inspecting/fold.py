"""How its events change a state: inspecting what has arrived."""

from __future__ import annotations

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.floor.inspections import goods_key, pair_key
from mindful_crate.core.floor.plates import Card, in_bin, on_plate
from mindful_crate.core.floor.serials import Serials
from mindful_crate.core.floor.state import State
from mindful_crate.core.record import evolve
from mindful_crate.core.work.inspecting.events import GoodsInspected, ReceiptCounted, SampleFailed
from mindful_crate.core.work.rows import folding
from mindful_crate.core.work.stamp import At


def _receipt_counted(state: State, e: ReceiptCounted, _: At) -> None:
    key = pair_key(e.item, e.partner)
    state.receipts_counted.put(key, (state.receipts_counted.get(key) or 0) + 1)


def _sample_failed(state: State, e: SampleFailed, at: At) -> None:
    state.samples_failed.put(goods_key(e.task, e.goods), at.seq)


def _goods_inspected(state: State, e: GoodsInspected, at: At) -> None:
    spot = on_plate(e.plate) if e.plate else in_bin(e.at)
    state.samples_failed.put(goods_key(e.task, e.goods), None)
    passed = e.goods.quantity - e.failed
    all_of_them = (Serials(e.goods.item, e.serials),) if e.serials else ()
    failing = (Serials(e.goods.item, e.failing),) if e.failing else all_of_them
    passing = (Serials(e.goods.item, tuple(n for n in e.serials if n not in e.failing)),) if e.serials else ()
    parts = ((e.failed, e.fault or Status.QUARANTINE, failing), (passed, Status.AVAILABLE, passing))
    for quantity, status, named in parts:
        if quantity:
            before = evolve(e.goods, quantity=quantity)
            state.ledger.turn(spot, before, evolve(before, status=status), named)
    if e.onto and e.plate:
        _split(state, e, evolve(e.goods, quantity=e.failed, status=e.fault or Status.QUARANTINE), at)


def _split(state: State, e: GoodsInspected, failed: Goods, at: At) -> None:
    """What fails stands on a plate of its own, which is of the same receipt."""
    assert e.plate and e.onto
    plates, whole = state.plates, state.plates.cards[e.plate]
    plates.spots.put(e.onto, in_bin(e.at))
    plates.cards.put(
        e.onto, Card(whole.plate_kind, False, e.by, at.stamp.at, at.seq, None, whole.receipt, at.stamp.device, at.stamp.at, at.seq)
    )  # fmt: skip
    state.ledger.move((failed,), on_plate(e.plate), on_plate(e.onto))


FOLDS = (
    folding(ReceiptCounted, _receipt_counted),
    folding(SampleFailed, _sample_failed),
    folding(GoodsInspected, _goods_inspected),
)
"""How its events change a state."""
