"""Random people doing random things: whatever is scanned or pressed, every invariant holds after every command."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, precondition, rule

from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.topics import HostStandIn
from mindful_crate.core.plain import canonical
from mindful_crate.core.proving.rehearse import open_dialogue
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.fold import apply
from mindful_crate.core.world.invariants import broken
from mindful_crate.demo.loader import demo_opening, demo_rulebook
from tests.core.test_past import answers_as_if_all_were_here
from tests.playbook import Play, barcode, new_world
from tests.properties import tried

GROUND, RULEBOOK = Ground(demo_opening()), demo_rulebook()
ORDERS = ["PO-1001", "PO-1002", "PO-1007", "PO-1014"]
LINES = sorted({(x.item, x.unit) for n in ORDERS for x in GROUND.orders[n].lines})  # type: ignore[index]
CODES = [
    *ORDERS, "PO-9999", "NONSENSE", "LP-000001", "LPR-000417", "LPR-000418", "LPR-000900", "TR-0204", "B-02-01-1", "B-01-04-1",
    "R-01-02-1", "R-01-01-2", "H-01-01-1", "P-01-01-1", "P-01-01-2", "LP-000064", "LP-000065", "LP-000900", "LP-000901", "RCV-01", "0", "1", "3", "-2", "1.5", "999999", "2027-08-31", "270831", "L77",
    *[barcode(GROUND, i, u) for i, u in LINES], barcode(GROUND, "SHK-06", "pc"), barcode(GROUND, "BLK-S", "pc"), "40",
]  # fmt: skip
PRESSES = ["go_on", "part", "confirm", "yes", "no", "new_plate", "other_order", "finish", "back", "leave", "set_down"]
HANDS = [("oren", "H1"), ("mara", "H2")]


class Floor(RuleBasedStateMachine):
    """Two workers and an office at Halloway Quay."""

    @initialize()
    def begin(self) -> None:
        self.world = new_world(GROUND, RULEBOOK)
        self.plays = [Play(self.world, *hands) for hands in HANDS]

    @rule(
        hand=st.integers(0, 1),
        flow=st.sampled_from(["F-RECEIVE", "F-TOTE", "F-PUTAWAY", "F-MOVEPLATES", "F-MOVEGOODS", "F-REFILL", "F-LOOK"]),
    )
    def open_flow(self, hand: int, flow: str) -> None:
        self.plays[hand].opens(flow)

    @precondition(lambda self: any(open_dialogue(self.world.state, d) for _, d in HANDS))
    @rule(hand=st.integers(0, 1), code=st.sampled_from(CODES), how=st.sampled_from(["scanned", "typed"]))
    def scan(self, hand: int, code: str, how: str) -> None:
        if self.world.state.dialogues and any(d.device == HANDS[hand][1] for d in self.world.state.dialogues.values()):
            self.plays[hand].scan(code, how)

    @rule(hand=st.integers(0, 1), data=st.data())
    def do_right(self, hand: int, data: st.DataObject) -> None:
        """Most random scans are wrong; this does something the handset offers, so that runs get far."""
        play = self.plays[hand]
        if not open_dialogue(self.world.state, play.device):
            return
        question = play.question()
        codes = [p.value for p in question.picks] + [c for c in (question.expect, question.proposal) if c]
        presses = [b.action for b in question.buttons]
        choice = data.draw(st.sampled_from([*codes, *presses]))
        if choice in presses:
            play.press(choice)
        else:
            play.scan(choice)

    @rule(hand=st.integers(0, 1), press=st.sampled_from(PRESSES))
    def press(self, hand: int, press: str) -> None:
        if any(d.device == HANDS[hand][1] for d in self.world.state.dialogues.values()):
            self.plays[hand].press(press)

    @rule(hand=st.integers(0, 1), line=st.integers(1, 3), count=st.sampled_from(["0", "1", "2", "500"]))
    def change_line(self, hand: int, line: int, count: str) -> None:
        if any(d.device == HANDS[hand][1] for d in self.world.state.dialogues.values()):
            self.plays[hand].press("change_line", line, count)

    @rule(order=st.sampled_from([*ORDERS, "PO-9999"]))
    def confirm(self, order: str) -> None:
        self.plays[0].confirm(order)

    @rule(plate=st.sampled_from(["LPR-000417", "LPR-000418", "LPR-000900", "LP-000001", "LP-999999"]))
    def finish(self, plate: str) -> None:
        self.plays[0].do(acts.FinishPlate(plate))  # type: ignore[arg-type]

    @rule(item=st.sampled_from(["ROPE-12", "SHK-06", "AF-RED-25", "NO"]), quantity=st.sampled_from([0, 1, 40, 5000]))
    def reserve(self, item: str, quantity: int) -> None:
        self.plays[0].do(acts.ReserveStock("SO-1", item, quantity))  # type: ignore[arg-type]

    @rule(number=st.sampled_from(["RSR-0031", "RSR-0032", "RSR-0099"]))
    def let_go(self, number: str) -> None:
        self.plays[0].do(acts.LetGo(number))  # type: ignore[arg-type]

    @precondition(lambda self: len(self.world.state.tasks.every()))
    @rule(
        data=st.data(),
        does=st.sampled_from(
            [
                lambda n: acts.SetDown(n),
                lambda n: acts.HoldTask(n, "wet floor"),
                lambda n: acts.LetTaskGo(n),
                lambda n: acts.RaiseTask(n, 2),
                lambda n: acts.ReassignTask(n, "hazard"),
                lambda n: acts.CancelTask(n, "sent back"),
            ]
        ),
    )
    def about_a_task(self, data: st.DataObject, does: Any) -> None:
        number = data.draw(st.sampled_from([t.number for t in self.world.state.tasks.every()]))
        stamp = self.world.stamp(f"o{len(self.world.log)}", "tove")
        self.world.run(acts.Command(stamp, does(number)))

    @rule(bin_=st.sampled_from(["B-02-01-1", "B-01-03-1", "H-01-02-1"]), reason=st.sampled_from(["", "wet"]))
    def block(self, bin_: str, reason: str) -> None:
        self.plays[0].do(acts.BlockBin(bin_, reason))  # type: ignore[arg-type]

    @rule(
        order=st.sampled_from(ORDERS),
        does=st.sampled_from(
            [
                acts.CancelOrder,
                acts.OpenOrder,
                acts.CloseOrder,
                acts.ShipTransfer,
                acts.AnnounceOrder,
                acts.ConfirmOrder,
            ]
        ),
    )
    def in_the_host(self, order: str, does: type) -> None:
        self.plays[1].do(does(order))

    @rule(order=st.sampled_from(ORDERS), percent=st.sampled_from([10, 50, 100, 300]))
    def change_order(self, order: str, percent: int) -> None:
        held = self.world.state.host_order(order).order  # type: ignore[arg-type,union-attr]
        lines = tuple(replace(x, quantity=max(1, x.quantity * percent // 100)) for x in held.lines)
        self.plays[1].do(acts.WriteOrder(replace(held, lines=lines)))

    @rule(
        host=st.builds(
            HostStandIn,
            st.integers(0, 60),
            st.integers(0, 60),
            st.booleans(),
            st.booleans(),
            st.sampled_from(["", "no"]),
        )
    )
    def set_host(self, host: HostStandIn) -> None:
        self.plays[1].do(acts.SetHost(host))

    @rule(data=st.data())
    def repeat(self, data: st.DataObject) -> None:
        if self.world.state.messages.every():
            self.plays[1].do(
                acts.RepeatMessage(
                    data.draw(st.sampled_from(sorted(m.number for m in self.world.state.messages.every())))
                )
            )

    @rule(data=st.data(), hand=st.integers(0, 1))
    def scan_announced(self, data: st.DataObject, hand: int) -> None:
        coming = [p.number for n in ORDERS for p in self.world.state.announced_of(n)]  # type: ignore[arg-type]
        if coming and open_dialogue(self.world.state, self.plays[hand].device):
            self.plays[hand].scan(data.draw(st.sampled_from(coming)))

    @invariant()
    def holds(self) -> None:
        if hasattr(self, "world"):
            assert broken(self.world.state) == []

    @invariant()
    def every_command_has_one_outcome_and_a_sentence(self) -> None:
        if hasattr(self, "world"):
            assert all(e.says for e in self.world.log[-3:])
            ids = [e.command.stamp.id for e in self.world.log]
            assert len(ids) == len(set(ids))

    def teardown(self) -> None:
        if not hasattr(self, "world"):
            return
        folded = State(GROUND, self.world.state.settings)
        for entry in self.world.log:
            apply(folded, entry)
            for event in entry.outcome.events if isinstance(entry.outcome, ev.Done) else ():
                assert event.kind
        assert canonical(folded.kept()) == canonical(self.world.state.kept())
        answers_as_if_all_were_here(self.world)
        self.goes_on_like_one_that_never_decided()

    def goes_on_like_one_that_never_decided(self) -> None:
        """Every decision so far was folded and taken back here, and nothing of it is left: what is asked is answered as by
        a state that was only folded, and the next twenty commands give the same entries to the byte."""
        here, there = self.world, self.world.branch(len(self.world.log))
        for item, _ in LINES:
            assert [*here.state.lines(item)] == [*there.state.lines(item)]
            assert here.state.bins_with(item) == there.state.bins_with(item)
        for code in here.state.changed_since(0):
            assert here.state.held(code) == there.state.held(code)
            assert here.state.standing(code) == there.state.standing(code)
            assert here.state.coming(code) == there.state.coming(code)
        then = len(here.log)
        for n in range(20):
            person, device = HANDS[n % 2]
            for world in (here, there):
                play = Play(world, person, device)
                if n % 5 == 0 or not open_dialogue(world.state, play.device):
                    play.opens(["F-PUTAWAY", "F-RECEIVE", "F-MOVEPLATES", "F-TOTE", "F-MOVEGOODS"][(then + n) % 5])
                else:
                    asked = play.question()
                    offered = [*(p.value for p in asked.picks), asked.expect, asked.proposal, *CODES]
                    play.scan([c for c in offered if c][(then * 7 + n) % 9])
        assert canonical(tuple(here.log[then:])) == canonical(tuple(there.log[then:]))


TestFloor = Floor.TestCase
TestFloor.settings = tried(12, stateful_step_count=40)
