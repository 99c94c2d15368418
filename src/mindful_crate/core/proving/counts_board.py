"""Counts as the office sees them: sheets and how far they are, differences in quantity and value, which bins were counted when, and what is counted on which day."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, datetime, timedelta
from decimal import Decimal
from heapq import heapify, heappop, heappush

from mindful_crate.core.catalog.ids import BinCode, CountNo, CountPlanId, PersonId, PlateNo, ZoneCode
from mindful_crate.core.floor.counts import CountLine, CountSheet, CountState
from mindful_crate.core.floor.state import State
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.counting import CountPlan
from mindful_crate.core.work.counting import looking

SECONDS_A_BIN, SECONDS_A_LINE = 20, 30
"""So long a bin is walked to, and a line of it counted: what a calendar of minutes is reckoned with, and says."""
DAYS = 28
"""So many days the calendar shows."""
MOST = 400
"""So many bins are listed."""


@record
class SheetShown:
    """A sheet in a line: how many of its lines are posted, counted and not posted, not counted; ``again``: of these, how many are counted again. ``value``: what
    the differences that are not posted are worth, more and less taken as they are."""

    count: CountNo
    why: str
    state: CountState
    made: datetime
    zones: tuple[str, ...]
    first: BinCode
    last: BinCode
    bins: int
    posted: int
    waiting: int
    left: int
    again: int
    differences: int
    value: Decimal
    who: tuple[PersonId, ...]
    """Who has counted something of it."""


@record
class LineShown:
    """A line of a sheet. ``moved``: so much came or went since it was counted; ``worth``: of the difference."""

    no: int
    bin: BinCode
    plate: PlateNo | None
    item: str
    name: str
    lot: str
    status: str
    unit: str
    book: int
    counted: int | None
    difference: int
    worth: Decimal
    moved: int
    found: bool
    by: PersonId | None
    before: tuple[int, ...]
    not_by: tuple[PersonId, ...]
    again: str
    posted: int


@record
class SheetInside:
    """A sheet with its lines, those of the greatest worth of difference first; ``own_posts``: may who counted post it?"""

    sheet: SheetShown
    lines: tuple[LineShown, ...]
    own_posts: bool
    closes: bool
    dropped: str


@record
class BinToCount:
    """A bin: when it was counted last, how often goods came or went since, what by the book is in it, and on which sheet it is."""

    bin: BinCode
    zone: str
    plan: CountPlanId | None
    counted: datetime | None
    days: int | None
    due: bool
    movements: int
    holds: str
    sheet: CountNo | None


@record
class PlanDue:
    """A count plan, and how many bins are due by it now."""

    plan: CountPlanId
    name: str
    due: int


@record
class CountsBoard:
    """All of it. ``finished``: so many sheets are done, of the last :data:`FINISHED`."""

    sheets: tuple[SheetShown, ...]
    finished: int
    plans: tuple[PlanDue, ...]


FINISHED = 200
"""So many sheets that are done are listed, the last ones."""


def counts_board(state: State, rulebook: Rulebook, *, finished: bool = False) -> CountsBoard:
    """Sheets of which something is to be done, the first made first; also the last that are done where it is asked for."""
    open_ = list(state.counts.unfinished())
    known = {s.number for s in open_}
    done = [s for s in state.counts.every(FINISHED) if s.number not in known]
    every = sorted([*open_, *(done if finished else ())], key=lambda s: s.number)
    plans = tuple(
        PlanDue(p.id, p.name, len(looking.due_by(state, rulebook, p, 10_000)))
        for p in rulebook.counts_at(state.settings.site)
    )
    return CountsBoard(tuple(_shown(state, s) for s in every), len(done), plans)


def _worth(state: State, line: CountLine) -> Decimal:
    return line.difference * state.ground.items[line.item].value if line.item else Decimal(0)


def _shown(state: State, sheet: CountSheet) -> SheetShown:
    zones = dict.fromkeys(state.ground.zones[state.ground.bins[x.bin].zone].name for x in sheet.lines)
    waiting = sheet.unposted
    return SheetShown(
        sheet.number, sheet.why, sheet.state, sheet.made, tuple(zones), sheet.lines[0].bin, sheet.lines[-1].bin, len({x.bin for x in sheet.lines}),
        sum(x.posted > 0 for x in sheet.lines), len(waiting), len(sheet.open_lines), sum(bool(x.again) for x in sheet.open_lines),
        sum(x.difference != 0 for x in waiting), sum((_worth(state, x) for x in waiting), Decimal(0)),
        tuple(dict.fromkeys(p for x in sheet.lines for p in (*x.not_by, *((x.by,) if x.by else ())))),
    )  # fmt: skip


def sheet_inside(state: State, count: CountNo) -> SheetInside:
    """A sheet with all its lines; refused when there is none."""
    sheet = looking.sheet_of(state, count)
    lines = sorted((_line(state, x) for x in sheet.lines), key=lambda x: (-abs(x.worth), -abs(x.difference), x.no))
    return SheetInside(_shown(state, sheet), tuple(lines), sheet.own_posts, sheet.closes, sheet.dropped)


def _line(state: State, x: CountLine) -> LineShown:
    item = state.ground.items[x.item] if x.item else None
    waits = x.counted is not None and not x.posted and looking.found_plate(state, x) is None
    moved = looking.moved(state, x) if waits else 0
    return LineShown(
        x.no, x.bin, x.plate, x.item or "", item.name if item else "nothing", x.lot, x.status.value, item.base.plural if item else "", x.book, x.counted,
        x.difference, _worth(state, x), moved, x.found, x.by, x.before, x.not_by, x.again, x.posted,
    )  # fmt: skip


def zones_counted(state: State, rulebook: Rulebook) -> list[ZoneCode]:
    """Zones that a plan counts; where there is no plan, those in which goods are stored."""
    plans = rulebook.counts_at(state.settings.site) or [CountPlan(CountPlanId(""), "")]
    return list(dict.fromkeys(z for p in plans for z in looking.zones_of(state, p)))


def bins_to_count(state: State, rulebook: Rulebook, zone: str = "", words: str = "") -> list[BinToCount]:
    """Bins of the site in which goods are stored, never counted ones first, then those counted longest ago, and of these those in which most has moved."""
    ground, clock = state.ground, state.clock
    found: list[tuple[datetime, int, int, BinCode]] = []
    for each in (b for z in zones_counted(state, rulebook) if zone in ("", z) for b in ground.bins_by_zone.get(z, ())):
        moves = state.ledger.movements.get(each.code) or 0
        found.append((looking.counted_last(state, each.code), -moves, each.walk, each.code))
    shown: list[BinToCount] = []
    for at, moves, _, code in sorted(found):
        holds = _holds(state, code)
        if words and words.lower() not in f"{code} {holds}".lower():
            continue
        plan = looking.plan_of(state, rulebook, code)
        never = at == looking.NEVER
        days = None if never else (clock - at).days
        due = (
            plan is not None
            and plan.every_days is not None
            and (never or (days is not None and days >= plan.every_days))
        )
        name = ground.zones[ground.bins[code].zone].name
        shown.append(
            BinToCount(
                code,
                name,
                plan.id if plan else None,
                None if never else at,
                days,
                due,
                -moves,
                holds,
                state.counts.with_bin(code),
            )
        )
        if len(shown) >= MOST:
            break
    return shown


def _holds(state: State, code: BinCode) -> str:
    names = dict.fromkeys(state.ground.items[g.item].name for _, g in looking.goods_in(state, code))
    more = f" and {len(names) - 2} more" if len(names) > 2 else ""
    return ", ".join(list(names)[:2]) + more if names else "nothing"


@record
class CountDay:
    """What is counted on a day: how many bins and lines, about how many minutes."""

    day: date
    bins: int
    lines: int
    minutes: int


@record
class PlanAhead:
    """A plan day by day: how many bins it counts and which are first, whether all are counted in time, or which bin is the first that is late, and when."""

    plan: CountPlanId
    name: str
    number: int
    bins: int
    days: tuple[CountDay, ...]
    first: tuple[BinCode, ...]
    late: BinCode | None
    late_on: date | None
    says: str


def counts_ahead(state: State, rulebook: Rulebook, today: date) -> tuple[PlanAhead, ...]:
    """The calendar of every count plan of a site, as if whatever is on a sheet were counted the same day."""
    plans = rulebook.counts_at(state.settings.site)
    return tuple(_ahead(state, rulebook, p, n, today) for n, p in enumerate(plans, start=1))


def _ahead(state: State, rulebook: Rulebook, plan: CountPlan, number: int, today: date) -> PlanAhead:
    mine = list(_bins_of(state, rulebook, plan))
    a_day = plan.most_bins * len(plan.minutes)
    head = (plan.id, plan.name, number, len(mine))
    first = tuple(looking.due_by(state, rulebook, plan)[:5])
    if plan.every_days is None:
        return PlanAhead(*head, (), (), None, None, "It makes no sheets by days.")
    if not a_day:
        due = looking.due_by(state, rulebook, plan, 100_000)
        return PlanAhead(
            *head, (), first, None, None, f"It makes sheets when the office says so; {len(due):,} bins are due now."
        )
    waits: list[tuple[int, int, BinCode, bool]] = []
    for code in mine:
        last = state.bins_counted.get(code)
        at = (last.at.date() - today).days + plan.every_days if last else -(10**6)
        waits.append((at, state.ground.bins[code].walk, code, last is None))
    heapify(waits)
    days: list[CountDay] = []
    late: tuple[BinCode, int] | None = None
    for n in range(max(DAYS, plan.every_days + 1)):
        taken: list[BinCode] = []
        while waits and waits[0][0] <= n and len(taken) < a_day:
            at, _, code, never = heappop(waits)
            by = plan.every_days if never else at
            if n > by and late is None:
                late = code, n
            taken.append(code)
        for code in taken:
            heappush(waits, (n + plan.every_days, state.ground.bins[code].walk, code, False))
        if n < DAYS:
            lines = sum(
                max(1, len({(p, g.item, g.lot, g.status) for p, g in looking.goods_in(state, c)})) for c in taken
            )
            minutes = (len(taken) * SECONDS_A_BIN + lines * SECONDS_A_LINE + 59) // 60
            days.append(CountDay(today + timedelta(days=n), len(taken), lines, minutes))
    if late:
        on = today + timedelta(days=late[1])
        says = f"{a_day} bins a day are too few: `{late[0]}` is the first that is counted late, on {on:%d %B}."
        return PlanAhead(*head, tuple(days), first, late[0], on, says)
    return PlanAhead(*head, tuple(days), first, None, None, "Every bin is counted in time.")


def _bins_of(state: State, rulebook: Rulebook, plan: CountPlan) -> Iterator[BinCode]:
    for zone in looking.zones_of(state, plan):
        for each in state.ground.bins_by_zone.get(zone, ()):
            found = looking.plan_of(state, rulebook, each.code)
            if found is not None and found.id == plan.id:
                yield each.code
