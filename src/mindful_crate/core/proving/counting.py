"""What an order takes on the handset: scans, taps, keys and seconds, found by running a flow through it from the first question to the
last; and which proofs one version of a flow gives up against another.

Everything of the order comes, whole and as ordered. Where goods are told apart by lot or date, one of each is typed a line. All of it
is received onto one plate; what is put away stands on a plate a line.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from datetime import date, datetime, timedelta

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Order, OrderKind, OrderLine
from mindful_crate.core.catalog.ids import CrewId, DeviceId, FlowId, ItemCode, OrderNo, PersonId, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.answers import TASK, Answers
from mindful_crate.core.floor.state import Settings
from mindful_crate.core.floor.tasks import Do
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.rehearse import open_dialogue, question_of
from mindful_crate.core.record import evolve, record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Asks, Check, Each, Flow, FlowPurpose
from mindful_crate.core.scanning.kinds import ITEM, SERIALS, UNIT
from mindful_crate.core.scanning.question import Question
from mindful_crate.core.scanning.reading import How, Scan
from mindful_crate.core.work.handset.acts import Answer, OpenFlow, Press
from mindful_crate.core.work.handset.decide import context
from mindful_crate.core.work.host.acts import ConfirmOrder, ShipTransfer
from mindful_crate.core.work.matters import MACHINE
from mindful_crate.core.work.picking.looking import next_take
from mindful_crate.core.work.releasing.acts import ReleaseOrders
from mindful_crate.core.work.unloading.acts import UnloadInOffice
from mindful_crate.core.work.waving.acts import MakeWave
from mindful_crate.core.world.acts import Act, Command
from mindful_crate.core.world.events import Done
from mindful_crate.core.world.world import World

SCAN_MS, TAP_MS, KEY_MS = 2_500, 1_200, 400
"""What a scan, a tap and a key take, in milliseconds: assumed, so that two versions of a flow can be held against each other."""
MOST = 2_000
"""So many answers to an order, at most."""
WHO, WITH = PersonId("counted"), DeviceId("count")


@record
class Cost:
    """What an order takes: how many questions were answered, by scans, taps and keys, in how many milliseconds; why it stopped,
    if it did before the end."""

    lines: int = 0
    questions: int = 0
    scans: int = 0
    taps: int = 0
    keys: int = 0
    ms: int = 0
    stopped: str = ""

    def with_(self, *, scans: int = 0, taps: int = 0, keys: int = 0) -> Cost:
        """One more question, answered so."""
        ms = self.ms + scans * SCAN_MS + taps * TAP_MS + keys * KEY_MS
        return evolve(
            self, questions=self.questions + 1, scans=self.scans + scans, taps=self.taps + taps, keys=self.keys + keys, ms=ms
        )  # fmt: skip


def orders_for(ground: Ground, site: SiteCode, flow: Flow | None) -> list[Order]:
    """The orders a flow can be counted on, by number: those whose goods come, or those whose goods go."""
    if flow is None or flow.purpose not in COUNTED:
        return []
    picks = flow.purpose is FlowPurpose.PICK
    return sorted(
        (o for o in ground.orders.values() if o.site == site and o.inbound is not picks), key=lambda o: o.number
    )


def cost_of(
    book: Rulebook,
    ground: Ground,
    site: SiteCode,
    flow: FlowId,
    number: OrderNo,
    starts: datetime,
    today: Callable[[datetime], date],
) -> Cost:
    """What receiving an order, putting away what was received of it, or picking it takes with a flow. Refused when there is no such flow or
    order, or the flow does something else."""
    found, order = book.flow(flow), ground.orders.get(number)
    if found is None:
        raise Refusal("unknown_flow", f"The rulebook has no flow `{flow}`.", "flow")
    if found.purpose not in COUNTED:
        raise Refusal(
            "not_counted",
            f"{found.name} is for something else: flows that receive, put away and pick are counted.",
            "flow",
        )
    picks = found.purpose is FlowPurpose.PICK
    if order is None or order.site != site or order.inbound is picks:
        way = "go from" if picks else "come to"
        raise Refusal("unknown_order", f"`{number}` is no order whose goods {way} this site.", "order")
    run = _Run(World(ground, Settings(site, starts), book, today), order)
    if picks:
        return evolve(run.pick(found), lines=len(order.lines))
    if found.purpose is FlowPurpose.RECEIVE:
        return evolve(run.receive(found), lines=len(order.lines))
    receives = [f for f in book.flows if f.purpose is FlowPurpose.RECEIVE and f.site in (None, site)]
    first = next((f for f in receives if all(p.asks is not Asks.BIN for p in f.prompts)), None)
    if first is None:
        raise Refusal("not_counted", "No flow receives, so there is nothing to put away.", "flow")
    run.apart = True
    before = run.receive(first)
    if before.stopped:
        return Cost(len(order.lines), stopped=f"while receiving with {first.name}: {before.stopped}")
    return evolve(run.put_away(found), lines=len(order.lines))


COUNTED = (FlowPurpose.RECEIVE, FlowPurpose.PUT_AWAY, FlowPurpose.PICK)
"""Purposes of flows whose answers are counted."""
NO_BIN = "no rule finds a bin, so the worker has to choose one."


class _Run:
    """Somebody of every crew, with one order, who answers all that is asked."""

    def __init__(self, world: World, order: Order) -> None:
        self.world = world
        self.order = order
        self.crews = tuple(CrewId(c.id) for c in world.rulebook.crews)
        self.cost = Cost()
        self.device = WITH
        self.apart = False
        """Is each line finished on a plate of its own?"""
        self.by_piece = self.next_confirms = False
        """What the flow that receives says of pieces, and of the scan of the next item."""
        self.lots = 0
        self.says = ""
        if not world.state.is_confirmed(order.number):
            self._does(ConfirmOrder(order.number))
            self.world.settle(world.state.clock + timedelta(hours=1))
        if order.kind is OrderKind.TRANSFER and not order.shipped:
            self._does(ShipTransfer(order.number))
        self._does(UnloadInOffice(order.number, count=1, why="supposed"))  # refused where its plan unloads nothing

    def _does(self, act: Act) -> bool:
        stamp = replace(self.world.stamp(f"n{len(self.world.log)}", WHO), device=self.device, crews=self.crews)
        entry = self.world.run(Command(stamp, act))
        self.says = entry.says
        return isinstance(entry.outcome, Done)

    def _asked(self) -> Question | None:
        dialogue = open_dialogue(self.world.state, self.device)
        return question_of(self.world, dialogue, self.crews) if dialogue else None

    def _scan(self, question: Question, text: str, *, typed: bool = False) -> bool:
        """Answer by a scan, or by keys with a tap to send them."""
        done = self._does(Answer(question.dialogue, Scan(text, How.TYPED if typed else How.SCANNED)))
        if done:
            self.cost = self.cost.with_(taps=1, keys=len(text)) if typed else self.cost.with_(scans=1)
        return done

    def _press(self, question: Question, action: str) -> bool:
        done = self._does(Press(question.dialogue, action))
        if done:
            self.cost = self.cost.with_(taps=1)
        return done

    def _stopped(self, question: Question | None = None) -> Cost:
        return evolve(
            self.cost, stopped=self.says if question is None else f"it asks “{question.title}”, and: {self.says}"
        )

    def receive(self, flow: Flow) -> Cost:
        """All lines, then finished."""
        self.cost = Cost()
        self.by_piece = any(p.pieces for p in flow.prompts)
        self.next_confirms = self.world.rulebook.next_item_confirms(flow, self.world.state.settings.site)

        def ended(question: Question) -> bool:
            """All of it is received and finished."""
            done = self._next() is None and not question.so_far and not list(self.world.state.building())
            return done and question.asks in ("item", "order", "plate")

        return self._to_the_end(flow, ended, self._answer)

    def _to_the_end(self, flow: Flow, ended: Callable[[Question], bool], answer: Callable[[Question], bool]) -> Cost:
        """A flow is opened, and what it asks is answered until it has ended."""
        if not self._does(OpenFlow(flow.id)):
            return self._stopped()
        for _ in range(MOST):
            question = self._asked()
            if question is None or ended(question):
                return self.cost
            if not answer(question):
                return self._stopped(question)
        return evolve(self.cost, stopped=f"after {MOST:,} answers it still asks")

    def _answer(self, question: Question) -> bool:
        offered = {b.action for b in question.buttons}
        match question.asks:
            case Asks.ORDER:
                return self._scan(question, self.order.number)
            case Asks.PLATE:
                if "new_plate" in offered:
                    return self._press(question, "new_plate")
                return self._scan(question, self.world.state.number("plate")[0])
            case Asks.ITEM:
                line = self._next()
                if line is None or (self.apart and question.so_far):
                    return self._press(question, "finish")
                return self._item(question, line)
            case Asks.EXPIRY:
                day = self.world.state.clock.date() + timedelta(days=400)
                return self._typed(question, f"{day:%y%m%d}")
            case Asks.LOT:
                self.lots += 1
                return self._typed(question, f"N{self.lots:05}")
            case Asks.SERIAL:
                self.lots += 1
                return self._scan(question, f"N-{self.lots:06}")
            case Asks.UNIT:
                return self._typed(question, question.picks[0].value)
            case Asks.QUANTITY if question.must_scan and self._next() is not None:
                return self._piece(question)
            case Asks.QUANTITY:
                after = None if self.apart else self._next(but=self._answers()[ITEM])
                code = self._code(after) if after else None
                if question.proposal and code and self.next_confirms and self._scan(question, code):
                    return True
                return self._press(question, "confirm") if "confirm" in offered else self._typed(question, self._much())
            case Asks.BIN if question.expect:
                return self._scan(question, question.expect)
            case Asks.BIN:
                self.says = NO_BIN
                return False
            case _:
                self.says = "that is not asked while receiving."
                return False

    def _piece(self, question: Question) -> bool:
        """The next piece of what is scanned one by one, by the barcode of the smallest unit."""
        item, ground = self._answers().known(ITEM), self.world.state.ground
        codes = ground.barcodes_of.get(item, ())
        smallest = min(codes, key=lambda b: ground.items[item].unit(b.unit).quantity, default=None)
        return self._scan(question, smallest.code if smallest else item)

    def _answers(self) -> Answers:
        """What the flow that is open was told so far."""
        dialogue = open_dialogue(self.world.state, self.device)
        return dialogue.answers if dialogue else Answers()

    def _typed(self, question: Question, text: str) -> bool:
        return self._scan(question, text, typed=not question.must_scan)

    def _item(self, question: Question, line: OrderLine) -> bool:
        code = self._code(line)
        return self._scan(question, code) if code else self._typed(question, line.item)

    def _next(self, but: ItemCode | None = None) -> OrderLine | None:
        """The next line of which something is open, of another item than ``but``."""
        lines = (x for x in self.order.lines if x.item != but)
        return next((x for x in lines if self.world.state.open_quantity(self.order, x) > 0), None)

    def _code(self, line: OrderLine) -> str | None:
        """The barcode of the largest unit of which a whole number is open, or of the smallest where pieces are scanned."""
        still = self.world.state.open_quantity(self.order, line)
        return self._barcode(line.item, lambda quantity: quantity <= still)

    def _barcode(self, code: ItemCode, suits: Callable[[int], bool]) -> str | None:
        """The barcode of the largest unit that suits, or of the smallest where pieces are scanned."""
        item, codes = self.world.state.ground.items[code], self.world.state.ground.barcodes_of.get(code, ())
        sized = sorted(codes, key=lambda b: item.unit(b.unit).quantity * (1 if self.by_piece else -1))
        return next((b.code for b in sized if suits(item.unit(b.unit).quantity)), None)

    def _much(self) -> str:
        """How many of what is asked are open, where nothing is proposed."""
        answers = self._answers()
        item = self.world.state.ground.items[answers.known(ITEM)]
        still = sum(self.world.state.open_quantity(self.order, x) for x in self.order.lines if x.item == item.code)
        return str(max(1, still // item.unit(answers.known(UNIT)).quantity))

    def put_away(self, flow: Flow) -> Cost:
        """All that was received, each task to its bin, with another handset."""
        self.cost, self.device = Cost(), DeviceId("count 2")
        return self._to_the_end(flow, lambda q: q.asks == Asks.TASK and not self._waits(), self._put_answer)

    def _put_answer(self, question: Question) -> bool:
        code = self._waits() if question.asks == Asks.TASK else question.expect
        if not code:
            self.says = NO_BIN
        return bool(code) and self._scan(question, code)

    def pick(self, flow: Flow) -> Cost:
        """All that is kept for the order, task by task; it is released as far as it is on hand, in a wave of its own."""
        done = self._does(ReleaseOrders((self.order.number,), True))
        if done and self.world.state.releases[self.order.number].waits:
            done = self._does(MakeWave(None, (self.order.number,)))
        if not done:
            return evolve(Cost(), stopped=f"before anything is picked: {self.says}")
        self.by_piece = any(p.pieces for p in flow.prompts)
        self.cost, self.device = Cost(), DeviceId("count 2")
        return self._to_the_end(flow, lambda q: q.asks == Asks.PICKED and not self._to_pick(), self._pick_answer)

    def _to_pick(self) -> str:
        """The next task of the order that nobody has done."""
        tasks = self.world.state.tasks.values()
        return next((t.number for t in tasks if self.order.number in t.plan.orders and not t.state.ended), "")

    def _pick_answer(self, question: Question) -> bool:
        offered = {b.action for b in question.buttons}
        match question.asks:
            case Asks.PICKED:
                return self._scan(question, self._to_pick())
            case Asks.TOTE:
                self.lots += 1
                number, ahead = self.world.state.number("plate")[0], 900_000 + self.lots
                return self._scan(question, f"{number.rstrip('0123456789')}{ahead}")
            case Asks.PICK_ITEM:
                return self._picked_item(question)
            case Asks.PICK_LOT:
                return self._typed(question, self._fetched().lot)
            case Asks.UNIT:
                return self._typed(question, question.picks[0].value)
            case Asks.PICK_COUNT if question.must_scan:
                return self._picked_item(question)
            case Asks.PICK_COUNT if "confirm" in offered:
                return self._press(question, "confirm")
            case Asks.PICK_COUNT:
                return self._typed(question, str(self._fetched().quantity))
            case Asks.PIECES:
                among = self._among()
                return bool(among) and self._scan(question, among)
            case _ if question.expect:
                return self._scan(question, question.expect)
            case _:
                self.says = NO_BIN
                return False

    def _fetched(self) -> Goods:
        """What is fetched at the stop that is asked about."""
        move = next_take(self.world.state.tasks[self._answers().known(TASK)])
        assert move is not None
        return move.goods[0]

    def _picked_item(self, question: Question) -> bool:
        """The barcode of the largest unit of which a whole number is wanted, of the smallest where pieces are scanned."""
        goods = self._fetched()
        code = self._barcode(goods.item, lambda quantity: goods.quantity % quantity == 0)
        return self._scan(question, code) if code else self._typed(question, goods.item)

    def _among(self) -> str:
        """A piece that may be named now."""
        dialogue = open_dialogue(self.world.state, self.device)
        if dialogue is None:
            return ""
        flow = self.world.rulebook.flow(dialogue.flow)
        assert flow is not None
        stamp = replace(self.world.stamp("", WHO), device=self.device, crews=self.crews)
        ctx = context(self.world.state, self.world.rulebook, stamp, flow)
        wanted = MACHINE.flows[FlowPurpose.PICK].pieces(ctx, dialogue.answers)
        said = dialogue.answers[SERIALS]
        return next((n for n in wanted.among if n not in said), "") if wanted else ""

    def _waits(self) -> str:
        """What is scanned to take the next task; empty when nothing is left."""
        state = self.world.state
        for task in state.tasks.values():
            plates = [m.plate for m in task.going.remaining if m.do is Do.TAKE and m.plate and not m.goods]
            return plates[0] if plates else task.number
        rest = next(iter(state.rests.values()), None)
        return (rest.plate or rest.goods[0].item) if rest else ""


def given_up(before: Flow | None, after: Flow) -> list[str]:
    """The proofs a flow asked for and asks for no more, in sentences; none of a flow that is new."""
    return list(_given_up(before, after)) if before else []


def _given_up(before: Flow, after: Flow) -> Iterator[str]:
    now = {p.asks: p for p in after.prompts}
    for prompt in before.prompts:
        still = now.get(prompt.asks)
        what = prompt.asks.says
        if still is None:
            yield f"{what} is asked no more."
        elif prompt.check is Check.SCAN and still.check is not Check.SCAN:
            yield f"{what} was scanned, and may be typed or tapped now."
        elif still.skip_single and not prompt.skip_single:
            yield f"{what} is passed over when there is only one: nobody looks whether it is that one."
        elif still.fixed and still.fixed != prompt.fixed:
            yield f"{what} is taken to be {still.fixed}: nobody looks whether it is."
        elif prompt.each is Each.LINE and still.each is Each.ONCE and MACHINE.prompts[still.asks].repeats:
            yield f"{what} of the line before is taken: nobody looks whether it is that of the next."
        elif prompt.pieces > still.pieces:
            yield f"{what} was scanned piece by piece for {prompt.pieces} of a line, now for {still.pieces}."
