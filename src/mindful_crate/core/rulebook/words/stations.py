"""The map of stations: the way of goods from the door to where the rules put them, as the plans and rules of a draft say."""

from __future__ import annotations

from mindful_crate.core.catalog.goods import OrderKind
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.bin_rules import BinPurpose, BinRule, IfNothing
from mindful_crate.core.rulebook.chapter import Draw, Edge, Graph, Node, Section
from mindful_crate.core.rulebook.steps import Found, Need, Place, StepPlan
from mindful_crate.core.rulebook.words.shipping import NAMES as STATIONS
from mindful_crate.core.rulebook.words.steps import place_told

DOOR, UNLOAD, INSPECT, HELD, PUT_AWAY, ANY, ASKED = "door", "unload", "inspect", "held", "put away", "any", "asked"
PICK, STOCK, SHIPPED = "pick", "stock", "shipped"


def stations(what: Draw) -> tuple[Section, ...]:
    """The map of the site; none while there is no plan."""
    plans = [p for p in what.book.step_plans if p.on and p.site in (None, what.site)]
    if not plans:
        return ()
    nodes = {DOOR: Node(DOOR, "Goods arrive")}
    by: dict[tuple[str, str], list[str]] = {}
    for plan in plans:
        _plan(what, plan, nodes, by)
    if any(p.put_away.on for p in plans):
        _rules(what, nodes, by)
    return _drawn(nodes, by)


def stations_out(what: Draw) -> tuple[Section, ...]:
    """The way of goods that go out, from where the rules take them to the truck; none while there is no plan."""
    plans = [p for p in what.book.ship_plans if p.on and p.site in (None, what.site)]
    if not plans:
        return ()
    lists = what.book.lists_for(what.site, BinPurpose.PICK_FROM)
    rules = lists[0].rules if lists else ()
    nodes: dict[str, Node] = {}
    by: dict[tuple[str, str], list[str]] = {}
    recipes = [r for r in what.book.recipes_for(what.site, Need.PICK) if r.on]
    names = {c.id: c.name for c in what.book.crews}
    crews = ", ".join(dict.fromkeys(names.get(r.crew, r.crew) for r in recipes)) or "no crew"
    pick = Node(PICK, "Pick", says=crews, path=f"recipes/{recipes[0].id}" if recipes else "recipes", on=bool(recipes))
    for n, rule in enumerate(rules, start=1):
        if rule.on:
            path = f"bin_rules/{lists[0].id}/rules/{rule.id}"
            for id_, title, code in _places(what, rule):
                zone = id_.removeprefix("zone ") if id_.startswith("zone ") else ""
                nodes.setdefault(id_, Node(id_, title, code, path=path, zone=zone))
                by.setdefault((id_, PICK), []).append(str(n))
    if not nodes:
        nodes[STOCK] = Node(STOCK, "Any stock", path="bin_rules")
        by[STOCK, PICK] = []
    nodes[PICK] = pick
    for plan in plans:
        path, before, says = f"ship_plans/{plan.id}", PICK, plan.name
        for station in plan.stations:
            place = plan.step(station).at
            where = place_told(place, what.names, "")
            id_, code = f"{station.value} {where}", where.strip("`") if where.startswith("`") else ""
            nodes.setdefault(id_, Node(id_, STATIONS[station], code, "" if code else where, path, zone=_zone(place)))
            by.setdefault((before, id_), []).append(says)
            before, says = id_, ""
        nodes.setdefault(SHIPPED, Node(SHIPPED, "Shipped", path=path))
        by.setdefault((before, SHIPPED), []).append(says)
    return _drawn(nodes, by)


def _drawn(nodes: dict[str, Node], by: dict[tuple[str, str], list[str]]) -> tuple[Section, ...]:
    """The map of what was found, each station with what leads there."""
    said: dict[str, list[str]] = {}
    for (_, target), names in by.items():
        said.setdefault(target, []).extend(name for name in names if name)
    drawn = tuple(
        evolve(
            n,
            says=", ".join(x for x in (n.says, _listed(list(dict.fromkeys(said.get(n.id, []))))) if x),
            link=_link(n.path),
        )
        for n in nodes.values()
    )
    edges = tuple(Edge(source, target, nodes[target].on, _link(nodes[target].path)) for source, target in by)
    lead = "Where goods go by this draft. A station leads to what decides it."
    return (Section("map", "graph", lead=lead, graph=Graph(drawn, edges)),)


def _link(path: str) -> str:
    """Where what decides a station is shown, as the chapters say it."""
    steps = path.split("/")
    if steps[0] == "bin_rules":
        return "/".join(["bin-rules", *steps[3:4]])
    chapter = "recipes" if steps[0] == "recipes" else "steps"
    return "/".join([chapter, *steps[1:2]]) if path else ""


def _zone(at: Place) -> str:
    return at.zone or "" if isinstance(at, Found) else ""


def _plan(what: Draw, plan: StepPlan, nodes: dict[str, Node], by: dict[tuple[str, str], list[str]]) -> None:
    path, before = f"step_plans/{plan.id}", DOOR
    says = plan.name
    steps = [(UNLOAD, "Unload", plan.unload.at)] if plan.unload.on else []
    steps += [("receive", "Receive", plan.receive.into)]
    steps += [(INSPECT, "Inspect", plan.inspect.at)] if plan.inspect.on else []
    for step, title, place in steps:
        where = place_told(place, what.names, "")
        id_, code = f"{step} {where}", where.strip("`") if where.startswith("`") else ""
        known = nodes.setdefault(id_, Node(id_, title, code, "" if code else where, path, zone=_zone(place)))
        nodes[id_] = known
        by.setdefault((before, id_), []).append(says)
        before, says = id_, ""
    receive = before
    if plan.inspect.on:
        _held(what, path, receive, nodes, by)
    if plan.put_away.on:
        recipes = [r for r in what.book.recipes_for(what.site, Need.PUT_AWAY) if r.on]
        names = {c.id: c.name for c in what.book.crews}
        crews = ", ".join(dict.fromkeys(names.get(r.crew, r.crew) for r in recipes)) or "no crew"
        nodes.setdefault(
            PUT_AWAY, Node(PUT_AWAY, "Put away", says=crews, path=f"recipes/{recipes[0].id}" if recipes else path)
        )
        for recipe in recipes:
            before = receive
            for leg in recipe.legs:
                point = place_told(leg.to, what.names, "")
                id_, code = f"hand over {point}", point.strip("`") if point.startswith("`") else ""
                nodes.setdefault(
                    id_, Node(id_, "Hand over", code, "" if code else point, f"recipes/{recipe.id}", zone=_zone(leg.to))
                )
                by.setdefault((before, id_), []).append(names.get(leg.crew, leg.crew))
                before = id_
            by.setdefault((before, PUT_AWAY), [])
        if not recipes:
            by.setdefault((receive, PUT_AWAY), [])
    else:
        stays = f"stays {plan.id}"
        nodes[stays] = Node(stays, "Goods stay", says="no put-away", path=path, on=False)
        by[receive, stays] = []


def _held(what: Draw, path: str, inspect: str, nodes: dict[str, Node], by: dict[tuple[str, str], list[str]]) -> None:
    """Where what fails is held."""
    lists = what.book.lists_for(what.site, BinPurpose.HOLD_AT)
    rules = [r for r in (lists[0].rules if lists else ()) if r.on]
    zones = list(dict.fromkeys(z for r in rules for t in r.targets for z in t.look_in.zones))
    where = ", ".join(what.names.zone(z) for z in zones) if zones else "" if rules else "where the worker chooses"
    at = f"bin_rules/{lists[0].id}/rules/{rules[0].id}" if rules else path
    zone = zones[0] if len(zones) == 1 else ""
    nodes.setdefault(HELD, Node(HELD, "What fails is held", "", where, at, on=bool(rules), zone=zone))
    by.setdefault((inspect, HELD), [])


def _rules(what: Draw, nodes: dict[str, Node], by: dict[tuple[str, str], list[str]]) -> None:
    """Where the rules put goods, each place with the numbers of its rules."""
    plans = [p for p in what.book.step_plans if p.on and p.put_away.on and p.site in (None, what.site)]
    if any(p.order_kind is OrderKind.CUSTOMER_RETURN for p in plans):
        _places_of(what, BinPurpose.RETURN_TO, nodes, by)
    rules = _places_of(what, BinPurpose.PUT_AWAY, nodes, by)
    if not rules or rules[-1].if_nothing is not IfNothing.OVERFLOW:
        nodes[ASKED] = Node(ASKED, "The worker is asked", path="bin_rules")
        by[PUT_AWAY, ASKED] = ["if nothing fits"] if rules else ["there is no rule"]


def _places_of(
    what: Draw, purpose: BinPurpose, nodes: dict[str, Node], by: dict[tuple[str, str], list[str]]
) -> tuple[BinRule, ...]:
    """The places that the rules for a purpose name, each with the numbers of its rules; the rules."""
    lists = what.book.lists_for(what.site, purpose)
    rules = lists[0].rules if lists else ()
    for n, rule in enumerate(rules, start=1):
        if rule.on:
            path = f"bin_rules/{lists[0].id}/rules/{rule.id}"
            for id_, title, code in _places(what, rule):
                zone = id_.removeprefix("zone ") if id_.startswith("zone ") else ""
                nodes.setdefault(id_, Node(id_, title, code, path=path, zone=zone))
                says = f"returned, {n}" if purpose is BinPurpose.RETURN_TO else str(n)
                by.setdefault((PUT_AWAY, id_), []).append(says)
    return rules


def _places(what: Draw, rule: BinRule) -> list[tuple[str, str, str]]:
    """The zones or bins a rule names, as id, words and code."""
    found: dict[str, tuple[str, str, str]] = {}
    for target in rule.targets:
        look = target.look_in
        for zone in look.zones:
            found[f"zone {zone}"] = (f"zone {zone}", what.names.zone(zone), "")
        for bin_ in look.bins:
            found[f"bin {bin_}"] = (f"bin {bin_}", "Bin", bin_)
        if not look.zones and not look.bins:
            found[ANY] = (ANY, "Home bins" if look.home_bins else "Any bin", "")
    if rule.if_nothing is IfNothing.OVERFLOW and rule.overflow:
        found[f"bin {rule.overflow}"] = (f"bin {rule.overflow}", "Overflow", rule.overflow)
    return list(found.values())


def _listed(says: list[str]) -> str:
    """``rule 1``, ``rules 1, 2``, or the names of plans."""
    if says and all(s.isdigit() for s in says):
        return f"rule {says[0]}" if len(says) == 1 else f"rules {', '.join(says)}"
    return ", ".join(says)
