"""How what is kept for the orders of a wave becomes tasks: which recipe each part goes by, what one task holds together, in which order it
is fetched, and where it is brought. Nothing is made here: whoever decides makes events of it, a bench shows it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, field
from datetime import date
from typing import Any, Self

from mindful_crate.core.catalog.amounts import Goods, all_more
from mindful_crate.core.catalog.goods import PRIORITY, Order
from mindful_crate.core.catalog.ids import BinCode, OrderNo, PlateNo, RuleId, WaveNo
from mindful_crate.core.catalog.places import ZonePurpose
from mindful_crate.core.catalog.refs import DocKind, LineKey, Ref
from mindful_crate.core.floor.standing import is_stored
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, Move, Serves, line_by_line
from mindful_crate.core.floor.waves import Wave as WaveAtWork
from mindful_crate.core.placing.choose import choose
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve, record
from mindful_crate.core.releasing.splitting import Caps, Picked, Wave
from mindful_crate.core.rulebook.bin_rules import BinPurpose
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.recipes import Grouping, Recipe, Sequencing, Starts
from mindful_crate.core.rulebook.shipping import STATION_RULES, ShipPlan
from mindful_crate.core.rulebook.steps import BY_RULES, Need, Place
from mindful_crate.core.rulebook.waves import Method, WavePlan
from mindful_crate.core.trail import RecipeLook, Trail
from mindful_crate.core.walking.distance import network_of, tours_of
from mindful_crate.core.walking.network import NOWHERE
from mindful_crate.core.walking.rounds import Rounds
from mindful_crate.core.work.putting.arranging import HELD, capped, first_recipe
from mindful_crate.core.work.putting.checks import request_for

WAITED_FOR = 60
"""Up to so many orders are split over carts better than by savings alone, while somebody waits."""
IMPROVED = 400
"""Rounds of improving those, where two cross aisles bound one block; of several blocks a tour costs more, about as the square of how many they are, and fewer are
tried."""


@record
class Kept:
    """Goods that are kept for an order line in one place: a whole plate, or loose goods, perhaps off a plate. ``rule`` chose them."""

    line: LineKey
    bin: BinCode
    goods: tuple[Goods, ...]
    plate: PlateNo | None
    whole: bool
    rule: RuleId | None

    def with_goods(self, goods: tuple[Goods, ...]) -> Self:
        """The same of other goods."""
        return evolve(self, goods=goods)

    @property
    def quantity(self) -> int:
        """In base units."""
        return sum(g.quantity for g in self.goods)


Brought = tuple[BinPurpose | None, Place]
"""By which rules the place is found that goods are brought to, or which place is named; no purpose: nowhere."""
NOWHERE_YET: Brought = (None, BY_RULES)


@record
class PickTask:
    """A task as it would be made: by which recipe and why by that, its moves, and which cart of the wave it is, from 1; 0: none. ``handed``: the task
    before it in the list hands its totes on to it. ``begins``: where its round begins and ends, when that is no station."""

    recipe: Recipe
    moves: tuple[Move, ...]
    kept: tuple[Kept, ...]
    looks: tuple[RecipeLook, ...]
    cart: int
    walk_mm: int | None
    handed: bool = False
    begins: BinCode | None = None

    def about(self, wave: WaveNo) -> tuple[Ref, ...]:
        """The wave, and the orders it serves."""
        orders = dict.fromkeys(k.line.order for k in self.kept)
        return (Ref(DocKind.WAVE, wave), *(Ref(DocKind.ORDER, o) for o in orders))

    @property
    def held(self) -> str:
        """Why nobody may take it at first, by its recipe."""
        return held_by(self.recipe)

    @property
    def orders(self) -> tuple[OrderNo, ...]:
        """Those it serves."""
        return tuple(dict.fromkeys(k.line.order for k in self.kept))


def priority_of(state: State, task: PickTask) -> int:
    """How urgent a task is: as its recipe says, or as the most urgent of its orders. Orders have 1 (first) to 9, tasks 9 (first) to 0: an order that is
    more urgent than most raises its tasks by two for each step."""
    orders = (o for n in task.orders if (o := state.order(n)) is not None)
    return max([task.recipe.priority, *(2 * (PRIORITY - o.priority) for o in orders if o.priority < PRIORITY)])


def held_by(recipe: Recipe) -> str:
    """Why nobody may take a task at first, by its recipe; empty when anybody of the crew may."""
    return HELD if recipe.starts is Starts.HELD else ""


def hold_told(wave: WaveAtWork) -> str:
    """Why nobody may take tasks of a wave; empty when they may."""
    return f"wave {wave.number} is held: {wave.held}" if wave.held else ""


@dataclass(slots=True)
class Picking:
    """Tasks, and what no task is made of, with the reason."""

    tasks: list[PickTask] = field(default_factory=list)
    left: list[tuple[Kept, str]] = field(default_factory=list)


def to_fetch(state: State, orders: Iterable[OrderNo]) -> list[Kept]:
    """What is kept in bins for these orders and no open task fetches, in their order, line by line; what stands at a station was fetched."""
    found = []
    for order in orders:
        asked = _asked_of_tasks(state, order)
        for no, numbers in state.reservations.of_order(order).items():
            for number in numbers:
                for part in state.reservations[number].parts:
                    line, kind = LineKey(order, no), evolve(part.goods, quantity=0)
                    known = asked.get((line, part.plate or part.bin, kind), 0)
                    left = part.goods.quantity - min(known, part.goods.quantity)
                    if known:
                        asked[line, part.plate or part.bin, kind] = known - part.goods.quantity + left
                    if left and is_stored(state, part):
                        goods = evolve(part.goods, quantity=left)
                        found.append(_kept(state, line, part.bin, goods, part.plate, part.rule))
    return found


def _asked_of_tasks(state: State, order: OrderNo) -> dict[tuple[LineKey, str, Goods], int]:
    """How much of which goods open tasks are still to fetch for the lines of an order, by bin or plate."""
    found: dict[tuple[LineKey, str, Goods], int] = {}
    for wave in state.waves.of_order(order):
        for task in (state.tasks[n] for n in wave.tasks):
            for move in () if task.state.ended else task.going.remaining:
                if move.do is Do.TAKE and move.at is not None:
                    goods = move.goods or (state.all_goods(move.plate) if move.plate else ())
                    for each in move.serves:
                        if each.line.order == order and goods:
                            key = each.line, move.plate or move.at, evolve(goods[0], quantity=0)
                            found[key] = found.get(key, 0) + each.quantity
    return found


def _kept(
    state: State, line: LineKey, code: BinCode, goods: Goods, plate: PlateNo | None, rule: RuleId | None
) -> Kept:  # fmt: skip
    whole = plate is not None and state.holds_just(plate, goods.item, goods.quantity)
    at = state.bin_of(plate) if plate else None
    return Kept(line, at or code, (goods,), plate, whole, rule)


@dataclass(slots=True)
class _Asked:
    kept: Kept
    order: Order
    recipe: Recipe
    looks: tuple[RecipeLook, ...]
    brought: Brought
    station: Brought
    """Where it is brought in the end."""


Seen = Callable[[Trail], None]
"""Is told how each place was chosen that goods are brought to."""


def arrange(
    state: State, book: Rulebook, kept: Sequence[Kept], method: Method, plan: WavePlan | None, today: date, seen: Seen | None = None
) -> Picking:  # fmt: skip
    """Tasks for what is kept, by the method of a wave. Whole plates become tasks by themselves, loose goods what the method and the recipes
    say."""
    found = Picking()
    recipes = [r for r in book.recipes_for(state.settings.site, Need.PICK) if r.on]
    asked = [a for k in kept if (a := _ask(state, book, k, recipes, method, today, found)) is not None]
    loose = [a for a in asked if not a.kept.whole]
    carts = _carts(state, loose, method, plan)
    if method is Method.ZONES:
        found.tasks += _zone_by_zone(state, book, loose, carts, today, seen)
        loose = []
    groups: dict[tuple[object, ...], list[_Asked]] = {}
    for n, each in enumerate(loose):
        groups.setdefault(_key(state, each, n, carts), []).append(each)
    for group in groups.values():
        ordered = _in_order(state, group)
        of = {id(a.kept): a for a in ordered}
        for chunk in capped([a.kept for a in ordered], group[0].recipe.most, state.ground):
            first = of.get(id(chunk[0])) or group[0]
            cart = carts.get(chunk[0].line.order, 0)
            found.tasks.append(_task(state, book, chunk, first, method, cart, today, seen))
    for each in (a for a in asked if a.kept.whole):
        found.tasks.append(_whole(state, book, each, today, seen))
    return found


def _ask(
    state: State, book: Rulebook, kept: Kept, recipes: list[Recipe], method: Method, today: date, found: Picking
) -> _Asked | None:  # fmt: skip
    order = state.order(kept.line.order)
    assert order is not None
    ship = book.ship_plan_for(book.asked(state.ground, order, kept.goods[0].item))
    if ship is not None and not ship.picks:
        found.left.append((kept, f"by {ship.name} it leaves from where it lies"))
        return None
    plate = state.plate(kept.plate) if kept.plate and kept.whole else None
    request = BinRequest(
        state.settings.site, BinPurpose.PICK_FROM, kept.goods, plate.plate_kind if plate else None, order_kind=order.kind,
        partners=(order.partner,), from_bin=kept.bin, today=today,
    )  # fmt: skip
    recipe, looks = first_recipe(recipes, request, state.ground)
    if recipe is None:
        found.left.append((kept, "no recipe picks it" if recipes else "there is no recipe that picks"))
        return None
    station = brought(ship, method)
    to = (BinPurpose.STAGE_AT, recipe.legs[0].to) if recipe.legs else station
    return _Asked(kept, order, recipe, looks, to, station)


def _zone_by_zone(
    state: State, book: Rulebook, loose: list[_Asked], carts: dict[OrderNo, int], today: date, seen: Seen | None
) -> list[PickTask]:
    """Of each cart a task in each zone, in the order of the walk: all but the last set its totes down where the next zone is handed them."""
    ground = state.ground
    by_cart: dict[tuple[object, ...], list[_Asked]] = {}
    for each in loose:
        by_cart.setdefault((carts.get(each.order.number, 0), each.station), []).append(each)
    tasks: list[PickTask] = []
    for of_cart in by_cart.values():
        parts: dict[tuple[str, str], list[_Asked]] = {}
        for each in sorted(of_cart, key=lambda a: ground.bins[a.kept.bin].walk):
            parts.setdefault((ground.bins[each.kept.bin].zone, each.recipe.id), []).append(each)
        chunks: list[tuple[_Asked, list[Kept]]] = []
        for part in parts.values():
            ordered = _in_order(state, part)
            of = {id(a.kept): a for a in ordered}
            for chunk in capped([a.kept for a in ordered], part[0].recipe.most, ground):
                chunks.append((of.get(id(chunk[0])) or part[0], chunk))
        zones = [ground.zones[ground.bins[first.kept.bin].zone] for first, _ in chunks]
        for n, (first, chunk) in enumerate(chunks):
            on_to = (zones[n + 1].hand_over,) if n + 1 < len(chunks) else None
            cart, begins_at = carts.get(first.order.number, 0), zones[n].hand_over
            task = _task(state, book, chunk, first, Method.ZONES, cart, today, seen, on_to)
            if begins_at is not None:
                to = task.moves[-1].at
                walk = _walked(state, [*(k.bin for k in chunk), *([to] if to else [])], begins_at)
                task = evolve(task, begins=begins_at, walk_mm=walk)
            tasks.append(evolve(task, handed=n > 0))
    return tasks


def brought(ship: ShipPlan | None, method: Method) -> Brought:
    """Where goods are brought by their plan."""
    station = ship.after_picking(method is Method.BATCH) if ship else None
    if ship is None or station is None:
        return NOWHERE_YET
    return STATION_RULES[station], ship.step(station).at


def begins(state: State) -> int | None:
    """Where pickers begin and end, by its number in the walking network: the first pack station, else the first staging place or door."""
    ground, site = state.ground, state.settings.site
    network = network_of(ground, site)
    for purpose in (ZonePurpose.PACKING, ZonePurpose.STAGING, ZonePurpose.DOOR, ZonePurpose.RECEIVING):
        for each in ground.bins_of(purpose, site):
            if (number := network.number(each.code)) is not None:
                return number
    return None


def as_picked(state: State, order: OrderNo, kept: Iterable[Kept]) -> Picked:
    """An order as it goes onto a cart: where it is fetched, one tote, its weight and lines."""
    network = network_of(state.ground, state.settings.site)
    mine = list(kept)
    stops = tuple(dict.fromkeys(n for k in mine if (n := network.number(k.bin)) is not None))
    weight = sum(state.ground.items[g.item].bulk(g.quantity)[1] for k in mine for g in k.goods)
    return Picked(order, stops, 1, weight, len({k.line for k in mine}))


def _carts(state: State, loose: list[_Asked], method: Method, plan: WavePlan | None) -> dict[OrderNo, int]:
    """Which cart each order goes onto, from 1; none when they are picked one by one."""
    if method is Method.ORDER or plan is None:
        return {}
    mine: dict[OrderNo, list[Kept]] = {}
    for each in loose:
        mine.setdefault(each.order.number, []).append(each.kept)
    orders = [as_picked(state, o, kept) for o, kept in mine.items()]
    most = plan.totes
    if method is Method.BATCH:
        most = plan.cart_lines
        orders = [evolve(o, totes=min(max(1, o.lines), most)) for o in orders]
    start = begins(state)
    carts: Iterable[Iterable[int]]
    if start is None or any(not o.stops for o in orders):
        carts = _as_they_come([o.totes for o in orders], most)
    else:
        try:
            wave = Wave(orders, Rounds(tours_of(state.ground, state.settings.site), start), Caps(most))
            blocks = max(1, len(state.ground.sites[state.settings.site].cross_aisles) - 1)
            carts = wave.shortest_found(IMPROVED // blocks**2 if len(orders) <= WAITED_FOR else 0).carts
        except Refusal:  # one of them cannot be walked to: they are put together as they come
            carts = _as_they_come([o.totes for o in orders], most)
    return {OrderNo(orders[n].order): k for k, cart in enumerate(carts, start=1) for n in cart}


def _as_they_come(sizes: list[int], most: int) -> list[list[int]]:
    carts: list[list[int]] = []
    on = most
    for n, size in enumerate(sizes):
        if on + size > most:
            carts.append([])
            on = 0
        carts[-1].append(n)
        on += size
    return carts


def _key(state: State, each: _Asked, n: int, carts: dict[OrderNo, int]) -> tuple[object, ...]:
    """What parts of one task have in common."""
    kept, order = each.kept, each.order.number
    begin = (each.recipe.id, each.brought)
    if carts:
        return (*begin, carts[order])
    match each.recipe.grouping:
        case Grouping.ZONE:
            return (*begin, state.ground.bins[kept.bin].zone)
        case Grouping.SHIPMENT:
            release = state.releases.get(order)
            return (*begin, release.shipment if release else order)
        case Grouping.WAVE:
            return begin
        case Grouping.PLATE:
            return (*begin, n)
        case _:
            return (*begin, order)


def _in_order(state: State, group: list[_Asked]) -> list[_Asked]:
    """In the order in which a task fetches them."""
    ground, by = state.ground, group[0].recipe.sequence

    def walk(each: _Asked) -> tuple[Any, ...]:
        return ground.bins[each.kept.bin].walk, each.kept.bin, each.kept.line

    def key(each: _Asked) -> tuple[Any, ...]:
        if by is Sequencing.HEAVY_FIRST:
            return (-sum(ground.items[g.item].bulk(g.quantity)[1] for g in each.kept.goods), *walk(each))
        if by is Sequencing.FEFO:
            return (min((g.expiry for g in each.kept.goods if g.expiry), default=date.max), *walk(each))
        return walk(each)

    if by is Sequencing.TOUR and (place := _tour(state, [a.kept.bin for a in group])) is not None:
        return sorted(group, key=lambda a: (place.get(a.kept.bin, len(place)), *walk(a)))
    return sorted(group, key=key)


def _tour(state: State, bins: Iterable[BinCode]) -> dict[BinCode, int] | None:
    """The place of each bin on the shortest round; None when one cannot be walked."""
    site = state.settings.site
    network, start = network_of(state.ground, site), begins(state)
    stops = {code: n for code in dict.fromkeys(bins) if (n := network.number(code)) is not None}
    if start is None or not stops:
        return None
    try:
        tour = tours_of(state.ground, site).shortest(stops.values(), start)
    except Refusal:
        return None
    at = {n: k for k, n in enumerate(tour.stops)}
    return {code: at.get(n, 0) for code, n in stops.items()}


def _walked(state: State, bins: Sequence[BinCode], first: BinCode | None = None) -> int | None:
    """How far it is over some bins in their order, and back; None: there is no way. ``first``: where it begins, if that is no station."""
    tours = tours_of(state.ground, state.settings.site)
    start = tours.network.number(first) if first else begins(state)
    numbers = [tours.network.number(code) for code in dict.fromkeys(bins)]
    known = [n for n in numbers if n is not None]
    if start is None or len(known) != len(numbers):
        return None
    mm = tours.length([start, *known])
    return None if mm >= NOWHERE else mm


def _task(
    state: State, book: Rulebook, chunk: list[Kept], first: _Asked, method: Method, cart: int, today: date, seen: Seen | None,
    on_to: tuple[BinCode | None] | None = None,
) -> PickTask:  # fmt: skip
    """Loose goods that are fetched one after another and set down for each order, or all together where they are sorted; ``on_to``: in that bin, else where the
    rules say."""
    together = method is Method.BATCH
    takes: dict[tuple[object, ...], list[Kept]] = {}
    for each in chunk:
        alike = evolve(each.goods[0], quantity=0)
        takes.setdefault((each.bin, each.plate, alike, None if together else each.line.order), []).append(each)
    moves: list[Move] = []
    for mine in takes.values():
        goods = evolve(mine[0].goods[0], quantity=sum(k.quantity for k in mine))
        moves.append(
            Move(len(moves) + 1, Do.TAKE, mine[0].bin, (goods,), mine[0].plate, mine[0].rule, serves=_serves(mine))
        )
    purpose, at = first.brought
    all_goods = _goods(chunk)
    to, rule = (on_to[0], None) if on_to else _bin(state, book, first, BinRequest(
        state.settings.site, purpose or BinPurpose.STAGE_AT, all_goods, order_kind=first.order.kind,
        partners=tuple(dict.fromkeys(o.partner for k in chunk if (o := state.order(k.line.order)))), from_bin=chunk[-1].bin,
        today=today, at=at,
    ), seen)  # fmt: skip
    by_order: dict[OrderNo | None, list[Kept]] = {}
    for each in chunk:
        by_order.setdefault(None if together else each.line.order, []).append(each)
    for mine in by_order.values():
        moves.append(Move(len(moves) + 1, Do.PLACE, to, _goods(mine), None, rule, serves=_serves(mine)))
    walk = _walked(state, [k.bin for k in chunk])
    return PickTask(first.recipe, tuple(moves), tuple(chunk), first.looks, cart, walk)


def _whole(state: State, book: Rulebook, each: _Asked, today: date, seen: Seen | None) -> PickTask:
    """A plate that goes as it is."""
    kept = each.kept
    plate = state.plate(kept.plate) if kept.plate else None
    assert plate is not None
    purpose, at = each.brought
    request = evolve(
        request_for(state, plate, plate.goods, (), today=today), purpose=purpose or BinPurpose.STAGE_AT,
        order_kind=each.order.kind, partners=(each.order.partner,), from_bin=kept.bin, at=at,
    )  # fmt: skip
    to, rule = _bin(state, book, each, request, seen)
    serves = (Serves(kept.line, kept.quantity),)
    moves = (
        Move(1, Do.TAKE, kept.bin, (), plate.number, kept.rule, serves=serves),
        Move(2, Do.PLACE, to, (), plate.number, rule, serves=serves),
    )
    return PickTask(each.recipe, moves, (kept,), each.looks, 0, _walked(state, [kept.bin]))


def _bin(
    state: State, book: Rulebook, each: _Asked, request: BinRequest, seen: Seen | None
) -> tuple[BinCode | None, RuleId | None]:
    """The bin goods are brought to, and the rule that chose it; none: the worker chooses."""
    if each.brought[0] is None:
        return None, None
    trail = evolve(choose(request, book.rules_for(request.site, request.purpose, request.at), state), recipe=each.looks)
    if seen:
        seen(trail)
    return trail.bin, trail.rule


def _goods(kept: Iterable[Kept]) -> tuple[Goods, ...]:
    found: tuple[Goods, ...] = ()
    for each in kept:
        found = all_more(found, each.goods)
    return found


def _serves(kept: Iterable[Kept]) -> tuple[Serves, ...]:
    return line_by_line(Serves(each.line, each.quantity) for each in kept)
