"""What holds at a site: each setting with its value, the level it comes from, and what it would be otherwise."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from mindful_crate.core.catalog.goods import INBOUND, OrderKind
from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.bin_rules import BinPurpose
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Flow, FlowPurpose
from mindful_crate.core.rulebook.scope import own_first
from mindful_crate.core.rulebook.settings import Level, levels
from mindful_crate.core.rulebook.steps import Asked, Need, StepPlan
from mindful_crate.core.rulebook.words.bin_rules import PURPOSE_TITLES
from mindful_crate.core.rulebook.words.parts import ORDERS, Names, any_of
from mindful_crate.core.rulebook.words.scanner import PLATE_BY, TO_BINS
from mindful_crate.core.rulebook.words.settings import TABLES, TITLES
from mindful_crate.core.rulebook.words.steps import place_told


@record
class Effective:
    """One setting as it holds: whose it is, its value, the level that value comes from, and in words what would hold
    without that level. ``place`` is where it is set in the rulebook; empty when it cannot be set there."""

    chapter: str
    of: str
    setting: str
    value: str
    level: Level
    otherwise: str
    place: str = ""


def effective(book: Rulebook, ground: Ground, site: SiteCode) -> list[Effective]:
    """Everything that holds at a site, chapter by chapter."""
    return [*_steps(book, ground, site), *_bin_rules(book, site), *_recipes(book, site), *_flows(book, ground, site)]


def layered(book: Rulebook, name: str, site: SiteCode, own: Any, *, of: str, chapter: str, place: str) -> Effective:
    """One layered setting as it holds for a plan or a flow."""
    first, *below = levels(book.settings, name, site, own)
    table = TABLES[name]
    otherwise = f"{table[below[0][1]]}, {FROM[below[0][0]]}" if below else "nothing else is set"
    return Effective(chapter, of, TITLES[name], table[first[1]], first[0], otherwise, place)


FROM = {
    Level.OWN: "set here",
    Level.SITE: "as set for this site",
    Level.GENERAL: "as set for all sites",
    Level.BUILT_IN: "as usual",
}


def _steps(book: Rulebook, ground: Ground, site: SiteCode) -> Iterator[Effective]:
    ranked = {kind: book.plans_for(Asked(site, kind)) for kind in INBOUND}
    winners: dict[str, list[OrderKind]] = {}
    for kind, plans in ranked.items():
        winners.setdefault(plans[0].id if plans else "", []).append(kind)
    for kinds in winners.values():
        of = any_of(ORDERS[k] for k in kinds)
        plans = ranked[kinds[0]]
        if not plans:
            says = "no plan: they never reach a handset"
            yield Effective("Steps", of, "Step plan", says, Level.BUILT_IN, "nothing else is set")
            continue
        plan, *others = plans
        level = Level.SITE if plan.site else Level.GENERAL
        other = others[0] if others else None
        place = f"step_plans/{plan.id}"
        yield Effective("Steps", of, "Step plan", plan.name, level, _other(other.name if other else None), place)
        names = Names(ground)
        into = f"{_into(other, names)}, by {other.name}" if other else None
        yield Effective("Steps", of, "Received into", _into(plan, names), level, _other(into), f"{place}/receive/into")
        yield Effective("Steps", of, "Put away", _put_away(plan), level, _other(_put_away(other) if other else None), f"{place}/put_away/on")  # fmt: skip
        yield layered(book, "booking", site, plan.booking, of=of, chapter="Steps", place=f"{place}/booking")


def _into(plan: StepPlan, names: Names) -> str:
    return place_told(plan.receive.into, names).strip("`")


def _put_away(plan: StepPlan) -> str:
    return "by the bin rules" if plan.put_away.on else "no, they stay where they are received"


def _other(text: str | None) -> str:
    return text or "nothing else is set"


def _bin_rules(book: Rulebook, site: SiteCode) -> Iterator[Effective]:
    for purpose in BinPurpose:
        lists = book.lists_for(site, purpose)
        if not lists:
            continue
        own, *others = lists
        count = f"{len(own.rules)} rules" if len(own.rules) != 1 else "1 rule"
        level = Level.SITE if own.site else Level.GENERAL
        other = f"{len(others[0].rules)} rules for all sites" if others else "no rules"
        yield Effective("Bin rules", PURPOSE_TITLES[purpose], "List", count, level, other, f"bin_rules/{own.id}")


def _recipes(book: Rulebook, site: SiteCode) -> Iterator[Effective]:
    crews = {c.id: c.name for c in book.crews}
    found = own_first(book.recipes, site)
    for need in (Need.PUT_AWAY,):
        mine = [r for r in found if r.need is need]
        if not mine:
            yield Effective("Recipes", "Put-away tasks", "Crew", "nobody", Level.BUILT_IN, "nothing else is set")
            continue
        first, *others = mine
        level = Level.SITE if first.site else Level.GENERAL
        other = crews.get(others[0].crew, others[0].crew) if others else None
        yield Effective("Recipes", "Put-away tasks", "Crew", crews.get(first.crew, first.crew), level, _other(other), f"recipes/{first.id}")  # fmt: skip


def _flows(book: Rulebook, ground: Ground, site: SiteCode) -> Iterator[Effective]:
    for flow in book.flows:
        if flow.site not in (None, site):
            continue
        place = f"flows/{flow.id}"
        crews = [c.name for c in book.crews if flow in book.menu_for(site, (c.id,))]
        level = Level.SITE if flow.site else Level.GENERAL
        yield Effective(
            "Scanner", flow.name, "On the menu of", any_of(crews) if crews else "nobody", level, "nobody", ""
        )
        if flow.purpose is FlowPurpose.RECEIVE:
            yield layered(book, "next_item_confirms", site, flow.next_item_confirms, of=flow.name, chapter="Scanner", place=f"{place}/next_item_confirms")  # fmt: skip
            yield _own(flow, "A new plate", PLATE_BY[flow.plate_by], f"{place}/plate_by")
            kind = ground.plate_kinds.get(flow.plate_kind) if flow.plate_kind else None
            yield _own(
                flow, "Kind of plate", kind.name if kind else "none: no plate can be begun", f"{place}/plate_kind"
            )
        if flow.purpose in TO_BINS:
            yield layered(book, "other_bin", site, flow.other_bin, of=flow.name, chapter="Scanner", place=f"{place}/other_bin")  # fmt: skip


def _own(flow: Flow, setting: str, value: str, place: str) -> Effective:
    return Effective("Scanner", flow.name, setting, value, Level.OWN, "nothing else is set", place)
