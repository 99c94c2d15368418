"""What was written before (see `samples/README.md`), and what is so in a state in words that no later record changes."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from mindful_crate.core.floor.state import State

SAMPLES = Path(__file__).parent / "samples"
ENDS: dict[str, Any] = json.loads((SAMPLES / "v2" / "ends.json").read_text())


def end_of(state: State) -> dict[str, Any]:
    """Stock that changed, and how far everything is; as plain data."""
    stock = (
        [code or "", plate.number if plate else "", goods.item, goods.lot, goods.status.value, goods.quantity]
        for code, plate, goods in state.stock()
        if (plate and plate.number in state.plates) or (plate is None and (code is None or code in state.loose_now))
    )
    return {
        "stock": sorted(stock),
        "tasks": sorted([t.number, t.state.value, t.to_bin or "", t.placed_in or "", t.person or ""] for t in state.tasks.every()),
        "receipts": sorted([r.number, r.told, r.booked, r.refused] for r in state.receipts.every()),
        "messages": sorted([m.number, m.topic, m.state.value, m.turn] for m in state.messages.every()),
        "progress": sorted([str(k), v.noted, v.arrived, v.booked] for k, v in state.progress.items()),
        "reservations": sorted([r.number, r.holder, sum(p.goods.quantity for p in r.parts)] for r in state.reservations.values()),
        "numbers": dict(sorted(state.next_numbers.items())),
    }  # fmt: skip
