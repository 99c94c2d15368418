"""A site from above, for every screen that draws one: in columns, so that a hundred thousand bins are a few lists."""

from __future__ import annotations

from mindful_crate.api.wiring import Answer
from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.places import STORAGE, Bin, BinType, Site, Zone
from mindful_crate.core.floor.state import State
from mindful_crate.core.placing.rules import fullness
from mindful_crate.core.walking.crossings import EDGE, crossings
from mindful_crate.files.writing import kilograms


class BinKindView(Answer):
    """A bin type."""

    code: str
    name: str
    plates: str
    limits: str


class ZoneOnMap(Answer):
    """A zone."""

    code: str
    name: str
    purpose: str
    stores: bool
    """Is it storage, whose bins are counted?"""


class CrossLine(Answer):
    """A stretch of a cross aisle, along x or y at a place on the other axis; without ends it goes as far as the site does."""

    axis: str
    at: int
    low: int | None
    high: int | None


class SiteMap(Answer):
    """One entry a bin in each list. ``zone`` and ``kind`` are places in their lists; ``fill`` is in hundredths of what
    the bin holds with what is on its way, -1 for a bin with goods and without limits. In ``counted`` stand the bins that were counted, with
    how many days ago that was last."""

    site: str
    zones: list[ZoneOnMap]
    kinds: list[BinKindView]
    crosses: list[CrossLine]
    code: list[str]
    x: list[int]
    y: list[int]
    level: list[int]
    zone: list[int]
    kind: list[int]
    walk: list[int]
    fill: list[int]
    counted: dict[str, int]
    blocked: dict[str, str]


def site_map(state: State, code: SiteCode) -> SiteMap:
    """A site as it is in a world."""
    ground = state.ground
    zones = [ground.zones[z] for z in ground.zones_of_site.get(code, ())]
    bins = [b for z in zones for b in ground.bins_by_zone[z.code]]
    made = drawn(ground.sites[code], zones, list(ground.bin_types.values()), bins, state)
    made.crosses = [
        CrossLine(axis=c.axis.value, at=c.at, low=None if a == -EDGE else a, high=None if b == EDGE else b)
        for c in crossings(ground.sites[code], (w for w in ground.opening.ways if w.site == code))
        for a, b in sorted({*c.onward, *c.back})
    ]
    return made


def drawn(site: Site, zones: list[Zone], kinds: list[BinType], bins: list[Bin], state: State | None = None) -> SiteMap:
    """Some bins of a site; without a world they are empty."""
    zone_at = {z.code: n for n, z in enumerate(zones)}
    kind_at = {k.code: n for n, k in enumerate(kinds)}
    why = {b.code: (state.blocked(b.code) if state else b.blocked) for b in bins}
    return SiteMap(
        site=site.code, crosses=[],
        zones=[ZoneOnMap(code=z.code, name=z.name, purpose=z.purpose.value, stores=z.purpose in STORAGE) for z in zones],
        kinds=[BinKindView(code=k.code, name=k.name, plates=k.plates.value, limits=limits(k)) for k in kinds],
        code=[b.code for b in bins], x=[b.x_mm for b in bins], y=[b.y_mm for b in bins], level=[b.level for b in bins],
        zone=[zone_at[b.zone] for b in bins], kind=[kind_at[b.bin_type] for b in bins], walk=[b.walk for b in bins],
        fill=[_fill(state, b, kinds[kind_at[b.bin_type]]) if state else 0 for b in bins],
        counted={code: (state.clock - known.at).days for code, known in state.bins_counted.items()} if state else {},
        blocked={code: says for code, says in why.items() if says},
    )  # fmt: skip


def _fill(state: State, each: Bin, kind: BinType) -> int:
    volume, weight, plates = state.load(each.code)
    if not (volume or plates):
        return 0
    full = fullness(kind, volume, plates) // 10_000
    if kind.max_weight_mg:
        full = max(full, weight * 100 // kind.max_weight_mg)
    return full if kind.max_volume_mm3 or kind.max_plates or kind.max_weight_mg else -1


def limits(kind: BinType) -> str:
    """What a kind of bin holds, in words."""
    found = []
    if kind.max_plates is not None:
        found.append("1 plate" if kind.max_plates == 1 else f"{kind.max_plates} plates")
    if kind.max_weight_mg is not None:
        found.append(f"{kilograms(kind.max_weight_mg)} kg")
    if kind.max_volume_mm3 is not None:
        found.append(f"{kind.max_volume_mm3 // 1_000_000:,} l")
    return ", ".join(found) or "no limit"
