"""Findings of returns: rules that are never reached or name what is not there, marks that nothing finds a place for, takers without rules."""

from __future__ import annotations

from collections.abc import Iterator

from mindful_crate.core.catalog.goods import OrderKind
from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.proving.findings.finding import Finding, blocks, doubt
from mindful_crate.core.rulebook.bin_rules import BinPurpose
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Asks, FlowPurpose
from mindful_crate.core.rulebook.returns import ReturnRule
from mindful_crate.core.rulebook.words.bin_rules import DISPOSITIONS


def returns(book: Rulebook, ground: Ground, site: SiteCode) -> Iterator[Finding]:
    """Rules and marks of a site, and flows that take back."""
    rules, marks = book.returns_at(site), book.marks_at(site)
    whole: ReturnRule | None = None
    items = {i.group for i in ground.items.values()}
    groups = {p.group for p in ground.partners.values() if p.group}
    for rule in rules:
        place = f"return_rules/{rule.id}"
        if whole is not None:
            yield doubt("never_reached", place, f"Never reached: rule `{whole.id}` above is for everything.")
        if not (rule.items or rule.groups or rule.partners or rule.partner_groups or rule.stranger):
            whole = whole or rule
        if rule.days < 0 or rule.days > 3_660:
            yield blocks("bad_days", f"{place}/days", "Goods are accepted from that day on to ten years after.")
        gone: list[str] = [i for i in rule.items if i not in ground.items] + [
            p for p in rule.partners if p not in ground.partners
        ]
        if rule.stranger is not None and rule.stranger not in ground.partners:
            says = f"Partner `{rule.stranger}` does not exist: under whom is it written down?"
            yield blocks("unknown_stranger", f"{place}/stranger", says)
        gone += [g for g in rule.groups if g not in items] + [g for g in rule.partner_groups if g not in groups]
        if gone:
            yield doubt(
                "nothing_like_it", place, f"`{gone[0]}` is nothing that is here: the rule is for nobody because of it."
            )
    asked = [r.applies.dispositions for r in book.rules_for(site, BinPurpose.RETURN_TO) if r.on]
    flows = book.shown_flows(site, FlowPurpose.RETURN)
    for mark in marks:
        if flows and all(d and mark.goes not in d for d in asked):
            says = f"No rule of *Where returned goods go* is for what is {DISPOSITIONS[mark.goes]}: whoever puts it away is asked."
            yield doubt("no_place", f"return_marks/{mark.id}/goes", says)
    if not flows:
        if rules:
            yield doubt(
                "nobody_takes",
                "return_rules",
                "Nobody sees a flow that takes back, so nothing is accepted that was not announced.",
            )
        return
    if not rules:
        yield doubt(
            "nothing_accepted",
            "return_rules",
            f"{flows[0].name} refuses whatever was not announced: no rule accepts anything.",
        )
    for flow in flows:
        if marks and all(p.asks is not Asks.DISPOSITION for p in flow.prompts):
            says = f"{flow.name} never asks what becomes of what comes back: all of it is kept apart."
            yield doubt("no_decision", f"flows/{flow.id}/prompts", says)
        if not marks:
            yield doubt(
                "no_marks", "return_marks", f"There is no mark, so all that {flow.name} takes back is kept apart."
            )
    if not any(
        p.on and p.receive.on and p.order_kind in (None, OrderKind.CUSTOMER_RETURN)
        for p in book.step_plans
        if p.site in (None, site)
    ):
        yield blocks("no_plan", "return_rules", "No step plan receives returns, so what is taken back cannot arrive.")
