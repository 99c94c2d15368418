"""Run a rehearsal in a world of its own and say what came of it, step by step.

Every step runs, whatever became of those before it. A step fails when one of its expectations fails, when it was
carried out once and is refused now, or when it was refused once, expects nothing, and is carried out now. It *differs*
when the answer or the next question reads otherwise than when it was recorded.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from datetime import datetime
from typing import Any, Literal

from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import (
    BinCode,
    CountNo,
    ItemCode,
    PersonId,
    PlateNo,
    ReceiptNo,
    ReservationNo,
    ShipmentNo,
    SiteCode,
    WaveNo,
)
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.floor.plates import in_bin, on_plate
from mindful_crate.core.floor.state import Settings, State
from mindful_crate.core.floor.waves import state_of
from mindful_crate.core.plain import digest
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving import script as sc
from mindful_crate.core.proving.coverage import tried
from mindful_crate.core.proving.release_list import STANDS_TOLD, release_list
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.words.parts import all_of, counted
from mindful_crate.core.scanning.dialogue import ask
from mindful_crate.core.scanning.question import Question
from mindful_crate.core.scanning.reading import BEST_BEFORE, COUNT, EXPIRY, GTIN, LOT, Scan
from mindful_crate.core.work.handset.decide import context
from mindful_crate.core.work.host.passing import passed_on
from mindful_crate.core.work.leaving.looking import standing
from mindful_crate.core.work.numbered import spot_told
from mindful_crate.core.work.rows import Made
from mindful_crate.core.work.waving.words import STATES as WAVE_STATES
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.words import made_in
from mindful_crate.core.world.world import HOST, Today, World, later, stamped

ENGINE = "4"
"""Version of the rules of the job; a result made by another engine no longer speaks for today's."""

Split = Callable[[str], tuple[tuple[str, str], ...]]
"""Splits a GS1 element string into (application identifier, value); empty if it is none. The edge knows how."""


@record
class Checked:
    """One expectation: did it hold, and what was found."""

    expectation: sc.Expectation
    holds: bool
    found: str


@record
class StepResult:
    """What became of one step. ``seq`` is its entry in the log; None when it could not be tried."""

    id: str
    outcome: Literal["done", "refused", "untried"]
    says: str
    asks: str
    checks: tuple[Checked, ...] = ()
    fails: bool = False
    differs: bool = False
    was_says: str = ""
    was_asks: str = ""
    seq: int | None = None


@record
class Result:
    """What became of a rehearsal, and what it speaks for."""

    rehearsal: str
    passed: bool
    steps: tuple[StepResult, ...]
    at_end: tuple[Checked, ...]
    first_difference: str | None
    rulebook: str
    opening: str
    engine: str = ENGINE
    tried: tuple[str, ...] = ()
    """The places of the rulebook that the run has tried, and kinds of orders, goods, tasks; at its own site."""

    @property
    def checked(self) -> int:
        """How many expectations were looked at; with none, that it passed says little."""
        return sum(len(s.checks) for s in self.steps) + len(self.at_end)


def settings_of(rehearsal: sc.Rehearsal) -> Settings:
    """The world a rehearsal runs in."""
    return Settings(rehearsal.site, rehearsal.starts, host=rehearsal.host)


def check_script(rehearsal: sc.Rehearsal, ground: Ground) -> None:
    """Refuse a script that cannot be run on a ground at all."""
    for site in rehearsal.sites:
        if site not in ground.sites:
            known = ", ".join(ground.sites)
            raise Refusal("unknown_site", f"{rehearsal.id} is for site {site}; there are {known}.", "site")


@record
class Beside:
    """What another site of a rehearsal goes by: its rules and its calendar."""

    rulebook: Rulebook
    today: Today


ALONE: Mapping[SiteCode, Beside] = {}


def run(
    rehearsal: sc.Rehearsal, ground: Ground, rulebook: Rulebook, today: Today, split: Split, beside: Mapping[SiteCode, Beside] = ALONE
) -> tuple[Result, World]:  # fmt: skip
    """Run every step; the world is handed back for a look at its log. ``beside``: the other sites of the rehearsal."""
    result, worlds = run_all(rehearsal, ground, rulebook, today, split, beside)
    return result, worlds[rehearsal.site]


def run_all(
    rehearsal: sc.Rehearsal, ground: Ground, rulebook: Rulebook, today: Today, split: Split, beside: Mapping[SiteCode, Beside] = ALONE
) -> tuple[Result, dict[SiteCode, World]]:  # fmt: skip
    """The same, with the worlds of all its sites; those of which no rules are known are left out, and their steps are not tried. All have one
    clock: a step is no earlier than what was done on any of the floors before it."""
    settings, rules = settings_of(rehearsal), {rehearsal.site: Beside(rulebook, today), **beside}
    worlds = {
        s: World(ground, replace(settings, site=s), rules[s].rulebook, rules[s].today)
        for s in rehearsal.sites
        if s in rules
    }
    entries: dict[str, ev.Entry] = {}
    runs = {s: _Run(world, split, entries) for s, world in worlds.items()}
    steps = []
    for step in rehearsal.steps:
        mine = runs.get(step.site or rehearsal.site)
        if mine is None:
            says = f"No rules are in force at {ground.sites[step.site].name if step.site else ''}: its floor cannot be played."
            steps.append(
                StepResult(
                    step.id, "untried", says, "", fails=True, differs=True, was_says=step.answered, was_asks=step.asked
                )
            )
            continue
        meet(worlds, step.site or rehearsal.site)
        steps.append(mine.step(step))
        pass_on(mine.world, worlds)
    meet(worlds, rehearsal.site)
    at_end = tuple(runs[rehearsal.site].check(e, None) for e in rehearsal.at_end)
    passed = not any(s.fails for s in steps) and all(c.holds for c in at_end)
    first = next((s.id for s in steps if s.differs or s.fails), None)
    places = tuple(sorted(tried(worlds[rehearsal.site])))
    return Result(
        rehearsal.id, passed, tuple(steps), at_end, first, digest(rulebook), ground.hash, tried=places
    ), worlds


def meet(worlds: Mapping[SiteCode, World], site: SiteCode) -> None:
    """Let what comes next at a site be later than anything that was done at another by then: the hosts of the others have answered, and what
    one has sent was passed on to the other."""
    mine, others = worlds[site], [w for s, w in worlds.items() if s != site]
    if not others:
        return
    at = _after(mine, others)
    for world in others:
        world.settle(at)
    for world in (*others, mine):
        pass_on(world, worlds)
    mine.begins_at(_after(mine, others))


def pass_on(world: World, worlds: Mapping[SiteCode, World]) -> None:
    """Let other sites hear what has left a floor for them."""
    for each in passed_on(world.state) if len(worlds) > 1 else ():
        other = worlds.get(each.to)
        if other is not None and not other.knows(each.id):
            at = _after(other, [w for w in worlds.values() if w is not other])
            other.run(acts.Command(stamped(other.state, each.id, at, other.today, HOST), each.act))


def _after(mine: World, others: Sequence[World]) -> datetime:
    return max([mine.stamp("", HOST).at, *(later(w.state.clock) for w in others if w.log)])


class _Run:
    """What a run remembers between steps: the entries of each step, to which later ones refer."""

    def __init__(self, world: World, split: Split, entries: dict[str, ev.Entry]) -> None:
        self.world = world
        self.split = split
        self.entries = entries
        self.device: Any = None

    @property
    def state(self) -> State:
        return self.world.state

    def step(self, step: sc.ScriptStep) -> StepResult:
        self.device = step.device
        stamp = replace(self.world.stamp(step.id, step.by), device=step.device, crews=step.crews, lost=step.lost)
        try:
            act = self._act(step)
        except Refusal as refusal:
            says = refusal.problem.says
            return StepResult(
                step.id, "untried", says, "", fails=True, differs=True, was_says=step.answered, was_asks=step.asked
            )
        entry = self.world.run(acts.Command(stamp, act))
        if step.lost == "after" and self._again(step, act) is not entry:
            says = "Its answer was lost, and sent again it was done once more."
            return StepResult(step.id, "refused", says, "", fails=True, differs=True)
        self.entries[step.id] = entry
        outcome: Literal["done", "refused"] = "done" if isinstance(entry.outcome, ev.Done) else "refused"
        asks = asked(self.world, step.by, step.crews, step.device)
        checks = tuple(self.check(e, entry) for e in step.expect)
        expected_refusal = step.was == "refused" or any(isinstance(e, sc.ExpectRefused) for e in step.expect)
        fails = not all(c.holds for c in checks) or (outcome == "refused" and not expected_refusal)
        fails = fails or (outcome == "done" and step.was == "refused" and not step.expect)
        differs = bool(step.answered and (entry.says, asks) != (step.answered, step.asked))
        return StepResult(
            step.id, outcome, entry.says, asks, checks, fails, differs, step.answered, step.asked, entry.seq
        )

    def _again(self, step: sc.ScriptStep, act: acts.Act) -> ev.Entry:
        """What comes of it when the handset, without its answer, sends it again."""
        return self.world.run(acts.Command(self.world.stamp(step.id, step.by), act))

    def _act(self, step: sc.ScriptStep) -> acts.Act:
        do = step.do
        if isinstance(do, sc.DoConfirm):
            return acts.ConfirmOrder(do.order)
        if isinstance(do, sc.DoHost | sc.DoTask):
            return do.act
        if isinstance(do, sc.DoOffice):
            return sc.meaning(do.act, {name: self._made(do.act, name, of) for name, of in do.made})
        if isinstance(do, sc.DoOpen):
            return acts.OpenFlow(do.flow)
        if isinstance(do, sc.DoWait):
            return acts.Wait(do.seconds)
        if isinstance(do, sc.DoFinish):
            return acts.FinishPlate(PlateNo(self.text(do.plate)))
        if isinstance(do, sc.DoBook):
            return acts.BookReceipt(self._receipt(do.plate))
        if isinstance(do, sc.DoReserve):
            return acts.ReserveStock(do.holder, do.item, do.quantity)
        if isinstance(do, sc.DoLetGo):
            return acts.LetGo(self._reservation(do.step))
        if isinstance(do, sc.DoBlock):
            return acts.BlockBin(BinCode(self.text(do.bin)), do.reason)
        dialogue = self._dialogue(step)
        if isinstance(do, sc.DoScan):
            return acts.Answer(dialogue.number, self.scan(do))
        if do.action == "back":
            return acts.StepBack(dialogue.number)
        if do.action == "leave":
            return acts.LeaveFlow(dialogue.number)
        return acts.Press(dialogue.number, do.action, line=do.line, count=do.count)

    def _receipt(self, of: sc.Ref) -> ReceiptNo:
        """The receipt of a plate; a text that is no plate is taken for a receipt's own number, so that one nobody knows
        is refused as it was."""
        number = self.text(of)
        plate = self.state.plate(PlateNo(number))
        if plate is None:
            return ReceiptNo(number)
        if plate.receipt is None:
            raise Refusal("no_receipt", "That plate has no receipt: it was not finished.")
        return plate.receipt

    def _reservation(self, step: str) -> ReservationNo:
        """The reservation an earlier step made; a text that is no step is a reservation's own number."""
        return ReservationNo(self._of_step(step, "reservation") if step in self.entries else step)

    def _made(self, act: acts.OfficeAct, name: str, step: str) -> str:
        """What a step made that this field of an act means."""
        what = sc.named_by(act, name)
        if what is None:
            raise Refusal("nothing_to_refer_to", f"No step makes what `{name}` of this step means. Write it out.")
        return self._of_step(step, what)

    def _of_step(self, step: str, what: Made) -> str:
        if step not in self.entries:
            raise Refusal("nothing_to_refer_to", f"There is no step `{step}` before this one.")
        number = made_in(self.entries[step], what)
        if number is None:
            raise Refusal("nothing_to_refer_to", f"Step {step} made no {what} that this one could mean.")
        return number

    def _dialogue(self, step: sc.ScriptStep) -> Dialogue:
        found = open_dialogue(self.state, step.device) or last_dialogue(self.state, step.device)
        if found is None:
            where = f"handset `{step.device}`" if step.device else "any handset: the step names none"
            raise Refusal("no_dialogue", f"No flow is open on {where}.")
        return found

    def scan(self, do: sc.DoScan) -> Scan:
        if isinstance(do.code, sc.TheItem) and (do.code.lot or do.code.expiry or do.code.count):
            elements = gs1_elements(self.state.ground, do.code)
            return Scan("".join(f"({ai}){value}" for ai, value in elements), do.how, elements)
        text = self.text(do.code)
        return Scan(text, do.how, self.split(text))

    def text(self, ref: sc.Ref) -> str:
        """The code a reference stands for now."""
        if isinstance(ref, sc.Literally):
            return ref.text
        if isinstance(ref, sc.TheOrder):
            return ref.order
        if isinstance(ref, sc.TheBin):
            return ref.bin
        if isinstance(ref, sc.TheItem):
            return barcode_of(self.state.ground, ref.item, ref.unit)
        if isinstance(ref, sc.Shown):
            return self._shown()
        entry = self.entries.get(ref.step)
        found = made_in(entry, "plate" if isinstance(ref, sc.PlateOf) else "bin") if entry else None
        if found is None:
            what = "made no plate" if isinstance(ref, sc.PlateOf) else "chose no bin"
            raise Refusal("nothing_to_refer_to", f"Step {ref.step} {what}, so there is nothing to refer to.")
        return found

    def _shown(self) -> str:
        dialogue = open_dialogue(self.state, self.device)
        question = dialogue and question_of(self.world, dialogue)
        if not question or not question.expect:
            shows = f"Handset `{self.device}` shows no code" if self.device else "There is no handset that shows a code"
            raise Refusal("nothing_shown", f"{shows} that could be scanned.")
        return question.expect

    def check(self, expectation: sc.Expectation, entry: ev.Entry | None) -> Checked:
        """Does an expectation hold now?"""
        try:
            holds, found = self._found(expectation, entry)
        except Refusal as refusal:
            holds, found = False, refusal.problem.says
        return Checked(expectation, holds, found)

    def _found(self, e: sc.Expectation, entry: ev.Entry | None) -> tuple[bool, str]:
        if isinstance(e, sc.ExpectRefused):
            if entry is None or isinstance(entry.outcome, ev.Done):
                return False, "carried out: " + (entry.says if entry else "")
            return entry.outcome.problem.code == e.code, f"refused, {entry.outcome.problem.code}: {entry.says}"
        if isinstance(e, sc.ExpectAsks):
            dialogue = open_dialogue(self.state, self.device)
            question = dialogue and question_of(self.world, dialogue)
            if not question:
                return False, "the handset asks nothing"
            holds = question.asks == e.asks and e.code in ("", question.expect)
            return holds, f"asks for the {question.asks}" + (f" `{question.expect}`" if question.expect else "")
        if isinstance(e, sc.ExpectStock):
            return self._stock(e)
        if isinstance(e, sc.ExpectChosen):
            return self._chosen(e, entry)
        if isinstance(e, sc.ExpectLabels):
            return self._labels(e)
        if isinstance(e, sc.ExpectGoes):
            return self._goes(e)
        if isinstance(e, sc.ExpectCover):
            return self._cover(e)
        if isinstance(e, sc.ExpectShipment):
            return self._shipment(e)
        if isinstance(e, sc.ExpectShipped):
            now = self.state.line_progress(e.order, e.line).shipped
            return now == e.shipped, f"`{LineKey(e.order, e.line)}`: {now:,} have left"
        if isinstance(e, sc.ExpectCounted):
            return self._counted(e)
        if isinstance(e, sc.ExpectWave):
            return self._wave(e)
        if isinstance(e, sc.ExpectTill):
            says = self.state.till_says.get(e.item)
            if self.state.till is None:
                return False, "there is no till"
            return (says or 0) == e.quantity, f"the till says {says or 0:,} of `{e.item}`"
        done = self.state.line_progress(e.order, e.line)
        return (done.arrived, done.booked) == (e.arrived, e.booked), f"arrived {done.arrived}, booked {done.booked}"

    def _counted(self, e: sc.ExpectCounted) -> tuple[bool, str]:
        number = CountNo(self.text(e.count))
        sheet = self.state.counts.get(number)
        if sheet is None:
            return False, f"there is no sheet `{number}`"
        now = sum(x.posted > 0 for x in sheet.lines), len(sheet.unposted), len(sheet.open_lines)
        holds = sheet.state is e.stands and all(
            w in (None, n) for w, n in zip((e.posted, e.waiting, e.left), now, strict=True)
        )
        return (
            holds,
            f"`{number}` {sc.COUNT_TOLD[sheet.state]}: {now[0]} in the books, {now[1]} counted, {now[2]} not yet",
        )

    def _stock(self, e: sc.ExpectStock) -> tuple[bool, str]:
        code = BinCode(self.text(e.bin))
        item = self.state.ground.items.get(e.item)
        if item is None:
            raise Refusal("unknown_item", f"There is no item `{e.item}`.")
        plate = PlateNo(self.text(e.plate)) if e.plate is not None else None
        if plate is not None and self.state.plate(plate) is None:
            return False, f"there is no plate `{plate}`"
        if plate is not None and (there := self.state.bin_of(plate)) != code:
            return False, f"plate `{plate}` stands in `{there}`" if there else f"plate `{plate}` stands in no bin"
        quantity = stock_in(self.state, code, e.item, e.lot, plate=plate, loose=e.loose, status=e.status)
        where = f"`{plate}` in `{code}`" if plate else f"`{code}`"
        found = f"{where} holds {item.told(quantity)}"
        for serial in e.serials if quantity == e.quantity else ():
            lies = self.state.serials.where(item.code, serial)
            at = spot_told(lies.spot) if lies and lies.spot else "nowhere here"
            spots = (in_bin(code), *(on_plate(p.number) for p in self.state.standing(code)))
            if lies is None or lies.spot not in spots or (e.status and lies.goods.status is not e.status):
                return False, f"`{serial}` is {at}" + (f", {lies.goods.status.value}" if lies and lies.spot else "")
        return quantity == e.quantity, found

    def _labels(self, e: sc.ExpectLabels) -> tuple[bool, str]:
        code, now = self.text(e.code), self.state.clock
        found: dict[tuple[str, bool], int] = {}
        for each in self.state.prints.values():
            count = each.copies * sum(label.code == code for label in each.labels)
            if count:
                key = (each.printer or "", not each.printed(now))
                found[key] = found.get(key, 0) + count
        of = sum(n for (printer, waits), n in found.items() if waits == e.waiting and e.printer in ("", printer))
        told = [
            f"{n} {'waiting for' if waits else 'by'} `{p or 'no printer'}`" for (p, waits), n in sorted(found.items())
        ]
        return of == e.count, f"labels of `{code}`: {', '.join(told) or 'none'}"

    def _goes(self, e: sc.ExpectGoes) -> tuple[bool, str]:
        stamp = self.world.stamp("asked", PersonId("nobody"))
        found = next(
            (w for w in release_list(self.state, self.world.rulebook, stamp.now) if w.order.number == e.order), None
        )
        if found is None:
            return False, f"`{e.order}` is no open order that goes out"
        told = f"`{e.order}` {STANDS_TOLD[found.stands]}, {found.judged.rate} by {found.judged.gate or 'no gate'}"
        says = found.judged.says_most
        if says is not None and says.name != found.judged.gate:
            told += f": {says.name} {says.says}"
        by = ("", says.name if says else found.judged.gate)
        holds = found.stands == e.stands and e.rate in ("", found.judged.rate) and e.gate in by
        if e.leaves_with is None:
            return holds, told
        shipment = self.state.shipments.get(found.release.shipment) if found.release else None
        others = tuple(sorted(o for o in shipment.orders if o != e.order)) if shipment else ()
        told += f", leaves with {', '.join(f'`{o}`' for o in others) or 'no other'}"
        return holds and others == tuple(sorted(e.leaves_with)), told

    def _cover(self, e: sc.ExpectCover) -> tuple[bool, str]:
        key = LineKey(e.order, e.line)
        cover = self.state.covers.of_line(key)
        kept = self.state.reservations.of_line(key)
        now = (cover.on_hand if cover else 0, cover.coming if cover else 0, kept)
        told = f"`{key}`: {now[0]:,} on hand, {now[1]:,} on the way, {now[2]:,} kept in bins"
        return now == (e.on_hand, e.on_way, e.kept), told

    def _wave(self, e: sc.ExpectWave) -> tuple[bool, str]:
        wave = self.state.waves.get(WaveNo(self.text(e.wave)))
        if wave is None:
            return False, f"there is no wave `{self.text(e.wave)}`"
        now = state_of(wave, self.state.tasks)
        tasks = sum(not self.state.tasks[n].state.ended for n in wave.tasks)
        told = f"wave `{wave.number}` {WAVE_STATES[now]}, {counted(tasks, 'open task')}, {all_of([f'`{o}`' for o in wave.orders]) or 'no order'}"
        holds = now is e.stands and e.tasks in (None, tasks)
        return holds and (e.orders is None or sorted(e.orders) == sorted(wave.orders)), told

    def _shipment(self, e: sc.ExpectShipment) -> tuple[bool, str]:
        number = ShipmentNo(self.text(e.shipment))
        shipment = self.state.shipments.get(number)
        if shipment is None:
            return False, f"there is no shipment `{number}`"
        gone = self.state.departures.get(number)
        if gone is not None:
            stands = sc.Sent.BOOKED if gone.booked else sc.Sent.REFUSED if gone.refused else sc.Sent.LEFT
            packed, left = len([b for b in gone.bearers if b.carton]), ""
        else:
            now = standing(self.state, self.world.rulebook, number)
            stands = sc.Sent.READY if now.may_go else sc.Sent.OPEN
            packed = sum(c.closed > 0 for c in self.state.cartons.of(number))
            left = next((s.stop.value for s in now.steps if not s.whole), "")
        told = f"shipment `{number}` {sc.SENT_TOLD[stands]}, {counted(packed, 'carton')} packed" + (
            f", next: {left}" if left else ""
        )
        return stands is e.stands and e.cartons in (None, packed) and e.next in ("", left), told

    def _chosen(self, e: sc.ExpectChosen, entry: ev.Entry | None) -> tuple[bool, str]:
        trails = entry.outcome.trails if entry and isinstance(entry.outcome, ev.Done) else ()
        if not trails:
            return False, "no bin was chosen in this step"
        told, holds = [], False
        for share in [a for trail in trails for a in trail.allocations[:1]]:
            zone = self.state.ground.bins[share.bin].zone
            holds |= e.rule in ("", share.rule) and e.zone in ("", zone) and e.bin in ("", share.bin)
            told.append(f"`{share.bin}` in {self.state.ground.zones[zone].name}, by rule {share.rule}")
        return holds, "; ".join(dict.fromkeys(told)) or "no rule found a bin"


def open_dialogue(state: State, device: Any) -> Dialogue | None:
    """The dialogue that is open on a handset."""
    found = state.talking(device)
    return found if found and found.open else None


def last_dialogue(state: State, device: Any) -> Dialogue | None:
    """The dialogue opened last on a handset, open or not."""
    return state.talking(device)


def question_of(world: World, dialogue: Dialogue, crews: tuple[Any, ...] | None = None) -> Question | None:
    """What the handset of a dialogue shows now, for the crews that were given last."""
    flow = world.rulebook.flow(dialogue.flow)
    if flow is None:
        return None
    stamp = world.stamp("", dialogue.person)
    crews = crews if crews is not None else _crews_of(world, dialogue)
    return ask(
        context(world.state, world.rulebook, replace(stamp, device=dialogue.device, crews=crews), flow), dialogue
    )


def _crews_of(world: World, dialogue: Dialogue) -> tuple[Any, ...]:
    return next((e.command.stamp.crews for e in reversed(world.log) if e.command.stamp.device == dialogue.device), ())


def asked(world: World, person: Any, crews: tuple[Any, ...], device: Any) -> str:
    """The question on a handset in one line; empty when nothing is open there."""
    dialogue = open_dialogue(world.state, device) if device else None
    question = question_of(world, dialogue, crews) if dialogue else None
    if question is None:
        return ""
    return question.title + (f": {question.expect}" if question.expect else "")


def barcode_of(ground: Ground, item: ItemCode, unit: str) -> str:
    """The barcode of an item's unit; its item code if the unit has none."""
    if item not in ground.items:
        raise Refusal("unknown_item", f"There is no item `{item}`.")
    found = next((b.code for b in ground.barcodes_of.get(item, ()) if b.unit == unit), None)
    if found is None:
        raise Refusal("no_barcode", f"Item `{item}` has no barcode for unit `{unit}`.")
    return found


def gs1_elements(ground: Ground, ref: sc.TheItem) -> tuple[tuple[str, str], ...]:
    """The GS1 elements of an item's code with lot, expiry and count."""
    elements = [(GTIN, barcode_of(ground, ref.item, ref.unit).zfill(14))]
    if ref.expiry:
        elements.append((EXPIRY, ref.expiry.strftime("%y%m%d")))
    if ref.count is not None:
        elements.append((COUNT, str(ref.count)))
    if ref.lot:
        elements.append((LOT, ref.lot))
    return tuple(elements)


def stock_in(
    state: State, code: BinCode, item: ItemCode, lot: str = "", *, plate: PlateNo | None = None, loose: bool = False,
    status: Status | None = None,
) -> int:  # fmt: skip
    """How much of an item a bin holds, in base units: loose and on plates, or of these what is asked for."""
    if code not in state.ground.bins:
        raise Refusal("unknown_bin", f"There is no bin `{code}`.")
    goods = [] if plate is not None else list(state.loose(code))
    if not loose:
        plates = [p.number for p in state.standing(code)] if plate is None else [plate]
        goods += [g for number in plates for g in state.all_goods(number)]
    wanted = (g for g in goods if g.item == item and lot in ("", g.lot) and status in (None, g.status))
    return sum(g.quantity for g in wanted)


DATES = (EXPIRY, BEST_BEFORE)
"""GS1 elements read as an expiry date."""
