"""Walking at a site: what its layout says and leaves open, the way between two bins, and in which order to walk to some."""

from __future__ import annotations

from collections.abc import Sequence

from flask import current_app
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field

from mindful_crate.api.catalogue import SiteQuery
from mindful_crate.api.doors import check_site, needs
from mindful_crate.api.rights import Right
from mindful_crate.api.shapes import PROBLEMS
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.places import STORAGE, Axis, Way, ZonePurpose
from mindful_crate.core.problem import Refusal
from mindful_crate.core.walking.asking import asked, free_code
from mindful_crate.core.walking.distance import network_of, tours_of
from mindful_crate.core.walking.network import Network
from mindful_crate.core.walking.numbered import longer_permille, measured, numbered
from mindful_crate.core.walking.tours import SEED, Tours
from mindful_crate.core.walking.words import proof_words, tour_words, way_words
from mindful_crate.files.writing import cells_of

api = APIBlueprint("walking", __name__, url_prefix="/api", abp_tags=[Tag(name="ground")], doc_ui=WITH_DOCUMENT)
MOST_STOPS = 200
"""A cart that stops more often is no cart."""
DRAWN, DRAWN_SLOWLY = 100, 10
"""So many tours are drawn where they are exact, and where each has to be searched for."""


class WayView(Answer):
    """A fact of a layout: as a sentence, and as a row of its table."""

    code: str
    says: str
    cells: dict[str, str]


class SpanView(Answer):
    """From where to where, in millimetres."""

    low: int
    high: int


class CrossView(Answer):
    """A cross aisle as it is walked: ``spans`` from where to where along its axis, empty for the whole width."""

    axis: str
    at: int
    spans: list[SpanView]
    ways: list[str]
    """The facts it is made of."""
    own: bool
    """Is it one of the site's own, over the whole width?"""


class AisleView(Answer):
    """An aisle: where its bins stand along its axis, and its ends by name."""

    zone: str
    name: str
    axis: str
    at: int
    low: int
    high: int
    ends: list[str]


class LayoutAnswer(Answer):
    """What settles a question: the fact as a row."""

    says: str
    cells: dict[str, str]


class LayoutQuestion(Answer):
    """Something a layout leaves open, or says wrongly."""

    code: str
    says: str
    wrong: bool
    bins: list[str]
    ways: list[str]
    answers: list[LayoutAnswer]


class LayoutView(Answer):
    """What is known of walking at a site. ``free`` is a code for one fact more."""

    no: int
    crosses: list[CrossView]
    ways: list[WayView]
    aisles: list[AisleView]
    findings: list[LayoutQuestion]
    free: str


class TourBody(Body):
    """Bins to walk to from a start, and to an end; without one it is a round."""

    site: str = Field(max_length=20)
    start: str = Field(max_length=60)
    stops: list[str] = Field(max_length=MOST_STOPS)
    end: str = Field(default="", max_length=60)


class TourView(Answer):
    """A tour: bins in order with both ends, its metres, and the corners it leads over."""

    bins: list[str]
    metres: int
    spots: list[list[int]]


class ToursView(Answer):
    """The shortest tour beside the numbered one. ``longer_permille``: how much longer that is, in thousandths."""

    shortest: TourView
    numbered: TourView
    longer_permille: int
    is_shortest: bool
    says: str
    how: str


class NumberedQuery(Body):
    """From where tours begin, of how many stops, among the bins of a zone or of all storage."""

    site: str = Field(max_length=20)
    start: str = Field(default="", max_length=60)
    stops: int = Field(default=25, ge=2, le=60)
    zone: str = Field(default="", max_length=20)


class NumberedView(Answer):
    """How much longer the numbered order is than the shortest tours, over some drawn ones."""

    start: str
    tours: int
    stops: int
    longer_permille: int
    numbered_metres: int
    shortest_metres: int
    proved: bool
    seed: int


def _ground(site: str) -> tuple[Ground, SiteCode, int]:
    check_site(site)
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        ground = parts.grounds.ground(conn)
        no = parts.grounds.no(conn)
    if ground is None or site not in ground.sites:
        raise Refusal("unknown_site", f"There is no site `{site}`.")
    return ground, SiteCode(site), no


def _row(way: Way) -> dict[str, str]:
    return cells_of("ways", way)


@api.get("/ground/walking", responses={200: LayoutView, **PROBLEMS})
@needs(Right.LOOK)
def layout_of(query: SiteQuery) -> LayoutView:
    """What is known of walking at a site, and what its layout leaves open."""
    ground, site, no = _ground(query.site)
    network = network_of(ground, site)
    doors = [n for b in _ways_in(ground, site) if (n := network.number(b)) is not None]
    taken = {w.code for w in ground.opening.ways}
    found = asked(network, doors, taken)
    return LayoutView(
        no=no,
        crosses=[
            CrossView(
                axis=c.axis.value, at=c.at, spans=[] if c.is_whole else [SpanView(low=a, high=b) for a, b in sorted({*c.onward, *c.back})],
                ways=[w.code for w in c.facts], own=c.axis is Axis.X and c.at in network.site.cross_aisles,
            )
            for c in network.crosses
        ],
        ways=[WayView(code=w.code, says=way_words(w), cells=_row(w)) for w in network.facts],
        aisles=[
            AisleView(
                zone=r.aisle[0], name=r.aisle[1], axis=r.axis.value, at=r.at, low=r.low, high=r.high,
                ends=["west", "east"] if r.axis is Axis.X else ["south", "north"],
            )
            for r in (*network.runs, *network.loose)
        ],
        findings=[
            LayoutQuestion(
                code=f.code, says=f.says, wrong=f.wrong, bins=list(f.bins), ways=list(f.ways),
                answers=[LayoutAnswer(says=a.says, cells=_row(a.way)) for a in f.answers],
            )
            for f in found
        ],
        free=free_code(network, taken),
    )  # fmt: skip


def _ways_in(ground: Ground, site: SiteCode) -> list[str]:
    """Where one comes into a site: its doors, else where goods are received."""
    for purpose in (ZonePurpose.DOOR, ZonePurpose.DOCK, ZonePurpose.RECEIVING):
        found = [b.code for b in ground.bins_of(purpose, site)]
        if found:
            return [str(code) for code in found]
    return []


@api.post("/ground/tour", responses={200: ToursView, **PROBLEMS})
@needs(Right.LOOK)
def tour(body: TourBody) -> ToursView:
    """In which order to walk to some bins: the shortest tour there is, beside the numbered order."""
    ground, site, _ = _ground(body.site)
    tours = tours_of(ground, site)
    network = tours.network

    def number(code: str) -> int:
        n = network.number(code)
        if n is None:
            raise Refusal("unknown_bin", f"There is no bin `{code}` at site `{site}`.", code)
        return n

    start, stops = number(body.start), [number(code) for code in body.stops]
    end = number(body.end) if body.end else start
    best = tours.shortest(stops, start, end)
    middle = [n for n in numbered(network.bins, stops) if n not in (start, end)]
    by_number = [start, *middle, *([end] if end != start else [])]
    shortest = _drawn(tours, best.stops, is_round=end == start)
    other = _drawn(tours, by_number, is_round=end == start)
    mm = tours.length(by_number, is_round=end == start)
    return ToursView(
        shortest=shortest, numbered=other, longer_permille=longer_permille(mm, best.mm), is_shortest=best.is_shortest, says=tour_words(best),
        how=proof_words(best),
    )  # fmt: skip


def _drawn(tours: Tours, order: Sequence[int], *, is_round: bool) -> TourView:
    """A tour with its corners."""
    network: Network = tours.network
    legs = [*order, order[0]] if is_round else list(order)
    spots = [[x, y] for x, y in tours.corners(order, is_round=is_round)]
    bins = [str(network.bins[n].code) for n in legs]
    return TourView(bins=bins, metres=(tours.length(order, is_round=is_round) + 500) // 1000, spots=spots)


@api.get("/ground/numbered", responses={200: NumberedView, **PROBLEMS})
@needs(Right.LOOK)
def numbered_order(query: NumberedQuery) -> NumberedView:
    """How much longer it is to walk in the numbered order, over tours drawn among the bins of a zone or of all storage."""
    ground, site, _ = _ground(query.site)
    tours = tours_of(ground, site)
    network = tours.network
    begins = [query.start] if query.start else _ways_in(ground, site)
    start = network.number(begins[0]) if begins else None
    if start is None:
        raise Refusal("unknown_bin", f"There is no bin `{query.start}` at site `{site}`; tours begin at one.")
    among = [
        n for n, b in enumerate(network.bins)
        if (b.zone == query.zone if query.zone else ground.zones[b.zone].purpose in STORAGE)
    ]  # fmt: skip
    many = measured(
        tours, among, start, count=DRAWN if tours.aisles.is_exact else DRAWN_SLOWLY, stops=query.stops, seed=SEED
    )
    if many is None:
        raise Refusal("too_few", "There are too few bins that can be walked to from there.")
    return NumberedView(
        start=str(network.bins[start].code), tours=many.tours, stops=many.stops, longer_permille=many.longer_permille,
        numbered_metres=(many.numbered_mm + 500) // 1000, shortest_metres=(many.shortest_mm + 500) // 1000,
        proved=many.shortest_mm == many.at_least_mm, seed=SEED,
    )  # fmt: skip
