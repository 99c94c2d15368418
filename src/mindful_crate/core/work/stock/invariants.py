"""What is always true of reservations."""

from __future__ import annotations

from mindful_crate.core.floor.state import State


def reservations(state: State) -> list[str]:
    """Reserved never stays above on hand."""
    found = []
    for item in {r.item for r in state.reservations.values()}:
        lines = state.lines(item)
        for line in lines:
            alike = sum(
                x.goods.quantity
                for x in lines
                if (x.bin, x.plate) == (line.bin, line.plate) and x.goods.alike(line.goods)
            )
            if state.reserved(line) > alike:
                found.append(f"{state.reserved(line)} of {item} are reserved in {line.bin}, {alike} lie there")
    return found
