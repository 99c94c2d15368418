"""Findings of the label rules: printers that are there, something to print, and nothing twice."""

from __future__ import annotations

from collections.abc import Iterator

from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.proving.findings.finding import Finding, blocks, doubt
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import FlowPurpose
from mindful_crate.core.rulebook.papers import (
    FITS,
    MAY_SHOW,
    MOST_COLUMNS,
    MOST_COPIES,
    OF_A_SHIPMENT,
    ON_PAGES,
    LabelRule,
    Paper,
    When,
)
from mindful_crate.core.rulebook.scope import own_first
from mindful_crate.core.rulebook.shipping import Station
from mindful_crate.core.rulebook.steps import fixed
from mindful_crate.core.rulebook.words.papers import COLUMNS, PRINTS, TEXT_LETTERS, TITLES, WHEN
from mindful_crate.core.rulebook.words.parts import any_of


def papers(book: Rulebook, ground: Ground, site: SiteCode) -> Iterator[Finding]:
    """Label rules of a site that print nothing, nowhere, or the same twice; papers that cannot be read, or are never reached."""
    yield from _forms(book, ground, site)
    printers = {p.code for p in ground.printers_of(site)}
    seen: dict[LabelRule, str] = {}
    for rule in book.label_rules:
        if not rule.on or rule.site not in (None, site):
            continue
        place = f"label_rules/{rule.id}"
        if rule.when not in FITS[rule.prints]:
            when = any_of(WHEN[w] for w in FITS[rule.prints])
            says = f"When {WHEN[rule.when]} there is nothing to print {PRINTS[rule.prints]} of. That can be printed when {when}."
            yield blocks("nothing_to_print", f"{place}/prints", says)
        if not 1 <= rule.copies <= MOST_COPIES:
            yield blocks("bad_copies", f"{place}/copies", f"Print from 1 to {MOST_COPIES} copies.")
        for kind in rule.plate_kinds:
            if kind not in ground.plate_kinds:
                yield blocks("missing_kind", f"{place}/plate_kinds", f"Kind of plate `{kind}` does not exist.")
        if rule.plate_kinds and rule.when in (*OF_A_SHIPMENT, When.LET_GO):
            says = f"When {WHEN[rule.when]} it is about no plate: this rule is for kinds of plates, and prints nothing."
            yield blocks("no_plate", f"{place}/plate_kinds", says)
        if rule.when in STATIONS and not any(
            p.on and p.step(STATIONS[rule.when]).on for p in book.ship_plans if p.site in (None, site)
        ):
            yield doubt(
                "never_happens",
                f"{place}/when",
                f"No plan of shipments has a step for that here: {WHEN[rule.when]} is never so.",
            )
        if rule.printer is not None and rule.printer not in printers:
            says = f"There is no printer `{rule.printer}` at this site. What this rule prints would wait for ever."
            yield blocks("missing_printer", f"{place}/printer", says)
        elif rule.prints in ON_PAGES:
            yield from _on_pages(ground, site, rule, place)
        elif rule.printer is None:
            yield from _of_the_place(book, ground, site, rule, place)
        alike = evolve(rule, id="", copies=1, site=None, printer=None)
        if alike in seen:
            yield doubt(
                "printed_twice",
                place,
                f"Label rule `{seen[alike]}` prints the same at the same time: it comes out twice.",
            )
        seen.setdefault(alike, rule.id)
        if rule.when is When.ASKED and not book.shown_flows(site):
            yield doubt("nobody_asks", f"{place}/when", "Nobody sees a flow here, so nobody can ask for a label.")


STATIONS = {When.PACKED: Station.PACK, When.STAGED: Station.STAGE, When.LOADED: Station.LOAD}


def _on_pages(ground: Ground, site: SiteCode, rule: LabelRule, place: str) -> Iterator[Finding]:
    """Is there a printer for a paper?"""
    if rule.printer is not None:
        if not ground.printers[rule.printer].takes_pages:
            says = f"Printer `{rule.printer}` prints labels, and no pages: {PRINTS[rule.prints]} would wait for ever."
            yield blocks("no_pages", f"{place}/printer", says)
        return
    if not any(p.takes_pages for p in ground.printers_of(site)):
        says = "No printer here takes whole pages (210 x 279 mm and more), so what this rule prints waits in the tray. Make one in the catalogue."
        yield doubt("no_printer", f"{place}/printer", says)


def _of_the_place(book: Rulebook, ground: Ground, site: SiteCode, rule: LabelRule, place: str) -> Iterator[Finding]:
    """Is there a printer where the rule prints?"""
    here = ground.printers_of(site)
    if not here:
        yield doubt(
            "no_printer",
            f"{place}/printer",
            "This site has no printer, so what this rule prints waits in the tray. Make one in the catalogue.",
        )
        return
    if rule.when is When.CLOSED and len(here) > 1:
        served_ = {z for p in here for z in p.zones}
        bare = [
            s.name for s in ground.opening.pack_stations
            if s.site == site and not s.printer and s.bin in ground.bins and ground.bins[s.bin].zone not in served_
        ]  # fmt: skip
        if bare:
            says = (
                f"{bare[0]} has no printer beside it, and none is tied to its zone: what this rule prints there waits."
            )
            yield doubt("no_printer", f"{place}/printer", says)
    if len(here) == 1 or rule.when not in (When.BEGUN, When.FINISHED):
        return
    served = {z for p in here for z in p.zones}
    without = []
    receives = bool(book.shown_flows(site, FlowPurpose.RECEIVE))
    for plan in book.step_plans if receives else ():
        into = fixed(plan.receive.into) if plan.on and plan.site in (None, site) else None
        if into in ground.bins and ground.site_of(into) == site and ground.bins[into].zone not in served:
            without.append(ground.zones[ground.bins[into].zone].name)
    for zone in dict.fromkeys(without):
        says = f"Goods are received in {zone}, to which no printer is tied: what this rule prints there waits, unless the handset has scanned a printer."
        yield doubt("no_printer", f"{place}/printer", says)


def _forms(book: Rulebook, ground: Ground, site: SiteCode) -> Iterator[Finding]:
    groups = {p.group for p in ground.partners.values() if p.group}
    for_all: dict[Paper, str] = {}
    for form in own_first((f for f in book.paper_forms if f.on), site):
        place, name = f"paper_forms/{form.id}", TITLES[form.paper].lower()
        if form.paper in for_all:
            yield doubt(
                "never_reached", place, f"Never reached: form `{for_all[form.paper]}` above is for everybody's {name}."
            )
        if not form.partner_groups:
            for_all.setdefault(form.paper, form.id)
        for group in form.partner_groups:
            if group not in groups:
                yield doubt("nobody", f"{place}/partner_groups", f"No partner is of the group {group}.")
        if odd := [c for c in form.columns if c not in MAY_SHOW[form.paper]]:
            yield blocks("no_such_column", f"{place}/columns", f"A {name} has no column for {COLUMNS[odd[0]]}.")
        if len(form.columns) > MOST_COLUMNS:
            says = f"{len(form.columns)} columns cannot be read across a page: {MOST_COLUMNS} at most."
            yield blocks("too_many_columns", f"{place}/columns", says)
        if any(len(text or "") > TEXT_LETTERS for text in (form.above, form.beneath)):
            yield blocks("too_long", place, f"A text is {TEXT_LETTERS} letters long at most.")
