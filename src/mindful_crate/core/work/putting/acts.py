"""What may be asked: putting away."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.ids import BinCode, ItemCode, PlateNo, TaskNo
from mindful_crate.core.record import record


@record
class Take:
    """Takes up what a task is about; of several plates the one named, or the next."""

    task: TaskNo
    plate: PlateNo | None = None
    serials: tuple[str, ...] = ()
    """Which pieces, of loose goods that are kept by serial numbers, where it is not clear by itself."""
    kind: Literal["take"] = "take"


@record
class Place:
    """Places the plate of a task into a bin; ``reason`` when it is another bin than the one shown."""

    task: TaskNo
    bin: BinCode
    reason: str = ""
    serials: tuple[str, ...] = ()
    """Which of the pieces in hands, where only some of them are placed there."""
    kind: Literal["place"] = "place"


@record
class PlacePart:
    """Places a part of what is carried into a bin, in base units: of loose goods, or off the plate; the rest stays in hands and goes
    where it was to go."""

    task: TaskNo
    bin: BinCode
    item: ItemCode
    quantity: int
    reason: str = ""
    serials: tuple[str, ...] = ()
    kind: Literal["place_part"] = "place_part"


@record
class TakeReceived:
    """Takes up what has just been received on a plate, or loose under a receipt, if it is to be put away and by whoever asks."""

    plate: PlateNo
    kind: Literal["take_received"] = "take_received"


@record
class MakeTasks:
    """Makes put-away tasks of what rests under these keys; ``together``: one of all that goes by one recipe. ``with_alike``: also of
    what rests elsewhere and becomes one task with it; ``take``: whoever asks takes the first up at once."""

    keys: tuple[str, ...]
    together: bool = False
    with_alike: bool = False
    take: bool = False
    kind: Literal["make_tasks"] = "make_tasks"


@record
class DropRest:
    """What rests stays where it is: no task is made of it."""

    key: str
    why: str
    kind: Literal["drop_rest"] = "drop_rest"


@record
class PutAwayInOffice:
    """The office says where all that is open of a task was put: into ``bin``, or where each was shown to go. A task that somebody
    has taken is theirs."""

    task: TaskNo
    bin: BinCode | None = None
    why: str = ""
    serials: tuple[str, ...] = ()
    """Which pieces, in the order of the places they go to, where it is not clear by itself."""
    kind: Literal["put_away_in_office"] = "put_away_in_office"


PuttingAct = Take | TakeReceived | Place | PlacePart | MakeTasks | DropRest | PutAwayInOffice
"""What may be asked."""
