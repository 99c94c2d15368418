"""What is at each station of the map now, on a floor."""

from __future__ import annotations

from collections.abc import Iterable

from mindful_crate.core.catalog.ids import BinCode, ZoneCode
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import TaskState
from mindful_crate.core.rulebook.chapter import Graph, Node
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.rulebook.words.parts import counted
from mindful_crate.core.rulebook.words.stations import DOOR, INSPECT, PICK, PUT_AWAY, UNLOAD
from mindful_crate.core.work.unloading.standing import loads_there


def at_stations(state: State, graph: Graph) -> dict[str, str]:
    """In a few words by the id of the station; nothing of those where nothing is."""
    told = {node.id: _at(state, node) for node in graph.nodes}
    return {id_: says for id_, says in told.items() if says}


def _at(state: State, node: Node) -> str:
    if node.id == DOOR:
        coming = sum(not state.has_plate(p.number) for number in state.notices for p in state.notices[number].plates)
        return f"{counted(coming, 'plate')} announced" if coming else ""
    if node.id in (PUT_AWAY, PICK):
        need = Need.PUT_AWAY if node.id == PUT_AWAY else Need.PICK
        tasks = [t for t in state.tasks.values() if t.need is need]
        taken = sum(t.state is TaskState.TAKEN for t in tasks)
        waits = len(state.rests.of_need(need))
        said = [counted(len(tasks), "task")] if tasks else []
        said += [f"{taken} taken"] if taken else []
        said += [f"{waits} without a task"] if waits else []
        orders = sum(r.waits for r in state.releases.values()) if need is Need.PICK else 0
        said += [f"{counted(orders, 'order')} waiting for a wave"] if orders else []
        return ", ".join(said)
    code, ground = BinCode(node.code), state.ground
    codes = [code] if code in ground.bins else []
    codes = codes or ([b.code for b in ground.bins_by_zone.get(ZoneCode(node.zone), ())] if node.zone else [])
    found = _in(state, codes)
    if node.id.startswith(UNLOAD):
        loads = sum(loads_there(state, u) for u in state.unloadings.values() if not codes or u.at in codes)
        return ", ".join(x for x in (f"{loads} unloaded" if loads else "", found) if x)
    if node.id.startswith(INSPECT):
        tasks = [t for t in state.tasks.values() if t.need is Need.INSPECT]
        mine = sum((t.to_bin or t.placed_in or t.from_bin) in codes for t in tasks) if codes else len(tasks)
        return ", ".join(x for x in (f"{mine} to inspect" if mine else "", found) if x)
    return found


def _in(state: State, codes: Iterable[BinCode]) -> str:
    """Plates that stand in bins, and how many kinds of goods lie there loose."""
    plates = building = kinds = 0
    for code in codes:
        for plate in state.standing(code):
            building += plate.building
            plates += not plate.building
        kinds += len(state.loose(code))
    said = [counted(plates, "plate")] if plates else []
    said += [f"{building} being built"] if building else []
    said += [f"{counted(kinds, 'kind')} loose"] if kinds else []
    return ", ".join(said)
