"""Counts as the chain tells them."""

from __future__ import annotations

from collections.abc import Iterable

from mindful_crate.core.catalog.ids import CountNo
from mindful_crate.core.catalog.refs import DocKind
from mindful_crate.core.floor.state import State
from mindful_crate.core.rulebook.words.parts import counted
from mindful_crate.core.work.papers import Doc, PaperKind, Papers, Stage


class CountPaper(PaperKind):
    """Sheets: made, counted, in the books."""

    kind = DocKind.COUNT

    def there(self, state: State, number: str) -> bool:
        return CountNo(number) in state.counts

    def all(self, state: State) -> Iterable[str]:
        return iter(state.counts)

    def since(self, state: State, number: str) -> int:
        return state.counts[CountNo(number)].seq

    def doc(self, papers: Papers, number: str) -> Doc:
        sheet = papers.state.counts[CountNo(number)]
        done = [x for x in sheet.lines if x.counted is not None]
        posted = [x for x in sheet.lines if x.posted]
        off = sum(x.difference != 0 for x in posted)
        bins = counted(len({x.bin for x in sheet.lines}), "bin")
        stages = [Stage("made", True, sheet.seq, sheet.why)]
        if sheet.dropped:
            stages.append(Stage("dropped", True, 0, sheet.dropped))
        else:
            stages.append(
                Stage("counted", not sheet.open_lines, 0, f"{len(done)} of {counted(len(sheet.lines), 'line')}")
            )
        told = f"{len(posted)} of {counted(len(done), 'line')}, {counted(off, 'difference')}"
        all_in = not sheet.unposted and not sheet.open_lines
        stages.append(Stage("in the books", all_in, max((x.posted for x in posted), default=0) if all_in else 0, told))
        return Doc(self.kind, sheet.number, f"count of {bins}", tuple(stages))


PAPERS = (CountPaper(),)
"""Its documents."""
