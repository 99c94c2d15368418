"""Tasks as they would be made, in words: of what waits on a floor, or of orders as if all that is open of them had come. Nothing is
made."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import date

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import BinCode, CrewId, ItemCode, OrderNo, PlateKindCode, PlateNo, RecipeId
from mindful_crate.core.floor.plates import PlateLine
from mindful_crate.core.floor.rests import Rest
from mindful_crate.core.floor.state import State
from mindful_crate.core.placing.choose import choose
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve, record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import FlowPurpose, PlateBy
from mindful_crate.core.rulebook.recipes import Cause
from mindful_crate.core.rulebook.steps import Need, StepPlan, fixed
from mindful_crate.core.rulebook.words.recipes import crew_name
from mindful_crate.core.work.host.fold import suppose_order
from mindful_crate.core.work.putting import doing
from mindful_crate.core.work.putting.arranging import Arranged, Arrangement, Piece, arrange, walked
from mindful_crate.core.work.putting.checks import check_rests
from mindful_crate.core.work.receiving.checks import goods_text, request_at
from mindful_crate.core.work.refilling.asking import Want, find, for_shelves
from mindful_crate.core.work.refilling.looking import homes_here, stand
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.tasks.fold import suppose_plate


@record
class ShownShare:
    """What of a task goes from where to where; without a bin the worker chooses. ``order`` is the first it came on."""

    what: str
    order: str
    from_bin: BinCode
    to: BinCode | None
    rule: int | None
    """The number of the bin rule that chose it, if one did."""


@record
class ShownLook:
    """A recipe that was asked: its number, and why it makes the task or does not."""

    recipe: RecipeId
    number: int
    makes: bool
    says: str


@record
class ShownTask:
    """A task as it would be: for whom, which part of the way, of what, how far to walk in millimetres, and why so."""

    crew: CrewId
    crew_name: str
    recipe: RecipeId
    number: int
    part: int
    parts: int
    held: str
    priority: int
    walk_mm: int | None
    """A round from where the first of it is taken over all its places; None: nobody can walk it."""
    shares: tuple[ShownShare, ...]
    looks: tuple[ShownLook, ...]


@record
class LeftOver:
    """Something of which no recipe makes a task."""

    what: str
    at: BinCode
    why: str


@record
class Preview:
    """Tasks, what is left over, and what is to be inspected first: of that an inspection is made. ``short``: what no rule gives, where goods go
    out."""

    tasks: tuple[ShownTask, ...]
    left: tuple[LeftOver, ...]
    inspections: tuple[str, ...] = ()
    short: tuple[str, ...] = ()


def of_rests(state: State, book: Rulebook, keys: Iterable[str], today: date, *, together: bool = False) -> Preview:
    """The tasks that would be made of what rests under these keys; refused when something rests there no more."""
    pieces: list[Piece] = []
    inspections = []
    for key in dict.fromkeys(keys):
        rest = state.rests.get(key)
        if rest is None:
            raise Refusal("nothing_rests", f"`{key}` waits for no task: one was made, or it was taken off the list.")
        if rest.need is Need.INSPECT:
            check_rests(state, rest)
            inspections.append(f"{rest_told(state, rest)} in `{rest.bin}`")
        else:
            pieces += doing.pieces_of_rest(state, book, rest)
    with state.tentatively():
        found = _shown(state, book, arrange(state, book, pieces, today, together=together))
    return evolve(found, inspections=tuple(inspections))


def of_orders(
    state: State, book: Rulebook, orders: Sequence[OrderNo], today: date, *, together: bool = False
) -> Preview:
    """The tasks that would be made if all that is open of these orders came now: each line on a plate of its own, or loose where
    flows receive so. Refused when an order is none, or nothing of it is put away."""
    found = [_known(state, number) for number in dict.fromkeys(orders)]
    kind = _plate_kind(state, book)
    with state.tentatively():
        pieces: list[Piece] = []
        for order in found:
            mine = _pieces(state, book, order, kind, today)
            if not mine:
                raise Refusal(
                    "nothing_put_away",
                    f"Nothing of `{order.number}` is put away: nothing is open, or its plan does not put away.",
                )
            pieces += mine
        return _shown(state, book, arrange(state, book, pieces, today, together=together))


def of_refills(state: State, book: Rulebook, item: ItemCode, quantity: int, cause: Cause, stamp: Stamp) -> Preview:
    """What would be brought of an item from reserve now: so much that orders lack, in base units, or what it takes to fill its shelves. Refused when
    there is no such item, or it is at home nowhere here."""
    if item not in state.ground.items:
        raise Refusal("unknown_item", f"There is no item `{item}`.", "item")
    if cause is Cause.WANTED:
        wants = [Want(item, quantity, cause)]
    else:
        stands = [stand(state, h) for h in homes_here(state, item)]
        if not stands:
            raise Refusal(
                "no_shelf", f"`{item}` is at home on no shelf here: say so in the catalogue, under Home bins.", "item"
            )
        wants = for_shelves(stands, cause)
    with state.tentatively():
        found = find(state, book, wants, stamp)
        shown = _shown(state, book, found.arranged)
    told = state.ground.items[item]
    lacking = sum(n for _, n in found.lacking)
    short = [f"Reserve has {told.told(lacking)} of {told.name} less than that."] if lacking else []
    short += ["The shelves are full."] if not wants else []
    return evolve(shown, short=tuple(short))


def of_line(state: State, book: Rulebook, order: Order, line: int, today: date) -> ShownTask | None:
    """The task that one line of an order would become if all that is open of it came now; None when it becomes none."""
    kind = _plate_kind(state, book)
    only = evolve(order, lines=tuple(x for x in order.lines if x.no == line))
    with state.tentatively():
        if state.order(order.number) is None:  # it is only supposed
            suppose_order(state, order)
        found = _shown(state, book, arrange(state, book, _pieces(state, book, only, kind, today), today))
    return found.tasks[0] if found.tasks else None


def _known(state: State, number: OrderNo) -> Order:
    order = state.order(number)
    if order is None:
        raise Refusal("unknown_order", f"There is no order `{number}`.", "orders")
    if not order.inbound:
        raise Refusal("other_kind", f"`{number}` goes out: nothing of it is put away.", "orders")
    if order.site != state.settings.site:
        raise Refusal("other_site", f"`{number}` is for site `{order.site}`.", "orders")
    return order


def _plate_kind(state: State, book: Rulebook) -> PlateKindCode | None:
    """The kind of plate that is built where goods are received; None where they are received loose."""
    site = state.settings.site
    flows = book.shown_flows(site, FlowPurpose.RECEIVE)
    if flows and all(f.plate_by is PlateBy.NONE for f in flows):
        return None
    kinds = (f.plate_kind for f in flows if f.plate_by is not PlateBy.NONE)
    return next((k for k in kinds if k in state.ground.plate_kinds), next(iter(state.ground.plate_kinds), None))


def _pieces(state: State, book: Rulebook, order: Order, kind: PlateKindCode | None, today: date) -> list[Piece]:
    found = []
    for line in order.lines:
        still = state.open_quantity(order, line)
        plan = book.plan_for(book.asked(state.ground, order, line.item))
        if still <= 0 or plan is None or not plan.put_away.on:
            continue
        goods = Goods(line.item, still, line.lot)
        code = _into(state, book, order, goods, plan, today)
        if code is None:
            continue
        noted = (PlateLine(1, order.number, line.no, line.item, line.unit, still, line.lot, None, 0),)
        plate = PlateNo(f"{order.number} line {line.no}") if kind else None
        if plate and kind:
            suppose_plate(state, plate, kind, code, (goods,))
        found.append(Piece(str(order.number), code, (goods,), plate, noted, at=plan.put_away.at))
    return found


def _into(state: State, book: Rulebook, order: Order, goods: Goods, plan: StepPlan, today: date) -> BinCode | None:
    code = fixed(plan.receive.into)
    if code is not None:
        return code if code in state.ground.bins else None
    request = request_at(state, order, goods, plan, today)
    return choose(request, book.rules_for(request.site, request.purpose, request.at), state).bin


def _shown(state: State, book: Rulebook, arrangement: Arrangement) -> Preview:
    numbers = book.numbered_recipes(state.settings.site)
    rules = {str(r.id): n for lst in book.bin_rules for n, r in enumerate(lst.rules, start=1)}
    tasks = tuple(_task(state, book, each, numbers, rules) for each in arrangement.tasks)
    left = tuple(LeftOver(_what(state, p.plate, p.goods), p.bin, why) for p, why in arrangement.left)
    return Preview(tasks, left)


def _task(
    state: State, book: Rulebook, each: Arranged, numbers: dict[RecipeId, int], rules: dict[str, int]
) -> ShownTask:
    recipe = each.recipe
    crew = recipe.crew_of(each.leg)
    looks = tuple(ShownLook(x.recipe, numbers.get(x.recipe, 0), x.makes, x.says) for x in each.looks)
    shares = tuple(
        ShownShare(
            _what(state, s.piece.plate, s.goods), s.piece.lines[0].order if s.piece.lines else "", s.piece.bin, s.to,
            rules.get(str(s.rule)) if s.rule else None,
        )
        for s in each.shares
    )  # fmt: skip
    return ShownTask(
        crew, crew_name(book.crews, crew), recipe.id, numbers.get(recipe.id, 0), each.leg + 1, len(recipe.legs) + 1, each.held,
        recipe.priority, walked(state, each.shares), shares, looks,
    )  # fmt: skip


def _what(state: State, plate: PlateNo | None, goods: tuple[Goods, ...]) -> str:
    told = goods_text(state, goods)
    supposed = plate is not None and " line " in plate
    return told if plate is None or supposed else f"plate `{plate}`: {told}"


def rest_told(state: State, rest: Rest) -> str:
    """What rests, in words."""
    goods = rest.goods if rest.plate is None else state.plates.goods_on(rest.plate)
    return _what(state, rest.plate, goods)
