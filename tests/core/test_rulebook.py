"""Rulebook: sentences held to the data, edits by path, layers, findings."""

from __future__ import annotations

import dataclasses
from collections.abc import Callable
from dataclasses import replace

import pytest
from hypothesis import assume, given

from mindful_crate.core.catalog.goods import OrderKind
from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Ground, Opening
from mindful_crate.core.plain import from_plain, to_plain
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.findings.finding import usable
from mindful_crate.core.proving.findings.whole import findings
from mindful_crate.core.rulebook.bin_rules import BinPurpose, BinRule, IfNothing, Prefer
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.choices import choices
from mindful_crate.core.rulebook.edits import Edit, apply_edits
from mindful_crate.core.rulebook.flows import Asks, Check, Flow, OtherBin, PlateBy, Prompt, Proposes
from mindful_crate.core.rulebook.steps import Asked, BookingPoint, PutAwayStep
from mindful_crate.core.rulebook.words.bin_rules import rule_sentence
from mindful_crate.core.rulebook.words.parts import Names, words_of
from mindful_crate.core.rulebook.words.scanner import flow_sentence, prompt_sentence
from mindful_crate.core.rulebook.words.steps import plan_sentence
from tests.core.test_plain import rules
from tests.playbook import Play, barcode, new_world

HQ = SiteCode("HQ")
RULE = "bin_rules/BL-1/rules/BR-3"


def without_ids(rule: BinRule) -> BinRule:
    """A rule without the fields that have no meaning: ids."""
    return replace(rule, id="", targets=tuple(replace(t, id="") for t in rule.targets))  # type: ignore[arg-type]


@given(rules, rules)
def test_rules_that_differ_read_differently(one: BinRule, two: BinRule) -> None:
    """A sentence is never decoration: what matters shows in the words."""
    assume(without_ids(one) != without_ids(two))
    names = Names(Ground(Opening("empty")))
    assert words_of(rule_sentence(one, names)) != words_of(rule_sentence(two, names))


def named(rulebook: Rulebook, flow: str) -> Flow:
    """A flow of the rulebook."""
    return next(f for f in rulebook.flows if f.id == flow)


def test_every_field_of_the_other_chapters_shows(rulebook: Rulebook) -> None:
    """Changing any setting of a plan, flow or prompt changes its sentence."""
    plan, flow, put = rulebook.step_plans[0], rulebook.flows[0], named(rulebook, "F-PUTAWAY")
    plans = [plan, replace(plan, put_away=PutAwayStep(False)), replace(plan, order_kind=None)]
    plans += [replace(plan, booking=b) for b in BookingPoint if b is not plan.booking]
    assert len({words_of(plan_sentence(p)) for p in plans}) == len(plans)
    flows = [flow, replace(flow, plate_by=PlateBy.ASKED), replace(flow, next_item_confirms=False)]
    assert len({words_of(flow_sentence(f)) for f in flows}) == len(flows)
    assert len({words_of(flow_sentence(replace(put, other_bin=o))) for o in OtherBin}) == len(OtherBin)
    order, quantity = flow.prompts[0], next(p for p in flow.prompts if p.asks is Asks.QUANTITY)
    prompts = [order, replace(order, check=Check.SCAN), replace(order, skip_single=True)]
    assert len({words_of(prompt_sentence(p)) for p in prompts}) == len(prompts)
    assert len({words_of(prompt_sentence(replace(quantity, proposes=p))) for p in Proposes}) == len(Proposes)


def test_live_words_lead_to_their_field(ground: Ground, rulebook: Rulebook) -> None:
    """Each live word's path is a place an edit can reach, and its field has choices."""
    plain = to_plain(rulebook)
    for rule in rulebook.bin_rules[0].rules:
        for part in rule_sentence(rule, Names(ground), f"bin_rules/BL-1/rules/{rule.id}"):
            if part.kind not in ("word", "add"):
                continue
            assert choices(part.field, ground, HQ, lambda z: (1, 2)), part
            if part.field not in ("conditions", "look_in", "limit", "take_limit"):
                from_plain(Rulebook, apply_edits(plain, (Edit("set", part.path),)))


def test_edits_reach_parts_by_their_id(rulebook: Rulebook) -> None:
    """Set, insert, move and remove, and a path that leads nowhere is refused by name."""
    plain = to_plain(rulebook)

    def edited(*edits: Edit) -> list[str]:
        book = from_plain(Rulebook, apply_edits(plain, edits))
        return [r.id for r in book.bin_rules[0].rules]

    assert edited(Edit("move", RULE, at=0)) == ["BR-3", "BR-1", "BR-2", "BR-4", "BR-6", "BR-5"]
    assert edited(Edit("remove", RULE)) == ["BR-1", "BR-2", "BR-4", "BR-6", "BR-5"]
    new = {"id": "BR-9", "targets": []}
    assert edited(Edit("insert", "bin_rules/BL-1/rules", new, 1))[1] == "BR-9"
    with pytest.raises(Refusal, match="is there already"):
        edited(Edit("insert", "bin_rules/BL-1/rules", {"id": "BR-3", "targets": []}))
    with pytest.raises(Refusal, match="nothing at"):
        edited(Edit("set", "bin_rules/BL-1/rules/BR-77/on", False))
    assert plain == to_plain(rulebook), "editing makes a copy"


def test_a_sites_own_part_stands_before_the_general_one(rulebook: Rulebook) -> None:
    """Order kind before all orders, then the site's layer before the general one."""
    general = rulebook.step_plans[0]
    own = replace(general, id="SP-own", site=HQ)
    anything = replace(general, id="SP-any", order_kind=None, site=HQ)
    book = replace(rulebook, step_plans=(anything, general, own))
    assert book.plan_for(Asked(HQ, OrderKind.PURCHASE)).id == "SP-own"  # type: ignore[union-attr]
    assert book.plan_for(Asked(SiteCode("X"), OrderKind.PURCHASE)).id == general.id  # type: ignore[union-attr]
    assert book.plan_for(Asked(HQ, OrderKind.TRANSFER)).id == "SP-any"  # type: ignore[union-attr]
    mine = replace(rulebook.bin_rules[0], id="BL-own", site=HQ, rules=())
    assert replace(rulebook, bin_rules=(*rulebook.bin_rules, mine)).rules_for(HQ, BinPurpose.PUT_AWAY) == ()


def change_rule(book: Rulebook, rule: str, change: Callable[[BinRule], BinRule]) -> Rulebook:
    lists = [replace(b, rules=tuple(change(r) if r.id == rule else r for r in b.rules)) for b in book.bin_rules]
    return replace(book, bin_rules=tuple(lists))


def with_target(**change: object) -> Callable[[BinRule], BinRule]:
    def changed(rule: BinRule) -> BinRule:
        look_in = dataclasses.replace(rule.targets[0].look_in, **change)  # type: ignore[arg-type]
        return replace(rule, targets=(replace(rule.targets[0], look_in=look_in),))

    return changed


MISTAKES: list[tuple[str, str, Callable[[Rulebook], Rulebook]]] = [
    ("missing_zone", f"{RULE}/targets/T-5/look_in/zones", lambda b: change_rule(b, "BR-3", with_target(zones=("MOON",)))),
    ("missing_bin", f"{RULE}/targets/T-5/look_in/bins", lambda b: change_rule(b, "BR-3", with_target(bins=("X-1",)))),
    ("no_target", RULE, lambda b: change_rule(b, "BR-3", lambda r: replace(r, targets=()))),
    ("no_storage", f"{RULE}/targets/T-5/look_in", lambda b: change_rule(b, "BR-3", with_target(zones=("DOR",)))),
    ("missing_bin", "step_plans/SP-1/receive/into", lambda b: replace(b, step_plans=(replace(b.step_plans[0], receive=replace(b.step_plans[0].receive, into="RCV-77")),))),
    ("no_put_away_rules", "step_plans/SP-1/put_away/on", lambda b: replace(b, bin_rules=())),
    ("plans_tie", "step_plans/SP-1", lambda b: replace(b, step_plans=(*b.step_plans, replace(b.step_plans[0], id="SP-2")))),
    ("no_recipe", "step_plans/SP-1/put_away/on", lambda b: replace(b, recipes=())),
    ("no_flow", "step_plans/SP-1/receive", lambda b: replace(b, menus=b.menus[1:])),
    ("missing_flow", "menus/MN-1/flows", lambda b: replace(b, flows=b.flows[1:])),
    ("on_no_menu", "flows/F-TOTE", lambda b: replace(b, menus=(replace(b.menus[0], flows=("F-RECEIVE", "F-PUTAWAY")),))),
    ("prompt_missing", "flows/F-RECEIVE/prompts", lambda b: replace(b, flows=(replace(b.flows[0], prompts=tuple(p for p in b.flows[0].prompts if p.asks is not Asks.QUANTITY)), *b.flows[1:]))),
    ("lot_before_expiry", "flows/F-RECEIVE/prompts", lambda b: replace(b, flows=(replace(b.flows[0], prompts=tuple(sorted(b.flows[0].prompts, key=lambda p: p.asks.value == "expiry"))), *b.flows[1:]))),
    ("never_reached", "bin_rules/BL-1/rules/BR-9", lambda b: replace(b, bin_rules=(replace(b.bin_rules[0], rules=(*b.bin_rules[0].rules, replace(b.bin_rules[0].rules[2], id="BR-9"))),))),
    ("other_site", "step_plans/SP-1/receive/into", lambda b: replace(b, step_plans=(replace(b.step_plans[0], receive=replace(b.step_plans[0].receive, into="GL-COUNTER")),))),
    ("other_site", f"{RULE}/overflow", lambda b: change_rule(b, "BR-3", lambda r: replace(r, if_nothing=IfNothing.OVERFLOW, overflow="SLIPWAY"))),
    ("same_id", "flows/F-RECEIVE/prompts", lambda b: replace(b, flows=(replace(b.flows[0], prompts=(*b.flows[0].prompts[:-1], replace(b.flows[0].prompts[-1], id=b.flows[0].prompts[0].id))), *b.flows[1:]))),
    ("asked_twice", "flows/F-RECEIVE/prompts", lambda b: replace(b, flows=(replace(b.flows[0], prompts=(*b.flows[0].prompts, replace(b.flows[0].prompts[0], id="P-9"))), *b.flows[1:]))),
    ("tracking_not_asked", "flows/F-RECEIVE/prompts", lambda b: replace(b, flows=(replace(b.flows[0], prompts=tuple(p for p in b.flows[0].prompts if p.asks.value != "expiry")), *b.flows[1:]))),
    ("goes_out", "step_plans/SP-1/order_kind", lambda b: replace(b, step_plans=(replace(b.step_plans[0], order_kind=OrderKind.SALES),))),
    ("no_plan_for", "step_plans", lambda b: replace(b, step_plans=(replace(b.step_plans[0], order_kind=OrderKind.CUSTOMER_RETURN),))),
    ("nobody_does", "recipes/RE-2/crew", lambda b: replace(b, menus=tuple(replace(m, flows=tuple(f for f in m.flows if f != "F-PUTAWAY")) if m.crew == b.recipes[0].crew else m for m in b.menus))),
    ("no_hold_rules", "step_plans/SP-5/inspect/on", lambda b: replace(b, bin_rules=tuple(r for r in b.bin_rules if r.purpose is not BinPurpose.HOLD_AT))),
    ("no_flow", "step_plans/SP-5/inspect/on", lambda b: replace(b, menus=tuple(replace(m, flows=tuple(f for f in m.flows if f != "F-INSPECT")) for m in b.menus))),
    ("puts_nothing", "flows/F-RECEIVE", lambda b: replace(b, flows=(replace(b.flows[0], prompts=(*b.flows[0].prompts, Prompt("PR-X", Asks.BIN))), *b.flows[1:]), recipes=tuple(replace(r, crew="hazard", legs=()) for r in b.recipes))),
    ("nothing_undone", "flows/F-UNDO", lambda b: replace(b, step_plans=tuple(replace(p, unload=replace(p.unload, undo=False), receive=replace(p.receive, undo=False), inspect=replace(p.inspect, undo=False), put_away=replace(p.put_away, undo=False)) for p in b.step_plans))),
    ("no_flow", "step_plans/SP-7/unload/on", lambda b: replace(b, menus=tuple(replace(m, flows=tuple(f for f in m.flows if f != "F-UNLOAD")) for m in b.menus))),
    ("asked_by_nothing", "bin_rules/BL-X", lambda b: replace(b, bin_rules=(*b.bin_rules, replace(b.bin_rules[0], id="BL-X", purpose=BinPurpose.PACK_AT)))),
    ("other_order", "bin_rules/BL-4/rules/BR-42/targets/T-42/prefer", lambda b: change_rule(b, "BR-42", lambda r: replace(r, targets=(replace(r.targets[0], prefer=(Prefer.WALK_ORDER, Prefer.LIFO, Prefer.FEFO)),)))),
    ("same_id", "recipes", lambda b: replace(b, recipes=(*b.recipes, b.recipes[0]))),
    ("same_id", "bin_rules", lambda b: replace(b, bin_rules=(replace(b.bin_rules[0], rules=(*b.bin_rules[0].rules, b.bin_rules[0].rules[0])),))),
]  # fmt: skip


def test_returns_that_would_become_new_goods_are_doubted(ground: Ground, rulebook: Rulebook) -> None:
    """By a plan for all orders, where a return is open; a plan of their own mends it."""
    order = replace(
        next(o for o in ground.orders.values() if o.site == HQ), number="RT-1", kind=OrderKind.CUSTOMER_RETURN
    )
    there = Ground(replace(ground.opening, orders=(*ground.opening.orders, order)))
    lists = tuple(b for b in rulebook.bin_rules if b.purpose is not BinPurpose.HOLD_AT)  # nothing is inspected then
    first = replace(rulebook.step_plans[0], order_kind=None)
    all_ = replace(rulebook, step_plans=(first,), bin_rules=lists)
    assert [(f.code, f.witness) for f in findings(all_, there, HQ)] == [("returns_as_new", "RT-5001")]
    none = Ground(
        replace(
            ground.opening, orders=tuple(o for o in ground.opening.orders if o.kind is not OrderKind.CUSTOMER_RETURN)
        )
    )
    assert findings(all_, none, HQ) == []
    own = replace(all_.step_plans[0], id="SP-2", name="Returns", order_kind=OrderKind.CUSTOMER_RETURN)
    assert findings(replace(all_, step_plans=(*all_.step_plans, own)), there, HQ) == []


@pytest.mark.parametrize(("code", "place", "spoil"), MISTAKES, ids=[m[0] + " " + m[1] for m in MISTAKES])
def test_each_mistake_is_found_at_its_place(
    ground: Ground, rulebook: Rulebook, code: str, place: str, spoil: Callable[[Rulebook], Rulebook]
) -> None:
    """Every finding is found where it belongs, and only when there is reason."""
    assert findings(rulebook, ground, HQ) == []
    found = findings(spoil(rulebook), ground, HQ)
    assert (code, place) in [(f.code, f.place) for f in found], found


def test_a_floor_without_numbers_for_announced_plates_is_doubted(ground: Ground, rulebook: Rulebook) -> None:
    """It works, but the host stand-in's vendors cannot announce; said before somebody asks them to."""
    without = Ground(replace(ground.opening, series=tuple(s for s in ground.opening.series if s.document != "sscc")))
    (found,) = findings(rulebook, without, HQ)
    assert (found.code, found.place, found.severity.value) == ("no_series", "series/sscc", "doubt")


@pytest.mark.parametrize(
    ("change", "code", "says"),
    [
        ({"last": 92}, "series_full", "The number series for a receipt ended at 92"),
        ({"last": 100}, "series_ends", "has 8 of 100 numbers left"),
        (None, "no_series", "There is no number series for a receipt"),
    ],
)
def test_a_number_series_at_its_end_is_found(
    ground: Ground, rulebook: Rulebook, change: dict[str, int] | None, code: str, says: str
) -> None:
    """Missing, ended or about to end; and a process that comes to it all the same is refused, with nothing half done."""
    series = ground.series["receipt"]
    others = tuple(s for s in ground.opening.series if s.document != "receipt")
    short = Ground(replace(ground.opening, series=others + ((replace(series, **change),) if change else ())))
    assert [(f.code, f.place) for f in findings(rulebook, short, HQ)] == [(code, "series/receipt")]
    assert says in findings(rulebook, short, HQ)[0].says
    play = Play(new_world(short, rulebook)).confirm("PO-1007").opens("F-RECEIVE").scan("PO-1007")
    play.scan(barcode(short, "ROPE-12", "coil")).type("10").done().press("finish")
    if code == "series_ends":
        play.done()
    else:
        play.refused(code)
        assert play.state.building() and not play.state.receipts


def test_a_blocking_finding_makes_a_rulebook_unusable(ground: Ground, rulebook: Rulebook) -> None:
    """Doubts do not; stops do."""
    doubt = change_rule(rulebook, "BR-3", with_target(zones=("DOR",)))
    stop = change_rule(rulebook, "BR-3", with_target(zones=("MOON",)))
    assert usable(findings(doubt, ground, HQ))
    assert not usable(findings(stop, ground, HQ))
