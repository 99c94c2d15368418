"""The cross aisles of a site: where one may walk along each, in either direction, after what is blocked is cut out."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field

from mindful_crate.core.catalog.places import Axis, Heading, Site, Way, WayKind

Span = tuple[int, int]
EDGE = 1 << 40
"""Beyond any coordinate: a cross aisle over the whole width runs from ``-EDGE`` to ``EDGE``."""
ONWARD = (Heading.NORTH, Heading.EAST)
"""Headings in which coordinates grow."""


@dataclass(slots=True)
class Cross:
    """A cross aisle along ``axis`` at ``at``: the stretches on which one walks onward (coordinates grow) and back."""

    axis: Axis
    at: int
    onward: list[Span] = field(default_factory=list)
    back: list[Span] = field(default_factory=list)
    facts: list[Way] = field(default_factory=list)

    def meets(self, along: int) -> bool:
        """Does it pass a coordinate of its own axis?"""
        return any(a <= along <= b for a, b in self.onward) or any(a <= along <= b for a, b in self.back)

    def stretch(self, low: int, high: int) -> tuple[bool, bool]:
        """May one walk from ``low`` to ``high`` along it, and back?"""
        return (
            any(a <= low and high <= b for a, b in self.onward),
            any(a <= low and high <= b for a, b in self.back),
        )

    @property
    def is_whole(self) -> bool:
        """Is it walked both ways from end to end of the site?"""
        return any(s == (-EDGE, EDGE) for s in self.onward) and any(s == (-EDGE, EDGE) for s in self.back)

    def nearest(self, along: int) -> int:
        """The coordinate on it that is nearest to one of its axis."""
        spans = self.onward + self.back
        return min((min(max(along, a), b) for a, b in spans), key=lambda c: (abs(c - along), c))


def crossings(site: Site, ways: Iterable[Way]) -> list[Cross]:
    """All cross aisles of a site, by axis and place. Those with stretches that meet or overlap are one."""
    found: dict[tuple[Axis, int], Cross] = {}

    def cross(axis: Axis, at: int) -> Cross:
        return found.setdefault((axis, at), Cross(axis, at))

    for y in site.cross_aisles:
        one = cross(Axis.X, y)
        one.onward.append((-EDGE, EDGE))
        one.back.append((-EDGE, EDGE))
    facts = sorted(ways, key=lambda w: w.code)
    for way in facts:
        if way.kind is not WayKind.CROSS_AISLE or way.axis is None or way.at_mm is None:
            continue
        one = cross(way.axis, way.at_mm)
        one.facts.append(way)
        span = _span(way)
        if way.heading is None or way.heading in ONWARD:
            one.onward.append(span)
        if way.heading is None or way.heading not in ONWARD:
            one.back.append(span)
    for way in facts:
        if way.kind is WayKind.BLOCKED and not way.aisle and way.axis and way.at_mm is not None:
            blocked = found.get((way.axis, way.at_mm))
            if blocked:
                blocked.onward = _without(blocked.onward, _span(way))
                blocked.back = _without(blocked.back, _span(way))
    for one in found.values():
        one.onward, one.back = _joined(one.onward), _joined(one.back)
    return [found[key] for key in sorted(found, key=lambda k: (k[0].value, k[1]))]


def _span(way: Way) -> Span:
    return (-EDGE if way.from_mm is None else way.from_mm, EDGE if way.to_mm is None else way.to_mm)


def _without(spans: list[Span], gone: Span) -> list[Span]:
    """Stretches less a blocked one. Its ends may still be walked to."""
    left = [(a, b) for a, b in spans if b <= gone[0] or a >= gone[1]]
    for a, b in spans:
        if a < gone[1] and b > gone[0]:
            left += [s for s in ((a, gone[0]), (gone[1], b)) if s[0] < s[1]]
    return left


def _joined(spans: list[Span]) -> list[Span]:
    found: list[Span] = []
    for a, b in sorted(spans):
        if found and a <= found[-1][1]:
            found[-1] = found[-1][0], max(found[-1][1], b)
        else:
            found.append((a, b))
    return found
