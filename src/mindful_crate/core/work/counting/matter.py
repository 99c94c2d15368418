"""Counting: words, invariants, and its row among the matters."""

from __future__ import annotations

from mindful_crate.core.floor.state import State
from mindful_crate.core.rulebook.words.parts import STATUSES, counted
from mindful_crate.core.work.counting import correct_flow, correct_prompts
from mindful_crate.core.work.counting.acts import (
    AdjustStock,
    ChangeStatus,
    CountAgain,
    DropCount,
    EnterCounts,
    MakeCounts,
    PostCount,
    RunCountPlan,
    ShiftStock,
)
from mindful_crate.core.work.counting.decide import DECIDES
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
from mindful_crate.core.work.counting.flow import FLOWS
from mindful_crate.core.work.counting.fold import FOLDS
from mindful_crate.core.work.counting.papers import PAPERS
from mindful_crate.core.work.counting.prompts import PROMPTS
from mindful_crate.core.work.counting.sheets import after
from mindful_crate.core.work.rows import Matter, silent, telling


def one_sheet_a_bin(state: State) -> list[str]:
    """A bin is on one sheet that is not finished, at most; lines are numbered from 1 on; what is in the books was counted."""
    found, on = [], dict[str, str]()
    for sheet in state.counts.values():
        if [x.no for x in sheet.lines] != list(range(1, len(sheet.lines) + 1)):
            found.append(f"the lines of {sheet.number} are not numbered one after another")
        busy = {x.bin for x in (*sheet.open_lines, *sheet.unposted)}
        found += [f"{code} is on {on[code]} and on {sheet.number}" for code in busy if code in on]
        on |= dict.fromkeys(busy, sheet.number)
        found += [
            f"line {x.no} of {sheet.number} is in the books and was not counted"
            for x in sheet.lines
            if x.posted and x.counted is None
        ]
    return found


def _corrected(e: StockCorrected) -> str:
    much = sum(g.quantity for g in e.goods)
    what = f"{much} of `{e.goods[0].item}`" if e.goods else "nothing"
    if e.source is not None:
        return f"{what} in `{e.bin}`, by the book in `{e.source.code}`: {e.why}"
    return f"{what} {'less' if e.lost else 'more'} in `{e.bin}`: {e.why}"


def _changed(e: StatusChanged) -> str:
    return f"{sum(g.quantity for g in e.goods)} of `{e.goods[0].item}` in `{e.bin}` {STATUSES[e.status]}: {e.why}"


def _counted(e: LineCounted) -> str:
    x = e.line
    return (
        f"line {x.no} of `{e.count}`: {x.counted} of `{x.item}` in `{x.bin}`"
        if x.item
        else f"line {x.no} of `{e.count}`: nothing in `{x.bin}`"
    )


def _asked(a: ChangeStatus) -> str:
    where = a.plate or a.bin or f"{a.item}{f', lot {a.lot}' if a.lot else ''}"
    return f"The office makes `{where}` {STATUSES[a.status]}"


COUNTING = Matter(
    "counting",
    DECIDES,
    FOLDS,
    (
        telling(SheetMade, lambda e: f"sheet `{e.count}`: {counted(len(e.lines), 'line')}, {e.why}"),
        telling(LineCounted, _counted),
        telling(LineAgain, lambda e: f"line {e.no} of `{e.count}` is counted again: {e.why}"),
        telling(CountPosted, lambda e: f"{counted(len(e.lines), 'line')} of `{e.count}` in the books"),
        telling(CountDropped, lambda e: f"`{e.count}` is counted no more: {e.why}"),
        silent(CountsAwaited),
        telling(StockCorrected, _corrected),
        telling(PlateFound, lambda e: f"plate `{e.plate}` stands in `{e.bin}`"),
        telling(StatusChanged, _changed),
    ),
    flows=FLOWS | correct_flow.FLOWS,
    prompts=PROMPTS | correct_prompts.PROMPTS,
    papers=PAPERS,
    asked=(
        telling(MakeCounts, lambda a: f"The office has {counted(len(a.bins), 'bin')} counted"),
        telling(RunCountPlan, lambda a: f"The office makes sheets by `{a.plan}`"),
        telling(
            EnterCounts,
            lambda a: f"The office enters {counted(len(a.lines), 'line')} of `{a.count}` that were counted on paper",
        ),
        telling(CountAgain, lambda a: f"The office has {counted(len(a.lines), 'line')} of `{a.count}` counted again"),
        telling(PostCount, lambda a: f"The office takes `{a.count}` into the books"),
        telling(DropCount, lambda a: f"The office has `{a.count}` counted no more"),
        telling(AdjustStock, lambda a: f"The office sets `{a.item}` in `{a.bin}` to {a.quantity:,}"),
        telling(ChangeStatus, _asked),
        telling(
            ShiftStock,
            lambda a: (
                f"The office says that {f'`{a.item}`' if a.item else f'`{a.plate}`'} of `{a.bin}` lies in `{a.to}`"
            ),
        ),
    ),
    invariants=(one_sheet_a_bin,),
    makes={"count": (telling(SheetMade, lambda e: e.count),)},
    after=after,
)
"""What it brings."""
