"""Walking distance on a site's real aisles.

Racks stand along aisles that run in y; one leaves an aisle only at a cross aisle. Places outside the aisles
(docks, receiving) are reached over the cross aisle nearest on the way. All figures are integer millimetres.
"""

from __future__ import annotations

from mindful_crate.core.catalog.places import Bin, Site


def metres(a: Bin, b: Bin, site: Site) -> int:
    """Whole metres on foot between two bins, rounded to the nearest."""
    return (millimetres(a, b, site) + 500) // 1000


def millimetres(a: Bin, b: Bin, site: Site) -> int:
    """Shortest way on foot from bin ``a`` to bin ``b``, levels aside.

    In one aisle it is the way along it. Otherwise it leads over one cross aisle: the least over all of
    them of (along to it, across, along from it).
    """
    across = abs(a.x_mm - b.x_mm)
    straight = across + abs(a.y_mm - b.y_mm)
    if a.aisle == b.aisle or not site.cross_aisles:
        return straight
    return min(across + abs(a.y_mm - y) + abs(b.y_mm - y) for y in site.cross_aisles)
