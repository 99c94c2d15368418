"""How goods that are to be put away become tasks by the recipes: which recipe each goes by, what becomes one task together, in
which order, and where. Nothing is made here: whoever decides makes events of it, a preview shows it.

What is chosen for one is supposed on its way before the next is asked, under the open journal, and taken back at the end.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from datetime import date
from typing import Any, Protocol, Self, TypeVar

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import BinCode, PlateNo, ReceiptNo, RecipeId, RuleId
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.floor.plates import PlateLine
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, Move, Serves
from mindful_crate.core.placing.choose import choose
from mindful_crate.core.placing.request import BinRequest, load_of
from mindful_crate.core.placing.rules import KILOGRAM, Facts, unmet
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve, record
from mindful_crate.core.rulebook.bin_rules import BinPurpose, Conditions
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.recipes import NO_CAPS, Caps, Cause, Grouping, Recipe, Sequencing, Starts
from mindful_crate.core.rulebook.steps import BY_RULES, Need, Place
from mindful_crate.core.trail import DockLook, RecipeLook, Trail
from mindful_crate.core.walking.distance import network_of, tours_of
from mindful_crate.core.walking.network import NOWHERE
from mindful_crate.core.work.putting import checks as putting
from mindful_crate.core.work.tasks.fold import suppose

ANYTHING = Conditions()
LITRE = 1_000_000
"""Cubic millimetres."""
HELD = "it starts when the office lets it go"


@record
class Piece:
    """A whole plate, or loose goods of one kind, where it stands or lies; with the order lines it came on, where its plan puts it
    away, and, when it has come a part of its way, by which recipe and which part comes next. ``key``: what it is called while
    no task takes it."""

    key: str
    bin: BinCode
    goods: tuple[Goods, ...]
    plate: PlateNo | None = None
    lines: tuple[PlateLine, ...] = ()
    receipts: tuple[ReceiptNo, ...] = ()
    at: Place = BY_RULES
    recipe: RecipeId | None = None
    leg: int = 0
    off: PlateNo | None = None
    """The plate that loose goods are taken off."""
    cause: Cause | None = None
    """Why it is brought from reserve; None: it is put away."""
    refs: tuple[Ref, ...] = ()
    """The orders it is brought for."""
    serves: tuple[Serves, ...] = ()
    """The order lines it goes to instead of being stored."""
    purpose: BinPurpose | None = None
    """By which rules it finds its place, if that is no place to put goods away."""
    docks: tuple[DockLook, ...] = ()
    """Why it goes to orders, or not."""

    @property
    def need(self) -> Need:
        """What its task is for."""
        return Need.PUT_AWAY if self.cause is None else Need.REPLENISH


@record
class Share:
    """What of a piece goes to one bin; without one the worker chooses."""

    piece: Piece
    goods: tuple[Goods, ...]
    to: BinCode | None
    rule: RuleId | None

    @property
    def whole(self) -> bool:
        """Does a plate go as it is?"""
        return self.piece.plate is not None

    def with_goods(self, goods: tuple[Goods, ...]) -> Self:
        """The same of other goods."""
        return evolve(self, goods=goods)


class Portion(Protocol):
    """Goods that go into one task; those that are ``whole`` are never split."""

    @property
    def goods(self) -> tuple[Goods, ...]:
        """What it is."""
        ...

    @property
    def whole(self) -> bool:
        """Does it go as it is?"""
        ...

    def with_goods(self, goods: tuple[Goods, ...]) -> Self:
        """The same of other goods."""
        ...


S = TypeVar("S", bound=Portion)


@record
class Arranged:
    """A task as it would be made: by which recipe, and why by that; which part of the way; its moves."""

    recipe: Recipe
    leg: int
    moves: tuple[Move, ...]
    shares: tuple[Share, ...]
    looks: tuple[RecipeLook, ...]

    @property
    def about(self) -> tuple[Ref, ...]:
        """The receipts of loose goods; of what is brought from reserve, the orders that wait for it."""
        every = dict.fromkeys(r for s in self.shares if s.piece.plate is None for r in s.piece.receipts)
        refs = dict.fromkeys(r for s in self.shares for r in s.piece.refs)
        return (*(Ref(DocKind.RECEIPT, r) for r in every), *refs)

    @property
    def held(self) -> str:
        """Why nobody may take it at first; empty when anybody of the crew may."""
        if self.recipe.minute is not None:
            return f"it starts at {self.recipe.time.strip()}"
        return HELD if self.recipe.starts is Starts.HELD else ""


@dataclass(slots=True)
class Arrangement:
    """Tasks, and pieces of which no recipe makes one, with the reason."""

    tasks: list[Arranged] = field(default_factory=list)
    left: list[tuple[Piece, str]] = field(default_factory=list)


@dataclass(slots=True)
class _Asked:
    piece: Piece
    request: BinRequest
    recipe: Recipe | None
    leg: int
    looks: tuple[RecipeLook, ...]


Seen = Callable[[Trail], None]
"""Is told how each bin was chosen, on the state as it was asked."""


def request_of(state: State, piece: Piece, today: date) -> BinRequest:
    """Which bin is asked for a piece, in the last part of its way?"""
    if piece.plate is None:
        request = putting.request_for_loose(state, piece.goods[0], piece.lines, piece.bin, today)
    elif (plate := state.plate(piece.plate)) is not None:
        request = evolve(
            putting.request_for(state, plate, piece.goods, piece.lines, today=today), from_bin=piece.bin, door=piece.bin
        )
    else:
        raise Refusal("unknown_plate", f"There is no license plate `{piece.plate}`.")
    request = evolve(request, at=piece.at, purpose=piece.purpose or request.purpose)
    return putting.as_needed(request, piece.need)


def recipe_of(
    state: State, book: Rulebook, piece: Piece, request: BinRequest
) -> tuple[Recipe | None, tuple[RecipeLook, ...]]:
    """The recipe a piece goes by, with a look at each that was asked: the one that brought it so far, else the first whose
    conditions hold."""
    recipes = book.recipes_for(state.settings.site, piece.need)
    if piece.cause is not None:
        other = [r for r in recipes if r.cause not in (None, piece.cause)]
        recipe, looks = first_recipe([r for r in recipes if r not in other], request, state.ground)
        return recipe, (*(RecipeLook(r.id, False, "it is for another cause") for r in other), *looks)
    if piece.recipe is not None:
        known = next((r for r in recipes if r.id == piece.recipe), None)
        if known is not None:
            return known, (RecipeLook(known.id, True, "it goes on by the recipe that brought it here"),)
    return first_recipe(recipes, request, state.ground)


def first_recipe(
    recipes: Sequence[Recipe], request: BinRequest, ground: Ground
) -> tuple[Recipe | None, tuple[RecipeLook, ...]]:
    """The first of some recipes whose conditions hold for goods, with a look at each that was asked."""
    facts = Facts(request, ground)
    looks = []
    for recipe in recipes:
        why = unmet(recipe, facts) if recipe.on else "it is switched off"
        looks.append(
            RecipeLook(
                recipe.id,
                why is None,
                why or ("its conditions hold" if recipe.applies != ANYTHING else "it is for anything"),
            )
        )
        if why is None:
            return recipe, tuple(looks)
    return None, tuple(looks)


def arrange(
    state: State,
    book: Rulebook,
    pieces: Sequence[Piece],
    today: date,
    *,
    together: bool = False,
    seen: Seen | None = None,
) -> Arrangement:
    """Tasks for pieces, in order; ``together``: of all that goes by one recipe, whatever its grouping says. Only under an open
    journal."""
    found, mark = Arrangement(), len(state.journal.lines)
    groups: dict[tuple[object, ...], list[_Asked]] = {}
    for n, piece in enumerate(pieces):
        each = _ask(state, book, piece, today)
        if each.recipe is None:
            found.left.append((piece, "no recipe is for it" if each.looks else "there is no recipe"))
        else:
            groups.setdefault(_key(state.ground, each.recipe, each, n, together), []).append(each)
    many = sum(map(len, groups.values())) > 1
    asked = 0
    for group in groups.values():
        recipe, leg = group[0].recipe, group[0].leg
        assert recipe is not None
        apart = recipe.grouping is Grouping.PLATE and not together
        shares = []
        for each in group:
            rules = book.rules_for(each.request.site, each.request.purpose, each.request.at)
            trail = evolve(choose(each.request, rules, state), recipe=each.looks, docks=each.piece.docks)
            if seen:
                seen(trail)
            mine = _shares(each, trail)
            if each.piece.cause is not None:  # what no shelf takes stays in reserve
                found.left += [(evolve(each.piece, goods=s.goods), "no shelf takes it") for s in mine if s.to is None]
                mine = [s for s in mine if s.to is not None]
            shares += mine
            if many:
                suppose(state, trail, f"arranged {asked}")
            asked += 1
        if not shares:
            continue
        lots = [[s] for s in shares] if apart else [_in_order(state, recipe.sequence, shares)]
        for chunk in (chunk for lot in lots for chunk in capped(lot, recipe.most, state.ground)):
            found.tasks.append(Arranged(recipe, leg, _moves(chunk), tuple(chunk), group[0].looks))
    if many:
        state.journal.back_to(mark)
    return found


def _ask(state: State, book: Rulebook, piece: Piece, today: date) -> _Asked:
    request = request_of(state, piece, today)
    recipe, looks = recipe_of(state, book, piece, request)
    leg = min(piece.leg, len(recipe.legs)) if recipe else 0
    if recipe and leg < len(recipe.legs):
        request = evolve(request, at=recipe.legs[leg].to)
    return _Asked(piece, request, recipe, leg, looks)


def together_with(
    state: State, book: Rulebook, pieces: Sequence[Piece], these: Sequence[int], today: date
) -> list[int]:
    """Which pieces, by their place among all, become one task with ``these`` by the grouping of their recipes."""
    keys = []
    for n, piece in enumerate(pieces):
        each = _ask(state, book, piece, today)
        keys.append(_key(state.ground, each.recipe, each, n, False) if each.recipe else None)
    wanted = {keys[n] for n in these} - {None}
    return [n for n, key in enumerate(keys) if key in wanted]


def _key(ground: Ground, recipe: Recipe, each: _Asked, n: int, together: bool) -> tuple[object, ...]:
    """What pieces of one task have in common."""
    piece = each.piece
    begins = (recipe.id, each.leg, piece.plate is None, piece.serves)
    if together:
        return begins
    match recipe.grouping:
        case Grouping.PLATE:
            return (*begins, n)
        case Grouping.RECEIPT:
            return (*begins, *(piece.receipts or (piece.plate,)))
        case Grouping.ORDER:
            return (*begins, *sorted({line.order for line in piece.lines}))
        case Grouping.ZONE:
            return (*begins, ground.bins[piece.bin].zone)
        case Grouping.SHIPMENT | Grouping.WAVE:  # what comes in belongs to neither
            return begins


def _shares(each: _Asked, trail: Trail) -> list[Share]:
    piece = each.piece
    if piece.plate is not None:
        return [Share(piece, piece.goods, trail.bin, trail.rule)]
    kind = piece.goods[0]
    found = [Share(piece, (evolve(kind, quantity=a.quantity),), a.bin, a.rule) for a in trail.allocations]
    return [*found, Share(piece, (evolve(kind, quantity=trail.rest),), None, None)] if trail.rest else found


def _in_order(state: State, by: Sequencing, shares: list[Share]) -> list[Share]:
    """The shares in the order in which they are placed; those without a bin come last, as the worker finds one."""
    ground = state.ground
    if by is Sequencing.TOUR:
        return _by_tour(ground, shares)

    def key(share: Share) -> tuple[Any, ...]:
        walk = _walk(ground, share)
        if by is Sequencing.HEAVY_FIRST:
            return (-_load(ground, share)[1], *walk)
        if by is Sequencing.FEFO:
            return (min((g.expiry for g in share.goods if g.expiry), default=date.max), *walk)
        return walk

    return sorted(shares, key=key)


def _by_tour(ground: Ground, shares: list[Share]) -> list[Share]:
    """Along the shortest round from where the first of them is taken."""
    begin = shares[0].piece.bin
    network = network_of(ground, ground.site_of(begin))
    stops = {s.to: n for s in shares if s.to and (n := network.number(s.to)) is not None}
    start = network.number(begin)
    if start is None or len(stops) < 2:
        return _in_walk_order(ground, shares)
    try:
        tour = tours_of(ground, ground.site_of(begin)).shortest(stops.values(), start)
    except Refusal:  # one of them cannot be walked to: the numbers of the bins say more then
        return _in_walk_order(ground, shares)
    place = {n: k for k, n in enumerate(tour.stops)}
    return sorted(shares, key=lambda s: (s.to is None, place.get(stops.get(s.to, -1), 0) if s.to else 0, s.to or ""))


def _in_walk_order(ground: Ground, shares: list[Share]) -> list[Share]:
    return sorted(shares, key=lambda s: _walk(ground, s))


def _walk(ground: Ground, share: Share) -> tuple[bool, int, str]:
    return share.to is None, ground.bins[share.to].walk if share.to else 0, share.to or ""


def _load(ground: Ground, share: Portion) -> tuple[int, int]:
    """Volume (mm3) and weight (mg) of the goods of a share."""
    load = load_of(share.goods, None, ground)
    return load.volume_mm3, load.weight_mg


def capped(shares: Iterable[S], most: Caps, ground: Ground) -> Iterator[list[S]]:
    """The shares of each task: as many as its caps allow, one at least. Loose goods that are too many are split."""
    if most == NO_CAPS:
        yield list(shares)
        return
    limits = (
        most.things,
        most.pieces,
        most.kilograms and most.kilograms * KILOGRAM,
        most.litres and most.litres * LITRE,
    )
    chunk: list[S] = []
    sums = (0, 0, 0, 0)
    waiting = list(shares)[::-1]
    while waiting:
        share = waiting.pop()
        volume, weight = _load(ground, share)
        adds = (1, sum(g.quantity for g in share.goods), weight, volume)
        after = tuple(a + b for a, b in zip(sums, adds, strict=True))
        if not _over(after, limits):
            chunk.append(share)
            sums = after[0], after[1], after[2], after[3]
            continue
        if chunk:
            yield chunk
            chunk, sums = [], (0, 0, 0, 0)
            waiting.append(share)
            continue
        part = _fitting(share, limits, ground)
        yield [part]
        rest = 0 if share.whole else share.goods[0].quantity - part.goods[0].quantity
        if rest:
            waiting.append(share.with_goods((evolve(share.goods[0], quantity=rest),)))
    if chunk:
        yield chunk


def _over(sums: Iterable[int], limits: Iterable[int | None]) -> bool:
    return any(limit is not None and s > limit for s, limit in zip(sums, limits, strict=True))


def _fitting(share: S, limits: tuple[int | None, ...], ground: Ground) -> S:
    """As much of loose goods as one task may hold, a piece at least; a plate goes whole."""
    if share.whole:
        return share
    kind = share.goods[0]
    low, high = 1, kind.quantity
    while low < high:  # the load grows with the quantity
        middle = (low + high + 1) // 2
        part = share.with_goods((evolve(kind, quantity=middle),))
        volume, weight = _load(ground, part)
        low, high = (low, middle - 1) if _over((1, middle, weight, volume), limits) else (middle, high)
    return share.with_goods((evolve(kind, quantity=low),))


def _moves(shares: list[Share]) -> tuple[Move, ...]:
    """The moves of a task: whole plates one after another; loose goods are taken up together and placed one after another."""
    moves: list[Move] = []
    if shares[0].piece.plate is not None:
        for share in shares:
            plate = share.piece.plate
            serves = share.piece.serves
            moves.append(Move(len(moves) + 1, Do.TAKE, share.piece.bin, (), plate, serves=serves))
            moves.append(Move(len(moves) + 1, Do.PLACE, share.to, (), plate, share.rule, serves=serves))
        return tuple(moves)
    taken: dict[tuple[BinCode, PlateNo | None, Goods | None, tuple[Serves, ...]], list[Goods]] = {}
    for share in shares:
        (goods,) = share.goods
        # what comes from reserve is fetched kind by kind, each counted
        apart = evolve(goods, quantity=0) if share.piece.cause else None
        there = taken.setdefault((share.piece.bin, share.piece.off, apart, share.piece.serves), [])
        alike = next((n for n, g in enumerate(there) if g.alike(goods)), None)
        if alike is None:
            there.append(goods)
        else:
            there[alike] = evolve(there[alike], quantity=there[alike].quantity + goods.quantity)
    for (code, off, _, serves), goods_there in taken.items():
        moves.append(Move(len(moves) + 1, Do.TAKE, code, tuple(goods_there), off, serves=serves))
    for share in shares:
        moves.append(Move(len(moves) + 1, Do.PLACE, share.to, share.goods, None, share.rule, serves=share.piece.serves))
    return tuple(moves)


def walked(state: State, shares: Sequence[Share]) -> int | None:
    """How far a task is to walk: from where it begins to its places, one after another in their order, and back; of whole plates
    back to where they stand for each. Millimetres; None: there is no way, or not on this site."""
    ground = state.ground
    tours = tours_of(ground, state.settings.site)
    stops: list[BinCode] = []
    for share in shares:
        if share.piece.plate is not None or not stops:
            stops.append(share.piece.bin)
        if share.to:
            stops.append(share.to)
    numbers = [tours.network.number(code) for code in stops]
    known = [n for n in numbers if n is not None]
    if len(known) < 2 or len(known) != len(numbers):
        return None
    mm = tours.length(known)
    return None if mm >= NOWHERE else mm
