"""What is so while a stop of a pick task is asked about: which it is, what was answered of it, what is told of it.

An answer counts as long as it fits the stop that is next now: the office, or the same person on another handset, may have changed that since.
"""

from __future__ import annotations

from decimal import Decimal

from mindful_crate.core.catalog.goods import Item
from mindful_crate.core.catalog.ids import BinCode, PlateNo
from mindful_crate.core.floor.answers import TASK, Answers, flag, number, text, texts
from mindful_crate.core.floor.standing import bin_now
from mindful_crate.core.floor.tasks import Move, Task
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.flows import Asks, Check
from mindful_crate.core.scanning.kinds import COUNT, Context
from mindful_crate.core.work.picking import looking
from mindful_crate.core.work.receiving.checks import goods_text

SEEN = text("pick_seen", str)
"""The bin or plate that was scanned at this stop."""
ELSEWHERE = text("pick_elsewhere", str)
"""Another bin or plate than the one shown, from which this stop is fetched."""
WAS_AT = text("pick_was_at", str)
"""The bin or plate of the stop before: the next there need not be scanned again."""
COUNTED = number("pieces_picked")
"""Pieces of this stop that were scanned one by one, in base units."""
NEW_TOTE = text("new_tote", PlateNo)
"""The tote that was scanned for the next order."""
INTO = text("pick_into", str)
"""The tote that was scanned for this stop."""
MISSING = text("tote_missing", PlateNo)
"""The tote from the zone before that is not where it should stand."""
LATER = texts("later", str)
"""Takes of the task that were passed over."""
LEAVING = flag("leaving")
"""What is in hands is set down now, although there is more to fetch."""
SHORT = text("short", str)
"""The take of which what is left is not there."""


def picking(ctx: Context, answers: Answers) -> Task | None:
    """The task that is picked; None: none is known, or it has ended."""
    if answers[TASK] is None:
        return None
    task = ctx.task(answers)
    return None if task.state.ended else task


def next_stop(ctx: Context, answers: Answers) -> Move | None:
    """The take that is next; None: none is, or what is in hands is set down."""
    task = picking(ctx, answers)
    return None if task is None or answers[LEAVING] else looking.next_take(task, answers[LATER])


def stop(ctx: Context, answers: Answers) -> Move | None:
    """The take that is asked about, unless it was said to be short."""
    return None if answers[SHORT] else next_stop(ctx, answers)


def loose_stop(ctx: Context, answers: Answers) -> Move | None:
    """The same, when loose goods are fetched."""
    move = stop(ctx, answers)
    return move if move is not None and move.goods else None


def this(move: Move | None) -> Move:
    """The stop that a question stands for; there is one, or it would not be asked."""
    assert move is not None
    return move


def fresh(answers: Answers) -> Answers:
    """The answers at the next stop of the same task."""
    return answers.only(TASK).having(LATER, answers[LATER]).having(WAS_AT, answers[SEEN] or answers[WAS_AT])


def facts_of(ctx: Context, move: Move) -> tuple[str, ...]:
    """What a stop is about: the goods, and for whom."""
    orders = list(dict.fromkeys(s.line.order for s in move.serves))
    who = []
    for each in orders[:3]:
        order = ctx.state.order(each)
        partner = ctx.ground.partners.get(order.partner) if order else None
        who.append(f"`{each}`" + (f" {partner.name}" if partner and len(orders) == 1 else ""))
    more = f" and {len(orders) - 3} more" if len(orders) > 3 else ""
    what = goods_text(ctx.state, looking.goods_of(ctx.state, move))
    lots = ", ".join(f"lot `{g.lot}`" for g in move.goods if g.lot)
    return tuple(x for x in (what, lots, f"for {', '.join(who)}{more}" if who else "") if x)


def in_hands_told(ctx: Context, task: Task) -> list[str]:
    """What of a task is in hands, tote by tote or plate by plate, else the goods."""
    totes = [f"tote `{t.plate}` of `{t.order}`" for t in task.going.totes]
    return totes or [f"plate `{p}`" for p in task.going.carried] or [goods_text(ctx.state, task.going.hands)]


def place_to_go(ctx: Context, move: Move) -> tuple[BinCode, PlateNo | None]:
    """The bin of a stop, and the plate in it that is to be scanned."""
    assert move.at is not None
    return bin_now(ctx.state, move.plate, move.at), move.plate


def stands_there(ctx: Context, answers: Answers, move: Move) -> bool:
    """Was the bin or plate of a stop scanned, at it or at the one just before?"""
    code, plate = place_to_go(ctx, move)
    return answers[SEEN] == (plate or code) or (bool(move.goods) and answers[WAS_AT] == (plate or code))


def item_of(ctx: Context, move: Move) -> Item:
    """The item of a take of loose goods."""
    return ctx.ground.items[move.goods[0].item]


def piecewise(ctx: Context) -> int:
    """So many pieces of a stop are scanned one by one; 0: none, also where the item need not be scanned."""
    item = next((p for p in ctx.machine.used(ctx.flow) if p.asks is Asks.PICK_ITEM), None)
    count = next((p for p in ctx.machine.used(ctx.flow) if p.asks is Asks.PICK_COUNT), None)
    return count.pieces if item and count and item.check is Check.SCAN else 0


def counted_at(ctx: Context, answers: Answers) -> tuple[Item, int | None] | None:
    """The item of a stop, and how much of it is wanted, where a number of it is asked for next; see :meth:`FlowKind.counted`."""
    move = loose_stop(ctx, answers)
    if move is None or piecewise(ctx) or answers[COUNT] is not None or item_of(ctx, move).numbered:
        return None
    return item_of(ctx, move), move.goods[0].quantity


def counting(ctx: Context, answers: Answers, move: Move) -> bool:
    """Are more pieces to be scanned one by one?"""
    upto = min(piecewise(ctx), move.goods[0].quantity)
    return int(answers[COUNTED] or 0) < upto


def counted_on(ctx: Context, answers: Answers, move: Move, quantity: int) -> Answers:
    """So many more are scanned; a barcode that says more than is still to be picked is refused, never cut."""
    item, scanned = item_of(ctx, move), int(answers[COUNTED] or 0)
    left = move.goods[0].quantity - scanned
    if quantity > left:
        says = f"That counts {item.told(quantity)}, and {item.told(left)} are still wanted. Scan single ones."
        raise Refusal("more_than_counted", says)
    return answers.having(COUNTED, Decimal(scanned + quantity))


def much_of(answers: Answers, move: Move) -> int:
    """How much of a stop is fetched, in base units; as much as is wanted, where that is not asked."""
    if answers[COUNT] is None and answers[COUNTED] is None:
        return sum(g.quantity for g in move.goods)
    return int(answers[COUNT] or 0) + int(answers[COUNTED] or 0)
