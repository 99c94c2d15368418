"""Stock read by the column: a batch of rows that are all good is taken as it is, in a few passes over whole columns; a
batch in which anything is wrong is looked at row by row, by whoever reads the other tables."""

from __future__ import annotations

from collections.abc import Mapping, Sequence, Set
from datetime import date

from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.stock import STATUSES, StockColumns
from mindful_crate.files.cells import LARGEST

NAMES = ("bin", "item", "quantity", "lot", "expiry", "status", "plate", "arrived")


class _Days(dict[str, int]):
    """Day numbers by the text of a date; no text is 0."""

    def __missing__(self, text: str) -> int:
        day = self[text] = date.fromisoformat(text).toordinal() if text else 0
        return day


class _Statuses(dict[str, int]):
    """Places of statuses by their text; no text is what goods are if nothing is said."""

    def __missing__(self, text: str) -> int:
        place = self[text] = STATUSES.index(Status(text) if text else Status.AVAILABLE)
        return place


class StockBatches:
    """Takes batches of rows under a heading into columns. ``stands`` says in which bin each plate stands."""

    def __init__(
        self, columns: StockColumns, heading: Sequence[str], bins: Set[str], items: Set[str],
        stands: Mapping[str, str],
    ) -> None:  # fmt: skip
        self.columns = columns
        self.heading = tuple(heading)
        self.bins, self.items, self.stands = bins, items, stands
        self.understood = set(heading) <= set(NAMES) and {"bin", "item", "quantity"} <= set(heading)
        self.days, self.statuses = _Days(), _Statuses()

    def take(self, lines: Sequence[int], rows: Sequence[Sequence[str]]) -> bool:
        """Take a batch; false, and nothing is taken, when anything in it is not as it should be."""
        width = len(self.heading)
        if not self.understood or set(map(len, rows)) != {width}:
            return False
        held = dict(zip(self.heading, ([*map(str.strip, column)] for column in zip(*rows, strict=True)), strict=True))
        none = [""] * len(rows)
        bins, items, lots, plates = (held.get(name, none) for name in ("bin", "item", "lot", "plate"))
        if not (self.bins >= set(bins) and self.items >= set(items) and self.stands.keys() >= set(plates) - {""}):
            return False
        if any(text[0] in "='" or "\0" in text for text in set(lots) if text):
            return False
        if [*map(self.stands.get, plates, bins)] != bins:  # where each plate stands; no plate stands where the row says
            return False
        try:
            quantities = [*map(int, held["quantity"])]
            expiries = [*map(self.days.__getitem__, held.get("expiry", none))]
            arrivals = [*map(self.days.__getitem__, held.get("arrived", none))]
            statuses = [*map(self.statuses.__getitem__, held.get("status", none))]
        except ValueError:
            return False
        if min(quantities) < 1 or max(quantities) > LARGEST:
            return False
        self.columns.extend(
            lines, bin=bins, item=items, lot=lots, plate=plates, quantity=quantities, expiry=expiries,
            arrived=arrivals, status=statuses,
        )  # fmt: skip
        return True
