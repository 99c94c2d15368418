"""The books are corrected: goods that are not there, or more than were known; what was kept of them is given up, and that is said."""

from __future__ import annotations

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import BinCode, CountNo, PlateNo
from mindful_crate.core.floor.ledger import Cause
from mindful_crate.core.floor.plates import Holder, Spot
from mindful_crate.core.floor.reservations import Reservation, Reserved
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do
from mindful_crate.core.placing.fit import Lying
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.work import numbered
from mindful_crate.core.work.counting.events import StockCorrected
from mindful_crate.core.work.making import Making
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.stock.events import ReservationCut


def check_plate(state: State, plate: PlateNo | None) -> None:
    """Refuse what is on a plate that somebody is about to move: the task would find something else."""
    if plate is None:
        return
    task = state.task_of(plate)
    if task is not None and not task.state.ended:
        raise Refusal(
            "in_work", f"Plate `{plate}` is to be moved by task `{task.number}`: do that first, or cancel it.", "plate"
        )
    if plate in state.cartons:
        raise Refusal("in_a_carton", f"`{plate}` is a carton of a shipment: take out of it at the bench.", "plate")


def check_loose(state: State, code: BinCode, goods: Goods) -> None:
    """Refuse loose goods that a task is about to move by what they are: it would find something else. What is kept for orders is given up instead."""
    for task in state.tasks.values():
        if task.state.ended or task.need not in (Need.PUT_AWAY, Need.INSPECT):
            continue
        if any(
            m.do is Do.TAKE and m.at == code and m.plate is None and any(g.alike(goods) for g in m.goods)
            for m in task.going.remaining
        ):
            raise Refusal("in_work", f"It is to be moved by task `{task.number}`: do that first, or cancel it.", "bin")


def lost(
    state: State, making: Making, stamp: Stamp, cause: Cause, code: BinCode, spot: Spot, kinds: tuple[Goods, ...], much: int, why: str,
    *, count: CountNo,
) -> list[str]:  # fmt: skip
    """So much of these kinds of goods is not there: from the latest to arrive on; what is said of what was kept of it."""
    plate = PlateNo(spot.code) if spot.holder is Holder.PLATE else None
    check_plate(state, plate)
    told: list[str] = []
    gone: list[Goods] = []
    left = much
    for goods in sorted(kinds, key=lambda g: str(g.arrived or ""), reverse=True):
        take = min(left, goods.quantity)
        if take:
            if plate is None:
                check_loose(state, code, goods)
            told += give_up(state, making, Lying(code, plate, goods), take)
            gone.append(evolve(goods, quantity=take))
            left -= take
    making.event(StockCorrected(stamp.who, cause, code, spot, tuple(gone), True, why, count=count))
    return told


def pieces_lost(
    state: State, making: Making, stamp: Stamp, cause: Cause, code: BinCode, spot: Spot, kinds: tuple[Goods, ...], pieces: tuple[str, ...],
    why: str, *, count: CountNo,
) -> list[str]:  # fmt: skip
    """These pieces are not there; what is said of what was kept of them."""
    plate = PlateNo(spot.code) if spot.holder is Holder.PLATE else None
    check_plate(state, plate)
    parts = numbered.of_pieces(state, spot, kinds, pieces)
    told: list[str] = []
    for goods in parts:
        alike = next(k for k in kinds if k.alike(goods))
        if plate is None:
            check_loose(state, code, alike)
        told += give_up(state, making, Lying(code, plate, alike), goods.quantity)
    named = numbered.named(state, spot, parts, pieces)
    making.event(StockCorrected(stamp.who, cause, code, spot, parts, True, why, named, count=count))
    return told


def give_up(state: State, making: Making, lying: Lying, much: int) -> list[str]:
    """So much of what lies there is kept for nobody from now on, what nobody found first, then what was kept last; what is said of it. Refused where somebody
    is to fetch it from there."""
    holders = [(state.reservations[n], q) for n, q in state.reservations_of(lying)]
    free = lying.goods.quantity - sum(q for _, q in holders)
    over = much - free
    told: list[str] = []
    for reservation, q in sorted(holders, key=lambda h: h[0].missed_by is None):
        if over <= 0:
            break
        if reservation.task is not None:
            says = f"Some of it is kept for task `{reservation.task}`, which brings it to where it is picked: cancel that first."
            raise Refusal("of_a_task", says)
        less = min(over, q)
        over -= less
        making.event(ReservationCut(reservation.number, _without(reservation, lying, less)))
        item = state.ground.items[lying.goods.item]
        if reservation.missed_by is None:
            of = f"line {reservation.line} of `{reservation.order}`" if reservation.order else reservation.holder
            told.append(f"{item.told(less)} of {item.name} are not kept for {of} any more.")
    return told


def _without(reservation: Reservation, lying: Lying, much: int) -> tuple[Reserved, ...]:
    parts: list[Reserved] = []
    for part in reservation.parts:
        there = (
            part.task is None
            and part.plate == lying.plate
            and (part.plate or part.bin == lying.bin)
            and part.goods.alike(lying.goods)
        )
        less = min(much, part.goods.quantity) if there else 0
        much -= less
        if part.goods.quantity > less:
            parts.append(evolve(part, goods=evolve(part.goods, quantity=part.goods.quantity - less)))
    return tuple(parts)


def found_again(state: State, making: Making, code: BinCode, plate: PlateNo | None, kinds: tuple[Goods, ...]) -> None:
    """What somebody did not find is kept from nobody any more: it was counted since."""
    for goods in kinds:
        for number, _ in state.reservations_of(Lying(code, plate, goods)):
            if state.reservations[number].missed_by is not None:
                making.event(ReservationCut(number))
