"""What a scan costs at a pack station, in a shipment of many lines against one of few; and what was done with goods, written as EPCIS."""

from __future__ import annotations

import json
import time
import tracemalloc
from collections.abc import Iterator
from itertools import count, cycle, islice
from statistics import median

from mindful_crate.core.catalog.ids import BinCode, OrderNo, SiteCode
from mindful_crate.core.proving.chronicle import Happening, chronicle
from mindful_crate.core.proving.rehearse import run
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.packing import Proof
from mindful_crate.core.world import acts
from mindful_crate.demo.loader import demo_rehearsals, demo_rules
from mindful_crate.files import gs1
from mindful_crate.files.epcis import Naming, document, event
from tests.bench.big import few
from tests.bench.measures import Line, settle_down
from tests.bench.receiving import in_turns
from tests.core.test_covering import BOOK, GROUND
from tests.core.test_shipping import CLOSED, SH, Station, by, picked, steps
from tests.core.test_waves import order
from tests.playbook import Play, barcode


def packing() -> Iterator[Line]:
    """A piece scanned into a carton, and the question after it."""
    some, many = 10, few(5_000)
    small, large = _Packer(some), _Packer(max(some + 1, many))
    settle_down()
    ratio, ms = in_turns(small.scans, large.scans, max(2, few(200)), lambda: (small.ready(), large.ready()))
    note = f"{ms:.2f} and {ms * ratio:.2f} ms"
    yield Line("a scan at the pack station", f"{many:,} lines in the shipment against {some}", ratio, 1.3, at_least=False, note=note)  # fmt: skip


MOST = 1_500
"""So many lines an order has; those of one customer leave in one shipment."""


class _Packer:
    """Somebody who scans piece by piece into one carton; when all is packed, on another floor just like it."""

    def __init__(self, lines: int) -> None:
        by_stock = sorted(GROUND.items.values(), key=lambda i: -GROUND.quantities.get(i.code, 0))
        fit = (
            i
            for i in by_stock
            if not i.lots and not i.numbered and i.base.code == "pc" and GROUND.barcodes_of.get(i.code)
        )
        items = [i.code for i in fit if i.group != "Electronics"][:20]
        self.lines = list(islice(cycle(items), lines))
        self._begins()

    def _begins(self) -> None:
        many = [
            order(f"SO-{n}", *((i, 1) for i in self.lines[n : n + MOST]), carrier=None)
            for n in range(0, len(self.lines), MOST)
        ]
        play = picked(by(steps(BOOK, Station.PACK), proof=Proof.EACH), *many)
        self.hand = play.opens("F-PACK").scan("SO-0").done()
        self.left = [barcode(GROUND, i, "pc") for i in reversed(self.lines)]
        self.scans(0)  # the first begins the carton, and finds which

    def ready(self) -> None:
        """Something is left to scan."""
        if not self.left:
            self._begins()

    def scans(self, _: int) -> None:
        """The next piece, and what is asked then."""
        self.hand.scan(self.left.pop()).done().question()


def staging() -> Iterator[Line]:
    """All cartons of a shipment brought to another lane in one act: what a carton costs where there are many of them."""
    some, many = 20, max(40, few(1_000))
    small, large = _packed(some), _packed(many)
    lanes = BinCode("STG-04"), BinCode("STG-05")

    def brought(play: Play, n: int) -> None:
        cartons = tuple(c.number for c in play.state.cartons.of(SH))
        play.do(acts.StageGoods(SH, lanes[n % 2], cartons)).done()

    settle_down()
    ratio, ms = in_turns(lambda n: brought(small, n), lambda n: brought(large, n), max(2, few(20)))
    note = f"{ms / some:.2f} and {ms * ratio / many:.2f} ms a carton"
    yield Line(
        "a carton staged",
        f"{many:,} cartons in one act against {some}",
        ratio * some / many,
        1.5,
        at_least=False,
        note=note,
    )


def _packed(cartons: int) -> Play:
    """A line of so many pieces, each in a carton of its own."""
    item = max(
        (i for i in GROUND.items.values() if not i.lots and not i.numbered and i.base.code == "pc"),
        key=lambda i: GROUND.quantities.get(i.code, 0),
    )
    play = picked(
        by(steps(BOOK, Station.PACK, Station.STAGE), suggests=False), order("SO-1", (item.code, cartons), carrier=None)
    )
    for _ in range(cartons):
        play.do(acts.PackInto(BinCode("PACK-1"), OrderNo("SO-1"), 1, 1)).done()
        play.do(acts.CloseCarton(play.state.cartons.open_of(SH)[-1].number, CLOSED["S"])).done()
    return play


def epcis() -> Iterator[Line]:
    """A document against json alone for the same data, in turns a thousand events at a time; and what it needs of memory."""
    names = Naming(GROUND, SiteCode("HQ"), "w-1", lambda _: None)
    known = _known()
    numbers = count(1)

    def some(many: int) -> Iterator[Happening]:
        return (evolve(each, seq=next(numbers)) for each in islice(cycle(known), many))

    settle_down()
    ratios, took = [], 0.0
    encode = json.JSONEncoder(ensure_ascii=False).encode
    for _ in range(max(2, few(100_000) // 1_000)):
        mine = list(some(1_000))
        data = [event(each, names) for each in mine]
        began = time.perf_counter()
        for _part in document(mine, names, mine[0].at):
            pass
        between = time.perf_counter()
        for each in data:
            encode(each)
        ratios.append((between - began) / (time.perf_counter() - between))
        took += between - began
    yield Line("EPCIS, against json alone", f"{few(100_000):,} events", median(ratios), 1.5, at_least=False, note=f"{took:.1f} s")  # fmt: skip
    peaks = []
    for many in (few(10_000), few(100_000)):
        tracemalloc.start()
        for _part in document(some(many), names, known[0].at):
            pass
        peaks.append(tracemalloc.get_traced_memory()[1])
        tracemalloc.stop()
    yield Line("EPCIS, memory as it is written", "10 times as many events", peaks[1] / peaks[0], 1.1, at_least=False, note=f"{peaks[1] / 1e6:.1f} MB")  # fmt: skip


def _known() -> list[Happening]:
    """What a few rehearsals of the demo do."""
    found: list[Happening] = []
    for script in demo_rehearsals():
        if script.id in (
            "two-pallets-become-one",
            "each-piece-is-scanned",
            "a-tote-leaves-as-it-is",
            "undone-in-reverse",
        ):
            world = run(script, GROUND, demo_rules(script.site, GROUND), lambda at: at.date(), gs1.split)[1]
            found += chronicle(world.log, None, lambda at: at.date())
    return found
