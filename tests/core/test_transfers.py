"""A transfer between two sites, each a floor of its own: what leaves the one, in cartons, with lots and numbers, is told to the other and comes there."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

import pytest

from mindful_crate.core.catalog.goods import Order, OrderKind, OrderLine
from mindful_crate.core.catalog.ids import (
    BinCode,
    BinTypeCode,
    CarrierCode,
    CartonKindCode,
    ItemCode,
    OrderNo,
    PartnerCode,
    PlateNo,
    ShipmentNo,
    SiteCode,
    UnitCode,
)
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.places import PlateNeed
from mindful_crate.core.proving.rehearse import meet, pass_on
from mindful_crate.core.rulebook.shipping import Station
from mindful_crate.core.rulebook.steps import Found
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.world import World
from mindful_crate.demo.loader import demo_rules
from tests.core.test_covering import BOOK, GROUND
from tests.core.test_shipping import steps
from tests.core.test_waves import sound
from tests.playbook import Play, new_world

HQ, GL = SiteCode("HQ"), SiteCode("GL")
GOODS = (("AF-RED-25", 2), ("PLOT-12", 2), ("SHK-08", 40))


def transfer(number: str, kind: OrderKind, site: SiteCode, partner: str, *goods: tuple[str, int]) -> Order:
    items = GROUND.items
    lines = tuple(
        OrderLine(n, ItemCode(i), UnitCode(items[ItemCode(i)].base.code), q) for n, (i, q) in enumerate(goods, start=1)
    )
    return Order(OrderNo(number), kind, site, PartnerCode(partner), date(2026, 3, 6), lines, transfer="T-9")


def _numbered(order: Order) -> Order:
    """Its plotters are those with these numbers."""
    numbers = ("P12-2510-0037", "P12-2510-0038")
    return replace(order, lines=tuple(replace(x, serials=numbers if x.item == "PLOT-12" else ()) for x in order.lines))


@pytest.fixture(scope="module")
def ground() -> Ground:
    """The demo with a transfer from the quay to the parts store, whose counter takes plates here; its lines stand otherwise there."""
    o = GROUND.opening
    types = tuple(replace(t, plates=PlateNeed.OPTIONAL) if t.code == BinTypeCode("COUNTER") else t for t in o.bin_types)
    two = (
        _numbered(transfer("TO-9", OrderKind.TRANSFER_OUT, HQ, "S-GL", *GOODS)),
        transfer("TI-9", OrderKind.TRANSFER, GL, "S-HQ", *GOODS[::-1]),
    )
    return Ground(replace(o, bin_types=types, orders=tuple(sorted((*o.orders, *two), key=lambda x: x.number))))


def floors(ground: Ground) -> tuple[Play, World, dict[SiteCode, World]]:
    """The quay, packing what goes to other sites, and the store the same day."""
    book = steps(BOOK)
    packs = replace(
        book.ship_plans[0],
        order_kind=OrderKind.TRANSFER_OUT,
        pack=replace(book.ship_plans[0].pack, on=True, at=Found("PAK")),
    )  # type: ignore[arg-type]
    book = replace(book, ship_plans=(packs,))
    assert Station.PACK in packs.stations
    here = new_world(ground, book)
    there = World(ground, replace(here.state.settings, site=GL), demo_rules(GL, ground), lambda at: at.date())
    return Play(here, "oren", "H1", ("quay",)), there, {HQ: here, GL: there}


def sent(play: Play) -> PlateNo:
    """All of the transfer in a carton, which has left."""
    play.do(acts.ConfirmOrder(OrderNo("TO-9"))).done().do(acts.Wait(60)).do(
        acts.ReleaseOrders((OrderNo("TO-9"),))
    ).done()
    for task in [t for t in play.state.tasks.values() if t.need.value == "pick"]:
        play.do(acts.PickInOffice(task.number, "by paper")).done()
    order = play.state.order(OrderNo("TO-9"))
    assert order is not None
    for line in order.lines:
        play.do(acts.PackInto(BinCode("PACK-1"), order.number, line.no, line.quantity, serials=line.serials)).done()
    (carton,) = play.state.cartons.of(ShipmentNo("SHR-0001"))
    play.do(acts.CloseCarton(carton.number, CartonKindCode("CRATE"))).done()
    play.do(acts.ShipShipment(ShipmentNo("SHR-0001"), CarrierCode("HEAV"))).done()
    return carton.number


def test_a_carton_goes_from_one_site_to_the_other_with_its_lots_and_numbers(ground: Ground) -> None:
    """It is told once the sender's host has agreed, and once; received in one scan; what is on it is what left."""
    play, there, worlds = floors(ground)
    assert not there.state.ordered.is_confirmed(OrderNo("TI-9"))
    carton = sent(play)
    left = play.state.departures[ShipmentNo("SHR-0001")]
    serials = {n for p in left.parcels for n in p.serials}
    assert len(serials) == 2 and not any(there.state.serials.where(ItemCode("PLOT-12"), n) for n in serials)
    play.do(acts.Wait(120)).done()
    meet(worlds, GL)
    meet(worlds, GL)
    pass_on(play.world, worlds)
    asked = [e for e in there.log if isinstance(e.command.act, acts.PassOn)]
    assert len(asked) == 1 and isinstance(asked[0].outcome, ev.Done)
    assert there.state.clock >= play.state.clock
    store = Play(there, "fred", "G1", ("floor",))
    store.do(acts.Wait(60)).done()
    notice, plate = there.state.announced(carton) or (None, None)
    assert notice is not None and plate is not None and notice.order == "TI-9"
    assert {(x.order_line, x.item, x.quantity) for x in plate.lines} == {
        (3, "AF-RED-25", 2),
        (2, "PLOT-12", 2),
        (1, "SHK-08", 40),
    }
    store.opens("F-RECEIVE").scan(carton).done()
    store.do(acts.FinishPlate(carton)).done()
    held = there.state.all_goods(carton)
    assert {(g.item, g.quantity, g.lot, g.expiry) for g in held} == {
        (
            p.goods.item,
            sum(q.goods.quantity for q in left.parcels if q.goods.item == p.goods.item),
            p.goods.lot,
            p.goods.expiry,
        )
        for p in left.parcels
    }
    assert all(there.state.serials.where(ItemCode("PLOT-12"), n) for n in serials)
    sound(play)


def test_what_other_sites_hold_is_not_here(ground: Ground) -> None:
    """A floor's stock, plates and numbers are those of its own site; of each item there is as much on all floors together as at the opening."""
    sites = {
        s: World(ground, replace(new_world(ground, BOOK).state.settings, site=s), BOOK, lambda at: at.date()).state
        for s in ground.sites
    }
    for item in ground.items:
        here = {s: sum(x.goods.quantity for x in state.lines(item)) for s, state in sites.items()}
        assert sum(here.values()) == ground.quantities[item], item
    for s, state in sites.items():
        assert all(ground.site_of(p.bin) == s for p in state.ground.opening.plates)
        assert state.ground.at(s) is state.ground and state.ground.hash == ground.hash
    alone = Ground(
        replace(
            ground.opening,
            stock=sites[HQ].ground.stock,
            serials=sites[HQ].ground.serials,
            plates=sites[HQ].ground.opening.plates,
        )
    )
    assert alone.at(HQ) is alone


def test_what_goes_back_or_to_nobody_is_not_passed_on(ground: Ground) -> None:
    """A transfer the other site has no order for, and one whose shipment was refused by the host."""
    play, there, worlds = floors(ground)
    play.do(acts.SetHost(replace(play.state.host, refuses="the month is closed"))).done()
    sent(play)
    play.do(acts.Wait(120)).done()
    meet(worlds, GL)
    assert not there.log
    order = ground.orders[OrderNo("TO-9")]
    lonely = Ground(replace(ground.opening, orders=tuple(o for o in ground.opening.orders if o.number != "TI-9")))
    play, there, worlds = floors(lonely)
    assert order.transfer == "T-9"
    sent(play)
    play.do(acts.Wait(120)).done()
    meet(worlds, GL)
    assert not there.log
