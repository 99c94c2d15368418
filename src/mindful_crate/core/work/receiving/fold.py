"""How its events change a state: receiving goods."""

from __future__ import annotations

from collections.abc import Callable

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import PlateKindCode
from mindful_crate.core.catalog.refs import DocKind, line_key
from mindful_crate.core.floor.ledger import Cause
from mindful_crate.core.floor.plates import Card, PlateLine, goods_of, in_bin, on_plate
from mindful_crate.core.floor.receipts import Closing, Receipt
from mindful_crate.core.floor.serials import numbers_of
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.steps_done import StepDone
from mindful_crate.core.record import evolve, maker
from mindful_crate.core.work.receiving.events import (
    LineChanged,
    LineClosed,
    LineNoted,
    LineReopened,
    LoadStarted,
    PlateFinished,
    PlateStarted,
    SurplusSentBack,
    SurplusTaken,
)
from mindful_crate.core.work.rows import folding
from mindful_crate.core.work.stamp import At

_line: Callable[..., PlateLine] = maker(PlateLine)
_receipt: Callable[..., Receipt] = maker(Receipt)
_card: Callable[..., Card] = maker(Card)


def _plate_started(state: State, e: PlateStarted, at: At) -> None:
    plates = state.plates
    if e.plate in state.ground.plates:  # logs of 0.5.0 may: the old plate of that number is gone then
        plates.goods.put(e.plate, ())
    plates.spots.put(e.plate, in_bin(e.bin))
    card = _card(e.plate_kind, True, e.person, at.stamp.at, at.seq, None, None, None, None, 0)
    plates.cards.put(e.plate, card)


def _load_started(state: State, e: LoadStarted, at: At) -> None:
    card = Card(PlateKindCode(""), by=e.person, since=at.stamp.at, begun=at.seq, into=e.into)
    state.plates.cards.put(e.load, card)


def _line_noted(state: State, e: LineNoted, at: At) -> None:
    line = _line(
        e.line, e.order, e.order_line, e.item, e.unit, e.quantity, e.lot, e.expiry, at.seq, e.over, e.note, e.serials
    )
    lines = state.plates.lines
    lines.put(e.plate, (*lines.get(e.plate, ()), line))
    state.progress.add(line_key(e.order, e.order_line), at.seq, noted=e.quantity, over=e.over)


def _line_changed(state: State, e: LineChanged, at: At) -> None:
    lines = state.plates.lines[e.plate]
    old = next(x for x in lines if x.line == e.line)
    changed = (
        evolve(x, quantity=e.quantity, seq=at.seq, over=e.over, serials=x.serials[: e.quantity])
        if x.line == e.line
        else x
        for x in lines
    )
    state.plates.lines.put(e.plate, tuple(x for x in changed if x.quantity))
    state.progress.add(old.key, at.seq, noted=e.quantity - old.quantity, over=e.over - old.over)


def _line_closed(state: State, e: LineClosed, at: At) -> None:
    state.progress.add(line_key(e.order, e.line), at.seq, closed=e.quantity)
    if e.receipt:
        receipt = state.receipts[e.receipt]
        state.receipts.put(e.receipt, evolve(receipt, closed=(*receipt.closed, Closing(e.order, e.line, e.quantity))))


def _line_reopened(state: State, e: LineReopened, at: At) -> None:
    state.progress.add(line_key(e.order, e.line), at.seq, closed=-e.quantity)


def _plate_finished(state: State, e: PlateFinished, at: At) -> None:
    plates, stamp = state.plates, at.stamp
    card, lines = plates.cards[e.plate], plates.lines.get(e.plate, ())
    for line in lines:
        state.progress.add(line.key, at.seq, noted=-line.quantity, arrived=line.quantity)
    on_it = goods_of(lines, stamp.today, e.inspect, e.statuses)
    if e.held:
        on_it = tuple(evolve(g, status=Status.QUARANTINE) for g in on_it)
    into = card.into or state.bin_of(e.plate)
    state.receipts.put(
        e.receipt,
        _receipt(e.receipt, e.plate, lines, e.booking, False, False, "", at.seq, 0, (), 0, False, e.held, into),
    )
    plates.lines.put(e.plate, None)
    state.ledger.enter(Cause.RECEIPT, in_bin(card.into) if card.into else on_plate(e.plate), on_it)
    for line in lines:
        if line.serials:
            other = dict(e.statuses).get(line.line, Status.AVAILABLE)
            status = Status.QUARANTINE if e.held else Status.INSPECT if line.line in e.inspect else other
            goods = Goods(line.item, 1, line.lot, line.expiry, status, stamp.today)
            state.serials.enter(in_bin(card.into) if card.into else on_plate(e.plate), goods, line.serials)
    done = _card(
        card.plate_kind, False, e.person, card.since, card.begun, card.into, e.receipt, stamp.device, stamp.at, at.seq
    )
    plates.cards.put(e.plate, done)
    state.steps_done.put(e.person, StepDone(DocKind.RECEIPT, e.receipt, at.seq))


def _surplus_taken(state: State, e: SurplusTaken, _: At) -> None:
    receipt = state.receipts[e.receipt]
    for goods in e.goods:
        state.ledger.turn(e.spot, goods, evolve(goods, status=Status.AVAILABLE), numbers_of(receipt.lines))
    state.receipts.put(e.receipt, evolve(receipt, held=False))


def _surplus_sent_back(state: State, e: SurplusSentBack, at: At) -> None:
    receipt = state.receipts[e.receipt]
    state.ledger.leave(Cause.RECEIPT, e.spot, e.goods, numbers_of(receipt.lines))
    for line in receipt.lines:
        state.progress.add(line.key, at.seq, arrived=-line.quantity, over=-line.over)
    state.receipts.put(e.receipt, evolve(receipt, held=False, undone=at.seq))


FOLDS = (
    folding(SurplusTaken, _surplus_taken),
    folding(SurplusSentBack, _surplus_sent_back),
    folding(PlateStarted, _plate_started),
    folding(LoadStarted, _load_started),
    folding(LineNoted, _line_noted),
    folding(LineChanged, _line_changed),
    folding(LineClosed, _line_closed),
    folding(LineReopened, _line_reopened),
    folding(PlateFinished, _plate_finished),
)
"""How its events change a state."""
