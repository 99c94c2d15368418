"""What is brought from reserve to where it is picked: from where, to which shelf, by which recipe. What is on its way is asked for by nobody
again."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import BinCode, ItemCode, OrderNo, PartnerCode, ReservationNo, TaskNo
from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.floor.reservations import Reserved
from mindful_crate.core.floor.standing import bin_now
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, Move
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.bin_rules import BinPurpose, Wants
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.recipes import Cause
from mindful_crate.core.rulebook.steps import BY_RULES, Need
from mindful_crate.core.rulebook.words.parts import all_of
from mindful_crate.core.trail import Allocation
from mindful_crate.core.work.making import Making, said
from mindful_crate.core.work.moving.checks import ask_where_from
from mindful_crate.core.work.putting.arranging import Arrangement, Piece, Seen, arrange
from mindful_crate.core.work.putting.doing import made
from mindful_crate.core.work.refilling.looking import Stand, brought, missing
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.stock.events import StockReserved
from mindful_crate.core.work.stock.fold import suppose_kept


@record
class Want:
    """So much of an item is to be brought, in base units: to a shelf that is named, or where the rules say; of a lot, if one is fixed, keeping
    long enough for a partner; for an order, if it waits for it."""

    item: ItemCode
    quantity: int
    cause: Cause
    to: BinCode | None = None
    lot: str = ""
    partner: PartnerCode | None = None
    order: OrderNo | None = None


def brings(rulebook: Rulebook, state: State, cause: Cause) -> bool:
    """Does any recipe bring something for this?"""
    recipes = rulebook.recipes_for(state.settings.site, Need.REPLENISH)
    return any(r.on and r.cause in (None, cause) for r in recipes)


def for_orders(state: State, rulebook: Rulebook, items: Iterable[ItemCode]) -> list[Want]:
    """What orders wait for of these items that no refill brings yet, the first to be served first."""
    wants: list[Want] = []
    if not brings(rulebook, state, Cause.WANTED):
        return wants
    for item in dict.fromkeys(items):
        left = sum(q for _, q in brought(state, item))
        for number, no, quantity in missing(state, item):
            covered = min(left, quantity)
            left -= covered
            order = state.order(number)
            line = state.ordered.line(order, no) if order else None
            if quantity > covered and order is not None and line is not None:
                much = quantity - covered
                wants.append(Want(item, much, Cause.WANTED, None, line.lot, order.partner or None, order.number))
    return wants


def for_shelves(stands: Iterable[Stand], cause: Cause) -> list[Want]:
    """What it takes to fill shelves up to their most."""
    return [Want(s.home.item, s.wants, cause, s.home.bin) for s in stands if s.wants]


@record
class Found:
    """What is brought for some wants, as tasks, and what is not: in reserve there is no more, no shelf takes it, no recipe is for it."""

    arranged: Arrangement
    lacking: tuple[tuple[Want, int], ...]


def find(state: State, rulebook: Rulebook, wants: Sequence[Want], stamp: Stamp, seen: Seen | None = None) -> Found:
    """The tasks some wants become; nothing is made. Only under an open journal."""
    mark, pieces, lacking = len(state.journal.lines), list[Piece](), list[tuple[Want, int]]()
    for n, want in enumerate(wants):
        partners = (want.partner,) if want.partner else ()
        goods = (Goods(want.item, want.quantity, want.lot),)
        request = BinRequest(
            state.settings.site, BinPurpose.REPLENISH_FROM, goods, partners=partners, today=stamp.today
        )
        trail = ask_where_from(state, rulebook, request)
        if trail.allocations and seen:
            seen(trail)
        if trail.rest:
            lacking.append((want, trail.rest))
        for each in trail.allocations:
            pieces.append(_piece(state, rulebook, want, each, f"refill {n}"))
        suppose_kept(state, trail, f"refill {n}")
    state.journal.back_to(mark)
    return Found(arrange(state, rulebook, pieces, stamp.today, seen=seen), tuple(lacking))


def _piece(state: State, rulebook: Rulebook, want: Want, found: Allocation, key: str) -> Piece:
    assert found.goods is not None
    rule = next(
        (r for r in rulebook.rules_for(state.settings.site, BinPurpose.REPLENISH_FROM) if r.id == found.rule), None
    )
    target = next((t for t in rule.targets if t.id == found.target), None) if rule else None
    whole = found.plate is not None and target is not None and target.wants is Wants.WHOLE_PLATE
    return Piece(
        key, found.bin, (found.goods,), found.plate if whole else None, at=want.to or BY_RULES,
        off=None if whole else found.plate, cause=want.cause,
        refs=(Ref(DocKind.ORDER, want.order),) if want.order else (),
    )  # fmt: skip


def ask(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, wants: Sequence[Want]) -> str:
    """Refills for some wants, with what they are to bring kept for them; what is said of it, and of what is not brought."""
    if not wants:
        return ""
    tasks, found = _made(state, making, rulebook, stamp, wants)
    many = "s" if len(tasks) > 1 else ""
    says = f"Refill{many} {all_of(f'`{t}`' for t in tasks)} made." if tasks else ""
    return said(says, *_not_brought(state, found))


def ask_for_orders(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, items: Iterable[ItemCode]) -> str:
    """Refills for what orders wait for of these items and none brings yet; what is said of it: for which they wait."""
    items = list(dict.fromkeys(items))
    wants = for_orders(state, rulebook, items)
    lacking = list(_not_brought(state, _made(state, making, rulebook, stamp, wants)[1])) if wants else []
    told = []
    for code in items:
        much, by = sum(q for *_, q in missing(state, code)), brought(state, code)
        if much and by:
            item = state.ground.items[code]
            told.append(f"{item.told(much)} of {item.name} wait for {all_of(f'`{t}`' for t, _ in by)}.")
    return said(*told, *lacking)


def _made(
    state: State, making: Making, rulebook: Rulebook, stamp: Stamp, wants: Sequence[Want]
) -> tuple[list[TaskNo], Found]:  # fmt: skip
    found, made_ = find(state, rulebook, wants, stamp, making.trail), list[TaskNo]()
    for each in found.arranged.tasks:
        number = TaskNo(making.draw("task"))
        making.event(made(number, each))
        keep(state, making, number, each.moves)
        made_.append(number)
    return made_, found


def _not_brought(state: State, found: Found) -> Iterator[str]:
    items, left = state.ground.items, dict[tuple[ItemCode, str], int]()
    for want, rest in found.lacking:
        left[want.item, "reserve has no more"] = left.get((want.item, "reserve has no more"), 0) + rest
    for piece, why in found.arranged.left:
        for goods in piece.goods:
            left[goods.item, why] = left.get((goods.item, why), 0) + goods.quantity
    for (code, why), quantity in left.items():
        yield f"{items[code].told(quantity)} of {items[code].name} are not brought: {why}."


def kept_by(moves: Iterable[Move], state: State) -> list[Reserved]:
    """What takes of a refill are to fetch, where it lies."""
    found = []
    for move in moves:
        if move.do is Do.TAKE and move.at is not None:
            code = bin_now(state, move.plate, move.at)
            goods = move.goods or (state.all_goods(move.plate) if move.plate else ())
            found += [Reserved(code, g, move.plate) for g in goods]
    return found


def keep(state: State, making: Making, task: TaskNo, moves: Iterable[Move]) -> None:
    """What a refill is to fetch is kept for it: nobody else is sent there for it."""
    by_item: dict[ItemCode, list[Reserved]] = {}
    for part in kept_by(moves, state):
        by_item.setdefault(part.goods.item, []).append(part)
    for item, parts in by_item.items():
        number = ReservationNo(making.draw("reservation"))
        making.event(StockReserved(number, f"refill {task}", item, tuple(parts), task=task))
