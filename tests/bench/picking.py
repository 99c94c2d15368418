"""What a stop costs while it is picked: in a wave of many lines against one of few, and in a task of many stops against one of few."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import count

from mindful_crate.core.catalog.ids import ItemCode
from mindful_crate.core.rulebook.waves import Method, WavePlan
from mindful_crate.core.world import acts
from tests.bench.big import few
from tests.bench.measures import Line, settle_down
from tests.bench.receiving import in_turns
from tests.bench.releases import LINES
from tests.bench.waving import PLAN, waits
from tests.playbook import Play, barcode

CREWS = ("quay", "store", "reach", "hazard")


def picking() -> Iterator[Line]:
    """Of waves, then of tasks."""
    many = max(4, few(1_000))
    some = max(2, many // 100)
    small, large = (_Picker(n, WavePlan(PLAN, "All")) for n in (some, many))
    yield _stops(small, large, f"{many * LINES:,} lines against {some * LINES:,}", "wave")
    small, large = (
        _Picker(max(2, n), WavePlan(PLAN, "All", method=Method.CLUSTER, totes=n, pickers=1), caps=False)
        for n in (1, max(2, few(100)))
    )
    yield _stops(small, large, f"{large.most:,} moves against {small.most:,}", "task")


class _Picker:
    """Somebody who picks stop by stop with the demo's flow, the longest task first; when all is picked, on another floor just like it."""

    def __init__(self, orders: int, plan: WavePlan, caps: bool = True) -> None:
        self.of = orders, plan, caps
        self.totes = count(900_001)
        self._begins()

    def _begins(self) -> None:
        world = waits(*self.of).do(acts.MakeWave(PLAN)).done().world
        self.hand = Play(world, "oren", "H1", CREWS).opens("F-PICK")
        tasks = sorted(world.state.tasks.values(), key=lambda t: (len(t.plan.moves), t.number))
        self.most = len(tasks[-1].plan.moves)
        self.tasks = [t.number for t in tasks]
        self.asked = self.hand.question()

    def gets_there(self) -> None:
        """To the next stop: what is finished is set down, and the next task begun and given its totes."""
        while not self.asked.asks.startswith("pick_"):
            if self.asked.asks == "picked":
                if not self.tasks:
                    self._begins()
                    continue
                self.hand.scan(self.tasks.pop())
            else:
                self.hand.scan(self.asked.expect or f"LPR-{next(self.totes)}")
            self.asked = self.hand.done().question()

    def answers(self, _: int = 0) -> None:
        """One question of a stop: the bin, the item, the lot, how many, the tote; until the next is asked."""
        asked = self.asked
        if asked.asks == "pick_item":
            item = self.hand.state.ground.items[ItemCode(asked.title.split("`")[1])]
            self.hand.scan(barcode(self.hand.state.ground, item.code, item.base.code))
        elif asked.asks == "pick_count":
            self.hand.press("confirm")
        else:
            self.hand.scan(asked.expect or asked.picks[0].value, "tapped" if asked.picks else "scanned")
        self.asked = self.hand.done().question()


def _stops(small: _Picker, large: _Picker, sizes: str, of: str) -> Line:
    def get_there() -> None:
        small.gets_there()
        large.gets_there()

    settle_down()
    ratio, ms = in_turns(small.answers, large.answers, few(600), get_there)
    return Line(f"a scan of a {of}", sizes, ratio, 1.3, at_least=False, note=f"{ms * ratio:.3f} ms against {ms:.3f}")
