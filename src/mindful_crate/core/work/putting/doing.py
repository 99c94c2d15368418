"""What deciders make of goods that are to be put away: tasks by the recipes, or goods that rest until one is made."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from contextlib import suppress
from datetime import date

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import PlateNo, ReceiptNo, TaskNo
from mindful_crate.core.floor.plates import Plate, PlateLine, in_bin, in_hands, on_plate
from mindful_crate.core.floor.rests import Rest
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, Task
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.bin_rules import BinPurpose
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.recipes import Leg
from mindful_crate.core.rulebook.steps import BY_RULES, Begins, Need, Place
from mindful_crate.core.scanning.kinds import Wanted
from mindful_crate.core.work import numbered
from mindful_crate.core.work.crossing.doing import across
from mindful_crate.core.work.making import Making, said
from mindful_crate.core.work.putting import checks as putting
from mindful_crate.core.work.putting.arranging import Arranged, Piece, arrange, together_with
from mindful_crate.core.work.receiving.checks import known_order
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.tasks.events import GoodsRest, RestEnded, WorkMade
from mindful_crate.core.work.tasks.parts import carried_of


def pieces_of_plate(
    state: State, rulebook: Rulebook, plate: Plate, goods: tuple[Goods, ...] = (), lines: tuple[PlateLine, ...] = ()
) -> tuple[Piece, ...]:
    """A whole plate where it stands; ``goods`` and ``lines`` of one that has just been finished."""
    receipt = state.receipts.get(plate.receipt) if plate.receipt else None
    lines = lines or (receipt.lines if receipt else ())
    assert plate.bin is not None
    number, at = plate.number, _at(state, rulebook, lines, goods or plate.goods)
    return (Piece(number, plate.bin, goods or plate.goods, number, lines, at=at),)


def pieces_of_goods(
    state: State, rulebook: Rulebook, rest: Rest, lines: tuple[PlateLine, ...] = ()
) -> tuple[Piece, ...]:
    """Loose goods that rest, each kind by itself."""
    known = lines or tuple(x for r in rest.receipts if (found := state.receipts.get(r)) for x in found.lines)
    return tuple(
        Piece(
            rest.key, rest.bin, (each,), None, known, rest.receipts, _at(state, rulebook, known, (each,)), rest.recipe, rest.leg
        )
        for each in rest.goods
    )  # fmt: skip


def pieces_of_rest(state: State, rulebook: Rulebook, rest: Rest) -> tuple[Piece, ...]:
    """What rests, as it stands now; refused when it is elsewhere."""
    putting.check_rests(state, rest)
    if rest.plate is None:
        return pieces_of_goods(state, rulebook, rest)
    plate = state.plates[rest.plate]
    return tuple(evolve(p, recipe=rest.recipe, leg=rest.leg) for p in pieces_of_plate(state, rulebook, plate))


def _at(state: State, rulebook: Rulebook, lines: Iterable[PlateLine], goods: Iterable[Goods]) -> Place:
    """Where the plan of goods puts them away; what is kept apart, the rules for that say."""
    if putting.purpose_of(goods) is BinPurpose.HOLD_AT:
        return BY_RULES
    for line in lines:
        plan = rulebook.plan_for(rulebook.asked(state.ground, known_order(state, line.order), line.item))
        if plan is not None:
            return plan.put_away.at
    return BY_RULES


def place_of(state: State, rulebook: Rulebook, task: Task) -> Place:
    """Where a task goes: to a hand-over point, or where the plan of its goods puts them away."""
    if (leg := hand_over(rulebook, task)) is not None:
        return leg.to
    if task.need is Need.REPLENISH:
        return BY_RULES
    plate = state.plate(task.plate) if task.plate else None
    return _at(state, rulebook, putting.lines_of(state, task), plate.goods if plate else task.goods)


def hand_over(rulebook: Rulebook, task: Task) -> Leg | None:
    """The part of the way at the end of which a task hands over; None: it is the last."""
    recipe = rulebook.recipe(task.plan.recipe)
    return recipe.legs[task.plan.leg] if recipe and task.plan.leg < len(recipe.legs) else None


def alike(state: State, rulebook: Rulebook, key: str, today: date) -> list[str]:
    """What else rests and becomes one task with this, by the grouping of its recipe."""
    pieces: list[Piece] = []
    for rest in state.rests.of_need(Need.PUT_AWAY):
        with suppress(Refusal):  # it is elsewhere: what it was to become is another question
            pieces += pieces_of_rest(state, rulebook, rest)
    these = [n for n, piece in enumerate(pieces) if piece.key == key]
    return [pieces[n].key for n in together_with(state, rulebook, pieces, these, today)]


def set_going(
    state: State, making: Making, rulebook: Rulebook, stamp: Stamp, pieces: Sequence[Piece], begins: Begins
) -> str:
    """What is to be put away becomes tasks now, or rests until somebody asks for them: what is said of it."""
    if begins is Begins.ON_ARRIVAL:
        return make_tasks(state, making, rulebook, stamp, pieces)
    return _rest(making, pieces, "")


def _rest(making: Making, pieces: Sequence[Piece], why: str) -> str:
    """Pieces of one key rest under it."""
    first = pieces[0]
    goods = () if first.plate else tuple(g for p in pieces for g in p.goods)
    making.event(
        GoodsRest(first.key, Need.PUT_AWAY, first.bin, first.plate, goods, first.receipts, first.recipe, first.leg, why)
    )
    return f"It waits in `{first.bin}` for a put-away task to be made" + (f": {why}." if why else ".")


def make_tasks(
    state: State,
    making: Making,
    rulebook: Rulebook,
    stamp: Stamp,
    pieces: Sequence[Piece],
    together: bool = False,
) -> str:
    """Tasks for what is to be put away, by the recipes; what no recipe is for rests. What somebody waits for goes there instead."""
    pieces, crossed = across(state, making, rulebook, stamp, pieces)
    found = arrange(state, rulebook, pieces, stamp.today, together=together, seen=making.trail)
    says = []
    for arranged in found.tasks:
        number = TaskNo(making.draw("task"))
        making.event(made(number, arranged))
        says.append(_told(number, arranged, alone=len(found.tasks) == 1))
    left: dict[str, list[tuple[Piece, str]]] = {}
    for piece, why in found.left:
        left.setdefault(piece.key, []).append((piece, why))
    for of_key in left.values():
        says.append(_rest(making, [p for p, _ in of_key], of_key[0][1]))
    return said(*crossed, _sentence(says, len(found.tasks)))


def made(number: TaskNo, arranged: Arranged) -> WorkMade:
    """The event that makes a task."""
    recipe = arranged.recipe
    return WorkMade(
        number, recipe.need, recipe.crew_of(arranged.leg), arranged.moves, arranged.about, recipe.id, arranged.leg,
        arranged.held, recipe.priority, recipe.minute,
    )  # fmt: skip


def _told(number: TaskNo, arranged: Arranged, alone: bool) -> str:
    bins = list(dict.fromkeys(s.to for s in arranged.shares))
    if len(bins) > 1:
        return f"`{number}` to {len(bins)} bins"
    if alone and arranged.shares[0].piece.plate:
        where = f"to `{bins[0]}`" if bins[0] else "to a bin the worker chooses: no rule found one"
        return f"`{number}` made, {where}"
    return f"`{number}` to `{bins[0]}`" if bins[0] else f"`{number}` to a bin the worker chooses"


def _sentence(says: list[str], tasks: int) -> str:
    made, rests = says[:tasks], says[tasks:]
    parts = [f"Put-away task{'s' if tasks > 1 else ''} {', '.join(made)}."] if made else []
    return " ".join([*parts, *rests])


def ended(making: Making, rest: Rest, why: str = "") -> None:
    """What rested is taken on, or never will be."""
    making.event(RestEnded(rest.key, why))


def go_on(
    state: State,
    making: Making,
    rulebook: Rulebook,
    stamp: Stamp,
    task: Task,
    plate: PlateNo | None,
    goods: tuple[Goods, ...],
) -> str | None:
    """What was placed at the end of a part of the way goes on with the next; None when it was the last."""
    leg = hand_over(rulebook, task)
    if leg is None:
        return None
    if plate is not None:
        there = state.plate(plate)
        assert there is not None
        pieces = pieces_of_plate(state, rulebook, there)
    else:
        placed = state.tasks[task.number].placed
        rest = Rest(f"{task.number}.{len(placed)}", Need.PUT_AWAY, placed[-1].bin, None, goods, task.receipts)
        pieces = pieces_of_goods(state, rulebook, rest)
    on = tuple(evolve(p, recipe=task.plan.recipe, leg=task.plan.leg + 1) for p in pieces)
    return set_going(state, making, rulebook, stamp, on, leg.next)


def to_take(state: State, task: Task) -> Wanted | None:
    """The pieces that must be named to take up the loose goods of a task; None: it is clear, or there is nothing of the kind."""
    for move in task.going.remaining:
        if move.do is not Do.TAKE or move.at is None or not move.goods:
            continue
        off = on_plate(move.plate) if move.plate else in_bin(move.at)
        for goods in move.goods:
            if goods.item in state.serials.kept and numbered.clear(state, off, goods, task.receipts) is None:
                there = state.serials.at(off, goods)
                item = state.ground.items[goods.item]
                return Wanted(item, goods.quantity, there, numbered.spot_told(off), "is taken")
    return None


def to_place(state: State, task: Task) -> Wanted | None:
    """The pieces that must be named to place a part of what is in hands; None: it is all of it, or there is nothing of the kind."""
    hands = in_hands(task.number)
    for goods in task.goods if not task.plate else ():
        if goods.item not in state.serials.kept:
            continue
        there = state.serials.at(hands, goods)
        if len(there) > goods.quantity:
            return Wanted(state.ground.items[goods.item], goods.quantity, there, "in your hands", "is placed here")
    return None


def check_part(state: State, rulebook: Rulebook, task: Task) -> None:
    """Refuse to divide what goes to a hand-over, or what there is but one of."""
    if hand_over(rulebook, task):
        says = f"{putting.told(state, task)} is handed over at `{task.to_bin}`: whoever takes it on divides it."
        raise Refusal("not_handed_over", says[0].upper() + says[1:])
    if sum(g.quantity for g in carried_of(state, task)) < 2:
        raise Refusal("no_part", "There is but one: place it.")


def receipts_of(state: State, task: Task, plate: PlateNo | None) -> tuple[ReceiptNo, ...]:
    """The receipts whose goods a task puts away: that of the plate that was placed, or of the loose goods."""
    if plate is None:
        return task.receipts
    card = state.plates.cards.get(plate)
    return (card.receipt,) if card and card.receipt else ()
