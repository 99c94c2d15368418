"""Where goods lie now, what that place is for, and whether what is kept for an order was fetched from where it is stored."""

from __future__ import annotations

from mindful_crate.core.catalog.amounts import sort_key
from mindful_crate.core.catalog.ids import BinCode, PlateNo, WaveNo
from mindful_crate.core.catalog.places import PICKED_FROM, ZonePurpose
from mindful_crate.core.catalog.refs import DocKind
from mindful_crate.core.floor.reservations import Reserved
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Task
from mindful_crate.core.floor.waves import Wave
from mindful_crate.core.placing.fit import Lying
from mindful_crate.core.rulebook.waves import Method

AT_STATIONS = (ZonePurpose.SORT, ZonePurpose.PACKING, ZonePurpose.STAGING, ZonePurpose.DOOR)
"""Purposes of zones where goods stand once they were fetched."""


def purpose_of(state: State, code: BinCode) -> ZonePurpose:
    """What a bin is for, by its zone."""
    return state.ground.zones[state.ground.bins[code].zone].purpose


def bin_now(state: State, plate: PlateNo | None, otherwise: BinCode) -> BinCode:
    """The bin a plate stands in; of loose goods, and while the plate is carried, the other."""
    return (state.bin_of(plate) if plate else None) or otherwise


def stands_in(state: State, part: Reserved) -> BinCode:
    """The bin in which a part of what is kept lies now."""
    return bin_now(state, part.plate, part.bin)


def lying_on(state: State, plate: PlateNo) -> list[Lying]:
    """The goods on a plate and on those it bears, item by item; nothing while it is carried. It asks the plates, and not where else such items lie."""
    code = state.bin_of(plate)
    if code is None:
        return []
    found = [Lying(code, n, g) for n in state.plates.tower(plate) for g in state.plates.goods_on(n)]
    place = {item: k for k, item in enumerate(dict.fromkeys(x.goods.item for x in found))}
    return sorted(found, key=lambda x: (place[x.goods.item], x.plate or "", sort_key(x.goods)))


def zone_wave(state: State, task: Task) -> Wave | None:
    """The wave of a task, when it is picked from zone to zone."""
    number = next((WaveNo(r.number) for r in task.plan.about if r.kind is DocKind.WAVE), None)
    wave = state.waves.get(number) if number else None
    return wave if wave is not None and wave.method is Method.ZONES else None


def is_handed(state: State, plate: PlateNo) -> bool:
    """Is more of its order put into this tote in a zone it is handed on to, or in which it stands half picked?"""
    task = state.tasks.with_tote(plate)
    return task is not None and zone_wave(state, task) is not None


def is_stored(state: State, part: Reserved) -> bool:
    """Does it lie where it may be picked?"""
    return part.task is None and purpose_of(state, stands_in(state, part)) in PICKED_FROM


def at_station(state: State, part: Reserved) -> bool:
    """Does it stand at a station, fetched already?"""
    return part.task is None and purpose_of(state, stands_in(state, part)) in AT_STATIONS
