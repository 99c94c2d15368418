"""Findings of the bin rules."""

from __future__ import annotations

from collections.abc import Container, Iterable, Iterator, Set
from typing import Any

from mindful_crate.core.catalog.goods import Item, LotOrder, OrderKind, Tracking
from mindful_crate.core.catalog.ids import BinCode, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.places import PICKED_FROM, ZonePurpose
from mindful_crate.core.placing.rules import bins_in
from mindful_crate.core.proving.findings.finding import Finding, blocks, doubt, elsewhere, spans
from mindful_crate.core.rulebook.bin_rules import (
    PUTTING_WANTS,
    STOCK_ORDERS,
    TAKING_WANTS,
    Between,
    BinPurpose,
    BinRule,
    Conditions,
    IfNothing,
    LookIn,
    Prefer,
    Target,
    UnitForm,
)
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.steps import (
    BY_RULES,
    Need,
)
from mindful_crate.core.rulebook.words.bin_rules import PREFER, PURPOSE_TITLES, WANTS

LEAVE = (Prefer.FEFO, Prefer.FIFO, Prefer.LIFO)
"""Preferences that say in which order goods leave."""
ORDERS_OF_ITEMS = {LotOrder.FEFO: Prefer.FEFO, LotOrder.FIFO: Prefer.FIFO}


def bin_rules(book: Rulebook, ground: Ground, site: SiteCode) -> Iterator[Finding]:
    """Rules that name what is not there, look where no bin is, are never reached, or say what means nothing."""
    groups = {i.group for i in ground.items.values()}
    partner_groups = {p.group for p in ground.partners.values()}
    aisles = {b.aisle for b in ground.bins.values()}
    seen: dict[LookIn, tuple[bool, dict[ZonePurpose, BinCode]]] = {}

    def looked_at(look: LookIn) -> tuple[bool, dict[ZonePurpose, BinCode]]:
        """Is any bin looked at, and the first of each purpose of zone: many rules look in the same places."""
        if look not in seen:
            first: dict[ZonePurpose, BinCode] = {}
            for b in bins_in(ground, site, look):
                first.setdefault(ground.zones[b.zone].purpose, b.code)
            seen[look] = bool(first), first
        return seen[look]

    for rules in book.bin_rules:
        asking: dict[Conditions, BinRule] = {}
        """Of the rules above that end by asking the worker, the first for each set of goods."""
        for rule in rules.rules:
            place = f"bin_rules/{rules.id}/rules/{rule.id}"
            yield from _missing(rule, ground, place, groups, partner_groups, aisles)
            if not rule.targets:
                yield blocks("no_target", place, "The rule names no place to look in.")
            yield from _odd_rule(rules.purpose, rule, ground, place, site if rules.site in (None, site) else None)
            for target in rule.targets:
                any_bin, first = looked_at(target.look_in)
                at = f"{place}/targets/{target.id}/look_in"
                if not any_bin:
                    yield doubt("no_bins", at, _no_bins(target.look_in, ground, site))
                odd = set(first) - PICKED_FROM - {ZonePurpose.QUARANTINE, ZonePurpose.RETURNS}
                if odd and rules.purpose is BinPurpose.PUT_AWAY and not target.look_in.own_plate:
                    witness = next(code for purpose, code in first.items() if purpose in odd)
                    names = ", ".join(sorted(p.value.replace("_", "-") for p in odd))
                    yield doubt(
                        "no_storage", at, f"Goods would be put away to a {names} bin, which is no storage.", witness
                    )
            shadow = next((a for applies, a in asking.items() if rule.on and _covers(applies, rule.applies)), None)
            if shadow:
                yield doubt(
                    "never_reached",
                    place,
                    f"Never reached: rule `{shadow.id}` above takes all its goods and ends by asking the worker.",
                )
            if rule.on and rule.if_nothing is IfNothing.ASK:
                asking.setdefault(rule.applies, rule)


def idle_lists(book: Rulebook, site: SiteCode) -> Iterator[Finding]:
    """Lists of bin rules that nothing asks yet."""
    flows = book.shown_flows(site)
    asked = {*(f.puts_by for f in flows), *(f.takes_by for f in flows)}
    asked |= {BinPurpose.PICK_FROM, BinPurpose.REPLENISH_FROM}  # the office keeps stock by them
    if any(r.on for r in book.recipes_for(site, Need.REPLENISH)):
        asked.add(BinPurpose.REPLENISH_TO)
    asked |= {
        purpose
        for p in book.step_plans
        if p.on
        for purpose, on, at in (
            (BinPurpose.PUT_AWAY, p.put_away.on and p.order_kind is not OrderKind.CUSTOMER_RETURN, p.put_away.at),
            (BinPurpose.RETURN_TO, p.put_away.on and p.order_kind in (None, OrderKind.CUSTOMER_RETURN), p.put_away.at),
            (BinPurpose.RECEIVE_INTO, True, p.receive.into),
            (BinPurpose.INSPECT_AT, p.inspect.on, p.inspect.at),
            (BinPurpose.HOLD_AT, p.inspect.on, BY_RULES),
        )
        if on and at == BY_RULES
    }
    for rules in book.bin_rules:
        if rules.rules and rules.purpose not in asked:
            name = PURPOSE_TITLES[rules.purpose].lower()
            yield doubt(
                "asked_by_nothing", f"bin_rules/{rules.id}", f"Nothing asks {name} yet: these rules have no effect."
            )


def _no_bins(look: LookIn, ground: Ground, site: SiteCode) -> str:
    """Why nothing is looked at: what is named lies at another site, or nothing there is of all that is asked for."""
    of_zones = [(ground.zones[z].name, ground.zones[z].site) for z in look.zones if z in ground.zones]
    of_bins = [(f"bin `{b}`", ground.site_of(b)) for b in look.bins if b in ground.bins]
    away = [(name, ground.sites[at].name) for name, at in (*of_zones, *of_bins) if at != site and at in ground.sites]
    if not away:
        return "No bin of the site is looked at here."
    names = ", ".join(dict.fromkeys(name for name, _ in away))
    return f"No bin of the site is looked at here: {names} {'is' if len(away) == 1 else 'are'} at {away[0][1]}."


def _odd_rule(
    purpose: BinPurpose, rule: BinRule, ground: Ground, place: str, here: SiteCode | None
) -> Iterator[Finding]:
    """What a rule says that means nothing for its purpose, or cannot work; ``here`` is the site, if it applies there."""
    if rule.if_nothing is IfNothing.OVERFLOW:
        if rule.overflow is None:
            yield blocks(
                "no_overflow", f"{place}/overflow", "The rule sends what is left to an overflow bin and names none."
            )
        elif here and rule.overflow in ground.bins and ground.site_of(rule.overflow) != here:
            yield elsewhere(rule.overflow, ground, f"{place}/overflow")
        elif rule.overflow not in ground.bins:
            says = f"The overflow bin `{rule.overflow}` does not exist. Choose another, or bring it in."
            yield blocks("missing_bin", f"{place}/overflow", says)
        if purpose.takes:
            yield blocks(
                "overflow_taking", f"{place}/if_nothing", "Goods are taken here: there is no overflow bin for that."
            )
    for target in rule.targets:
        at = f"{place}/targets/{target.id}"
        wrong = set(PUTTING_WANTS) - set(TAKING_WANTS) if purpose.takes else set(TAKING_WANTS) - set(PUTTING_WANTS)
        if target.wants in wrong:
            side = "takes goods out of bins" if purpose.takes else "puts goods into bins"
            yield blocks("wrong_wants", f"{at}/wants", f"This list {side}; {WANTS[target.wants]} means nothing here.")
        if not purpose.takes and STOCK_ORDERS & set(target.prefer):
            names = ", ".join(PREFER[p] for p in target.prefer if p in STOCK_ORDERS)
            yield doubt("idle_prefer", f"{at}/prefer", f"Goods are put here: {names} makes no difference.")
        if target.most is not None and target.most < 1:
            yield blocks("no_most", f"{at}/most", "At most none a bin: no bin can take anything.")
        if target.look_in.home_bins and not ground.homes:
            yield doubt("no_homes", f"{at}/look_in", "No item is at home in any bin, so this place never has one.")
        if target.look_in.own_plate and purpose is BinPurpose.PUT_AWAY:
            yield doubt(
                "no_own_plate", f"{at}/look_in", "Whole plates are put away: there is no plate being built to add to."
            )
        if purpose.takes:
            yield from _against_item(rule, target, ground, f"{at}/prefer")
    if not 0 <= rule.least_percent <= 100:
        yield blocks(
            "bad_share", f"{place}/least_percent", "The smallest share is between 0 and 100 % of what is asked."
        )
    if rule.split and purpose is BinPurpose.PUT_AWAY and rule.applies.unit_forms == (UnitForm.WHOLE_PLATE,):
        yield doubt("plates_whole", f"{place}/split", "Whole plates are never split: this makes no difference.")
    yield from spans(rule.applies, "rule", place)
    if purpose.takes:
        fefo = next(
            (i for i in _kinds(ground) if i.lot_order is LotOrder.FEFO and i.tracking is not Tracking.LOT_EXPIRY), None
        )
        if fefo and (not rule.applies.items or fefo.code in rule.applies.items) and rule.fefo_days == 0:
            says = f"{fefo.name} must leave by expiry but is not kept by expiry: any of it may leave first."
            yield doubt("fefo_without_expiry", f"{place}/fefo_days", says, fefo.code)


def _against_item(rule: BinRule, target: Target, ground: Ground, place: str) -> Iterator[Finding]:
    """A place that asks for an order of leaving when all goods it takes have another of themselves: theirs holds."""
    order = next((p for p in target.prefer if p in LEAVE), None)
    if order is None:
        return
    asked = [ground.items[c] for c in rule.applies.items if c in ground.items]
    taken = [i for i in (asked if rule.applies.items else _kinds(ground)) if _may_take(rule.applies, i)]
    theirs = [ORDERS_OF_ITEMS[i.lot_order] for i in taken if i.lot_order in ORDERS_OF_ITEMS]
    if taken and len(theirs) == len(taken) and order not in theirs:
        first = taken[0]
        says = f"Taken is {PREFER[order]} here; but {first.name} leaves {PREFER[theirs[0]]}, and its own order holds."
        yield doubt("other_order", place, says, first.code)


def _kinds(ground: Ground) -> list[Item]:
    """An item of each kind that conditions and orders of leaving tell apart, the first of it: catalogues have tens of thousands, of few kinds."""
    known: list[Item] | None = ground.remembered.get("kinds of items")
    if known is None:
        first: dict[tuple[Any, ...], Item] = {}
        for i in ground.items.values():
            first.setdefault((i.group, i.hazard_class, i.velocity_class, i.tracking, i.lot_order), i)
        known = ground.remembered["kinds of items"] = list(first.values())
    return known


def _may_take(applies: Conditions, item: Item) -> bool:
    """May goods of an item satisfy conditions, besides those that name items? By what the item itself says."""
    return (
        item.group in (applies.groups or (item.group,))
        and item.hazard_class in (applies.hazard_classes or (item.hazard_class,))
        and item.velocity_class in (applies.velocity_classes or (item.velocity_class,))
        and item.tracking in (applies.trackings or (item.tracking,))
    )


def _covers(above: Conditions, below: Conditions) -> bool:
    """Does whatever satisfies ``below`` satisfy ``above`` too?"""
    for name in Conditions.__dataclass_fields__:
        value, other = getattr(above, name), getattr(below, name)
        if isinstance(value, Between):
            if not value.open and value != other:
                return False
            continue
        wide, narrow = set(value), set(other)
        if wide and (not narrow or not narrow <= wide):
            return False
    return True


def _missing(
    rule: BinRule, ground: Ground, place: str, groups: Set[str], partner_groups: Set[str], aisles: Set[str]
) -> Iterator[Finding]:
    applies = f"{place}/applies"
    rows: list[tuple[str, str, Iterable[str], Container[Any]]] = [
        ("item", f"{applies}/items", rule.applies.items, ground.items),
        ("partner", f"{applies}/partners", rule.applies.partners, ground.partners),
        ("item group", f"{applies}/groups", rule.applies.groups, groups),
        ("partner group", f"{applies}/partner_groups", rule.applies.partner_groups, partner_groups),
    ]
    for target in rule.targets:
        at = f"{place}/targets/{target.id}/look_in"
        rows += [
            ("zone", f"{at}/zones", target.look_in.zones, ground.zones),
            ("bin type", f"{at}/bin_types", target.look_in.bin_types, ground.bin_types),
            ("bin", f"{at}/bins", target.look_in.bins, ground.bins),
            ("aisle", f"{at}/aisles", target.look_in.aisles, aisles),
        ]
    for word, where, codes, known in rows:
        for code in codes:
            if code not in known:
                code_of = f"missing_{word.replace(' ', '_')}"
                yield blocks(code_of, where, f"The {word} `{code}` does not exist. Choose another, or bring it in.")
