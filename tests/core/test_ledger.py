"""Stock as a ledger: opening and what entered, without what left, is what is there, whatever does it; and all of it can be
taken back."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import BinCode, ItemCode, PersonId, PlateNo
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.ledger import Account, Cause
from mindful_crate.core.floor.plates import in_bin, on_plate, with_person
from mindful_crate.core.floor.state import Settings, State
from mindful_crate.core.plain import Misfit, canonical
from mindful_crate.core.world.invariants import broken
from mindful_crate.demo.loader import SITE, demo_opening
from tests.playbook import STARTS, from_snapshot
from tests.properties import tried

GROUND = Ground(demo_opening())
SPOTS = [
    in_bin(BinCode("P-01-01-2")),
    in_bin(BinCode("P-04-07-1")),
    in_bin(BinCode("RCV-01")),
    on_plate(PlateNo("LP-000230")),
]
SHACKLE = ItemCode("SHK-06")
Verb = tuple[str, int, int, int]


def do(state: State, verb: Verb) -> None:
    """One verb; whatever is not there in full is taken as far as it is."""
    what, at, to, much = verb
    spot = SPOTS[at]
    there = next((g for g in state.ledger.at(spot) if g.item == SHACKLE), None)
    if what == "enter":
        state.ledger.enter(Cause.ADJUSTMENT, spot, (Goods(SHACKLE, much, arrived=STARTS.date()),))
    elif there is not None:
        some = replace(there, quantity=min(much, there.quantity))
        if what == "leave":
            state.ledger.leave(Cause.SHIPMENT, spot, (some,))
        elif what == "shift":
            state.ledger.move((some,), spot, SPOTS[to])
        else:
            state.ledger.turn(spot, some, replace(some, status=Status.DAMAGED))


VERBS = st.tuples(
    st.sampled_from(["enter", "leave", "shift", "turn"]), st.integers(0, 3), st.integers(0, 3), st.integers(1, 90)
)


@tried(20)
@given(st.lists(VERBS, max_size=12), st.lists(VERBS, max_size=8))
def test_nothing_is_made_or_lost_but_for_a_cause(done: list[Verb], tried: list[Verb]) -> None:
    """After any verbs the invariants hold, which know no verb's reason; a snapshot says the same; what was only tried is
    gone."""
    state = State(GROUND, Settings(SITE, STARTS))
    for verb in done:
        do(state, verb)
        assert broken(state) == []
    before = canonical(state.kept())
    lines = [*state.lines(SHACKLE)]
    with state.tentatively():
        for verb in tried:
            do(state, verb)
        assert broken(state) == []
    assert canonical(state.kept()) == before and [*state.lines(SHACKLE)] == lines
    again = from_snapshot(state)
    assert canonical(again.kept()) == before and [*again.lines(SHACKLE)] == lines and broken(again) == []


def test_what_changes_stock_past_the_ledger_is_found() -> None:
    """Goods that nobody accounts for break the first invariant."""
    state = State(GROUND, Settings(SITE, STARTS))
    state.ledger.lay(SPOTS[0], (Goods(SHACKLE, 7),))
    assert any("by the ledger" in b for b in broken(state))


def test_the_ledger_refuses_what_is_no_entry() -> None:
    """More than there is, another item in its place, a spot that holds no goods, an account that is none."""
    state = State(GROUND, Settings(SITE, STARTS))
    here = state.ledger.at(SPOTS[0])[0]
    with pytest.raises(ValueError, match="is not there"):
        state.ledger.take(SPOTS[0], (replace(here, quantity=here.quantity + 1),))
    with pytest.raises(ValueError, match="does not turn"):
        state.ledger.turn(SPOTS[0], here, replace(here, item=ItemCode("ROPE-12")))
    with pytest.raises(ValueError, match="no goods lie"):
        state.ledger.lay(with_person(PersonId("oren")), (here,))
    assert Account.from_plain("receipt ROPE-12", "") == (Cause.RECEIPT, "ROPE-12")
    for text in ("", "gift ROPE-12", "receipt", 7):
        with pytest.raises(Misfit):
            Account.from_plain(text, "")
