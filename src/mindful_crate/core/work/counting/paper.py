"""A count sheet on paper: what is still to be counted, bin by bin, with room for what is found."""

from __future__ import annotations

from mindful_crate.core.catalog.ids import CountNo
from mindful_crate.core.floor.counts import CountLine
from mindful_crate.core.floor.pages import PaperPage, PaperTable
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.work.counting import looking


def still_to_count(state: State, count: CountNo) -> tuple[CountLine, ...]:
    """The lines of a sheet that nobody has counted, in its order; refused when there are none."""
    lines = looking.sheet_of(state, count).open_lines
    if not lines:
        raise Refusal("all_counted", f"Nothing of `{count}` is left to count.", "count")
    return lines


def count_paper(state: State, count: CountNo) -> tuple[PaperPage, ...]:
    """The sheet as pages; what the book says stands there only where the plan shows it."""
    lines, sheet = still_to_count(state, count), looking.sheet_of(state, count)
    heads, wide = ("Line", "Bin", "What"), (12, 42, 76)
    book = (("Book",), (20,)) if sheet.book_shown else ((), ())
    rows = tuple(
        (
            str(x.no), "\n".join([x.bin, *([f"on {x.plate}"] if x.plate else [])]), _what(state, x),
            *((str(x.book),) if sheet.book_shown else ()), "",
        )
        for x in lines
    )  # fmt: skip
    table = PaperTable("", (*heads, *book[0], "Counted"), (*wide, *book[1], 30), rows, large=(1,))
    site = state.ground.sites[state.settings.site].name
    says = (
        f"{site}, {sheet.why}.",
        "Write a number, or “none” where nothing is there. What is left blank is not counted.",
    )
    foot = f"{count} as it stood {state.clock:%Y-%m-%d %H:%M} UTC."
    return (PaperPage("Count sheet", count, (), says, "", (table,), (), ("Counted by", "Date"), foot),)


def _what(state: State, line: CountLine) -> str:
    if line.item is None:
        return "nothing, by the book"
    item = state.ground.items[line.item]
    more = [f"lot {line.lot}"] if line.lot else []
    more += [line.status.value] if line.status.value != "available" else []
    return "\n".join([f"{item.name}, {item.base.plural}", item.code, *more])
