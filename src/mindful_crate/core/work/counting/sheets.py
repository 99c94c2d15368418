"""Sheets are made: by the office, by a plan, by the clock, and by what calls for a count; and their bins are free again when they are done."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from mindful_crate.core.catalog.ids import BinCode, CountNo, CountPlanId, ItemCode
from mindful_crate.core.floor.plates import in_bin
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.waves import ByClock
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.counting import CountPlan
from mindful_crate.core.rulebook.times import clock
from mindful_crate.core.rulebook.words.parts import counted
from mindful_crate.core.work.counting import looking
from mindful_crate.core.work.counting.acts import CountsDue, MakeCounts, RunCountPlan
from mindful_crate.core.work.counting.events import CountsAwaited, SheetMade
from mindful_crate.core.work.making import Making, said
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.stock.events import BinBlocked, StockReserved

BY_HAND = CountPlan(CountPlanId(""), "by hand")
"""How bins are counted that no plan counts."""
MOST_BY_HAND = 5_000
"""So many bins may be chosen at once."""


def _sheets(state: State, making: Making, plan: CountPlan, codes: Sequence[BinCode], why: str) -> list[CountNo]:
    """Sheets of these bins, as the plan splits them."""
    made: list[CountNo] = []
    for lines in looking.split(state, plan, codes):
        number = CountNo(making.draw("count"))
        event = SheetMade(
            number, plan.id or None, why, tuple(lines), plan.book_shown, plan.closes, plan.tolerance, plan.own_posts
        )
        making.event(event)
        made.append(number)
        if plan.closes:
            for code in dict.fromkeys(x.bin for x in lines):
                if not state.blocked(code):
                    making.event(BinBlocked(code, _closed_by(number)))
    return made


def _closed_by(number: CountNo) -> str:
    return f"it is counted on {number}"


def _made(state: State, numbers: Sequence[CountNo]) -> str:
    lines = sum(len(state.counts[n].lines) for n in numbers)
    bins = len({x.bin for n in numbers for x in state.counts[n].lines})
    sheets = f"`{numbers[0]}`" if len(numbers) == 1 else f"`{numbers[0]}` to `{numbers[-1]}`"
    return f"{counted(bins, 'bin')} {'is' if bins == 1 else 'are'} to be counted on {sheets}, {counted(lines, 'line')}."


def _make(state: State, making: Making, rulebook: Rulebook, __: Stamp, act: MakeCounts) -> str:
    codes = list(dict.fromkeys(act.bins))
    if not codes:
        raise Refusal("no_bins", "Say which bins are to be counted.", "bins")
    if len(codes) > MOST_BY_HAND:
        raise Refusal("too_many", f"Choose {MOST_BY_HAND:,} bins at most at a time.", "bins")
    by_plan: dict[CountPlanId, tuple[CountPlan, list[BinCode]]] = {}
    for code in codes:
        if code not in state.ground.bins or state.ground.site_of(code) != state.settings.site:
            raise Refusal("unknown_bin", f"There is no bin `{code}` at this site.", "bins")
        if (known := state.counts.with_bin(code)) is not None:
            raise Refusal(
                "on_a_sheet", f"Bin `{code}` is on `{known}` already: a bin is on one sheet at a time.", "bins"
            )
        plan = looking.plan_of(state, rulebook, code) or BY_HAND
        by_plan.setdefault(plan.id, (plan, []))[1].append(code)
    made = [n for plan, some in by_plan.values() for n in _sheets(state, making, plan, some, "chosen by the office")]
    return _made(state, made)


def _run(state: State, making: Making, rulebook: Rulebook, __: Stamp, act: RunCountPlan) -> str:
    plan = next((p for p in rulebook.counts_at(state.settings.site) if p.id == act.plan), None)
    if plan is None:
        raise Refusal("unknown_plan", f"There is no count plan `{act.plan}` in force here.", "plan")
    codes = looking.due_by(state, rulebook, plan)
    if not codes:
        raise Refusal("nothing_due", f"By {plan.name} no bin is due that is not on a sheet already.", "plan")
    return _made(state, _sheets(state, making, plan, codes, f"due by {plan.name}"))


def _due(state: State, making: Making, rulebook: Rulebook, __: Stamp, act: CountsDue) -> str:
    if ByClock.COUNTS not in state.runs_awaited:
        raise Refusal("not_due", "Nothing is to be counted by the clock.")
    told = [f"It is {clock(act.minute)}."]
    for plan in (p for p in rulebook.counts_at(state.settings.site) if act.minute in p.minutes):
        codes = looking.due_by(state, rulebook, plan)
        told.append(
            _made(state, _sheets(state, making, plan, codes, f"due by {plan.name}"))
            if codes
            else f"By {plan.name} nothing is due."
        )
    making.event(CountsAwaited(_minutes(state, rulebook)))
    return said(*told)


def _minutes(state: State, rulebook: Rulebook) -> tuple[int, ...]:
    return tuple(sorted({m for p in rulebook.counts_at(state.settings.site) for m in p.minutes}))


def free_bins(state: State, making: Making, count: CountNo) -> None:
    """Bins that were blocked for a sheet and have nothing to count on it any more are blocked no more."""
    for code in dict.fromkeys(x.bin for x in state.counts[count].lines):
        if state.blocked(code) == _closed_by(count) and state.counts.with_bin(code) != count:
            making.event(BinBlocked(code))


def after(state: State, making: Making, rulebook: Rulebook, __: Stamp) -> str:
    """What calls for a count by itself: goods that somebody did not find, a bin that became empty, the clock."""
    plans = rulebook.counts_at(state.settings.site)
    if not plans:
        return ""
    told: list[str] = []
    called: dict[BinCode, Call] = {}
    for call in [*_not_found(making), *(_emptied(state) if any(p.at_zero for p in plans) else ())]:
        called.setdefault(call[0], call)
    for code, why, at_zero in called.values():
        held = _held(state, code) if at_zero else ()
        plan = looking.plan_of(state, rulebook, code, held) if state.counts.with_bin(code) is None else None
        if plan is not None and (plan.at_zero if at_zero else plan.after_short):
            (number,) = _sheets(state, making, plan, [code], why)
            told.append(f"`{code}` is counted on `{number}`: {why}.")
    if ByClock.COUNTS not in state.runs_awaited and (minutes := _minutes(state, rulebook)):
        making.event(CountsAwaited(minutes))
    return said(*told)


Call = tuple[BinCode, str, bool]
"""A bin that is to be counted, why, and whether that is because it became empty."""


def _not_found(making: Making) -> Iterator[Call]:
    for event in tuple(making.events):
        if isinstance(event, StockReserved) and event.missed_by is not None:
            yield from ((part.bin, f"@{event.missed_by} did not find something", False) for part in event.parts)


def _emptied(state: State) -> Iterator[Call]:
    touched = dict.fromkeys(key for keeper, key, _ in state.journal.puts() if keeper is state.ledger.movements)
    for code in touched:  # each once, however much came or went there
        if next(looking.goods_in(state, code), None) is None:
            yield code, "it became empty", True


def _held(state: State, code: BinCode) -> set[ItemCode]:
    """What a bin held before this entry: a plan for some goods alone counts it also when none of them are left."""
    held: set[ItemCode] = set()
    for keeper, key, before in state.journal.puts():
        if keeper is state.loose_now and key == code:
            held |= {g.item for g in state.bins.loose_was(code, before)}
        elif keeper is state.plates.goods and state.bin_of(key) == code:
            held |= {g.item for g in state.plates.goods_were(key, before)}
        elif keeper is state.plates.spots and state.plates.spot_was(key, before) == in_bin(code):
            held |= {g.item for g in state.all_goods(key)}
    return held


DECIDES = (deciding(MakeCounts, _make), deciding(RunCountPlan, _run), deciding(CountsDue, _due))
"""How its acts are decided."""
