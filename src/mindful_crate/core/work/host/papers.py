"""Orders and messages as the chain tells them."""

from __future__ import annotations

from collections.abc import Iterable

from mindful_crate.core.catalog.goods import Order, OrderKind, OrderLine
from mindful_crate.core.catalog.ids import MessageNo, OrderNo
from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.floor.messages import MessageState
from mindful_crate.core.floor.orders import Output
from mindful_crate.core.floor.state import State
from mindful_crate.core.work.host.decide import in_host
from mindful_crate.core.work.papers import Doc, PaperKind, Papers, Stage
from mindful_crate.core.work.receiving.checks import known_order
from mindful_crate.core.work.releasing.words import HOW
from mindful_crate.core.work.sorting.looking import how_far, is_sorted


class OrderPaper(PaperKind):
    """Orders of the site: confirmed, arrived, booked, or cancelled."""

    kind = DocKind.ORDER

    def there(self, state: State, number: str) -> bool:
        return state.order(OrderNo(number)) is not None

    def all(self, state: State) -> Iterable[str]:
        return (o.number for o in state.all_orders() if o.site == state.settings.site)

    def following(self, state: State) -> Iterable[str]:
        return ()

    def doc(self, papers: Papers, number: str) -> Doc:
        state = papers.state
        order = known_order(state, OrderNo(number))
        how = in_host(state, order.number)
        progress = [(line, state.line_progress(order.number, line.no)) for line in order.lines]
        arrived = [(line, done.arrived) for line, done in progress]
        booked = [(line, done.booked) for line, done in progress]
        more = ", more on plates" if any(done.noted for _, done in progress) else ""
        confirmed = state.is_confirmed(order.number)
        told = 0 if confirmed else next((m.seq for m in state.messages_left(order.number)), 0)
        stages = [Stage("confirmed", confirmed, state.confirmed.get(order.number, told), how.hold)]
        if state.is_cancelled(order.number):
            stages.append(Stage("cancelled", True, state.cancelled[order.number]))
        elif order.inbound:
            last = max((done.arrived_in for _, done in progress), default=0)
            last_booked = max((done.booked_in for _, done in progress), default=0)
            stages += [
                Stage("arrived", _all(arrived), last, _far(state, arrived, "here") + more),
                Stage("booked", _all(booked), last_booked, _far(state, booked, "booked")),
            ]
        else:
            gone = [(line, state.line_progress(order.number, line.no).shipped) for line in order.lines]
            release = state.releases.get(order.number)
            how_it_went = f"into `{release.shipment}`{HOW[release.verdict]}" if release else ""
            stages.append(Stage("released", release is not None, release.seq if release else 0, how_it_went))
            if release:
                far, left = how_far(state, order.number), {line.no: n for line, n in gone}
                stages.append(_stage(state, order, {n: f.fetched for n, f in far.items()}, "picked", left))
                if is_sorted(state, order.number):
                    stages.append(_stage(state, order, {n: f.parted for n, f in far.items()}, "sorted", left))
                if any(f.packed for f in far.values()):
                    stages.append(_stage(state, order, {n: f.packed for n, f in far.items()}, "packed", left))
            last = max((state.line_progress(order.number, line.no).shipped_in for line in order.lines), default=0)
            stages.append(Stage("shipped", state.ordered.is_shipped(order), last, _far(state, gone, "shipped")))
        if order.kind is OrderKind.PRODUCTION and how.held.output is not Output.RUNNING:
            closed = how.held.output is Output.CLOSED
            stages.append(Stage("closed", closed, 0, "" if closed else "its output is complete"))
        partner = state.ground.partners.get(order.partner)
        lines = "1 line" if len(order.lines) == 1 else f"{len(order.lines)} lines"
        says = f"{order.kind.value.replace('_', ' ')} order, {partner.name if partner else order.partner}, {lines}"
        return Doc(self.kind, order.number, says, tuple(stages))


def _stage(state: State, order: Order, done: dict[int, int], word: str, left: dict[int, int]) -> Stage:
    """How far an order that goes out is, by its lines, with what has ``left`` already; which entry brought it there is told by its tasks."""
    lines = [(line, done.get(line.no, 0) + left.get(line.no, 0)) for line in order.lines]
    return Stage(word, _all(lines), 0, _far(state, lines, word))


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


CALLED = {
    "confirm_order": "order in",
    "change_order": "order changed",
    "cancel_order": "order cancelled",
    "announce": "advance notice",
    "note_arrival": "arrival noted",
    "undo_receipt": "receipt undone",
    "book_receipt": "receipt to book",
    "book_shipment": "shipment to book",
    "undo_shipment": "shipment taken back",
    "book_count": "count to book",
}
"""What a message is called."""
WORD = {
    MessageState.WAITING: "accepted",
    MessageState.ANSWERED: "accepted",
    MessageState.REFUSED: "refused",
    MessageState.GIVEN_UP: "given up",
}


class MessagePaper(PaperKind):
    """Messages from and to the host, right after what they are about."""

    kind = DocKind.MESSAGE
    short = False
    beside = True

    def there(self, state: State, number: str) -> bool:
        return MessageNo(number) in state.messages

    def all(self, state: State) -> Iterable[str]:
        return iter(state.messages)

    def before(self, state: State, number: str) -> tuple[Ref, ...]:
        return state.messages[MessageNo(number)].follows

    def doc(self, papers: Papers, number: str) -> Doc:
        message = papers.state.messages[MessageNo(number)]
        way = "from the host" if message.from_host else "to the host"
        done = message.state in (MessageState.ANSWERED, MessageState.REFUSED)
        stages = (
            Stage("sent", True, message.seq),
            Stage(WORD[message.state], done, message.settled_in, message.says),
        )
        says = f"{CALLED[message.topic]}, {way}, about `{message.subject}`"
        return Doc(self.kind, message.number, says, stages, self.before(papers.state, number))


PAPERS = (OrderPaper(), MessagePaper())
"""Its documents."""
