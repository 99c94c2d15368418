"""Step plans: which one holds for which goods, what they say, where and by whom goods are received."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mindful_crate.core.catalog.goods import OrderKind
from mindful_crate.core.catalog.ids import ItemCode, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.state import Settings, State
from mindful_crate.core.plain import from_plain, to_plain
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.findings.whole import findings
from mindful_crate.core.proving.journey import journey, supposed_order
from mindful_crate.core.proving.on_handset import order_shown
from mindful_crate.core.proving.preview import of_line
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.adding import first_part
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.edits import Edit, apply_edits
from mindful_crate.core.rulebook.steps import (
    ANYTHING,
    AnnounceStep,
    Asked,
    Begins,
    BookingPoint,
    DeliveryNote,
    Found,
    InspectStep,
    Only,
    Over,
    PutAwayStep,
    ReceiptBy,
    ReceiveStep,
    StepPlan,
    Tolerance,
    UnloadStep,
    asked_of,
    is_for,
    rank,
    ties,
)
from mindful_crate.core.rulebook.words.parts import words_of
from mindful_crate.core.rulebook.words.steps import plan_sentence
from mindful_crate.core.world import acts
from tests.playbook import STARTS, Play, barcode, new_world

HQ, GL = SiteCode("HQ"), SiteCode("GL")
onlys = st.sampled_from(
    [ANYTHING, Only(item="ROPE-12"), Only(item="LAMP-ANCHOR"), Only(group="Rope"), Only(partner="BREMVEIG"), Only(partner_group="supplier")]  # type: ignore[arg-type]
)  # fmt: skip
places = st.sampled_from(["RCV-01", "RCV-02", Found(), Found("RCV"), Found("INS")])  # type: ignore[arg-type]
crews = st.sampled_from([None, "quay", "hazard"])
begins = st.sampled_from(Begins)
tolerances = st.builds(Tolerance, st.integers(0, 2), st.integers(0, 2))


@st.composite
def plans(draw: Any, id_: str = "SP-1") -> StepPlan:
    """A plan of any kind, as the analyst may make one."""
    flag = st.booleans()
    return StepPlan(
        id_, f"Plan {id_}",  # type: ignore[arg-type]
        ReceiveStep(
            draw(places), True, draw(crews), draw(st.sampled_from(ReceiptBy)), draw(flag), draw(st.sampled_from(Over)),
            draw(tolerances), draw(tolerances), draw(st.sampled_from(DeliveryNote)),
        ),
        PutAwayStep(draw(flag), draw(places), draw(begins), draw(flag)),
        draw(st.sampled_from([None, *BookingPoint])), draw(st.sampled_from([None, *OrderKind])), draw(st.sampled_from([None, HQ, GL])),
        draw(onlys), AnnounceStep(draw(flag)), UnloadStep(draw(flag), draw(places), draw(crews), draw(flag)),
        InspectStep(
            draw(flag), draw(places), draw(crews), draw(begins), draw(flag), draw(st.integers(1, 22)), draw(st.integers(0, 3)), draw(flag)
        ), draw(flag),
    )  # fmt: skip


def said(plan: StepPlan) -> StepPlan:
    """A plan as far as it says anything: what an absent step would be does not count."""
    off: dict[str, Any] = {}
    for name, empty in (("unload", UnloadStep()), ("inspect", InspectStep()), ("put_away", PutAwayStep(False))):
        if not getattr(plan, name).on:
            off[name] = empty
    if plan.receive.over is Over.REFUSE:
        off["receive"] = replace(plan.receive, more=Tolerance())
    return replace(plan, site=None, **off)


@given(plans(), plans())
def test_plans_that_differ_read_otherwise(ground: Ground, rulebook: Rulebook, one: StepPlan, other: StepPlan) -> None:
    """The sentence of a plan says all that is decided in it: two that read the same are the same; and each is kept as plain
    data."""
    told = [words_of(plan_sentence(p, "", ((), HQ), ground, rulebook.crews)) for p in (one, other)]
    assert (told[0] == told[1]) == (said(one) == said(other))
    assert from_plain(StepPlan, to_plain(one)) == one


@given(st.lists(plans(), max_size=6), st.sampled_from(OrderKind), st.sampled_from(["ROPE-12", "LAMP-ANCHOR", ""]))
def test_the_first_by_rank_holds(ground: Ground, made: list[StepPlan], kind: OrderKind, item: str) -> None:
    """Of the plans whose scope goods are in, none stands before the one that holds, and it says why each other does not; where
    nothing ties it does not matter in which order they stand."""
    mine = [replace(p, id=f"SP-{n}", name=f"Plan {n}") for n, p in enumerate(made)]  # type: ignore[arg-type]
    order = replace(ground.orders["PO-1007"], kind=kind)  # type: ignore[index]
    asked = asked_of(ground, order, item or None)  # type: ignore[arg-type]
    book = Rulebook("Any", step_plans=tuple(mine))
    found, ranked = book.plan_for(asked), book.plans_for(asked)
    assert found is (ranked[0] if ranked else None) and {p.id for p in ranked} == {
        p.id for p in mine if is_for(p, asked)
    }
    assert all(rank(a) <= rank(b) for a, b in pairwise(ranked))
    if found and not ties(mine):
        assert Rulebook("Any", step_plans=tuple(reversed(mine))).plan_for(asked) == found
    if order.lines:
        looks = journey(book, ground, order).plans
        assert len(looks) == len(mine) and sum(x.applies for x in looks) <= 1
        assert all(x.says for x in looks)


def with_plans(book: Rulebook, *made: StepPlan) -> Rulebook:
    return replace(book, step_plans=(*book.step_plans, *made))


def test_the_nearest_plan_receives_each_line(ground: Ground, rulebook: Rulebook) -> None:
    """Rope of a purchase order stands elsewhere than the rest of it and is put away by nobody: a plate takes only goods that
    go on alike, and says which plans differ."""
    first = rulebook.step_plans[0]
    rope = replace(
        first,
        id="SP-9",
        name="Rope",
        only=Only(group="Rope"),
        receive=ReceiveStep("RCV-02"),
        put_away=PutAwayStep(False),
    )  # type: ignore[arg-type]
    order = next(
        o for o in ground.orders.values()
        if o.kind is OrderKind.PURCHASE and o.site == HQ and {"Rope"} < {ground.items[x.item].group for x in o.lines}
    )  # fmt: skip
    of_rope = next(x for x in order.lines if ground.items[x.item].group == "Rope")
    other = next(
        x for x in order.lines if ground.items[x.item].group != "Rope" and ground.items[x.item].tracking.value == "none"
    )
    play = Play(new_world(ground, with_plans(rulebook, rope))).confirm(order.number)
    play.opens("F-RECEIVE").scan(order.number).scan(barcode(ground, of_rope.item, of_rope.unit)).type("1").done("made")
    (plate,) = play.state.building()
    assert plate.bin == "RCV-02"
    play.scan(barcode(ground, other.item, other.unit)).refused("other_plan", "Rope", first.name)
    play.press("finish").done()
    assert not list(play.state.tasks.values()), "nothing is put away"
    goes = {g.plan: g.lines for g in journey(play.world.rulebook, ground, order).lines}
    assert of_rope.no in goes["Rope"] and other.no in goes[first.name]


def test_goods_are_received_into_the_first_bin_with_room(ground: Ground, rulebook: Rulebook) -> None:
    """A zone instead of a bin: each new plate gets the next in walking order, by the bin types there; full, it is refused."""
    there = ground.bins_by_zone["RCV"]  # type: ignore[index]
    first = replace(rulebook.step_plans[0], receive=ReceiveStep(Found("RCV")))  # type: ignore[arg-type]
    play = Play(new_world(ground, replace(rulebook, step_plans=(first,)))).confirm("PO-1007")
    play.opens("F-RECEIVE").scan("PO-1007").scan(barcode(ground, "ROPE-12", "coil")).type("1").done("made")
    (plate,) = play.state.building()
    assert plate.bin in {b.code for b in there}
    trail = play.last.outcome.trails[0]  # type: ignore[union-attr]
    assert trail.bin == plate.bin and trail.request.purpose == "receive_into"
    nowhere = replace(first, receive=ReceiveStep(Found()))
    play = Play(new_world(ground, replace(rulebook, step_plans=(nowhere,)))).confirm("PO-1007")
    play.opens("F-RECEIVE").scan("PO-1007").scan(barcode(ground, "ROPE-12", "coil")).type("1")
    play.refused("no_receiving_bin", "finds no bin")
    assert not play.state.building()


def test_what_must_be_announced_waits_for_its_notice(ground: Ground, rulebook: Rulebook) -> None:
    """By the plan, or since the order asks for it: not on the list, refused by name, and there as soon as a notice says so."""
    first = replace(rulebook.step_plans[0], announce=AnnounceStep(True))
    play = Play(new_world(ground, replace(rulebook, step_plans=(first,)))).confirm("PO-1007").opens("F-RECEIVE")
    assert "PO-1007" not in [p.value for p in play.question().picks]
    play.scan("PO-1007").refused("not_announced_yet", "waits for its notice")
    order = play.state.order("PO-1007")
    shown = order_shown(play.state, play.world.rulebook, order)
    assert not shown.shown and "waits for its notice" in shown.says
    play.press("leave").do(acts.AnnounceOrder("PO-1007")).done()  # type: ignore[arg-type]
    play.opens("F-RECEIVE").scan("PO-1007").asks("item")
    needs = Ground(
        replace(
            ground.opening,
            orders=tuple(replace(o, notice_needed=o.number == "PO-1007") for o in ground.opening.orders),
        )
    )
    play = Play(new_world(needs, rulebook)).confirm("PO-1007").opens("F-RECEIVE")
    play.scan("PO-1007").refused("not_announced_yet", "the order asks for a notice")


def test_a_step_may_be_one_crews(ground: Ground, rulebook: Rulebook) -> None:
    """Goods of a plan that one crew receives are refused to people of another, by name."""
    first = rulebook.step_plans[0]
    book = replace(rulebook, step_plans=(replace(first, receive=replace(first.receive, crew="hazard")),))
    play = Play(new_world(ground, book)).confirm("PO-1007").opens("F-RECEIVE").scan("PO-1007")
    play.scan(barcode(ground, "ROPE-12", "coil")).refused("other_crew", "Hazard crew receives this")
    assert ("nobody_does", "step_plans/SP-1/receive/crew") in [(f.code, f.place) for f in findings(book, ground, HQ)]


def test_a_copy_begins_switched_off(ground: Ground, rulebook: Rulebook) -> None:
    """It would tie with its model: a copy, and a plan added for what has one, are switched off until they are for something
    else."""
    made: list[str] = []
    edits = (
        Edit("copy", "step_plans/SP-1"),
        Edit("add", "step_plans", "purchase"),
        Edit("add", "step_plans", "transfer"),
    )
    rulebook = replace(rulebook, step_plans=rulebook.step_plans[:1])
    book = from_plain(Rulebook, apply_edits(to_plain(rulebook), edits, first_part(ground, HQ), made))
    assert [(p.order_kind, p.on) for p in book.step_plans] == [
        ("purchase", True), ("purchase", False), ("purchase", False), ("transfer", True),
    ]  # fmt: skip
    assert not ties(book.step_plans) and book.plan_for(Asked(HQ, OrderKind.PURCHASE)) == rulebook.step_plans[0]


STEP = "step_plans/SP-1"
ODD: list[tuple[str, str, dict[str, Any]]] = [
    ("plans_tie", STEP, {}),
    ("two_scopes", f"{STEP}/only", {"only": Only(item="ROPE-12", group="Rope")}),
    ("missing_scope", f"{STEP}/only/group", {"only": Only(group="Moons")}),
    ("no_effect", f"{STEP}/receive/over", {"receive": ReceiveStep("RCV-01", over=Over.WARN)}),
    ("no_effect", f"{STEP}/receive/more", {"receive": ReceiveStep("RCV-01", more=Tolerance(5))}),
    ("below_zero", f"{STEP}/receive/less", {"receive": ReceiveStep("RCV-01", less=Tolerance(-1))}),
    ("nobody_does", f"{STEP}/inspect/crew", {"inspect": InspectStep(True, Found("INS"), "quay")}),
    ("no_turn", f"{STEP}/inspect/every", {"inspect": InspectStep(True, Found("INS"), every=0)}),
    ("no_sample", f"{STEP}/inspect/sample", {"inspect": InspectStep(True, Found("INS"), sample=-1)}),
    ("nobody_does", f"{STEP}/unload/crew", {"unload": UnloadStep(True, "DOOR-1", "reach")}),
    ("no_door", f"{STEP}/unload/at", {"unload": UnloadStep(True, Found("RSV"))}),
    ("step_without_place", f"{STEP}/inspect/at", {"inspect": InspectStep(True)}),
    ("missing_zone", f"{STEP}/inspect/at", {"inspect": InspectStep(True, Found("MOON"))}),
    ("other_site", f"{STEP}/inspect/at", {"inspect": InspectStep(True, "GL-COUNTER")}),
    ("missing_crew", f"{STEP}/receive/crew", {"receive": ReceiveStep("RCV-01", crew="nobody")}),
    ("no_need", f"{STEP}/put_away/begins", {"put_away": PutAwayStep(begins=Begins.ON_NEED)}),
    ("no_such_document", f"{STEP}/receive/document", {"receive": ReceiveStep("RCV-01", document=ReceiptBy.OFFICE)}),
]  # fmt: skip


def test_what_is_odd_in_a_plan_is_found(ground: Ground, rulebook: Rulebook) -> None:
    """Each at its place, and nothing else; a plan that is switched off is no reason."""
    for code, place, change in ODD:
        first = replace(rulebook.step_plans[0], **change)
        made = (first, replace(first, id="SP-9")) if code == "plans_tie" else (first,)  # type: ignore[arg-type]
        found = findings(replace(rulebook, step_plans=(*made, *rulebook.step_plans[1:])), ground, HQ)
        assert (code, place) in [(f.code, f.place) for f in found], (code, found)
        assert {f.place.split("/")[0] for f in found} == {"step_plans"} and len(found) <= 2, found
        off = replace(first, on=False)
        still = findings(with_plans(rulebook, replace(off, id="SP-X")), ground, HQ)  # type: ignore[arg-type]
        assert {f.code for f in still} <= {"two_scopes", "missing_scope"}, still


def test_an_item_is_asked_about_without_an_order(ground: Ground, rulebook: Rulebook) -> None:
    """As if so much of it had been ordered: which plan and recipe take it, and why the others do not; the floor is as before."""
    state = State(ground, Settings(SiteCode("HQ"), STARTS))
    for kind in (OrderKind.PURCHASE, OrderKind.TRANSFER):
        order = supposed_order(ground, SiteCode("HQ"), kind, ItemCode("ROPE-12"), 400, "", STARTS.date())
        way = journey(rulebook, ground, order)
        real = next(o for o in ground.orders.values() if o.kind is kind and o.site == "HQ")
        line = evolve(order.lines[0], item=real.lines[0].item)
        like = journey(rulebook, ground, evolve(order, partner=real.partner, lines=(line,)))
        assert [p.plan for p in way.plans] == [p.plan for p in like.plans] and sum(p.applies for p in way.plans) == 1
        before = state.kept()
        task = of_line(state, rulebook, order, way.line, STARTS.date())
        assert task and task.shares[0].what.startswith("400 m") and state.kept() == before
    for bad in (("NIX", 1, ""), ("ROPE-12", 0, ""), ("ROPE-12", 1, "NIX")):
        with pytest.raises(Refusal):
            supposed_order(ground, SiteCode("HQ"), OrderKind.PURCHASE, ItemCode(bad[0]), bad[1], bad[2], STARTS.date())
