"""Picking. Its row among the matters."""

from __future__ import annotations

from mindful_crate.core.floor.state import State
from mindful_crate.core.record import evolve
from mindful_crate.core.work.picking.acts import PickInOffice
from mindful_crate.core.work.picking.decide import DECIDES, after
from mindful_crate.core.work.picking.events import KeptMoved
from mindful_crate.core.work.rows import Matter, folding, silent, telling
from mindful_crate.core.work.stamp import At


def _kept_moved(state: State, e: KeptMoved, _: At) -> None:
    state.reservations.put(e.reservation, evolve(state.reservations[e.reservation], parts=e.parts))


def _asked(act: PickInOffice) -> str:
    return f"The office says that task `{act.task}` was {'begun' if act.begin else 'picked'}: {act.why}"


PICKING = Matter(
    "picking",
    DECIDES,
    (folding(KeptMoved, _kept_moved),),
    (silent(KeptMoved),),
    asked=(telling(PickInOffice, _asked),),
    after=after,
)
"""What it brings."""
