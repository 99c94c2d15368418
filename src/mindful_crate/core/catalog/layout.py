"""Lay out a site's bins by the block: aisles of bays of levels of slots, numbered by a pattern, in walking order.

Aisles run along y and stand beside one another along x, as the distances of ``walking`` have it.
"""

from __future__ import annotations

import re
from enum import StrEnum

from mindful_crate.core.catalog.ids import BinCode, BinTypeCode, SiteCode, ZoneCode
from mindful_crate.core.catalog.opening import Opening
from mindful_crate.core.catalog.places import Bin, Zone, ZonePurpose
from mindful_crate.core.problem import Problem
from mindful_crate.core.record import record

MOST_BINS = 200_000
"""A site has no more; a block that would make more is a slip of the finger."""


class WalkOrder(StrEnum):
    """How the turns of the walk go through the aisles of a block."""

    BACK_AND_FORTH = "back_and_forth"
    """Up one aisle and down the next."""
    SAME_WAY = "same_way"
    """Each aisle from its near end."""


@record
class Block:
    """Bins of one zone and type that are laid out alike. ``x_mm`` and ``y_mm`` is where its first bin stands.

    ``pattern`` makes the codes: ``{zone}``, ``{aisle}``, ``{bay}``, ``{level}`` and ``{slot}``, each with a number of
    digits (``{bay:02}``) or as a letter (``{level:A}``).
    """

    zone: ZoneCode
    zone_name: str
    purpose: ZonePurpose
    bin_type: BinTypeCode
    aisles: int = 1
    bays: int = 1
    levels: int = 1
    slots: int = 1
    first_aisle: int = 1
    first_bay: int = 1
    x_mm: int = 0
    y_mm: int = 0
    aisle_pitch_mm: int = 4_000
    bay_pitch_mm: int = 1_200
    height_mm: int | None = None
    pattern: str = "{zone}-{aisle:02}-{bay:02}-{level}"
    walk: WalkOrder = WalkOrder.BACK_AND_FORTH


@record
class Laid:
    """What blocks make: zones and bins to put in, and everything wrong with them."""

    zones: tuple[Zone, ...]
    bins: tuple[Bin, ...]
    problems: tuple[Problem, ...] = ()


_FIELD = re.compile(r"\{(\w+)(?::([^}]*))?\}")
FIELDS = ("zone", "aisle", "bay", "level", "slot")


def lay_out(opening: Opening, site: SiteCode, blocks: tuple[Block, ...]) -> Laid:
    """The zones and bins of some blocks at a site, after what stands there already."""
    problems: list[Problem] = []
    zones: dict[ZoneCode, Zone] = {}
    bins: list[Bin] = []
    walk = 1 + max((b.walk for b in opening.bins if _site_of(opening, b) == site), default=0)
    for n, block in enumerate(blocks, start=1):
        place = f"block {n}"
        found = _checked(opening, site, block, place)
        made: list[Bin] = []
        if not found and len(bins) + _count(block) + len(opening.bins) > MOST_BINS:
            found = [
                Problem(
                    "too_many_bins", f"That makes {_count(block):,} bins; at most {MOST_BINS:,} can be kept.", place
                )
            ]
        if not found:
            made = _bins(block, walk)
            walk += len(made)
        problems += found
        bins += made
        zones[block.zone] = Zone(block.zone, site, block.zone_name.strip() or block.zone, block.purpose)
    problems += _clashes(opening, site, bins)
    known = {z.code for z in opening.zones}
    return Laid(tuple(z for z in zones.values() if z.code not in known), tuple(bins), tuple(problems))


def _count(block: Block) -> int:
    return block.aisles * block.bays * block.levels * block.slots


def _site_of(opening: Opening, each: Bin) -> str:
    return next((z.site for z in opening.zones if z.code == each.zone), "")


def _checked(opening: Opening, site: SiteCode, block: Block, place: str) -> list[Problem]:
    found = []

    def wrong(code: str, says: str) -> None:
        found.append(Problem(code, says, place))

    if not re.fullmatch(r"[A-Z0-9][A-Z0-9_-]{0,15}", block.zone):
        wrong("bad_zone", f"`{block.zone}` is no code for a zone: up to sixteen capital letters and digits.")
    zone = next((z for z in opening.zones if z.code == block.zone), None)
    if zone and zone.site != site:
        wrong(
            "zone_elsewhere",
            f"Zone `{zone.code}` is at site `{zone.site}`; zones of two sites need two codes.",
        )
    if zone and zone.site == site and zone.purpose is not block.purpose:
        was = zone.purpose.value.replace("_", "-")
        wrong("zone_purpose", f"Zone `{zone.code}` is a {was} zone already; give these bins a zone of their own.")
    if block.bin_type not in {t.code for t in opening.bin_types}:
        wrong("no_bin_type", f"There is no bin type `{block.bin_type}`. Make it first.")
    words = {"aisles": "aisle", "bays": "bay", "levels": "level", "slots": "slot"}
    for name, one in words.items():
        if not 1 <= getattr(block, name) <= 2_000:
            wrong("bad_count", f"There is at least one {one} and at most 2,000, not {getattr(block, name):,}.")
    if block.x_mm < 0 or block.y_mm < 0:
        wrong("off_the_map", "The corner of the site is at 0, 0: nothing lies before it.")
    if block.aisle_pitch_mm < 1 or block.bay_pitch_mm < block.slots:
        wrong("no_pitch", "Aisles and bays need a distance from one another, or all bins would stand in one place.")
    if block.height_mm is not None and block.height_mm < 1:
        wrong("no_height", "A clear height is above zero; leave it empty if nothing limits it.")
    return found + _pattern_problems(block, place)


def _pattern_problems(block: Block, place: str) -> list[Problem]:
    found = []
    named = set()
    for name, form in _FIELD.findall(block.pattern):
        named.add(name)
        if name not in FIELDS or not (form in ("", "A") or re.fullmatch(r"0?[1-9]", form)):
            says = (
                f"The pattern has `{{{name}{':' + form if form else ''}}}`, which says nothing. It knows {_listed()}."
            )
            found.append(Problem("bad_pattern", says, place))
    if re.sub(_FIELD, "", block.pattern).strip("ABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789-_."):
        found.append(Problem("bad_pattern", "A code has capital letters, digits, and - _ . between them.", place))
    for name, count in (("aisle", block.aisles), ("bay", block.bays), ("level", block.levels), ("slot", block.slots)):
        if count > 1 and name not in named:
            says = f"The pattern leaves out {{{name}}}, so {count:,} bins would have one code."
            found.append(Problem("same_code", says, place))
    return found


def _listed() -> str:
    return ", ".join("{" + f + "}" for f in FIELDS)


def code_of(pattern: str, **at: str | int) -> str:
    """The code of a bin: ``R-07-12-2`` for pattern ``{zone}-{aisle:02}-{bay:02}-{level}``."""

    def written(match: re.Match[str]) -> str:
        value, form = at[match[1]], match[2] or ""
        if isinstance(value, str):
            return value
        if form == "A":
            return _letters(value)
        return f"{value:0{int(form)}}" if form else str(value)

    return _FIELD.sub(written, pattern)


def _letters(number: int) -> str:
    """1 is A, 26 Z, 27 AA."""
    text = ""
    while number > 0:
        number, rest = divmod(number - 1, 26)
        text = chr(ord("A") + rest) + text
    return text or "A"


def _bins(block: Block, walk: int) -> list[Bin]:
    found: list[Bin] = []
    slot_pitch = block.bay_pitch_mm // block.slots
    for a in range(block.aisles):
        aisle = block.first_aisle + a
        bays = range(block.bays)
        turned = block.walk is WalkOrder.BACK_AND_FORTH and a % 2
        for b in reversed(bays) if turned else bays:
            for s in reversed(range(block.slots)) if turned else range(block.slots):
                for level in range(block.levels):
                    code = code_of(
                        block.pattern, zone=block.zone, aisle=aisle, bay=block.first_bay + b, level=level + 1, slot=s + 1
                    )  # fmt: skip
                    found.append(
                        Bin(
                            BinCode(code), block.zone, block.bin_type, block.x_mm + a * block.aisle_pitch_mm,
                            block.y_mm + b * block.bay_pitch_mm + s * slot_pitch, level, walk + len(found),
                            f"{block.zone}{aisle:02}", block.height_mm,
                        )
                    )  # fmt: skip
    return found


def _clashes(opening: Opening, site: SiteCode, bins: list[Bin]) -> list[Problem]:
    """Codes that stand twice, and bins on top of one another."""
    there = {b.code: "is there already" for b in opening.bins}
    sites = {z.code: z.site for z in opening.zones}
    spots = {(b.x_mm, b.y_mm, b.level): b.code for b in opening.bins if sites.get(b.zone) == site}
    twice, on_top = _Few(), _Few()
    for each in bins:
        if each.code in there:
            twice.add(f"`{each.code}` {there[each.code]}")
        there[each.code] = "would be made twice"
        spot = (each.x_mm, each.y_mm, each.level)
        if spot in spots:
            on_top.add(f"`{each.code}` would stand where `{spots[spot]}` is")
        spots[spot] = each.code
    found = []
    if twice.count:
        found.append(Problem("code_taken", f"Each bin needs a code of its own: {twice.told('bins')}.", "blocks"))
    if on_top.count:
        says = f"No two bins stand in one place: {on_top.told('bins')}. Move the block."
        found.append(Problem("on_top", says, "blocks"))
    return found


class _Few:
    """The first of many sentences, and how many there are."""

    def __init__(self) -> None:
        self.first: list[str] = []
        self.count = 0

    def add(self, says: str) -> None:
        self.count += 1
        if len(self.first) < 3:
            self.first.append(says)

    def told(self, many: str) -> str:
        rest = self.count - len(self.first)
        return ", ".join(self.first) + (f" and {rest:,} more {many}" if rest else "")
