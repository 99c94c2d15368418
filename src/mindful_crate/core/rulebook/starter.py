"""First rules for a new site: enough to receive, put away, move and look up on a handset, written from its zones.

They are meant to be read and changed. What a site cannot do yet (no place to receive into, no storage) is refused
with what to make first.
"""

from __future__ import annotations

from typing import Any

from mindful_crate.core.catalog.ids import (
    BinCode,
    CrewId,
    FlowId,
    PlanId,
    PromptId,
    RecipeId,
    RuleId,
    SiteCode,
    TargetId,
)
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.places import STORAGE, BinType, PlateNeed, Zone, ZonePurpose
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.bin_rules import (
    BinPurpose,
    BinRule,
    BinRuleList,
    Conditions,
    IfNothing,
    LookIn,
    Prefer,
    Target,
    Wants,
)
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Asks, Check, Crew, Each, Flow, FlowPurpose, Menu, PlateBy, Prompt
from mindful_crate.core.rulebook.recipes import Recipe
from mindful_crate.core.rulebook.steps import Need, PutAwayStep, ReceiveStep, StepPlan

FLOOR = CrewId("floor")
FIRST_PROMPTS: dict[FlowPurpose, tuple[tuple[Asks, Each], ...]] = {
    FlowPurpose.RECEIVE: (
        (Asks.ORDER, Each.ONCE), (Asks.PLATE, Each.ONCE), (Asks.ITEM, Each.LINE), (Asks.EXPIRY, Each.LINE),
        (Asks.LOT, Each.LINE), (Asks.QUANTITY, Each.LINE), (Asks.SERIAL, Each.LINE),
    ),
    FlowPurpose.UNLOAD: ((Asks.DELIVERY, Each.LINE), (Asks.DOOR, Each.LINE), (Asks.LOADS, Each.LINE)),
    FlowPurpose.INSPECT: (
        (Asks.INSPECTED, Each.LINE), (Asks.PIECES, Each.LINE), (Asks.INSPECT_AT, Each.LINE), (Asks.KIND, Each.LINE), (Asks.VERDICT, Each.LINE),
        (Asks.FAILED, Each.LINE), (Asks.FAULT, Each.LINE), (Asks.REMARK, Each.LINE),
    ),
    FlowPurpose.PUT_AWAY: ((Asks.TASK, Each.LINE), (Asks.PIECES, Each.LINE), (Asks.PART, Each.LINE), (Asks.BIN, Each.LINE)),
    FlowPurpose.PICK: (
        (Asks.PICKED, Each.LINE), (Asks.TOTE, Each.LINE), (Asks.PICK_AT, Each.LINE), (Asks.PICK_ITEM, Each.LINE), (Asks.PICK_LOT, Each.LINE),
        (Asks.PICK_COUNT, Each.LINE), (Asks.PIECES, Each.LINE), (Asks.PICK_INTO, Each.LINE), (Asks.SET_AT, Each.LINE),
    ),
    FlowPurpose.SORT: (
        (Asks.SORT_AT, Each.ONCE), (Asks.SORT_ITEM, Each.LINE), (Asks.SORT_COUNT, Each.LINE), (Asks.PIECES, Each.LINE), (Asks.SORT_INTO, Each.LINE),
    ),
    FlowPurpose.PACK: (
        (Asks.PACKED, Each.ONCE), (Asks.PACK_ITEM, Each.LINE), (Asks.PACK_COUNT, Each.LINE), (Asks.PIECES, Each.LINE), (Asks.CARTON_KIND, Each.LINE),
        (Asks.WEIGHT, Each.LINE),
    ),
    FlowPurpose.STAGE: ((Asks.STAGED, Each.LINE), (Asks.LANE, Each.LINE)),
    FlowPurpose.LOAD: ((Asks.TRUCK, Each.ONCE), (Asks.LOADED, Each.LINE)),
    FlowPurpose.SHIP: ((Asks.SHIPPED, Each.LINE), (Asks.CARRIER, Each.LINE), (Asks.REVIEW, Each.LINE)),
    FlowPurpose.REPLENISH: (
        (Asks.REFILL, Each.LINE), (Asks.PICK_AT, Each.LINE), (Asks.PICK_ITEM, Each.LINE), (Asks.PICK_LOT, Each.LINE), (Asks.PICK_COUNT, Each.LINE),
        (Asks.PIECES, Each.LINE), (Asks.PART, Each.LINE), (Asks.BIN, Each.LINE),
    ),
    FlowPurpose.RETURN: (
        (Asks.RETURNED_BY, Each.ONCE), (Asks.RETURN_ITEM, Each.LINE), (Asks.RETURN_LOT, Each.LINE), (Asks.RETURN_SERIALS, Each.LINE),
        (Asks.RETURN_COUNT, Each.LINE), (Asks.DISPOSITION, Each.LINE), (Asks.RETURN_REMARK, Each.LINE),
    ),
    FlowPurpose.COUNT: (
        (Asks.SHEET, Each.LINE), (Asks.COUNT_AT, Each.LINE), (Asks.COUNT_ITEM, Each.LINE), (Asks.COUNT_LOT, Each.LINE), (Asks.COUNT_SERIALS, Each.LINE),
        (Asks.COUNTED, Each.LINE),
    ),
    FlowPurpose.ADJUST: (
        (Asks.STOCK_AT, Each.LINE), (Asks.STOCK_ITEM, Each.LINE), (Asks.STOCK_GONE, Each.LINE), (Asks.STOCK_COUNT, Each.LINE),
        (Asks.STOCK_REASON, Each.LINE), (Asks.STOCK_PHOTO, Each.LINE),
    ),
    FlowPurpose.RESTATUS: (
        (Asks.STOCK_AT, Each.LINE), (Asks.STOCK_ITEM, Each.LINE), (Asks.NEW_STATUS, Each.LINE), (Asks.STOCK_REASON, Each.LINE),
        (Asks.STOCK_PHOTO, Each.LINE),
    ),
    FlowPurpose.RELOCATE: (
        (Asks.STOCK_AT, Each.LINE), (Asks.STOCK_ITEM, Each.LINE), (Asks.STOCK_GONE, Each.LINE), (Asks.STOCK_COUNT, Each.LINE),
        (Asks.STOCK_TO, Each.LINE), (Asks.STOCK_REASON, Each.LINE), (Asks.STOCK_PHOTO, Each.LINE),
    ),
    FlowPurpose.MOVE_PLATES: ((Asks.PLATES, Each.LINE), (Asks.TO, Each.LINE)),
    FlowPurpose.MOVE_GOODS: (
        (Asks.FROM, Each.LINE), (Asks.GOODS, Each.LINE), (Asks.LOT_THERE, Each.LINE), (Asks.COUNT, Each.LINE),
        (Asks.PIECES, Each.LINE), (Asks.TO, Each.LINE),
    ),
    FlowPurpose.UNDO_LAST: ((Asks.LAST, Each.LINE),),
    FlowPurpose.LOOK_UP: ((Asks.LOOK, Each.LINE),),
}  # fmt: skip
"""What a flow of each purpose asks at first."""
RECEIVES = (ZonePurpose.RECEIVING, ZonePurpose.DOCK, ZonePurpose.DOOR)
"""Where goods may be received into, the best first."""


def starter(name: str, ground: Ground, site: SiteCode) -> Rulebook:
    """First rules of a site. Refused when the site has no place to receive into, or there is no kind of plate."""
    if takes_no_plates(ground, site):
        return _loose(name, ground, site)
    into = _into(ground, site)
    kind = next((k.code for k in ground.opening.plate_kinds if k.length_mm >= 1_000), None) or next(
        (k.code for k in ground.opening.plate_kinds), None
    )
    if kind is None:
        raise Refusal("no_plate_kind", "There is no kind of plate yet: make one, say a pallet, in the catalogue.")
    rules = _put_away(ground, site)
    flows: tuple[Flow, ...] = (
        _flow("receive", "Receive to a plate", FlowPurpose.RECEIVE, plate_kind=kind),
        _flow("putaway", "Put away", FlowPurpose.PUT_AWAY),
        _flow("move", "Move plates", FlowPurpose.MOVE_PLATES, several=True, to_rules=BinPurpose.PUT_AWAY if rules else None),
        _flow("look", "Look up", FlowPurpose.LOOK_UP),
    )  # fmt: skip
    if not rules:
        flows = tuple(f for f in flows if f.purpose is not FlowPurpose.PUT_AWAY)
    return _book(name, into, rules, flows)


def takes_no_plates(ground: Ground, site: SiteCode) -> bool:
    """Is everything here kept without plates? So it is where no bin in which goods stay takes any."""
    zones = [ground.zones[z] for z in ground.zones_of_site.get(site, ())]
    bins = [b for z in zones if z.purpose in STORAGE for b in ground.bins_by_zone.get(z.code, ())]
    return bool(bins) and all(ground.bin_types[b.bin_type].plates is PlateNeed.NONE for b in bins)


def _loose(name: str, ground: Ground, site: SiteCode) -> Rulebook:
    """First rules of a site without plates: goods are received loose and put away by the piece. A site of one place,
    a stockroom without bins, is received into that place, and nobody puts away."""
    zones = [ground.zones[z] for z in ground.zones_of_site.get(site, ())]
    bins = [b for z in zones for b in ground.bins_by_zone.get(z.code, ())]
    loose = [b for b in bins if ground.bin_types[b.bin_type].plates is not PlateNeed.REQUIRED]
    by_purpose = {p: [b for b in loose if ground.zones[b.zone].purpose is p] for p in RECEIVES}
    into = next((found[0] for found in by_purpose.values() if found), loose[0] if len(bins) == 1 else None)
    if into is None:
        says = "There is no place to receive into: lay out a receiving zone, even of one bin, that takes goods without plates."
        raise Refusal("no_receiving", says)
    kept = [z for z in zones if z.purpose in STORAGE and ground.bins_by_zone.get(z.code)]
    rules: tuple[BinRule, ...] = ()
    if len(bins) > 1:
        look = LookIn(zones=tuple(z.code for z in kept))
        wishes = ((Wants.SAME_ITEM, Prefer.FULLEST), (Wants.EMPTY, Prefer.WALK_ORDER), (Wants.ANY, Prefer.WALK_ORDER))
        targets = tuple(
            Target(TargetId(f"T-{n}"), look, wants, (prefer,)) for n, (wants, prefer) in enumerate(wishes, start=1)
        )
        rules = (BinRule(RuleId("BR-1"), targets, Conditions(), split=True, if_nothing=IfNothing.ASK),)
    flows: tuple[Flow, ...] = (
        _flow("receive", "Receive", FlowPurpose.RECEIVE, plate_by=PlateBy.NONE),
        _flow("putaway", "Put away", FlowPurpose.PUT_AWAY),
        _flow("move", "Move goods", FlowPurpose.MOVE_GOODS, to_rules=BinPurpose.PUT_AWAY),
        _flow("look", "Look up", FlowPurpose.LOOK_UP),
    )  # fmt: skip
    if not rules:
        flows = tuple(f for f in flows if f.purpose in (FlowPurpose.RECEIVE, FlowPurpose.LOOK_UP))
    return _book(name, into.code, rules, flows)


def _book(name: str, into: BinCode, rules: tuple[BinRule, ...], flows: tuple[Flow, ...]) -> Rulebook:
    return Rulebook(
        name,
        crews=(Crew(FLOOR, "Floor crew"),),
        step_plans=(StepPlan(PlanId("SP-1"), "Receipts", ReceiveStep(into), PutAwayStep(bool(rules))),),
        bin_rules=(BinRuleList("BL-1", BinPurpose.PUT_AWAY, rules),) if rules else (),
        recipes=(Recipe(RecipeId("RE-1"), Need.PUT_AWAY, FLOOR),) if rules else (),
        flows=flows,
        menus=(Menu("MN-1", FLOOR, tuple(f.id for f in flows)),),
    )


def _into(ground: Ground, site: SiteCode) -> BinCode:
    for purpose in RECEIVES:
        found = [b for b in ground.bins_of(purpose, site) if ground.bin_types[b.bin_type].plates is not PlateNeed.NONE]
        if found:
            return found[0].code
    says = "There is no place to receive into: lay out a receiving zone whose bins take plates, even of one bin."
    raise Refusal("no_receiving", says)


def _put_away(ground: Ground, site: SiteCode) -> tuple[BinRule, ...]:
    """Hazardous goods to the zones that admit them, the rest to storage: to the same item first, then to empty bins."""
    zones = [ground.zones[z] for z in ground.zones_of_site.get(site, ())]
    hazard = [z for z in zones if z.purpose is ZonePurpose.HAZARD and _types(ground, z)]
    rest = [z for z in zones if z.purpose in STORAGE - {ZonePurpose.HAZARD} and _types(ground, z)]
    classes = sorted({c for z in hazard for t in _types(ground, z) for c in t.hazard_classes})
    rules = []
    if hazard and classes:
        rules.append(_rule(1, hazard, Conditions(hazard_classes=tuple(classes)), Prefer.NEAREST_DOOR))
    if rest:
        rules.append(_rule(2, rest, Conditions(), Prefer.NEAREST_DOOR))
    return tuple(rules)


def _types(ground: Ground, zone: Zone) -> list[BinType]:
    """Types of its bins that take plates."""
    codes = sorted({b.bin_type for b in ground.bins_by_zone.get(zone.code, ())})
    return [t for c in codes if (t := ground.bin_types[c]).plates is not PlateNeed.NONE]


def _rule(n: int, zones: list[Zone], applies: Conditions, prefer: Prefer) -> BinRule:
    look = LookIn(zones=tuple(z.code for z in zones))
    targets = (
        Target(TargetId(f"T-{2 * n - 1}"), look, Wants.SAME_ITEM_AND_LOT, (Prefer.FULLEST,)),
        Target(TargetId(f"T-{2 * n}"), look, Wants.EMPTY, (prefer, Prefer.LOWEST_LEVEL)),
    )
    return BinRule(RuleId(f"BR-{n}"), targets, applies, if_nothing=IfNothing.ASK)


_SCANNED = {Asks.BIN, Asks.TO}
"""Where the wrong place would not be noticed, it is scanned rather than believed."""


def first_prompt(asks: Any, each: Each | None = None) -> dict[str, Any]:
    """What a new prompt says, in plain form and without an id; ``asks`` may be anything, should it come from outside."""
    often = each or (Each.ONCE if asks in (Asks.ORDER, Asks.PLATE) else Each.LINE)
    check = Check.SCAN if asks in _SCANNED else Check.BELIEVE
    return {"asks": asks.value if isinstance(asks, Asks) else asks, "each": often.value, "check": check.value}


def _flow(id_: str, name: str, purpose: FlowPurpose, **more: Any) -> Flow:
    prompts = tuple(
        Prompt(PromptId(f"PR-{id_}-{n}"), what, each, Check.SCAN if what in _SCANNED else Check.BELIEVE)
        for n, (what, each) in enumerate(FIRST_PROMPTS[purpose], start=1)
    )
    return Flow(FlowId(f"F-{id_.upper()}"), name, purpose, prompts, **more)
