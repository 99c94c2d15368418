"""The till: it is set, and copies what is free to use when its time has come."""

from __future__ import annotations

from datetime import datetime

from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import ItemCode
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.till import TILL, Till
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.words.parts import counted
from mindful_crate.core.work.making import Making
from mindful_crate.core.work.rows import Matter, deciding, folding, telling
from mindful_crate.core.work.stamp import At, Stamp
from mindful_crate.core.work.tilling.acts import SetTill, TillDue
from mindful_crate.core.work.tilling.events import TillCopied, TillGone

MOST_ITEMS = 5_000
"""A till knows no more: it is for stores."""
LONGEST = 7 * 24 * 60
"""Minutes."""


def sellable(state: State) -> dict[ItemCode, int]:
    """How much of each item a till may sell: what is available, wherever at the site it lies, whoever it is kept for."""
    found: dict[ItemCode, int] = {}
    for code, _, goods in state.stock():
        if code and goods.status is Status.AVAILABLE:
            found[goods.item] = found.get(goods.item, 0) + goods.quantity
    return found


def _set(state: State, making: Making, _: Rulebook, __: Stamp, act: SetTill) -> str:
    if act.minutes is None:
        if state.till is None:
            raise Refusal("no_till", "There is no till here.")
        making.event(TillGone())
        return "There is no till any more."
    if not 0 <= act.minutes <= LONGEST:
        raise Refusal("bad_minutes", f"A till copies every 1 to {LONGEST:,} minutes; 0: never again.", "minutes")
    there = sellable(state)
    if len(there) > MOST_ITEMS:
        raise Refusal(
            "too_many_items", f"{len(there):,} items lie here; a till knows {MOST_ITEMS:,}. It is for stores."
        )
    making.event(TillCopied(_changed(state, there), act.minutes))
    how = (
        f"copies the stock every {counted(act.minutes, 'minute')}"
        if act.minutes
        else "keeps what it says, and never copies the stock again"
    )
    return f"The till knows {counted(len(there), 'item')}, and {how}."


def _due(state: State, making: Making, _: Rulebook, __: Stamp, act: TillDue) -> str:
    if state.till is None:
        raise Refusal("no_till", "There is no till here.")
    numbers = _changed(state, sellable(state))
    making.event(TillCopied(numbers))
    return f"The till copied the stock: {counted(len(numbers), 'item')} changed."


def _changed(state: State, there: dict[ItemCode, int]) -> tuple[tuple[ItemCode, int], ...]:
    """What the till says otherwise than what is there."""
    says = state.till_says
    gone = {item: 0 for item, n in says.items() if n and item not in there}
    return tuple(sorted((i, n) for i, n in {**there, **gone}.items() if says.get(i) != n))


def _copied(state: State, e: TillCopied, at: At) -> None:
    for item, quantity in e.numbers:
        state.till_says.put(item, quantity)
    now, before = at.stamp.at, state.till
    if e.minutes is not None or before is None:
        state.tills.put(TILL, Till(e.minutes or 0, now, now, at.seq))
    else:
        state.tills.put(TILL, evolve(before, at=now, seq=at.seq, owed=None))


def _gone(state: State, _: TillGone, __: At) -> None:
    state.tills.put(TILL, None)
    for item in list(state.till_says.all()):
        state.till_says.put(item, None)


def till_due(state: State) -> datetime | None:
    """When the till copies the stock next; None: never, or nothing was done since it did."""
    till = state.till
    if till is None or state.seq == till.seq:
        return None
    return till.owed or till.next(state.clock)


def _told(act: SetTill) -> str:
    if act.minutes is None:
        return "The till is taken away"
    return (
        f"The till copies the stock every {counted(act.minutes, 'minute')}"
        if act.minutes
        else "The till copies the stock now, and never again"
    )


TILLING = Matter(
    "tilling",
    (deciding(SetTill, _set), deciding(TillDue, _due)),
    (folding(TillCopied, _copied), folding(TillGone, _gone)),
    (
        telling(TillCopied, lambda e: f"the till says otherwise of {counted(len(e.numbers), 'item')}"),
        telling(TillGone, lambda e: "there is no till any more"),
    ),
    asked=(telling(SetTill, _told),),
)
"""What it brings."""
