"""The rounds a wave is picked in: who walks which, where they lead, and in which aisles two pickers both are."""

from __future__ import annotations

from collections.abc import Sequence

from mindful_crate.core.catalog.ids import BinCode, CrewId, OrderNo, PersonId, TaskNo, WaveNo
from mindful_crate.core.floor.standing import bin_now
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, TaskState
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import record
from mindful_crate.core.releasing.sharing import share
from mindful_crate.core.rulebook.waves import Method
from mindful_crate.core.walking.distance import tours_of
from mindful_crate.core.walking.network import NOWHERE, Spot
from mindful_crate.core.work.picking.arranging import PickTask, begins


@record
class Round:
    """A task of the wave as it is walked: the bins in their order, how far it is in mm with the way back, and its corners on the map. ``no``: which
    task of the wave it is, from 1; ``task``: its number, once it is made."""

    no: int
    crew: CrewId
    cart: int
    orders: tuple[OrderNo, ...]
    lines: int
    bins: tuple[BinCode, ...]
    to: BinCode | None
    mm: int
    spots: tuple[Spot, ...]
    task: TaskNo | None = None
    begins: BinCode | None = None
    """Where it begins and ends, when that is where its zone is handed totes."""


@record
class Picker:
    """What one picker of a crew walks: rounds by their numbers, and how far that is in mm. ``person``: who that is, at work."""

    crew: CrewId
    rounds: tuple[int, ...]
    mm: int
    person: PersonId | None = None


@record
class Meeting:
    """An aisle of a zone to which rounds of several pickers lead; pickers by their places in the list, from 1."""

    zone: str
    aisle: str
    pickers: tuple[int, ...]


@record
class WaveRounds:
    """All rounds of a wave, given to pickers. ``start``: where they begin and end; None when there is no such place. ``unwalked``: tasks by
    their numbers that lead to a bin one cannot walk to."""

    start: BinCode | None
    rounds: tuple[Round, ...]
    pickers: tuple[Picker, ...]
    meetings: tuple[Meeting, ...]
    unwalked: tuple[int, ...]

    @property
    def over_even_permille(self) -> int:
        """How much more whoever of the first crew walks most has than an even share of that crew, in thousandths."""
        mine = [p.mm for p in self.pickers if p.crew == self.pickers[0].crew]
        return (1000 * max(mine) * len(mine) + sum(mine) - 1) // max(1, sum(mine)) - 1000 if mine else 0


def rounds_of(state: State, tasks: Sequence[PickTask], most: int) -> WaveRounds:
    """The rounds in which these tasks are walked. Those of the crew that walks most are shared over so many pickers at ``most``, the longest first, each to whoever
    has least; each other crew's are of one."""
    tours, start = tours_of(state.ground, state.settings.site), begins(state)
    rounds, unwalked = [], []
    for no, task in enumerate(tasks, start=1):
        if start is None or task.walk_mm is None:
            unwalked.append(no)
            continue
        bins = _bins(task)
        begin_at = tours.network.number(task.begins) if task.begins else None
        begin_at = start if begin_at is None else begin_at
        numbers = [n for code in bins if (n := tours.network.number(code)) is not None]
        rounds.append(
            Round(
                no, task.recipe.crew, task.cart, task.orders, len({k.line for k in task.kept}), bins, task.moves[-1].at, task.walk_mm,
                tours.corners([begin_at, *numbers]), begins=task.begins,
            )
        )  # fmt: skip
    pickers = _shared(rounds, most)
    begin = tours.network.bins[start].code if start is not None else None
    return WaveRounds(begin, tuple(rounds), pickers, _meetings(state, rounds, pickers), tuple(unwalked))


def rounds_at_work(state: State, wave: WaveNo) -> WaveRounds:
    """What is still to be walked of a wave at work: by whoever has begun it, from where the pickers begin, or where its zone is handed
    totes; of what nobody has taken each crew has a row of its own, after those. Refused when there is no such wave."""
    known = state.waves.get(wave)
    if known is None:
        raise Refusal("unknown_wave", f"There is no wave `{wave}`.", "wave")
    tours, start = tours_of(state.ground, state.settings.site), begins(state)
    rounds, unwalked = [], []
    mine: dict[tuple[PersonId | None, CrewId], list[Round]] = {}
    for no, task in enumerate((state.tasks[n] for n in known.tasks), start=1):
        takes = [m for m in task.going.remaining if m.do is Do.TAKE and m.at is not None]
        if task.state.ended or not takes:
            continue
        bins = tuple(dict.fromkeys(bin_now(state, m.plate, m.at) for m in takes if m.at is not None))
        numbers = [n for code in bins if (n := tours.network.number(code)) is not None]
        point = state.ground.zones[state.ground.bins[bins[0]].zone].hand_over if known.method is Method.ZONES else None
        begin_at = tours.network.number(point) if point else None
        begin_at = start if begin_at is None else begin_at
        mm = tours.length([begin_at, *numbers]) if begin_at is not None and len(numbers) == len(bins) else NOWHERE
        if begin_at is None or mm >= NOWHERE:
            unwalked.append(no)
            continue
        lines = len({s.line for m in takes for s in m.serves})
        orders = tuple(dict.fromkeys(s.line.order for m in takes for s in m.serves))
        each = Round(
            no,
            task.crew or CrewId(""),
            0,
            orders,
            lines,
            bins,
            task.to_bin,
            mm,
            tours.corners([begin_at, *numbers]),
            task.number,
            point,
        )
        rounds.append(each)
        mine.setdefault((task.person if task.state is TaskState.TAKEN else None, each.crew), []).append(each)
    rows = sorted(mine.items(), key=lambda row: (row[0][0] is None, -sum(r.mm for r in row[1]), row[0]))
    pickers = tuple(Picker(crew, tuple(r.no for r in some), sum(r.mm for r in some), who) for (who, crew), some in rows)
    begin = tours.network.bins[start].code if start is not None else None
    at_work = [p for p in pickers if p.person is not None]
    return WaveRounds(begin, tuple(rounds), pickers, _meetings(state, rounds, at_work), tuple(unwalked))


def _bins(task: PickTask) -> tuple[BinCode, ...]:
    return tuple(dict.fromkeys(k.bin for k in task.kept))


def _shared(rounds: Sequence[Round], most: int) -> tuple[Picker, ...]:
    """Pickers of each crew, the crew that walks most first."""
    of_crew: dict[CrewId, list[Round]] = {}
    for each in rounds:
        of_crew.setdefault(each.crew, []).append(each)
    crews = sorted(of_crew, key=lambda c: (-sum(r.mm for r in of_crew[c]), c))
    found = []
    for crew in crews:
        mine = of_crew[crew]
        shares = share([r.mm for r in mine], max(1, most) if crew == crews[0] else 1)
        found += [
            Picker(crew, tuple(mine[k].no for k in carts), mm)
            for carts, mm in zip(shares.carts, shares.metres, strict=True)
        ]
    return tuple(found)


def _meetings(state: State, rounds: Sequence[Round], pickers: Sequence[Picker]) -> tuple[Meeting, ...]:
    """Aisles to which several go, those of most pickers first."""
    by_no = {r.no: r for r in rounds}
    who: dict[tuple[str, str], set[int]] = {}
    for n, picker in enumerate(pickers, start=1):
        for code in (code for no in picker.rounds for code in by_no[no].bins):
            found = state.ground.bins[code]
            if found.aisle:
                who.setdefault((state.ground.zones[found.zone].name, found.aisle), set()).add(n)
    several = [Meeting(zone, aisle, tuple(sorted(of))) for (zone, aisle), of in who.items() if len(of) > 1]
    return tuple(sorted(several, key=lambda m: (-len(m.pickers), m.zone, m.aisle)))
