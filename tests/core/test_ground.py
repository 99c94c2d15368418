"""Where things are, laid out and amended: blocks of bins, tables, first rules, what no longer is there."""

from __future__ import annotations

from dataclasses import replace
from datetime import date
from itertools import pairwise
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.beginnings import first_opening, order_to_receive
from mindful_crate.core.catalog.checking import check_opening, gtin_check_digit
from mindful_crate.core.catalog.goods import Barcode, OrderKind
from mindful_crate.core.catalog.ids import OrderNo
from mindful_crate.core.catalog.layout import Block, WalkOrder, code_of, lay_out
from mindful_crate.core.catalog.opening import Ground, Opening
from mindful_crate.core.catalog.places import Site, Zone, ZonePurpose
from mindful_crate.core.catalog.tables import TABLES, amend, used_by
from mindful_crate.core.floor.state import Settings, State
from mindful_crate.core.placing.choose import choose
from mindful_crate.core.placing.request import BinRequest
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.findings.finding import usable
from mindful_crate.core.proving.findings.whole import findings
from mindful_crate.core.proving.moving_over import Moved, moved
from mindful_crate.core.proving.on_handset import Shown, orders_shown
from mindful_crate.core.rulebook.bin_rules import BinPurpose
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.starter import starter
from mindful_crate.core.work.receiving.checks import receivable_orders
from mindful_crate.demo.loader import demo_rehearsals
from tests.core import small
from tests.playbook import Play, barcode, new_world

SITE = Site("NB", "North Basin", "UTC")  # type: ignore[arg-type]
LANES = Block("RCV", "Receiving", ZonePurpose.RECEIVING, "LANE", aisles=3, pattern="{zone}-{aisle}")  # type: ignore[arg-type]
RACKS = Block("RSV", "Reserve", ZonePurpose.RESERVE, "RACK", 2, 5, 3, y_mm=9_000)  # type: ignore[arg-type]


def with_site(*blocks: Block, opening: Opening | None = None) -> Opening:
    """A site with these blocks laid out."""
    bare = amend(opening or first_opening(), {"sites": [SITE]})[0]
    laid = lay_out(bare, SITE.code, blocks)
    assert laid.problems == ()
    return amend(bare, {"zones": laid.zones, "bins": laid.bins})[0]


@settings(max_examples=150, deadline=None)
@given(
    st.integers(1, 5), st.integers(1, 7), st.integers(1, 4), st.integers(1, 3), st.integers(1, 40), st.integers(1, 40),
    st.sampled_from(list(WalkOrder)), st.sampled_from(["", ":A", ":3", ":02"]),
)  # fmt: skip
def test_a_block_is_laid_out_whole(
    aisles: int, bays: int, levels: int, slots: int, first_aisle: int, first_bay: int, walk: WalkOrder, form: str
) -> None:
    """As many bins as its numbers say, each with a code, a place and a turn of its own; and the walk never jumps back
    to an aisle it has left."""
    block = replace(
        RACKS, aisles=aisles, bays=bays, levels=levels, slots=slots, first_aisle=first_aisle, first_bay=first_bay,
        walk=walk, pattern=f"{{zone}}.{{aisle}}-{{bay:02}}-{{level{form}}}.{{slot:A}}",
    )  # fmt: skip
    bins = lay_out(with_site(LANES), SITE.code, (block,)).bins
    assert len(bins) == aisles * bays * levels * slots
    assert len({b.code for b in bins}) == len({(b.x_mm, b.y_mm, b.level) for b in bins}) == len(bins)
    assert [b.walk for b in bins] == list(range(4, 4 + len(bins)))
    assert len(list(dict.fromkeys(b.x_mm for b in bins))) == aisles
    changes = sum(a.x_mm != b.x_mm for a, b in pairwise(bins))
    assert changes == aisles - 1
    if walk is WalkOrder.BACK_AND_FORTH and slots == levels == 1:
        assert all(abs(a.y_mm - b.y_mm) <= block.bay_pitch_mm for a, b in pairwise(bins))


@pytest.mark.parametrize(
    ("change", "code", "says"),
    [
        ({"zone": "rsv"}, "bad_zone", "capital letters"),
        ({"zone": "RCV"}, "zone_purpose", "a receiving zone already"),
        ({"bin_type": "CAVE"}, "no_bin_type", "no bin type `CAVE`"),
        ({"aisles": 0}, "bad_count", "at least one aisle"),
        ({"x_mm": -1}, "off_the_map", "nothing lies before it"),
        ({"aisle_pitch_mm": 0}, "no_pitch", "distance from one another"),
        ({"height_mm": 0}, "no_height", "above zero"),
        ({"pattern": "R-{aisle}-{bay}"}, "same_code", "leaves out {level}, so 3 bins would have one code"),
        ({"pattern": "{aisle}-{bay}-{level}-{shelf}"}, "bad_pattern", "`{shelf}`, which says nothing"),
        ({"pattern": "{aisle:x}-{bay}-{level}"}, "bad_pattern", "`{aisle:x}`"),
        ({"pattern": "r {aisle}-{bay}-{level}"}, "bad_pattern", "capital letters, digits"),
        ({"aisles": 2_000, "bays": 2_000}, "too_many_bins", "12,000,000 bins"),
        ({"pattern": "RCV-{aisle}{bay}{level}", "y_mm": 0}, "on_top", "`RCV-1` is"),
        ({"bin_type": "LANE", "levels": 1, "bays": 1, "pattern": "RCV-{aisle}"}, "code_taken", "`RCV-1` is there already"),
    ],
)  # fmt: skip
def test_a_block_that_cannot_be_is_refused_in_words(change: dict[str, Any], code: str, says: str) -> None:
    """Each slip has a sentence that says what is so."""
    found = lay_out(with_site(LANES), SITE.code, (replace(RACKS, **change),)).problems
    assert any(p.code == code and says in p.says for p in found), found


def test_codes_by_patterns() -> None:
    """Digits, letters past Z, and the zone."""
    assert code_of("{zone}-{aisle:03}-{level:A}", zone="R", aisle=7, bay=1, level=28, slot=1) == "R-007-AB"


def test_zones_of_another_site_are_told(ground: Ground) -> None:
    """A zone code is one site's."""
    opening = amend(ground.opening, {"sites": [SITE]})[0]
    found = lay_out(opening, SITE.code, (RACKS,)).problems
    assert any("`RSV` is at site `HQ`" in p.says for p in found)


def test_first_rules_work_at_once(ground: Ground) -> None:
    """The rules written from zones have no blocking finding, send goods to storage, hazard to where it is admitted; and
    without a place to receive or to store they say so or leave put-away off."""
    hazard = replace(RACKS, zone="HZ", purpose=ZonePurpose.HAZARD, bin_type="CAGE", x_mm=50_000)  # type: ignore[arg-type]
    opening = first_opening()
    opening = replace(opening, bin_types=(*opening.bin_types, ground.bin_types["CAGE"]), items=ground.opening.items)  # type: ignore[index]
    made = Ground(with_site(LANES, RACKS, hazard, opening=opening))
    book = starter("x", made, SITE.code)
    assert usable(findings(book, made, SITE.code))
    state = State(made, Settings(SITE.code, small.STARTS))
    zones = {}
    for item in ("ROPE-12", next(i.code for i in made.opening.items if i.hazard_class == "1.4")):
        request = BinRequest(SITE.code, BinPurpose.PUT_AWAY, (Goods(item, 1),), "PAL")  # type: ignore[arg-type]
        found = choose(request, book.rules_for(SITE.code, BinPurpose.PUT_AWAY), state).bin
        assert found
        zones[item] = made.bins[found].zone
    assert list(zones.values()) == ["RSV", "HZ"]
    room = starter("x", Ground(with_site(LANES)), SITE.code)
    assert not room.step_plans[0].put_away.on and usable(findings(room, Ground(with_site(LANES)), SITE.code))
    with pytest.raises(Refusal, match="no place to receive"):
        starter("x", Ground(with_site(RACKS)), SITE.code)
    with pytest.raises(Refusal, match="no kind of plate"):
        starter("x", Ground(replace(with_site(LANES), plate_kinds=())), SITE.code)


@settings(max_examples=60, deadline=None)
@given(small.stocks(), st.data())
def test_what_is_put_in_is_there_and_nothing_else_changes(stock: Any, data: st.DataObject) -> None:
    """Rows of a table taken out and put in again give the same opening; the change says what was new, changed, gone."""
    opening = small.floor(*stock).ground.opening
    sorted_ = amend(opening, {name: list(getattr(opening, name)) for name in TABLES})[0]
    name = data.draw(st.sampled_from([n for n in TABLES if len(getattr(opening, n))]))
    rows = list(getattr(sorted_, name))
    some = data.draw(st.lists(st.sampled_from(rows), unique_by=TABLES[name].key))
    keys = {TABLES[name].key(r) for r in some}
    less, (gone,) = amend(sorted_, {}, {name: keys})
    assert gone.gone == len(keys) and len(getattr(less, name)) == len(rows) - len(keys)
    again, (new,) = amend(less, {name: some})
    assert again == sorted_ and again.hash == sorted_.hash and new.new == len(keys) and not new.changed
    assert amend(again, {name: some})[1][0].idle


def test_a_sites_own_rows_are_replaced_for_that_site_alone(ground: Ground) -> None:
    """The whole of a table means the whole of what is the site's; the other site keeps its bins."""
    block = replace(LANES, zone="NRCV")  # type: ignore[arg-type]
    opening = with_site(block, opening=ground.opening)
    mine = [b for b in opening.bins if b.zone == "NRCV"][:1]
    after, (change,) = amend(opening, {"bins": mine}, whole=True, site=SITE.code)
    assert change.gone == 2 and len(after.bins) == len(opening.bins) - 2
    assert check_opening(after) == []


def test_what_is_used_says_by_what(ground: Ground) -> None:
    """In words, for everything that others may need."""
    o = ground.opening
    assert used_by(o, "items", "ROPE-12") == [
        "9 rows of stock of it", "2 orders with it", "2 barcodes of it",
    ] or used_by(o, "items", "ROPE-12")[0] == "9 rows of stock of it"  # fmt: skip
    assert used_by(o, "bins", "B-01-01-1") == ["1 row of stock lies in it", "1 plate stands in it"]
    assert used_by(o, "zones", "DOR") == ["3 bins in it", "2 printers that serve it"]
    assert used_by(o, "sites", "HQ") == [
        "13 zones of it", "92 orders for it", "3 carts of it", "4 pack stations of it", "6 printers of it", "4 trucks expected there", "2 channels it serves",
    ]  # fmt: skip
    assert used_by(o, "partners", "V-120")[0].endswith("with it")
    assert used_by(o, "bin_types", "DOOR") == ["3 bins of this type"]
    assert used_by(o, "plates", "LP-000001") == ["1 row of stock on it"]
    assert used_by(o, "plate_kinds", "PAL")[0].endswith("plates of this kind")
    assert "3 carts for totes of this kind" in used_by(o, "plate_kinds", "TOTE")
    assert used_by(o, "bins", "DOOR-1") == ["1 truck expected at it"]
    assert used_by(o, "bins", "PACK-1") == ["1 pack station at it"] and used_by(o, "bins", "RCV-01") == []
    assert used_by(o, "carriers", "BOAT")[0].endswith("orders it takes")


@pytest.mark.parametrize("code", ["4006381333931", "96385074", "036000291452", "00012345600012"])
def test_check_digits_of_barcodes(code: str, ground: Ground) -> None:
    """Right ones are let through, any other last digit is told with the right one; other codes have none."""
    assert gtin_check_digit(code) == code[-1]
    for wrong in set("0123456789") - {code[-1]}:
        bad = replace(ground.opening, barcodes=(Barcode(code[:-1] + wrong, "ROPE-12", "m"),))  # type: ignore[arg-type]
        assert [p.says for p in check_opening(bad)] == [
            f"the check digit should be {code[-1]}, not {wrong}: a digit is wrong"
        ]
    assert gtin_check_digit("ROPE-12") is gtin_check_digit("123456") is None


def test_a_test_order_can_be_received(ground: Ground) -> None:
    """Items with barcodes, whole units, a vendor there is; another number each time; a vendor made when there is none."""
    o = ground.opening
    order, new = order_to_receive(o, ground.opening.sites[0].code, date(2026, 3, 3))
    assert new == () and order.confirmed and len(order.lines) == 3
    barred = {(b.item, b.unit) for b in o.barcodes}
    for line in order.lines:
        assert (line.item, line.unit) in barred
        assert line.quantity % ground.items[line.item].unit(line.unit).quantity == 0
    more = amend(o, {"orders": [order]})[0]
    assert check_opening(more) == []
    assert order_to_receive(more, o.sites[0].code, date(2026, 3, 3))[0].number == "TEST-002"
    bare = replace(with_site(LANES), items=o.items[:2], barcodes=o.barcodes)
    _, (vendor,) = order_to_receive(bare, SITE.code, date(2026, 3, 3))
    assert vendor.code == "TEST-VENDOR"
    with pytest.raises(Refusal, match="no item yet"):
        order_to_receive(with_site(LANES), SITE.code, date(2026, 3, 3))


def test_a_rehearsal_says_what_it_no_longer_finds(ground: Ground) -> None:
    """Bins, orders and items it names; nothing when all is there."""
    script = next(s for s in demo_rehearsals() if s.id == "rope-by-the-pallet")
    assert moved(script, ground, ground) == Moved()
    less = Ground(
        replace(ground.opening, orders=(), items=tuple(i for i in ground.opening.items if i.code != "ROPE-12"))
    )
    found = moved(script, ground, less).gone
    assert "order `PO-1007`" in found and "item `ROPE-12`" in found


def test_why_an_order_is_or_is_not_on_a_handset(ground: Ground, rulebook: Rulebook) -> None:
    """Every switch on its own: confirmed, open, a plan, a flow on a menu; and what the handset lists is what is shown."""
    world = new_world(ground, rulebook)

    def why(book: Rulebook) -> dict[str, Shown]:
        return {s.order: s for s in orders_shown(world.state, book)}

    listed = {o.number for o in receivable_orders(world.state)}
    shown = why(rulebook)
    assert {n for n, s in shown.items() if s.shown} == listed - {"PO-1013"} and len(shown) == 92
    assert shown["PO-1013"].says.startswith("`PO-1013` waits to be unloaded: step plan Care products by truck")
    assert shown["PO-1001"].says.startswith("On the menu of Quay crew with Receive to a pallet")
    assert shown["PO-1007"].says == "Not confirmed: its buyer confirms it in the host."
    off = why(replace(rulebook, menus=()))["PO-1001"]
    assert [a.holds for a in off.agrees] == [True, True, True, False] and "is on no crew's menu" in off.says
    none = why(replace(rulebook, flows=(), menus=()))["PO-1001"]
    assert none.says == "No flow receives. Make one on Scanner."
    sales = replace(rulebook, step_plans=(replace(rulebook.step_plans[0], order_kind=OrderKind.SALES),))
    assert why(sales)["PO-1001"].says == "No step plan is for purchase orders. Widen one, or add one, on Steps."
    play = Play(world)
    play.opens("F-RECEIVE").scan("PO-1001")
    for line in ground.orders[OrderNo("PO-1001")].lines:
        play.scan(barcode(ground, line.item, line.unit)).press("confirm")
    assert why(rulebook)["PO-1001"].says == "Nothing of it is open: all has arrived or is on a plate."


def test_zone_of_no_site_is_still_a_problem(ground: Ground) -> None:
    """Amending checks nothing; checking does."""
    lost, _ = amend(ground.opening, {"zones": [Zone("ZZ", "NO", "Lost", ZonePurpose.BULK)]})  # type: ignore[arg-type]
    assert [p.says for p in check_opening(lost)] == ["site `NO` does not exist"]
