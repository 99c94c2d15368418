"""What a layout leaves open or says twice: each in a sentence, with what would settle it."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import replace

from mindful_crate.core.catalog.ids import WayCode, ZoneCode
from mindful_crate.core.catalog.places import Axis, Heading, Way, WayKind
from mindful_crate.core.record import record
from mindful_crate.core.walking.network import NOWHERE, Aisle, Network, Reach, Run, gap_at, meets_of
from mindful_crate.core.walking.words import aisle_words, metres

FAR_MM = 5_000
"""An aisle may end so far before the next cross aisle, a bay or two, without being asked about."""
WIDE_MM = 6_000
"""Bins on both sides of one aisle do not stand farther apart than this."""
FIRST = 3
"""So many bins are named; of the rest there is a count."""

_ENDS = {Axis.Y: (Heading.SOUTH, Heading.NORTH), Axis.X: (Heading.WEST, Heading.EAST)}


@record
class Answer:
    """What settles a question: in a few words, and the fact that says so."""

    says: str
    way: Way


@record
class LayoutFinding:
    """One thing about a layout. ``wrong``: it contradicts itself, or goods cannot be fetched; else it is a question. ``bins``
    are those it is about, ``ways`` the facts."""

    code: str
    says: str
    wrong: bool = False
    bins: tuple[str, ...] = ()
    ways: tuple[WayCode, ...] = ()
    answers: tuple[Answer, ...] = ()


def asked(network: Network, doors: Sequence[int], taken: Iterable[str] = ()) -> list[LayoutFinding]:
    """Everything about a layout that is open, worst first. ``doors``: where one comes in, by number; what cannot be reached from
    there is named. ``taken``: codes that facts of other sites have."""
    free = free_code(network, taken)
    found = [*_no_crossing(network), *_cut_off(network, doors), *_contradictions(network), *_on_nothing(network)]
    found += [*_loose(network), *_wide(network), *_ends_short(network, free)]
    return sorted(found, key=lambda f: not f.wrong)


def free_code(network: Network, taken: Iterable[str]) -> WayCode:
    """A code for one fact more."""
    known = {*taken, *(w.code for w in network.facts)}
    numbers = (f"{network.site.code}-W{n:02d}" for n in range(1, len(known) + 2))
    return WayCode(next(code for code in numbers if code not in known))


def _no_crossing(network: Network) -> Iterator[LayoutFinding]:
    if network.is_open and any(b.aisle for b in network.bins):
        yield LayoutFinding(
            "no_crossing",
            "There is no cross aisle, so every way is taken to lead over open floor, straight through what stands there.",
        )


def _cut_off(network: Network, doors: Sequence[int]) -> Iterator[LayoutFinding]:
    """Bins nobody comes to from a door, or from which nobody comes back."""
    if network.is_open or not doors:
        return
    out, back = Reach(network, doors), Reach(network, doors, to=True)
    lost = [n for n in range(len(network.bins)) if out.mm(n) >= NOWHERE]
    caught = [n for n in range(len(network.bins)) if n not in set(lost) and back.mm(n) >= NOWHERE]
    if lost:
        yield LayoutFinding(
            "cut_off", f"Nobody can walk from a door to {_named(network, lost)}.", True, _codes(network, lost)
        )
    if caught:
        yield LayoutFinding(
            "no_way_back",
            f"One can walk to {_named(network, caught)}, but not back to a door.",
            True,
            _codes(network, caught),
        )


def _named(network: Network, some: Sequence[int]) -> str:
    first = ", ".join(f"`{network.bins[n].code}`" for n in some[:FIRST])
    return first + (f" and {len(some) - FIRST:,} more" if len(some) > FIRST else "")


def _codes(network: Network, some: Iterable[int]) -> tuple[str, ...]:
    return tuple(network.bins[n].code for n in some)


def _contradictions(network: Network) -> Iterator[LayoutFinding]:
    by_aisle: dict[Aisle, list[Way]] = {}
    for way in network.facts:
        if way.of_aisle:
            by_aisle.setdefault(way.of_aisle, []).append(way)
    for aisle, facts in sorted(by_aisle.items()):
        ways = [w for w in facts if w.kind is WayKind.ONE_WAY]
        if len({w.heading for w in ways}) > 1:
            says = f"Aisle {aisle_words(aisle)} is said to be one-way in both directions; `{ways[0].code}` holds."
            yield LayoutFinding("both_ways", says, True, ways=tuple(w.code for w in ways))
        for end in Heading:
            about = [w for w in facts if w.heading is end and w.kind in (WayKind.DEAD_END, WayKind.GOES_THROUGH)]
            if len({w.kind for w in about}) > 1:
                says = f"Aisle {aisle_words(aisle)} is said both to end in the {end.value} and to go through there; it ends."
                yield LayoutFinding("ends_and_goes", says, True, ways=tuple(w.code for w in about))


def _on_nothing(network: Network) -> Iterator[LayoutFinding]:
    """Facts that change nothing: about no aisle, beyond its ends, or across it."""
    runs = {r.aisle: r for r in network.runs}
    loose = {r.aisle for r in network.loose}
    for way in network.facts:
        says = ""
        if way.of_aisle:
            run = runs.get(way.of_aisle)
            if run is None:
                meets_none = way.of_aisle in loose or network.is_open
                says = "meets no cross aisle" if meets_none else "has no bins"
                says = f"Aisle {aisle_words(way.of_aisle)} {says}, so `{way.code}` says nothing."
            elif way.heading and way.heading not in _ENDS[run.axis]:
                runs_from, runs_to = (h.value for h in _ENDS[run.axis])
                says = f"Aisle {aisle_words(run.aisle)} runs from {runs_from} to {runs_to}: `{way.code}` says {way.heading.value}."
            elif way.kind is WayKind.BLOCKED and not _touches(network, run, way):
                says = f"Aisle {aisle_words(run.aisle)} is not there where `{way.code}` blocks it."
        elif way.axis and way.at_mm is not None:
            cross = next((c for c in network.crosses if (c.axis, c.at) == (way.axis, way.at_mm)), None)
            if cross is None:
                says = f"There is no cross aisle where `{way.code}` blocks one."
            elif way.kind is WayKind.CROSS_AISLE and not _meets_any(network, way):
                says = f"No aisle meets cross aisle `{way.code}`."
        if says:
            yield LayoutFinding("says_nothing", says, ways=(way.code,))


def _touches(network: Network, run: Run, way: Way) -> bool:
    meets = meets_of(network, run)
    low = max((m for m in meets if m <= run.low), default=run.low)
    high = min((m for m in meets if m >= run.high), default=run.high)
    return (way.from_mm or 0) < high and (way.to_mm or 0) > low


def _meets_any(network: Network, way: Way) -> bool:
    low = way.from_mm if way.from_mm is not None else -NOWHERE
    high = way.to_mm if way.to_mm is not None else NOWHERE
    return any(r.axis is not way.axis and low <= r.at <= high for r in network.runs)


def _loose(network: Network) -> Iterator[LayoutFinding]:
    for run in network.loose:
        yield LayoutFinding(
            "meets_none",
            f"Aisle {aisle_words(run.aisle)} meets no cross aisle: its bins are taken as places on open floor.",
            bins=_codes(network, run.bins),
        )


def _wide(network: Network) -> Iterator[LayoutFinding]:
    for run in network.runs:
        if run.spread > WIDE_MM:
            says = f"Aisle {aisle_words(run.aisle)} has bins {metres(run.spread)} apart across it: do two aisles have one name?"
            yield LayoutFinding("wide", says, bins=_codes(network, run.bins))


def _ends_short(network: Network, free: WayCode) -> Iterator[LayoutFinding]:
    for run in network.runs:
        meets = meets_of(network, run)
        settled = {w.heading for w in network.of_aisle(run.aisle) if w.kind in (WayKind.DEAD_END, WayKind.GOES_THROUGH)}
        for end in _ENDS[run.axis]:
            gap = gap_at(run, end, meets)
            if gap is None or gap[1] - gap[0] <= FAR_MM or end in settled or _goes_on(network, run, gap):
                continue
            at = gap[1] if end is _ENDS[run.axis][1] else gap[0]
            says = (
                f"Aisle {aisle_words(run.aisle)} ends {metres(gap[1] - gap[0])} before the cross aisle at {metres(at)}: "
                "does one walk through?"
            )
            fact = Way(free, network.site.code, WayKind.GOES_THROUGH, ZoneCode(run.aisle[0]), run.aisle[1], end)
            yes, no = Answer("One walks through", fact), Answer("A dead end", replace(fact, kind=WayKind.DEAD_END))
            yield LayoutFinding("ends_short", says, bins=_codes(network, run.bins), answers=(yes, no))


def _goes_on(network: Network, run: Run, gap: tuple[int, int]) -> bool:
    """Does another aisle stand on the same line beyond its end?"""
    return any(
        r is not run and (r.axis, r.at) == (run.axis, run.at) and r.low <= gap[1] and r.high >= gap[0]
        for r in network.runs
    )
