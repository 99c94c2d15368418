"""Settings by level, what holds at a site, and whether everything agrees."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mindful_crate.core.catalog.goods import LotOrder, OrderKind, Tracking
from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.places import STORAGE, PlateNeed
from mindful_crate.core.floor.state import Settings, State
from mindful_crate.core.proving.agreement import agreement, chosen_bin
from mindful_crate.core.proving.effective import TABLES, effective
from mindful_crate.core.rulebook.bin_rules import BinPurpose
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import OtherBin
from mindful_crate.core.rulebook.settings import BUILT_IN, Level, SettingsLayer, held, levels
from mindful_crate.core.rulebook.starter import starter
from mindful_crate.core.rulebook.steps import BookingPoint
from mindful_crate.core.rulebook.words.parts import words_of
from mindful_crate.core.rulebook.words.scanner import flow_sentence
from mindful_crate.core.rulebook.words.steps import plan_sentence
from tests.playbook import STARTS, Play, barcode, new_world

HQ = SiteCode("HQ")
OTHER = SiteCode("XX")


def maybe(name: str) -> st.SearchStrategy[Any]:
    return st.none() | st.sampled_from(list(TABLES[name]))


@given(st.data(), st.sampled_from(sorted(TABLES)))
def test_the_nearest_level_holds(data: st.DataObject, name: str) -> None:
    """Own before site before general before what is built in; another site's layer never matters."""
    own, site, general, other = (data.draw(maybe(name)) for _ in range(4))
    layers = [
        SettingsLayer("XX", OTHER, **{name: other}),
        SettingsLayer("general", **{name: general}),
        SettingsLayer("HQ", HQ, **{name: site}),
    ]
    expected = next(v for v in (own, site, general, BUILT_IN[name]) if v is not None)
    assert held(layers, name, HQ, own) == expected
    listed = levels(layers, name, HQ, own)
    assert [v for _, v in listed] == [v for v in (own, site, general) if v is not None] + [BUILT_IN[name]]
    assert held(layers[1:], name, HQ, own) == held(layers, name, HQ, own)


def with_settings(book: Rulebook, *layers: SettingsLayer) -> Rulebook:
    """The rulebook with its own words on these taken out, and layers put in."""
    flows = tuple(replace(f, other_bin=None, next_item_confirms=None) for f in book.flows)
    plans = tuple(replace(p, booking=None) for p in book.step_plans)
    return replace(book, flows=flows, step_plans=plans, settings=layers)


def test_settings_govern_the_floor(ground: Ground, rulebook: Rulebook) -> None:
    """A site that books at put-away, lets no other bin be taken and wants each quantity confirmed does so; the general
    layer holds only where the site says nothing."""
    site = SettingsLayer("HQ", HQ, BookingPoint.PUT_AWAY, None, False)
    book = with_settings(rulebook, SettingsLayer("general", None, BookingPoint.BY_HAND, OtherBin.NEVER, True), site)
    play = Play(new_world(ground, book)).confirm("PO-1007").opens("F-RECEIVE").scan("PO-1007")
    play.scan(barcode(ground, "ROPE-12", "coil")).scan(barcode(ground, "ROPE-10", "coil")).refused("confirm_first")
    play.type("1").press("finish").done()
    receipt = next(iter(play.state.receipts.every())).number
    assert not play.state.receipts[receipt].told
    task = next(iter(play.state.tasks.every()))
    other = next(c for c in ground.bins if c.startswith("B-") and c != task.to_bin and not play.state.held(c).plates)
    play.opens("F-PUTAWAY").scan(task.plate).scan(other).refused("not_the_bin")
    play.scan(task.to_bin).done()
    assert play.state.receipts[receipt].told


def test_sentences_say_where_a_value_comes_from(rulebook: Rulebook) -> None:
    """The same words as when it is set there, and in brackets from which level."""
    layers = (
        (SettingsLayer("general", None, BookingPoint.BY_HAND), SettingsLayer("HQ", HQ, None, OtherBin.REASON)),
        HQ,
    )
    plan = replace(rulebook.step_plans[0], booking=None)
    assert "by hand, from the office (as set for all sites)" in words_of(plan_sentence(plan, "", layers))
    flow = replace(next(f for f in rulebook.flows if f.id == "F-PUTAWAY"), other_bin=None)
    assert "with a reason, if the goods fit (as set for this site)" in words_of(flow_sentence(flow, "", layers))
    assert "(as usual)" in words_of(flow_sentence(flow))
    assert "(" not in words_of(flow_sentence(replace(flow, other_bin=OtherBin.NEVER), "", layers))


def test_what_holds_names_its_level_and_the_next(ground: Ground, rulebook: Rulebook) -> None:
    """Every plan, list, recipe and flow of the site is there; taking the level away gives what is said otherwise."""
    site = SettingsLayer("HQ", HQ, None, OtherBin.REASON)
    book = with_settings(rulebook, SettingsLayer("general", None, None, OtherBin.NEVER), site)
    own = replace(book.step_plans[0], id="SP-9", name="Quay plan", site=HQ)
    book = replace(book, step_plans=(*book.step_plans, own))
    rows = {(r.of, r.setting): r for r in effective(book, ground, HQ)}
    plan = rows["Purchase orders", "Step plan"]
    assert (plan.value, plan.level, plan.otherwise) == ("Quay plan", Level.SITE, rulebook.step_plans[0].name)
    away = next(f for f in book.flows if f.id == "F-PUTAWAY")
    other = rows[away.name, "Another bin than the one shown"]
    assert (other.level, other.otherwise) == (Level.SITE, "is never taken, as set for all sites")
    without = {(r.of, r.setting): r for r in effective(replace(book, settings=book.settings[:1]), ground, HQ)}
    assert other.otherwise.startswith(without[away.name, "Another bin than the one shown"].value)
    assert {f.name for f in book.flows} <= {of for of, _ in rows}
    lonely = replace(book, step_plans=(replace(book.step_plans[0], order_kind=OrderKind.PURCHASE),), recipes=())
    values = {r.value for r in effective(lonely, ground, HQ)}
    assert {"no plan: they never reach a handset", "nobody"} <= values


def state_of(ground: Ground) -> State:
    return State(ground, Settings(HQ, STARTS))


def without_pick_rules(book: Rulebook) -> Rulebook:
    kept = tuple(r for r in book.bin_rules if r.purpose is BinPurpose.PUT_AWAY)
    return replace(book, bin_rules=kept)


def changed(ground: Ground, **parts: Any) -> Ground:
    return Ground(replace(ground.opening, **parts))


def item_with(ground: Ground, **fields: Any) -> Ground:
    return changed(
        ground, items=tuple(replace(i, **fields) if i.code == "ROPE-12" else i for i in ground.opening.items)
    )


CONFLICTS: dict[str, tuple[Any, Any, str]] = {
    "item and barcode": (lambda g: changed(g, barcodes=tuple(b for b in g.opening.barcodes if b.item != "ROPE-12")), None, "has no barcode"),
    "item and its order of leaving": (lambda g: item_with(g, lot_order=LotOrder.FEFO), None, "no expiry is kept"),
    "item and prompts": (
        lambda g: item_with(g, tracking=Tracking.LOT),
        lambda b: replace(b, flows=tuple(replace(f, prompts=tuple(p for p in f.prompts if p.asks != "lot")) for f in b.flows)),
        "never asks for the lot",
    ),
    "flow and menu": (None, lambda b: replace(b, menus=()), "No flow that receives"),
    "order and handset": (None, lambda b: replace(b, step_plans=()), "No step plan"),
    "numbering": (lambda g: changed(g, series=tuple(s for s in g.opening.series if s.document != "task")), None, "series for a task"),
    "bin and plate": (
        lambda g: changed(g, bin_types=tuple(replace(t, plates=PlateNeed.NONE) for t in g.opening.bin_types)), None, "take no plates",
    ),
    "recipe and menu": (None, lambda b: replace(b, menus=tuple(replace(m, flows=tuple(f for f in m.flows if f not in ("F-PUTAWAY", "F-NEXT"))) for m in b.menus)), "No crew has both"),
    "goods and bin": (lambda g: changed(g, bins=tuple(replace(b, blocked="wet") for b in g.opening.bins)), None, "wet"),
    "rules and bin": (None, without_pick_rules, "found by nobody"),
}  # fmt: skip


@pytest.mark.parametrize("what", sorted(CONFLICTS))
def test_what_does_not_agree_is_found(ground: Ground, rulebook: Rulebook, what: str) -> None:
    """All agrees in the demo; with one thing otherwise, that pair is the one that does not, and says why."""
    order = ground.orders["PO-1001"]  # type: ignore[index]
    order = replace(order, lines=tuple(replace(x, item="ROPE-12", unit="coil", quantity=400) for x in order.lines[:1]))  # type: ignore[arg-type]
    sound = changed(ground, orders=(order,))
    item = sound.items["ROPE-12"]  # type: ignore[index]
    code = chosen_bin(state_of(sound), rulebook, item, order)
    assert all(p.holds for p in agreement(state_of(sound), rulebook, item, sound.bins[code], order)), what  # type: ignore[index]
    bend_ground, bend_book, says = CONFLICTS[what]
    bent = bend_ground(sound) if bend_ground else sound
    book = bend_book(rulebook) if bend_book else rulebook
    pairs = agreement(state_of(bent), book, bent.items["ROPE-12"], bent.bins[code], order)  # type: ignore[index]
    failing = [p for p in pairs if not p.holds]
    assert any(p.what == what and says in p.says for p in failing), failing


@pytest.mark.parametrize(("site", "plates", "says"), [("GL", PlateNeed.NONE, ""), ("GL", PlateNeed.OPTIONAL, ""), ("GL", PlateNeed.REQUIRED, "receives loose goods")])  # fmt: skip
def test_loose_goods_and_bins_agree(ground: Ground, site: str, plates: PlateNeed, says: str) -> None:
    """Where goods are received loose, bins that take none of them are what does not agree, and no others."""
    code = SiteCode(site)
    bent = changed(ground, bin_types=tuple(replace(t, plates=plates) for t in ground.opening.bin_types))
    state = State(bent, Settings(code, STARTS))
    book = starter("First", ground, code)
    each = next(
        b for b in bent.bins.values() if bent.zones[b.zone].site == code and bent.zones[b.zone].purpose in STORAGE
    )
    pairs = [p for p in agreement(state, book, bent.items["ROPE-12"], each, None) if p.what == "bin and plate"]  # type: ignore[index]
    assert [p.holds for p in pairs] == [not says] and says in pairs[0].says
