"""What was unloaded and still stands at the door; what receiving and unloading both ask."""

from __future__ import annotations

from mindful_crate.core.catalog.ids import OrderNo, PlateNo
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.unloadings import Unloading


def still_stands(state: State, unloading: Unloading) -> bool:
    """Is something of it still to be received? Of what was only counted: as long as anything of its order is open."""
    if unloading.undone or unloading.ended:
        return False
    if unloading.count:
        order = state.order(unloading.order)
        return order is not None and not state.is_cancelled(order.number) and bool(state.lines_open(order))
    return bool(not_received(state, unloading))


def not_received(state: State, unloading: Unloading) -> list[PlateNo]:
    """The announced plates of it that are not stock yet: one that is being built is gone on with."""
    plates = state.plates
    return [p for p in unloading.plates if not state.has_plate(p) or ((card := plates.card(p)) and card.building)]


def loads_there(state: State, unloading: Unloading) -> int:
    """How many plates, pallets and packages of it still stand at the door, as far as one knows."""
    return len(not_received(state, unloading)) + unloading.count if still_stands(state, unloading) else 0


def standing(state: State, order: OrderNo) -> list[Unloading]:
    """The unloadings of an order of which something still stands at the door, the first first."""
    return [u for u in state.unloadings.of_order(order) if still_stands(state, u)]


def counted(state: State, order: OrderNo) -> bool:
    """Does something of an order stand there that was counted, not scanned?"""
    return any(u.count for u in standing(state, order))


def off(state: State, plate: PlateNo) -> Unloading | None:
    """The unloading with which an announced plate came off, if it stands there."""
    found = state.unloadings.of_plate(plate)
    return found if found and still_stands(state, found) else None
