"""The bench of packing: an order as it would be packed by the rules of a draft: cartons with what lies where, fill, weight, and what carriers take."""

from __future__ import annotations

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import CartonKind, Order
from mindful_crate.core.catalog.ids import PackRuleId, PlateNo
from mindful_crate.core.floor.state import State
from mindful_crate.core.packing.suggesting import suggest
from mindful_crate.core.packing.things import Packed, Thing
from mindful_crate.core.record import record
from mindful_crate.core.releasing.freight import FreightOffer, Piece, offers
from mindful_crate.core.releasing.onward import Way, pack_rule, way_of
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.shipping import Station
from mindful_crate.core.work.packing.looking import MOST_THINGS, kinds_for, things_of


@record
class LiesAt:
    """A thing in a carton: which item, its nearest corner, and how it is turned, in mm."""

    item: str
    name: str
    x: int
    y: int
    z: int
    length: int
    width: int
    height: int


@record
class CartonMade:
    """A carton as it would be packed: what lies where, how full it is in per cent, what it weighs with that, in grams."""

    kind: str
    name: str
    length: int
    width: int
    height: int
    things: tuple[LiesAt, ...]
    full: int
    weight_g: int
    bears: int | None


@record
class PackedOrder:
    """An order as it would be packed. ``rule``: the number of the rule that is for it, 0: none is; ``says``: why nothing is packed. ``homeless``: what fits
    into no carton of the rule."""

    order: str
    partner: str
    rule: PackRuleId
    number: int
    passed: tuple[str, ...]
    """What each rule above lacks for this order."""
    says: str
    cartons: tuple[CartonMade, ...]
    proved: bool
    fewest: bool
    homeless: tuple[str, ...]
    town: str
    offers: tuple[FreightOffer, ...]


def packed_order(state: State, rulebook: Rulebook, order: Order) -> PackedOrder:
    """How an order would be packed, all of it together."""
    way, rules = way_of(state, rulebook, order), rulebook.packs_at(state.settings.site)
    rule = pack_rule(state, rulebook, order)
    ids = [r.id for r in rules]
    number = ids.index(rule.id) + 1 if rule.id in ids else 0
    passed = tuple(f"Rule {n} is for other orders." for n in range(1, number or len(rules) + 1))
    partner = state.ground.partners.get(order.partner)
    address = order.ship_to or (partner.address if partner else ())
    town = address[-1] if address else ""
    head = (order.number, partner.name if partner else order.partner, rule.id, number, passed)
    kinds = kinds_for(state, rule)
    why = _why_not(way, kinds)
    goods = tuple(Goods(x.item, left) for x in order.lines if (left := state.ordered.left_to_ship(order.number, x)) > 0)
    things = things_of(state, goods, kinds)
    if not why and len(things) > MOST_THINGS:
        why = f"It has {len(things):,} pieces or cases; cartons are proposed for {MOST_THINGS} at most."
    if not why and not things:
        why = "All of it has left."
    if why:
        return PackedOrder(*head, why, (), False, False, (), town, ())
    found = suggest(things, kinds)
    by_code = {k.code: k for k in kinds}
    cartons = tuple(_made(state, c, by_code[c.kind], things) for c in found.cartons)
    lost = tuple(dict.fromkeys(state.ground.items[things[n].code].name for n in found.homeless))  # type: ignore[index]
    pieces = [
        Piece(PlateNo(f"carton {n}"), c.weight_mg, _outside(by_code[c.kind])) for n, c in enumerate(found.cartons, start=1)
    ]  # fmt: skip
    prices = tuple(offers(state.ground.opening.carriers, state.ground.opening.rates, pieces, town)) if pieces else ()
    return PackedOrder(*head, "", cartons, found.proved, bool(cartons), lost, town, prices)


def _why_not(way: Way, kinds: list[CartonKind]) -> str:
    if way.plan is None:
        return "No shipment plan is for it, so nobody packs it."
    if not way.plan.step(Station.PACK).on:
        return f"By {way.plan.name} nothing is packed."
    if not way.rule.packs:
        return "By its rule it is not packed: it goes on as it was picked."
    return "" if kinds else "There is no kind of carton: make one in the catalogue."


def _outside(kind: CartonKind) -> int:
    return kind.length_mm * kind.width_mm * kind.height_mm


def _made(state: State, carton: Packed, kind: CartonKind, things: list[Thing]) -> CartonMade:
    lies = tuple(
        LiesAt(things[p.thing].code, state.ground.items[things[p.thing].code].name, p.x_mm, p.y_mm, p.z_mm, *p.size)  # type: ignore[index]
        for p in carton.things
    )
    volume = sum(a.length * a.width * a.height for a in lies)
    bears = carton.weight_mg * 100 // kind.max_weight_mg if kind.max_weight_mg else None
    return CartonMade(
        kind.code, kind.name, kind.length_mm, kind.width_mm, kind.height_mm, lies, volume * 100 // _outside(kind), carton.weight_mg // 1000, bears
    )  # fmt: skip
