"""The rulebook as a whole, and what is in force of it at a site.

Each part names its layer: ``site`` None is the general layer, a site code that site's own. A site's own part
stands before the general one.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import (
    CrewId,
    FlowId,
    ItemCode,
    OrderClassId,
    PaperFormId,
    PartnerCode,
    RecipeId,
    SiteCode,
    WavePlanId,
)
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.memo import Memo
from mindful_crate.core.record import evolve, record
from mindful_crate.core.rulebook.bin_rules import BinPurpose, BinRule, BinRuleList
from mindful_crate.core.rulebook.counting import CountPlan, ReasonFor, StockReason
from mindful_crate.core.rulebook.docks import DockRule
from mindful_crate.core.rulebook.filling import ShelfRun
from mindful_crate.core.rulebook.flows import Crew, Flow, FlowPurpose, Menu, OtherBin
from mindful_crate.core.rulebook.gates import Gate, ReleaseRun
from mindful_crate.core.rulebook.orders import OrderClass, class_of
from mindful_crate.core.rulebook.packing import PackRule
from mindful_crate.core.rulebook.papers import LabelRule, Paper, PaperForm, When
from mindful_crate.core.rulebook.recipes import Recipe
from mindful_crate.core.rulebook.returns import ReturnMark, ReturnRule
from mindful_crate.core.rulebook.scope import own_first
from mindful_crate.core.rulebook.settings import SettingsLayer, Sync, held
from mindful_crate.core.rulebook.shipping import ShipPlan
from mindful_crate.core.rulebook.steps import (
    BY_RULES,
    Asked,
    BookingPoint,
    Need,
    Place,
    StepPlan,
    asked_of,
    is_for,
    only_there,
    rank,
)
from mindful_crate.core.rulebook.waves import WavePlan

SHAPE = 1
"""Version of the rulebook's shape, written into every file."""


SHOWN = Memo()
"""Rulebooks with the menus and flows of others: one for all scans of the handsets that were given those."""
PLANS = Memo()
"""The plan for goods of an order, by a rulebook's plans."""


@record
class AsksForClasses:
    """A part of a rulebook that may be for some classes of orders alone: where it stands, where in it they are named, what it is called."""

    place: str
    field: str
    name: str
    on: bool
    classes: tuple[OrderClassId, ...]


@record
class Rulebook:
    """Everything the analyst configures."""

    name: str
    shape: int = 1
    """Left out while it is 1, so absent means 1 for ever; see :mod:`.versions`."""
    crews: tuple[Crew, ...] = ()
    order_classes: tuple[OrderClass, ...] = ()
    step_plans: tuple[StepPlan, ...] = ()
    bin_rules: tuple[BinRuleList, ...] = ()
    recipes: tuple[Recipe, ...] = ()
    flows: tuple[Flow, ...] = ()
    menus: tuple[Menu, ...] = ()
    settings: tuple[SettingsLayer, ...] = ()
    label_rules: tuple[LabelRule, ...] = ()
    gates: tuple[Gate, ...] = ()
    release_runs: tuple[ReleaseRun, ...] = ()
    shelf_runs: tuple[ShelfRun, ...] = ()
    ship_plans: tuple[ShipPlan, ...] = ()
    wave_plans: tuple[WavePlan, ...] = ()
    dock_rules: tuple[DockRule, ...] = ()
    pack_rules: tuple[PackRule, ...] = ()
    paper_forms: tuple[PaperForm, ...] = ()
    count_plans: tuple[CountPlan, ...] = ()
    stock_reasons: tuple[StockReason, ...] = ()
    return_rules: tuple[ReturnRule, ...] = ()
    return_marks: tuple[ReturnMark, ...] = ()

    def booking_of(self, plan: StepPlan, site: SiteCode) -> BookingPoint:
        """When the host is told of what a plan receives at a site."""
        found: BookingPoint = held(self.settings, "booking", site, plan.booking)
        return found

    def other_bin_of(self, flow: Flow, site: SiteCode) -> OtherBin:
        """Whether a flow lets another bin be taken at a site."""
        found: OtherBin = held(self.settings, "other_bin", site, flow.other_bin)
        return found

    def next_item_confirms(self, flow: Flow, site: SiteCode) -> bool:
        """Whether scanning the next item confirms the last quantity in a flow at a site."""
        found: bool = held(self.settings, "next_item_confirms", site, flow.next_item_confirms)
        return found

    def sync_of(self, site: SiteCode) -> Sync:
        """When handsets of a site take what is put in force."""
        found: Sync = held(self.settings, "sync", site, None)
        return found

    def shown_by(self, given: Rulebook) -> Rulebook:
        """These rules, with the menus and flows of a handset that was given others."""
        return SHOWN.about(self, "", given, lambda: evolve(self, flows=given.flows, menus=given.menus))

    def rules_for(self, site: SiteCode, purpose: BinPurpose, at: Place = BY_RULES) -> tuple[BinRule, ...]:
        """The list tried at a site for a purpose: its own if it has one, else the general one. A step that says ``at`` what place
        it happens asks that alone."""
        if at != BY_RULES:
            return only_there(at)
        lists = self.lists_for(site, purpose)
        return lists[0].rules if lists else ()

    def lists_for(self, site: SiteCode, purpose: BinPurpose) -> list[BinRuleList]:
        """The lists there are for a purpose at a site; the first is tried."""
        return own_first((r for r in self.bin_rules if r.purpose is purpose), site)

    def class_of(self, ground: Ground, order: Order) -> OrderClass | None:
        """The class of an order: the first that takes it."""
        return class_of(self.order_classes, ground, order)

    def class_told(self, ground: Ground, order: Order) -> str:
        """What the class of an order is called; empty: it is of none."""
        found = self.class_of(ground, order)
        return found.name if found else ""

    def classes_at(self, site: SiteCode) -> list[OrderClass]:
        """The classes of orders at a site that are switched on, in the order in which they are asked: its own first."""
        return own_first((c for c in self.order_classes if c.on), site)

    def asking_for_classes(self, site: SiteCode) -> Iterator[AsksForClasses]:
        """All that may be for classes of orders alone at a site, switched on or not, in the order of the chapters."""
        here = (None, site)
        for list_, plans in (("step_plans", self.step_plans), ("ship_plans", self.ship_plans)):
            for plan in plans:
                if plan.site in here:
                    only = (plan.only.order_class,) if plan.only.order_class is not None else ()
                    yield AsksForClasses(f"{list_}/{plan.id}", "only/order_class", plan.name, plan.on, only)
        for gate in (g for g in self.gates if g.site in here):
            yield AsksForClasses(f"gates/{gate.id}", "order_classes", gate.name, gate.on, gate.order_classes)
        for n, run in enumerate((r for r in self.release_runs if r.site in here), start=1):
            yield AsksForClasses(f"release_runs/{run.id}", "order_classes", f"Run {n}", run.on, run.order_classes)
        for wave in (w for w in self.wave_plans if w.site in here):
            yield AsksForClasses(
                f"wave_plans/{wave.id}", "wants/order_classes", wave.name, wave.on, wave.wants.order_classes
            )
        for n, rule in enumerate((p for p in self.pack_rules if p.site in here), start=1):
            yield AsksForClasses(f"pack_rules/{rule.id}", "order_classes", f"Rule {n}", rule.on, rule.order_classes)

    def asked(self, ground: Ground, order: Order, item: ItemCode | None = None) -> Asked:
        """An order, or its lines of an item, as plans ask for them."""
        found = self.class_of(ground, order)
        return asked_of(ground, order, item, found.id if found else "")

    def plan_for(self, asked: Asked) -> StepPlan | None:
        """The one plan for goods of an order: the first by rank."""
        return PLANS.answer(
            self.step_plans,
            asked,
            lambda: min((p for p in self.step_plans if is_for(p, asked)), key=rank, default=None),
        )

    def ship_plan_for(self, asked: Asked) -> ShipPlan | None:
        """The one plan for goods of an order that goes out: the first by rank."""
        return min((p for p in self.ship_plans if is_for(p, asked)), key=rank, default=None)

    def waves_at(self, site: SiteCode) -> list[WavePlan]:
        """The wave plans of a site that are switched on, in the order in which they are asked: its own first."""
        return own_first((w for w in self.wave_plans if w.on), site)

    def docks_at(self, site: SiteCode) -> list[DockRule]:
        """The rules of cross-docking of a site that are switched on, in the order in which they are asked: its own first."""
        return own_first((d for d in self.dock_rules if d.on), site)

    def packs_at(self, site: SiteCode) -> list[PackRule]:
        """The rules of packing of a site that are switched on, in the order in which they are asked: its own first."""
        return own_first((p for p in self.pack_rules if p.on), site)

    def wave_plan(self, plan: WavePlanId | None) -> WavePlan | None:
        """The wave plan of that id, if there is one."""
        return next((w for w in self.wave_plans if w.id == plan), None)

    def plans_for(self, asked: Asked) -> list[StepPlan]:
        """All plans that goods of an order are within the scope of, by rank."""
        return sorted((p for p in self.step_plans if is_for(p, asked)), key=rank)

    def recipes_for(self, site: SiteCode, need: Need) -> list[Recipe]:
        """The recipes that make tasks of a need at a site, in the order in which they are asked: its own first."""
        return own_first((r for r in self.recipes if r.need is need), site)

    def numbered_recipes(self, site: SiteCode) -> dict[RecipeId, int]:
        """The number each recipe of a site is shown by, whatever it is for."""
        return {r.id: n for n, r in enumerate((r for r in self.recipes if r.site in (None, site)), start=1)}

    def labels_for(self, site: SiteCode, when: When) -> list[LabelRule]:
        """The rules that print something at a site when this happens: its own first."""
        return own_first((r for r in self.label_rules if r.on and r.when is when), site)

    def counts_at(self, site: SiteCode) -> list[CountPlan]:
        """The count plans of a site that are switched on, in the order in which they are asked: its own first."""
        return own_first((p for p in self.count_plans if p.on), site)

    def reasons_at(self, site: SiteCode, used: ReasonFor | None = None) -> list[StockReason]:
        """The reasons for which stock of a site is corrected, like that or at all, of those switched on: its own first."""
        return own_first((r for r in self.stock_reasons if r.on and (used is None or r.is_for(used))), site)

    def returns_at(self, site: SiteCode) -> list[ReturnRule]:
        """The rules by which goods are accepted back at a site, of those switched on: its own first."""
        return own_first((r for r in self.return_rules if r.on), site)

    def stranger_at(self, site: SiteCode) -> PartnerCode | None:
        """Under whom it is written down what somebody sends back to a site who is no customer; None: nothing of theirs is taken."""
        return next((r.stranger for r in self.returns_at(site) if r.stranger is not None), None)

    def marks_at(self, site: SiteCode) -> list[ReturnMark]:
        """The marks that goods may get that come back to a site, of those switched on: its own first."""
        return own_first((m for m in self.return_marks if m.on), site)

    def form_for(self, site: SiteCode, paper: Paper, partner_group: str) -> PaperForm:
        """What stands on a paper for a partner of a group: by the first form that is for it, the site's own first; else as is usual."""
        mine = (f for f in self.paper_forms if f.on and f.paper is paper)
        fits = (f for f in own_first(mine, site) if not f.partner_groups or partner_group in f.partner_groups)
        return next(fits, PaperForm(PaperFormId(""), paper))

    def gates_at(self, site: SiteCode) -> list[Gate]:
        """The gates of a site that are switched on: its own first."""
        return own_first((g for g in self.gates if g.on), site)

    def release_runs_at(self, site: SiteCode) -> list[ReleaseRun]:
        """What releases by the clock at a site, of what is switched on."""
        return own_first((r for r in self.release_runs if r.on), site)

    def shelf_runs_at(self, site: SiteCode) -> list[ShelfRun]:
        """What fills shelves by the clock at a site, of what is switched on."""
        return own_first((r for r in self.shelf_runs if r.on), site)

    def recipe(self, recipe: RecipeId | None) -> Recipe | None:
        """The recipe of that id, if there is one."""
        return next((r for r in self.recipes if r.id == recipe), None)

    def flow(self, flow: FlowId) -> Flow | None:
        """The flow of that id, if there is one."""
        return next((f for f in self.flows if f.id == flow), None)

    def menu_for(self, site: SiteCode, crews: Iterable[CrewId]) -> tuple[Flow, ...]:
        """The flows people of these crews see at a site, in menu order, each once."""
        return tuple(flow for _, flows in self.menu_groups(site, crews) for flow in flows)

    def menu_groups(self, site: SiteCode, crews: Iterable[CrewId]) -> tuple[tuple[str, tuple[Flow, ...]], ...]:
        """The same under their headings: groups of one name are one group, where the first of them stands."""
        wanted, seen = set(crews), set[FlowId]()
        groups: dict[str, list[Flow]] = {}
        for menu in self.menus:
            if menu.crew not in wanted or menu.site not in (None, site):
                continue
            for flow in map(self.flow, menu.flows):
                if flow is not None and flow.site in (None, site) and flow.id not in seen:
                    seen.add(flow.id)
                    groups.setdefault(menu.name, []).append(flow)
        return tuple((name, tuple(flows)) for name, flows in groups.items())

    def seen_by(self, site: SiteCode, purpose: FlowPurpose | None = None) -> list[tuple[CrewId, Flow]]:
        """Which crew sees which flow at a site, of a purpose or of all, each pair once."""
        pairs = ((m.crew, f) for m in self.menus for f in self.menu_for(site, (m.crew,)))
        return list(dict.fromkeys((c, f) for c, f in pairs if purpose in (None, f.purpose)))

    def shown_flows(self, site: SiteCode, purpose: FlowPurpose | None = None) -> list[Flow]:
        """The flows that anybody sees at a site, of a purpose or of all, each once."""
        return list(dict.fromkeys(flow for _, flow in self.seen_by(site, purpose)))

    def find_rule(self, rule: str) -> BinRule | None:
        """The bin rule of that id, in any list."""
        return next((r for lst in self.bin_rules for r in lst.rules if r.id == rule), None)
