"""New parts of a rulebook: they get their ids and first words here, when they are stored, so that two that are added at once
never have one name."""

from __future__ import annotations

import copy
from collections.abc import Callable, Iterable, Iterator
from enum import StrEnum
from typing import Any, TypeVar

from mindful_crate.core.catalog.goods import OrderKind, Status
from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.places import ZonePurpose
from mindful_crate.core.plain import Plain
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.bin_rules import BinPurpose, Disposition
from mindful_crate.core.rulebook.counting import ReasonFor, SplitBy
from mindful_crate.core.rulebook.filling import Fills
from mindful_crate.core.rulebook.flows import FlowPurpose
from mindful_crate.core.rulebook.gates import GateKind, GateVerdict, Measure
from mindful_crate.core.rulebook.packing import Proof
from mindful_crate.core.rulebook.papers import FITS, USUALLY, Paper, When
from mindful_crate.core.rulebook.recipes import Grouping, Sequencing
from mindful_crate.core.rulebook.returns import Accepts
from mindful_crate.core.rulebook.starter import FIRST_PROMPTS, RECEIVES, first_prompt
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.rulebook.waves import Method
from mindful_crate.core.rulebook.words.bin_rules import DISPOSITIONS
from mindful_crate.core.rulebook.words.parts import ORDERS
from mindful_crate.core.rulebook.words.shipping import OUTBOUND, kind_of

W = TypeVar("W", bound=StrEnum)
PREFIXES = {
    "bin_rules": "BL", "rules": "BR", "targets": "T", "step_plans": "SP", "recipes": "RE", "legs": "LG", "flows": "F", "prompts": "PR",
    "menus": "MN", "crews": "crew", "label_rules": "LR", "gates": "G", "rungs": "RG",
    "release_runs": "RR", "shelf_runs": "SF", "ship_plans": "SH", "wave_plans": "WP", "dock_rules": "XD", "pack_rules": "PK", "order_classes": "OC", "paper_forms": "PF", "count_plans": "CP", "stock_reasons": "SR", "return_rules": "RA", "return_marks": "RM",
}  # fmt: skip
"""How the ids of the parts of each list begin."""
NAMES = {
    FlowPurpose.UNLOAD: "Unload", FlowPurpose.RECEIVE: "Receive", FlowPurpose.INSPECT: "Inspect", FlowPurpose.PUT_AWAY: "Put away", FlowPurpose.MOVE_PLATES: "Move plates",
    FlowPurpose.PICK: "Pick", FlowPurpose.SORT: "Sort", FlowPurpose.PACK: "Pack", FlowPurpose.STAGE: "Stage", FlowPurpose.LOAD: "Load", FlowPurpose.SHIP: "Ship", FlowPurpose.REPLENISH: "Refill shelves", FlowPurpose.MOVE_GOODS: "Move goods", FlowPurpose.RETURN: "Take back", FlowPurpose.COUNT: "Count", FlowPurpose.ADJUST: "Correct a number", FlowPurpose.RESTATUS: "Change a status", FlowPurpose.RELOCATE: "Say where it lies", FlowPurpose.UNDO_LAST: "Undo", FlowPurpose.LOOK_UP: "Look up",
}  # fmt: skip
"""What a new flow is called, until somebody calls it otherwise."""


def at(plain: Plain, path: str) -> Any:
    """What stands at a path of the plain rulebook; None when nothing does."""
    for step in path.split("/"):
        if isinstance(plain, list):
            plain = next((part for part in plain if isinstance(part, dict) and part.get("id") == step), None)
        else:
            plain = plain.get(step) if isinstance(plain, dict) else None
    return plain


FOR_ALL = "all-"
"""How the ids of parts of all sites begin, so that no site ever has one of its own that reads the same."""


def begins(path: str) -> str:
    """How ids begin of what comes to stand at a path: those within a part of all sites as that part's own."""
    return FOR_ALL if path.partition("/")[2].startswith(FOR_ALL) else ""


def with_ids(plain: Plain, list_: str, part: dict[str, Any], before: str = "") -> dict[str, Any]:
    """A part and what is within it with ids that nothing in the rulebook bears; ``list_`` is the name of its list, ``before``
    how its ids begin."""
    taken: dict[str, set[str]] = {}

    def named(name: str, each: dict[str, Any]) -> dict[str, Any]:
        known = taken.setdefault(name, set(_ids(plain, name)))
        prefix, n = before + PREFIXES.get(name, "X"), len(known) + 1
        while f"{prefix}-{n}" in known:
            n += 1
        known.add(f"{prefix}-{n}")
        rest = {k: v for k, v in each.items() if k != "id"}
        return {
            "id": f"{prefix}-{n}",
            **{k: [named(k, x) for x in v] if k in PREFIXES and isinstance(v, list) and all(isinstance(x, dict) for x in v) else v for k, v in rest.items()},
        }  # fmt: skip

    return named(list_, copy.deepcopy(part))


def _ids(plain: Plain, list_: str) -> Iterator[str]:
    if isinstance(plain, dict):
        for key, value in plain.items():
            if key == list_ and isinstance(value, list):
                yield from (str(x["id"]) for x in value if isinstance(x, dict) and "id" in x)
            yield from _ids(value, list_)
    elif isinstance(plain, list):
        for each in plain:
            yield from _ids(each, list_)


FirstPart = Callable[[Plain, str, Any], dict[str, Any]]
"""What a new part of the list at a path says first, after what was chosen for it."""


def first_part(ground: Ground, site: SiteCode) -> FirstPart:
    """How new parts begin at a site."""

    def first(plain: Plain, path: str, choice: Any) -> dict[str, Any]:
        *_, list_ = path.split("/")
        made = _FIRST.get(list_)
        if made is None:
            raise Refusal("nothing_to_add", f"Nothing is added at `{path}`.", path)
        return made(plain, path, choice, ground, site)

    return first


def _one(among: Iterable[W], choice: Any, path: str) -> W:
    found = next((each for each in among if each.value == choice), None)
    if found is None:
        raise Refusal("no_such_choice", f"{choice!r} is nothing that can be added at `{path}`.", path)
    return found


def _bin_rules(plain: Plain, path: str, choice: Any, ground: Ground, site: SiteCode) -> dict[str, Any]:
    return {"purpose": choice, "rules": []}


def _takes(plain: Plain, path: str) -> bool:
    purpose = at(plain, "/".join(path.split("/")[:2])) or {}
    return purpose.get("purpose") in [p.value for p in BinPurpose if p.takes]


def _rules(plain: Plain, path: str, choice: Any, ground: Ground, site: SiteCode) -> dict[str, Any]:
    return {"targets": [_target(plain, path, "any" if _takes(plain, path) else "empty")]}


def _target(plain: Plain, path: str, wants: str) -> dict[str, Any]:
    return {"look_in": {}, "wants": wants, "prefer": ["fifo"] if _takes(plain, path) else ["walk_order"]}


def _targets(plain: Plain, path: str, choice: Any, ground: Ground, site: SiteCode) -> dict[str, Any]:
    return _target(plain, path, "any")


def _step_plans(plain: Plain, path: str, choice: Any, ground: Ground, site: SiteCode) -> dict[str, Any]:
    bins = [b.code for purpose in RECEIVES for b in ground.bins_of(purpose, site)]
    name = ORDERS[_one(OrderKind, choice, path)] if choice else "All orders"
    kind = {"order_kind": choice} if choice else {}
    made = {"name": name, "receive": {"into": bins[0] if bins else "none yet"}, **kind}
    tied = _tied(plain, "step_plans", choice, site)
    return {**made, "on": False} if tied else made  # until it is said which of them are for what


def _tied(plain: Plain, list_: str, choice: Any, site: SiteCode) -> bool:
    """Is there a plan already for all orders of that kind?"""
    return any(
        p.get("order_kind") == (choice or None) and not p.get("only") and p.get("on", True)
        and (p.get("site") == site or ("site" not in p and not str(p.get("id")).startswith(FOR_ALL)))
        for p in (plain.get(list_, ()) if isinstance(plain, dict) else ())
    )  # fmt: skip


def _recipes(plain: Plain, path: str, choice: Any, ground: Ground, site: SiteCode) -> dict[str, Any]:
    need, _, crew = str(choice).rpartition(" ")
    if need == Need.PICK.value:
        return {"need": need, "crew": crew, "grouping": Grouping.ORDER.value, "sequence": Sequencing.TOUR.value}
    if need == Need.REPLENISH.value:
        return {"need": need, "crew": crew, "priority": 5}
    return {"need": Need.PUT_AWAY.value, "crew": crew}


def _ship_plans(plain: Plain, path: str, choice: Any, ground: Ground, site: SiteCode) -> dict[str, Any]:
    kind = _one(OUTBOUND, choice, path) if choice else None
    made = {"name": kind_of(kind), **({"order_kind": choice} if kind else {}), "pack": {"on": True}}
    return {**made, "on": False} if _tied(plain, "ship_plans", choice, site) else made


def _wave_plans(plain: Plain, path: str, choice: Any, ground: Ground, site: SiteCode) -> dict[str, Any]:
    return {"name": "New wave plan", "method": _one(tuple(Method), choice, path).value}


def _dock_rules(plain: Plain, path: str, choice: Any, ground: Ground, site: SiteCode) -> dict[str, Any]:
    zones = [ground.zones[z] for z in ground.zones_of_site.get(site, ())]
    lane = next((z for z in zones if z.purpose is ZonePurpose.CROSS_DOCK), None)
    return {"through": choice == "through" or lane is None, **({"to": {"zone": lane.code}} if lane else {})}


def _pack_rules(plain: Plain, path: str, choice: Any, ground: Ground, site: SiteCode) -> dict[str, Any]:
    return {"proof": _one(Proof, choice, path).value}


def _order_classes(plain: Plain, path: str, choice: Any, ground: Ground, site: SiteCode) -> dict[str, Any]:
    return {"name": "New class", "order_kinds": [_one(OrderKind, choice, path).value]}


def _paper_forms(plain: Plain, path: str, choice: Any, ground: Ground, site: SiteCode) -> dict[str, Any]:
    paper = _one(Paper, choice, path)
    return {"paper": paper.value, "columns": [c.value for c in USUALLY[paper]]}


def _count_plans(plain: Plain, path: str, choice: Any, ground: Ground, site: SiteCode) -> dict[str, Any]:
    return {"name": "New count plan", "split": _one(SplitBy, choice, path).value}


def _stock_reasons(plain: Plain, path: str, choice: Any, ground: Ground, site: SiteCode) -> dict[str, Any]:
    return {"name": "New reason", "used": _one(ReasonFor, choice, path).value}


def _return_rules(plain: Plain, path: str, choice: Any, ground: Ground, site: SiteCode) -> dict[str, Any]:
    return {"accepts": _one(Accepts, choice, path).value}


def _return_marks(plain: Plain, path: str, choice: Any, ground: Ground, site: SiteCode) -> dict[str, Any]:
    goes = _one(Disposition, choice, path)
    status = Status.AVAILABLE if goes is Disposition.RESTOCK else Status.DAMAGED
    return {"name": f"To be {DISPOSITIONS[goes]}", "goes": goes.value, "status": status.value}


def _legs(plain: Plain, path: str, choice: Any, ground: Ground, site: SiteCode) -> dict[str, Any]:
    zones = [ground.zones[z] for z in ground.zones_of_site.get(site, ())]
    point = next((z for z in zones if z.purpose is ZonePurpose.STAGING), zones[0] if zones else None)
    return {"crew": choice, "to": {"zone": point.code} if point else {}}


def _flows(plain: Plain, path: str, choice: Any, ground: Ground, site: SiteCode) -> dict[str, Any]:
    purpose = _one(FlowPurpose, choice, path)
    prompts = [first_prompt(asks, each) for asks, each in FIRST_PROMPTS[purpose]]
    kinds = list(ground.plate_kinds)
    more = {"plate_kind": kinds[0]} if purpose is FlowPurpose.RECEIVE and kinds else {}
    return {"name": NAMES[purpose], "purpose": purpose.value, "prompts": prompts, **more}


def _prompts(plain: Plain, path: str, choice: Any, ground: Ground, site: SiteCode) -> dict[str, Any]:
    return first_prompt(choice)


def _menus(plain: Plain, path: str, choice: Any, ground: Ground, site: SiteCode) -> dict[str, Any]:
    return {"crew": choice, "flows": []}


def _crews(plain: Plain, path: str, choice: Any, ground: Ground, site: SiteCode) -> dict[str, Any]:
    return {"name": "New crew"}


def _label_rules(plain: Plain, path: str, choice: Any, ground: Ground, site: SiteCode) -> dict[str, Any]:
    when = _one(When, choice, path)
    return {"when": when.value, "prints": next(p for p, fits in FITS.items() if when in fits).value}


def _gates(plain: Plain, path: str, choice: Any, ground: Ground, site: SiteCode) -> dict[str, Any]:
    if choice == GateKind.WORD:
        return {"name": "New gate", "kind": choice, "whose": "the office"}
    if choice == GateKind.UNTIL:
        return {"name": "New gate", "kind": choice, "until": "14:00"}
    rungs = [{"below": 65}, {"below": 95, "verdict": GateVerdict.WARN.value}]
    return {"name": "New gate", "measure": _one(Measure, choice, path).value, "rungs": rungs}


def _release_runs(plain: Plain, path: str, choice: Any, ground: Ground, site: SiteCode) -> dict[str, Any]:
    return {"times": "07:00"}


def _shelf_runs(plain: Plain, path: str, choice: Any, ground: Ground, site: SiteCode) -> dict[str, Any]:
    return {"times": "05:30", "fills": _one(Fills, choice, path).value}


def _rungs(plain: Plain, path: str, choice: Any, ground: Ground, site: SiteCode) -> dict[str, Any]:
    known = at(plain, path) or []
    most = max((r.get("below", 0) for r in known), default=60)
    return {"below": min(100, most + 5), "verdict": _one(GateVerdict, choice, path).value}


_FIRST: dict[str, Callable[[Plain, str, Any, Ground, SiteCode], dict[str, Any]]] = {
    "bin_rules": _bin_rules, "rules": _rules, "targets": _targets, "step_plans": _step_plans, "recipes": _recipes,
    "legs": _legs, "flows": _flows, "prompts": _prompts, "menus": _menus, "crews": _crews, "label_rules": _label_rules, "gates": _gates, "rungs": _rungs,
    "release_runs": _release_runs, "shelf_runs": _shelf_runs, "ship_plans": _ship_plans, "wave_plans": _wave_plans, "dock_rules": _dock_rules, "pack_rules": _pack_rules, "order_classes": _order_classes, "paper_forms": _paper_forms, "count_plans": _count_plans, "stock_reasons": _stock_reasons, "return_rules": _return_rules, "return_marks": _return_marks,
}  # fmt: skip


def copied(plain: Plain, path: str, called: str = "copy") -> dict[str, Any]:
    """A part once more, with ids of its own; one with a name is called a copy. Within a part of all sites it is of all sites,
    and so are the ids."""
    part = at(plain, path)
    if not isinstance(part, dict):
        raise Refusal("no_such_place", f"The rulebook has nothing at `{path}`; it may have been removed.", path)
    steps = path.split("/")
    made = with_ids(plain, steps[-2], part, begins(path) if called == "copy" else "")
    if steps[:-1] in (["step_plans"], ["ship_plans"]) and called == "copy":
        made["on"] = False  # two plans for the same goods tie: it is switched on when it is for others
    return {**made, "name": f"{part['name']} ({called})"} if "name" in part else made
