"""What is being received: of which order or orders, what of it is still open, and how much more this is; what all questions of
receiving share."""

from __future__ import annotations

from mindful_crate.core.catalog.goods import Order, OrderKind
from mindful_crate.core.catalog.ids import BinCode, NoticeNo, OrderNo, PlateNo
from mindful_crate.core.floor.answers import PLATE, Answers, flag, number, text
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.flows import Asks
from mindful_crate.core.rulebook.steps import DeliveryNote
from mindful_crate.core.scanning.dialogue import passed
from mindful_crate.core.scanning.kinds import ITEM, Context, Step
from mindful_crate.core.scanning.reading import Read, Reading
from mindful_crate.core.work.receiving import checks as receiving
from mindful_crate.core.work.receiving.acts import ReceiveAnnounced

ORDER = text("order", OrderNo)
NEW_PLATE = flag("new_plate")
"""A new one was asked for."""


NOTE = text("note", str)
"""The number of the delivery note."""
NO_NOTE = flag("no_note")
"""There is none."""
LINE = number("line")
"""The number of the order line."""


KINDS = {
    OrderKind.PURCHASE: "purchase from", OrderKind.TRANSFER: "transfer from", OrderKind.PRODUCTION: "production of",
    OrderKind.CUSTOMER_RETURN: "return of",
}  # fmt: skip
"""What a list says of an order that comes: its kind, and whose it is."""


IN_LISTS = {
    OrderKind.PURCHASE: "purchases", OrderKind.TRANSFER: "transfers", OrderKind.PRODUCTION: "production",
    OrderKind.CUSTOMER_RETURN: "returns",
}  # fmt: skip
"""What the kinds of orders are called that come, where a list is narrowed to one."""
SOUGHT = text("sought_order", str)
"""What orders are looked for: a part of the number, of the partner's name, or of an item's."""


INTO = text("into", BinCode)
"""Where what is begun next is received."""


def order_named(ctx: Context, reading: Reading) -> OrderNo | None:
    """The order that any number on the paper leads to: its own, or that of the notice that announces it; None: to none."""
    if reading.kind is Read.ORDER:
        return OrderNo(reading.code)
    notice = ctx.state.notices.get(NoticeNo(reading.code.upper())) if reading.kind is Read.UNKNOWN else None
    return notice.order if notice else None


def notice_told(ctx: Context, reading: Reading) -> str:
    """What the number of a notice is called in the log; empty: it is none."""
    number = order_named(ctx, reading) if reading.kind is Read.UNKNOWN else None
    return f"notice `{reading.code.upper()}` of `{number}`" if number else ""


def order_of(ctx: Context, answers: Answers) -> Order:
    """The order being received."""
    return receiving.known_order(ctx.state, answers.known(ORDER))


def asks_order(ctx: Context) -> bool:
    """Is the order named, or found by what comes?"""
    return any(p.asks is Asks.ORDER for p in ctx.flow.prompts)


def orders_of(ctx: Context, answers: Answers) -> list[Order]:
    """The order being received, or, where none is named, those that want the item, the earliest promised first."""
    if answers[ORDER] is not None:
        return [order_of(ctx, answers)]
    return receiving.wanting(ctx.rulebook, ctx.state, answers.known(ITEM), ctx.flow)


def still_open(ctx: Context, answers: Answers) -> int:
    """What of the item is open, on the line that was named, the order, or all that want it; in base units."""
    code = answers.known(ITEM)
    if answers[LINE] is not None and answers[ORDER] is not None:
        order = order_of(ctx, answers)
        lines = (x for x in order.lines if x.no == int(answers.known(LINE)))
        return sum(max(0, ctx.state.open_quantity(order, x)) for x in lines)
    return sum(receiving.open_of_item(ctx.state, o, code) for o in orders_of(ctx, answers))


def open_on(ctx: Context, answers: Answers) -> str:
    """Where that is open: ``PO-1001``, ``PO-1001, line 2``, ``2 orders``."""
    if answers[ORDER] is not None:
        line = f", line {int(answers.known(LINE))}" if answers[LINE] is not None else ""
        return f"{answers[ORDER]}{line}"
    orders = orders_of(ctx, answers)
    return str(orders[0].number) if len(orders) == 1 else f"{len(orders) or 'no'} orders"


def over(ctx: Context, answers: Answers, quantity: int) -> int:
    """How much more this is than is open; refused when it is more than the plan takes, or nothing wants it any more."""
    item, orders = ctx.item(answers), orders_of(ctx, answers)
    if not orders:
        raise receiving.nobody_wants(item)
    on = f"{len(orders)} orders" if len(orders) > 1 else ""
    still = still_open(ctx, answers)
    return receiving.check_quantity(ctx.rulebook, ctx.state, orders[-1], item, quantity, still, on)


def note_wanted(ctx: Context, answers: Answers) -> DeliveryNote:
    """What the plans of the goods say of a delivery note: that of the order they go to for certain, or, where a later one of them
    asks for it, that it may be left out."""
    found = []
    for order in orders_of(ctx, answers):
        try:
            found.append(receiving.plan_of(ctx.rulebook, ctx.state, order, answers[ITEM]).receive.note)
        except Refusal:  # what is wrong is said where it is answered
            found.append(DeliveryNote.NO)
    first = found[0] if found else DeliveryNote.NO
    later = any(x is not DeliveryNote.NO for x in found)
    return DeliveryNote.OPTIONAL if first is DeliveryNote.NO and later else first


def check_free(ctx: Context, answers: Answers) -> None:
    """Refuse goods of an order that the floor may not work on now."""
    if answers[ORDER] is not None:
        receiving.check_free(ctx.state, order_of(ctx, answers))


def announced(ctx: Context, dialogue: Dialogue, reading: Reading) -> Step | None:
    """The label of an announced plate receives all of it at once, unless another is being built."""
    if reading.kind is not Read.LABEL or dialogue.answers[PLATE] is not None:
        return None
    announced = ctx.state.announced(PlateNo(reading.code))
    if not announced:
        return None
    if (order := ctx.state.order(announced[0].order)) is not None:
        receiving.check_kind(ctx.flow, order)
    act = ReceiveAnnounced(ctx.flow.id, PlateNo(reading.code), dialogue.answers[NOTE] or "")
    return Step(
        dialogue.answers.having(ORDER, announced[0].order).having(NEW_PLATE, False), passed(dialogue), acts=(act,)
    )
