"""Events: what has happened. They alone change a state, and they say all that folding needs."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.floor.reservations import Reserved
from mindful_crate.core.floor.topics import OrderTopic, Topic
from mindful_crate.core.problem import Problem
from mindful_crate.core.record import record
from mindful_crate.core.trail import Trail
from mindful_crate.core.work.clock import TimePassed
from mindful_crate.core.work.counting.events import CountingEvent
from mindful_crate.core.work.covering.events import CoverEvent
from mindful_crate.core.work.crossing.events import CrossingEvent
from mindful_crate.core.work.handset.events import DialogueLeft, DialogueMoved, DialogueOpened, HandsetEvent, Scanned
from mindful_crate.core.work.host.events import (
    HostEvent,
    HostOrderCancelled,
    HostOrderClosed,
    HostOrderConfirmed,
    HostOrderOpened,
    HostOrderWritten,
    HostSet,
    MessageAnswered,
    MessageFailed,
    MessageHeardAgain,
    MessageRefused,
    MessageRepeated,
    MessageSent,
    NoticeTold,
    OrderConfirmed,
    OrderDropped,
    OrderTold,
    ReceiptBooked,
)
from mindful_crate.core.work.inspecting.events import GoodsInspected, InspectingEvent
from mindful_crate.core.work.leaving.events import LeavingEvent
from mindful_crate.core.work.making import NumberDrawn
from mindful_crate.core.work.packing.events import PackingEvent
from mindful_crate.core.work.picking.events import PickingEvent
from mindful_crate.core.work.printing.events import PrintingEvent
from mindful_crate.core.work.receiving.events import (
    LineChanged,
    LineNoted,
    LoadStarted,
    PlateFinished,
    PlateStarted,
    ReceivingEvent,
)
from mindful_crate.core.work.refilling.events import RefillingEvent
from mindful_crate.core.work.releasing.events import ReleasingEvent
from mindful_crate.core.work.returning.events import ReturningEvent
from mindful_crate.core.work.rules import RulesTaken
from mindful_crate.core.work.sorting.events import SortingEvent
from mindful_crate.core.work.stock.events import BinBlocked, ReservationCut, StockEvent, StockReserved
from mindful_crate.core.work.tasks.before import (
    GoodsPlaced,
    PlatePlaced,
    TaskEventBefore,
    TaskMade,
    TaskRetargeted,
    TaskTaken,
)
from mindful_crate.core.work.tasks.events import (
    GoodsRest,
    MoveDone,
    MoveTurned,
    RestEnded,
    TaskCancelled,
    TaskEvent,
    TaskHeld,
    TaskRaised,
    TaskReassigned,
    TaskSetDown,
    WorkMade,
)
from mindful_crate.core.work.tilling.events import TillEvent
from mindful_crate.core.work.undoing.events import (
    UndoingEvent,
)
from mindful_crate.core.work.unloading.events import GoodsUnloaded, UnloadingEvent
from mindful_crate.core.work.waving.events import WavingEvent
from mindful_crate.core.world.acts import Command

Event = (
    NumberDrawn
    | HostEvent
    | HandsetEvent
    | UnloadingEvent
    | ReceivingEvent
    | InspectingEvent
    | TaskEvent
    | TaskEventBefore
    | UndoingEvent
    | PrintingEvent
    | StockEvent
    | TillEvent
    | CoverEvent
    | CrossingEvent
    | ReleasingEvent
    | RefillingEvent
    | WavingEvent
    | PickingEvent
    | SortingEvent
    | PackingEvent
    | LeavingEvent
    | CountingEvent
    | ReturningEvent
    | TimePassed
    | RulesTaken
)


@record
class Done:
    """A command that was carried out: its events, the trails that caused them, and what the person reads."""

    events: tuple[Event, ...]
    says: str
    trails: tuple[Trail, ...] = ()
    kind: Literal["done"] = "done"


@record
class Refused:
    """A command that was refused. It has its place in the log and changes nothing else."""

    problem: Problem
    kind: Literal["refused"] = "refused"


@record
class Entry:
    """One command and its one outcome, at its place in the log."""

    seq: int
    command: Command
    outcome: Done | Refused

    @property
    def says(self) -> str:
        """What the person who asked reads."""
        return self.outcome.says if isinstance(self.outcome, Done) else self.outcome.problem.says


__all__ = [
    "BinBlocked",
    "DialogueLeft",
    "DialogueMoved",
    "DialogueOpened",
    "Done",
    "Entry",
    "Event",
    "GoodsInspected",
    "GoodsPlaced",
    "GoodsRest",
    "GoodsUnloaded",
    "HostOrderCancelled",
    "HostOrderClosed",
    "HostOrderConfirmed",
    "HostOrderOpened",
    "HostOrderWritten",
    "HostSet",
    "LineChanged",
    "LineNoted",
    "LoadStarted",
    "MessageAnswered",
    "MessageFailed",
    "MessageHeardAgain",
    "MessageRefused",
    "MessageRepeated",
    "MessageSent",
    "MoveDone",
    "MoveTurned",
    "NoticeTold",
    "NumberDrawn",
    "OrderConfirmed",
    "OrderDropped",
    "OrderTold",
    "OrderTopic",
    "PlateFinished",
    "PlatePlaced",
    "PlateStarted",
    "ReceiptBooked",
    "Refused",
    "ReservationCut",
    "Reserved",
    "RestEnded",
    "Scanned",
    "StockReserved",
    "TaskCancelled",
    "TaskHeld",
    "TaskMade",
    "TaskRaised",
    "TaskReassigned",
    "TaskRetargeted",
    "TaskSetDown",
    "TaskTaken",
    "TimePassed",
    "Topic",
    "WorkMade",
]
