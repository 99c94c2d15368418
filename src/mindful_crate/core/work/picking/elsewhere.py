"""A take from another bin than the one shown, where the same goods lie free: the worker sees what the rules could not."""

from __future__ import annotations

from mindful_crate.core.catalog.amounts import Goods, all_less, all_more, portion
from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import BinCode, PlateNo
from mindful_crate.core.catalog.places import PICKED_FROM
from mindful_crate.core.floor.standing import purpose_of
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, Move, Task, divided
from mindful_crate.core.placing.fit import Lying
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.work.making import Making
from mindful_crate.core.work.picking import looking
from mindful_crate.core.work.picking.acts import PickElsewhere
from mindful_crate.core.work.picking.doing import mine, take_of
from mindful_crate.core.work.picking.events import TakenElsewhere
from mindful_crate.core.work.picking.keeping import keep_where
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp


def lying_there(state: State, move: Move, code: BinCode, plate: PlateNo | None) -> tuple[Lying, int]:
    """What a take may fetch in another bin, or off another plate, and how much of it is free, in base units; refused with what stands against it."""
    (kind,) = move.goods or (None,)
    if kind is None:
        raise Refusal(
            "other_plate", f"Plate `{move.plate}` is kept for its order as a whole: no other is taken for it."
        )
    item = state.ground.items[kind.item]
    if looking.fixed_serials(state, move.serves):
        raise Refusal("ordered_piece", "Pieces were ordered by their numbers: they are fetched where they lie.")
    if state.ground.site_of(code) != state.settings.site or purpose_of(state, code) not in PICKED_FROM:
        raise Refusal("not_stored", f"Nothing is picked from `{code}`.")
    if (why := state.blocked(code)) is not None:
        raise Refusal("bin_blocked", f"Bin `{code}` is blocked: {why}.", "bin")
    there = [x for x in state.lines(item.code) if x.bin == code and (plate is None or x.plate == plate)]
    if not there:
        raise Refusal("not_there", f"By the book no {item.name} lies there.")
    same = [
        x
        for x in there
        if x.goods.status is Status.AVAILABLE and (x.goods.lot, x.goods.expiry) == (kind.lot, kind.expiry)
    ]
    if not same:
        other = there[0].goods
        says = (
            f"lot `{other.lot}` lies there, not `{kind.lot}`"
            if other.lot != kind.lot
            else "what lies there may not be used"
        )
        raise Refusal("other_lot", f"{item.name}: {says}.")
    free = [(x, n) for x in same if (n := x.goods.quantity - state.reserved(x)) > 0]
    if not free:
        raise Refusal("not_free", f"All {item.name} there is kept for others.")
    if len(plates := {x.plate for x, _ in free}) > 1:
        raise Refusal(
            "several_plates",
            f"It stands there on several plates: scan {' or '.join(f'`{p}`' for p in sorted(plates, key=str) if p)}.",
        )
    return free[0]


def _elsewhere(state: State, making: Making, _: Rulebook, stamp: Stamp, act: PickElsewhere) -> str:
    task = mine(state, act.task, stamp)
    move = take_of(task, act.move)
    assert move.at is not None
    lying, free = lying_there(state, move, act.bin, act.plate)
    if (lying.bin, lying.plate) == (move.at, move.plate):
        raise Refusal("same_bin", f"`{act.bin}` is the bin that is shown.")
    (kind,) = move.goods
    much = min(free, kind.quantity)
    goods = evolve(lying.goods, quantity=much)
    keep_where(
        state, making, move, portion(move.goods, much), (move.at, move.plate, None), (lying.bin, lying.plate, None), become=goods
    )  # fmt: skip
    remaining, moves = _turned(task, move, goods, lying)
    making.event(
        TakenElsewhere(
            task.number, move.no, stamp.who, move.at, lying.bin, (goods,), act.reason.strip(), remaining, moves, lying.plate
        )
    )  # fmt: skip
    item = state.ground.items[kind.item]
    rest = kind.quantity - much
    more = f" {item.told(rest)} are still fetched from `{move.at}`." if rest else ""
    return f"{item.told(much)} of {item.name} are fetched from `{lying.bin}` instead of `{move.at}`.{more}"


def _turned(task: Task, move: Move, goods: Goods, lying: Lying) -> tuple[tuple[Move, ...], tuple[Move, ...]]:
    """What is still to do when so much of a take is fetched elsewhere, and all moves of the task then."""
    number = max(m.no for m in task.plan.moves) + 1
    gone = portion(move.goods, goods.quantity)
    first, rest = divided(move.serves, goods.quantity)
    other = Move(number, Do.TAKE, lying.bin, (goods,), lying.plate, serves=first)
    now: list[Move] = []
    left = goods.quantity
    for each in task.going.remaining:
        if each.no == move.no:
            now.append(other)
            if stays := all_less(move.goods, gone):
                now.append(evolve(move, goods=stays, serves=rest))
        elif each.do is Do.PLACE and each.goods and left and any(g.alike(move.goods[0]) for g in each.goods):
            lines = {s.line for s in first}
            part = min(left, sum(s.quantity for s in each.serves if s.line in lines))
            left -= part
            less = all_less(each.goods, (evolve(move.goods[0], quantity=part),)) if part else each.goods
            now.append(evolve(each, goods=all_more(less, (evolve(goods, quantity=part),)) if part else less))
        else:
            now.append(each)
    return tuple(now), (*task.plan.moves, other)


DOES = (deciding(PickElsewhere, _elsewhere),)
"""How it is decided."""
