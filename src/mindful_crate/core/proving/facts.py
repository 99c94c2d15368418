"""What a document says of itself beside its states: of a task where it goes, by which rule and recipe, and of which stock; of a
receipt on which plate and in which bin it arrived; of an order how far each line is, step by step."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from mindful_crate.core.catalog.amounts import Goods, all_more
from mindful_crate.core.catalog.ids import BinCode, OrderNo, PlateNo, ReceiptNo, TaskNo
from mindful_crate.core.catalog.refs import DocKind, LineKey, Ref
from mindful_crate.core.floor.receipts import Receipt
from mindful_crate.core.floor.returns import Marked
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, Move, Task
from mindful_crate.core.proving.work_lists import station
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.chapters import where
from mindful_crate.core.rulebook.words.parts import STATUSES
from mindful_crate.core.rulebook.words.recipes import crew_name
from mindful_crate.core.rulebook.words.steps import BOOKING
from mindful_crate.core.work.receiving.checks import known_order


@record
class Fact:
    """One thing a document says: what it is called, what is so, and where the rule is found that made it so."""

    word: str
    says: str
    link: str = ""


def facts_of(state: State, book: Rulebook, ref: Ref) -> tuple[Fact, ...]:
    """What is so of a document, line by line; nothing of a kind whose states say it all."""
    found = FACTS.get(ref.kind)
    return tuple(Fact(*said) for said in found(state, book, ref.number) if said[1]) if found else ()


Facts = Iterable[tuple[str, str] | tuple[str, str, str]]


def _bin(state: State, code: BinCode | None) -> str:
    """A bin with the zone it is in."""
    if code is None:
        return ""
    zone = state.ground.zones[state.ground.bins[code].zone]
    return f"`{code}`, {zone.name}"


def _goods(state: State, goods: Iterable[Goods]) -> str:
    """Goods with all that tells them apart: lot, date, status."""
    said = []
    for each in goods:
        item = state.ground.items[each.item]
        parts = [f"{item.told(each.quantity)} {item.name}", STATUSES[each.status]]
        parts += [f"lot `{each.lot}`"] if each.lot else []
        parts += [f"keeps until {each.expiry.isoformat()}"] if each.expiry else []
        said.append(", ".join(parts))
    return "; ".join(said)


def _task(state: State, book: Rulebook, number: str) -> Facts:
    task = state.tasks[TaskNo(number)]
    plates = task.plan.plates
    yield (
        "For",
        f"{station(book, state.ground, task)}: {'whole plates' if len(plates) > 1 else 'a whole plate' if plates else 'loose'}",
    )
    if not plates:
        yield "Stock", _goods(state, task.plan.loose)
    elif not task.state.ended:
        yield "Stock", _goods(state, (g for p in plates for g in state.all_goods(p)))
    yield "From", _bin(state, task.from_bin)
    if task.to_bin and task.going.place:
        by, link = _by_rule(book, task)
        yield "To", f"{_bin(state, task.to_bin)}, {by}", link
    elif not task.state.ended and any(_places(task)):
        yield "To", "a bin the worker chooses: no rule found one"
    if not task.state.ended:
        yield "Still to be placed", _goods(state, _left_of(state, task))
    if not task.state.ended and (totes := task.going.totes):
        yield (
            "Totes",
            "; ".join(f"`{t.plate}` of `{t.order}`" + (f", waits in `{t.came}`" if t.waits else "") for t in totes),
        )
    crew = crew_name(book.crews, task.crew) if task.crew else "who made it"
    yield "Crew", f"{crew}, @{task.whose} alone" if task.whose else crew
    if task.plan.recipe:
        yield "Made by", *where(f"recipes/{task.plan.recipe}", book)
    yield "Priority", str(task.priority) if task.priority else ""
    yield "Held", "" if task.state.ended else task.held


def _by_rule(book: Rulebook, task: Task) -> tuple[str, str]:
    """By which rule the bin was chosen, and where that stands now."""
    for rules in book.bin_rules:
        if any(r.id == task.rule for r in rules.rules):
            says, link = where(f"bin_rules/{rules.id}/rules/{task.rule}", book)
            return f"by {says}", link
    return "by no rule" if task.rule is None else "by a rule that is gone", ""


def _places(task: Task) -> Iterable[Move]:
    return (m for m in task.going.remaining if m.do is Do.PLACE)


def _left_of(state: State, task: Task) -> tuple[Goods, ...]:
    """What of a task is not where it is to be yet."""
    found: tuple[Goods, ...] = ()
    for move in _places(task):
        found = all_more(found, move.goods or (state.all_goods(move.plate) if move.plate else ()))
    return found


def still_to_place(state: State, receipt: Receipt) -> tuple[Goods, ...]:
    """What of a receipt is not put away yet, whether a task takes it, an inspection, or nobody yet."""
    tasks = state.tasks.following((receipt.plate,), (receipt.number,))
    rests = state.rests.of_receipt(receipt.number, receipt.plate)
    if not receipt.loose:
        return state.all_goods(receipt.plate) if tasks or rests else ()
    found: tuple[Goods, ...] = ()
    for task in tasks:
        found = all_more(found, _left_of(state, task) or task.plan.loose)
    for rest in rests:
        found = all_more(found, rest.goods)
    return found


def _receipt(state: State, _: Rulebook, number: str) -> Facts:
    receipt = state.receipts[ReceiptNo(number)]
    yield "On plate", "none, received loose" if receipt.loose else f"`{receipt.plate}`"
    yield "Into bin", _bin(state, receipt.into)
    yield "Held", "more than was ordered: the office has not decided yet" if receipt.held else ""
    yield "Host is told", BOOKING[receipt.booking]
    if not receipt.undone:
        yield "Still to be put away", _goods(state, still_to_place(state, receipt)) or "nothing"


def _plate(state: State, _: Rulebook, number: str) -> Facts:
    plate = state.plates[PlateNo(number)]
    yield "Stands in", _bin(state, state.bin_of(plate.number) or plate.into)
    yield "On it", _goods(state, plate.goods)


def _order(state: State, book: Rulebook, number: str) -> Facts:
    order = known_order(state, OrderNo(number))
    if (mine := book.class_of(state.ground, order)) is not None:
        yield "Class", mine.name, f"classes/{mine.id}"
    left: tuple[Goods, ...] = ()
    for receipt in state.receipts.of_order(order.number):
        if not receipt.undone:
            left = all_more(left, still_to_place(state, receipt))
    for line in order.lines:
        item = state.ground.items[line.item]
        far = state.line_progress(order.number, line.no)
        key = LineKey(order.number, line.no)
        cover = state.covers.of_line(key)
        away = sum(g.quantity for g in left if g.item == line.item) if far.arrived else 0
        counts = {
            "noted, not finished": far.noted, "arrived": far.arrived, "booked": far.booked, "not waited for any more": far.closed,
            "still to be put away": away, "promised on hand": cover.on_hand if cover else 0,
            "promised on its way": cover.coming if cover else 0, "kept in bins": state.reservations.of_line(key),
        }  # fmt: skip
        yield (
            f"Line {line.no}",
            f"{item.told(line.quantity)} {item.name}" + "".join(f", {n:,} {word}" for word, n in counts.items() if n),
        )
        if (marked := state.returned.get(key)) is not None:
            yield f"Line {line.no} came back", _marked(marked)


def _marked(marked: Marked) -> str:
    """How goods that came back were marked, and what whoever took them back saw of them."""
    parts = [
        marked.name or "no mark", STATUSES[marked.status].lower(), "credited" if marked.credits else "not credited",
        f"held: {marked.held}" if marked.held else "", f"\u201c{marked.remark}\u201d" if marked.remark else "",
        f"photo `{marked.photo}`" if marked.photo else "",
    ]  # fmt: skip
    return ", ".join(p for p in parts if p)


FACTS: dict[DocKind, Callable[[State, Rulebook, str], Facts]] = {
    DocKind.TASK: _task, DocKind.RECEIPT: _receipt, DocKind.PLATE: _plate, DocKind.ORDER: _order,
}  # fmt: skip
"""The kinds of documents of which more is so than their states say."""
