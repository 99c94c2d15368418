"""How far it is on foot at a site: its network is made when first asked for, and kept with the ground."""

from __future__ import annotations

from collections.abc import Iterable

from mindful_crate.core.catalog.ids import BinCode, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.walking.network import Network, Reach
from mindful_crate.core.walking.tours import Tours

KEPT = 64
"""So many places keep how far it is from them; then they start afresh."""


def network_of(ground: Ground, site: SiteCode) -> Network:
    """The walking network of a site of a ground."""
    key = ("network", site)
    found: Network | None = ground.remembered.get(key)
    if found is None:
        ways = [w for w in ground.opening.ways if w.site == site]
        found = ground.remembered[key] = Network(ground.sites[site], list(ground.bins_at(site)), ways)
    return found


def reach_of(ground: Ground, site: SiteCode, places: Iterable[BinCode], *, to: bool = False) -> Reach:
    """How far it is from the nearest of some bins, or (``to``) to it."""
    known: dict[tuple[SiteCode, tuple[BinCode, ...], bool], Reach] = ground.remembered.setdefault("reach", {})
    key = site, tuple(places), to
    found = known.get(key)
    if found is None:
        if len(known) >= KEPT:
            known.clear()
        network = network_of(ground, site)
        found = known[key] = Reach(network, [n for p in key[1] if (n := network.number(p)) is not None], to=to)
    return found


def tours_of(ground: Ground, site: SiteCode) -> Tours:
    """The tours of a site of a ground."""
    key = ("tours", site)
    found: Tours | None = ground.remembered.get(key)
    if found is None:
        found = ground.remembered[key] = Tours(network_of(ground, site))
    return found
