"""Worlds and drafts in PostgreSQL: one outcome a command whatever happens between scan and answer."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from dataclasses import replace
from datetime import UTC, datetime

import pytest

from mindful_crate.core.catalog.ids import BinCode, FlowId, OrderNo, PlateNo, ShipmentNo, SiteCode, TaskNo
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.catalog.stock import StockTable
from mindful_crate.core.floor.state import Settings, WorldKind
from mindful_crate.core.floor.topics import HostStandIn
from mindful_crate.core.placing.loads import sums_of
from mindful_crate.core.plain import canonical
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.edits import Edit
from mindful_crate.core.scanning.reading import Scan
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.chain import chain
from mindful_crate.core.world.invariants import broken
from mindful_crate.core.world.words import made_in
from mindful_crate.demo.loader import demo_opening
from mindful_crate.store import db, snapshots
from mindful_crate.store import worlds as module
from mindful_crate.store.db import Database
from mindful_crate.store.drafts import Drafts, Stale
from mindful_crate.store.loaded import Loaded, Who
from mindful_crate.store.past import LISTED
from mindful_crate.store.worlds import Worlds
from tests.playbook import barcode

OREN = Who("oren", None, "H1", ("quay",))
STARTS = datetime(2026, 3, 3, 8, 30, tzinfo=UTC)
SHACKLES = barcode(Ground(demo_opening()), "SHK-08", "box")


@pytest.fixture
def database(dsn: str) -> Iterator[Database]:
    found = Database(dsn, most=6)
    yield found
    found.close()


def test_an_opening_that_shares_with_another_is_kept_as_if_alone(database: Database) -> None:
    """Of one with other bins and of one with other stock: hash, content and the sums of bins are those worked out anew."""
    worlds = Worlds(database)
    with database.transaction() as conn:
        first = worlds.ground(conn, Drafts(worlds).get(conn, "d-1").row.opening).opening
        shut = replace(first.bins[0], blocked="wet")
        for changed in (
            replace(first, bins=(shut, *first.bins[1:])),
            replace(first, stock=StockTable.of(first.stock[5:])),
        ):
            kept = Worlds(database).ground(conn, worlds.keep_opening(conn, changed))
            alone = Ground(changed)
            assert (kept.hash, kept.opening) == (alone.hash, changed)
            assert sums_of(kept) == sums_of(alone)


def new_world(worlds: Worlds, kind: WorldKind = WorldKind.REHEARSAL) -> str:
    with worlds.database.transaction() as conn:
        draft = Drafts(worlds).get(conn, "d-1").row
        settings = Settings(SiteCode("HQ"), STARTS, kind)
        return worlds.create(
            conn, name="test", settings=settings, opening=draft.opening, rulebook=draft.rulebook, made_by="ines"
        )


def receive(worlds: Worlds, world: str) -> None:
    """Open the receive flow, note four boxes of shackles."""
    worlds.run(world, "open", acts.OpenFlow("F-RECEIVE"), OREN)  # type: ignore[arg-type]
    for n, text in enumerate(("PO-1001", SHACKLES, "4")):
        entry = worlds.run(world, f"scan{n}", acts.Answer(dialogue(worlds, world), Scan(text)), OREN)
        assert isinstance(entry.outcome, ev.Done), entry.says


def dialogue(worlds: Worlds, world: str):  # type: ignore[no-untyped-def]
    with worlds.database.transaction() as conn, worlds.reading(conn, world) as w:
        return next(d.number for d in w.state.dialogues.values() if d.open)


def kept(worlds: Worlds, world: str) -> bytes:
    with worlds.database.transaction() as conn, worlds.reading(conn, world) as w:
        assert broken(w.state) == []
        return canonical(w.state.kept())


def test_a_command_sent_twice_has_one_outcome(database: Database) -> None:
    """From two processes, the second answers what the first was answered; the log grew once."""
    one, two = Worlds(database), Worlds(database)
    world = new_world(one)
    first = one.run(world, "same", acts.ConfirmOrder("PO-1007"), OREN)  # type: ignore[arg-type]
    again = two.run(world, "same", acts.ConfirmOrder("PO-1007"), OREN)  # type: ignore[arg-type]
    assert again == first
    refused = two.run(world, "r", acts.ConfirmOrder("PO-1007"), OREN)  # type: ignore[arg-type]
    assert one.run(world, "r", acts.ConfirmOrder("PO-1007"), OREN) == refused  # type: ignore[arg-type]
    assert kept(one, world) == kept(two, world)


def test_two_processes_take_turns(database: Database) -> None:
    """Commands of two processes at once: each decided against all before it, the logs fold to one state."""
    stores = [Worlds(database), Worlds(database)]
    world = new_world(stores[0])
    orders = [f"PO-{n}" for n in (1007, 1009, 1017, 1019, 1020)]

    def confirm(store: Worlds, tag: str) -> None:
        for order in orders:
            store.run(world, f"{tag} {order}", acts.ConfirmOrder(order), OREN)  # type: ignore[arg-type]

    threads = [threading.Thread(target=confirm, args=(s, str(n))) for n, s in enumerate(stores)]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    assert kept(stores[0], world) == kept(stores[1], world) == kept(Worlds(database), world)
    with database.transaction() as conn:
        log = stores[0].entries(conn, stores[0].row(conn, world))
    assert [e.seq for e in log] == list(range(1, len(log) + 1))
    sent = [e for e in log if e.command.act.kind == "confirm_order" and isinstance(e.outcome, ev.Done)]
    assert len(sent) == len(orders), "each order was confirmed once, the other was refused"


def test_who_is_alone_takes_no_lock_and_who_is_not_decides_anew(
    database: Database, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A process to whose world nobody else appends writes each scan in one statement, and asks for nothing more. Once somebody
    did, what it decided on a log that had moved on is not written: it decides anew, on what is there."""
    mine, other = Worlds(database), Worlds(database)
    world = new_world(mine)
    monkeypatch.setattr(module, "QUICK", 60.0)
    asked: list[str] = []
    for name in ("_locked", "_look_for_more", "_appended"):
        real = getattr(Worlds, name)
        spy = lambda self, *rest, real=real, name=name: asked.append(name) or real(self, *rest)  # noqa: E731
        monkeypatch.setattr(Worlds, name, spy)
    mine.run(world, "open", acts.OpenFlow(FlowId("F-LOOK")), OREN)
    looks = acts.Answer(dialogue(mine, world), Scan("RCV-01"))
    for n in range(module.UNDISTURBED + 6):
        asked.clear()
        mine.run(world, f"look {n}", looks, OREN)
    assert asked == ["_appended"]
    leave = acts.LeaveFlow(looks.dialogue)
    assert isinstance(other.run(world, "theirs", leave, OREN).outcome, ev.Done)
    asked.clear()
    entry = mine.run(world, "mine", leave, OREN)
    assert asked == ["_appended", "_look_for_more", "_appended"], "decided twice, written once, and no lock taken"
    assert isinstance(entry.outcome, ev.Refused), "it was left already"
    assert kept(mine, world) == kept(other, world) == kept(Worlds(database), world)
    with database.transaction() as conn:
        log = mine.entries(conn, mine.row(conn, world))
    assert [e.seq for e in log] == list(range(1, len(log) + 1))
    assert {e.command.stamp.id for e in log} >= {"theirs", "mine"}


def test_killed_between_scan_and_answer(database: Database, monkeypatch: pytest.MonkeyPatch) -> None:
    """Dying before the commit loses nothing and doubles nothing: sent again, the scan is done once."""
    worlds = Worlds(database)
    world = new_world(worlds)
    receive(worlds, world)
    before = kept(worlds, world)
    finish = acts.Press(dialogue(worlds, world), "finish")

    def dies(*_: object) -> None:
        raise KeyboardInterrupt

    for each in ("_append", "_appended"):
        monkeypatch.setattr(Worlds, each, dies)
    with pytest.raises(KeyboardInterrupt):
        worlds.run(world, "finish", finish, OREN)
    monkeypatch.undo()
    assert kept(worlds, world) == before == kept(Worlds(database), world)
    entry = worlds.run(world, "finish", finish, OREN)
    assert isinstance(entry.outcome, ev.Done)
    # killed after the commit, before the answer: a new process answers what was decided
    assert Worlds(database).run(world, "finish", finish, OREN) == entry
    with database.transaction() as conn, worlds.reading(conn, world) as w:
        assert len(w.state.receipts.every()) == 1


def put_away(worlds: Worlds, world: str, order: str, code: str, count: str, tag: str) -> tuple[str, str]:
    """Receive, finish, put away, wait until it is booked; the plate and its task."""

    def run(act: acts.Act) -> ev.Entry:
        nonlocal n
        n += 1
        entry = worlds.run(world, f"{tag}{n}", act, OREN)
        assert isinstance(entry.outcome, ev.Done), entry.says
        return entry

    n = 0
    run(acts.OpenFlow("F-RECEIVE"))  # type: ignore[arg-type]
    for text in (order, code, count):
        run(acts.Answer(dialogue(worlds, world), Scan(text)))
    done = run(acts.Press(dialogue(worlds, world), "finish"))
    run(acts.LeaveFlow(dialogue(worlds, world)))
    plate, task = made_in(done, "plate"), made_in(done, "task")
    assert plate and task
    run(acts.OpenFlow("F-PUTAWAY"))  # type: ignore[arg-type]
    run(acts.Answer(dialogue(worlds, world), Scan(plate)))
    with worlds.database.transaction() as conn, worlds.reading(conn, world) as w:
        to = w.state.tasks[TaskNo(task)].to_bin
    run(acts.Answer(dialogue(worlds, world), Scan(str(to))))
    run(acts.LeaveFlow(dialogue(worlds, world)))
    run(acts.Wait(600))
    return plate, task


def test_what_is_settled_is_in_the_database_and_found_there(
    database: Database, monkeypatch: pytest.MonkeyPatch
) -> None:
    """By a process that begins from a snapshot without it, by one that only folds, by runs that go on from before and from
    after, and looking back: each knows what was settled by then, and no more."""
    monkeypatch.setattr(snapshots, "EVERY", 1)
    worlds = Worlds(database)
    world = new_world(worlds)
    first = put_away(worlds, world, "PO-1001", SHACKLES, "4", "a")
    with database.transaction() as conn:
        middle = worlds.row(conn, world).seq
    second = put_away(worlds, world, "PO-1001", SHACKLES, "2", "b")
    for thread in threading.enumerate():
        if thread.name == f"snapshot {world}":
            thread.join()
    fresh = Worlds(database)
    with database.transaction() as conn:
        early, late = (fresh.branch(conn, world, seq, "ines", fresh.row(conn, world).rulebook, None) for seq in (middle, fresh.row(conn, world).seq))  # fmt: skip
        then = fresh.state_at(conn, world, middle).state
        assert then.tasks.get(TaskNo(first[1])) and not then.tasks.get(TaskNo(second[1]))
    for id_, knows in ((world, True), (early, False), (late, True)):
        for process in (worlds, fresh, Worlds(database)):
            with database.transaction() as conn, process.reading(conn, id_) as w:
                assert not w.state.kept().plans and not w.state.kept().receipts and broken(w.state) == []
                assert w.state.task_of(PlateNo(first[0])) == w.state.tasks[TaskNo(first[1])]
                assert (w.state.task_of(PlateNo(second[0])) is not None) == knows
                assert len(w.state.receipts.every()) == 1 + knows
                names = [d.number for d in chain(w.state, Ref(DocKind.ORDER, "PO-1001"))]
                assert first[1] in names and (second[1] in names) == knows
                listed, total = w.past.found(LISTED, 2)
                assert total == 3 * (1 + knows) and len(listed) == 2
                assert w.past.found([DocKind.TASK], 9, find=first[0].lower()) == ([Ref(DocKind.TASK, first[1])], 1)
    worlds.run(early, "again", acts.OpenFlow("F-PUTAWAY"), OREN)  # type: ignore[arg-type]
    refused = worlds.run(early, "it", acts.Answer(dialogue(worlds, early), Scan(first[0])), OREN)
    assert "was put away already" in refused.says
    third = put_away(worlds, early, "PO-1001", SHACKLES, "1", "c")
    with database.transaction() as conn, fresh.reading(conn, early) as w, fresh.reading(conn, world) as v:
        assert third == second, "the numbers are drawn anew"
        here, there = w.state.task_of(PlateNo(third[0])), v.state.task_of(PlateNo(second[0]))
        assert here and there and here.placed[0].quantity < there.placed[0].quantity
        assert len(w.state.receipts.every()) == len(v.state.receipts.every()) == 2


def test_a_message_heard_again_is_kept_as_it_was_last(database: Database) -> None:
    """A real host answers three times; it is settled, back, and settled again: listed once, counted twice."""
    worlds = Worlds(database)
    world = new_world(worlds, WorldKind.LIVE)
    worlds.run(world, "out", acts.SetHost(HostStandIn(outside=True)), OREN)
    receive(worlds, world)
    worlds.run(world, "finish", acts.Press(dialogue(worlds, world), "finish"), OREN)
    with database.transaction() as conn, worlds.reading(conn, world) as w:
        (sent,) = w.state.to_send()
    for n in range(3):
        answered = Worlds(database).run(world, f"answer{n}", acts.HostAnswers(sent.number), OREN)
        assert ("a second time" in answered.says) == (n > 0)
    for process in (worlds, Worlds(database)):
        with database.transaction() as conn, process.reading(conn, world) as w:
            assert w.state.messages[sent.number].heard_again == 2
            assert w.past.found([DocKind.MESSAGE], 9, word="accepted") == ([Ref(DocKind.MESSAGE, sent.number)], 1)
            assert w.past.found([DocKind.MESSAGE], 9, word="refused") == ([], 0)
            assert [m.number for m in w.state.messages.every()] == [sent.number]


def test_snapshots_and_old_ones(database: Database, monkeypatch: pytest.MonkeyPatch) -> None:
    """A process that starts from a snapshot stands where one that folds the log stands; an old shape is not read."""
    monkeypatch.setattr(snapshots, "EVERY", 3)
    worlds = Worlds(database)
    world = new_world(worlds)
    receive(worlds, world)
    for thread in threading.enumerate():
        if thread.name == f"snapshot {world}":
            thread.join()
    with database.transaction() as conn:
        count = conn.execute("SELECT count(*) FROM snapshot WHERE world = %s", [world]).fetchone()
        assert count and count[0] >= 1
    state = kept(worlds, world)
    assert kept(Worlds(database), world) == state
    with database.transaction() as conn:
        conn.execute("UPDATE snapshot SET shape = 0, body = 'nonsense' WHERE world = %s", [world])
    assert kept(Worlds(database), world) == state


def test_of_two_processes_one_keeps_each_snapshot(database: Database, monkeypatch: pytest.MonkeyPatch) -> None:
    """Whoever appended the entry at which it was due; the further the log, the further apart."""
    monkeypatch.setattr(snapshots, "EVERY", 3)
    written: list[str] = []
    processes = {name: Worlds(database) for name in ("one", "other")}

    def keeps(_: Database, loaded: Loaded) -> None:
        written.append(f"{name} {loaded.state.seq}")
        loaded.snapshot = loaded.state.seq

    monkeypatch.setattr(snapshots, "keep", keeps)
    world = new_world(processes["one"])
    for n in range(1, 50):
        name = "one" if n % 2 else "other"
        processes[name].run(world, f"wait {n}", acts.Wait(1), OREN)
    assert written == ["one 3", "other 6", "one 9", "other 12", "one 15", "other 18", "one 21", "other 24", "other 30", "other 36", "other 42", "other 48"]  # fmt: skip


def test_a_child_world_goes_on_from_its_parent(database: Database) -> None:
    """The parent keeps its log; the child answers commands of the shared part as they were answered."""
    worlds = Worlds(database)
    parent = new_world(worlds)
    receive(worlds, parent)
    with database.transaction() as conn:
        row = worlds.row(conn, parent)
        child = worlds.branch(conn, parent, row.seq - 1, "ines", row.rulebook, None)
    again = worlds.run(child, "scan1", acts.OpenFlow("F-RECEIVE"), OREN)  # type: ignore[arg-type]
    assert again.command.act.kind == "answer", "a command before the fork is answered from the parent's log"
    worlds.run(child, "leave", acts.LeaveFlow(dialogue(worlds, child)), OREN)
    with database.transaction() as conn:
        assert worlds.row(conn, parent).seq == row.seq
        log = Worlds(database).entries(conn, worlds.row(conn, child))
        assert [e.seq for e in log] == list(range(1, row.seq + 1))
        assert log[-1].command.act.kind == "leave_flow"
        with pytest.raises(Refusal, match="no 999"):
            worlds.branch(conn, parent, 999, "ines", row.rulebook, None)
        live = next(
            w
            for w in db.rows(conn, module.WorldRow, "worlds", sites=["HQ"], person="ines", all=True)
            if w.kind == "live"
        )
        with pytest.raises(Refusal, match="cannot be rewound"):
            worlds.branch(conn, live.id, 0, "ines", row.rulebook, None)


def test_floors_of_two_sites_hear_from_one_another(database: Database) -> None:
    """In a group of rehearsals the clock of one is never before what was done in another, what was sent is passed on once, and who goes on from an
    earlier point takes the others along."""
    worlds = Worlds(database)
    here = new_world(worlds)
    with database.transaction() as conn:
        row = worlds.row(conn, here)
        ground = worlds.ground(conn, row.opening)
        rules = worlds.keep_rulebook(conn, Drafts(worlds).rules_at(conn, SiteCode("GL"), ground))
        settings = Settings(SiteCode("GL"), STARTS)
        there = worlds.create(conn, name="test", settings=settings, opening=row.opening, rulebook=rules, made_by="ines")
        worlds.beside.put(conn, [here, there])
    number = OrderNo("TO-3101")
    for n, act in enumerate(
        (
            acts.ConfirmOrder(number),
            acts.Wait(60),
            acts.ReleaseOrders((number,)),
            acts.PickInOffice(TaskNo("TR-0204"), "by paper", BinCode("STG-01")),
        )
    ):
        assert isinstance(worlds.run(here, f"a{n}", act, OREN).outcome, ev.Done)
    early = worlds.run(there, "early", acts.Wait(5), OREN)
    worlds.run(here, "load", acts.LoadGoods(ShipmentNo("SHR-0001"), BinCode("DOOR-3"), orders=(number,)), OREN)
    gone = worlds.run(here, "ship", acts.ShipShipment(ShipmentNo("SHR-0001")), OREN)
    assert isinstance(gone.outcome, ev.Done), gone.says
    assert gone.command.stamp.at > early.command.stamp.at
    for n in range(3):
        worlds.run(there, f"wait{n}", acts.Wait(60), OREN)
        worlds.beside.pass_on(here)
    with database.transaction() as conn:
        log = worlds.entries(conn, worlds.row(conn, there))
        assert sum(isinstance(e.command.act, acts.PassOn) for e in log) == 1
        child = worlds.branch(conn, here, gone.seq - 1, "ines", row.rulebook, None)
        (other,) = worlds.beside.of(conn, worlds.row(conn, child))
        assert other.id != there and other.seq == early.seq
    again = Worlds(database)  # another process
    again.beside.pass_on(here)
    with database.transaction() as conn:
        assert len(worlds.entries(conn, worlds.row(conn, there))) == len(log)
    with database.transaction() as conn:
        child = worlds.branch(conn, here, worlds.row(conn, here).seq, "ines", row.rulebook, None)
        (first,) = worlds.beside.of(conn, worlds.row(conn, child))
        alone = worlds.create(conn, name="test", settings=settings, opening=row.opening, rulebook=rules, made_by="ines")
        db.run(conn, "put_beside", id=child, beside=child)
        db.run(conn, "put_beside", id=first.id, beside=first.id)
    worlds.forget(child)
    worlds.beside.pass_on(child)  # nobody is beside it yet
    with database.transaction() as conn:
        worlds.beside.put(conn, [child, alone])
    worlds.beside.pass_on(child)
    with database.transaction() as conn:
        told = [e.command.act for e in worlds.entries(conn, worlds.row(conn, alone))]
        assert [isinstance(a, acts.PassOn) for a in told].count(True) == 1


def test_a_live_world_goes_by_the_real_clock(database: Database) -> None:
    """Its stamps are of now; a rehearsal's are of its own time."""
    worlds = Worlds(database)
    live = worlds.run(new_world(worlds, WorldKind.LIVE), "x", acts.ConfirmOrder("PO-1007"), OREN)  # type: ignore[arg-type]
    rehearsed = worlds.run(new_world(worlds), "x", acts.ConfirmOrder("PO-1007"), OREN)  # type: ignore[arg-type]
    assert (datetime.now(UTC) - live.command.stamp.at).total_seconds() < 60
    assert rehearsed.command.stamp.at == STARTS


def test_drafts_undo_redo_and_staleness(database: Database) -> None:
    """Every edit is a step; undo and redo move between steps; an edit on an old version is told what changed."""
    drafts = Drafts(Worlds(database))
    off = Edit("set", "step_plans/SP-1/put_away/on", False)
    with database.transaction() as conn:
        version = drafts.get(conn, "d-1").row.version
        edited = drafts.edit(conn, "d-1", version, (off,), "Put-away off.", "ines")
        assert not edited.rulebook.step_plans[0].put_away.on
        with pytest.raises(Stale) as caught:
            drafts.edit(conn, "d-1", version, (off,), "Again.", "tove")
        assert [c.says for c in caught.value.changed] == ["Put-away off."]
        undone = drafts.step(conn, "d-1", edited.row.version, -1, "ines")
        assert undone.rulebook.step_plans[0].put_away.on
        redone = drafts.step(conn, "d-1", undone.row.version, 1, "ines")
        assert redone.row.rulebook == edited.row.rulebook
        with pytest.raises(Refusal, match="nothing to redo"):
            drafts.step(conn, "d-1", redone.row.version, 1, "ines")
        same = drafts.edit(conn, "d-1", redone.row.version, (off,), "No change.", "ines")
        assert same.row.version == redone.row.version, "what changes nothing is no step"
        with pytest.raises(Refusal, match="does not fit"):
            drafts.edit(conn, "d-1", same.row.version, (Edit("set", "step_plans/SP-1/booking", "someday"),), "", "ines")
        back = drafts.step(conn, "d-1", same.row.version, -1, "ines")
        assert drafts.put_in_force(conn, "d-1", back.row.version, "ines") == 2
        broken_ = drafts.edit(
            conn,
            "d-1",
            back.row.version,
            (Edit("set", "bin_rules/BL-1/rules/BR-3/targets/T-5/look_in/zones", ["MOON"]),),
            "",
            "ines",
        )
        with pytest.raises(Refusal, match="cannot be put in force"):
            drafts.put_in_force(conn, "d-1", broken_.row.version, "ines")
        drafts.step(conn, "d-1", broken_.row.version, -1, "ines")
        with pytest.raises(Refusal):
            drafts.get(conn, "d-none")
