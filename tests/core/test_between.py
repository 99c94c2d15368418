"""Stock before and after: just the rows that are others, found from what changed, are those that whole lists tell."""

from __future__ import annotations

from collections import Counter
from functools import cache

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.plates import in_bin, on_plate
from mindful_crate.core.floor.state import State
from mindful_crate.core.proving.rehearse import run
from mindful_crate.core.world.between import mark, stock_since
from mindful_crate.core.world.fold import apply
from mindful_crate.core.world.world import World
from mindful_crate.demo.loader import demo_opening, demo_rehearsals, demo_rules
from mindful_crate.files import gs1

PLAYED = (
    "rope-by-the-pallet", "taken-back-unannounced", "lots-and-numbers-counted", "two-pallets-become-one", "the-number-of-another-piece",
    "a-pallet-broken-on-the-way", "partly-shipped", "a-plate-missing-a-plate-found", "stock-set-with-a-reason",
)  # fmt: skip


@cache
def ground() -> Ground:
    return Ground(demo_opening())


@cache
def played(name: str) -> World:
    script = next(s for s in demo_rehearsals() if s.id == name)
    return run(script, ground(), demo_rules(script.site, ground()), lambda at: at.date(), gs1.split)[1]


def whole(state: State) -> tuple[Counter[tuple[object, ...]], dict[tuple[object, ...], set[str]]]:
    """All stock of the site by row, and the numbers of its pieces, from the list that everybody sees."""
    rows: Counter[tuple[object, ...]] = Counter()
    numbers: dict[tuple[object, ...], set[str]] = {}
    for code, plate, goods in state.stock():
        if code and state.ground.site_of(code) != state.settings.site:
            continue
        row = (code or "", plate.number if plate else "", goods.item, goods.lot, goods.expiry, goods.status)
        rows[row] += goods.quantity
        spot = on_plate(plate.number) if plate else in_bin(code) if code else None
        if spot and goods.item in state.serials.kept:
            numbers.setdefault(row, set()).update(state.serials.at(spot, goods))
    return rows, numbers


def test_the_number_of_a_piece_goes_with_its_plate() -> None:
    """A carton is staged: the piece in it is elsewhere, though nothing but its carton was moved."""
    world = played("the-number-of-another-piece")
    staged = next(e.seq for e in world.log if "STG-04" in e.says)
    state = world.branch(staged - 1).state
    was = mark(state)
    apply(state, world.log[staged - 1])
    left, came = stock_since(state, was)
    assert (left.bin, left.gone, left.came) == ("PACK-1", ("P12-2510-0037",), ())
    assert (came.bin, came.gone, came.came) == ("STG-04", (), ("P12-2510-0037",))


@pytest.mark.parametrize("name", PLAYED)
@settings(deadline=None, max_examples=4)
@given(data=st.data())
def test_rows_that_are_others(name: str, data: st.DataObject) -> None:
    """From any entry to any later one: each row with what there was and is, no row that is as before, and the very numbers."""
    log = played(name).log
    first = data.draw(st.integers(0, len(log)))
    last = data.draw(st.integers(first, len(log)))
    state = played(name).branch(first).state
    was, (before, had) = mark(state), whole(state)
    for entry in log[first:last]:
        apply(state, entry)
    after, has = whole(state)
    found = stock_since(state, was)
    told: Counter[tuple[object, ...]] = Counter()
    for row in found:
        key = (row.bin, row.plate, row.item, row.lot, row.expiry, row.status)
        told[key] += row.after - row.before
        if row.bin:
            assert (before[key], after[key]) == (row.before, row.after)
            assert set(row.gone) == had.get(key, set()) - has.get(key, set())
            assert set(row.came) == has.get(key, set()) - had.get(key, set())
    other = {key: after[key] - before[key] for key in {*before, *after} if before[key] != after[key]}
    assert {key: n for key, n in told.items() if n} == other
