"""The page of steps: plans with their stations."""

from __future__ import annotations

from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.chapter import (
    Add,
    Chapter,
    Draw,
    Option,
    Row,
    Section,
    Tab,
    copy_act,
    layer_acts,
    options,
    remove_act,
    switch_act,
)
from mindful_crate.core.rulebook.docks import DockRule
from mindful_crate.core.rulebook.shipping import ShipPlan
from mindful_crate.core.rulebook.steps import StepPlan
from mindful_crate.core.rulebook.words.docks import THROUGH, dock_sentence
from mindful_crate.core.rulebook.words.parts import ORDERS
from mindful_crate.core.rulebook.words.shipping import OUTBOUND, ship_sentence
from mindful_crate.core.rulebook.words.stations import stations, stations_out
from mindful_crate.core.rulebook.words.steps import plan_sentence

TABS = {"in": "Goods in", "out": "Goods out", "across": "Across"}


def draw(what: Draw, tab: str) -> Chapter:
    """The map of stations, then all plans of one direction."""
    out = tab == "out" or any(p.id == tab for p in what.book.ship_plans)
    lists = {"in": "step_plans", "out": "ship_plans", "across": "dock_rules"}
    tabs = tuple(Tab(id_, says, len(what.notes(lists[id_]))) for id_, says in TABS.items())
    if tab == "across" or any(d.id == tab for d in what.book.dock_rules):
        return _across(what, tabs)
    return _out(what, tabs) if out else _in(what, tabs)


def _out(what: Draw, tabs: tuple[Tab, ...]) -> Chapter:
    kinds = (Option(None, "All that goes out"), *options(OUTBOUND))
    plans = Section(
        "plans", "cards", empty="There is no plan yet: what is picked is brought nowhere. Add the first one.", called="Plan",
        add=(Add("Add a plan", "ship_plans", "A plan was added.", kinds),),
        rows=tuple(_ship_plan(what, p) for p in what.book.ship_plans if p.site in (None, what.site)),
    )  # fmt: skip
    lead = (
        "One whole plan holds for the goods of an order line that go out, found as for goods in. They are picked, go from "
        "station to station that is switched on, and are shipped in the end."
    )
    return Chapter("steps", "Shipment steps", lead, tabs, "out", sections=(*stations_out(what), plans), looks=True)


def _across(what: Draw, tabs: tuple[Tab, ...]) -> Chapter:
    """What need not be stored."""
    mine = [d for d in what.book.dock_rules if d.site in (None, what.site)]
    how = (Option("lane", THROUGH[False]), Option("through", THROUGH[True]))
    rules = Section(
        "docks", "sentences", empty="Whatever comes is stored, also when somebody waits for it.", called="Rule", ordered=True,
        add=(Add("Add a rule that brings goods", "dock_rules", "A rule was added.", how),),
        rows=tuple(_dock(what, d, n) for n, d in enumerate(mine, start=1)),
    )  # fmt: skip
    lead = (
        "Goods that somebody waits for need not be stored first. As put-away tasks are made, the first rule is taken that is for the goods; only items "
        "that are fit for it, says the catalogue. What is over is stored, and the trail of the goods says why not."
    )
    return Chapter("steps", "Across the dock", lead, tabs, "across", sections=(rules,), looks=True)


def _dock(what: Draw, rule: DockRule, n: int) -> Row:
    path = f"dock_rules/{rule.id}"
    return Row(
        rule.id, path, what.parts(dock_sentence(rule, path, what.ground)), off=not rule.on, notes=what.notes(path), for_all=rule.site is None,
        acts=(
            switch_act(f"{path}/on", rule.on, f"Rule {n}"), copy_act(path, f"Rule {n} was copied."), *layer_acts(path, f"Rule {n}", rule, what.site),
            remove_act(path, f"Rule {n} was removed."),
        ),
    )  # fmt: skip


def _ship_plan(what: Draw, plan: ShipPlan) -> Row:
    path = f"ship_plans/{plan.id}"
    sentence = ship_sentence(plan, path, what.ground, what.book.order_classes)
    switch = evolve(switch_act(f"{path}/on", plan.on, f"Plan {plan.name}"), look=True)
    return Row(
        plan.id, path, what.parts(sentence), what.word(plan.name, f"{path}/name", "name"), off=not plan.on,
        notes=what.notes(path), for_all=plan.site is None,
        acts=(
            switch, copy_act(path, f"Plan {plan.name} was copied; the copy is switched off."), *layer_acts(path, f"Plan {plan.name}", plan, what.site),
            remove_act(path, f"Plan {plan.name} was removed.", look=True),
        ),
    )  # fmt: skip


def _in(what: Draw, tabs: tuple[Tab, ...]) -> Chapter:
    kinds = (Option(None, "All orders"), *options(ORDERS))
    plans = Section(
        "plans", "cards", empty="There is no plan yet: no order reaches a handset. Add the first one.", called="Plan",
        add=(Add("Add a plan", "step_plans", "A plan was added.", kinds),),
        rows=tuple(_plan(what, p) for p in what.book.step_plans if p.site in (None, what.site)),
    )  # fmt: skip
    lead = (
        "One whole plan holds for the goods of an order line: that for the item before its group, the partner, the group of "
        "partners; then that for the kind of order before all orders; then the site's own before all sites'."
    )
    return Chapter(
        "steps", "Receipt steps", lead, tabs, "in", sections=(*stations(what), plans), bench="journey", looks=True
    )


def _plan(what: Draw, plan: StepPlan) -> Row:
    path = f"step_plans/{plan.id}"
    sentence = plan_sentence(plan, path, what.layers, what.ground, what.book.crews, what.book.order_classes)
    switch = evolve(switch_act(f"{path}/on", plan.on, f"Plan {plan.name}"), look=True)
    return Row(
        plan.id, path, what.parts(sentence), what.word(plan.name, f"{path}/name", "name"), off=not plan.on,
        notes=what.notes(path),
        for_all=plan.site is None,
        acts=(
            switch, copy_act(path, f"Plan {plan.name} was copied; the copy is switched off."), *layer_acts(path, f"Plan {plan.name}", plan, what.site),
            remove_act(path, f"Plan {plan.name} was removed.", look=True),
        ),
    )  # fmt: skip
