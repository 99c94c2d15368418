"""What the log says of its events: tasks, whatever they are for."""

from __future__ import annotations

from mindful_crate.core.work.rows import Made, Row, Words, telling
from mindful_crate.core.work.tasks.acts import CancelTask, HoldTask, LetTaskGo, RaiseTask, ReassignTask, SetDown
from mindful_crate.core.work.tasks.events import (
    GoodsPlaced,
    PlatePlaced,
    TaskCancelled,
    TaskHeld,
    TaskMade,
    TaskRaised,
    TaskReassigned,
    TaskRetargeted,
    TaskSetDown,
    TaskTaken,
)


def _task_made(e: TaskMade) -> str:
    return f"task `{e.task}`" + (f": `{e.from_bin}` to `{e.to_bin}`" if e.to_bin else " without a bin")


def _task_retargeted(e: TaskRetargeted) -> str:
    return f"task `{e.task}` " + (f"goes to `{e.to_bin}` now" if e.to_bin else "has no bin now")


def _plate_placed(e: PlatePlaced) -> str:
    on = f"on `{e.on}` in" if e.on else "in"
    return f"plate `{e.plate}` placed {on} `{e.bin}`" + (f": {e.reason}" if e.reason else "")


def _goods_placed(e: GoodsPlaced) -> str:
    where = f"on `{e.plate}` in `{e.bin}`" if e.plate else f"in `{e.bin}`"
    placed = ", ".join(f"{g.quantity} of `{g.item}`" for g in e.goods)
    return f"{placed} placed {where}" + (f": {e.reason}" if e.reason else "")


WORDS: tuple[Row[Words[object]], ...] = (
    telling(TaskMade, _task_made),
    telling(TaskTaken, lambda e: f"@{e.person} took up task `{e.task}`"),
    telling(TaskRetargeted, _task_retargeted),
    telling(PlatePlaced, _plate_placed),
    telling(GoodsPlaced, _goods_placed),
    telling(TaskSetDown, lambda e: f"what task `{e.task}` is about is back where it was taken"),
    telling(TaskHeld, lambda e: f"task `{e.task}` " + (f"held: {e.why}" if e.why else "let go")),
    telling(TaskReassigned, lambda e: f"task `{e.task}` is for crew `{e.crew}` now"),
    telling(TaskRaised, lambda e: f"task `{e.task}` has priority {e.priority} now"),
    telling(TaskCancelled, lambda e: f"task `{e.task}` cancelled: {e.why}"),
)
"""What the log says of its events."""
ASKED: tuple[Row[Words[object]], ...] = (
    telling(SetDown, lambda a: f"What task `{a.task}` is about is put back"),
    telling(HoldTask, lambda a: f"Task `{a.task}` is held: {a.why}"),
    telling(LetTaskGo, lambda a: f"Task `{a.task}` is let go"),
    telling(ReassignTask, lambda a: f"Task `{a.task}` is given to crew `{a.crew}`"),
    telling(RaiseTask, lambda a: f"Task `{a.task}` gets priority {a.priority}"),
    telling(CancelTask, lambda a: f"Task `{a.task}` is cancelled: {a.why}"),
)
"""What the office asks, in words."""
MAKES: dict[Made, tuple[Row[Words[object]], ...]] = {
    "task": (telling(TaskMade, lambda e: e.task),),
    "bin": (telling(TaskMade, lambda e: e.to_bin or ""), telling(TaskRetargeted, lambda e: e.to_bin or "")),
}
"""What its events make or choose."""
