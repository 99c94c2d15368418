"""Where else goods could be put: what is looked for on the handset by a part of the code, by zone, or by what would fit."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from datetime import date
from itertools import islice

from mindful_crate.core.catalog.ids import BinCode
from mindful_crate.core.catalog.places import Bin
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Task
from mindful_crate.core.placing.explain import explain
from mindful_crate.core.placing.fit import Judge
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.work.putting import checks as putting
from mindful_crate.core.work.putting import doing

ANY = "*"
"""What is looked for when only what would fit matters."""
MOST = 400
"""So many bins are judged at most: a worker names a part that says more."""
SHOWN = 6
"""So many places are shown."""


def known(state: State, sought: str) -> bool:
    """Is there a bin here with this in its code, or in the name of its zone?"""
    return next(iter(_named(state, sought)), None) is not None


def _named(state: State, sought: str) -> Iterator[Bin]:
    """Bins of the site by the walk, that have it in their code or the name of their zone; no place where nothing may stay."""
    ground, part = state.ground, sought.strip().lower()
    for code in ground.zones_of_site.get(state.settings.site, ()):
        zone = ground.zones[code]
        if zone.purpose in putting.NO_PLACE_TO_STAY:
            continue
        by_zone = part == ANY or part in zone.name.lower()
        yield from (b for b in ground.bins_by_zone.get(code, ()) if by_zone or part in b.code.lower())


def would_fit(state: State, rulebook: Rulebook, task: Task, today: date, sought: str) -> list[BinCode]:
    """Places that would take what is carried, other than the one shown: those of the rules first, in their order, then by the walk."""
    at = doing.place_of(state, rulebook, task)
    request = evolve(putting.request_of_task(state, task, today), at=at)
    judge = Judge(request, state)
    of_rules: Iterable[Bin] = ()
    if sought == ANY:
        looks = explain(request, rulebook.rules_for(request.site, request.purpose, request.at), state).looks
        of_rules = [state.ground.bins[c.bin] for look in looks for c in look.bins if c.turned_down is None]
    found: dict[BinCode, None] = {}
    for each in (*of_rules, *islice(_named(state, sought), MOST)):
        if each.code != task.to_bin and judge.turn_down(each) is None:
            found[each.code] = None
        if len(found) == SHOWN:
            break
    return list(found)
