"""Findings of the scanner flows and menus."""

from __future__ import annotations

from collections.abc import Iterator
from decimal import Decimal, InvalidOperation

from mindful_crate.core.catalog.goods import INBOUND
from mindful_crate.core.catalog.ids import BinCode, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.proving.agreement import KEPT_BY
from mindful_crate.core.proving.findings.finding import Finding, blocks, doubt
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Asks, Check, Each, Flow, FlowPurpose, PlateBy, Prompt, Proposes
from mindful_crate.core.rulebook.settings import GENERAL, Level, Sync, levels
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.rulebook.words.bin_rules import PURPOSE_TITLES
from mindful_crate.core.rulebook.words.parts import ORDERS, any_of
from mindful_crate.core.scanning.kinds import called
from mindful_crate.core.scanning.reading import Read
from mindful_crate.core.work.matters import MACHINE


def flows(book: Rulebook, ground: Ground, site: SiteCode) -> Iterator[Finding]:
    """Menus with what is not there, and flows that nobody sees or that cannot do their work."""
    flows = {f.id for f in book.flows}
    crews = {c.id for c in book.crews}
    for menu in book.menus:
        for missing in [f for f in menu.flows if f not in flows]:
            yield blocks(
                "missing_flow", f"menus/{menu.id}/flows", f"The menu names flow `{missing}`, which does not exist."
            )
        if menu.crew not in crews:
            yield blocks("missing_crew", f"menus/{menu.id}/crew", f"Crew `{menu.crew}` does not exist.")
    if book.sync_of(site) is Sync.NEVER:
        level, _ = levels(book.settings, "sync", site, None)[0]
        says = (
            "Handsets never take what is put in force by themselves: each goes on with its old menu and its old questions until "
            "somebody taps for the new ones on it."
        )
        yield doubt("never_synced", f"settings/{site if level is Level.SITE else GENERAL}/sync", says)
    yield from _kinds(book, site)
    on_menus = {f for m in book.menus for f in m.flows}
    undone = any(
        step.on and step.undo
        for plan in book.step_plans if plan.on and plan.site in (None, site)
        for step in (plan.unload, plan.receive, plan.inspect, plan.put_away)
    )  # fmt: skip
    for flow in book.flows:
        place = f"flows/{flow.id}"
        if flow.id not in on_menus:
            yield doubt("on_no_menu", place, f"{flow.name} is on no menu: nobody sees it.")
        elif flow.purpose is FlowPurpose.UNDO_LAST and flow.site in (None, site) and not undone:
            says = (
                f"{flow.name} is on a menu, and no step plan lets anything be undone: it refuses whatever it is asked."
            )
            yield doubt("nothing_undone", place, says)
        yield from _flow(book, flow, ground, site, place)


def _kinds(book: Rulebook, site: SiteCode) -> Iterator[Finding]:
    """Kinds of orders that a step plan receives, and that no flow on a menu takes."""
    seen = book.shown_flows(site, FlowPurpose.RECEIVE)
    for kind in INBOUND if seen else ():
        plan = next(
            (
                p
                for p in book.step_plans
                if p.on and p.receive.on and p.site in (None, site) and p.order_kind in (None, kind)
            ),
            None,
        )
        if plan is not None and not any(f.is_for(kind) for f in seen):
            says = f"{plan.name} receives {ORDERS[kind].lower()}, and {any_of(f.name for f in seen)} takes other kinds alone: nobody can receive them."
            yield doubt("kind_on_no_flow", f"flows/{seen[0].id}/order_kinds", says)


COUNTS = {Asks.QUANTITY: Asks.ITEM, Asks.PICK_COUNT: Asks.PICK_ITEM}
"""What may be counted piece by piece, and which item must be scanned for it."""
TRACKED = {Asks.EXPIRY: "the expiry", Asks.LOT: "the lot", Asks.SERIAL: "the serial numbers"}


def _pieces(flow: Flow, book: Rulebook, ground: Ground, asked: list[Asks], place: str) -> Iterator[Finding]:
    """A flow in which only some of the pieces of an item may go on, and that never asks which."""
    witness = next(iter(sorted(ground.numbered)), None)
    if witness is None or Asks.PIECES in asked:
        return
    loose = any(f.purpose is FlowPurpose.RECEIVE and f.plate_by is PlateBy.NONE for f in book.flows)
    if flow.purpose is FlowPurpose.MOVE_GOODS:
        does = "only all that lies in a place can be taken"
    elif flow.purpose is FlowPurpose.REPLENISH:
        does = "it is refused where more of it lies than is brought"
    elif flow.purpose is FlowPurpose.PICK and Asks.PICK_ITEM in asked:
        does = "it is refused where more of it lies than is picked"
    elif flow.purpose is FlowPurpose.SORT:
        does = "it is refused where more of it lies than one order gets"
    elif flow.purpose is FlowPurpose.PACK:
        does = "it is refused where more of it stands there than goes in"
    elif flow.purpose is FlowPurpose.INSPECT and Asks.FAILED in asked:
        does = "a part of it cannot fail"
    elif flow.purpose is FlowPurpose.PUT_AWAY and loose:
        does = "it is refused where more of it lies loose than is put away"
    else:
        return
    says = f"{flow.name} never asks which pieces, and `{witness}` is kept by serial numbers: {does}."
    yield doubt("pieces_not_asked", f"{place}/prompts", says, witness)


def _without_effect(prompt: Prompt, ground: Ground, site: SiteCode) -> Iterator[tuple[str, str]]:
    """What is said of a prompt and changes nothing: the field, and why."""
    kind = MACHINE.prompts[prompt.asks]
    what = called(prompt.asks)
    if prompt.fixed and not kind.fixable:
        yield "fixed", f"The {what} is another each time and cannot be said beforehand."
    elif prompt.fixed:
        if kind.reads is Read.NUMBER and not _is_number(prompt.fixed):
            yield "fixed", f"`{prompt.fixed}` is no number above zero, so it is asked all the same."
        if prompt.asks in (Asks.FROM, Asks.TO) and not _is_bin_of(prompt.fixed, ground, site):
            yield "fixed", f"There is no bin `{prompt.fixed}` here, so it is asked all the same."
        if prompt.check is Check.SCAN:
            yield "check", f"The {what} is not asked but taken to be {prompt.fixed}, so there is nothing to scan."
        if prompt.pieces:
            yield "pieces", f"The {what} is not asked but taken to be {prompt.fixed}, so no piece is scanned."
    if prompt.each is Each.LINE and prompt.asks is Asks.PLATE:
        yield "each", "A plate is gone on with until it is finished, so it is asked once."
    if prompt.each is Each.ONCE and not kind.repeats and not kind.lasts and prompt.asks is not Asks.PLATE:
        yield "each", f"The {what} is another each time, so it is asked for each line."
    if prompt.each is Each.ONCE and prompt.asks in COUNTS and prompt.pieces:
        yield "each", "Where pieces are scanned one by one, each line has a quantity of its own."
    if prompt.proposes is not Proposes.REST and prompt.asks is Asks.QUANTITY and prompt.fixed:
        yield "proposes", f"The {what} is not asked but taken to be {prompt.fixed}, so nothing is proposed."


def _is_bin_of(code: str, ground: Ground, site: SiteCode) -> bool:
    return code in ground.bins and ground.site_of(BinCode(code)) == site


def _is_number(text: str) -> bool:
    try:
        return Decimal(text) > 0
    except InvalidOperation:
        return False


def _flow(book: Rulebook, flow: Flow, ground: Ground, site: SiteCode, place: str) -> Iterator[Finding]:
    asked = [p.asks for p in flow.prompts]
    ids = [p.id for p in flow.prompts]
    for twice in dict.fromkeys(i for i in ids if ids.count(i) > 1):
        yield blocks(
            "same_id", f"{place}/prompts", f"Two prompts of {flow.name} are `{twice}`; each needs an id of its own."
        )
    for again in dict.fromkeys(a for a in asked if asked.count(a) > 1):
        yield blocks(
            "asked_twice", f"{place}/prompts", f"{flow.name} asks twice for the {again.value.replace('_', ' ')}."
        )
    for needed in MACHINE.lacking(flow):
        says = f"{flow.name} never asks for the {called(needed)}; it cannot do its work."
        yield blocks("prompt_missing", f"{place}/prompts", says)
    useful = MACHINE.used(flow)
    for n, each in enumerate(flow.prompts):
        at = f"{place}/prompts/{each.id}"
        item = next((p for p in flow.prompts if p.asks is COUNTS.get(each.asks)), None)
        if each.pieces and (item is None or item.check is not Check.SCAN):
            says = "Scanning pieces one by one needs that the item must be scanned, and here it may be typed or tapped: this has no effect."
            yield doubt("pieces_without_item", f"{at}/pieces", says)
        if each.pieces < 0:
            yield blocks(
                "no_pieces", f"{at}/pieces", "So many pieces cannot be scanned. Say at least 1, or take it away."
            )
        if each not in useful:
            other = MACHINE.flows[flow.purpose].only_with.get(each.asks)
            without = f" without the {called(other)}" if other else ""
            says = f"{flow.name} has no use for the {called(each.asks)}{without}: the prompt is passed over."
            yield doubt("prompt_idle", at, says)
        for field, why in _without_effect(each, ground, site):
            yield doubt("no_effect", f"{at}/{field}", f"{why} This has no effect.")
        late = [a for a in MACHINE.waits_for(flow, each) if all(p.asks is not a for p in flow.prompts[:n])]
        if late:
            says = f"{flow.name} asks for the {called(each.asks)} before the {called(late[0])}: it waits until that is answered."
            yield doubt("prompt_waits", at, says)
    if flow.purpose is FlowPurpose.RECEIVE and Asks.BIN in asked:
        crews = {c for c, f in book.seen_by(site, FlowPurpose.RECEIVE) if f.id == flow.id}
        theirs = {r.crew_of(0) for r in book.recipes_for(site, Need.PUT_AWAY) if r.on}
        if crews and not crews & theirs:
            says = f"{flow.name} puts away what it received, and no recipe leaves that to a crew that has it: it stays where it was received."
            yield doubt("puts_nothing", place, says)
    shows_bin = flow.puts_by or (flow.purpose is FlowPurpose.MOVE_GOODS and flow.takes_by)
    if flow.other_bin and flow.purpose in (FlowPurpose.MOVE_GOODS, FlowPurpose.MOVE_PLATES) and not shows_bin:
        says = "The worker chooses where it is taken from and goes, so no bin is shown, and no other can be taken instead. This has no effect."
        yield doubt("no_effect", f"{place}/other_bin", says)
    if flow.purpose is FlowPurpose.RECEIVE:
        if flow.plate_by is not PlateBy.NONE and flow.plate_kind not in ground.plate_kinds:
            yield blocks(
                "missing_plate_kind", f"{place}/plate_kind", f"{flow.name} names no kind of plate that exists."
            )
        if Asks.LOT in asked and Asks.EXPIRY in asked and asked.index(Asks.LOT) < asked.index(Asks.EXPIRY):
            yield doubt(
                "lot_before_expiry",
                f"{place}/prompts",
                "The lot is asked before its expiry date: a mistyped lot is noticed late.",
            )
        for prompt in dict.fromkeys(a for needs in KEPT_BY.values() for a in needs):
            witness = next((i.code for i in ground.items.values() if prompt in KEPT_BY.get(i.tracking, ())), None)
            if prompt not in asked and witness:
                yield doubt(
                    "tracking_not_asked",
                    f"{place}/prompts",
                    f"{flow.name} never asks for {TRACKED[prompt]}, which `{witness}` is kept by.",
                    witness,
                )
    yield from _pieces(flow, book, ground, asked, place)
    for field, rules, used_by in (
        ("from_rules", flow.from_rules, flow.takes_by),
        ("to_rules", flow.to_rules, flow.puts_by),
    ):
        if rules is None:
            continue
        name = PURPOSE_TITLES[rules].lower()
        if used_by is None:
            way = "takes goods by rules that put" if field == "from_rules" else "puts goods by rules that take"
            yield blocks("rules_wrong_way", f"{place}/{field}", f"{flow.name} {way}: those of {name}.")
        elif not any(r.purpose is rules for r in book.bin_rules):
            says = f"{flow.name} goes by the rules of {name}, and there are none."
            yield blocks("no_rules", f"{place}/{field}", says)
    for prompt_ in flow.prompts:
        if MACHINE.prompts[prompt_.asks].reads is Read.NUMBER and prompt_.check is Check.SCAN:
            yield blocks(
                "quantity_scanned",
                f"{place}/prompts/{prompt_.id}/check",
                "A quantity cannot be demanded as a scan: nobody could answer.",
            )
