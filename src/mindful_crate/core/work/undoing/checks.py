"""Checks of undoing that dialogue, office and decision share: what stands in the way."""

from __future__ import annotations

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import BinCode, PlateNo, ReceiptNo, TaskNo, UnloadingNo
from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.floor.plates import PlateLine, Spot, in_bin, on_plate
from mindful_crate.core.floor.receipts import Receipt
from mindful_crate.core.floor.serials import numbers_of
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import LASTING, Task, TaskState
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.steps import Need, StepPlan
from mindful_crate.core.rulebook.words.parts import capital
from mindful_crate.core.work.inspecting.checks import plan_of, stands_in
from mindful_crate.core.work.putting.checks import lines_of
from mindful_crate.core.work.receiving import checks as receiving
from mindful_crate.core.work.receiving.checks import goods_text, plate_word
from mindful_crate.core.work.tasks.following import NAMES, after_receipt, not_begun
from mindful_crate.core.work.unloading import checks as unloading


@record
class Undoing:
    """What undoing a step does: the tasks that end by it, none of them begun, what rests no more, and the goods it is about."""

    says: str
    tasks: tuple[TaskNo, ...] = ()
    rests: tuple[str, ...] = ()
    goods: tuple[Goods, ...] = ()
    spot: Spot | None = None
    asks_host: bool = False


def did(state: State, step: Ref) -> str:
    """What a step did, in a few words."""
    if step.kind is DocKind.RECEIPT:
        receipt = state.receipts[ReceiptNo(step.number)]
        items = state.ground.items
        goods = ", ".join(f"{items[x.item].told(x.quantity)} {items[x.item].name}" for x in receipt.lines)
        return f"{goods} received" + ("" if receipt.loose else f" on plate `{receipt.plate}`")
    if step.kind is DocKind.UNLOADING:
        off = state.unloadings[UnloadingNo(step.number)]
        return f"{unloading.told(off)} of `{off.order}` unloaded in `{off.at}`"
    task = state.tasks[TaskNo(step.number)]
    what = ", ".join(f"`{p}`" for p in task.plan.plates) or goods_text(state, task.plan.loose)
    if task.need is Need.INSPECT:
        return f"{what} inspected in `{task.going.parts[-1].bin}`: {task.going.parts[-1].reason}"
    return f"{what} put away in {', '.join(dict.fromkeys(f'`{p.bin}`' for p in task.placed))}"


def undoing(state: State, rulebook: Rulebook, step: Ref) -> Undoing:
    """What undoing a finished step would do; refused with what stands in its way."""
    if step.kind is DocKind.RECEIPT:
        return _receipt(state, rulebook, ReceiptNo(step.number))
    if step.kind is DocKind.UNLOADING:
        return _unloading(state, rulebook, UnloadingNo(step.number))
    task = state.tasks.get(TaskNo(step.number)) if step.kind is DocKind.TASK else None
    if task is None or task.need in LASTING:
        raise Refusal(
            "no_step", f"`{step.number}` is no unloading, receipt, inspection or put-away that could be undone."
        )
    if task.state is not TaskState.DONE:
        raise Refusal("not_done", f"{capital(NAMES[task.need])} `{task.number}` is not done: there is nothing to undo.")
    return _inspection(state, rulebook, task) if task.need is Need.INSPECT else _put_away(state, rulebook, task)


def _allowed(plan: StepPlan | None, step: str) -> StepPlan:
    if plan is None:
        raise Refusal("no_plan", "No step plan is for these goods any more, so none says that this may be undone.")
    if not getattr(plan, step).undo:
        raise Refusal("no_undo", f"Step plan {plan.name} says that this step cannot be undone.")
    return plan


def _unloading(state: State, rulebook: Rulebook, number: UnloadingNo) -> Undoing:
    found = unloading.unloading_of(state, number)
    order = receiving.known_order(state, found.order)
    asked = (rulebook.asked(state.ground, order, x.item) for x in order.lines)
    plans = [p for p in map(rulebook.plan_for, asked) if p is not None]
    _allowed(next((p for p in plans if p.unload.on), plans[0] if plans else None), "unload")
    for plate in state.building():
        if any(x.order == found.order and x.seq > found.since for x in plate.lines):
            says = f"{plate_word(plate)} is being built of it: take its lines off first."
            raise Refusal("begun", says)
    after = [r for r in state.receipts.of_order(order.number) if not r.undone and r.seq > found.since]
    if after:
        raise Refusal("begun", f"Receipt `{after[0].number}` came of it: undo that first.")
    return Undoing(f"{capital(unloading.told(found))} of `{order.number}` did not come off, then")


def _receipt(state: State, rulebook: Rulebook, number: ReceiptNo) -> Undoing:
    receipt = state.receipts.get(number)
    if receipt is None:
        raise Refusal("unknown_receipt", f"There is no receipt `{number}`.")
    if receipt.undone:
        raise Refusal("undone_already", f"Receipt `{number}` was undone already.")
    if receipt.undoing:
        raise Refusal("undo_asked", f"The host was asked whether `{number}` may be undone, and has not answered.")
    if receipt.held:
        raise Refusal("held", f"What `{number}` holds is more than was ordered: the office takes it, or sends it back.")
    _allowed(plan_of(rulebook, state, receipt.lines), "receive")
    if receipt.told and not receipt.booked and not receipt.refused:
        raise Refusal("host_asked", f"The host was told of `{number}` and has not answered. Undo it when it has.")
    tasks, rests = _after(state, receipt)
    goods, spot = _still_there(state, receipt)
    plate = state.plate(receipt.plate)
    what = plate_word(plate) if plate and not receipt.loose else f"Receipt `{number}`"
    return Undoing(
        f"{what} is being built again: {goods_text(state, goods)}", tasks, rests, goods, spot, receipt.booked
    )


def _after(state: State, receipt: Receipt) -> tuple[tuple[TaskNo, ...], tuple[str, ...]]:
    """The tasks and rests that follow from a receipt; refused when one was begun."""
    tasks, rests = after_receipt(state, receipt)
    last = None if receipt.loose else state.task_of(receipt.plate)
    if last is not None and last.number not in tasks and last.made >= receipt.seq and last.state is TaskState.DONE:
        raise Refusal("begun", f"{capital(NAMES[last.need])} `{last.number}` has moved it on: {_back(last)} first.")
    return tasks, rests


def _back(task: Task) -> str:
    return "move it back" if task.need is Need.MOVE else "undo that"


def _rests_after(state: State, task: Task) -> tuple[str, ...]:
    """What rests after a task, for the next: its plate, or loose goods that it placed."""
    if task.plate is not None:
        return (task.plate,) if task.plate in state.rests else ()
    return tuple(r.key for r in state.rests.values() if r.key.startswith(f"{task.number}."))


def _still_there(state: State, receipt: Receipt) -> tuple[tuple[Goods, ...], Spot]:
    """The goods of a receipt where they arrived; refused when some are elsewhere, or kept for somebody."""
    card = state.plates.card(receipt.plate)
    into = card.into if card else None
    spot = in_bin(into) if into else on_plate(receipt.plate)
    there = state.loose(into) if into else state.plates.goods_on(receipt.plate)
    wanted: dict[tuple[object, ...], int] = {}
    for line in receipt.lines:
        key = (line.item, line.lot, line.expiry)
        wanted[key] = wanted.get(key, 0) + line.quantity
    found = []
    for goods in there:
        key = (goods.item, goods.lot, goods.expiry)
        part = min(wanted.get(key, 0), goods.quantity)
        if part and goods.status in (Status.AVAILABLE, Status.INSPECT):
            wanted[key] -= part
            found.append(Goods(goods.item, part, goods.lot, goods.expiry, goods.status, goods.arrived))
    numbers = numbers_of(receipt.lines)
    gone = any(n not in state.serials.of(spot, found) for each in numbers for n in each.numbers)
    if gone or any(wanted.values()) or (not into and len(there) != len(found)):
        raise Refusal("goods_gone", f"Not all that arrived by `{receipt.number}` is where it arrived, as it arrived.")
    _check_kept(
        state, BinCode(into) if into else state.bin_of(receipt.plate), None if into else receipt.plate, tuple(found)
    )
    return tuple(found), spot


def _check_kept(state: State, code: BinCode | None, plate: PlateNo | None, goods: tuple[Goods, ...]) -> None:
    """Refuse goods that are kept for somebody."""
    items = {g.item for g in goods}
    for reservation in state.reservations.values():
        for part in reservation.parts:
            if part.goods.item in items and part.bin == code and part.plate == plate:
                says = f"`{reservation.number}` keeps some of it for {reservation.holder}: let that go first."
                raise Refusal("goods_kept", says)


def _put_away(state: State, rulebook: Rulebook, task: Task) -> Undoing:
    lines = lines_of(state, task)
    _allowed(plan_of(rulebook, state, lines), "put_away")
    if task.plan.several:
        raise Refusal("several_plates", f"Task `{task.number}` put several plates away: move them one by one.")
    later, rests = _later_tasks(state, task), _rests_after(state, task)
    if task.plate is not None:
        if part := next((p for p in task.placed if p.off), None):
            what = state.ground.items[part.off].told(part.quantity) if part.off else ""
            says = f"{what} of plate `{task.plate}` were put in `{part.bin}`: move them back onto it first."
            raise Refusal("parted", says)
        if state.bin_of(task.plate) != task.placed_in:
            raise Refusal("goods_gone", f"Plate `{task.plate}` stands in `{task.placed_in}` no more.")
        _check_kept(state, task.placed_in, task.plate, state.plates.goods_on(task.plate))
        return Undoing(f"Plate `{task.plate}` is to be taken back to `{task.plan.from_bin}`", later, rests)
    kinds = {m.no: m.goods for m in task.plan.moves}
    for part in task.placed:
        kind = kinds[part.move][0]
        there = state.plates.goods_on(part.plate) if part.plate else state.loose(part.bin)
        spot = on_plate(part.plate) if part.plate else in_bin(part.bin)
        gone = part.serials and not set(part.serials) <= set(state.serials.at(spot, kind))
        if gone or sum(g.quantity for g in there if g.alike(kind)) < part.quantity:
            raise Refusal(
                "goods_gone", f"Not all that task `{task.number}` placed in `{part.bin}` lies there any more."
            )
        _check_kept(state, part.bin, part.plate, (kind,))
    what = goods_text(state, task.plan.loose)
    return Undoing(f"{what} are to be taken back to `{task.plan.from_bin}`", later, rests)


def _later_tasks(state: State, task: Task) -> tuple[TaskNo, ...]:
    """The tasks that were made of what a task placed; refused when one was begun."""
    whole = bool(task.plan.plates)
    after = [t for t in state.tasks.following(task.plan.plates, task.receipts) if t.made > task.made]
    found = not_begun(t for t in after if whole or t.plan.leg > task.plan.leg)
    if task.plan.plate and (last := state.task_of(task.plan.plate)) and last.number not in (task.number, *found):
        raise Refusal("begun", f"{capital(NAMES[last.need])} `{last.number}` came after it: {_back(last)} first.")
    return found


def _inspection(state: State, rulebook: Rulebook, task: Task) -> Undoing:
    lines: tuple[PlateLine, ...] = lines_of(state, task)
    _allowed(plan_of(rulebook, state, lines), "inspect")
    at, rests = task.going.parts[-1].bin, _rests_after(state, task)
    if task.plate is None:
        kind = task.plan.loose[0]
        there = [
            g
            for g in state.loose(at)
            if (g.item, g.lot, g.expiry, g.arrived) == (kind.item, kind.lot, kind.expiry, kind.arrived)
        ]
        later = not_begun(t for t in state.tasks.following((), task.receipts) if t.made > task.made)
        if sum(g.quantity for g in there) < kind.quantity:
            raise Refusal("goods_gone", f"Not all that was inspected lies in `{at}` any more.")
        _check_kept(state, at, None, (kind,))
        return Undoing(
            f"{goods_text(state, (kind,))} wait for their inspection again", later, rests, tuple(there), in_bin(at)
        )
    later = _later_tasks(state, task)
    goods = state.plates.goods_on(task.plate)
    if sum(g.quantity for g in goods) != sum(x.quantity for x in lines):
        raise Refusal("parted", f"What failed stands on a plate of its own: move it back onto `{task.plate}` instead.")
    if state.bin_of(task.plate) != at:
        raise Refusal("goods_gone", f"Plate `{task.plate}` stands in `{at}` no more.")
    _check_kept(state, at, task.plate, goods)
    return Undoing(
        f"Plate `{task.plate}` waits in `{stands_in(task)}` for its inspection again",
        later,
        rests,
        goods,
        on_plate(task.plate),
    )
