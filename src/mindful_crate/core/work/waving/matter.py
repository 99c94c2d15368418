"""Waves. Its row among the matters."""

from __future__ import annotations

from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.work.rows import Matter
from mindful_crate.core.work.waving.decide import DECIDES, after
from mindful_crate.core.work.waving.fold import FOLDS
from mindful_crate.core.work.waving.papers import PAPERS
from mindful_crate.core.work.waving.words import ASKED, MAKES, WORDS


def worked_together(state: State) -> list[str]:
    """What is in a wave is released and waits for none; open pick tasks are those of a wave, for orders of it, and everything they are still to
    fetch is kept for its line."""
    found = []
    gone = {o for d in state.departures.values() for o in d.orders}
    for wave in state.waves.values():
        for order in () if wave.cancelled else wave.orders:
            if order in gone:
                continue  # it was worked, and what it lacks may be released again
            release = state.releases.get(order)
            if release is None:
                found.append(f"{order} is in wave {wave.number} and not released")
            elif release.waits and not wave.allocated:  # once stock was kept for it, what came since waits for another
                found.append(f"{order} is in wave {wave.number} and waits for one")
    of = {t: w for w in state.waves.values() for t in w.tasks}
    wanted: dict[LineKey, int] = {}
    for task in state.tasks.values():
        if task.need is not Need.PICK or task.state.ended:
            continue
        mine = of.get(task.number)
        if mine is None:
            found.append(f"pick task {task.number} is of no wave")
            continue
        takes = [m for m in task.going.remaining if m.do is Do.TAKE]
        for order in dict.fromkeys(x.line.order for m in takes for x in m.serves):
            # what is in hands is set down, whatever became of its order
            if order not in mine.orders:
                found.append(f"task {task.number} fetches for {order}, which wave {mine.number} has not")
        for each in (x for m in takes for x in m.serves):
            wanted[each.line] = wanted.get(each.line, 0) + each.quantity
    for line, quantity in wanted.items():
        if state.reservations.of_line(line) < quantity:
            found.append(f"{quantity} are to be fetched for {line}, fewer are kept")
    return found


WAVING = Matter(
    "waving", DECIDES, FOLDS, WORDS, papers=PAPERS, asked=ASKED, makes=MAKES, invariants=(worked_together,), after=after
)
"""What it brings."""
