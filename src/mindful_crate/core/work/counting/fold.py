"""How its events change a state: counting, and correcting what the books say."""

from __future__ import annotations

from mindful_crate.core.catalog.ids import PlateNo
from mindful_crate.core.floor.counts import BinCounted, CountSheet
from mindful_crate.core.floor.plates import Holder, in_bin
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.waves import ByClock, awaiting
from mindful_crate.core.record import evolve
from mindful_crate.core.work.counting.events import (
    CountDropped,
    CountPosted,
    CountsAwaited,
    LineAgain,
    LineCounted,
    PlateFound,
    SheetMade,
    StatusChanged,
    StockCorrected,
)
from mindful_crate.core.work.packing.fold import plate_ends
from mindful_crate.core.work.rows import folding
from mindful_crate.core.work.stamp import At


def _sheet_made(state: State, e: SheetMade, at: At) -> None:
    made = CountSheet(
        e.count, e.plan, e.why, at.seq, at.stamp.at, e.lines, e.book_shown, e.closes, e.tolerance, e.own_posts
    )
    state.counts.put(e.count, made)


def _line_counted(state: State, e: LineCounted, _: At) -> None:
    sheet = state.counts[e.count]
    lines = (*sheet.lines[: e.line.no - 1], e.line, *sheet.lines[e.line.no :])
    state.counts.put(e.count, evolve(sheet, lines=lines))


def _line_again(state: State, e: LineAgain, _: At) -> None:
    sheet = state.counts[e.count]
    line = sheet.lines[e.no - 1]
    before = (*line.before, line.counted) if line.counted is not None else line.before
    not_by = tuple(dict.fromkeys((*line.not_by, *((line.by,) if line.by else ()))))
    again = evolve(line, counted=None, serials=(), by=None, at=None, before=before, not_by=not_by, again=e.why)
    state.counts.put(e.count, evolve(sheet, lines=(*sheet.lines[: e.no - 1], again, *sheet.lines[e.no :])))


def _posted(state: State, e: CountPosted, at: At) -> None:
    sheet, wanted = state.counts[e.count], set(e.lines)
    lines = tuple(evolve(x, posted=at.seq) if x.no in wanted else x for x in sheet.lines)
    state.counts.put(e.count, evolve(sheet, lines=lines))
    for code in e.bins:
        state.bins_counted.put(code, BinCounted(at.stamp.at, at.seq))
        state.ledger.movements.put(code, None)


def _dropped(state: State, e: CountDropped, _: At) -> None:
    state.counts.put(e.count, evolve(state.counts[e.count], dropped=e.why))


def _awaited(state: State, e: CountsAwaited, at: At) -> None:
    state.runs_awaited.put(ByClock.COUNTS, awaiting(at.stamp.at, e.minutes))


def _corrected(state: State, e: StockCorrected, at: At) -> None:
    if not e.lost:
        state.found_otherwise.put(e.bin, at.seq)
    if e.source is not None:
        state.ledger.move(e.goods, e.source, e.spot, e.serials)
    elif e.lost:
        state.ledger.leave(e.cause, e.spot, e.goods, e.serials)
        if e.spot.holder is Holder.PLATE:
            number = PlateNo(e.spot.code)
            if state.plates.made_here(number) and not state.all_goods(number) and not state.plates_on(number):
                plate_ends(state, number)
    else:
        state.ledger.enter(e.cause, e.spot, e.goods)


def _plate_found(state: State, e: PlateFound, at: At) -> None:
    state.found_otherwise.put(e.bin, at.seq)
    state.ledger.carry(e.plate, in_bin(e.bin))


def _status_changed(state: State, e: StatusChanged, at: At) -> None:
    state.found_otherwise.put(e.bin, at.seq)
    for goods in e.goods:
        state.ledger.turn(e.spot, goods, evolve(goods, status=e.status))


FOLDS = (
    folding(SheetMade, _sheet_made),
    folding(LineCounted, _line_counted),
    folding(LineAgain, _line_again),
    folding(CountPosted, _posted),
    folding(CountDropped, _dropped),
    folding(CountsAwaited, _awaited),
    folding(StockCorrected, _corrected),
    folding(PlateFound, _plate_found),
    folding(StatusChanged, _status_changed),
)
"""How its events change a state."""
