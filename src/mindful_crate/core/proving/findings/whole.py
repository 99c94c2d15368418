"""All findings of a rulebook."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import get_args

from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.numbers import Drawn
from mindful_crate.core.proving.findings.finding import Finding, blocks, doubt
from mindful_crate.core.proving.findings.of_bin_rules import bin_rules, idle_lists
from mindful_crate.core.proving.findings.of_counting import counting
from mindful_crate.core.proving.findings.of_docks import docks
from mindful_crate.core.proving.findings.of_filling import filling
from mindful_crate.core.proving.findings.of_flows import flows
from mindful_crate.core.proving.findings.of_gates import gates
from mindful_crate.core.proving.findings.of_orders import order_classes
from mindful_crate.core.proving.findings.of_packing import packing
from mindful_crate.core.proving.findings.of_papers import papers
from mindful_crate.core.proving.findings.of_recipes import crews, recipes
from mindful_crate.core.proving.findings.of_refills import refills
from mindful_crate.core.proving.findings.of_returns import returns
from mindful_crate.core.proving.findings.of_steps import plans
from mindful_crate.core.proving.findings.of_waves import going_out
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import FlowPurpose


def findings(book: Rulebook, ground: Ground, site: SiteCode) -> list[Finding]:
    """All findings of a rulebook for a site, in the order of the rulebook."""
    return [
        *_twins(book),
        *order_classes(book, ground, site),
        *filling(book, ground, site),
        *plans(book, ground, site),
        *recipes(book, ground, site),
        *crews(book, site),
        *bin_rules(book, ground, site),
        *idle_lists(book, site),
        *flows(book, ground, site),
        *papers(book, ground, site),
        *gates(book, ground, site),
        *going_out(book, ground, site),
        *refills(book, ground, site),
        *docks(book, ground, site),
        *packing(book, ground, site),
        *counting(book, ground, site),
        *returns(book, ground, site),
        *_numbering(book, ground, site),
    ]


def _twins(book: Rulebook) -> Iterator[Finding]:
    rows: list[tuple[str, Iterable[str]]] = [
        ("crews", (c.id for c in book.crews)),
        ("step_plans", (p.id for p in book.step_plans)),
        ("bin_rules", (r.id for lst in book.bin_rules for r in lst.rules)),
        ("recipes", (r.id for r in book.recipes)),
        ("flows", (f.id for f in book.flows)),
        ("label_rules", (r.id for r in book.label_rules)),
        ("gates", (g.id for g in book.gates)),
        ("release_runs", (r.id for r in book.release_runs)),
        ("shelf_runs", (r.id for r in book.shelf_runs)),
        ("ship_plans", (p.id for p in book.ship_plans)),
        ("wave_plans", (w.id for w in book.wave_plans)),
        ("dock_rules", (d.id for d in book.dock_rules)),
        ("pack_rules", (p.id for p in book.pack_rules)),
        ("return_rules", (r.id for r in book.return_rules)),
        ("return_marks", (m.id for m in book.return_marks)),
        ("count_plans", (c.id for c in book.count_plans)),
        ("order_classes", (c.id for c in book.order_classes)),
        ("stock_reasons", (r.id for r in book.stock_reasons)),
        ("paper_forms", (f.id for f in book.paper_forms)),
    ]
    for place, ids in rows:
        seen: set[str] = set()
        for each in ids:
            if each in seen:
                yield blocks("same_id", place, f"`{each}` stands twice; every part needs an id of its own.")
            seen.add(each)


def _numbering(book: Rulebook, ground: Ground, site: SiteCode) -> Iterator[Finding]:
    """Series that are missing or at their end, so that no process stops half-way for want of a number."""
    for document in get_args(Drawn):
        series = ground.series.get(document)
        place = f"series/{document}"
        if series is None and document == "sscc":  # only plates that vendors announce need it
            says = (
                "There is no number series `sscc`: the host stand-in cannot announce plates. Add it in the catalogue."
            )
            yield doubt("no_series", place, says)
        elif series is None and document == "shipment":  # a site may take goods in alone
            says = "There is no number series for a shipment: no order can be released. Add it in the catalogue, under Numbering."
            yield doubt("no_series", place, says)
        elif series is None and document == "wave":
            says = "There is no number series for a wave: nothing that is released becomes a task. Add it in the catalogue, under Numbering."
            yield doubt("no_series", place, says)
        elif series is None and document == "return":
            if book.shown_flows(site, FlowPurpose.RETURN):
                says = "There is no number series for a return: what comes back unannounced gets none. Add it in the catalogue, under Numbering."
                yield doubt("no_series", place, says)
        elif series is None and document == "count":
            if any(p.on and p.site in (None, site) for p in book.count_plans):
                says = "There is no number series for a count: nothing can be counted. Add it in the catalogue, under Numbering."
                yield doubt("no_series", place, says)
        elif series is None:
            says = f"There is no number series for a {document}: add it in the catalogue, under Numbering."
            yield blocks("no_series", place, says)
        elif series.last and series.next > series.last:
            says = f"The number series for a {document} ended at {series.last:,}: widen it in the catalogue."
            yield blocks("series_full", place, says)
        elif series.last and (series.last - series.next + 1) * 10 < series.last:
            left = series.last - series.next + 1
            says = f"The number series for a {document} has {left:,} of {series.last:,} numbers left."
            yield doubt("series_ends", place, says)
