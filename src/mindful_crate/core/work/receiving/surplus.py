"""More than was ordered, held apart: split off when a plate or receipt is finished, taken or sent back by the office."""

from __future__ import annotations

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import BinCode, PlateNo, ReceiptNo
from mindful_crate.core.floor.plates import Plate, PlateLine, Spot, goods_of, in_bin, on_plate
from mindful_crate.core.floor.receipts import Receipt
from mindful_crate.core.floor.rests import Rest
from mindful_crate.core.floor.serials import numbers_of
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Task
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.steps import Begins, BookingPoint, Need, Over, StepPlan
from mindful_crate.core.work.host import decide as hosting
from mindful_crate.core.work.making import Making, said
from mindful_crate.core.work.office import LONGEST
from mindful_crate.core.work.putting import doing
from mindful_crate.core.work.receiving import checks as receiving
from mindful_crate.core.work.receiving.acts import SendSurplusBack, TakeSurplus
from mindful_crate.core.work.receiving.events import (
    LineChanged,
    LineNoted,
    LoadStarted,
    PlateFinished,
    PlateStarted,
    SurplusSentBack,
    SurplusTaken,
)
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.tasks.following import after_receipt, end


def held_lines(state: State, rulebook: Rulebook, plate: Plate) -> list[PlateLine]:
    """The lines of what is being finished of which a part is more than was ordered and is to be held."""
    lines = [x for x in plate.lines if x.over]
    return [x for x in lines if receiving.plan_of_line(rulebook, state, x).receive.over is Over.HOLD]


def split_off(state: State, making: Making, stamp: Stamp, plate: Plate, lines: list[PlateLine]) -> PlateNo | None:
    """What is held goes onto a plate, or into a receipt, of its own; None: there is nothing else on this one."""
    if len(lines) == len(plate.lines) and all(x.over == x.quantity for x in lines):
        return None
    for line in lines:
        making.event(LineChanged(plate.number, line.line, line.quantity - line.over))
    if plate.into:
        number = PlateNo(making.draw("receipt"))
        making.event(LoadStarted(number, plate.into, stamp.who))
    else:
        assert plate.bin is not None
        number = PlateNo(making.draw("plate"))
        making.event(PlateStarted(number, plate.plate_kind, plate.bin, stamp.who))
    for no, x in enumerate(lines, start=1):
        making.event(
            LineNoted(
                number,
                no,
                x.order,
                x.order_line,
                x.item,
                x.unit,
                x.over,
                x.lot,
                x.expiry,
                x.over,
                x.note,
                x.serials[x.quantity - x.over :],
            )
        )
    return number


def hold(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, number: PlateNo, plan: StepPlan) -> str:
    """What is held is a receipt of its own, that the host is not told of; it goes where the rules for held goods say."""
    plate = receiving.building_plate(state, number)
    receipt = ReceiptNo(plate.number if plate.into else making.draw("receipt"))
    making.event(PlateFinished(number, receipt, stamp.who, BookingPoint.BY_HAND, (), held=True))
    where = "" if plate.into else f"on plate `{number}`, "
    says = f"Held apart, more than ordered: {receiving.plate_text(state, plate)}, {where}receipt `{receipt}`."
    there = state.receipts[receipt]
    spot = in_bin(plate.into) if plate.into else on_plate(number)
    goods = tuple(evolve(g, status=Status.QUARANTINE) for g in goods_of(there.lines, stamp.today))
    return said(says, _set_going(state, making, rulebook, stamp, there, spot, goods, plan.put_away.begins))


def _set_going(
    state: State, making: Making, rulebook: Rulebook, stamp: Stamp, receipt: Receipt, spot: Spot, goods: tuple[Goods, ...], begins: Begins,
) -> str:  # fmt: skip
    """The goods of a receipt are put away by what they are now, from where they are."""
    if not receipt.loose:
        pieces = doing.pieces_of_plate(state, rulebook, state.plates[receipt.plate])
    else:
        rest = Rest(receipt.number, Need.PUT_AWAY, BinCode(spot.code), None, goods, (receipt.number,))
        pieces = doing.pieces_of_goods(state, rulebook, rest, receipt.lines)
    return doing.set_going(state, making, rulebook, stamp, pieces, begins)


def _where(state: State, receipt: Receipt) -> tuple[Spot, tuple[Goods, ...]]:
    """Where what is held is, all of it, and the goods; refused when it is not there as it was received."""
    if not receipt.loose:
        spots = [on_plate(receipt.plate)]
    else:
        card = state.plates.card(receipt.plate)
        bins = [card.into] if card and card.into else []
        after = [t for t in state.tasks.values() if receipt.number in t.receipts]
        after += [t for t in state.past.after(receipt.ref) if isinstance(t, Task)]
        bins += [p.bin for task in after for p in task.placed]
        spots = [in_bin(code) for code in dict.fromkeys(bins)]
    for spot in spots:
        there = state.loose(BinCode(spot.code)) if receipt.loose else state.plates.goods_on(receipt.plate)
        if (goods := _all_of(receipt, there)) is not None:
            return spot, goods
    raise Refusal(
        "goods_gone", f"Not all that is held of `{receipt.number}` lies where it was put, as it was received."
    )


def _all_of(receipt: Receipt, there: tuple[Goods, ...]) -> tuple[Goods, ...] | None:
    """What is held of a receipt among goods that lie somewhere; None when not all of it does."""
    wanted = {(x.item, x.lot, x.expiry): 0 for x in receipt.lines}
    for line in receipt.lines:
        wanted[line.item, line.lot, line.expiry] += line.quantity
    found = []
    for each in there:
        kind = (each.item, each.lot, each.expiry)
        part = min(wanted.get(kind, 0), each.quantity)
        if part and each.status is Status.QUARANTINE:
            wanted[kind] -= part
            found.append(evolve(each, quantity=part))
    return None if any(wanted.values()) else tuple(found)


def _check_pieces(state: State, receipt: Receipt, spot: Spot, goods: tuple[Goods, ...]) -> None:
    """Refuse when other pieces of an item that is kept by serial numbers lie there than those that are held."""
    there = state.serials.of(spot, goods)
    for each in numbers_of(receipt.lines):
        if gone := [n for n in each.numbers if n not in there]:
            raise Refusal(
                "goods_gone", f"`{gone[0]}` of `{receipt.number}` does not lie where it was put, as it was received."
            )


def _held(state: State, number: ReceiptNo) -> Receipt:
    receipt = state.receipts.get(number)
    if receipt is None:
        raise Refusal("unknown_receipt", f"There is no receipt `{number}`.")
    if not receipt.held:
        raise Refusal(
            "not_held", f"Nothing of `{number}` is held: it was taken or sent back, or it is no more than was ordered."
        )
    return receipt


def _take(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: TakeSurplus) -> str:
    receipt = _held(state, act.receipt)
    if len(act.why.strip()) > LONGEST:
        raise Refusal("too_long", f"Give the reason in at most {LONGEST} characters.", "why")
    end(making, *after_receipt(state, receipt), "what was held is taken")
    spot, goods = _where(state, receipt)
    _check_pieces(state, receipt, spot, goods)
    making.event(SurplusTaken(receipt.number, stamp.who, spot, goods, act.why.strip()))
    hosting.tell_host(state, making, stamp, "book_receipt", receipt.number)
    plan = receiving.plan_of_line(rulebook, state, receipt.lines[0])
    says = f"{receiving.goods_text(state, goods)} of `{receipt.number}` are taken, and the host is told."
    if not plan.put_away.on:
        return says
    now = tuple(evolve(g, status=Status.AVAILABLE) for g in goods)
    return said(says, _set_going(state, making, rulebook, stamp, receipt, spot, now, plan.put_away.begins))


def _send_back(state: State, making: Making, _: Rulebook, stamp: Stamp, act: SendSurplusBack) -> str:
    receipt = _held(state, act.receipt)
    why = act.why.strip()
    if not 3 <= len(why) <= LONGEST:
        raise Refusal("no_reason", f"Say why, in 3 to {LONGEST} characters.", "why")
    end(making, *after_receipt(state, receipt), "what was held is sent back")
    spot, goods = _where(state, receipt)
    _check_pieces(state, receipt, spot, goods)
    making.event(SurplusSentBack(receipt.number, stamp.who, spot, goods, why))
    return f"{receiving.goods_text(state, goods)} of `{receipt.number}` are sent back: {why}."


DECIDES = (
    deciding(TakeSurplus, _take),
    deciding(SendSurplusBack, _send_back),
)
"""How its acts are decided."""
