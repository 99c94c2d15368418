"""What of an item is promised to whom, after something changed: arrivals go to who waits for them, a loss falls on who is promised last.

What this leaves is settled: asked again of the same state, it answers nothing.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from datetime import date
from typing import NamedTuple

from mindful_crate.core.catalog.ids import ItemCode
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.covers import Cover, Fit, Pool, Supply, Way, fit
from mindful_crate.core.floor.state import State
from mindful_crate.core.record import evolve
from mindful_crate.core.releasing.cover import free_pool, here_pool, on_the_way, wanting


class _Line(NamedTuple):
    promised: date
    key: LineKey
    cover: Cover
    wanted: int
    wants: Fit


def _lines(state: State, item: ItemCode, today: date, fresh: Iterable[LineKey]) -> list[_Line]:
    """Who is promised any of an item, or asks for it now, the earliest promised first."""
    found = {c.key: c for c in state.covers.of_item(item)}
    for key in fresh:
        found.setdefault(key, Cover(key.order, key.line, item))
    lines = []
    for key, cover in found.items():
        order = state.order(key.order)
        line = wanting(state, order, key.line)
        if line is not None and line.item != item:
            continue  # it asks for another item now: what it has of that is put in place of this
        if order is None or line is None:
            lines.append(_Line(date.max, key, cover, 0, Fit("", date.min)))
        else:
            left = max(0, line.quantity - state.reservations.of_line(key))
            lines.append(_Line(order.promise(line), key, cover, left, fit(state.ground, order, line, today)))
    return sorted(lines, key=lambda x: (x.promised, x.key))


def settled(state: State, item: ItemCode, today: date, fresh: Iterable[LineKey] = ()) -> Iterator[Cover]:
    """How lines are promised that are promised otherwise now, by order and line. ``fresh``: lines that ask for the first time."""
    lines = _lines(state, item, today, fresh)
    if not lines:
        return
    free, here = Pool(free_pool(state, item)), Pool(here_pool(state, item))
    # who has some keeps it, a lot that is fixed before any lot; what is not there any more is lost, by the last promised first
    have: dict[LineKey, int] = {}
    for x in sorted(lines, key=lambda x: not x.wants.lot):
        keeps = min(x.cover.on_hand, x.wanted)
        have[x.key] = here.take(x.wants, keeps)
        free.take(x.wants, have[x.key])
    open_ = {w.key: (day, w) for day, w in on_the_way(state, item)}
    ties = {x.key: _within(x.cover.on_way, x.wanted - have[x.key]) for x in lines}
    # of what has arrived, it is on hand once it is free, and still on its way until then
    spare = {key: way.quantity for key, (_, way) in open_.items()}
    for x in lines:
        for way in ties[x.key]:
            spare[way.key] = spare.get(way.key, 0) - way.quantity
    for x in lines:
        kept = []
        for way in ties[x.key]:
            arrived = min(way.quantity, max(0, -spare.get(way.key, 0)))
            spare[way.key] = spare.get(way.key, 0) + arrived
            came = free.take(x.wants, arrived)
            here.take(x.wants, came)
            have[x.key] += came
            still = way.quantity - arrived + here.take(x.wants, arrived - came)
            if still:
                kept.append(evolve(way, quantity=still))
        ties[x.key] = tuple(kept)
    # then whoever is short, the earliest promised first
    supply = Supply(
        (open_[key][0], evolve(open_[key][1], quantity=n)) for key, n in spare.items() if n > 0 and key in open_
    )
    for x in lines:
        short = x.wanted - have[x.key] - sum(w.quantity for w in ties[x.key])
        if short > 0:
            came = free.take(x.wants, short)
            have[x.key] += came
            ties[x.key] = _together((*ties[x.key], *supply.take(short - came)))
    for x in sorted(lines, key=lambda x: x.key):
        now = Cover(x.key.order, x.key.line, item, have[x.key], ties[x.key])
        if now != x.cover or state.covers.of_line(x.key) is None:
            yield now


def _within(ways: tuple[Way, ...], quantity: int) -> tuple[Way, ...]:
    """So much of what is tied, the first before the last."""
    kept = []
    for way in ways:
        if (takes := min(way.quantity, quantity)) > 0:
            kept.append(evolve(way, quantity=takes))
            quantity -= takes
    return tuple(kept)


def _together(ways: Iterable[Way]) -> tuple[Way, ...]:
    """One of each line, in the order they stand."""
    found: dict[LineKey, Way] = {}
    for way in ways:
        known = found.get(way.key)
        found[way.key] = evolve(known, quantity=known.quantity + way.quantity) if known else way
    return tuple(found.values())
