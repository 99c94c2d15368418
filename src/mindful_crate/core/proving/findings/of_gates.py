"""Findings of release gates: ladders that can be climbed, and one gate for each order."""

from __future__ import annotations

from collections.abc import Iterator

from mindful_crate.core.catalog.goods import OrderKind
from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.proving.findings.finding import Finding, blocks, doubt, times_of
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.gates import Gate, GateKind, GateVerdict, Measure
from mindful_crate.core.rulebook.times import minute_of


def gates(book: Rulebook, ground: Ground, site: SiteCode) -> Iterator[Finding]:
    """Gates that cannot work, that nothing asks, and two that are for the same."""
    mine = book.gates_at(site)
    names: dict[str, Gate] = {}
    for_: dict[str, Gate] = {}
    named = {p.gate for p in ground.partners.values()}
    transfer = next((o for o in ground.orders.values() if o.kind is OrderKind.TRANSFER_OUT), None)
    for gate in mine:
        place = f"gates/{gate.id}"
        if gate.name in names:
            yield blocks(
                "gate_twice",
                f"{place}/name",
                f"Two gates are called {gate.name}: whoever reads the name could mean either.",
            )
        names.setdefault(gate.name, gate)
        if gate.kind is not GateKind.COVER:
            yield from _in_row(gate, place, book, ground)
            continue
        yield from _ladder(gate, place)
        for group in (*gate.groups, *(("",) if gate.others else ())):
            if group in for_ and for_[group].site == gate.site:
                what = f"partners of {group}" if group else "whatever no other gate is for"
                yield blocks(
                    "gate_twice",
                    f"{place}/{'groups' if group else 'others'}",
                    f"{for_[group].name} is for {what}, too: one order has one gate.",
                )
            for_.setdefault(group, gate)
        if not gate.groups and not gate.others and gate.name not in named:
            yield doubt(
                "gate_for_nobody", place, f"{gate.name} is for nobody: no partner names it, and it is for no group."
            )
        if gate.measure is Measure.VALUE and gate.others and transfer is not None:
            says = f"{gate.name} measures value, and transfers have none: they go by quantity, as it says."
            yield doubt("value_of_transfers", f"{place}/measure", says, transfer.number)
    yield from _runs(book, ground, site)
    measuring = {g.name for g in mine if g.kind is GateKind.COVER}
    if not measuring:
        return
    for partner in ground.partners.values():
        if partner.gate and partner.gate not in measuring:
            says = f"{partner.name} names the gate {partner.gate}, and no gate of this site that measures is called so: its orders go by the next that is for them."
            yield doubt("missing_gate", "gates", says, partner.code)
    if "" not in for_:
        yield doubt(
            "no_gate_for_rest",
            "gates",
            "No gate is for whatever no other is for: those orders pass, however little is there.",
        )


def _in_row(gate: Gate, place: str, book: Rulebook, ground: Ground) -> Iterator[Finding]:
    """A gate that asks for a word, or closes: whom it asks, when it closes, and that somebody is meant by it."""
    if gate.kind is GateKind.WORD and len(gate.whose.strip()) < 2:
        yield blocks("nobody_asked", f"{place}/whose", f"{gate.name} asks nobody: say whose word it is.")
    if gate.kind is GateKind.UNTIL:
        if minute_of(gate.until) is None:
            told = f"`{gate.until}` is no time of the day" if gate.until.strip() else f"{gate.name} names no time"
            yield blocks("no_time", f"{place}/until", f"{told}: say one as 14:00.")
        if not 0 <= gate.days <= 365:
            yield blocks("bad_days", f"{place}/days", "Say from 0 to 365 days before an order leaves.")
        if gate.late is GateVerdict.PASS:
            yield blocks("no_effect", f"{place}/late", f"Whoever comes late passes {gate.name}: it asks nothing.")
    groups = {p.group for p in ground.partners.values()}
    for group in gate.groups:
        if group not in groups:
            says = f"No partner is of `{group}`: no order comes to {gate.name} for it."
            yield doubt("missing_value", f"{place}/groups", says)


def _runs(book: Rulebook, ground: Ground, site: SiteCode) -> Iterator[Finding]:
    """Releases by the clock: times that are some, groups that are there."""
    groups = {p.group for p in ground.partners.values()}
    for run in book.release_runs_at(site):
        place = f"release_runs/{run.id}"
        yield from times_of(run.times, place, "it releases nothing")
        for group in run.partner_groups:
            if group not in groups:
                says = f"No partner is of `{group}`: nothing is ever released for it."
                yield doubt("missing_value", f"{place}/partner_groups", says)


def _ladder(gate: Gate, place: str) -> Iterator[Finding]:
    if not gate.rungs:
        yield doubt("no_rungs", place, f"{gate.name} has no rung: everything passes it.")
    before = None
    for rung in gate.ladder:
        at = f"{place}/rungs/{rung.id}"
        if not 1 <= rung.below <= 100:
            yield blocks("bad_rung", f"{at}/below", "Say from 1 to 100 %: below 100 is whatever lacks anything.")
        if rung.verdict is GateVerdict.PASS:
            yield blocks("bad_rung", f"{at}/verdict", "What is on no rung passes: a rung stops, or warns.")
        if before is not None and before.below == rung.below:
            yield blocks("rung_twice", f"{at}/below", f"Two rungs of {gate.name} begin below {rung.below} %.")
        elif before is not None and before.verdict is rung.verdict:
            says = f"The rung below {before.below} % says the same as the one above it: it makes no difference."
            yield doubt("no_effect", f"{place}/rungs/{before.id}", says)
        elif before is not None and before.verdict is GateVerdict.WARN:
            says = f"Below {before.below} % an order goes with a warning, and with more of it on hand it is stopped."
            yield blocks("ladder_turns", f"{at}/verdict", says)
        before = rung
