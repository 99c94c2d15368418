"""What is taken from an order that somebody fetches already, when the host cancels it or wants less: what is still in bins is kept no more, what stands
at a station is put back, what is in hands once it is set down."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import BinCode, OrderNo, PlateNo, ReservationNo
from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.floor.free import unkept
from mindful_crate.core.floor.plates import Holder
from mindful_crate.core.floor.reservations import Reserved
from mindful_crate.core.floor.standing import at_station, stands_in
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, Task
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.steps import BY_RULES, Need
from mindful_crate.core.work.making import Making, said
from mindful_crate.core.work.putting import doing
from mindful_crate.core.work.putting.arranging import Piece
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.stock.events import ReservationCut
from mindful_crate.core.work.tasks.events import MoveDone


def trimmed(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, order: Order) -> str:
    """Keep no more for an order than it wants now, or nothing when it is cancelled; what stands at a station too much is put back. What is said
    of it."""
    cancelled = state.is_cancelled(order.number)
    wanted = {} if cancelled else {x.no: x.quantity for x in order.lines}
    told, back = list[str](), list[Reserved]()
    for no, numbers in state.reservations.of_order(order.number).items():
        kept = [(n, p) for n in numbers for p in state.reservations[n].parts]
        over = sum(p.goods.quantity for _, p in kept) - wanted.get(no, 0)
        if over <= 0:
            continue
        gone: dict[ReservationNo, dict[int, int]] = {}
        for number, part in sorted(kept, key=lambda k: (_rank(state, k[1]), k[0])):
            less = min(over, part.goods.quantity)
            if less <= 0:
                break
            over -= less
            gone.setdefault(number, {})[id(part)] = less
            taken = evolve(part, goods=evolve(part.goods, quantity=less))
            item = state.ground.items[part.goods.item]
            if part.task is not None:
                told.append(
                    f"{item.told(less)} of {item.name} are in hands for `{part.task}`, and put back from where they are set down."
                )
            elif at_station(state, part):
                back.append(taken)
            else:
                told.append(f"{item.told(less)} of {item.name} in `{stands_in(state, part)}` are fetched no more.")
        for number, of in gone.items():
            left = [_less(p, of.get(id(p), 0)) for p in state.reservations[number].parts]
            making.event(ReservationCut(number, tuple(p for p in left if p.goods.quantity)))
    tasks = [state.tasks[n] for w in state.waves.of_order(order.number) for n in w.tasks]
    pieces = [
        p
        for n, each in enumerate(back)
        for p in put_back_pieces(state, order.number, each, f"{order.number} back {n}", tasks)
    ]
    return said(*told, doing.make_tasks(state, making, rulebook, stamp, pieces) if pieces else "")


def _rank(state: State, part: Reserved) -> int:
    """What is easiest to give up comes first: what still lies in its bin, then what stands at a station, then what somebody carries."""
    return 2 if part.task is not None else 1 if at_station(state, part) else 0


def _less(part: Reserved, quantity: int) -> Reserved:
    return evolve(part, goods=evolve(part.goods, quantity=part.goods.quantity - quantity))


def put_back_pieces(state: State, order: OrderNo, part: Reserved, key: str, tasks: Iterable[Task]) -> Iterator[Piece]:
    """What is put back: a plate that was fetched whole as it is, else loose goods, off the tote they are in, into the bin where one of these tasks
    fetched such for the order."""
    came = (
        m.at for t in tasks for m in t.plan.moves
        if m.do is Do.TAKE and m.plate is None and any(g.alike(part.goods) for g in m.goods) and any(s.line.order == order for s in m.serves)
    )  # fmt: skip
    at = next((c for c in came if c and state.blocked(c) is None), None) or BY_RULES
    code, refs = stands_in(state, part), (Ref(DocKind.ORDER, order),)
    if (
        part.plate is not None
        and _pallet(state, part.plate)
        and state.holds_just(part.plate, part.goods.item, part.goods.quantity)
    ):
        yield Piece(part.plate, code, (part.goods,), part.plate, refs=refs)
    else:
        yield Piece(key, code, (part.goods,), at=at, off=part.plate, refs=refs)


def _pallet(state: State, plate: PlateNo) -> bool:
    """Did it come in as a plate, or stand here from the beginning? A tote was one for picking alone."""
    card = state.plates.cards.get(plate)
    return card is None or card.receipt is not None


def set_down_unkept(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, events: Iterable[object]) -> str:
    """What was set down at a station and is kept for nobody, since its order went away meanwhile, is put back."""
    pieces: list[Piece] = []
    fetched: dict[tuple[BinCode, PlateNo | None, Goods], int] = {}
    for event in events:
        if not isinstance(event, MoveDone) or state.tasks[event.task].need is not Need.PICK:
            continue
        move = next((m for m in state.tasks[event.task].plan.moves if m.no == event.move), None)
        if move is None or move.do is not Do.PLACE or not move.serves:
            continue
        plate = PlateNo(event.target.code) if event.target.holder is Holder.PLATE else event.plate
        for goods in event.goods or (state.all_goods(event.plate) if event.plate else ()):
            spare = unkept(state, event.at, plate, goods)
            like = (event.at, plate, evolve(goods, quantity=1))
            if spare > 0 and like not in fetched:
                fetched[like] = _fetched_by_others(state, event.at, plate, goods)
            if (spare := min(goods.quantity, spare - fetched.get(like, 0))) > 0:
                fetched[like] += spare
                part = Reserved(event.at, evolve(goods, quantity=spare), plate)
                mine = [state.tasks[event.task]]
                pieces += put_back_pieces(
                    state, move.serves[0].line.order, part, f"{event.task} back {len(pieces)}", mine
                )
    return doing.make_tasks(state, making, rulebook, stamp, pieces) if pieces else ""


def _fetched_by_others(state: State, code: BinCode, plate: PlateNo | None, goods: Goods) -> int:
    """How much of such goods the open tasks that fetch for nobody will take from there, in base units."""
    return sum(
        g.quantity
        for task in state.tasks.values()
        if not task.state.ended
        for m in task.going.remaining
        if m.do is Do.TAKE and not m.serves and m.at == code and m.plate == plate
        for g in m.goods
        if g.alike(goods)
    )
