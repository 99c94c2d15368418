"""Goods that rest: they are to go on, and no task takes them yet."""

from __future__ import annotations

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.ids import BinCode, PlateNo, ReceiptNo, RecipeId
from mindful_crate.core.floor.keeper import Journal, Keeper
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.steps import Need


@record
class Rest:
    """A whole plate, or loose goods of receipts, that wait in a bin for a task to be made. ``key`` names it: the plate, or the
    receipt or task after which the goods lie there."""

    key: str
    need: Need
    bin: BinCode
    plate: PlateNo | None = None
    goods: tuple[Goods, ...] = ()
    receipts: tuple[ReceiptNo, ...] = ()
    recipe: RecipeId | None = None
    """The recipe that brought them there; None: it is still to be found."""
    leg: int = 0
    """Which part of their way comes next, by that recipe."""
    why: str = ""
    """Why no task was made, when one was to be."""
    seq: int = 0
    """Since which entry."""


class Rests(Keeper[str, Rest]):
    """All that rests, by its key."""

    def __init__(self, journal: Journal) -> None:
        super().__init__(journal)
        self._of_receipt: dict[ReceiptNo, int] = {}

    def changed(self, key: str, before: Rest | None, after: Rest | None) -> None:
        """How much rests of each receipt."""
        for rest, sign in ((before, -1), (after, 1)):
            for receipt in rest.receipts if rest else ():
                left = self._of_receipt.get(receipt, 0) + sign
                if left:
                    self._of_receipt[receipt] = left
                else:
                    self._of_receipt.pop(receipt, None)

    def of_need(self, need: Need) -> list[Rest]:
        """What rests for a need, by key."""
        return [rest for rest in self.values() if rest.need is need]

    def has_receipt(self, receipt: ReceiptNo, plate: PlateNo) -> bool:
        """Does something of a receipt rest, or its plate?"""
        return receipt in self._of_receipt or plate in self

    def of_receipt(self, receipt: ReceiptNo, plate: PlateNo) -> list[Rest]:
        """What rests of a receipt, or its plate, by key."""
        if not self.has_receipt(receipt, plate):
            return []
        return [rest for rest in self.values() if rest.plate == plate or receipt in rest.receipts]
