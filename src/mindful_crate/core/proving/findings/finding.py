"""A finding, and what is asked of parts of every chapter: is the place there, can the range hold?"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from enum import StrEnum

from mindful_crate.core.catalog.ids import BinCode, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.bin_rules import (
    Conditions,
)
from mindful_crate.core.rulebook.steps import (
    Found,
    Place,
)
from mindful_crate.core.rulebook.times import minute_of, said_times
from mindful_crate.core.rulebook.words.parts import between


class Severity(StrEnum):
    """How bad: a blocking finding keeps a rulebook from being run."""

    BLOCKS = "blocks"
    DOUBT = "doubt"


@record
class Finding:
    """One thing found. ``place`` is a path of the rulebook; ``witness`` a concrete case."""

    code: str
    severity: Severity
    place: str
    says: str
    witness: str = ""


def blocks(code: str, place: str, says: str, witness: str = "") -> Finding:
    """It keeps the rulebook from being run."""
    return Finding(code, Severity.BLOCKS, place, says, witness)


def doubt(code: str, place: str, says: str, witness: str = "") -> Finding:
    """It may be meant so."""
    return Finding(code, Severity.DOUBT, place, says, witness)


def times_of(text: str, place: str, without: str = "") -> Iterator[Finding]:
    """Times of the day that are none; ``without``: what is said when none is named, if that is worth saying."""
    if without and not text.strip():
        yield doubt("no_time", f"{place}/times", f"No time is named: {without}.")
    for each in said_times(text):
        if minute_of(each) is None:
            yield blocks("no_time", f"{place}/times", f"`{each}` is no time of the day: say one as 14:00.")


def newly_missing(before: Iterable[Finding], after: Iterable[Finding]) -> list[Finding]:
    """What is named and was found before, and is not any more."""
    known = {(f.place, f.says) for f in before}
    return [f for f in after if f.code.startswith("missing_") and (f.place, f.says) not in known]


def usable(found: Iterable[Finding]) -> bool:
    """May a world run on a rulebook with these findings?"""
    return not any(f.severity is Severity.BLOCKS for f in found)


def elsewhere(code: BinCode, ground: Ground, place: str) -> Finding:
    """A bin of another site is named."""
    site = ground.sites[ground.site_of(code)].name
    return blocks("other_site", place, f"Bin `{code}` belongs to {site}, another site. Choose one of this site.")


def whereabouts(at: Place, ground: Ground, here: SiteCode | None, place: str) -> Iterator[Finding]:
    """Is what a part names as its place there, and does it hold a bin; ``here`` is the site it is to be at, if it is to be."""
    if not isinstance(at, Found):
        if at not in ground.bins:
            yield blocks("missing_bin", place, f"Bin `{at}` does not exist.")
        elif here and ground.site_of(at) != here:
            yield elsewhere(at, ground, place)
    elif at.zone is None:
        return
    elif at.zone not in ground.zones:
        yield blocks("missing_zone", place, f"Zone `{at.zone}` does not exist. Choose another.")
    elif here and ground.zones[at.zone].site != here:
        says = f"{ground.zones[at.zone].name} belongs to another site. Choose a zone of this site."
        yield blocks("other_site", place, says)
    elif not ground.bins_by_zone[at.zone]:
        yield blocks("no_bins", place, f"{ground.zones[at.zone].name} has no bins.")


def spans(applies: Conditions, what: str, place: str) -> Iterator[Finding]:
    """Ranges in which nothing lies."""
    for name in ("worth", "quantity", "weight_kg", "height_mm"):
        span = getattr(applies, name)
        if span.least is not None and span.most is not None and span.least > span.most:
            says = f"Nothing is {between(span)}: the {what} never applies."
            yield blocks("empty_range", f"{place}/applies/{name}", says)
