"""Findings of packing and shipping: rules that are never reached, cartons that are not there, goods that fit nowhere, steps that nobody does."""

from __future__ import annotations

from collections.abc import Iterator

from mindful_crate.core.catalog.goods import INBOUND, OrderKind
from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.packing.suggesting import suggest
from mindful_crate.core.packing.things import Thing
from mindful_crate.core.proving.findings.finding import Finding, blocks, doubt
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import FlowPurpose
from mindful_crate.core.rulebook.packing import CONDITIONS, PackRule, Weigh
from mindful_crate.core.rulebook.shipping import Station
from mindful_crate.core.rulebook.words.shipping import NAMES

DOES = {
    Station.PACK: (FlowPurpose.PACK, "packs"),
    Station.STAGE: (FlowPurpose.STAGE, "stages"),
    Station.LOAD: (FlowPurpose.LOAD, "loads"),
}


def packing(book: Rulebook, ground: Ground, site: SiteCode) -> Iterator[Finding]:
    """Rules of packing, and the steps by which goods leave."""
    above: PackRule | None = None
    packs = any(p.on and p.picks and p.pack.on for p in book.ship_plans if p.site in (None, site))
    scales = [p for p in ground.opening.pack_stations if p.site == site and p.scale]
    for rule in book.packs_at(site):
        place = f"pack_rules/{rule.id}"
        if above is not None:
            yield doubt("never_reached", place, f"Never reached: rule `{above.id}` above is for all orders.")
        if all(not getattr(rule, name) for name in CONDITIONS):
            above = above or rule
        if odd := [k for k in rule.order_kinds if k in INBOUND]:
            says = f"Nothing is packed of a {odd[0].value.replace('_', ' ')}: its goods come in."
            yield blocks("comes_in", f"{place}/order_kinds", says)
        for kind in rule.kinds:
            if kind not in ground.carton_kinds:
                yield blocks("missing_kind", f"{place}/kinds", f"Kind of carton `{kind}` does not exist.")
        if rule.packs and rule.weigh is Weigh.SCALE and packs and not scales:
            yield doubt(
                "no_scale", f"{place}/weigh", "No pack station of this site has a scale: every weight is said by hand."
            )
        if rule.packs and packs:
            yield from _fits(rule, ground, place)
    if book.packs_at(site) and not packs:
        yield doubt(
            "nothing_packed",
            "pack_rules",
            "No shipment plan packs: these rules have no effect. Switch packing on, on Steps.",
        )
    yield from _steps(book, site)


def _fits(rule: PackRule, ground: Ground, place: str) -> Iterator[Finding]:
    """An item of which not even one piece goes into any carton the rule lets be used."""
    kinds = [k for k in ground.opening.carton_kinds if not rule.kinds or k.code in rule.kinds]
    if not kinds:
        return
    lost = []
    for item in ground.items.values():
        if rule.groups and item.group not in rule.groups:
            continue
        unit = item.base
        if suggest([Thing(item.code, unit.length_mm, unit.width_mm, unit.height_mm, unit.weight_mg)], kinds).homeless:
            lost.append(item)
    if lost:
        more = f", and {len(lost) - 1} more items" if len(lost) > 1 else ""
        says = f"`{lost[0].code}` {lost[0].name}{more} fit into no carton of this rule, not even one piece: who packs it finds none."
        yield doubt("fits_no_carton", f"{place}/kinds", says, lost[0].code)


def _steps(book: Rulebook, site: SiteCode) -> Iterator[Finding]:
    """Steps that no flow on a menu does, and steps of a plan that picks nothing."""
    ships = book.seen_by(site, FlowPurpose.SHIP)
    for plan in book.ship_plans:
        if not plan.on or plan.site not in (None, site):
            continue
        place = f"ship_plans/{plan.id}"
        if not plan.picks and plan.stations:
            names = ", ".join(NAMES[s].lower() for s in plan.stations)
            says = f"{plan.name} picks nothing, so nothing comes to its other steps: {names}. It leaves from where it lies."
            yield doubt("nothing_comes", f"{place}/picks", says)
            continue
        pickers = book.seen_by(site, FlowPurpose.PICK)
        for station in plan.stations:
            if station in DOES and pickers and not book.seen_by(site, DOES[station][0]):
                says = f"{NAMES[station]} is on, and no flow on a menu {DOES[station][1]}: only the office could."
                yield doubt("nobody_does", f"{place}/{station.value}/on", says)
        if pickers and not ships:
            says = f"No flow on a menu ships what goes by {plan.name}: only the office could."
            yield doubt("nobody_ships", place, says)
        if plan.order_kind in (None, OrderKind.SALES) and not plan.pack.on and plan.stations:
            says = f"{plan.name} packs nothing: what was picked is believed, nobody checks the items again."
            yield doubt("nobody_checks", f"{place}/pack/on", says)
