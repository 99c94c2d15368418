"""Opening states: what may not be in one, and that content is the address."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mindful_crate.core.catalog.amounts import sort_key
from mindful_crate.core.catalog.checking import check_opening
from mindful_crate.core.catalog.goods import Barcode, HomeBin, ItemUnit, OrderKind, PlateRow, StockRow
from mindful_crate.core.catalog.opening import Ground, Opening
from mindful_crate.core.catalog.places import ZonePurpose
from mindful_crate.core.catalog.stock import StockTable
from mindful_crate.core.catalog.tables import amend
from mindful_crate.core.floor.state import Settings, State
from mindful_crate.core.placing import kept_ground
from mindful_crate.core.placing.loads import opening_load
from mindful_crate.core.plain import Misfit, canonical
from mindful_crate.core.walking.distance import network_of
from mindful_crate.demo.loader import SITE
from tests.core import small


def broken(o: Opening, what: str) -> Opening:
    """The demo's opening with one thing wrong."""
    first_bin = next(b for b in o.bins if b.code == "DOOR-1")
    first_item = next(i for i in o.items if i.code == "ROPE-06")
    first_order = next(r for r in o.orders if r.number == "PO-1001")
    bins = tuple(b for b in o.bins if b is not first_bin)
    items = tuple(i for i in o.items if i is not first_item)
    no_base = replace(first_item, units=tuple(replace(u, quantity=7) for u in first_item.units))
    flat = replace(first_item, units=(replace(first_item.units[0], height_mm=0),))
    match what:
        case "twin bin":
            return replace(o, bins=(*o.bins, first_bin))
        case "lost zone":
            return replace(o, bins=(replace(first_bin, zone="NO"), *bins))  # type: ignore[arg-type]
        case "no base unit":
            return replace(o, items=(no_base, *items))
        case "flat unit":
            return replace(o, items=(flat, *items), barcodes=())
        case "barcode of no unit":
            return replace(o, barcodes=(Barcode("1", first_item.code, "palace"),))  # type: ignore[arg-type]
        case "order of nobody":
            return replace(o, orders=(replace(first_order, partner="V-0"),))  # type: ignore[arg-type]
        case "line of nothing":
            return replace(o, orders=(replace(first_order, lines=(replace(first_order.lines[0], quantity=0),)),))
        case "plate in two bins":
            plates = [r for r in o.stock if r.plate][:2]
            return replace(o, stock=StockTable.of(replace(r, plate=plates[0].plate) for r in plates))
        case "plate on nothing":
            return replace(o, plates=(replace(o.plates[0], on="LP-X"),))  # type: ignore[arg-type]
        case "plates in a ring":
            one, two = o.plates[0], replace(o.plates[1], bin=o.plates[0].bin)
            return replace(o, plates=(replace(one, on=two.number), replace(two, on=one.number)))
        case "carrier at no time":
            return replace(o, carriers=(replace(o.carriers[0], collects=("16.30",)),))
        case "flat carton":
            return replace(o, carton_kinds=(replace(o.carton_kinds[0], height_mm=0),))
        case "cart of no site":
            return replace(o, carts=(replace(o.carts[0], site="NO"),))  # type: ignore[arg-type]
        case "cart of no totes":
            return replace(o, carts=(replace(o.carts[0], totes=0),))
        case "home of nothing":
            return replace(o, home_bins=(HomeBin(first_item.code, first_bin.code, 9, 3),))
        case _:
            return replace(o, stock=StockTable.of([StockRow(first_bin.code, first_item.code, -1)]))


@pytest.mark.parametrize(
    ("what", "place", "says"),
    [
        ("twin bin", "bins", "stands twice"),
        ("lost zone", "bins/DOOR-1", "zone `NO` does not exist"),
        ("no base unit", "items/ROPE-06", "base unit"),
        ("flat unit", "items/ROPE-06", "above zero"),
        ("barcode of no unit", "barcodes/1", "has no unit `palace`"),
        ("order of nobody", "orders/PO-1001", "partner `V-0`"),
        ("line of nothing", "orders/PO-1001/1", "above zero"),
        (
            "plate in two bins",
            "stock/B-01-02-1, LP-000001, ROPE-10, available, 2026-01-27",
            "stands in `B-01-01-1`, not in",
        ),
        ("plate on nothing", "plates/LP-000001", "plate `LP-X`, which does not exist"),
        ("plates in a ring", "plates/LP-000001", "never in a ring"),
        ("home of nothing", "home_bins/ROPE-06", "contradict"),
        ("carrier at no time", "carriers/BOAT", "write it like 16:30"),
        ("flat carton", "carton_kinds/CRATE", "above zero"),
        ("cart of no site", "carts/CART-1", "site `NO` does not exist"),
        ("cart of no totes", "carts/CART-1", "one tote at least"),
        ("negative stock", "stock/DOOR-1, ROPE-06, available", "above zero"),
    ],
)
def test_a_wrong_opening_is_reported_with_its_place(ground: Ground, what: str, place: str, says: str) -> None:
    """Each kind of mistake is found, placed and told."""
    found = check_opening(broken(ground.opening, what))
    assert any(p.place == place and says in p.says for p in found), found


def test_the_demo_is_sound_and_believable(ground: Ground) -> None:
    """The demo has what its description promises."""
    assert check_opening(ground.opening) == []
    assert len(ground.serials) == sum(ground.quantities[i] for i in ground.numbered) > 1_000
    assert 1300 <= sum(ground.site_of(c) == "HQ" for c in ground.bins) <= 1500
    assert len(ground.zones_of_site["HQ"]) == 13  # type: ignore[index]
    assert 70 <= len(ground.items) <= 90
    kinds = Counter(o.kind for o in ground.orders.values() if o.site == "HQ")
    assert kinds == {
        OrderKind.PURCHASE: 21, OrderKind.SALES: 60, OrderKind.VENDOR_RETURN: 2, OrderKind.TRANSFER: 2,
        OrderKind.TRANSFER_OUT: 2, OrderKind.PRODUCTION: 2, OrderKind.CUSTOMER_RETURN: 3,
    }  # fmt: skip
    customers = [p for p in ground.partners.values() if p.code.startswith("C-")]
    assert len(customers) == 12 and len({p.group for p in customers}) == 3 and all(p.address for p in customers)
    assert all(i.value > 0 for i in ground.items.values())
    expiring = {ground.zones[ground.bins[row.bin].zone].purpose for row in ground.stock if row.expiry}
    assert {ZonePurpose.PICK, ZonePurpose.RESERVE} <= expiring
    assert ground.items["ROPE-12"].unit("coil").quantity == 200  # type: ignore[index,arg-type]


def test_content_is_the_address(ground: Ground) -> None:
    """One quantity changed is another opening state."""
    o = ground.opening
    more = replace(o.stock[0], quantity=o.stock[0].quantity + 1)
    other = replace(o, stock=StockTable.of([more, *o.stock[1:]]))
    assert Ground(replace(o)).hash == ground.hash
    assert Ground(other).hash != ground.hash


def test_bulk_counts_in_the_largest_units(ground: Ground) -> None:
    """450 m of rope are two coils and fifty loose metres."""
    rope = ground.items["ROPE-12"]  # type: ignore[index]
    metre, coil = rope.units
    assert rope.bulk(450) == (2 * coil.volume_mm3 + 50 * metre.volume_mm3, 2 * coil.weight_mg + 50 * metre.weight_mg)
    assert rope.told_in(1, coil) == "1 coil (200 m)"
    assert isinstance(coil, ItemUnit)


def test_the_way_leads_over_a_cross_aisle(ground: Ground) -> None:
    """Between aisles one walks to the nearer cross aisle; within one, straight along it."""
    network = network_of(ground, SITE)
    assert network.metres("B-01-01-1", "B-01-20-1") == 29  # 28.5 m
    assert network.metres("B-01-20-1", "B-02-20-1") == 4 + 2  # 4 m across, 1 m to the cross aisle at 40 m and 1 m back


@given(small.stocks())
def test_a_ground_kept_as_bytes_is_the_same_ground(stock: tuple[tuple[StockRow, ...], tuple[PlateRow, ...]]) -> None:
    """Opening, hash, rows of a bin and an item, and the sums of bins survive; rows come in one order, whatever
    order they were given in, and so do the lines of an item."""
    ground = small.site(*stock)
    again = kept_ground.read(kept_ground.keep(ground))
    assert (again.opening, again.hash) == (ground.opening, ground.hash)
    assert StockTable.of(reversed(stock[0])) == ground.stock
    for code in ground.bins:
        rows = [ground.stock[n] for n in ground.stock.rows_of_bin(code)]
        assert sorted(map(repr, rows)) == sorted(repr(r) for r in stock[0] if r.bin == code)
        assert opening_load(again, code) == opening_load(ground, code)
        held = State(ground, Settings("S", small.STARTS)).held_without(code, (), None)  # type: ignore[arg-type]
        assert opening_load(ground, code) == (held.volume_mm3, held.weight_mg, held.plates)
    for item in ground.items:
        assert sum(ground.stock[n].quantity for n in ground.stock.rows_of_item(item)) == ground.quantities[item]
        lines = State(ground, Settings("S", small.STARTS)).lines(item)  # type: ignore[arg-type]
        assert list(lines) == sorted(lines, key=lambda x: (x.bin, x.plate or "", sort_key(x.goods)))
        assert Counter(x.goods.quantity for x in lines) == Counter(r.quantity for r in stock[0] if r.item == item)


@given(small.stocks(), st.data())
def test_the_catalogue_is_written_the_same_table_by_table(
    stock: tuple[tuple[StockRow, ...], tuple[PlateRow, ...]], data: st.DataObject
) -> None:
    """Also after changes, when tables that did not change are known from before."""
    opening = small.site(*stock).opening
    for _ in range(3):
        assert opening.catalogue() == canonical(replace(opening, stock=StockTable.of()))
        name = data.draw(st.sampled_from(["bins", "items", "partners", "series", "plates", "home_bins"]))
        rows = getattr(opening, name)
        opening = replace(
            opening, **{name: tuple(data.draw(st.permutations(rows)))[: data.draw(st.integers(0, len(rows)))]}
        )


def test_bytes_that_are_no_ground_are_refused() -> None:
    """What another version kept is not guessed at."""
    with pytest.raises(Misfit, match="no opening state"):
        kept_ground.read(b"{}")


@pytest.mark.parametrize(
    ("table", "change", "says"),
    [
        ("orders", {"carrier": "NONE"}, "carrier `NONE` does not exist"),
        ("orders", {"carrier": "TIDE", "service": "launch"}, "carrier `TIDE` has no service `launch`"),
        ("orders", {"service": "launch"}, "it names no carrier for service `launch`"),
        ("orders", {"priority": 0}, "its priority is from 1 (first) to 9, not 0"),
        ("pack_stations", {"bin": "NONE"}, "bin `NONE` does not exist"),
        ("pack_stations", {"site": "GL"}, "bin `PACK-1` is at site `HQ`"),
        ("trucks", {"time": "noon"}, "`noon` is no time of day; write it like 16:30"),
        ("trucks", {"door": "SLIPWAY"}, "door `SLIPWAY` is at site `SW`"),
        ("trucks", {"carrier": "NONE"}, "carrier `NONE` does not exist"),
    ],
)
def test_what_goes_out_is_checked_as_well(ground: Ground, table: str, change: dict[str, object], says: str) -> None:
    """An order's carrier, service and priority; where orders are packed; which truck comes to which door, and when."""
    first = next(r for r in getattr(ground.opening, table) if table != "orders" or not r.carrier)
    opening, _ = amend(ground.opening, {table: [replace(first, **change)]})
    assert [p.says for p in check_opening(opening)] == [says]


def test_serials_fixed_in_advance_are_each_for_one_piece(ground: Ground) -> None:
    """None twice, and no more than the line asks for."""
    order = ground.opening.orders[0]
    line = order.lines[0]
    for serials, few in ((("A", "A"), line.quantity), (("A", "B"), 1)):
        wrong = replace(order, lines=(replace(line, serials=serials, quantity=few), *order.lines[1:]))
        opening, _ = amend(ground.opening, {"orders": [wrong]})
        assert "its serials are each for one piece" in check_opening(opening)[0].says
