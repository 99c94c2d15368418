"""How far a shipment is: what of it stands where, what is missing, whose goods are on a plate."""

from __future__ import annotations

from collections.abc import Iterable

from mindful_crate.core.catalog.ids import OrderNo, PlateNo, ShipmentNo, TaskNo
from mindful_crate.core.floor.reservations import Reserved
from mindful_crate.core.floor.shipments import Departure
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import record
from mindful_crate.core.releasing.onward import Kept, Stop, Way, kept_in, kept_on, next_stop, top_of, way_of
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.shipping import Station
from mindful_crate.core.rulebook.words.parts import counted

MOST_TOLD = 4
"""Of so many things each is told by itself."""
DONE = {Stop.PICK: "picked", Stop.SORT: "sorted", Stop.PACK: "packed", Stop.STAGE: "staged", Stop.LOAD: "loaded"}
"""What is said of goods that are past a station."""


def shipments_on(state: State, plate: PlateNo) -> dict[ShipmentNo | None, list[tuple[OrderNo, Reserved]]]:
    """The shipments of which goods are on a plate; None: of none."""
    found: dict[ShipmentNo | None, list[tuple[OrderNo, Reserved]]] = {}
    for order, _, part in kept_on(state, plate):
        release = state.releases.get(order) if order else None
        found.setdefault(release.shipment if release else None, []).append((order or OrderNo(""), part))
    return found


def open_tasks(state: State, shipment: ShipmentNo) -> list[TaskNo]:
    """Tasks that still fetch something for a shipment."""
    orders = state.shipments[shipment].orders
    found = [
        n for o in orders for w in state.waves.of_order(o) for n in w.tasks
        if not state.tasks[n].state.ended and o in state.tasks[n].plan.orders
    ]  # fmt: skip
    return list(dict.fromkeys(found))


def check_plate(state: State, rulebook: Rulebook, shipment: ShipmentNo, plate: PlateNo, station: Station) -> PlateNo:
    """Refuse a plate that is none, is another shipment's, or is not as far; what is carried with it, by its number."""
    if not state.has_plate(plate):
        raise Refusal("no_plate", f"`{plate}` is no carton and no plate.", "plate")
    if plate in state.loaded and station is Station.STAGE:
        raise Refusal("loaded", f"`{plate}` is loaded already.", "plate")
    top = top_of(state, plate)
    if state.bin_of(top) is None:
        raise Refusal("not_here", f"`{top}` stands nowhere here: somebody carries it, or it has left.", "plate")
    carton = state.cartons.get(plate)
    if carton is not None and not carton.closed:
        raise Refusal("carton_open", f"Carton `{plate}` is not closed yet.", "plate")
    whose = shipments_on(state, top)
    if not whose:
        raise Refusal("not_kept", f"Nothing on `{plate}` is kept for an order.", "plate")
    others = [s for s in whose if s != shipment]
    if others:
        other = others[0]
        orders = ", ".join(f"`{o}`" for o in dict.fromkeys(o for o, _ in whose[other] if o)) or "no order"
        of = f"shipment `{other}` ({orders})" if other else "no shipment"
        raise Refusal("other_shipment", f"`{plate}` is of {of}, not of `{shipment}`.", "plate")
    ways: dict[OrderNo, Way] = {}
    for number, part in whose[shipment]:
        order = state.order(number)
        assert order is not None
        way = ways.get(number)
        if way is None:
            way = ways[number] = way_of(state, rulebook, order)
        stop = next_stop(state, way, number, part)
        if stop in BEFORE[station]:
            raise Refusal("not_so_far", f"What is on `{plate}` for `{number}` is not {DONE[stop]} yet.", "plate")
    return top


BEFORE = {
    Station.STAGE: (Stop.PICK, Stop.SORT, Stop.PACK),
    Station.LOAD: (Stop.PICK, Stop.SORT, Stop.PACK, Stop.STAGE),
}
"""What must be done with goods before they come to a station."""


def loose_of(
    state: State, rulebook: Rulebook, shipment: ShipmentNo, stops: Iterable[Stop]
) -> dict[OrderNo, list[Kept]]:
    """Loose goods of a shipment that are to do this next, by order."""
    found: dict[OrderNo, list[Kept]] = {}
    wanted = set(stops)
    for each in kept_in(state, rulebook, shipment):
        if each.part.plate is None and each.part.task is None and each.next in wanted:
            found.setdefault(each.line.order, []).append(each)
    return found


def plates_of(state: State, rulebook: Rulebook, shipment: ShipmentNo, stops: Iterable[Stop]) -> list[PlateNo]:
    """What is carried of a shipment that is to do this next, by number."""
    wanted = set(stops)
    plates = {
        top_of(state, k.part.plate)
        for k in kept_in(state, rulebook, shipment)
        if k.part.plate is not None and k.next in wanted
    }
    return sorted(plates)


@record
class ShipmentStep:
    """How far a shipment is with a step: so many of its pieces of work are past it, and what is missing by name."""

    stop: Stop
    done: int
    of: int
    missing: tuple[str, ...] = ()

    @property
    def whole(self) -> bool:
        """Is all of it done?"""
        return self.done == self.of


@record
class Standing:
    """How far a shipment is: each step it takes, and what nobody fetches yet."""

    shipment: ShipmentNo
    steps: tuple[ShipmentStep, ...]
    tasks: tuple[TaskNo, ...]
    ready: int
    """So many parts of what is kept for it may leave now."""
    parts: int

    @property
    def may_go(self) -> bool:
        """Is all of it ready?"""
        return self.parts > 0 and self.ready == self.parts and not self.tasks


ORDER_OF_STOPS = (Stop.PICK, Stop.SORT, Stop.PACK, Stop.STAGE, Stop.LOAD, Stop.SHIP)


def standing(state: State, rulebook: Rulebook, shipment: ShipmentNo) -> Standing:
    """How far a shipment is, and what of it is missing at each step."""
    kept = list(kept_in(state, rulebook, shipment))
    orders = [o for n in state.shipments[shipment].orders if (o := state.order(n)) is not None]
    ways = [way_of(state, rulebook, o) for o in orders]
    takes = [Stop.PICK] if any(w.plan is None or w.plan.picks for w in ways) else []
    takes += [Stop(s.value) for s in Station if any(w.has(s) for w in ways)]
    steps = []
    tasks = open_tasks(state, shipment)
    fetched = {
        (s.line, m.plate or m.at) for t in tasks for m in state.tasks[t].going.remaining if m.do is Do.TAKE for s in m.serves
    }  # fmt: skip
    for stop in takes:
        at = ORDER_OF_STOPS.index(stop)
        late = [
            k for k in kept
            if ORDER_OF_STOPS.index(k.next) <= at or (stop is Stop.PICK and (k.line, k.part.plate or k.part.bin) in fetched)
        ]  # fmt: skip
        missing = tuple(dict.fromkeys(_called(state, k) for k in late))
        steps.append(ShipmentStep(stop, len(kept) - len(late), len(kept), missing))
    ready = sum(k.next is Stop.SHIP for k in kept)
    return Standing(shipment, tuple(steps), tuple(tasks), ready, len(kept))


def _called(state: State, kept: Kept) -> str:
    """What is missing: a carton or plate by its number, else goods of an order line."""
    part = kept.part
    if part.plate is not None and (part.plate in state.cartons or kept.next in (Stop.STAGE, Stop.LOAD)):
        return f"`{top_of(state, part.plate)}`"
    item = state.ground.items[part.goods.item]
    return f"{item.told(part.goods.quantity)} of {item.name} for `{kept.line.order}`"


def missing_told(found: Standing, upto: Stop = Stop.SHIP, most: int = MOST_TOLD) -> str:
    """What keeps a shipment from leaving, or from being past a step, in words; empty: nothing does."""
    told = []
    if found.tasks:
        tasks = [f"`{t}`" for t in found.tasks]
        told.append(f"{few(tasks, most)} {'is' if len(tasks) == 1 else 'are'} still to be picked")
    for step in found.steps:
        if ORDER_OF_STOPS.index(step.stop) > ORDER_OF_STOPS.index(upto):
            break
        if not step.whole and not (step.stop is Stop.PICK and found.tasks):
            told.append(f"not {DONE[step.stop]}: {few(step.missing, most)}")
            break
    return "; ".join(told)


def few(things: Iterable[str], most: int = MOST_TOLD) -> str:
    """The first of some things, and how many more."""
    all_ = list(things)
    told = ", ".join(all_[:most])
    return told if len(all_) <= most else f"{told} and {len(all_) - most} more"


def departure_told(departure: Departure) -> str:
    """What left, in a few words."""
    plates = len({b.number for b in departure.bearers})
    lines = len({(p.order, p.line) for p in departure.parcels})
    return f"{counted(lines, 'line')} of {counted(len(departure.orders), 'order')}" + (
        f" on {counted(plates, 'plate')}" if plates else ""
    )
