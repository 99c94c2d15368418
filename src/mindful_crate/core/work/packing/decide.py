"""How packing is decided."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from mindful_crate.core.catalog.amounts import Goods, portion
from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import BinCode, CartonKindCode, OrderNo, PlateKindCode, PlateNo, ShipmentNo
from mindful_crate.core.catalog.places import ZonePurpose
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.cartons import Carton, Weighed
from mindful_crate.core.floor.plates import Spot, in_bin, on_plate
from mindful_crate.core.floor.serials import Serials
from mindful_crate.core.floor.standing import purpose_of
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, Move, Serves
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve
from mindful_crate.core.releasing.onward import Kept, Stop, kept_for, pack_rule, shipment_to_send, top_of
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.packing import PackRule, Proof, Short, Weigh
from mindful_crate.core.rulebook.words.parts import counted, thousandths
from mindful_crate.core.scanning.reading import is_plate_label
from mindful_crate.core.work import numbered
from mindful_crate.core.work.covering.decide import promise_anew
from mindful_crate.core.work.host.decide import sscc
from mindful_crate.core.work.making import Making, said
from mindful_crate.core.work.packing import looking
from mindful_crate.core.work.packing.acts import (
    BeginCarton,
    CloseCarton,
    PackAsIs,
    PackInto,
    PackRest,
    PackShort,
    ReopenCarton,
    SetScale,
    TakeOut,
)
from mindful_crate.core.work.packing.events import (
    CartonBegun,
    CartonClosed,
    CartonDropped,
    CartonReopened,
    GoodsPacked,
    PlateConfirmed,
    ScaleSet,
)
from mindful_crate.core.work.packing.looking import HEAVIEST_MG, kilos
from mindful_crate.core.work.packing.scales import reads
from mindful_crate.core.work.picking.doing import check_need, tote_kind
from mindful_crate.core.work.picking.keeping import keep_where
from mindful_crate.core.work.picking.looking import check_pieces
from mindful_crate.core.work.putting import doing
from mindful_crate.core.work.releasing.events import ReleaseUndone
from mindful_crate.core.work.releasing.trimming import put_back_pieces
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.stock.events import ReservationCut
from mindful_crate.core.work.tasks.decide import reason


def rule_of(state: State, rulebook: Rulebook, shipment: ShipmentNo, order: OrderNo | None = None) -> PackRule:
    """The rule by which a shipment is packed: that of an order of it, or of its first."""
    found = state.order(order or state.shipments[shipment].orders[0])
    assert found is not None
    return pack_rule(state, rulebook, found)


def check_station(state: State, at: BinCode) -> None:
    """Refuse a place where nothing is packed."""
    if at not in state.ground.bins or state.ground.site_of(at) != state.settings.site:
        raise Refusal("unknown_bin", f"There is no bin `{at}` at this site.", "at")
    if (why := state.blocked(at)) is not None:
        raise Refusal("bin_blocked", f"Bin `{at}` is blocked: {why}.", "at")


def check_new(state: State, number: PlateNo) -> None:
    """Refuse what is no label of a new carton."""
    if number in state.cartons:
        carton = state.cartons[number]
        says = f"`{number}` is a carton of `{carton.shipment}` already."
        raise Refusal("carton_used", says, "carton")
    if state.has_plate(number) or state.plates.spot(number) is not None:
        raise Refusal("carton_used", f"`{number}` is a plate already. Take a label that nothing bears.", "carton")
    if not is_plate_label(number, state.ground):
        raise Refusal(
            "no_label", f"`{number}` is no label for a carton. Scan a new label, or let a number be made.", "carton"
        )


def check_kind(state: State, rule: PackRule, kind: CartonKindCode) -> None:
    """Refuse a carton that the rule does not let be used."""
    if kind not in state.ground.carton_kinds:
        raise Refusal("no_carton_kind", f"There is no kind of carton `{kind}`.", "carton_kind")
    if rule.kinds and kind not in rule.kinds:
        names = ", ".join(state.ground.carton_kinds[k].name for k in rule.kinds if k in state.ground.carton_kinds)
        raise Refusal(
            "other_carton",
            f"{state.ground.carton_kinds[kind].name} is not used for this order: {names}.",
            "carton_kind",
        )


def _plate_kind(state: State, kind: CartonKindCode | None) -> PlateKindCode:
    if kind is not None:
        return PlateKindCode(kind)
    first = next((PlateKindCode(k.code) for k in state.ground.opening.carton_kinds), None) or tote_kind(state)
    if first is None:
        raise Refusal("no_carton_kind", "There is no kind of carton: make one in the catalogue.", "carton_kind")
    return first


def _begin(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: BeginCarton) -> str:
    shipment_to_send(state, act.shipment)
    check_station(state, act.at)
    number = begun(state, making, rulebook, stamp, act.shipment, act.at, act.number, act.carton_kind)
    return f"Carton `{number}` is begun, for `{act.shipment}`."


def begun(
    state: State, making: Making, rulebook: Rulebook, stamp: Stamp, shipment: ShipmentNo, at: BinCode,
    number: PlateNo | None = None, kind: CartonKindCode | None = None, order: OrderNo | None = None,
) -> PlateNo:  # fmt: skip
    """A new carton at a station: its number."""
    rule = rule_of(state, rulebook, shipment, order)
    if number is not None:
        check_new(state, number)
    if kind is not None:
        check_kind(state, rule, kind)
    empty = [c for c in state.cartons.open_of(shipment, at) if not state.all_goods(c.number)]
    if empty and number is None:
        raise Refusal("empty_carton", f"Carton `{empty[0].number}` is open and empty: fill that one.", "carton")
    for each in empty:
        making.event(CartonDropped(each.number))
    kind = kind or looking.proposed(state, rulebook, shipment, rule)
    if number is None:
        number = sscc(making.draw("sscc")) if "sscc" in state.ground.series else PlateNo(making.draw("plate"))
    check_need(state, at, number)
    making.event(CartonBegun(stamp.who, number, shipment, at, _plate_kind(state, kind), kind))
    return number


def open_carton(state: State, shipment: ShipmentNo, number: PlateNo) -> Carton:
    """A carton of a shipment that is open; refused otherwise, with what it is."""
    carton = state.cartons.get(number)
    if carton is None:
        raise Refusal("no_carton", f"`{number}` is no carton.", "carton")
    if carton.shipment != shipment:
        orders = ", ".join(f"`{o}`" for o in state.shipments[carton.shipment].orders)
        raise Refusal(
            "other_shipment",
            f"Carton `{number}` is for `{carton.shipment}` ({orders}), not for `{shipment}`.",
            "carton",
        )
    if carton.closed:
        raise Refusal("carton_closed", f"Carton `{number}` is closed. Open it again first, or take another.", "carton")
    return carton


def _into(
    state: State, making: Making, rulebook: Rulebook, stamp: Stamp, shipment: ShipmentNo, at: BinCode,
    carton: PlateNo | None, order: OrderNo | None,
) -> Carton:  # fmt: skip
    """The carton that is meant, that is open, or a new one."""
    if carton is not None:
        return open_carton(state, shipment, carton)
    opened = state.cartons.open_of(shipment, at)
    if opened:
        return opened[-1]
    return state.cartons[begun(state, making, rulebook, stamp, shipment, at, order=order)]


def _pack(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: PackInto) -> str:
    shipment = looking.shipment_of(state, act.order)
    shipment_to_send(state, shipment)
    check_station(state, act.at)
    order = state.order(act.order)
    line = state.ordered.line(order, act.line) if order else None
    if order is None or line is None:
        raise Refusal("no_such_line", f"`{act.order}` has no line {act.line}.", "line")
    key, item = LineKey(act.order, act.line), state.ground.items[line.item]
    mine = looking.left_of_line(state, rulebook, key)
    much = sum(k.part.goods.quantity for k in mine)
    if not much:
        raise Refusal("nothing_to_pack", f"Nothing of {item.name} for `{act.order}` is left to pack.", "line")
    if not 0 < act.quantity <= much:
        says = f"{item.told(much)} of {item.name} are left to pack for `{act.order}`, no more."
        raise Refusal("more_than_wanted", says, "quantity")
    carton = _into(state, making, rulebook, stamp, shipment, act.at, act.carton, act.order)
    put_in(state, making, stamp, carton, mine, act.quantity, act.serials)
    left = much - act.quantity
    more = f" {item.told(left)} left." if left else ""
    return f"{item.told(act.quantity)} of {item.name} into `{carton.number}`.{more}"


def put_in(
    state: State, making: Making, stamp: Stamp, carton: Carton, kept: Sequence[Kept], quantity: int, serials: Sequence[str] = ()
) -> None:  # fmt: skip
    """So much of what is kept for one line goes into a carton, from wherever it stands; those pieces, if they are named."""
    left = quantity
    for each in kept:
        source = looking.source_of(each.part)
        named = tuple(n for n in serials if n in state.serials.at(source, each.part.goods)) if serials else ()
        take = min(left, each.part.goods.quantity, len(named) if serials else left)
        if take:
            goods = (evolve(each.part.goods, quantity=take),)
            shift(state, making, stamp, each.line, each.part.bin, each.part.plate, carton, goods, named[:take])
            left -= take
    if left:
        raise _not_picked(state, kept, serials)


def _not_picked(state: State, kept: Sequence[Kept], serials: Sequence[str]) -> Refusal:
    there = [n for k in kept for n in state.serials.at(looking.source_of(k.part), k.part.goods)]
    odd = next((n for n in serials if n not in there), "")
    says = f"`{odd}` is not the piece that was picked: that is {numbered.numbers_told(there)}."
    return Refusal("other_piece", says, "serials")


def shift(
    state: State, making: Making, stamp: Stamp, line: LineKey, code: BinCode, plate: PlateNo | None, carton: Carton | None,
    goods: tuple[Goods, ...], serials: Sequence[str] = (), to: BinCode | None = None,
) -> None:  # fmt: skip
    """Goods that are kept for an order line go from where they lie into a carton, or, without one, loose into a bin."""
    source = on_plate(plate) if plate else in_bin(code)
    serves = (Serves(line, sum(g.quantity for g in goods)),)
    named = _named(state, source, goods, serves, serials)
    at = carton.at if carton else to or code
    number = carton.number if carton else None
    emptied = plate is not None and state.plates.made_here(plate) and _all_of(state, plate, goods)
    making.event(GoodsPacked(stamp.who, line.order, code, plate, at, number, goods, named, emptied))
    move = Move(1, Do.TAKE, code, goods, serves=serves)
    keep_where(state, making, move, goods, (code, plate, None), (at, number, None))


def _named(
    state: State, source: Spot, goods: tuple[Goods, ...], serves: tuple[Serves, ...], serials: Sequence[str]
) -> tuple[Serials, ...]:
    item = goods[0].item
    if item not in state.serials.kept:
        return ()
    fixed = check_pieces(state, item, serves, serials)
    there = [n for g in goods for n in state.serials.at(source, g)]
    mine = serials or [n for n in fixed if n in there] or there
    mine = mine[: sum(g.quantity for g in goods)]
    numbered.named(state, source, goods, mine)  # refused where they are not so many of these goods
    return (Serials(item, tuple(mine)),)  # always said: of a carton one asks later which pieces it was


def _all_of(state: State, plate: PlateNo, goods: tuple[Goods, ...]) -> bool:
    if plate in state.cartons or state.plates_on(plate):
        return False
    return sum(g.quantity for g in state.plates.goods_on(plate)) == sum(g.quantity for g in goods)


def _pack_rest(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: PackRest) -> str:
    shipment_to_send(state, act.shipment)
    check_station(state, act.at)
    mine = [k for k in looking.left(state, rulebook, act.shipment) if act.order in (None, k.line.order)]
    if not mine:
        raise Refusal("nothing_to_pack", f"Nothing of `{act.order or act.shipment}` is left to pack.")
    for order in dict.fromkeys(k.line.order for k in mine):
        if rule_of(state, rulebook, act.shipment, order).proof not in (Proof.REST, Proof.TOTE):
            raise Refusal(
                "must_scan",
                f"What is packed for `{order}` is scanned: its rule lets nobody put in the rest after a look.",
            )
    carton = _into(state, making, rulebook, stamp, act.shipment, act.at, act.carton, act.order)
    for each in mine:
        put_in(state, making, stamp, carton, [each], each.part.goods.quantity)
    lines = len({k.line for k in mine})
    return f"{counted(lines, 'line')}, all that was left, into `{carton.number}`."


def _as_is(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: PackAsIs) -> str:
    if not state.has_plate(act.plate) or not state.all_goods(act.plate):
        raise Refusal("no_plate", f"`{act.plate}` is no tote or plate with goods.", "plate")
    if act.plate in state.cartons:
        says = "leaves as it is already" if state.cartons[act.plate].as_is else "is a carton: close it"
        raise Refusal("carton_used", f"`{act.plate}` {says}.", "plate")
    at = state.bin_of(act.plate)
    if at is None or top_of(state, act.plate) != act.plate:
        raise Refusal("not_here", f"`{act.plate}` does not stand by itself: set it down first.", "plate")
    shipment = looking.whole_plate(state, act.plate)
    shipment_to_send(state, shipment)
    pallet = not state.plates.made_here(act.plate)
    if not pallet:
        for each in looking.by_plate(state, shipment).get(act.plate, ()):
            if rule_of(state, rulebook, shipment, each.line.order).proof is not Proof.TOTE:
                raise Refusal(
                    "must_scan",
                    f"What is packed for `{each.line.order}` is scanned: its rule lets no tote leave as it is.",
                )
    kind = state.ground.plate_kinds[state.plates.kind_of(act.plate)]
    weight = kind.weight_mg + sum(state.ground.items[g.item].bulk(g.quantity)[1] for g in state.all_goods(act.plate))
    making.event(PlateConfirmed(stamp.who, act.plate, shipment, at, weight))
    return f"`{act.plate}` leaves as it is, for `{shipment}`."


def _take_out(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: TakeOut) -> str:
    shipment = looking.shipment_of(state, act.order)
    carton = _opened(state, shipment, act.carton)
    mine = [i for i in looking.inside(state, carton) if i.line == LineKey(act.order, act.line)]
    much = sum(i.quantity for i in mine)
    if not much:
        raise Refusal("not_inside", f"Nothing of line {act.line} of `{act.order}` is in `{carton.number}`.", "line")
    item = state.ground.items[mine[0].item]
    if not 0 < act.quantity <= much:
        raise Refusal(
            "more_than_there", f"{item.told(much)} of {item.name} are in `{carton.number}`, no more.", "quantity"
        )
    target = _opened(state, shipment, act.into) if act.into is not None else None
    if target is not None and target.number == carton.number:
        raise Refusal("same_carton", f"They are in `{carton.number}` already.", "into")
    code, other = state.bin_of(carton.number), state.bin_of(target.number) if target else None
    if target is not None and code != other:
        raise Refusal(
            "not_here",
            f"`{target.number}` stands in `{other}`, `{carton.number}` in `{code}`: bring them together first.",
            "into",
        )
    assert code is not None
    all_of_it = tuple(g for i in mine for g in i.goods)
    goods = portion(all_of_it, act.quantity)
    if act.serials:
        goods = numbered.of_pieces(state, on_plate(carton.number), all_of_it, act.serials)
        numbered.check_numbers(item, act.quantity, act.serials)
    for each in goods:
        mine_named = tuple(n for n in act.serials if n in state.serials.at(on_plate(carton.number), each))
        shift(
            state,
            making,
            stamp,
            LineKey(act.order, act.line),
            code,
            carton.number,
            target and evolve(target, at=code),
            (each,),
            mine_named,
            code,
        )
    where = f"into `{target.number}`" if target else f"back in `{code}`"
    says = f"{item.told(act.quantity)} of {item.name} out of `{carton.number}`, {where}."
    if carton.as_is and not state.all_goods(carton.number):
        making.event(CartonReopened(stamp.who, carton.number))
        return said(says, f"`{carton.number}` is empty, and leaves no more.")
    return says


def _opened(state: State, shipment: ShipmentNo, number: PlateNo) -> Carton:
    """A carton whose content may change: one that is open, or a plate that leaves as it is and is on no truck."""
    carton = state.cartons.get(number)
    if carton is not None and carton.as_is and carton.shipment == shipment:
        if number in state.loaded:
            raise Refusal("loaded", f"`{number}` is loaded already.", "carton")
        return carton
    return open_carton(state, shipment, number)


def _close(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: CloseCarton) -> str:
    carton = state.cartons.get(act.carton)
    if carton is None:
        raise Refusal("no_carton", f"`{act.carton}` is no carton.", "carton")
    carton = open_carton(state, carton.shipment, act.carton)
    goods = state.all_goods(carton.number)
    if not goods:
        raise Refusal("empty_carton", f"Nothing is in `{carton.number}`: fill it, or leave it.", "carton")
    order = next((i.line.order for i in looking.inside(state, carton)), None)
    rule = rule_of(state, rulebook, carton.shipment, order)
    kind = act.carton_kind or carton.kind
    if kind is None and state.ground.carton_kinds:
        raise Refusal(
            "which_carton",
            f"Say which carton `{carton.number}` is: its size is asked before it is closed.",
            "carton_kind",
        )
    if kind is not None:
        check_kind(state, rule, kind)
        _check_fits(state, kind, goods)
    should = looking.weighs(state, goods, kind)
    weight, how = _weight(state, rule, carton, act, should)
    if how is not Weighed.COMPUTED and not act.recounted:
        _check_weight(state, rule, carton, goods, weight, should)
    making.event(CartonClosed(stamp.who, carton.number, kind, _plate_kind(state, kind), weight, how, should))
    name = state.ground.carton_kinds[kind].name.lower() if kind else "carton"
    return f"Carton `{carton.number}` is closed: {name}, {kilos(weight)}."


def _check_fits(state: State, kind: CartonKindCode, goods: Sequence[Goods]) -> None:
    """Refuse a carton that is too small or too weak for what is in it, whatever way it is turned."""
    box = state.ground.carton_kinds[kind]
    volume = weight = 0
    for each in goods:
        more, heavier = state.ground.items[each.item].bulk(each.quantity)
        volume, weight = volume + more, weight + heavier
    inner = box.length_mm * box.width_mm * box.height_mm
    if volume > inner:
        says = f"{box.name} holds {thousandths(inner // 1000)} l, and what is in it takes {thousandths(volume // 1000)} l. Say what it really is."
        raise Refusal("does_not_fit", says, "carton_kind")
    if box.max_weight_mg is not None and weight + box.weight_mg > box.max_weight_mg:
        says = f"{box.name} bears {kilos(box.max_weight_mg)}, and it weighs {kilos(weight + box.weight_mg)}. Take some out, or take another."
        raise Refusal("too_heavy", says, "carton_kind")


def _weight(state: State, rule: PackRule, carton: Carton, act: CloseCarton, should: int) -> tuple[int, Weighed]:
    if not 0 <= act.weight_mg <= HEAVIEST_MG:
        raise Refusal(
            "no_weight", "A carton weighs more than nothing and less than two tonnes: weigh it again.", "weight_mg"
        )
    if act.weight_mg:
        return act.weight_mg, Weighed.HAND
    if rule.weigh is Weigh.NO:
        return should, Weighed.COMPUTED
    if rule.weigh is Weigh.SCALE:
        return reads(state, carton, should), Weighed.SCALE
    raise Refusal("no_weight", f"Weigh `{carton.number}`, and say what it weighs.", "weight_mg")


def _check_weight(
    state: State, rule: PackRule, carton: Carton, goods: Sequence[Goods], weight: int, should: int
) -> None:
    differs = looking.weight_differs(state, rule, goods, weight, should)
    if differs:
        raise Refusal("weight_differs", f"`{carton.number}`: {differs}", "weight_mg")


def _reopen(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: ReopenCarton) -> str:
    carton = state.cartons.get(act.carton)
    if carton is None or not carton.closed:
        raise Refusal("not_closed", f"`{act.carton}` is no closed carton.", "carton")
    if any(p in state.loaded for p in (carton.number, top_of(state, carton.number))):
        raise Refusal("loaded", f"`{carton.number}` is loaded already.", "carton")
    at = state.bin_of(carton.number)
    if at is not None and purpose_of(state, at) in (ZonePurpose.STAGING, ZonePurpose.DOOR) and at != carton.at:
        raise Refusal(
            "staged", f"`{carton.number}` is staged in `{at}` already: bring it back to a bench first.", "carton"
        )
    making.event(CartonReopened(stamp.who, carton.number))
    return f"`{carton.number}` is packed again." if carton.as_is else f"Carton `{carton.number}` is open again."


def _short(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: PackShort) -> str:
    why = reason(act.why)
    order = state.order(act.order)
    if order is None:
        raise Refusal("unknown_order", f"There is no order `{act.order}`.", "order")
    shipment = looking.shipment_of(state, order.number)
    shipment_to_send(state, shipment)
    mine = [
        k for k in kept_for(state, rulebook, order) if k.next is Stop.PACK and k.part.plate not in state.cartons
    ]  # fmt: skip
    if not mine:
        raise Refusal("nothing_to_pack", f"Nothing of `{order.number}` is left to pack.", "order")
    told = _told(state, mine)
    if rule_of(state, rulebook, shipment, order.number).short is Short.STAY:
        return f"{told} of `{order.number}` are not packed now: {why}. They stay at the station, kept for it."
    back = let_go(state, making, rulebook, stamp, order, mine)
    return said(f"{told} of `{order.number}` are not packed: {why}. They stay open on the order.", back)


def _told(state: State, kept: Iterable[Kept]) -> str:
    much: dict[str, int] = {}
    for each in kept:
        much[each.part.goods.item] = much.get(each.part.goods.item, 0) + each.part.goods.quantity
    items = state.ground.items
    return ", ".join(f"{items[code].told(n)} of {items[code].name}" for code, n in much.items())  # type: ignore[index]


def let_go(
    state: State, making: Making, rulebook: Rulebook, stamp: Stamp, order: Order, kept: Sequence[Kept]
) -> str:  # fmt: skip
    """What stands at a station is kept for its order no more and is put back; what is said of it."""
    gone: dict[object, list[Kept]] = {}
    for each in kept:
        gone.setdefault(each.reservation, []).append(each)
    for number, some in gone.items():
        parts = list(state.reservations[number].parts)  # type: ignore[index]
        for each in some:
            parts.remove(each.part)
        making.event(ReservationCut(number, tuple(parts)))  # type: ignore[arg-type]
    for item in dict.fromkeys(k.part.goods.item for k in kept):
        lines = [k.line for k in kept if k.part.goods.item == item]
        promise_anew(state, making, item, lines, stamp.today)
    tasks = [state.tasks[n] for w in state.waves.of_order(order.number) for n in w.tasks]
    pieces = [
        p
        for n, k in enumerate(kept)
        for p in put_back_pieces(state, order.number, k.part, f"{order.number} left {n}", tasks)
    ]
    return doing.make_tasks(state, making, rulebook, stamp, pieces) if pieces else ""


def _set_scale(state: State, making: Making, _: Rulebook, __: Stamp, act: SetScale) -> str:
    station = next((p for p in state.ground.opening.pack_stations if p.code == act.station), None)
    if station is None or not station.scale:
        raise Refusal("no_scale", f"There is no pack station `{act.station}` with a scale.", "station")
    if abs(act.scale.drift_mg) > HEAVIEST_MG or abs(act.scale.typed_mg or 0) > 5 * HEAVIEST_MG:
        raise Refusal("no_weight", "That is heavier than a lorry.", "scale")
    making.event(ScaleSet(act.station, act.scale))
    return f"The scale of {station.name} {'is down' if act.scale.down else 'is up'}."


def after(state: State, making: Making, _: Rulebook, __: Stamp) -> str:
    """A shipment that is none any more, since the release of its last order was taken back, has no carton: one that was begun for it is empty."""
    if any(isinstance(e, ReleaseUndone) for e in making.events):
        for carton in [c for c in state.cartons.values() if c.shipment not in state.shipments]:
            making.event(CartonDropped(carton.number))
    return ""


DECIDES = (
    deciding(SetScale, _set_scale),
    deciding(BeginCarton, _begin),
    deciding(PackInto, _pack),
    deciding(PackRest, _pack_rest),
    deciding(PackAsIs, _as_is),
    deciding(TakeOut, _take_out),
    deciding(CloseCarton, _close),
    deciding(ReopenCarton, _reopen),
    deciding(PackShort, _short),
)
"""How its acts are decided."""
