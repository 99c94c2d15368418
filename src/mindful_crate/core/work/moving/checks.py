"""Moves inside the site: plates and loose goods taken up and placed elsewhere, judged by the rules that put away."""

from __future__ import annotations

from collections.abc import Iterator

from mindful_crate.core.catalog.amounts import Goods, all_more
from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import BinCode, ItemCode, PersonId, PlateNo, TaskNo
from mindful_crate.core.catalog.places import Bin, BinType
from mindful_crate.core.floor.plates import Plate, Spot, in_bin, on_plate
from mindful_crate.core.floor.reservations import Reserved
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Task, TaskState
from mindful_crate.core.placing.choose import choose
from mindful_crate.core.placing.fit import Held, Judge, Lying, TurnDown
from mindful_crate.core.placing.free import Carried
from mindful_crate.core.placing.request import BinRequest, Load, Nested, load_of
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.bin_rules import BinPurpose, Wants
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Flow
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.trail import Trail
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.stock.events import ReservationCut

DEEPEST = 4
"""Plates on plates, as deep as an opening state may have them."""


def plate_to_take(state: State, number: PlateNo) -> Plate:
    """A plate that may be taken up to be moved; refused with what it is doing otherwise."""
    plate = state.plate(number)
    if plate is None:
        raise Refusal("unknown_plate", f"There is no license plate `{number}`.")
    if plate.building:
        raise Refusal("plate_building", f"Plate `{number}` is still being built. Finish it first.")
    if plate.carrier:
        raise Refusal("plate_carried", f"@{plate.carrier} carries plate `{number}`.")
    if state.bin_of(number) is None:
        raise Refusal("plate_carried", f"Plate `{number}` stands on a plate that is being carried.")
    task = waiting_task(state, number)
    if task:
        waits = "is picked" if task.need is Need.PICK else "waits to be put away"
        raise Refusal("has_task", f"Plate `{number}` {waits} by task `{task.number}`. Use that flow for it.")
    return plate


def waiting_task(state: State, number: PlateNo) -> Task | None:
    """The open task of a plate, or of a tote that is handed on, if it has one."""
    task = state.tasks.with_tote(number) or state.task_of(number)
    return task if task and task.state is TaskState.OPEN else None


def goods_to_take(
    state: State, code: BinCode, plate: PlateNo | None, item: ItemCode
) -> tuple[PlateNo | None, tuple[Goods, ...]]:
    """What of an item may be taken in a bin, or off a plate there, in the order it is taken; and from which plate.

    Refused when there is none, and when it stands on several plates and none was named.
    """
    name = state.ground.items[item].name
    lines = [x for x in state.lines(item) if x.bin == code and (plate is None or x.plate == plate)]
    if not lines:
        raise Refusal("not_there", f"There is no `{item}` {name} {where_told(code, plate)}.{_elsewhere(state, item)}")
    holders = sorted({x.plate or "" for x in lines})
    if len(holders) > 1:
        plates = [f"`{h}`" for h in holders if h]
        raise Refusal(
            "several_plates", f"`{item}` is on {', '.join(plates)} in `{code}`: scan the plate it is taken from."
        )
    if lines[0].plate:
        if waiting_task(state, lines[0].plate):
            plate_to_take(state, lines[0].plate)  # says why not
        plate = lines[0].plate
    return plate, tuple(sorted((x.goods for x in lines), key=_take_order))


def _take_order(goods: Goods) -> tuple[bool, str, str, str]:
    return goods.status is not Status.AVAILABLE, str(goods.expiry or "9999"), str(goods.arrived or ""), goods.lot


def where_told(code: BinCode, plate: PlateNo | None) -> str:
    """``in `B-1``` or ``on `LP-1` in `B-1```."""
    return f"on `{plate}` in `{code}`" if plate else f"in `{code}`"


def _elsewhere(state: State, item: ItemCode) -> str:
    bins = list(dict.fromkeys(x.bin for x in state.lines(item)))
    if not bins:
        return " There is none anywhere."
    more = f" and {len(bins) - 3} more" if len(bins) > 3 else ""
    return f" It lies in {', '.join(f'`{b}`' for b in bins[:3])}{more}."


def request_to_place(
    state: State, flow: Flow, goods: tuple[Goods, ...], stamp: Stamp,
    *, plate: Plate | None = None, task: Task | None = None, from_bin: BinCode | None = None,
) -> BinRequest:  # fmt: skip
    """Which bin for goods that are moved by a flow? Bins in which a part was placed already have had their share."""
    placed = tuple(p.bin for p in task.placed) if task else ()
    return BinRequest(
        site=state.settings.site, purpose=flow.puts_by or BinPurpose.PUT_AWAY, goods=goods,
        plate_kind=plate.plate_kind if plate else None, plate=plate.number if plate else None,
        nested=state.nested(plate.number) if plate else (), from_bin=from_bin, today=stamp.today,
        task=task.number if task else None, without=placed,
    )  # fmt: skip


def ask_where_to(state: State, rulebook: Rulebook, flow: Flow, request: BinRequest) -> Trail | None:
    """The answer of the rules a flow proposes bins by; None when it proposes none."""
    if flow.puts_by is None:
        return None
    return choose(request, rulebook.rules_for(request.site, flow.puts_by), state)


def request_to_take(state: State, flow: Flow, item: ItemCode, quantity: int, stamp: Stamp, lot: str = "") -> BinRequest:
    """From which bin is so much of an item taken by a flow?"""
    return BinRequest(
        site=state.settings.site, purpose=flow.takes_by or BinPurpose.PICK_FROM, goods=(Goods(item, quantity, lot),),
        today=stamp.today,
    )  # fmt: skip


def ask_where_from(
    state: State, rulebook: Rulebook, request: BinRequest, carried: Carried | None = None
) -> Trail:  # fmt: skip
    """The answer of the rules that take. ``carried``: free stock of the same command, if it is all reserved."""
    site = request.site
    replenish = rulebook.rules_for(site, BinPurpose.REPLENISH_FROM) if request.purpose is BinPurpose.PICK_FROM else ()
    return choose(request, rulebook.rules_for(site, request.purpose), state, replenish, carried)


class _Placing(Judge):
    """Judges a bin for several things at once, against what it holds without them."""

    def __init__(
        self, state: State, request: BinRequest, load: Load, without: tuple[TaskNo, ...], plate: PlateNo | None
    ) -> None:
        super().__init__(request, _Without(state, without, plate))
        self.load = load

    def _needed_of(self, code: BinCode, kind: BinType, wants: Wants) -> Held | None:
        """All of it: what is left out makes no quick answer possible."""
        return self.floor.held(code)


class _Without:
    """A floor as it would be without some claims and one plate."""

    def __init__(self, state: State, tasks: tuple[TaskNo, ...], plate: PlateNo | None) -> None:
        self.state, self.tasks, self.plate = state, tasks, plate
        self.ground = state.ground

    def blocked(self, code: BinCode) -> str | None:
        """As it is."""
        return self.state.blocked(code)

    def held(self, code: BinCode, but: TaskNo | None = None) -> Held:
        """Without those claims and that plate."""
        return self.state.held_without(code, self.tasks, self.plate)

    def load(self, code: BinCode) -> tuple[int, int, int]:
        """Of what it holds then."""
        held = self.held(code)
        return held.volume_mm3, held.weight_mg, held.plates

    def holds_goods(self, code: BinCode) -> bool:
        """Do goods lie there then?"""
        return bool(self.held(code).kinds)

    def bins_with(self, item: ItemCode) -> frozenset[BinCode]:
        """As it is."""
        return self.state.bins_with(item)


def source(code: BinCode, plate: PlateNo | None) -> Spot:
    """Where goods are taken from: off a plate, or loose out of a bin."""
    return on_plate(plate) if plate else in_bin(code)


def judge_plates(
    state: State, tasks: tuple[Task, ...], code: BinCode, on: PlateNo | None
) -> tuple[TurnDown, str] | None:
    """Why carried plates may not all go into a bin, or onto a plate there, with the sentence for the worker."""
    plates = [state.plates[t.plate] for t in tasks if t.plate]
    goods = tuple(g for p in plates for g in state.all_goods(p.number))
    numbers = tuple(t.number for t in tasks)
    if on is not None:
        more = tuple(Nested(p.plate_kind, p.goods, state.nested(p.number)) for p in plates)
        return _judge_on(state, code, on, (), more, numbers)
    loads = [load_of(p.goods, p.plate_kind, state.ground, state.nested(p.number)) for p in plates]
    load = Load(
        sum(x.volume_mm3 for x in loads), sum(x.weight_mg for x in loads), max(x.height_mm for x in loads), len(loads)
    )
    request = BinRequest(state.settings.site, BinPurpose.PUT_AWAY, goods, plates[0].plate_kind)
    return _down(_Placing(state, request, load, numbers, None), state.ground.bins[code])


def judge_goods(
    state: State, task: Task, goods: tuple[Goods, ...], code: BinCode, plate: PlateNo | None
) -> tuple[TurnDown, str] | None:
    """Why carried goods may not go into a bin, or onto a plate there."""
    if plate is not None:
        return _judge_on(state, code, plate, goods, (), (task.number,))
    request = BinRequest(state.settings.site, BinPurpose.PUT_AWAY, goods)
    return _down(
        _Placing(state, request, load_of(goods, None, state.ground), (task.number,), None), state.ground.bins[code]
    )


def most_here(state: State, task: Task, code: BinCode) -> int:
    """How many of the carried goods, all of one kind, fit into a bin loose."""
    if len(task.goods) != 1:
        return 0
    request = BinRequest(state.settings.site, BinPurpose.PUT_AWAY, task.goods)
    judged = _Placing(state, request, load_of(task.goods, None, state.ground), (task.number,), None)
    return judged.most(state.ground.bins[code])[0]


def _judge_on(
    state: State,
    code: BinCode,
    on: PlateNo,
    goods: tuple[Goods, ...],
    more: tuple[Nested, ...],
    tasks: tuple[TaskNo, ...],
) -> tuple[TurnDown, str] | None:
    """The plate with everything on it is judged against its bin without it."""
    bottom = state.plate(on)
    while bottom is not None and bottom.on is not None:  # what counts is what stands in the bin
        bottom = state.plate(bottom.on)
    assert bottom is not None
    held_goods = all_more(bottom.goods, goods)
    nested = (*state.nested(bottom.number), *more)
    request = BinRequest(state.settings.site, BinPurpose.PUT_AWAY, held_goods, bottom.plate_kind, bottom.number, nested)
    load = load_of(held_goods, bottom.plate_kind, state.ground, nested)
    return _down(_Placing(state, request, load, tasks, bottom.number), state.ground.bins[code])


def _down(judge: Judge, each: Bin) -> tuple[TurnDown, str] | None:
    down = judge.turn_down(each)
    return (down, judge.told(each, down)) if down else None


def check_target(state: State, code: BinCode, on: PlateNo | None, carried: tuple[Task, ...]) -> None:
    """Refuse a target that does not exist, is of another site, is carried, or would close a ring."""
    if code not in state.ground.bins:
        raise Refusal("unknown_bin", f"There is no bin `{code}`.")
    if state.ground.site_of(code) != state.settings.site:
        raise Refusal("other_site", f"Bin `{code}` belongs to another site.")
    if on is None:
        return
    plate = state.plate(on)
    if plate is None:
        raise Refusal("unknown_plate", f"There is no license plate `{on}`.")
    if plate.building:
        raise Refusal("plate_building", f"Plate `{on}` is still being built. Finish it first.")
    if waiting_task(state, on):
        plate_to_take(state, on)  # says why nothing may be added to it
    if state.bin_of(on) is None:
        raise Refusal("plate_carried", f"Plate `{on}` is being carried. Set it down first.")
    deep = 1 + max((_depth(state, t.plate) for t in carried if t.plate), default=0)
    under: PlateNo | None = on
    while under is not None:
        deep, plate = deep + 1, state.plate(under)
        under = plate.on if plate else None
    if deep > DEEPEST + 1:
        raise Refusal("too_deep", f"Plates stand on one another at most {DEEPEST} deep.")


def _depth(state: State, number: PlateNo) -> int:
    return 1 + max((_depth(state, n) for n in state.plates_on(number)), default=0)


def let_go(
    state: State, code: BinCode, plate: PlateNo | None, goods: tuple[Goods, ...]
) -> tuple[tuple[ReservationCut, ...], str]:
    """What becomes of reservations when goods are taken away: the latest are let go, and whose they were."""
    cuts: dict[str, ReservationCut] = {}
    told: list[str] = []
    for each in goods:
        there = sum(
            x.goods.quantity
            for x in state.lines(each.item)
            if x.bin == code and x.plate == plate and x.goods.alike(each)
        )
        line = Lying(code, plate, each)
        short = state.reserved(line) - (there - each.quantity)
        for number, quantity in state.reservations_of(line):
            if short <= 0:
                break
            cut = min(short, quantity)
            short -= cut
            reservation = state.reservations[number]
            parts = cuts[number].parts if number in cuts else reservation.parts
            cuts[number] = ReservationCut(number, tuple(_cut(parts, line, cut)))
            item = state.ground.items[each.item]
            told.append(f"{item.told(cut)} reserved for {reservation.holder} are let go (`{number}`)")
    return tuple(cuts.values()), "".join(f" {t}." for t in told)


def _cut(parts: tuple[Reserved, ...], line: Lying, count: int) -> Iterator[Reserved]:
    for part in parts:
        same = (part.plate or part.bin, part.goods.item) == (line.plate or line.bin, line.goods.item)
        if not (same and part.goods.alike(line.goods)) or not count:
            yield part
            continue
        left = part.goods.quantity - min(count, part.goods.quantity)
        count -= min(count, part.goods.quantity)
        if left:
            g = part.goods
            yield Reserved(part.bin, Goods(g.item, left, g.lot, g.expiry, g.status, g.arrived), part.plate)


def carried_goods(state: State, person: PersonId) -> Task | None:
    """The loose goods a person carries, the lowest task first."""
    return next((t for t in state.carried(person, Need.MOVE) if t.plate is None), None)


def carried_plates(state: State, person: PersonId) -> tuple[TaskNo, ...]:
    """The plates a person carries to move them, by their tasks."""
    return tuple(t.number for t in state.carried(person, Need.MOVE) if t.plate)
