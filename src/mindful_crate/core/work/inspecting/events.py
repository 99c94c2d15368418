"""What happens: inspecting what has arrived."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import BinCode, ItemCode, PartnerCode, PersonId, PlateNo, TaskNo
from mindful_crate.core.record import record


@record
class ReceiptCounted:
    """A receipt of an item from a partner counts towards every how-manyeth is inspected."""

    item: ItemCode
    partner: PartnerCode
    kind: Literal["receipt_counted"] = "receipt_counted"


@record
class SampleFailed:
    """What was looked at of these goods is not as it should be: all of them are to be looked at."""

    task: TaskNo
    goods: Goods
    remark: str = ""
    photo: str = ""
    kind: Literal["sample_failed"] = "sample_failed"


@record
class GoodsInspected:
    """Goods that waited for it are available now, but for ``failed`` of them, which are ``fault`` instead. ``onto``: what fails
    stands on that plate, in the same bin; without it, it stays where it was."""

    task: TaskNo
    by: PersonId
    at: BinCode
    plate: PlateNo | None
    goods: Goods
    failed: int = 0
    fault: Status | None = None
    onto: PlateNo | None = None
    remark: str = ""
    failing: tuple[str, ...] = ()
    """The serial numbers of what fails, where the goods are kept by them and not all of them fail."""
    serials: tuple[str, ...] = ()
    """Those of all that was inspected, where more of its kind lies there."""
    photo: str = ""
    kind: Literal["goods_inspected"] = "goods_inspected"


InspectingEvent = ReceiptCounted | SampleFailed | GoodsInspected
"""What may happen."""
