"""A pack station as its screen shows it: what waits, the open carton, what is left beneath it, what is packed."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from itertools import islice

from mindful_crate.core.catalog.ids import BinCode, CartonKindCode, OrderNo, PackStationCode, PlateNo, ShipmentNo
from mindful_crate.core.floor.cartons import Carton
from mindful_crate.core.floor.devices import Scale
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.floor.standing import stands_in
from mindful_crate.core.floor.state import State
from mindful_crate.core.record import evolve, record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.words.packing import PROOF
from mindful_crate.core.work.packing import looking
from mindful_crate.core.work.packing.decide import rule_of
from mindful_crate.core.work.packing.looking import kilos
from mindful_crate.core.work.packing.prompts import CARTON, CLOSING, FIRST, WORK

MOST = 60
"""So many lines, cartons or shipments are shown."""


@record
class BenchStation:
    """A pack station: its bin, its scale and how that is, the printer beside it."""

    code: PackStationCode
    name: str
    bin: BinCode
    scale: str
    printer: str


@record
class WaitsAtBench:
    """A shipment that waits to be packed: where it stands and how much of it is left."""

    shipment: ShipmentNo
    orders: tuple[OrderNo, ...]
    partner: str
    stands: tuple[BinCode, ...]
    lines: int
    begun: bool


@record
class LeftToPack:
    """What is still to go in: from where, how much."""

    order: OrderNo
    line: int
    item: str
    name: str
    picture: str
    lot: str
    much: str
    at: str


@record
class InCarton:
    """What is in the open carton."""

    order: OrderNo
    line: int
    item: str
    name: str
    lot: str
    much: str
    quantity: int


@record
class OpenCarton:
    """The carton that is filled: as which kind it was begun, how full and heavy it is by the catalogue, in per cent of what it holds and bears."""

    number: PlateNo
    kind: CartonKindCode | None
    name: str
    size: str
    full: int | None
    weight: str
    bears: int | None
    lines: tuple[InCarton, ...]


@record
class OnStrip:
    """A carton that is begun or packed."""

    number: PlateNo
    name: str
    stands: str
    weight: str
    pieces: str


@record
class PackView:
    """All a pack station shows of a shipment."""

    shipment: ShipmentNo
    orders: tuple[OrderNo, ...]
    partner: str
    address: tuple[str, ...]
    carrier: str
    proof: str
    proposed: str
    carton: OpenCarton | None
    left: tuple[LeftToPack, ...]
    more: int
    """So many lines are left and not shown."""
    strip: tuple[OnStrip, ...]


def stations(state: State) -> tuple[BenchStation, ...]:
    """The pack stations of the site."""
    site = state.settings.site
    mine = (p for p in state.ground.opening.pack_stations if p.site == site)
    return tuple(
        BenchStation(p.code, p.name, p.bin, scale_told(state, p.code) if p.scale else "", p.printer) for p in mine
    )


def scale_told(state: State, code: PackStationCode) -> str:
    """How a scale is, in words."""
    scale = state.scales.get(code) or Scale()
    if scale.down:
        return "does not answer"
    told = f"reads {_signed(scale.typed_mg)}" if scale.typed_mg is not None else "reads what lies on it"
    return told + (f", {_signed(scale.drift_mg)} off" if scale.drift_mg else "")


def _signed(mg: int) -> str:
    return f"{'-' if mg < 0 else ''}{kilos(abs(mg))}"


def waits(state: State, rulebook: Rulebook) -> tuple[WaitsAtBench, ...]:
    """Shipments that wait to be packed, or are being packed."""
    found = []
    for number in islice(looking.waiting(state, rulebook), MOST):
        shipment = state.shipments[number]
        kept = list(islice(looking.left(state, rulebook, number), 200))
        partner = state.ground.partners.get(shipment.leaves.partner)
        stands = tuple(sorted({stands_in(state, k.part) for k in kept}))
        found.append(
            WaitsAtBench(
                number, shipment.orders, partner.name if partner else shipment.leaves.partner, stands, len({k.line for k in kept}),
                bool(state.cartons.of(number)),
            )
        )  # fmt: skip
    return tuple(found)


def pack_view(
    state: State, rulebook: Rulebook, shipment: ShipmentNo, carton: PlateNo | None, order: OrderNo | None
) -> PackView:
    """What a station shows of a shipment that is packed there; ``carton``: the one that is filled."""
    found = state.shipments[shipment]
    partner = state.ground.partners.get(found.leaves.partner)
    rule = rule_of(state, rulebook, shipment, order)
    kept = list(islice(looking.left(state, rulebook, shipment, first=order), MOST))
    mine = state.cartons.get(carton) if carton else None
    proposed = None if mine else looking.proposed(state, rulebook, shipment, rule)
    carriers = state.ground.carriers
    return PackView(
        shipment, found.orders, partner.name if partner else found.leaves.partner, found.leaves.address,
        carriers[found.leaves.carrier].name if found.leaves.carrier in carriers else "", PROOF[rule.proof],
        state.ground.carton_kinds[proposed].name if proposed else "", _open(state, mine) if mine else None,
        tuple(_left(state, k) for k in _together(kept)), _more(state, rulebook, shipment, kept),
        tuple(_strip(state, c) for c in state.cartons.of(shipment)[-MOST:]),
    )  # fmt: skip


def _more(state: State, rulebook: Rulebook, shipment: ShipmentNo, shown: Sequence[looking.Kept]) -> int:
    """How many lines are left besides those shown."""
    if len(shown) < MOST:
        return 0
    return sum(1 for _ in looking.lines_left(state, rulebook, shipment)) - len({k.line for k in shown})


def _together(kept: Iterable[looking.Kept]) -> Iterator[looking.Kept]:
    """What lies in one place for an order line is one thing to a packer, whenever it came."""
    found: dict[tuple[object, ...], looking.Kept] = {}
    for each in kept:
        part = each.part
        key = (each.line, part.goods.lot, part.bin, part.plate)
        known = found.get(key)
        quantity = part.goods.quantity + (known.part.goods.quantity if known else 0)
        found[key] = evolve(each, part=evolve(part, goods=evolve(part.goods, quantity=quantity)))
    yield from found.values()


def _left(state: State, kept: looking.Kept) -> LeftToPack:
    item = state.ground.items[kept.part.goods.item]
    at = f"{kept.part.plate} in {stands_in(state, kept.part)}" if kept.part.plate else str(kept.part.bin)
    return LeftToPack(
        kept.line.order, kept.line.line, item.code, item.name, item.picture, kept.part.goods.lot, item.told(kept.part.goods.quantity), at
    )  # fmt: skip


def _open(state: State, carton: Carton) -> OpenCarton:
    lines = []
    for each in looking.inside(state, carton):
        item = state.ground.items[each.item]
        lines.append(
            InCarton(
                each.line.order, each.line.line, item.code, item.name, each.lot, item.told(each.quantity), each.quantity
            )
        )
    goods = state.all_goods(carton.number)
    box = state.ground.carton_kinds.get(carton.kind) if carton.kind else None
    weight, volume = (
        looking.weighs(state, goods, carton.kind),
        sum(state.ground.items[g.item].bulk(g.quantity)[0] for g in goods),
    )
    size = f"{box.length_mm // 10} x {box.width_mm // 10} x {box.height_mm // 10} cm" if box else ""
    full = volume * 100 // (box.length_mm * box.width_mm * box.height_mm) if box else None
    bears = weight * 100 // box.max_weight_mg if box and box.max_weight_mg else None
    return OpenCarton(
        carton.number, carton.kind, box.name if box else "Carton", size, full, kilos(weight), bears, tuple(lines)
    )


def _strip(state: State, carton: Carton) -> OnStrip:
    kind = state.ground.plate_kinds.get(state.plates.kind_of(carton.number))
    stands = "leaves as it is" if carton.as_is else "closed" if carton.closed else "open"
    items = {g.item for g in state.all_goods(carton.number)}
    names = ", ".join(state.ground.items[i].name for i in sorted(items)[:2]) + (
        f" and {len(items) - 2} more" if len(items) > 2 else ""
    )
    name = kind.name if kind and (carton.closed or carton.kind) else "Carton"
    return OnStrip(carton.number, name, stands, kilos(carton.weight_mg) if carton.weight_mg else "", names)


def begun_on(
    state: State, rulebook: Rulebook, dialogue: Dialogue
) -> tuple[ShipmentNo, PlateNo | None, OrderNo | None] | None:
    """What is packed by a dialogue: the shipment, the carton that is filled, and the order it was begun with; None: nothing is yet."""
    answers = dialogue.answers
    number = answers[WORK]
    shipment = state.shipments.get(number) if number else None
    if shipment is None or shipment.left:
        return None
    opened = state.cartons.open_of(shipment.number)
    named = next((c for c in opened if c.number in (answers[CLOSING], answers[CARTON])), None)
    carton = named or (opened[-1] if opened else None)
    return shipment.number, carton.number if carton else None, answers[FIRST]
