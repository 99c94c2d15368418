"""How its acts are decided: taking back what customers send."""

from __future__ import annotations

from datetime import date
from decimal import Decimal

from mindful_crate.core.catalog.goods import Item, Order, OrderKind, OrderLine, Status, Tracking
from mindful_crate.core.catalog.ids import DeviceId, FlowId, OrderNo, PlateNo, ReturnMarkId
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.returns import Marked, ReturnBuild, ReturnLine
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.bin_rules import Disposition
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.returns import Otherwise, ReturnMark
from mindful_crate.core.rulebook.words.parts import STATUSES, counted
from mindful_crate.core.work import numbered
from mindful_crate.core.work.handset.events import DialogueLeft
from mindful_crate.core.work.host.taking import take_order
from mindful_crate.core.work.making import Making, said
from mindful_crate.core.work.office import of_every_crew
from mindful_crate.core.work.receiving import checks as receiving
from mindful_crate.core.work.receiving.acts import FinishPlate, NoteLine
from mindful_crate.core.work.receiving.decide import note_onto
from mindful_crate.core.work.receiving.events import LoadStarted, PlateStarted
from mindful_crate.core.work.returning import judging
from mindful_crate.core.work.returning.acts import DropReturnLine, FinishReturn, NoteReturn
from mindful_crate.core.work.returning.events import (
    ReturnBegun,
    ReturnEnded,
    ReturnLineDropped,
    ReturnMarked,
    ReturnNoted,
)
from mindful_crate.core.work.returning.judging import Judged
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp


def _device(stamp: Stamp) -> DeviceId:
    if stamp.device is None:
        raise Refusal("no_device", "Goods are taken back on a handset.")
    return stamp.device


def _note(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: NoteReturn) -> str:
    device = _device(stamp)
    item = state.ground.items.get(act.item)
    if item is None:
        raise Refusal("unknown_item", f"There is no item `{act.item}`.", "item")
    partner = state.ground.partners.get(act.partner)
    if partner is None:
        raise Refusal("unknown_customer", f"There is no customer `{act.partner}`.", "partner")
    build = state.returning.get(device)
    if build is None:
        if act.order is not None:
            receiving.order_for_receipt(state, act.order)
        making.event(ReturnBegun(device, act.partner, act.order))
        build = state.returning[device]
    if (build.partner, build.order) != (act.partner, act.order):
        of = state.ground.partners[build.partner].name
        raise Refusal(
            "other_customer", f"What is taken back here is of {of}: finish that first, one customer at a time."
        )
    if act.quantity < 1:
        raise Refusal("not_above_zero", "The quantity must be above zero.", "quantity")
    if item.lots and not act.lot:
        raise Refusal("no_lot", f"{item.name} is kept by lot: scan which.", "lot")
    expiry = act.expiry or (state.lot_expiry(item.code, act.lot) if item.lots else None)
    if item.tracking is Tracking.LOT_EXPIRY and expiry is None:
        raise Refusal("new_lot", f"Lot `{act.lot}` of {item.name} was never here, so it did not come from here.", "lot")
    numbered.check_numbers(item, act.quantity, act.serials)
    numbered.check_new(state, item, act.serials)
    mark = _mark_of(state, rulebook, act.mark)
    if act.mark is not None and mark is None:
        raise Refusal("unknown_mark", f"There is no mark `{act.mark}`.", "mark")
    line_no = _line_of(state, build, item, act.quantity) if build.order is not None else None
    if build.order is None:
        check_not_announced(state, build, item)
    judged = judged_as(state, rulebook, build, item, act.quantity, stamp.today)
    held = judged.says if judged and judged.becomes is Otherwise.HOLD else ""
    last = judged.last if judged else None
    line = ReturnLine(
        max((x.no for x in build.lines), default=0) + 1, item.code, act.quantity, act.lot if item.lots else "", expiry, act.serials,
        act.mark, held, last, line_no, act.remark.strip(), act.photo,
    )  # fmt: skip
    check_told_apart(state, rulebook, build, item, line.lot, mark, bool(held))
    making.event(ReturnNoted(device, line))
    kept = " It is held for a supervisor." if held else ""
    marked = f", {mark.name}" if mark else ""
    return f"{item.told(act.quantity)} of {item.name}{marked}.{kept}"


def check_told_apart(
    state: State, rulebook: Rulebook, build: ReturnBuild, item: Item, lot: str, mark: ReturnMark | None, held: bool
) -> None:  # fmt: skip
    """Refuse goods that would be one stock with others on the list, and go elsewhere."""
    status, goes = _fate(mark, held)
    for other in (x for x in build.lines if (x.item, x.lot) == (item.code, lot)):
        theirs = _mark_of(state, rulebook, other.mark)
        as_status, elsewhere = _fate(theirs, bool(other.held))
        if as_status is status and elsewhere is not goes:
            listed = "held" if other.held else theirs.name if theirs else "kept apart"
            says = f"{item.told(other.quantity)} of {item.name} are on the list as {listed}: both are {STATUSES[status]} then, "
            then = "and nobody could tell which goes where. Finish that first, then take these back."
            raise Refusal("one_stock", says + then, "mark")


def _mark_of(state: State, rulebook: Rulebook, mark: ReturnMarkId | None) -> ReturnMark | None:
    return next((m for m in rulebook.marks_at(state.settings.site) if m.id == mark), None)


def _fate(mark: ReturnMark | None, held: bool) -> tuple[Status, Disposition | None]:
    """What goods that are marked become, and what is to be done with them."""
    return (Status.QUARANTINE, None) if mark is None or held else (mark.status, mark.goes)


def judged_as(
    state: State, rulebook: Rulebook, build: ReturnBuild, item: Item, quantity: int, today: date
) -> Judged | None:
    """How so much more of an item is judged that was not announced; refused when it is not accepted. None: it was announced."""
    if build.order is not None:
        return None
    judged = judging.judge(state, rulebook, build.partner, item, quantity, today, build.scanned(item.code))
    if judged.becomes is Otherwise.REFUSE:
        raise judging.not_accepted(state, rulebook, build.partner, item, judged, "item")
    return judged


def check_not_announced(state: State, build: ReturnBuild, item: Item) -> None:
    """Refuse as unannounced what was announced: it would come back twice."""
    known = judging.announced(state, build.partner, item.code)
    if known:
        says = f"{item.name} is announced as `{known[0].number}`: take it back by that number."
        raise Refusal("announced", says, "item")


def _line_of(state: State, build: ReturnBuild, item: Item, quantity: int) -> int:
    """The line of an announced return that so much of an item is for."""
    assert build.order is not None
    order = state.order(build.order)
    assert order is not None
    lines = [x for x in order.lines if x.item == item.code]
    if not lines:
        raise Refusal("not_on_order", f"{item.name} is not on `{build.order}`.", "item")
    for line in lines:
        taken = sum(x.quantity for x in build.lines if x.order_line == line.no)
        if state.open_quantity(order, line) - taken >= quantity:
            return line.no
    left = max(
        state.open_quantity(order, x) - sum(y.quantity for y in build.lines if y.order_line == x.no) for x in lines
    )
    raise Refusal(
        "more_than_ordered",
        f"{item.told(max(left, 0))} of {item.name} are announced on `{build.order}` still.",
        "quantity",
    )


def _drop_line(state: State, making: Making, _: Rulebook, stamp: Stamp, act: DropReturnLine) -> str:
    device = _device(stamp)
    build = state.returning.get(device)
    line = next((x for x in build.lines if x.no == act.line), None) if build else None
    if line is None:
        raise Refusal("no_such_line", f"Line {act.line} is not on the list any more.")
    making.event(ReturnLineDropped(device, act.line))
    return f"{state.ground.items[line.item].name} is off the list."


def _marked(state: State, rulebook: Rulebook, build: ReturnBuild, line: ReturnLine, stamp: Stamp) -> Marked:
    mark = _mark_of(state, rulebook, line.mark)
    status, goes = _fate(mark, bool(line.held))
    return Marked(
        line.mark, mark.name if mark else "", status, goes, mark is not None and not line.held and mark.credits,
        build.partner, line.item, line.quantity, stamp.today, line.held, line.remark, line.photo,
    )  # fmt: skip


def _finish(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: FinishReturn) -> str:
    device = _device(stamp)
    build = state.returning.get(device)
    if build is None or not build.lines:
        raise Refusal("nothing_back", "Nothing is taken back yet: scan an item first.")
    site = state.settings.site
    if build.order is None:
        number = OrderNo(making.draw("return"))
        lines = tuple(
            OrderLine(x.no, x.item, state.ground.items[x.item].base.code, x.quantity, Decimal(0)) for x in build.lines
        )
        order = Order(number, OrderKind.CUSTOMER_RETURN, site, build.partner, stamp.today, lines, confirmed=True)
        take_order(state, making, "confirm_order", order)
    else:
        number = build.order
    keys = {x.no: LineKey(number, x.order_line or x.no) for x in build.lines}
    making.event(ReturnMarked(tuple((keys[x.no], _marked(state, rulebook, build, x, stamp)) for x in build.lines)))
    plate: PlateNo | None = act.plate
    for x in build.lines:
        note = NoteLine(
            FlowId(""), number, x.item, state.ground.items[x.item].base.code, x.quantity, plate, act.plate_kind, x.lot, x.expiry,
            line=keys[x.no].line, serials=x.serials,
        )  # fmt: skip
        before = len(making.events)
        note_onto(state, making, rulebook, of_every_crew(rulebook, stamp), note, act.plate_kind is None)
        begun = (e for e in making.events[before:] if isinstance(e, PlateStarted | LoadStarted))
        plate = next((e.load if isinstance(e, LoadStarted) else e.plate for e in begun), plate)
    assert plate is not None
    making.event(ReturnEnded(device, number))
    arrived = making.act(FinishPlate(plate))
    held = sum(bool(x.held) for x in build.lines)
    waits = f" {counted(held, 'line')} {'is' if held == 1 else 'are'} held for a supervisor." if held else ""
    name = state.ground.partners[build.partner].name
    return said(f"Return `{number}` of {name}: {counted(len(build.lines), 'line')}.{waits}", arrived)


def after(state: State, making: Making, _: Rulebook, __: Stamp) -> str:
    """What is taken back on a handset is nothing once its dialogue is left."""
    for event in tuple(making.events):
        if isinstance(event, DialogueLeft):
            dialogue = state.dialogues.get(event.dialogue)
            device = dialogue.device if dialogue else None
            build = state.returning.get(device) if device else None
            if device and build is not None:
                making.event(ReturnEnded(device))
                return "Nothing of it was taken back." if build.lines else ""
    return ""


DECIDES = (
    deciding(NoteReturn, _note),
    deciding(DropReturnLine, _drop_line),
    deciding(FinishReturn, _finish),
)
"""How its acts are decided."""
