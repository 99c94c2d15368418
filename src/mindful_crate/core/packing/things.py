"""What is packed, and how it lies in a carton. All lengths are whole millimetres, all weights whole milligrams."""

from __future__ import annotations

from mindful_crate.core.catalog.ids import CartonKindCode
from mindful_crate.core.record import record

Size = tuple[int, int, int]
"""Along the length, the width and the height of a carton."""


@record
class Thing:
    """One piece, or one case, that is put into a carton as it is. ``upright``: its height stays upwards. ``fragile``: nothing
    stands on it."""

    code: str
    length_mm: int
    width_mm: int
    height_mm: int
    weight_mg: int = 0
    upright: bool = False
    fragile: bool = False

    @property
    def size(self) -> Size:
        """As it stands."""
        return self.length_mm, self.width_mm, self.height_mm

    @property
    def volume(self) -> int:
        """In cubic millimetres."""
        return self.length_mm * self.width_mm * self.height_mm


@record
class Placed:
    """A thing in a carton, by its place in the list of things: the corner nearest to the carton's own, and how it is turned."""

    thing: int
    x_mm: int
    y_mm: int
    z_mm: int
    size: Size


@record
class Packed:
    """A carton with what is in it; ``weight_mg`` with the carton's own."""

    kind: CartonKindCode
    things: tuple[Placed, ...]
    weight_mg: int


@record
class Suggestion:
    """The cartons for some things. ``homeless`` are those that fit into no kind, by their places in the list; the others are
    packed. ``proved``: no fewer cartons could hold what is packed."""

    cartons: tuple[Packed, ...]
    homeless: tuple[int, ...] = ()
    proved: bool = False


def turns(thing: Thing) -> list[Size]:
    """The ways a thing may lie, the flattest first; each once."""
    length, width, height = thing.size
    ways = {(length, width, height), (width, length, height)}
    if not thing.upright:
        ways |= {(length, height, width), (height, length, width), (width, height, length), (height, width, length)}
    return sorted(ways, key=lambda way: (way[2], -way[0], way[1]))
