"""Findings of the count plans: plans that count nothing, times that are none, storage that nobody counts, bins that are not counted in time."""

from __future__ import annotations

from collections.abc import Iterator

from mindful_crate.core.catalog.ids import SiteCode, ZoneCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.places import STORAGE
from mindful_crate.core.proving.findings.finding import Finding, blocks, doubt
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.counting import GIVEN_IN, PhotoAsked
from mindful_crate.core.rulebook.flows import Asks, FlowPurpose
from mindful_crate.core.rulebook.times import minute_of, said_times


def counting(book: Rulebook, ground: Ground, site: SiteCode) -> Iterator[Finding]:
    """Count plans of a site; nothing where there is none."""
    plans = book.counts_at(site)
    here = ground.zones_of_site.get(site, ())
    stored = [z for z in here if ground.zones[z].purpose in STORAGE]
    seen: set[ZoneCode] = set()
    for plan in plans:
        place = f"count_plans/{plan.id}"
        mine = set(plan.zones or stored)
        if mine <= seen:
            yield doubt("never_reached", place, "Never reached: plans above count all of its zones.")
        if not plan.groups and not plan.velocity_classes:
            seen |= mine
        for text in said_times(plan.times):
            if minute_of(text) is None:
                yield blocks("bad_time", f"{place}/times", f"`{text}` is no time of day: write it as 06:00.")
        for zone in plan.zones:
            if zone not in here:
                yield blocks("missing_zone", f"{place}/zones", f"There is no zone `{zone}` at this site.")
        if plan.most_bins < 1 or plan.most_lines < 1:
            yield blocks("nothing_fits", place, "A sheet has a line at least, and there is a bin at least at a time.")
        if plan.every_days is not None and plan.every_days < 1:
            yield blocks("bad_days", f"{place}/every_days", "Bins are due after a day at the earliest.")
        elif plan.every_days and plan.minutes and not plan.groups and not plan.velocity_classes:
            yield from _in_time(ground, plan.most_bins * len(plan.minutes), plan.every_days, mine, place)
    yield from _reasons(book, site)
    if plans and not book.shown_flows(site, FlowPurpose.COUNT):
        yield doubt(
            "nobody_counts", "count_plans", "Nobody sees a flow that counts, so what is due stays on its sheets."
        )
    if plans and (left := [z for z in stored if z not in seen and not any(z in p.zones for p in plans)]):
        names = ", ".join(ground.zones[z].name for z in left[:3])
        yield doubt("never_counted", "count_plans", f"No plan counts {names}.")


def _reasons(book: Rulebook, site: SiteCode) -> Iterator[Finding]:
    """Reasons of crews that there are not; crews with a flow that asks for one and no reason to give; and flows that ask for one and not for the
    photo without which it is refused."""
    crews = {c.id: c.name for c in book.crews}
    for reason in (r for r in book.stock_reasons if r.on and r.site in (None, site)):
        if gone := [c for c in reason.crews if c not in crews]:
            says = f"{reason.name} may be given by `{gone[0]}`, and there is no such crew."
            yield blocks("unknown_crew_of_reason", f"stock_reasons/{reason.id}/crews", says)
    for purpose, used in GIVEN_IN.items():
        known = book.reasons_at(site, used)
        for crew in crews if known else ():
            asked = any(
                f.purpose is purpose and any(p.asks is Asks.STOCK_REASON for p in f.prompts)
                for f in book.menu_for(site, [crew])
            )
            if asked and not any(not r.crews or crew in r.crews for r in known):
                says = f"{crews[crew]} sees a flow that people use to {purpose.says}, and no reason is theirs to give."
                yield doubt("no_reason_to_give", "stock_reasons", says)
    for flow in book.shown_flows(site):
        asks = {p.asks for p in flow.prompts}
        if flow.purpose not in GIVEN_IN or Asks.STOCK_REASON not in asks or Asks.STOCK_PHOTO in asks:
            continue
        if must := [r for r in book.reasons_at(site, GIVEN_IN[flow.purpose]) if r.photo is PhotoAsked.MUST]:
            says = f"{flow.name} asks why and takes no photo, and {must[0].name} is refused without one. Let it ask for a photo."
            yield doubt("photo_not_asked", f"flows/{flow.id}/prompts", says)


def _in_time(ground: Ground, a_day: int, days: int, zones: set[ZoneCode], place: str) -> Iterator[Finding]:
    """Are so many bins a day enough for all of them to be counted in time? Of bins with some goods alone, the bench says it: it knows what lies where."""
    bins = [b for z in sorted(zones) for b in ground.bins_by_zone.get(z, ())]
    could = a_day * days
    if len(bins) > could:
        late = sorted(bins, key=lambda b: (b.walk, b.code))[could]
        says = f"{len(bins):,} bins are due every {days} days, and {a_day} a day are {could:,}: `{late.code}` is the first that is counted late, on day {days + 1}."
        yield doubt("too_slow", f"{place}/most_bins", says, late.code)
