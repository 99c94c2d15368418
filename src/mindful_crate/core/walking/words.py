"""Sentences about walking: facts of a layout, and what is known of a tour."""

from __future__ import annotations

from mindful_crate.core.catalog.places import Axis, Way, WayKind
from mindful_crate.core.walking.network import Aisle
from mindful_crate.core.walking.tours import Proof, Tour


def metres(mm: int) -> str:
    """A length in metres, to the decimetre."""
    tenths = (mm + 50) // 100
    return f"{tenths // 10:,}.{tenths % 10} m" if tenths % 10 else f"{tenths // 10:,} m"


def aisle_words(aisle: Aisle) -> str:
    """An aisle by name, with its zone."""
    return f"{aisle[1]} of zone {aisle[0]}"


def way_words(way: Way) -> str:
    """A fact of a layout as a sentence."""
    aisle = f"Aisle {aisle_words(way.of_aisle)}" if way.of_aisle else _cross(way)
    heading = way.heading.value if way.heading else ""
    if way.kind is WayKind.ONE_WAY:
        return f"{aisle} is walked towards {heading} only."
    if way.kind is WayKind.DEAD_END:
        return f"{aisle} ends at its last bin in the {heading}."
    if way.kind is WayKind.GOES_THROUGH:
        return f"{aisle} goes on in the {heading}, to the next cross aisle."
    if way.kind is WayKind.BLOCKED:
        return f"{aisle} is blocked{_stretch(way)}."
    return f"{aisle}{_stretch(way)}" + (f", walked towards {heading} only." if heading else ".")


def _cross(way: Way) -> str:
    runs, side = ("from west to east", "north") if way.axis is Axis.X else ("from south to north", "east")
    return f"The cross aisle {runs}, {metres(way.at_mm or 0)} {side}"


def _stretch(way: Way) -> str:
    first = None if way.from_mm is None else f"from {metres(way.from_mm)}"
    last = None if way.to_mm is None else f"to {metres(way.to_mm)}"
    told = " ".join(part for part in (first, last) if part)
    return f", {told}" if told else ""


def tour_words(tour: Tour) -> str:
    """What is known of how short a tour is."""
    if tour.is_shortest:
        return "Shortest (proved)"
    tenths = tour.above_permille
    return f"At most {tenths // 10}.{tenths % 10} % above the shortest possible"


def proof_words(tour: Tour) -> str:
    """How that is known."""
    if tour.proof is Proof.AISLES:
        return "Every way of walking the aisles was weighed."
    if tour.proof is Proof.ALL_ORDERS:
        return "Every order of the stops was weighed."
    return f"Found in {tour.rounds:,} rounds of search (seed {tour.seed}); the bound is of the site, not of the search."
