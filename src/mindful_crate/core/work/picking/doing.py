"""How a pick task is worked on the handset: begun, its totes named, fetched bin by bin, short, set down, left."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from mindful_crate.core.catalog.amounts import Goods, all_less, all_more, portion
from mindful_crate.core.catalog.ids import BinCode, OrderNo, PersonId, PlateKindCode, PlateNo, ReservationNo, TaskNo
from mindful_crate.core.catalog.places import PICKED_FROM, PlateNeed
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.plates import Spot, in_bin, in_hands, on_plate, with_person
from mindful_crate.core.floor.reservations import Reserved
from mindful_crate.core.floor.serials import Serials
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, Move, Serves, Task, TaskState, Tote, line_by_line
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.words.parts import counted
from mindful_crate.core.scanning.reading import is_plate_label
from mindful_crate.core.work import numbered
from mindful_crate.core.work.covering.decide import promise_anew
from mindful_crate.core.work.making import Making, said
from mindful_crate.core.work.picking import looking
from mindful_crate.core.work.picking.acts import (
    LeavePicking,
    PickBegin,
    PickPlace,
    PickShort,
    PickTake,
    SetTote,
    TakeTote,
    ToteMissing,
)
from mindful_crate.core.work.picking.arranging import Kept, to_fetch
from mindful_crate.core.work.picking.events import MoveShort, TaskBegun, ToteChosen, ToteSet, ToteStands, ToteTaken
from mindful_crate.core.work.picking.keeping import keep_where
from mindful_crate.core.work.receiving.checks import goods_text
from mindful_crate.core.work.refilling.asking import ask_for_orders
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.stock.events import ReservationCut, StockReserved
from mindful_crate.core.work.tasks.decide import reason
from mindful_crate.core.work.tasks.events import MoveDone, TaskCancelled, TaskLeft
from mindful_crate.core.work.waving.keeping import allocate

NOTHING_MORE = "nothing more of it was to be fetched: its totes went on"
"""Why a task ends of which only totes from the zone before were left."""


def mine(state: State, number: TaskNo, stamp: Stamp) -> Task:
    """A pick task that whoever asks has begun."""
    task = looking.task_to_pick(state, number, stamp.crews, stamp.who)
    if task.state is not TaskState.TAKEN:
        raise Refusal("not_taken", f"Begin task `{number}` first.")
    return task


def _begin(state: State, making: Making, _: Rulebook, stamp: Stamp, act: PickBegin) -> str:
    task = looking.task_to_pick(state, act.task, stamp.crews, stamp.who)
    other = looking.picked_by(state, stamp.who)
    if other is not None and other.number != task.number:
        raise Refusal(
            "begun_another", f"You pick task `{other.number}`: finish it, or leave it, before you begin another."
        )
    if task.state is TaskState.OPEN:
        making.event(TaskBegun(task.number, stamp.who))
    changed = any(
        p.quantity == 0 for p in task.going.parts
    )  # something was not found, or dropped, since its list was made
    paper = "It is not as it was made any more: what a list on paper says may be wrong." if changed else ""
    return said(f"Task `{task.number}` is yours. {looking.told(state, task)}.", paper)


def tote_kind(state: State) -> PlateKindCode | None:
    """What kind of plate a tote is at this site: that of its carts, else the first there is."""
    ground, site = state.ground, state.settings.site
    carts = (c.tote_kind for c in ground.opening.carts if c.site == site)
    return next(carts, None) or next((k.code for k in ground.opening.plate_kinds), None)


def check_empty(state: State, tote: PlateNo) -> None:
    """Refuse what is no label of an empty tote."""
    used = looking.tote_in_use(state, tote)
    if used is not None and used[0].person is not None:
        says = f"Tote `{tote}` holds goods of `{used[1]}`, picked by @{used[0].person}. Take an empty one."
        raise Refusal("tote_in_use", says, "tote")
    if state.has_plate(tote):
        at = state.bin_of(tote)
        where = f"it stands in `{at}`" if at else "somebody carries it"
        raise Refusal("tote_in_use", f"`{tote}` is a plate with goods: {where}. Take an empty tote.", "tote")
    if not is_plate_label(tote, state.ground):
        raise Refusal("no_tote", f"`{tote}` is no label of a tote. Scan the label on an empty one.", "tote")
    if tote_kind(state) is None:
        raise Refusal(
            "no_tote", "There is no kind of plate, so nothing can be a tote: make one in the catalogue.", "tote"
        )


def check_tote(state: State, task: Task, order: OrderNo, tote: PlateNo) -> None:
    """Refuse a tote that is none, or is somebody's."""
    if order not in looking.without_tote(task):
        has = looking.tote_of(task, order)
        raise Refusal(
            "has_tote", f"`{order}` goes into tote `{has}` already." if has else f"`{order}` takes no tote here."
        )
    check_empty(state, tote)


def _set_tote(state: State, making: Making, _: Rulebook, stamp: Stamp, act: SetTote) -> str:
    task = mine(state, act.task, stamp)
    check_tote(state, task, act.order, act.tote)
    making.event(ToteChosen(task.number, act.order, act.tote))
    return f"Goods of `{act.order}` go into tote `{act.tote}`."


def handed_tote(task: Task, tote: PlateNo) -> Tote:
    """A tote that was handed on to a task and is still to be taken up; refused otherwise."""
    found = next((t for t in looking.waiting_totes(task) if t.plate == tote), None)
    if found is None:
        raise Refusal("no_such_tote", f"No tote `{tote}` waits to be taken along with task `{task.number}`.", "tote")
    return found


def _take_tote(state: State, making: Making, _: Rulebook, stamp: Stamp, act: TakeTote) -> str:
    task = mine(state, act.task, stamp)
    tote = handed_tote(task, act.tote)
    making.event(ToteTaken(task.number, tote.plate, stamp.who))
    return f"Tote `{tote.plate}` of `{tote.order}` taken along from `{tote.came}`."


def stand_totes(
    state: State, making: Making, task: Task, totes: Iterable[Tote], code: BinCode, who: PersonId
) -> list[str]:
    """Totes that were handed on to a task stand in a bin now, those that were never scanned too; what is said of them."""
    told = []
    for tote in totes:
        check_need(state, code, tote.plate)
        if not tote.taken:
            making.event(ToteTaken(task.number, tote.plate, who))
        making.event(ToteStands(task.number, tote.plate, code, who))
        told.append(f"tote `{tote.plate}` of `{tote.order}`")
    return told


def take_of(task: Task, number: int) -> Move:
    """A take that is still to be done; refused otherwise."""
    move = next((m for m in task.going.remaining if m.no == number), None)
    if move is None or move.do is not Do.TAKE:
        raise Refusal("fetched", f"That of task `{task.number}` was fetched already, or is not to be fetched any more.")
    return move


def _take(state: State, making: Making, _: Rulebook, stamp: Stamp, act: PickTake) -> str:
    task = mine(state, act.task, stamp)
    return fetch(state, making, task, take_of(task, act.move), stamp, act.quantity, act.serials)


def fetch(
    state: State, making: Making, task: Task, move: Move, stamp: Stamp, quantity: int, serials: Sequence[str]
) -> str:  # fmt: skip
    """So much of what a take says leaves its bin, or its plate, and stays kept for its lines; 0: all of it."""
    assert move.at is not None
    if not move.goods:
        source = looking.lies_in(state, move)
        making.event(
            MoveDone(
                task.number, move.no, stamp.who, BinCode(source.code), source, with_person(stamp.who), (), move.plate
            )
        )
        return f"Plate `{move.plate}` taken from `{source.code}`."
    (kind,) = move.goods
    item = state.ground.items[kind.item]
    quantity = quantity or kind.quantity
    if not 0 < quantity <= kind.quantity:
        raise Refusal("more_than_wanted", f"{item.told(kind.quantity)} of {item.name} are to be picked here, no more.")
    goods, source = evolve(kind, quantity=quantity), looking.lies_in(state, move)
    there = sum(x.quantity for x in state.ledger.at(source) if x.alike(kind))
    if there < quantity:
        says = f"By the book {item.told(there)} of {item.name} are {numbered.spot_told(source)}. Say that it is short."
        raise Refusal("not_there", says)
    named: tuple[Serials, ...] = ()
    if item.code in state.serials.kept:
        named = numbered.named(state, source, (goods,), _pieces(state, move, source, goods, serials))
    making.event(
        MoveDone(task.number, move.no, stamp.who, move.at, source, in_hands(task.number), (goods,), serials=named)
    )
    keep_where(state, making, move, (goods,), (move.at, move.plate, None), (move.at, None, task.number))
    return f"{item.told(quantity)} of {item.name} from `{move.at}`."


def _pieces(state: State, move: Move, source: Spot, goods: Goods, serials: Sequence[str]) -> Sequence[str]:
    """The pieces that are meant; those fixed on the order line, where there are any, and no others."""
    fixed = looking.check_pieces(state, goods.item, move.serves, serials)
    there = [n for n in fixed if n in state.serials.at(source, goods)]
    return serials or there[: goods.quantity]


def _place(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: PickPlace) -> str:
    task = mine(state, act.task, stamp)
    check_place(state, act.bin)
    places = [(m, g) for m in task.going.remaining if m.do is Do.PLACE and (g := ready(state, task, m)) is not None]
    left = len(looking.takes(task))
    totes = [t for t in task.going.totes if t.taken or (t.came and not left)]
    if not places and not totes:
        raise Refusal("nothing_in_hand", f"Nothing of task `{task.number}` is in your hands.")
    if left and not act.leave:
        are = "is" if left == 1 else "are"
        raise Refusal("not_all", f"{counted(left, 'stop')} of task `{task.number}` {are} still to be fetched.")
    told = stand_totes(state, making, task, totes, act.bin, stamp.who)
    for move, goods in places:
        told.append(set_down(state, making, state.tasks[task.number], move, goods, act.bin, stamp, act.reason))
    now = state.tasks[task.number]
    says = f"Set down in `{act.bin}`: {', '.join(dict.fromkeys(told))}."
    if not now.going.remaining and not now.state.ended:
        making.event(TaskCancelled(task.number, NOTHING_MORE))
        return f"{says} Nothing more of task `{task.number}` was to be fetched."
    if now.state.ended:
        return f"{says} Task `{task.number}` is done."
    making.event(TaskLeft(task.number))
    rest = counted(len(looking.takes(now)), "stop")
    return f"{says} {rest} of task `{task.number}` left for whoever goes on with it."


def ready(state: State, task: Task, place: Move) -> tuple[Goods, ...] | None:
    """What is in hands of what a place is to receive, () of a whole plate; None: nothing is."""
    if not place.goods:
        return () if place.plate in task.going.carried else None
    if not looking.takes(task):
        return place.goods
    found: tuple[Goods, ...] = ()
    for line in dict.fromkeys(s.line for s in place.serves):
        for number in state.reservations.for_line(line):
            mine = (p.goods for p in state.reservations[number].parts if p.task == task.number)
            found = all_more(found, tuple(mine))
    return found or None


def check_place(state: State, code: BinCode) -> None:
    """Refuse a bin where nothing that was picked may be set down."""
    each = state.ground.bins.get(code)
    if each is None or state.ground.site_of(code) != state.settings.site:
        raise Refusal("unknown_bin", f"There is no bin `{code}` at this site.", "bin")
    zone = state.ground.zones[each.zone]
    if zone.purpose in PICKED_FROM:
        says = f"`{code}` in {zone.name} is for storing: what was picked would be lost there. Take it to a station, a lane or a door."
        raise Refusal("storage", says, "bin")
    if (why := state.blocked(code)) is not None:
        raise Refusal("bin_blocked", f"Bin `{code}` is blocked: {why}.", "bin")


def set_down(
    state: State, making: Making, task: Task, move: Move, goods: tuple[Goods, ...], code: BinCode, stamp: Stamp, why: str
) -> str:  # fmt: skip
    """Goods of a place, or its whole plate, stand in a bin now, in their tote if they have one; what is said of it."""
    reason_ = why if code != move.at else ""
    order = looking.order_of(move)
    tote = looking.tote_of(task, order) if move.goods else None
    check_need(state, code, move.plate if not move.goods else tote)
    if not move.goods:
        source = with_person(task.person or stamp.who)
        making.event(MoveDone(task.number, move.no, stamp.who, code, source, in_bin(code), (), move.plate, reason_))
        return f"plate `{move.plate}`"
    source, target = in_hands(task.number), in_bin(code)
    if tote is not None:
        stands = state.bin_of(tote) if state.has_plate(tote) else None
        if stands not in (None, code):
            raise Refusal(
                "tote_elsewhere", f"Tote `{tote}` of `{order}` stands in `{stands}`: bring the rest there.", "bin"
            )
        if stands is None:
            kind = tote_kind(state)
            assert kind is not None, "it was asked when the tote was named"
            making.event(ToteSet(task.number, tote, kind, code))
        target = on_plate(tote)
    named: tuple[Serials, ...] = ()
    for each in goods if state.serials.kept else ():
        named += numbered.named(state, source, (each,), _of_order(state, move, source, each))
    making.event(MoveDone(task.number, move.no, stamp.who, code, source, target, goods, None, reason_, named))
    keep_where(state, making, move, goods, (None, None, task.number), (code, tote, None))
    return f"tote `{tote}` of `{order}`" if tote else goods_text(state, goods)


def check_need(state: State, code: BinCode, plate: PlateNo | None) -> None:
    """Refuse a plate or a tote where none may stand, and loose goods where only plates may."""
    need = state.ground.bin_types[state.ground.bins[code].bin_type].plates
    if plate is not None and need is PlateNeed.NONE:
        raise Refusal("no_plates", f"`{code}` takes no plates and no totes: `{plate}` cannot stand there.", "bin")
    if plate is None and need is PlateNeed.REQUIRED:
        raise Refusal("plate_needed", f"`{code}` takes plates and totes alone: set it down elsewhere.", "bin")


def _of_order(state: State, move: Move, source: Spot, goods: Goods) -> Sequence[str]:
    """The pieces in hands that are set down for these lines: those fixed on them first, never those fixed on others."""
    if goods.item not in state.serials.kept:
        return ()
    there, mine = state.serials.at(source, goods), looking.fixed_serials(state, move.serves)
    return sorted(there, key=lambda n: (n not in mine, n))[: goods.quantity]


def _leave(state: State, making: Making, _: Rulebook, stamp: Stamp, act: LeavePicking) -> str:
    task = mine(state, act.task, stamp)
    if looking.in_hand(task):
        raise Refusal(
            "in_hand", f"You carry goods of task `{task.number}`: set them down first; the rest is left then."
        )
    making.event(TaskLeft(task.number))
    return f"Task `{task.number}` is given back: anybody of its crew may take it."


# Short


def _short(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: PickShort) -> str:
    """What is not there is kept for nobody until somebody has counted it; its lines look elsewhere, or stay open."""
    task = mine(state, act.task, stamp)
    move, why = take_of(task, act.move), reason(act.why)
    missing, lost, found = _not_there(state, making, rulebook, stamp, task, move, why, act.other_bin)
    item = state.ground.items[missing[0].item]
    much = item.told(sum(g.quantity for g in missing))
    says = (
        f"{much} of {item.name} are short in `{move.at}`: {why}. Nobody is sent there for them until they are counted."
    )
    if found:
        says = said(says, f"Fetch {_told(state, found)} instead.")
    rest = sum(s.quantity for s in lost) - sum(k.quantity for k in found)
    lines = ", ".join(dict.fromkeys(f"`{s.line}`" for s in lost))
    if not rest:
        return says
    waits = ask_for_orders(state, making, rulebook, stamp, [item.code]) if act.other_bin else ""
    return said(says, waits or f"{item.told(rest)} of {lines} stay open.")


def _tote_missing(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: ToteMissing) -> str:
    """A tote that was handed on and is not there: what is in it is short, like a plate that is not found."""
    task = mine(state, act.task, stamp)
    tote, why = handed_tote(task, act.tote), reason(act.why)
    move = Move(0, Do.TAKE, tote.came, (), tote.plate, serves=looking.served_by(state, tote))
    missing, _, found = _not_there(state, making, rulebook, stamp, task, move, why, act.other_bin)
    says = f"Tote `{tote.plate}` of `{tote.order}` with {goods_text(state, missing)} is not in `{tote.came}`: {why}. Until it is counted nobody uses what was in it."
    if found:
        return said(says, f"Fetch {_told(state, found)} instead.")
    items = dict.fromkeys(g.item for g in missing)
    return said(says, ask_for_orders(state, making, rulebook, stamp, items) if act.other_bin else "")


def _not_there(
    state: State, making: Making, rulebook: Rulebook, stamp: Stamp, task: Task, move: Move, why: str, other_bin: bool
) -> tuple[tuple[Goods, ...], tuple[Serves, ...], list[Kept]]:  # fmt: skip
    """What a take, or a tote that was handed on, is to bring is not there: the goods, how much of which line is lost, and what is fetched elsewhere
    instead."""
    assert move.at is not None
    missing, lost = looking.goods_of(state, move), given_up_of(state, making, move)
    doubted(state, making, move, missing, stamp)
    for item in dict.fromkeys(g.item for g in missing):
        promise_anew(state, making, item, [s.line for s in lost], stamp.today)
    found = keep_elsewhere(state, making, rulebook, stamp, lost) if other_bin else []
    remaining, moves = _replanned(task, move, missing, lost, found)
    tote = move.plate if move.no == 0 else None
    making.event(MoveShort(task.number, move.no, stamp.who, move.at, missing, why, remaining, moves, tote))
    if not remaining and not looking.has_totes(state.tasks[task.number]):
        making.event(TaskCancelled(task.number, f"nothing of it was there: {why}"))
    return missing, lost, found


def _told(state: State, found: Iterable[Kept]) -> str:
    return " and ".join(f"{goods_text(state, k.goods)} in `{k.bin}`" for k in found)


def _is_of(part: Reserved, move: Move) -> bool:
    """Is a part of a reservation what a take is to fetch?"""
    if part.task is not None or part.plate != move.plate:
        return False
    if not move.goods:
        return True
    return (part.plate is not None or part.bin == move.at) and any(g.alike(part.goods) for g in move.goods)


def given_up_of(state: State, making: Making, move: Move) -> tuple[Serves, ...]:
    """What is kept for the lines of a take, where it is to be fetched, is kept no more; how much of which line that was."""
    lost: list[Serves] = []
    for each in move.serves:
        left = each.quantity
        for number in state.reservations.for_line(each.line):
            parts: list[Reserved] = []
            gone = 0
            for part in state.reservations[number].parts:
                less = min(left - gone, part.goods.quantity) if _is_of(part, move) else 0
                gone += less
                if part.goods.quantity > less:
                    parts.append(evolve(part, goods=evolve(part.goods, quantity=part.goods.quantity - less)))
            if gone:
                making.event(ReservationCut(number, tuple(parts)))
                left -= gone
        if left < each.quantity:
            lost.append(Serves(each.line, each.quantity - left))
    return tuple(lost)


def doubted(state: State, making: Making, move: Move, missing: tuple[Goods, ...], stamp: Stamp) -> None:
    """By the book it is there: until somebody has counted, it is kept from everybody."""
    source = looking.lies_in(state, move)
    for goods in missing:
        there = sum(x.quantity for x in state.ledger.at(source) if x.alike(goods)) if move.goods else goods.quantity
        if part := min(goods.quantity, there):
            held = Reserved(BinCode(move.at or ""), evolve(goods, quantity=part), move.plate)
            number = ReservationNo(making.draw("reservation"))
            says = f"not found by @{stamp.who}"
            making.event(StockReserved(number, says, goods.item, (held,), missed_by=stamp.who))


def keep_elsewhere(
    state: State, making: Making, rulebook: Rulebook, stamp: Stamp, lost: Iterable[Serves]
) -> list[Kept]:  # fmt: skip
    """What the rules find for these lines in other bins; it is kept for them now."""
    found: list[Kept] = []
    for line in dict.fromkeys(s.line for s in lost):
        order = state.order(line.order)
        if order is not None:
            for _ in allocate(state, making, rulebook, stamp, order, (line.line,)):
                pass  # what is still short is said as what stays open
            found += [k for k in to_fetch(state, [line.order]) if k.line == line]
    return found


def _replanned(
    task: Task, short: Move, missing: tuple[Goods, ...], lost: tuple[Serves, ...], found: Sequence[Kept]
) -> tuple[tuple[Move, ...], tuple[Move, ...]]:
    """What is still to be done when so much of a take is short, with what is fetched elsewhere instead; and all moves of the task then."""
    rest = all_less(short.goods, missing) if short.goods else ()
    now = []
    for move in task.going.remaining:
        if move.no != short.no:
            now.append(move)
        elif rest:
            now.append(evolve(move, goods=rest, serves=looking.without(move.serves, lost)))
    left = missing
    for n, place in enumerate(now):
        if place.do is Do.PLACE and not short.goods and place.plate == short.plate:
            now[n] = evolve(place, serves=())
        elif place.do is Do.PLACE and place.goods and short.goods:
            mine = [s for s in lost if any(p.line == s.line for p in place.serves)]
            less = portion(left, sum(s.quantity for s in mine))
            left = all_less(left, less)
            now[n] = evolve(place, goods=all_less(place.goods, less), serves=looking.without(place.serves, mine))
    moves, number = list(task.plan.moves), max(m.no for m in task.plan.moves)
    alone = len(task.plan.orders) > 1 and not looking.together(task)
    takes: list[Move] = []
    for each in found:
        number += 1
        serves = (Serves(each.line, each.quantity),)
        takes.append(Move(number, Do.TAKE, each.bin, each.goods, each.plate, each.rule, serves=serves))
        at = next((n for n, m in enumerate(now) if _may_hold(m, each.line, alone)), None)
        if at is not None:
            now[at] = evolve(
                now[at], goods=all_more(now[at].goods, each.goods), serves=line_by_line((*now[at].serves, *serves))
            )
            continue
        was = next((m for m in task.plan.moves if _may_hold(m, each.line, alone)), task.plan.moves[-1])
        number += 1
        now.append(evolve(was, no=number, goods=each.goods, plate=None, serves=serves))
        moves.append(now[-1])
    now = [m for m in now if m.do is not Do.PLACE or m.goods or (m.plate and m.serves)]
    first = next((n for n, m in enumerate(now) if m.do is Do.PLACE), len(now))
    return (*now[:first], *takes, *now[first:]), (*moves, *takes) if found else ()


def drop_unkept(state: State, making: Making, task: Task, stamp: Stamp) -> str:
    """What a begun task is still to fetch, and is kept no more, is not fetched; what is said of it."""
    told = []
    for move in looking.takes(task):
        lost = []
        for each in move.serves:
            numbers = state.reservations.for_line(each.line)
            have = sum(p.goods.quantity for n in numbers for p in state.reservations[n].parts if _is_of(p, move))
            if have < each.quantity:
                lost.append(Serves(each.line, each.quantity - have))
        if not lost:
            continue
        much = sum(s.quantity for s in lost)
        missing = portion(move.goods, much) if move.goods else looking.goods_of(state, move)
        remaining, _ = _replanned(state.tasks[task.number], move, missing, tuple(lost), ())
        assert move.at is not None
        why = "it is not kept any more"
        making.event(MoveShort(task.number, move.no, stamp.who, move.at, missing, why, remaining))
        told.append(f"{goods_text(state, missing)} of task `{task.number}` are not fetched: {why}.")
    now = state.tasks[task.number]
    if told and not now.going.remaining and not looking.has_totes(now):
        making.event(TaskCancelled(task.number, "nothing of it is kept any more"))
    return said(*told)


def _may_hold(place: Move, line: LineKey, alone: bool) -> bool:
    """May goods for a line be set down with what a place is for?"""
    return (
        place.do is Do.PLACE
        and bool(place.goods)
        and (not alone or any(s.line.order == line.order for s in place.serves))
    )


DOES = (
    deciding(PickBegin, _begin),
    deciding(SetTote, _set_tote),
    deciding(TakeTote, _take_tote),
    deciding(ToteMissing, _tote_missing),
    deciding(PickTake, _take),
    deciding(PickShort, _short),
    deciding(PickPlace, _place),
    deciding(LeavePicking, _leave),
)
"""How what the handset asks is decided."""
