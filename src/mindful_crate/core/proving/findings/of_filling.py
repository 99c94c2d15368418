"""Findings of shelves filled by the clock: times that are some, shelves that are there, and somebody who brings it."""

from __future__ import annotations

from collections.abc import Iterator

from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.proving.findings.finding import Finding, blocks, doubt, times_of
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.filling import Fills
from mindful_crate.core.rulebook.recipes import Cause
from mindful_crate.core.rulebook.steps import Need


def filling(book: Rulebook, ground: Ground, site: SiteCode) -> Iterator[Finding]:
    """All that fills shelves by the clock at a site."""
    homes = [h for some in ground.homes.values() for h in some.values() if ground.site_of(h.bin) == site]
    for run in book.shelf_runs_at(site):
        place = f"shelf_runs/{run.id}"
        yield from times_of(run.times, place, "it fills nothing")
        for zone in run.zones:
            if zone not in ground.zones or ground.zones[zone].site != site:
                yield blocks(
                    "missing_place", f"{place}/zones", f"There is no zone `{zone}` at this site. Choose another."
                )
        mine = [
            h for h in homes
            if (not run.zones or ground.bins[h.bin].zone in run.zones) and (not run.groups or ground.items[h.item].group in run.groups)
        ]  # fmt: skip
        if not mine:
            yield doubt("no_shelves", place, "No item is at home in a bin it is for: it fills nothing.")
        elif run.fills is Fills.LOW and not any(h.least for h in mine):
            says = "No shelf it is for keeps a least: it fills nothing. The catalogue says what a shelf keeps."
            yield doubt("no_shelves", f"{place}/fills", says)
        if not any(r.on and r.cause in (None, Cause.FILL) for r in book.recipes_for(site, Need.REPLENISH)):
            yield doubt("no_recipe", place, "No recipe brings anything from reserve for that: it fills nothing.")
