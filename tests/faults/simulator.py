"""Faults by seed: handsets that repeat and delay, processes that die at any point, a database that goes away.

Two processes serve one world. Every choice comes from the seed and nothing runs at the same time, so a seed that
fails repeats. After the run both processes have the same state, it is what the log folds to from empty, every
invariant holds, and every command that was ever answered has one entry, which says what the answer said.
"""

from __future__ import annotations

import random
from collections import OrderedDict
from dataclasses import dataclass, field
from typing import Any

import psycopg

from mindful_crate.core.catalog.goods import OrderKind, Status
from mindful_crate.core.catalog.ids import (
    BinCode,
    CountNo,
    ItemCode,
    PlateNo,
    ShipmentNo,
    SiteCode,
    TaskNo,
    WaveNo,
    WavePlanId,
)
from mindful_crate.core.floor.state import Settings, State
from mindful_crate.core.floor.topics import HostStandIn
from mindful_crate.core.plain import canonical
from mindful_crate.core.proving.rehearse import last_dialogue, open_dialogue
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.scanning.dialogue import ask
from mindful_crate.core.scanning.reading import How, Scan
from mindful_crate.core.work.handset.decide import context
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.fold import apply
from mindful_crate.core.world.invariants import broken
from mindful_crate.files import gs1
from mindful_crate.store import db
from mindful_crate.store.loaded import Loaded, Who
from mindful_crate.store.past import RECORDS
from mindful_crate.store.worlds import UNDISTURBED, Worlds, local_start

DEVICES = [("oren", "H1", ("quay",)), ("mara", "H2", ("quay", "hazard")), ("tove", "H3", ("quay",))]
FLOWS = [
    "F-RECEIVE", "F-TOTE", "F-PUTAWAY", "F-MOVEPLATES", "F-MOVEGOODS", "F-REFILL", "F-LOOK", "F-PICK", "F-PACK", "F-STAGE", "F-LOAD", "F-SHIP",
    "F-COUNT", "F-ADJUST", "F-STATUS", "F-ELSEWHERE", "F-RETURN",
]  # fmt: skip
CODES = [
    "PO-1001", "PO-1007", "PO-1014", "X-0000", "LP-000064", "LP-000901", "LPR-000417", "B-02-01-1", "R-01-02-1", "P-01-01-2",
    "P-01-01-3", "RCV-02", "1", "5", "0", "2900000000438", "LPR-000900", "SO-2007", "SHR-0001", "CSR-0001", "C-500", "PACK-1", "STG-01", "TK-74",
    "DOOR-3", "SHK-08", "P-01-02-4", "SR-2", "LPR-900001", "LPR-900002", "photo-0123456789abcdef",
]  # fmt: skip
GOING: tuple[Any, ...] = ("SO-2001", "SO-2007", "SO-2019", "SO-2046", "SO-2020", "SO-2025")
"""Orders that go out."""
POINTS = ("before", "appended", "committed")
"""Where a process dies: before anything is written, when it is written but not committed (committed at once where it took no
lock), or right after."""


class Killed(BaseException):
    """A process was killed here."""


_GROUNDS: OrderedDict[str, Any] = OrderedDict()
_BOOKS: dict[str, Any] = {}


class Mortal(Worlds):
    """A process that may be killed at one of the points of its next command."""

    dies: str = ""
    locks = False
    """Does it go by the lock with every command?"""

    def __init__(self, database: db.Database) -> None:
        super().__init__(database)
        self._grounds, self._books = _GROUNDS, _BOOKS  # immutable: read once for all processes that ever live here

    def _run(self, conn: db.Conn, loaded: Loaded, *rest: Any) -> ev.Entry:
        if self.dies == "before":
            raise Killed
        entry = super()._run(conn, loaded, *rest)
        if self.dies == "appended":
            raise Killed
        if self.dies == "connection":  # the database goes away before the commit
            conn.close()
        return entry

    def _without_lock(self, conn: db.Conn, loaded: Loaded, *rest: Any) -> ev.Entry | None:
        if self.dies == "before":
            raise Killed
        return None if self.locks else super()._without_lock(conn, loaded, *rest)

    def _appended(self, conn: db.Conn, *rest: Any) -> bool:
        if self.dies == "connection":  # the database goes away before it is asked
            conn.close()
        appended = super()._appended(conn, *rest)
        if self.dies == "appended":
            raise Killed
        if self.dies == "unheard":  # it is written, and whoever wrote it never hears so
            raise psycopg.OperationalError
        return appended

    def trusts(self, world: str) -> None:
        """Let it take its memory for what is in the log, whether it is so or not."""
        if world in self._loaded:
            self._loaded[world].undisturbed = UNDISTURBED

    def _snapshot_if_due(self, loaded: Loaded) -> None:
        if self.dies == "committed":
            raise Killed


@dataclass
class Sent:
    """A command of a handset and what it was answered, each time it was."""

    id: str
    act: acts.Act
    who: Who
    answers: list[ev.Entry] = field(default_factory=list)


class Simulation:
    """One world, two processes, three handsets."""

    def __init__(self, database: db.Database, seed: int) -> None:
        self.chance = random.Random(seed)
        self.seed = seed
        self.database = database
        self.processes: list[Mortal] = [Mortal(database), Mortal(database)]
        self.sent: dict[str, Sent] = {}
        self.waiting: list[Sent] = []
        with database.transaction() as conn:
            draft = db.row(conn, _DraftHead, "draft_head", id="d-1")
            assert draft
            ground = self.processes[0].ground(conn, draft.opening)
            starts = local_start("Europe/London", min(o.promised for o in ground.orders.values()), 8, 30)
            settings = Settings(SiteCode("HQ"), starts, host=HostStandIn(book_seconds=self.chance.choice([0, 2, 60])))
            self.world = self.processes[0].create(
                conn,
                name=f"faults {seed}",
                settings=settings,
                opening=draft.opening,
                rulebook=draft.rulebook,
                made_by="ines",
            )

    def run(self, commands: int) -> None:
        """So many new commands with everything that happens to them, then the checks."""
        for n in range(commands):
            sent = self._new(f"s{self.seed}-{n}")
            self.sent[sent.id] = sent
            what = self.chance.random()
            if what < 0.15:
                self.waiting.append(sent)  # delayed: it comes after others
            else:
                self._deliver(sent)
                if what < 0.35:
                    self._deliver(sent)  # twice
            if self.waiting and self.chance.random() < 0.4:
                self._deliver(self.waiting.pop(self.chance.randrange(len(self.waiting))))
        for sent in self.waiting:
            self._deliver(sent)
        for sent in self.sent.values():
            if not sent.answers or self.chance.random() < 0.2:
                self._deliver(sent, sure=True)
        self._check()

    def _new(self, id_: str) -> Sent:
        person, device, crews = self.chance.choice(DEVICES)
        who = Who(person, None, device, crews)
        return Sent(id_, self._act(device, who), who)

    def _in_the_host(self) -> acts.Act:
        """Something its user does, or something that befalls it."""
        order: Any = self.chance.choice(["PO-1001", "PO-1007", "PO-1014"])
        doing = self.chance.random()
        if doing < 0.6:
            return acts.ConfirmOrder(order)
        if doing < 0.75:
            down, twice = self.chance.random() < 0.4, self.chance.random() < 0.5
            return acts.SetHost(HostStandIn(book_seconds=self.chance.randrange(5), down=down, twice=twice))
        if doing < 0.9:
            return acts.AnnounceOrder(order)
        return acts.TryOrder(self.chance.choice([OrderKind.PURCHASE, OrderKind.TRANSFER]))

    def _going_out(self) -> acts.Act:
        """Orders that go out: confirmed, released together, let past a gate, taken back; waves of them made, let go, cancelled, picked."""
        order, doing = self.chance.choice(GOING), self.chance.random()
        wave = WaveNo(f"WR-{self.chance.randrange(1, 6):04}")
        if doing < 0.3:
            return acts.ConfirmOrder(order)
        if doing < 0.55:
            return acts.ReleaseOrders(GOING)
        if doing < 0.62:
            return acts.PassGate(order, "the ferry waits")
        if doing < 0.7:
            return acts.UndoRelease(order, "the ferry is late")
        if doing < 0.82:
            return acts.MakeWave(WavePlanId(self.chance.choice(["WP-1", "WP-2", "WP-3", "WP-4"])))
        if doing < 0.88:
            return acts.LetWaveGo(wave)
        if doing < 0.92:
            return acts.CancelWave(wave, "the ferry is late")
        return acts.PickInOffice(TaskNo(f"TR-{self.chance.randrange(204, 230):04}"), "picked by paper")

    def _leaving(self, state: State) -> acts.Act:
        """What is released: packed, closed, opened again, staged, loaded, sent off, taken back; too early and too late as well."""
        shipment = self.chance.choice([*state.shipments, ShipmentNo("SHR-0001")])
        cartons = [c.number for c in state.cartons.of(shipment)] or [PlateNo("LPR-900001")]
        carton, bench, lane = (
            self.chance.choice(cartons),
            BinCode("PACK-1"),
            BinCode(self.chance.choice(["STG-01", "STG-04"])),
        )
        order: Any = self.chance.choice(GOING)
        picks = [t for t in state.tasks.values() if t.need is Need.PICK and not t.state.ended]
        if picks and self.chance.random() < 0.4:
            task = self.chance.choice(picks)
            return acts.PickInOffice(task.number, "picked by paper", None if task.to_bin else bench)
        may: list[acts.Act] = [
            acts.BeginCarton(shipment, bench), acts.PackRest(shipment, bench), acts.PackInto(bench, order, 1, self.chance.choice([1, 2, 5])),
            acts.TakeOut(carton, order, 1, 1), acts.CloseCarton(carton, None, self.chance.choice([0, 2_000_000])), acts.ReopenCarton(carton),
            acts.PackShort(order, "one is missing"), acts.StageGoods(shipment, lane, (carton,)), acts.LoadGoods(shipment, BinCode("DOOR-3")),
            acts.ShipShipment(shipment, None, self.chance.random() < 0.5), acts.ReverseShipment(shipment, "the wrong truck"),
        ]  # fmt: skip
        return self.chance.choice(may)

    def _caring(self, state: State) -> acts.Act:
        """Stock is counted, posted, set, quarantined and freed."""
        bins = tuple(
            BinCode(self.chance.choice(["P-01-02-4", "P-01-01-2", "P-05-11-1", "B-01-01-1"])) for _ in range(2)
        )
        sheet = self.chance.choice([*state.counts, CountNo("CSR-0009")])
        item, status = ItemCode("SHK-08"), self.chance.choice([Status.AVAILABLE, Status.QUARANTINE])
        may: list[acts.Act] = [
            acts.MakeCounts(tuple(dict.fromkeys(bins))), acts.PostCount(sheet), acts.PostCount(sheet), acts.CountAgain(sheet, (1,), "to be sure"),
            acts.DropCount(sheet, "not now"), acts.AdjustStock(bins[0], item, self.chance.randrange(90), "it was counted"),
            acts.ChangeStatus(status, "it got wet", bin=bins[0]), acts.ChangeStatus(status, "called back", item=item),
        ]  # fmt: skip
        return self.chance.choice(may)

    def _act(self, device: str, who: Who) -> acts.Act:
        """Something the handset offers, mostly; else anything."""
        if self.chance.random() < 0.15:
            return self._going_out()
        if (office := self.chance.random()) < 0.16:
            process = self.chance.choice(self.processes)
            with self.database.transaction() as conn, process.reading(conn, self.world) as w:
                return self._leaving(w.state) if office < 0.1 else self._caring(w.state)
        if self.chance.random() < 0.08:
            return self._in_the_host()
        process = self.chance.choice(self.processes)
        with self.database.transaction() as conn, process.reading(conn, self.world) as w:
            dialogue = open_dialogue(w.state, device)
            if dialogue is None:
                last = last_dialogue(w.state, device)
                if last and self.chance.random() < 0.1:
                    return acts.Answer(last.number, Scan("PO-1007"))
                return acts.OpenFlow(self.chance.choice(FLOWS))  # type: ignore[arg-type]
            flow = w.rulebook.flow(dialogue.flow)
            assert flow
            question = ask(context(w.state, w.rulebook, w.stamp("look", who), flow), dialogue)
        offered: list[acts.Act] = []
        for text in [p.value for p in question.picks[:3]] + [t for t in (question.expect, question.proposal) if t]:
            offered.append(acts.Answer(dialogue.number, Scan(text, How.SCANNED, gs1.split(text)), question.step))
        for button in question.buttons:
            if button.action == "back":
                offered.append(acts.StepBack(dialogue.number, question.step))
            elif button.action == "leave":
                if self.chance.random() < 0.3:
                    offered.append(acts.LeaveFlow(dialogue.number))
            else:
                offered.append(acts.Press(dialogue.number, button.action, question.step))  # type: ignore[arg-type]
        if not offered or self.chance.random() < 0.3:
            return acts.Answer(
                dialogue.number, Scan(self.chance.choice(CODES), self.chance.choice(list(How))), question.step
            )
        return self.chance.choice(offered)

    def _deliver(self, sent: Sent, *, sure: bool = False) -> None:
        """Send until it is answered, as a handset does; now and then the handset gives up before."""
        for attempt in range(6):
            at = self.chance.randrange(2)
            process = self.processes[at]
            process.dies = "" if sure or attempt == 5 else self._fate()
            process.locks = self.chance.random() < 0.3
            if self.chance.random() < 0.4:
                process.trusts(self.world)
            try:
                entry = process.run(self.world, sent.id, sent.act, sent.who)
            except Killed:
                self.processes[at] = Mortal(self.database)  # a new process, with nothing in memory
                if not sure and self.chance.random() < 0.1:
                    return
                continue
            except psycopg.OperationalError:
                continue  # the process lives; what it held of the world is dropped
            sent.answers.append(entry)
            return

    def _fate(self) -> str:
        what = self.chance.random()
        if what < 0.15:
            return self.chance.choice(POINTS)
        return self.chance.choice(["connection", "unheard"]) if what < 0.25 else ""

    def _check(self) -> None:
        assert all(s.answers for s in self.sent.values()), "a command was never answered"
        with self.database.transaction() as conn:
            row = self.processes[0].row(conn, self.world)
            log = Mortal(self.database).entries(conn, row)
            states = []
            for process in self.processes:
                with process.reading(conn, self.world) as w:
                    states.append((canonical(w.state.kept()), broken(w.state), settled_in(w.state)))
                    ground, settings = w.ground, w.settings
        by_id = {e.command.stamp.id: e for e in log}
        assert [e.seq for e in log] == list(range(1, len(log) + 1)), "the log has a gap"
        assert len(by_id) == len(log), "a command has two outcomes"
        for sent in self.sent.values():
            kept = canonical(by_id[sent.id])
            assert all(canonical(a) == kept for a in sent.answers), f"{sent.id} was answered otherwise than logged"
        folded = State(ground, settings)
        for entry in log:
            apply(folded, entry)
        assert states[0][0] == states[1][0] == canonical(folded.kept()), "the processes differ from the log"
        assert states[0][1] == states[1][1] == broken(folded) == [], states[0][1]
        assert states[0][2] == states[1][2] == settled_in(folded), "what is settled differs from the log"


def settled_in(state: State) -> dict[str, bytes]:
    """Every settled document of a world."""
    return {f"{d.ref}": canonical(d) for kind in RECORDS for d in state.past.latest(kind)}


@dataclass
class _DraftHead:
    opening: str
    rulebook: str


db.QUERIES["draft_head"] = "SELECT d.opening, s.rulebook FROM draft d JOIN draft_step s ON s.draft = d.id AND s.step = d.cursor WHERE d.id = %(id)s"  # fmt: skip


def simulate(database: db.Database, seed: int, commands: int = 24) -> int:
    """One run; the number of log entries it made. An AssertionError names the seed."""
    simulation = Simulation(database, seed)
    try:
        simulation.run(commands)
    except AssertionError as error:
        raise AssertionError(f"seed {seed}: {error}") from error
    with database.transaction() as conn:
        seq = simulation.processes[0].row(conn, simulation.world).seq
        conn.execute("DELETE FROM world WHERE id = %s", (simulation.world,))
    return seq
