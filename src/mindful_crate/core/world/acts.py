"""Commands: what somebody asks of a world. An act says what; its stamp says who, where and when."""

from __future__ import annotations

from mindful_crate.core.record import record
from mindful_crate.core.work.clock import Wait
from mindful_crate.core.work.counting.acts import (
    AdjustStock,
    ChangeStatus,
    CountAgain,
    CountAsLabelled,
    CountGoods,
    CountingAct,
    CountingInOffice,
    CountNothing,
    CountPlateHere,
    CountsDue,
    DropCount,
    EnterCounts,
    EnteredLine,
    MakeCounts,
    PostCount,
    RunCountPlan,
    ShiftStock,
)
from mindful_crate.core.work.covering.acts import CoverAct, ShiftCover
from mindful_crate.core.work.crossing.acts import CrossingAct, TieThrough
from mindful_crate.core.work.handset.acts import Answer, HandsetAct, LeaveFlow, OpenFlow, Press, StepBack, SyncHandset
from mindful_crate.core.work.host.acts import (
    AnnounceOrder,
    BookReceipt,
    CancelOrder,
    CloseOrder,
    CloseOutput,
    ConfirmOrder,
    DeclareOutput,
    HostAct,
    HostAnnounces,
    HostAnswers,
    HostSideAct,
    HostTells,
    OpenOrder,
    PassOn,
    RepeatMessage,
    SetHost,
    ShipTransfer,
    TryOrder,
    WriteOrder,
)
from mindful_crate.core.work.inspecting.acts import (
    Inspect,
    InspectingAct,
    InspectInOffice,
    PlaceToInspect,
    TakeToInspect,
    Verdict,
)
from mindful_crate.core.work.leaving.acts import (
    BookCarriage,
    CarrierAct,
    CarrierAnswers,
    CarrierIs,
    DropCarriage,
    LeavingAct,
    LoadGoods,
    ReversalAgreed,
    ReverseShipment,
    SetCarrier,
    ShipShipment,
    StackPlates,
    StageGoods,
    TakeOffTruck,
)
from mindful_crate.core.work.moving.acts import MovingAct, PlaceGoods, PlacePlates, TakeGoods, TakePlate
from mindful_crate.core.work.packing.acts import (
    BeginCarton,
    CloseCarton,
    PackAsIs,
    PackingAct,
    PackInto,
    PackRest,
    PackShort,
    ReopenCarton,
    SetScale,
    TakeOut,
)
from mindful_crate.core.work.picking.acts import (
    LeavePicking,
    PickBegin,
    PickElsewhere,
    PickingAct,
    PickInOffice,
    PickPlace,
    PickShort,
    PickTake,
    SetTote,
    TakeTote,
    ToteMissing,
)
from mindful_crate.core.work.printing.acts import (
    ChoosePrinter,
    DropPrint,
    PrintAgain,
    PrintingAct,
    PrintingInOffice,
    PrintLabel,
    PrintNumbers,
    SetPrinter,
)
from mindful_crate.core.work.putting.acts import (
    DropRest,
    MakeTasks,
    Place,
    PlacePart,
    PutAwayInOffice,
    PuttingAct,
    Take,
    TakeReceived,
)
from mindful_crate.core.work.receiving.acts import (
    ChangeLine,
    CloseRest,
    FinishPlate,
    NoteLine,
    OfficeLine,
    ReceiveAnnounced,
    ReceiveInOffice,
    ReceivingAct,
    ReopenRest,
    SendSurplusBack,
    TakeSurplus,
)
from mindful_crate.core.work.refilling.acts import (
    FillShelves,
    RefillBegin,
    RefillDue,
    RefillingAct,
    RefillLeave,
    RefillShort,
    RefillTake,
    Shelf,
)
from mindful_crate.core.work.releasing.acts import (
    ChangeGate,
    PassGate,
    ReleaseDue,
    ReleaseLines,
    ReleaseOrders,
    ReleasingAct,
    SayToOrder,
    UndoRelease,
)
from mindful_crate.core.work.returning.acts import DropReturnLine, FinishReturn, NoteReturn, ReturningAct
from mindful_crate.core.work.rules import TakeRules
from mindful_crate.core.work.sorting.acts import SortingAct, SortInto, SortShort
from mindful_crate.core.work.stamp import At, Stamp
from mindful_crate.core.work.stock.acts import BlockBin, LetGo, ReserveStock, StockAct
from mindful_crate.core.work.tasks.acts import (
    CancelTask,
    HoldTask,
    LetTaskGo,
    RaiseTask,
    ReassignTask,
    SetDown,
    TaskAct,
    TaskDue,
)
from mindful_crate.core.work.tilling.acts import SetTill, TillAct, TillDue
from mindful_crate.core.work.undoing.acts import UndoAgreed, UndoingAct, UndoReceipt, UndoTask, UndoUnloading
from mindful_crate.core.work.unloading.acts import EndUnloading, Unload, UnloadingAct, UnloadInOffice
from mindful_crate.core.work.waving.acts import (
    AddToWave,
    CancelWave,
    HoldWave,
    LetWaveGo,
    MakeWave,
    TakeOutOfWave,
    WaveDue,
    WavingAct,
)

OfficeAct = (
    ConfirmOrder
    | HostAct
    | UnloadInOffice
    | EndUnloading
    | FinishPlate
    | ReceiveInOffice
    | CloseRest
    | ReopenRest
    | TakeSurplus
    | SendSurplusBack
    | InspectInOffice
    | PutAwayInOffice
    | MakeTasks
    | DropRest
    | BookReceipt
    | StockAct
    | TillAct
    | CoverAct
    | CrossingAct
    | ReleasingAct
    | WavingAct
    | PackingAct
    | LeavingAct
    | CountingInOffice
    | PickInOffice
    | FillShelves
    | TaskAct
    | UndoReceipt
    | UndoTask
    | UndoUnloading
    | PrintingInOffice
    | Wait
)
"""What somebody does in the office."""
Act = (
    OfficeAct
    | HandsetAct
    | HostSideAct
    | UnloadingAct
    | ReceivingAct
    | InspectingAct
    | PuttingAct
    | PickingAct
    | RefillingAct
    | SortingAct
    | CountingAct
    | ReturningAct
    | MovingAct
    | UndoingAct
    | PrintingAct
    | ReversalAgreed
    | CarrierAct
    | TakeRules
    | SyncHandset
    | TaskDue
    | WaveDue
    | ReleaseDue
    | RefillDue
    | CountsDue
    | TillDue
)
"""All that may be asked: by hand, by the host, by who puts rules in force, or as a part of another act."""


@record
class Command:
    """An act with its stamp."""

    stamp: Stamp
    act: Act


__all__ = [
    "Act",
    "AddToWave",
    "AdjustStock",
    "AnnounceOrder",
    "Answer",
    "At",
    "BeginCarton",
    "BlockBin",
    "BookCarriage",
    "BookReceipt",
    "CancelOrder",
    "CancelTask",
    "CancelWave",
    "CarrierAct",
    "CarrierAnswers",
    "CarrierIs",
    "ChangeGate",
    "ChangeLine",
    "ChangeStatus",
    "ChoosePrinter",
    "CloseCarton",
    "CloseOrder",
    "CloseOutput",
    "CloseRest",
    "Command",
    "ConfirmOrder",
    "CountAgain",
    "CountAsLabelled",
    "CountGoods",
    "CountNothing",
    "CountPlateHere",
    "CountsDue",
    "DeclareOutput",
    "DropCarriage",
    "DropCount",
    "DropPrint",
    "DropRest",
    "DropReturnLine",
    "EndUnloading",
    "EnterCounts",
    "EnteredLine",
    "FillShelves",
    "FinishPlate",
    "FinishReturn",
    "HandsetAct",
    "HoldTask",
    "HoldWave",
    "HostAct",
    "HostAnnounces",
    "HostAnswers",
    "HostTells",
    "Inspect",
    "InspectInOffice",
    "LeaveFlow",
    "LeavePicking",
    "LetGo",
    "LetTaskGo",
    "LetWaveGo",
    "LoadGoods",
    "MakeCounts",
    "MakeTasks",
    "MakeWave",
    "NoteLine",
    "NoteReturn",
    "OfficeAct",
    "OfficeLine",
    "OpenFlow",
    "OpenOrder",
    "PackAsIs",
    "PackInto",
    "PackRest",
    "PackShort",
    "PassGate",
    "PassOn",
    "PickBegin",
    "PickElsewhere",
    "PickInOffice",
    "PickPlace",
    "PickShort",
    "PickTake",
    "Place",
    "PlaceGoods",
    "PlacePart",
    "PlacePlates",
    "PlaceToInspect",
    "PostCount",
    "Press",
    "PrintAgain",
    "PrintLabel",
    "PrintNumbers",
    "PutAwayInOffice",
    "RaiseTask",
    "ReassignTask",
    "ReceiveAnnounced",
    "ReceiveInOffice",
    "RefillBegin",
    "RefillDue",
    "RefillLeave",
    "RefillShort",
    "RefillTake",
    "ReleaseDue",
    "ReleaseLines",
    "ReleaseOrders",
    "ReopenCarton",
    "ReopenRest",
    "RepeatMessage",
    "ReserveStock",
    "ReversalAgreed",
    "ReverseShipment",
    "RunCountPlan",
    "SayToOrder",
    "SendSurplusBack",
    "SetCarrier",
    "SetDown",
    "SetHost",
    "SetPrinter",
    "SetScale",
    "SetTill",
    "SetTote",
    "Shelf",
    "ShiftCover",
    "ShiftStock",
    "ShipShipment",
    "ShipTransfer",
    "SortInto",
    "SortShort",
    "StackPlates",
    "StageGoods",
    "Stamp",
    "StepBack",
    "SyncHandset",
    "Take",
    "TakeGoods",
    "TakeOffTruck",
    "TakeOut",
    "TakeOutOfWave",
    "TakePlate",
    "TakeReceived",
    "TakeRules",
    "TakeSurplus",
    "TakeToInspect",
    "TakeTote",
    "TaskAct",
    "TaskDue",
    "TieThrough",
    "TillDue",
    "ToteMissing",
    "TryOrder",
    "UndoAgreed",
    "UndoReceipt",
    "UndoRelease",
    "UndoTask",
    "UndoUnloading",
    "Unload",
    "UnloadInOffice",
    "Verdict",
    "Wait",
    "WaveDue",
    "WriteOrder",
]
