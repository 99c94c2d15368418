"""What is picked stays kept for the lines it was fetched for, wherever it is."""

from __future__ import annotations

from collections.abc import Iterable

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import BinCode, OrderNo, PlateNo, ReservationNo, TaskNo
from mindful_crate.core.floor.reservations import Reservation, Reserved, parts_changed
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Move
from mindful_crate.core.record import evolve
from mindful_crate.core.work.making import Making
from mindful_crate.core.work.picking.events import KeptMoved, SomeKeptMoved

MANY = 16
"""Of a reservation with more parts only those that moved are written down: else a line packed into thousands of cartons would be written down with each."""
At = tuple[BinCode | None, PlateNo | None, TaskNo | None]
"""In a bin, off a plate, or in the hands of who does a task; no bin: whichever."""


def keep_where(
    state: State, making: Making, move: Move, goods: tuple[Goods, ...], was: At, now: At, become: Goods | None = None
) -> None:  # fmt: skip
    """What was kept of these goods for the lines a move serves is kept where they are now; the first lines first. ``become``: others of the item are
    kept instead."""
    much = sum(g.quantity for g in goods)
    for each in move.serves:
        left = min(each.quantity, much)
        for number in state.reservations.for_line(each.line):
            others: list[tuple[int, tuple[Reserved, ...]]] = []
            parts = state.reservations[number].parts
            for at, part in enumerate(parts):
                takes = min(left, part.goods.quantity) if _is_there(part, goods, was) else 0
                if takes:
                    left -= takes
                    much -= takes
                    code = now[0] or part.bin
                    moved = Reserved(code, evolve(become or part.goods, quantity=takes), now[1], part.rule, now[2])
                    stays = part.goods.quantity - takes
                    rest = (evolve(part, goods=evolve(part.goods, quantity=stays)),) if stays else ()
                    others.append((at, (moved, *rest)))
            if others and len(parts) > MANY:
                making.event(SomeKeptMoved(number, tuple(others)))
            elif others:
                by_place = dict(others)
                making.event(KeptMoved(number, tuple(p for n, x in enumerate(parts) for p in by_place.get(n, (x,)))))


def kept_less(state: State) -> list[OrderNo]:
    """Orders for which less is kept now than when the decision began; what only moved is kept as before."""
    before: dict[ReservationNo, Reservation] = {}
    for keeper, key, was in state.journal.puts():
        if keeper is state.reservations and was is not None and was.order is not None:
            before.setdefault(key, was)
    lost = (was for key, was in before.items() if _more(*parts_changed(was, state.reservations.get(key))) < 0)
    return list(dict.fromkeys(was.order for was in lost if was.order is not None))


def _more(gone: Iterable[Reserved], come: Iterable[Reserved]) -> int:
    return sum(p.goods.quantity for p in come) - sum(p.goods.quantity for p in gone)


def _is_there(part: Reserved, goods: tuple[Goods, ...], at: At) -> bool:
    code, plate, task = at
    return (
        part.task == task
        and (code is None or part.bin == code or plate is not None)
        and part.plate == plate
        and any(g.alike(part.goods) for g in goods)
    )
