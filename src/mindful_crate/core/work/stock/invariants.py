"""What is always true of reservations."""

from __future__ import annotations

from mindful_crate.core.floor.state import State


def reservations(state: State) -> list[str]:
    """Reserved never stays above on hand, nor above what is in the hands it is said to be in."""
    found = []
    for each in state.reservations.values():
        for part in (p for p in each.parts if p.task is not None):
            task = state.tasks.get(part.task) if part.task else None
            hands = sum(g.quantity for g in task.going.hands if g.alike(part.goods)) if task else 0
            if hands < part.goods.quantity:
                found.append(
                    f"{each.number} keeps {part.goods.quantity} in the hands of {part.task}, {hands} are there"
                )
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
