"""How far the stock of an item is: noted, arrived, booked, free, as they change one after another."""

from __future__ import annotations

from mindful_crate.core.catalog.ids import ItemCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.proving.levels import Levels, levels_of
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.steps import BookingPoint
from mindful_crate.core.world import acts
from tests.core.test_recipes import ways
from tests.playbook import Play, barcode, new_world

SHK = ItemCode("SHK-08")


def test_noted_arrived_and_free_are_three_numbers(ground: Ground, rulebook: Rulebook) -> None:
    """Noted is no stock; finished it is on its way and not booked; put away it is free; kept for somebody, or in a bin that is closed, it is
    not; and all that is stock is one of these."""
    play = Play(new_world(ground, ways(rulebook, *rulebook.recipes, booking=BookingPoint.BY_HAND)))

    def now() -> Levels:
        found = levels_of(play.state, SHK)
        here = [
            g.quantity
            for code, _, g in play.state.stock()
            if g.item == SHK and (code is None or ground.site_of(code) == "HQ")
        ]
        assert found.on_its_way + found.free + found.kept + found.barred == sum(here)
        return found

    first = now()
    play.opens("F-RECEIVE").scan("PO-1001").scan(barcode(ground, SHK, "box")).type("5").done()
    noted = now()
    assert (noted.noted, noted.free, noted.on_its_way) == (250, first.free, first.on_its_way)
    play.press("finish").done()
    arrived = now()
    assert (arrived.noted, arrived.not_booked, arrived.on_its_way) == (0, 250, first.on_its_way + 250)
    (task,) = play.state.tasks.values()
    play.press("leave").opens("F-PUTAWAY").scan(task.plate or "").done()
    assert now() == arrived, "carried it is still on its way"
    play.scan(task.to_bin or "").done()
    away = now()
    assert (away.free, away.on_its_way, away.not_booked) == (first.free + 250, first.on_its_way, 250)
    (receipt,) = play.state.receipts.values()
    play.do(acts.BookReceipt(receipt.number)).done()
    assert now().not_booked == 0
    play.do(acts.BlockBin(task.to_bin, "rack bent")).done()  # type: ignore[arg-type]
    assert (now().kept, now().free) == (first.kept + 250, first.free)
    before = now()
    play.do(acts.ReserveStock("a chandler", SHK, 300)).done()
    more = now().kept - before.kept  # the rules may keep some where it arrives
    assert 0 < more <= 300 and now().free == before.free - more
