"""What is said of gates and releases, on every way the same."""

from __future__ import annotations

from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.releasing.judging import YES, Judged
from mindful_crate.core.rulebook.gates import GateKind, GateVerdict
from mindful_crate.core.rulebook.words.parts import all_of
from mindful_crate.core.work.releasing.acts import (
    ChangeGate,
    PassGate,
    ReleaseLines,
    ReleaseOrders,
    SayToOrder,
    UndoRelease,
)
from mindful_crate.core.work.releasing.events import (
    GateGiven,
    GatesGiven,
    OrderReleased,
    ReleaseAwaited,
    ReleaseUndone,
    ShipmentMade,
    WordGiven,
    WordsLapsed,
)
from mindful_crate.core.work.rows import silent, telling

HOW = {GateVerdict.PASS: "", GateVerdict.WARN: " with a warning", GateVerdict.STOP: " past its gate"}
"""How an order was released, by what its gate said."""


def gate_told(judged: Judged) -> str:
    """What the gates found that say most against an order: their names, where they come from, and what they say."""
    return "; ".join(f"{g.name} ({g.whence}) {g.says}" for g in judged.row if g.verdict is judged.verdict)


def stopped(ground: Ground, judged: Judged) -> str:
    """That a gate stops an order: which, where it comes from, the rate, and what is missing by line."""
    lacking = []
    by_cover = any(g.kind is GateKind.COVER and g.verdict is GateVerdict.STOP for g in judged.row)
    for x in judged.lines if by_cover else ():
        if x.on_hand < x.wanted:
            item = ground.items[x.item]
            lacking.append(f"line {x.line}, {item.name}: {item.told(x.on_hand)} of {item.told(x.wanted)} on hand")
    missing = f" Missing: {'; '.join(lacking)}." if lacking else ""
    return f"`{judged.order}` is stopped: {gate_told(judged)}.{missing}"


def _gates(e: GatesGiven) -> str:
    if len(e.row) > 1:
        return f"`{e.order}` comes to the gates {all_of(p.gate.name for p in e.row)}, one after another"
    return f"`{e.order}` has gate {e.row[0].gate.name}: {e.row[0].whence}" if e.row else f"`{e.order}` comes to no gate"


def _gate(e: GateGiven) -> str:
    gate = f"gate {e.gate.name}" if e.gate else "no gate that measures"
    return f"`{e.order}` has {gate}: {e.why or e.whence}"


def _also(why: str) -> str:
    return f": {why}" if why else ""


def _orders(a: ReleaseOrders) -> str:
    which = f"`{a.orders[0]}`" if len(a.orders) == 1 else f"{len(a.orders)} orders"
    only = [w for w, so in (("whole ones only", a.whole), ("none with a warning", not a.warned)) if so]
    does = "tries what would happen if it released" if a.dry else "releases"
    return f"The office {does} {which}" + (f", {' and '.join(only)}" if only else "")


WORDS = (
    silent(ReleaseAwaited),
    telling(GatesGiven, _gates),
    telling(GateGiven, _gate),
    telling(WordGiven, lambda e: f"{YES[e.yes]} to `{e.order}` at {e.name}{_also(e.why)}"),
    telling(WordsLapsed, lambda e: f"what was said to `{e.order}` at its gates holds no more: {e.why}"),
    telling(ShipmentMade, lambda e: f"shipment `{e.shipment}` for `{e.leaves.partner}`, to leave on {e.leaves.day}"),
    telling(OrderReleased, lambda e: f"`{e.order}` released{HOW[e.verdict]} into `{e.shipment}`, {e.rate} on hand"),
    telling(ReleaseUndone, lambda e: f"`{e.order}` is released no more: {e.why}"),
)
"""What the log says of its events."""
ASKED = (
    telling(ReleaseOrders, _orders),
    telling(
        ReleaseLines,
        lambda a: (
            f"The office releases {'line' if len(a.lines) == 1 else 'lines'} {all_of(map(str, a.lines))} of `{a.order}`"
        ),
    ),
    telling(SayToOrder, lambda a: f"The office says {YES[a.yes]} to `{a.order}`{_also(a.why)}"),
    telling(PassGate, lambda a: f"The office lets `{a.order}` past its gate: {a.why}"),
    telling(UndoRelease, lambda a: f"The office takes the release of `{a.order}` back: {a.why}"),
    telling(
        ChangeGate, lambda a: f"The office gives `{a.order}` {f'the gate {a.gate}' if a.gate else 'no gate'}: {a.why}"
    ),
)
"""What the office asks, in words."""
