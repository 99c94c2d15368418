"""The chain of documents: from an order over plates, receipts and tasks to stock and the host's messages, and back.

A document says its states one by one, each with the entry of the log in which it was reached; the entry says who, on
which device and when. The short chain leaves out messages and what only leads from one document to the next.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import cast

from mindful_crate.core.catalog.goods import Order, OrderLine
from mindful_crate.core.catalog.ids import ItemCode, MessageNo, OrderNo, PlateNo, ReceiptNo, TaskNo
from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.floor.messages import Message, MessageState
from mindful_crate.core.floor.plates import Plate, PlateLine
from mindful_crate.core.floor.receipts import Receipt
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Task, TaskState
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve, record
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.work.host.decide import in_host
from mindful_crate.core.work.receiving.checks import known_order, plate_text

SHORT = (DocKind.ORDER, DocKind.RECEIPT, DocKind.TASK)


@record
class Stage:
    """A state of a document: reached in entry ``seq``, or not ``done`` yet. ``seq`` 0: it was so at the opening."""

    word: str
    done: bool
    seq: int = 0
    says: str = ""


@record
class Doc:
    """A document of a chain: what it is about, its stages, and its neighbours before and after it."""

    kind: DocKind
    number: str
    says: str
    stages: tuple[Stage, ...]
    before: tuple[Ref, ...] = ()
    after: tuple[Ref, ...] = ()

    @property
    def open(self) -> bool:
        """Is something of it still to come?"""
        return not all(s.done for s in self.stages)

    @property
    def word(self) -> str:
        """The state it is in: the last one that was reached."""
        return next((s.word for s in reversed(self.stages) if s.done), f"not {self.stages[0].word} yet")

    @property
    def latest(self) -> int:
        """The entry that changed it last."""
        return max((s.seq for s in self.stages), default=0)


def find(state: State, number: str) -> Ref | None:
    """The document of that number."""
    if state.order(OrderNo(number)):
        return Ref(DocKind.ORDER, number)
    for kind, there in (
        (DocKind.RECEIPT, state.receipts),
        (DocKind.TASK, state.tasks),
        (DocKind.MESSAGE, state.messages),
    ):
        if number in there:
            return Ref(kind, number)
    return Ref(DocKind.PLATE, number) if state.plate(PlateNo(number)) else None


def chain(state: State, start: Ref, *, short: bool = False) -> list[Doc]:
    """Every document that hangs together with one, from the orders on; refused when there is no such document."""
    if find(state, start.number) != start:
        raise Refusal("unknown_document", f"There is no {start.kind.value} `{start.number}` here.")
    orders, plates = _roots(state, start)
    look = _Look(state)
    found = [_order(look, known_order(state, n)) for n in orders]
    receipts = list(dict.fromkeys(r for n in orders for r in look.receipts.get(n, ())))
    plates = [*dict.fromkeys([*plates, *(r.plate for r in receipts), *_being_built(state, orders)])]
    for number in plates:
        plate = state.plate(number)
        if plate is None:
            continue
        if plate.into is None or plate.building:
            found.append(_plate(state, plate))
        found += [_receipt(state, r) for r in receipts if r.plate == number]
        found += [_task(state, t) for t in look.tasks.get(number, ())]
    if start.kind is DocKind.TASK and all(d.number != start.number for d in found):
        found.append(_task(state, state.tasks[TaskNo(start.number)]))
    found = [each for d in found for each in (d, *_messages_about(state, d))]
    return _shortened(found) if short else _joined(found)


def documents(state: State) -> Iterator[Doc]:
    """All documents that something happened to, or that wait for something to happen."""
    look = _Look(state)
    for order in state.all_orders():
        if order.site == state.settings.site:
            yield _order(look, order)
    yield from (_plate(state, p) for p in state.building())
    yield from (_receipt(state, r) for r in state.receipts.values())
    yield from (_task(state, t) for t in state.tasks.values())
    yield from (_message(m) for m in state.messages.values())


def _roots(state: State, start: Ref) -> tuple[list[OrderNo], list[PlateNo]]:
    """The orders that a document goes back to, and plates when it goes back to none."""
    if start.kind is DocKind.ORDER:
        return [OrderNo(start.number)], []
    if start.kind is DocKind.MESSAGE:
        subject = find(state, state.messages[MessageNo(start.number)].subject)
        return _roots(state, subject) if subject else ([], [])
    if start.kind is DocKind.RECEIPT:
        return _orders_of(state.receipts[ReceiptNo(start.number)].lines), []
    number: PlateNo | None = PlateNo(start.number)
    if start.kind is DocKind.TASK:
        task = state.tasks[TaskNo(start.number)]
        number = task.plate or task.from_plate or (PlateNo(task.receipt) if task.receipt else None)
    plate = state.plate(number) if number else None
    if plate is None:
        return [], []
    lines = state.receipts[plate.receipt].lines if plate.receipt else plate.lines
    return _orders_of(lines), [plate.number]


def _orders_of(lines: Iterable[PlateLine]) -> list[OrderNo]:
    return list(dict.fromkeys(x.order for x in lines))


class _Look:
    """A state with what leads from orders to receipts and from plates to tasks, gathered once."""

    def __init__(self, state: State) -> None:
        self.state = state
        self.receipts: dict[OrderNo, list[Receipt]] = {}
        self.tasks: dict[PlateNo, list[Task]] = {}
        for receipt in state.receipts.values():
            for number in _orders_of(receipt.lines):
                self.receipts.setdefault(number, []).append(receipt)
        for task in state.tasks.values():
            load = PlateNo(task.receipt) if task.receipt else None
            for plate in {task.plate, task.from_plate, load} - {None}:
                self.tasks.setdefault(cast(PlateNo, plate), []).append(task)


def _being_built(state: State, orders: list[OrderNo]) -> list[PlateNo]:
    wanted = set(orders)
    return [p.number for p in state.building() if any(x.order in wanted for x in p.lines)]


def _order(look: _Look, order: Order) -> Doc:
    state = look.state
    how = in_host(state, order.number)
    progress = [(line, state.line_progress(order.number, line.no)) for line in order.lines]
    arrived = [(line, done.arrived) for line, done in progress]
    booked = [(line, done.booked) for line, done in progress]
    noted = any(done.noted for _, done in progress)
    about = state.messages_about(order.number)
    # what the stand-in sent says who did it; a real host's word is the entry itself
    told = next((m.seq for m in about), state.confirmed.get(order.number, 0))
    receipts = look.receipts.get(order.number, [])
    stages = [Stage("confirmed", state.is_confirmed(order.number), told, how.hold)]
    if state.is_cancelled(order.number):
        stages.append(Stage("cancelled", True, max((m.seq for m in about), default=state.cancelled[order.number])))
    elif order.inbound:
        last = max((r.seq for r in receipts), default=0)
        stages += [
            Stage("arrived", _all(arrived), last, f"{_far(state, arrived, 'here')}{', more on plates' if noted else ''}"),
            Stage("booked", _all(booked), max((r.booked_in for r in receipts), default=0), _far(state, booked, "booked")),
        ]  # fmt: skip
    partner = state.ground.partners.get(order.partner)
    lines = "1 line" if len(order.lines) == 1 else f"{len(order.lines)} lines"
    says = f"{order.kind.value.replace('_', ' ')} order, {partner.name if partner else order.partner}, {lines}"
    return Doc(DocKind.ORDER, order.number, says, tuple(stages))


def _all(lines: list[tuple[OrderLine, int]]) -> bool:
    return all(done >= line.quantity for line, done in lines)


def _far(state: State, lines: list[tuple[OrderLine, int]], where: str) -> str:
    """How far an order is: quantities of a single line, else lines, since metres and pieces do not add up."""
    if len(lines) == 1:
        line, done = lines[0]
        item = state.ground.items[line.item]
        return f"{item.told(done)} of {item.told(line.quantity)} {where}"
    whole = sum(done >= line.quantity for line, done in lines)
    part = sum(0 < done < line.quantity for line, done in lines)
    return f"{whole} of {len(lines)} lines {where}" + (f", {part} in part" if part else "")


def _plate(state: State, plate: Plate) -> Doc:
    before: list[Ref] = [Ref(DocKind.ORDER, n) for n in _orders_of(plate.lines)]
    if plate.receipt:
        before = [Ref(DocKind.ORDER, n) for n in _orders_of(state.receipts[plate.receipt].lines)]
    lines = state.receipts[plate.receipt].lines if plate.receipt else plate.lines
    stages = [Stage("begun", True, plate.begun)] if plate.begun else [Stage("there at the opening", True)]
    stages += _noted(state, lines)
    if plate.begun:
        stages.append(Stage("finished", not plate.building, plate.finished))
    where = state.bin_of(plate.number) or plate.into
    stands = f"in `{where}`" if where else f"carried by @{plate.carrier}" if plate.carrier else "nowhere"
    return Doc(
        DocKind.PLATE, plate.number, f"{plate_text(state, plate) or 'empty'}, {stands}", tuple(stages), tuple(before)
    )


def _noted(state: State, lines: Iterable[PlateLine]) -> list[Stage]:
    stages = []
    for line in lines:
        item = state.ground.items[line.item]
        lot = f", lot `{line.lot}`" if line.lot else ""
        stages.append(
            Stage("noted", True, line.seq, f"{item.told(line.quantity)} of {item.name}{lot} for `{line.order}`")
        )
    return stages


def _receipt(state: State, receipt: Receipt) -> Doc:
    plate = state.plate(receipt.plate)
    load = plate is not None and plate.into is not None
    orders = [Ref(DocKind.ORDER, n) for n in _orders_of(receipt.lines)]
    before = tuple(orders) if load else (Ref(DocKind.PLATE, receipt.plate), *orders)
    noted = _noted(state, receipt.lines) if load else []
    why = f"refused by the host: {receipt.refused}" if receipt.refused else ""
    stages = (*noted, Stage("arrived", True, receipt.seq), Stage("booked", receipt.booked, receipt.booked_in, why))
    says = ", ".join(_line_told(state, x.item, x.quantity) for x in receipt.lines[:5])
    return Doc(DocKind.RECEIPT, receipt.number, says, stages, before)


def _line_told(state: State, code: ItemCode, quantity: int) -> str:
    item = state.ground.items[code]
    return f"{item.told(quantity)} {item.name}"


def _task(state: State, task: Task) -> Doc:
    before = [Ref(DocKind.PLATE, n) for n in (task.plate or task.from_plate,) if n]
    if task.receipt:
        before = [Ref(DocKind.RECEIPT, task.receipt)]
    what = "put away" if task.need is Need.PUT_AWAY else "move"
    to = task.placed_in or task.to_bin
    says = f"{what} {f'plate `{task.plate}`' if task.plate else 'goods'} from `{task.from_bin}`" + (
        f" to `{to}`" if to else ""
    )
    stages = [Stage("made", True, task.made)]
    stages += [Stage("another bin", True, seq) for seq in task.again]
    stages.append(Stage("taken", task.taken > 0, task.taken, f"by @{task.person}" if task.person else ""))
    if task.state is TaskState.CANCELLED:
        return Doc(
            DocKind.TASK,
            task.number,
            says,
            (*stages[:-1], Stage("cancelled", True, task.cancelled, task.held)),
            tuple(before),
        )
    done = task.state is TaskState.DONE
    seq = max((p.seq for p in task.placed), default=0)
    stages.append(
        Stage(
            "placed", done, seq, ", ".join(f"in `{p.bin}`" + (f": {p.reason}" if p.reason else "") for p in task.placed)
        )
    )
    return Doc(DocKind.TASK, task.number, says, tuple(stages), tuple(before))


WORDS = {
    "confirm_order": "order in",
    "change_order": "order changed",
    "cancel_order": "order cancelled",
    "announce": "advance notice",
    "note_arrival": "arrival noted",
    "book_receipt": "receipt to book",
}
"""What a message is called."""


def _messages_about(state: State, doc: Doc) -> Iterator[Doc]:
    if doc.kind in (DocKind.ORDER, DocKind.RECEIPT):
        yield from (_message(m) for m in state.messages_about(doc.number))


def _message(message: Message) -> Doc:
    way = "from the host" if message.from_host else "to the host"
    word = {
        MessageState.WAITING: "accepted",
        MessageState.ANSWERED: "accepted",
        MessageState.REFUSED: "refused",
        MessageState.GIVEN_UP: "given up",
    }[message.state]
    done = message.state in (MessageState.ANSWERED, MessageState.REFUSED)
    stages = (Stage("sent", True, message.seq), Stage(word, done, message.settled_in, message.says))
    kind = DocKind.ORDER if message.from_host else DocKind.RECEIPT
    says = f"{WORDS[message.topic]}, {way}, about `{message.subject}`"
    return Doc(DocKind.MESSAGE, message.number, says, stages, (Ref(kind, message.subject),))


def _joined(docs: list[Doc]) -> list[Doc]:
    """Every link both ways, among the documents of the chain and to those outside it."""
    after: dict[tuple[str, str], list[Ref]] = {}
    for doc in docs:
        for ref in doc.before:
            after.setdefault((ref.kind, ref.number), []).append(Ref(doc.kind, doc.number))
    return [evolve(d, after=tuple(after.get((d.kind, d.number), ()))) for d in docs]


def _shortened(docs: list[Doc]) -> list[Doc]:
    """The chain without plates and messages: what led over a plate leads straight on."""
    over = {d.number: [r for r in d.before if r.kind is DocKind.ORDER] for d in docs if d.kind is DocKind.PLATE}
    receipt_of = {r.number: d for d in docs if d.kind is DocKind.RECEIPT for r in d.before if r.kind is DocKind.PLATE}
    kept = []
    for doc in docs:
        if doc.kind not in SHORT:
            continue
        before: list[Ref] = []
        for ref in doc.before:
            if ref.kind is not DocKind.PLATE:
                before.append(ref)
            elif doc.kind is DocKind.TASK and ref.number in receipt_of:
                before.append(Ref(DocKind.RECEIPT, receipt_of[ref.number].number))
            else:
                before += over.get(ref.number, [])
        kept.append(evolve(doc, before=tuple(dict.fromkeys(before))))
    return _joined(kept)
