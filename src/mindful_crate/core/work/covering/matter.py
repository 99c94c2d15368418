"""Cover of orders. Its row among the matters."""

from __future__ import annotations

from mindful_crate.core.floor.covers import Cover
from mindful_crate.core.floor.state import State
from mindful_crate.core.releasing.cover import here_pool
from mindful_crate.core.work.covering.acts import ShiftCover
from mindful_crate.core.work.covering.decide import DECIDES, after
from mindful_crate.core.work.covering.events import CoverChanged, CoverShifted, Promised
from mindful_crate.core.work.rows import Matter, folding, telling
from mindful_crate.core.work.stamp import At

MOST = 4
"""So many lines are told one by one."""


def _put(state: State, e: CoverChanged | CoverShifted, _: At) -> None:
    for line in e.lines:
        state.covers.put(line.now.key, line.now)


def _told(p: Promised) -> str:
    now = p.now
    says = [
        f"{after:,} {what} ({before:,} before)" if after != before else f"{after:,} {what}"
        for what, before, after in (("on hand", p.on_hand, now.on_hand), ("on the way", p.coming, now.coming))
        if after or before
    ]
    return f"`{now.key}` has of `{now.item}` {' and '.join(says) or 'nothing'}"


def _changed(e: CoverChanged) -> str:
    says = [_told(p) for p in e.lines[:MOST]]
    if len(e.lines) > MOST:
        says.append(f"and {len(e.lines) - MOST:,} other lines are promised otherwise")
    return "; ".join(says)


def _shifted(e: CoverShifted) -> str:
    source, target = e.lines
    return f"`{target.now.key}` has {e.quantity:,} of `{target.now.item}` from `{source.now.key}`: {e.why}"


def nothing_is_promised_twice(state: State) -> list[str]:
    """No more of an item is promised on hand than is here, and to nobody more than is wanted."""
    found = []
    items = {c.item for c in state.covers.values()}
    for item in sorted(items):
        covers = state.covers.of_item(item)
        on_hand, here = sum(c.on_hand for c in covers), sum(here_pool(state, item).values())
        if on_hand > here:
            found.append(f"{on_hand} of {item} are promised on hand, {here} are here")
        found += [f"line {c.key} is promised more than it wants" for c in covers if _too_much(state, c)]
    return found


def _too_much(state: State, c: Cover) -> bool:
    order = state.order(c.order)
    wanted = next((x.quantity for x in order.lines if x.no == c.line), 0) if order else 0
    return c.on_hand + c.coming > max(0, wanted - state.reservations.of_line(c.key))


COVERING = Matter(
    "covering",
    DECIDES,
    (folding(CoverChanged, _put), folding(CoverShifted, _put)),
    (telling(CoverChanged, _changed), telling(CoverShifted, _shifted)),
    asked=(
        telling(
            ShiftCover,
            lambda a: (
                f"The office promises {a.quantity:,} of `{a.order}` line {a.line} to `{a.to_order}` line {a.to_line}: {a.why}"
            ),
        ),
    ),
    invariants=(nothing_is_promised_twice,),
    after=after,
)
"""What it brings."""
