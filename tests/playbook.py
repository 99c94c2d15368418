"""Scripts of a dialogue: scans in, questions and replies out, read from top to bottom."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, date, datetime
from typing import Any

from mindful_crate.core.catalog.goods import Tracking
from mindful_crate.core.catalog.ids import CrewId, DeviceId, FlowId, OrderNo, PersonId, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.serials import SerialTable
from mindful_crate.core.floor.state import Settings, State
from mindful_crate.core.floor.topics import HostStandIn
from mindful_crate.core.proving.rehearse import Beside, last_dialogue, open_dialogue, question_of
from mindful_crate.core.proving.script import Rehearsal
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.scanning.question import Question
from mindful_crate.core.scanning.reading import How, Scan
from mindful_crate.core.work.making import Making
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.acts import At
from mindful_crate.core.world.fold import fold
from mindful_crate.core.world.world import World
from mindful_crate.demo.loader import demo_rules
from mindful_crate.files import gs1

STARTS = datetime(2026, 3, 3, 8, 30, tzinfo=UTC)


def beside(script: Rehearsal, ground: Ground) -> dict[SiteCode, Beside]:
    """What the other sites of a rehearsal of the demo go by."""
    return {s: Beside(demo_rules(s, ground), lambda at: at.date()) for s in script.sites[1:]}


def from_snapshot(state: State) -> State:
    """The state that its snapshot makes, over the same ground and past."""
    return State.load_snapshot(state.ground, state.settings, state.keep(), state.past)


def new_world(ground: Ground, rulebook: Rulebook, **host: int) -> World:
    """A rehearsal world of the demo, starting on 3 March 2026 at half past eight."""
    return World(ground, Settings(SiteCode("HQ"), STARTS, host=HostStandIn(**host)), rulebook, lambda at: at.date())


def making_of(world: World) -> Making:
    """An entry in the making, next in the log of a world; no act is part of it."""

    def alone(_: Making, act: object) -> str:
        raise AssertionError(f"{act} within")

    return Making(world.state, At(world.state.seq + 1, world.stamp("x", PersonId("ines"))), fold, alone)


class Play:
    """One person with one handset in a world. Each call checks at once and says what differs."""

    def __init__(
        self, world: World, person: str = "oren", device: str = "H1", crews: tuple[str, ...] = ("quay",)
    ) -> None:
        self.world = world
        self.person, self.device, self.crews = PersonId(person), DeviceId(device), tuple(CrewId(c) for c in crews)
        self.last: ev.Entry | None = None

    def other(self, person: str, device: str) -> Play:
        """Somebody else in the same world."""
        return Play(self.world, person, device)

    def do(self, act: acts.Act, id_: str = "") -> Play:
        self.last = self.world.run(acts.Command(self.stamp(id_), act))
        return self

    def stamp(self, id_: str = "") -> acts.Stamp:
        """Who, where and when, for the next command."""
        stamp = self.world.stamp(id_ or f"c{len(self.world.log)}", self.person)
        return replace(stamp, device=self.device, crews=self.crews)

    def confirm(self, *orders: str) -> Play:
        for order in orders:
            self.do(acts.ConfirmOrder(OrderNo(order)))
        return self

    def opens(self, flow: str) -> Play:
        return self.do(acts.OpenFlow(FlowId(flow)))

    def _dialogue(self) -> Any:
        found = open_dialogue(self.world.state, self.device) or last_dialogue(self.world.state, self.device)
        assert found, f"no flow is open on {self.device}"
        return found.number

    def scan(self, text: str, how: str = "scanned", elements: tuple[tuple[str, str], ...] | None = None) -> Play:
        split = gs1.split(text) if elements is None else elements
        return self.do(acts.Answer(self._dialogue(), Scan(text, How(how), split)))

    def type(self, text: str) -> Play:
        return self.scan(text, "typed")

    def press(self, action: Any, line: int | None = None, count: str | None = None) -> Play:
        if action == "back":
            return self.do(acts.StepBack(self._dialogue()))
        if action == "leave":
            return self.do(acts.LeaveFlow(self._dialogue()))
        return self.do(acts.Press(self._dialogue(), action, line=line, count=count))

    def done(self, *parts: str) -> Play:
        """The last command was carried out and its reply holds these parts."""
        assert self.last and isinstance(self.last.outcome, ev.Done), self.last and self.last.says
        for part in parts:
            assert part in self.last.says, self.last.says
        return self

    def refused(self, code: str, *parts: str) -> Play:
        """The last command was refused with this code, and its sentence holds these parts."""
        assert self.last and isinstance(self.last.outcome, ev.Refused), f"carried out: {self.last and self.last.says}"
        assert self.last.outcome.problem.code == code, self.last.outcome.problem
        for part in parts:
            assert part in self.last.says, self.last.says
        return self

    def question(self) -> Question:
        dialogue = open_dialogue(self.world.state, self.device)
        assert dialogue, "nothing is asked"
        found = question_of(self.world, dialogue, self.crews)
        assert found
        return found

    def offers(self, *actions_and_labels: str) -> Play:
        """The buttons of the question, each by its name and what stands on it."""
        found = [text for b in self.question().buttons for text in (b.action, b.label)]
        assert found == list(actions_and_labels), found
        return self

    def asks(self, asks: str, title: str = "", expect: str | None = None) -> Play:
        """The handset asks for this."""
        question = self.question()
        assert question.asks == asks, question
        assert title in question.title, question.title
        assert expect is None or question.expect == expect, question.expect
        return self

    @property
    def state(self) -> Any:
        return self.world.state


def barcode(ground: Ground, item: str, unit: str) -> str:
    """The barcode of an item's unit."""
    return next(b.code for b in ground.barcodes_of[item] if b.unit == unit)  # type: ignore[index]


def paint(ground: Ground, lot: str, expiry: date, count: int, unit: str = "case") -> str:
    """A GS1 code of red antifouling."""
    code = barcode(ground, "AF-RED-25", unit).zfill(14)
    return f"(01){code}(17){expiry:%y%m%d}(37){count}(10){lot}"


def unnumbered(ground: Ground) -> Ground:
    """The same goods without serial numbers, for tests in which plotters are dear goods like others."""
    items = tuple(replace(i, tracking=Tracking.NONE) if i.numbered else i for i in ground.opening.items)
    return Ground(replace(ground.opening, items=items, serials=SerialTable.of()))
