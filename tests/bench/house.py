"""What a floor costs when much waits or much is done: the same question with much and with little, in turns."""

from __future__ import annotations

import gc
import sys
import time
from collections.abc import Callable, Iterator
from datetime import date
from enum import Enum
from types import BuiltinFunctionType, FunctionType, ModuleType

import orjson

from mindful_crate.core.catalog.ids import (
    BinCode,
    CrewId,
    DeviceId,
    DialogueNo,
    FlowId,
    ItemCode,
    MessageNo,
    OrderNo,
    PersonId,
    PlateKindCode,
    PlateNo,
    ReceiptNo,
    TaskNo,
    UnitCode,
)
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.floor.past import Memory, Settled
from mindful_crate.core.floor.state import Kept, Settings, State
from mindful_crate.core.plain import to_plain
from mindful_crate.core.rulebook.bin_rules import BinPurpose
from mindful_crate.core.rulebook.steps import BookingPoint
from mindful_crate.core.scanning.dialogue import ask
from mindful_crate.core.work.handset.decide import context
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.acts import At, Command, Stamp, Wait
from mindful_crate.core.world.fold import apply, fold
from mindful_crate.core.world.supposing import open_goods
from mindful_crate.demo.loader import SITE, demo_opening, demo_rulebook
from tests.bench import big
from tests.bench.big import few
from tests.bench.floor import entries, placed, taken, work_made
from tests.bench.measures import Line, settle_down
from tests.playbook import STARTS

LANE, PALLET, QUAY = BinCode("RCV-01"), PlateKindCode("PAL"), CrewId("quay")
OREN, HANDSET = PersonId("oren"), DeviceId("H1")


def turns_of(few_: Callable[[], object], many: Callable[[], object], rounds: int) -> float:
    """How much longer the second takes, in turns."""
    took = [0.0, 0.0]
    for _ in range(rounds):
        for n, each in enumerate((few_, many)):
            began = time.perf_counter()
            each()
            took[n] += time.perf_counter() - began
    return took[1] / took[0]


def floor_of(ground: Ground, plates: int, tasks: bool) -> State:
    """A floor on which so many plates were received, each with a put-away task that waits, or with nothing to do."""
    state = State(ground, Settings(SITE, STARTS))
    for n in range(plates):
        at = At(n + 1, Stamp(f"c{n}", STARTS, date(2026, 3, 3), OREN))
        plate, receipt, item = PlateNo(f"P{n:07}"), ReceiptNo(f"R{n:07}"), ItemCode("SHK-06")
        for event in (
            ev.PlateStarted(plate, PALLET, LANE, OREN),
            ev.LineNoted(plate, 1, OrderNo("PO-X"), 1, item, UnitCode("pc"), 5),
            ev.PlateFinished(plate, receipt, OREN, BookingPoint.BY_HAND),
        ):
            fold(state, event, at)
        if tasks:
            fold(state, work_made(TaskNo(f"T{n:07}"), plate, LANE, BinCode("B-02-01-1"), None), at)
    return state


class Nowhere(Memory):
    """A past that keeps nothing, so that only what stays is measured."""

    def keep(self, document: Settled, seq: int) -> None:
        pass


def floor_after(ground: Ground, plates: int) -> State:
    """A floor on which so many plates were received, put away and booked, a message each; all of one order."""
    state = State(ground, Settings(SITE, STARTS), Nowhere())
    for n in range(plates):
        plate, receipt, task, message = (
            PlateNo(f"P{n:07}"),
            ReceiptNo(f"R{n:07}"),
            TaskNo(f"T{n:07}"),
            MessageNo(f"M{n:07}"),
        )
        item, to = ItemCode("SHK-06"), BinCode("B-02-01-1")
        for events in (
            (ev.PlateStarted(plate, PALLET, LANE, OREN), ev.LineNoted(plate, 1, OrderNo("PO-X"), 1, item, UnitCode("pc"), 5)),
            (ev.PlateFinished(plate, receipt, OREN, BookingPoint.PLATE_FINISHED), work_made(task, plate, LANE, to, None), ev.MessageSent(message, "book_receipt", receipt, STARTS)),
            taken(task, plate, LANE), (placed(task, plate, to),),
            (ev.MessageAnswered(message), ev.ReceiptBooked(receipt)),
        ):  # fmt: skip
            stamp = Stamp(f"c{state.seq}", STARTS, date(2026, 3, 3), OREN)
            apply(state, ev.Entry(state.seq + 1, Command(stamp, Wait(1)), ev.Done(events, "done")))
    return state


STOCK = {"spots", "on_plates", "cards", "loose_now", "blocks"}
"""The keepers of what stands and lies."""


def besides_stock(state: State) -> tuple[int, int]:
    """Bytes in memory, and bytes of a snapshot, of everything that is not stock."""
    kept = {name: to_plain(getattr(state.kept(), name)) for name in Kept.__slots__ if name not in STOCK}  # type: ignore[attr-defined]
    parts = (state.tasks, state.receipts, state.messages, state.dialogues, state.reservations, state.ordered, state.next_numbers, state.ledger.accounts)  # fmt: skip
    seen = {id(x) for x in (state, state.ground, state.plates, state.bins, state.past, state.journal, state.touched)}
    waiting: list[object] = list(parts)
    size = 0
    while waiting:
        each = waiting.pop()
        if id(each) in seen or isinstance(each, type | ModuleType | FunctionType | BuiltinFunctionType | Enum):
            continue
        seen.add(id(each))
        size += sys.getsizeof(each)
        waiting += gc.get_referents(each)
    return size, len(orjson.dumps(kept))


def house() -> Iterator[Line]:
    """The next question on a handset, all open goods, what finished plates leave behind, and folding while a decision is
    made."""
    ground, rulebook = Ground(demo_opening()), demo_rulebook()
    flow = rulebook.flow(FlowId("F-PUTAWAY"))
    assert flow is not None
    stamp = Stamp("x", STARTS, date(2026, 3, 3), OREN, device=HANDSET, crews=(QUAY,))
    dialogue = Dialogue(DialogueNo("D-1"), flow.id, OREN, HANDSET)
    many = few(10_000)
    floors = [floor_of(ground, n, tasks=True) for n in (10, many)]
    settle_down()
    contexts = [context(s, rulebook, stamp, flow) for s in floors]
    asks = [lambda c=c: [ask(c, dialogue) for _ in range(20)] for c in contexts]  # type: ignore[misc]
    ratio = turns_of(asks[0], asks[1], few(60))
    yield Line("the next question on a handset, with many open tasks against 10", f"{many:,} tasks", ratio, 1.3, at_least=False)  # fmt: skip
    done = few(20_000)
    floors = [floor_of(ground, n, tasks=False) for n in (0, done)]
    settle_down()
    goods = [lambda s=s: open_goods(s, rulebook, BinPurpose.PUT_AWAY, PALLET, LANE) for s in floors]  # type: ignore[misc]
    ratio = turns_of(goods[0], goods[1], few(8))
    yield Line("all open goods, with many finished receipts against none", f"{done:,} receipts", ratio, 1.3, at_least=False)  # fmt: skip
    finished = few(50_000)
    left = [besides_stock(floor_after(ground, n)) for n in (finished // 10, finished)]
    for n, what in enumerate(("memory", "snapshot")):
        said = f"{what} but for stock, after many finished plates against a tenth of them"
        yield Line(
            said, f"{finished:,} plates", left[1][n] / left[0][n], 1.3, at_least=False, note=f"{left[1][n]:,} bytes"
        )
    site = big.big_site(big.MIDDLE)
    log = entries(site, few(4_000))
    state = site.state()
    settle_down()
    alone = both = 0.0
    for entry in log:
        events = entry.outcome.events if isinstance(entry.outcome, ev.Done) else ()
        at = At(entry.seq, entry.command.stamp)
        began = time.perf_counter()
        with state.tentatively():
            for event in events:
                fold(state, event, at)
        middle = time.perf_counter()
        apply(state, entry)
        both, alone = both + middle - began, alone + time.perf_counter() - middle
    yield Line("folding and taking back, against folding alone", f"{len(log):,} entries", both / alone, 2.5, at_least=False)  # fmt: skip
