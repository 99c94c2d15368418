"""The till of a store: what it says is what was there when it copied last, however time passed and whatever was done."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

from hypothesis import given
from hypothesis import strategies as st

from mindful_crate.core.catalog.ids import BinCode, ItemCode
from mindful_crate.core.floor.till import TILL, Till
from mindful_crate.core.work.tilling.matter import sellable, till_due
from mindful_crate.core.world import acts
from tests.core.test_covering import BOOK, GROUND
from tests.playbook import Play, from_snapshot, new_world
from tests.properties import tried

SHELF, ITEM = BinCode("P-01-02-4"), ItemCode("SHK-08")
EVERY = 15


@tried(25)
@given(
    st.lists(
        st.one_of(st.tuples(st.just("wait"), st.integers(1, 40 * 60)), st.tuples(st.just("set"), st.integers(0, 90))),
        max_size=14,
    )
)
def test_it_says_what_was_there_at_its_last_copy(doings: list[tuple[str, int]]) -> None:
    """Against the definition: the stock as it was at the latest quarter of an hour since the till was set."""
    play = Play(new_world(GROUND, BOOK)).do(acts.SetTill(EVERY)).done()
    since = play.state.tills[TILL].since
    was: list[tuple[datetime, int]] = [(since, sellable(play.state)[ITEM])]
    for what, much in doings:
        if what == "wait":
            play.do(acts.Wait(much)).done()
        else:
            play.do(acts.AdjustStock(SHELF, ITEM, much, "counted by hand"))
            entry = play.last
            assert entry is not None
            was.append((entry.command.stamp.at, sellable(play.state)[ITEM]))
        till = play.state.tills[TILL]
        reached = play.state.clock if what == "wait" else play.world.clock_after(play.state.clock)
        copied = since + (reached - since) // timedelta(minutes=EVERY) * timedelta(minutes=EVERY)
        assert play.state.till_says[ITEM] == [n for at, n in was if at <= copied][-1]
        assert 0 <= till.minutes_old(play.state.clock) <= EVERY
        assert from_snapshot(play.state).till_says.all() == play.state.till_says.all()


def test_never_is_never_and_a_floor_at_rest_copies_nothing() -> None:
    """Set to 0 it keeps what it says; where nothing was done since the last copy there is nothing to copy."""
    play = Play(new_world(GROUND, BOOK)).do(acts.SetTill(0)).done("never copies the stock again")
    before = play.state.till_says[ITEM]
    play.do(acts.AdjustStock(SHELF, ITEM, 3, "counted by hand")).done().do(acts.Wait(86_400)).done()
    assert play.state.till_says[ITEM] == before and till_due(play.state) is None
    play.do(acts.SetTill(EVERY)).done()
    assert till_due(play.state) is None and play.state.till_says[ITEM] == sellable(play.state)[ITEM]
    play.do(acts.SetTill(None)).done().do(acts.SetTill(None)).refused("no_till")
    assert not play.state.till_says.all()


def test_its_age() -> None:
    """Since the last quarter when it copies, since the last copy when it never does again."""
    at = datetime(2026, 3, 3, 9, 0, tzinfo=UTC)
    assert Till(15, at, at, 1).minutes_old(at + timedelta(minutes=37)) == 7
    assert Till(0, at, at, 1).minutes_old(at + timedelta(minutes=37)) == 37
