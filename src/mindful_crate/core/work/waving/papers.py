"""Waves as the chain tells them."""

from __future__ import annotations

from collections.abc import Iterable

from mindful_crate.core.catalog.ids import WaveNo
from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.waves import WaveState, state_of
from mindful_crate.core.rulebook.waves import Method
from mindful_crate.core.rulebook.words.parts import counted
from mindful_crate.core.rulebook.words.waves import METHODS
from mindful_crate.core.work.papers import Doc, PaperKind, Papers, Stage
from mindful_crate.core.work.sorting.looking import how_far


class WavePaper(PaperKind):
    """Waves: made, let go, picked, or cancelled."""

    kind = DocKind.WAVE

    def there(self, state: State, number: str) -> bool:
        return WaveNo(number) in state.waves

    def all(self, state: State) -> Iterable[str]:
        return iter(state.waves)

    def before(self, state: State, number: str) -> tuple[Ref, ...]:
        releases = [r for o in state.waves[WaveNo(number)].orders if (r := state.releases.get(o))]
        return tuple(Ref(DocKind.SHIPMENT, s) for s in dict.fromkeys(r.shipment for r in releases))

    def since(self, state: State, number: str) -> int:
        return state.waves[WaveNo(number)].seq

    def doc(self, papers: Papers, number: str) -> Doc:
        state = papers.state
        wave = state.waves[WaveNo(number)]
        says = f"{wave.name}: {counted(len(wave.orders), 'order')}, {METHODS[wave.method]}"
        stages = [Stage("made", True, wave.seq)]
        if wave.cancelled:
            stages.append(Stage("cancelled", True, wave.seq, wave.cancelled))
        else:
            done = sum(state.tasks[n].state.ended for n in wave.tasks)
            stages.append(Stage("let go", wave.gone > 0, wave.gone, f"held: {wave.held}" if wave.held else ""))
            picked = state_of(wave, state.tasks) is WaveState.DONE
            stages.append(Stage("picked", picked, 0, f"{done} of {counted(len(wave.tasks), 'task')}"))
            if wave.method is Method.BATCH and wave.tasks:
                lines = [f for o in wave.orders for f in how_far(state, o).values()]
                parted = sum(f.parted >= f.fetched for f in lines)
                told = (
                    f"{parted} of {counted(len(lines), 'line')} that were picked" if lines else "nothing is picked yet"
                )
                stages.append(Stage("sorted", picked and parted == len(lines), 0, told))
        return Doc(self.kind, wave.number, says, tuple(stages), self.before(state, number))


PAPERS = (WavePaper(),)
"""Its documents."""
