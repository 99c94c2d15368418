"""Waves of every method picked by many handsets at once, while processes die at any point and the database goes away: no line is picked twice or lost, nothing kept for
an order is left behind, and no tote holds goods of nobody. ``python -m tests.faults.waves [orders] [handsets] [seed]``: many, on any PostgreSQL server."""

from __future__ import annotations

import os
import sys
import time
from collections import Counter
from datetime import timedelta
from decimal import Decimal
from itertools import count

from mindful_crate.core.catalog.goods import Order, OrderKind, OrderLine
from mindful_crate.core.catalog.ids import CarrierCode, FlowId, ItemCode, OrderNo, PartnerCode, SiteCode, WavePlanId
from mindful_crate.core.floor.standing import lying_on
from mindful_crate.core.proving.rehearse import open_dialogue
from mindful_crate.core.releasing.onward import Stop, kept_for
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.scanning.dialogue import ask
from mindful_crate.core.scanning.question import Question
from mindful_crate.core.scanning.reading import How, Scan
from mindful_crate.core.work.handset.decide import context
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.files import gs1
from mindful_crate.store import db
from mindful_crate.store.loaded import Who
from tests.faults.__main__ import databases
from tests.faults.simulator import Mortal, Sent, Simulation
from tests.playbook import barcode

OFFICE = Who("tove", None, None, ("quay",))
CREWS = ("quay", "store", "reach", "hazard")
ITEMS = ("SHK-08", "SHK-10", "ROPE-12", "FEN-10", "ROPE-16", "CLT-15", "WAX-1", "FEN-15")
"""On the pick shelves, in bulk and in reserve."""
PLANS = (("TIDE", 1, "WP-1"), ("TIDE", 3, "WP-2"), ("HEAV", 2, "WP-3"), ("BOAT", 4, "WP-4"))
"""Carrier, lines, and the wave plan that takes such orders: all together, on carts, one by one, from zone to zone."""


class Waves(Simulation):
    """Orders of all four kinds, released, in a wave of each, and handsets that pick them."""

    def __init__(self, database: db.Database, seed: int, orders: int, handsets: int) -> None:
        super().__init__(database, seed)
        self.ids, self.totes = count(), count(900_001)
        self.hands = [Who(f"picker-{n}", None, f"W{n}", CREWS) for n in range(handsets)]
        self.orders = [self._order(n, *PLANS[n % len(PLANS)][:2]) for n in range(orders)]
        for each in self.orders:
            self._sure(acts.WriteOrder(each))
            self._sure(acts.ConfirmOrder(each.number))
        self._sure(acts.Wait(600))
        self._sure(acts.ReleaseOrders(tuple(o.number for o in self.orders)))
        for k, (_, _, plan) in enumerate(PLANS):
            mine = {o.number for o in self.orders[k :: len(PLANS)]}
            while self.read(lambda w, mine=mine: any(r.waits and r.order in mine for r in w.state.releases.values())):
                self._sure(acts.MakeWave(WavePlanId(plan)))  # as many as one wave holds
        for wave in self.read(lambda w: [n for n, x in w.state.waves.all().items() if x.held or not x.allocated]):
            self._sure(acts.LetWaveGo(wave))

    def _order(self, n: int, carrier: str, lines: int) -> Order:
        ground = self.read(lambda w: w.ground)
        made = tuple(
            OrderLine(k + 1, (i := ground.items[ItemCode(ITEMS[(n + k) % len(ITEMS)])]).code, i.base.code, 1 + (n + k) % 3, Decimal(5))
            for k in range(lines)
        )  # fmt: skip
        partner = PartnerCode(("C-500", "C-580", "C-590")[n % 3])
        day = self.read(lambda w: w.state.settings.starts.date())
        return Order(
            OrderNo(f"SO-W{n:04}"),
            OrderKind.SALES,
            SiteCode("HQ"),
            partner,
            day + timedelta(days=20),
            made,
            carrier=CarrierCode(carrier),
        )

    def read(self, look):  # type: ignore[no-untyped-def]
        """What a process says of the world now."""
        process = self.chance.choice(self.processes)
        with self.database.transaction() as conn, process.reading(conn, self.world) as w:
            return look(w)

    def _send(self, act: acts.Act, who: Who, *, sure: bool = False) -> Sent:
        sent = Sent(f"w{self.seed}-{next(self.ids)}", act, who)
        self.sent[sent.id] = sent
        self._deliver(sent, sure=sure)
        if sent.answers and self.chance.random() < 0.1:
            self._deliver(sent, sure=sure)  # twice
        return sent

    def _sure(self, act: acts.Act) -> None:
        (entry, *_) = self._send(act, OFFICE, sure=True).answers
        assert isinstance(entry.outcome, ev.Done), entry.says

    def work(self) -> int:
        """All of it is picked; how many answers that took."""
        for done in range(40 * sum(len(o.lines) for o in self.orders) + 400):
            open_ = self.read(
                lambda w: [t for t in w.state.tasks.values() if t.need is Need.PICK and not t.state.ended]
            )
            if not open_:
                return done
            self._answer(self.chance.choice(self.hands))
        raise AssertionError(f"still to be picked: {[(t.number, t.state, t.held) for t in open_]}")

    def _answer(self, who: Who) -> None:
        def asked(w):  # type: ignore[no-untyped-def]
            dialogue = open_dialogue(w.state, who.device)
            if dialogue is None:
                return None, None, None
            flow = w.rulebook.flow(dialogue.flow)
            question = ask(context(w.state, w.rulebook, w.stamp("look", who), flow), dialogue)
            return dialogue.number, question, next(iter(w.state.tasks.open_numbers(CREWS, Need.PICK, 1)), None)

        number, question, task = self.read(asked)
        if number is None:
            self._send(acts.OpenFlow(FlowId("F-PICK")), who)
        elif (act := self._act_on(number, question, task)) is not None:
            self._send(act, who)

    def _act_on(self, dialogue, question: Question, task) -> acts.Act | None:  # type: ignore[no-untyped-def]
        """What somebody does who reads the question."""
        match question.asks:
            case "pick_count":
                return acts.Press(dialogue, "confirm", question.step)
            case "picked" if task is None:
                return None
            case "picked":
                text = str(task)
            case "pick_item":
                item = self.read(lambda w: w.ground).items[ItemCode(question.title.split("`")[1])]
                text = barcode(self.read(lambda w: w.ground), item.code, item.base.code)
            case "tote" if not question.expect:
                text = f"LPR-{next(self.totes)}"
            case _:
                text = question.expect or question.picks[0].value
        return acts.Answer(dialogue, Scan(text, How.SCANNED, gs1.split(text)), question.step)

    def check(self) -> None:
        """Each process and the log say the same; every line was fetched once and stands at its station, and what is in totes is somebody's."""
        for sent in self.sent.values():
            if not sent.answers:
                self._deliver(sent, sure=True)
        self._check()
        with self.database.transaction() as conn, Mortal(self.database).reading(conn, self.world) as w:
            state, book = w.state, w.rulebook
            for order in self.orders:
                there: Counter[int] = Counter()
                for kept in kept_for(state, book, state.order(order.number) or order):
                    assert kept.next is not Stop.PICK, kept
                    there[kept.line.line] += kept.part.goods.quantity
                assert there == {x.no: x.quantity for x in order.lines}, (order, dict(there))
            for plate in [p for p in state.plates.spots if str(p).startswith("LPR-9")]:
                assert all(state.reserved(x) == x.goods.quantity for x in lying_on(state, plate)), plate


def picked_through(database: db.Database, seed: int, orders: int, handsets: int) -> tuple[int, int]:
    """One run; how many answers it took, and the processes that died. An AssertionError names the seed."""
    run = Waves(database, seed, orders, handsets)
    try:
        answers = run.work()
        run.check()
    except AssertionError as error:
        raise AssertionError(f"seed {seed}, {orders} orders, {handsets} handsets: {error}") from error
    return answers, len(run.read(lambda w: [n for w_ in w.state.waves.all().values() for n in w_.tasks]))


def main() -> int:
    """By command, large."""
    orders, handsets, seed = (int(a) for a in (*sys.argv[1:], *("160", "20", "1")[len(sys.argv) - 1 :]))
    began = time.perf_counter()
    with databases(1) as (dsn,):
        database = db.Database(dsn, most=4)
        answers, tasks = picked_through(database, seed, orders, handsets)
        database.close()
    print(
        f"{orders} orders, {tasks} tasks, {handsets} handsets: {answers} answers, {time.perf_counter() - began:.0f} s; nothing lost or doubled."
    )
    return 0


if __name__ == "__main__":
    assert os.environ.get("CRATE_TEST_DATABASE"), "name a server"
    sys.exit(main())
