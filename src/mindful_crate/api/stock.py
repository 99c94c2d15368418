"""Stock of a world: as it is, and before and after some entries of its log."""

from __future__ import annotations

from datetime import date, datetime

from flask import current_app
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field

from mindful_crate.api.doors import needs
from mindful_crate.api.paging import PageQuery, page_of
from mindful_crate.api.rights import Right
from mindful_crate.api.shapes import PROBLEMS, ById
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, wired
from mindful_crate.api.worlds import world_row
from mindful_crate.core.catalog.goods import Item
from mindful_crate.core.catalog.ids import BinCode, ItemCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.plates import in_bin, on_plate
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.levels import levels_of
from mindful_crate.core.rulebook.counting import ReasonFor
from mindful_crate.core.world.between import StockBetween, mark, stock_since
from mindful_crate.core.world.fold import apply

api = APIBlueprint("stock", __name__, url_prefix="/api", abp_tags=[Tag(name="worlds")], doc_ui=WITH_DOCUMENT)

ROW = ("bin", "zone", "plate", "item", "name", "lot", "expiry", "status")
STOCK = (*ROW, "quantity", "serials")
"""The columns of the list of stock."""
BETWEEN = (*ROW, "before", "after", "change", "gone", "came")
"""The columns of stock before and after."""
FARTHEST = 5_000
"""Entries; stock is looked at before and after at most so many."""


class StockRow(Answer):
    """What makes a row of stock one: where it is, and what the goods are."""

    bin: str
    zone: str
    plate: str
    item: str
    name: str
    lot: str
    expiry: date | None
    status: str


class StockLine(StockRow):
    """A row of stock."""

    told: str
    quantity: int
    serials: list[str]
    """The numbers of the pieces, where the item is kept by them."""


class LevelsView(Answer):
    """How far the stock of an item is, in base units, each number told with its unit."""

    item: str
    name: str
    noted: str
    not_booked: str
    on_its_way: str
    free: str
    promised: str
    kept: str
    barred: str
    till: str
    """What the site's till says it has; empty: there is no till."""
    till_minutes: int
    """How old that is."""


class ReasonChoice(Answer):
    """A reason for which stock may be corrected: when a number is set, when a status is changed, or for either."""

    id: str
    name: str
    used: ReasonFor


class StockList(Answer):
    """Stock, and how many rows there are in all; of an item that is looked for by its code, how far its stock is; and the reasons that
    may be chosen when it is corrected."""

    rows: list[StockLine]
    total: int
    seq: int
    levels: LevelsView | None
    reasons: list[ReasonChoice]


class BetweenLine(StockRow):
    """A row of stock that is another after than before: how much there was, there is, and the difference, told with units; and
    the numbers of the pieces that left it and that came."""

    before: str
    after: str
    change: str
    more: int
    """The difference in base units; below 0 when it is less."""
    gone: list[str]
    came: list[str]


class BetweenList(Answer):
    """Stock before and after entries ``after`` + 1 to ``until`` of a log that is ``seq`` long: the rows that are others, and how
    many there are in all; of an item that is looked for by its code, how far its stock was and is."""

    rows: list[BetweenLine]
    total: int
    seq: int
    after: int
    until: int
    at_before: datetime
    at_after: datetime
    time_zone: str
    was: LevelsView | None
    levels: LevelsView | None


class BetweenQuery(PageQuery):
    """After which entry it is before, and until which it goes; without either, around the last one."""

    after: int | None = Field(default=None, ge=0, le=2**53)
    until: int | None = Field(default=None, ge=1, le=2**53)


@api.get("/worlds/<id>/stock", responses={200: StockList, **PROBLEMS})
@needs(Right.LOOK)
def stock(path: ById, query: PageQuery) -> StockList:
    """Stock by bin, plate, item, lot and status."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        world_row(conn, path.id)
        with parts.worlds.reading(conn, path.id) as w:
            found = []
            for code, plate, goods in w.state.stock():
                if code and w.ground.site_of(code) != w.settings.site:
                    continue
                spot = on_plate(plate.number) if plate else in_bin(code) if code else None
                numbered = spot is not None and goods.item in w.state.serials.kept
                serials = "\n".join(w.state.serials.at(spot, goods)) if spot and numbered else ""
                zone = _zone(w.ground, code, plate.carrier if plate else None)
                number, name = plate.number if plate else "", w.ground.items[goods.item].name
                found.append(
                    (code or "", zone, number, goods.item, name, goods.lot, goods.expiry, goods.status.value, goods.quantity, serials)
                )  # fmt: skip
            page, total = page_of(found, STOCK, lambda row: row, query)
            lines = [
                StockLine.model_validate(
                    {
                        **dict(zip(STOCK, r, strict=True)),
                        "told": w.ground.items[r[3]].told(r[8]),
                        "serials": r[9].splitlines(),
                    }
                )
                for r in page
            ]
            known = w.rulebook.reasons_at(w.settings.site)
            return StockList(
                rows=lines, total=total, seq=w.state.seq, levels=_levels(w.state, query.find),
                reasons=[ReasonChoice(id=r.id, name=r.name, used=r.used) for r in known],
            )  # fmt: skip


@api.get("/worlds/<id>/stock/between", responses={200: BetweenList, **PROBLEMS})
@needs(Right.LOOK)
def between(path: ById, query: BetweenQuery) -> BetweenList:
    """Stock before and after some entries, side by side: the rows that are others. The state of one entry is read and goes on
    to the other."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        row = world_row(conn, path.id)
        until = row.seq if query.until is None else query.until
        after = max(until - 1, 0) if query.after is None else query.after
        if until > row.seq:
            raise Refusal("no_such_entry", f"The log has entries up to {row.seq}; there is no {until} yet.")
        if after > until:
            raise Refusal("before_after", f"Entry {after} comes after entry {until}; name the earlier one first.")
        if until - after > FARTHEST:
            raise Refusal(
                "too_far", f"That are {until - after:,} entries; before and after at most {FARTHEST:,} can be told."
            )
        w = parts.worlds.state_at(conn, path.id, after)
        state, was = w.state, mark(w.state)
        at_before, levels_before = state.clock, _levels(state, query.find)
        for entry in parts.worlds.entries(conn, row, after, until):
            apply(state, entry)
        found = [_between(w.ground, each) for each in stock_since(state, was)]
        page, total = page_of(found, BETWEEN, lambda line: [_cell(line, name) for name in BETWEEN], query)
        return BetweenList(
            rows=page, total=total, seq=row.seq, after=after, until=until, at_before=at_before, at_after=state.clock,
            time_zone=w.ground.sites[w.settings.site].time_zone,
            was=levels_before, levels=_levels(state, query.find),
        )  # fmt: skip


def _between(ground: Ground, row: StockBetween) -> BetweenLine:
    item: Item = ground.items[row.item]
    more = row.after - row.before
    change = f"{'+' if more > 0 else '−'}{item.told(abs(more))}" if more else "other numbers"
    return BetweenLine(
        bin=row.bin, zone=_zone(ground, BinCode(row.bin) if row.bin else None, row.by), plate=row.plate, item=row.item,
        name=item.name, lot=row.lot, expiry=row.expiry, status=row.status.value, before=item.told(row.before) if row.before else "",
        after=item.told(row.after) if row.after else "", change=change, more=more, gone=list(row.gone), came=list(row.came),
    )  # fmt: skip


def _cell(line: BetweenLine, name: str) -> object:
    """What a column is found and sorted by: a difference by how much it is, numbers of pieces as words."""
    value = line.more if name == "change" else getattr(line, name)
    return "\n".join(value) if isinstance(value, list) else value


def _zone(ground: Ground, code: BinCode | None, carrier: str | None) -> str:
    """The name of a bin's zone; of what is carried, who carries it."""
    if code:
        return ground.zones[ground.bins[code].zone].name
    return f"@{carrier}" if carrier else ""


def _levels(state: State, find: str) -> LevelsView | None:
    item = state.ground.items.get(ItemCode(find.strip().upper()))
    if item is None:
        return None
    far = levels_of(state, item.code)
    numbers = ("noted", "not_booked", "on_its_way", "free", "promised", "kept", "barred")
    told = {name: item.told(getattr(far, name)) for name in numbers}
    till = state.till
    says = item.told(state.till_says.get(item.code) or 0) if till else ""
    old = till.minutes_old(state.clock) if till else 0
    return LevelsView.model_validate({"item": item.code, "name": item.name, **told, "till": says, "till_minutes": old})
