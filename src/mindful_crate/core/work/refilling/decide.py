"""How its acts are decided: filling shelves from reserve; and what follows when a shelf is low, or was filled."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator

from mindful_crate.core.catalog.amounts import Goods, all_less, portion
from mindful_crate.core.catalog.goods import HomeBin
from mindful_crate.core.catalog.ids import BinCode, ItemCode, ReservationNo, SiteCode, TaskNo, WaveNo
from mindful_crate.core.floor.free import unkept
from mindful_crate.core.floor.keeper import Put
from mindful_crate.core.floor.plates import in_bin, in_hands, on_plate, with_person
from mindful_crate.core.floor.reservations import Reserved, parts_changed, place_of
from mindful_crate.core.floor.standing import bin_now
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, Move, Task, TaskState
from mindful_crate.core.floor.waves import ByClock
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.filling import Fills, ShelfRun
from mindful_crate.core.rulebook.recipes import Cause
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.rulebook.times import clock
from mindful_crate.core.work import numbered
from mindful_crate.core.work.making import Making, said
from mindful_crate.core.work.picking.arranging import Kept, to_fetch
from mindful_crate.core.work.picking.doing import doubted
from mindful_crate.core.work.picking.events import MoveShort, TaskBegun
from mindful_crate.core.work.refilling import looking
from mindful_crate.core.work.refilling.acts import (
    FillShelves,
    RefillBegin,
    RefillDue,
    RefillLeave,
    RefillShort,
    RefillTake,
    Shelf,
)
from mindful_crate.core.work.refilling.asking import ask, ask_for_orders, brings, for_shelves, keep, kept_by
from mindful_crate.core.work.refilling.events import RefillsAwaited
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.stock.events import ReservationCut
from mindful_crate.core.work.tasks.decide import reason
from mindful_crate.core.work.tasks.events import MoveDone, TaskCancelled, TaskLeft
from mindful_crate.core.work.waving.keeping import allocate
from mindful_crate.core.work.waving.working import make_tasks

GONE = "what it was to bring is not there for it any more"


def _fill(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: FillShelves) -> str:
    if act.shelves:
        homes = [h for s in act.shelves for h in looking.homes_here(state, s.item) if h.bin == s.bin]
        if len(homes) < len(set(act.shelves)):
            raise Refusal("no_shelf", "Of what is named something is no home bin of its item at this site.", "shelves")
        cause, stands = Cause.FILL, [looking.stand(state, h) for h in homes]
    else:
        cause, stands = Cause.LEAST, [s for h in looking.homes_here(state) if (s := looking.stand(state, h)).low]
    if not brings(rulebook, state, cause):
        raise Refusal("no_recipe", "No recipe brings anything from reserve for that: add one, on Task recipes, Refill.")
    wants = for_shelves(stands, cause)
    if not wants:
        what = "They are full" if act.shelves else "No shelf holds less than its least"
        raise Refusal("nothing_low", f"{what}, with what is on its way.")
    return ask(state, making, rulebook, stamp, wants) or "Nothing could be brought."


def _minutes(state: State, rulebook: Rulebook) -> tuple[int, ...]:
    return tuple(sorted({m for r in rulebook.shelf_runs_at(state.settings.site) for m in r.minutes}))


def _due(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: RefillDue) -> str:
    if ByClock.SHELVES not in state.runs_awaited:
        raise Refusal("not_due", "No shelf is filled by the clock.")
    told = [f"It is {clock(act.minute)}."]
    for run in (r for r in rulebook.shelf_runs_at(state.settings.site) if act.minute in r.minutes):
        mine = (looking.stand(state, h) for h in looking.homes_here(state) if _is_for(state, run, h))
        shelves = tuple(Shelf(s.home.bin, s.home.item) for s in mine if s.low or run.fills is Fills.NOT_FULL)
        try:
            with making.unless_refused():
                told.append(making.act(FillShelves(shelves)) if shelves else "No shelf lacks anything.")
        except Refusal as refusal:
            told.append(refusal.problem.says)
    making.event(RefillsAwaited(_minutes(state, rulebook)))
    return said(*told)


def _is_for(state: State, run: ShelfRun, home: HomeBin) -> bool:
    zone, group = state.ground.bins[home.bin].zone, state.ground.items[home.item].group
    return (not run.zones or zone in run.zones) and (not run.groups or group in run.groups)


def _mine(state: State, number: TaskNo, stamp: Stamp) -> Task:
    task = looking.task_to_refill(state, number, stamp.crews, stamp.who)
    if task.person != stamp.who:
        raise Refusal("not_begun", f"Begin refill `{number}` first.")
    return task


def _begin(state: State, making: Making, _: Rulebook, stamp: Stamp, act: RefillBegin) -> str:
    task = looking.task_to_refill(state, act.task, stamp.crews, stamp.who)
    begun = looking.begun_by(state, stamp.who)
    if begun is not None and begun.number != task.number:
        raise Refusal(
            "begun", f"You are at refill `{begun.number}`: finish it, or give it back, before you begin another."
        )
    if task.state is TaskState.OPEN:
        making.event(TaskBegun(task.number, stamp.who))
    return f"Refill `{task.number}` is yours."


def _take_of(task: Task, number: int) -> Move:
    move = next((m for m in task.going.remaining if m.no == number and m.do is Do.TAKE), None)
    if move is None:
        raise Refusal("fetched", f"That of refill `{task.number}` was taken already, or is not to be taken any more.")
    return move


def _take(state: State, making: Making, _: Rulebook, stamp: Stamp, act: RefillTake) -> str:
    task = _mine(state, act.task, stamp)
    move = _take_of(task, act.move)
    assert move.at is not None
    at = bin_now(state, move.plate, move.at)
    if not move.goods:
        making.event(MoveDone(task.number, move.no, stamp.who, at, in_bin(at), with_person(stamp.who), (), move.plate))
        return f"Plate `{move.plate}` taken from `{at}`."
    item = state.ground.items[move.goods[0].item]
    all_ = sum(g.quantity for g in move.goods)
    if not 0 < act.quantity <= all_:
        raise Refusal("more_than_wanted", f"{item.told(all_)} of {item.name} are to be taken here, no more.")
    goods, source = portion(move.goods, act.quantity), on_plate(move.plate) if move.plate else in_bin(at)
    for each in goods:
        there = sum(x.quantity for x in state.ledger.at(source) if x.alike(each))
        if there < each.quantity:
            says = (
                f"By the book {item.told(there)} of {item.name} are {numbered.spot_told(source)}. Say that it is short."
            )
            raise Refusal("not_there", says)
    named = numbered.named(state, source, goods, act.serials) if state.serials.kept else ()
    making.event(MoveDone(task.number, move.no, stamp.who, at, source, in_hands(task.number), goods, serials=named))
    if act.quantity < all_:
        _less(making, state.tasks[task.number], move.no, at, all_less(move.goods, goods), "fewer were taken", stamp)
    return f"{item.told(act.quantity)} of {item.name} from `{move.plate or at}`."


def _less(
    making: Making, task: Task, number: int, at: BinCode, missing: tuple[Goods, ...], why: str, stamp: Stamp
) -> None:
    """What was not taken is placed nowhere either: the places that come last get less."""
    remaining = [m for m in task.going.remaining if not (m.do is Do.TAKE and m.no == number)]
    (kind,) = missing
    left = kind.quantity
    for n in range(len(remaining) - 1, -1, -1):
        move = remaining[n]
        if move.do is Do.PLACE and move.goods and move.goods[0].alike(kind):
            less = min(left, move.goods[0].quantity)
            left -= less
            remaining[n] = evolve(move, goods=portion(move.goods, move.goods[0].quantity - less))
    remaining = [m for m in remaining if m.do is not Do.PLACE or m.goods or m.plate]
    making.event(MoveShort(task.number, number, stamp.who, at, missing, why, tuple(remaining)))
    if not remaining:
        making.event(TaskCancelled(task.number, why))


def _short(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: RefillShort) -> str:
    task, why = _mine(state, act.task, stamp), reason(act.why)
    move = _take_of(task, act.move)
    assert move.at is not None
    missing = move.goods or (state.all_goods(move.plate) if move.plate else ())
    for each in state.reservations.of_task(task.number):  # what is doubted is kept by nobody else
        making.event(ReservationCut(each.number))
    doubted(state, making, move, missing, stamp)
    if move.goods:
        _less(making, task, move.no, move.at, missing, why, stamp)
    else:
        left = tuple(m for m in task.going.remaining if m.plate != move.plate)
        making.event(MoveShort(task.number, move.no, stamp.who, move.at, missing, why, left))
        if not left:
            making.event(TaskCancelled(task.number, why))
    item = state.ground.items[missing[0].item]
    much = item.told(sum(g.quantity for g in missing))
    says = (
        f"{much} of {item.name} are short in `{move.at}`: {why}. Nobody is sent there for them until they are counted."
    )
    return said(says, ask_for_orders(state, making, rulebook, stamp, [item.code]))


def _leave(state: State, making: Making, _: Rulebook, stamp: Stamp, act: RefillLeave) -> str:
    task = _mine(state, act.task, stamp)
    if task.going.hands or task.going.carried:
        raise Refusal("in_hand", f"You carry goods of refill `{task.number}`: place them, or put them back.")
    making.event(TaskLeft(task.number))
    return f"Refill `{task.number}` is given back: anybody of its crew may take it."


# What follows


def after(state: State, making: Making, rulebook: Rulebook, stamp: Stamp) -> str:
    """What refills are to bring stays kept for them as long as it is to be fetched; who waited for what was placed gets it; a shelf that is low is
    filled."""
    touched = list(state.journal.puts())
    told = list(_kept(state, making, touched))
    told += _served(state, making, rulebook, stamp)
    if brings(rulebook, state, Cause.LEAST):
        low = [s for h in _shelves(state, touched) if (s := looking.stand(state, h)).low]
        if low:
            found = [s for s in low if _reserve_has(state, s)]
            # whoever emptied the shelf need not hear of it: the log tells it, and the office's list of shelves
            ask(state, making, rulebook, stamp, for_shelves(found, Cause.LEAST))
    if ByClock.SHELVES not in state.runs_awaited and (minutes := _minutes(state, rulebook)):
        making.event(RefillsAwaited(minutes))
    return said(*told)


def _kept(state: State, making: Making, touched: list[Put]) -> Iterator[str]:
    going = state.tasks.going
    numbers = [TaskNo(str(key)) for keeper, key, _ in touched if keeper is going]
    for keeper, key, before in touched:
        if keeper is state.reservations:
            kept = before or state.reservations.get(ReservationNo(str(key)))
            if kept is not None and kept.task is not None:
                numbers.append(kept.task)
    for number in dict.fromkeys(numbers):
        task = state.tasks.get(number)
        if task is None or task.need is not Need.REPLENISH:
            continue
        wanted = [] if task.state.ended else kept_by(task.going.remaining, state)
        mine = state.reservations.of_task(number)
        if _sums(wanted) == _sums(p for r in mine for p in r.parts):
            continue
        for each in mine:
            making.event(ReservationCut(each.number))
        if not wanted:
            continue
        if all(unkept(state, p.bin, p.plate, p.goods) >= p.goods.quantity for p in wanted):
            keep(state, making, number, task.going.remaining)
        elif task.state is TaskState.OPEN:
            making.event(TaskCancelled(number, GONE))
            yield f"Refill `{number}` is cancelled: {GONE}."


def _sums(parts: Iterable[Reserved]) -> Counter[tuple[str, ...]]:
    """How much is kept where."""
    found: Counter[tuple[str, ...]] = Counter()
    for part in parts:
        found[place_of(part.bin, part.plate, part.goods, part.task)] += part.goods.quantity
    return found


def _served(state: State, making: Making, rulebook: Rulebook, stamp: Stamp) -> list[str]:
    """Stock that was brought is kept for the lines that wait for it, the first to be served first, and fetched by tasks of their waves."""
    placed = [
        g.item for e in making.events
        if isinstance(e, MoveDone) and e.target.code == e.at and state.tasks[e.task].need is Need.REPLENISH
        for g in e.goods or (state.all_goods(e.plate) if e.plate else ())
    ]  # fmt: skip
    waves: dict[WaveNo, list[Kept]] = {}
    for item in dict.fromkeys(placed):
        for number, no, _ in looking.missing(state, item):
            order = state.order(number)
            if order is None:
                continue
            for _why in allocate(state, making, rulebook, stamp, order, (no,)):
                pass  # what is still missing waits for the next refill, which is asked for below
            wave = state.waves.at_work_on(number)[-1]
            waves.setdefault(wave.number, []).extend(k for k in to_fetch(state, [number]) if k.line.line == no)
    told = []
    for wave_number, kept in waves.items():
        if kept:
            told.append(make_tasks(state, making, rulebook, stamp, wave_number, kept))
    ask_for_orders(state, making, rulebook, stamp, placed)
    return told


def _shelves(state: State, touched: list[Put]) -> list[HomeBin]:
    """The shelves of which what lies there free may be less than it was."""
    bins, plates = state.bins, state.plates
    codes: dict[BinCode, None] = {}
    for keeper, key, before in touched:
        if keeper is bins.loose_now or keeper is bins.blocks:
            codes[BinCode(str(key))] = None
        elif keeper is state.reservations:
            for parts in parts_changed(before, state.reservations.get(ReservationNo(str(key)))):
                codes.update(dict.fromkeys(p.bin for p in parts))
        elif keeper is plates.goods and (at := state.bin_of(key)) is not None:
            codes[at] = None
    known = _homes_by_bin(state)
    return [h for code in codes for h in known.get(code, ())]


def _homes_by_bin(state: State) -> dict[BinCode, list[HomeBin]]:
    """The items at home in each bin of the site, found once for a ground."""
    memory: dict[SiteCode, dict[BinCode, list[HomeBin]]] = state.ground.remembered.setdefault("homes_by_bin", {})
    known = memory.get(state.settings.site)
    if known is None:
        known = memory[state.settings.site] = {}
        for home in looking.homes_here(state):
            known.setdefault(home.bin, []).append(home)
    return known


def _reserve_has(state: State, low: looking.Stand) -> bool:
    """Does any of it lie elsewhere than on its shelves? If not, nothing is asked for."""
    item: ItemCode = low.home.item
    shelves = state.ground.homes.get(item, {})
    return any(x.bin not in shelves for x in state.lines(item))


DECIDES = (
    deciding(FillShelves, _fill),
    deciding(RefillDue, _due),
    deciding(RefillBegin, _begin),
    deciding(RefillTake, _take),
    deciding(RefillShort, _short),
    deciding(RefillLeave, _leave),
)
"""How its acts are decided."""
