"""Turn what was done in a world into a rehearsal: literal codes become references where that is possible."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, fields, replace
from typing import TypeVar, cast, get_args

from mindful_crate.core.catalog.ids import BinCode, OrderNo, SiteCode
from mindful_crate.core.proving import script as sc
from mindful_crate.core.proving.rehearse import DATES, asked, open_dialogue, question_of
from mindful_crate.core.scanning.reading import COUNT, GTIN, LOT, OUR_ORDER, Scan, gs1_day
from mindful_crate.core.work.rows import Made, Row, by_kind
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.fold import apply
from mindful_crate.core.world.words import made_in
from mindful_crate.core.world.world import World

A = TypeVar("A")


@dataclass(frozen=True)
class Played:
    """What was done on one floor. ``fresh`` is a world of the same ground, settings and rulebook in which it is folded again; ``expect`` are the
    pins by entry; ``site`` is None where it is the rehearsal's own."""

    log: tuple[ev.Entry, ...]
    fresh: World
    expect: Mapping[int, tuple[sc.Expectation, ...]]
    site: SiteCode | None = None


Done = tuple[int, ev.Entry]
"""An entry, with which of several floors it was made on."""


def in_order(logs: Sequence[tuple[ev.Entry, ...]]) -> list[Done]:
    """What was done on several floors in the order of time, the first of them first."""
    every = [(n, entry) for n, log in enumerate(logs) for entry in log]
    return every if len(logs) == 1 else sorted(every, key=lambda x: (x[1].command.stamp.at, x[0], x[1].seq))


def step_ids(logs: Sequence[tuple[ev.Entry, ...]], known: frozenset[str] = frozenset()) -> list[dict[int, str]]:
    """The ids of the steps recorded from the entries of each log: that of the step one replays, if it is one of ``known`` (its command has that
    id), else one after its place among all that nothing else has."""
    taken = set(known)
    open_ = set(known)
    found: list[dict[int, str]] = [{} for _ in logs]
    for place, (of, entry) in enumerate(in_order(logs), start=1):
        command = entry.command.stamp.id
        if command in open_:
            open_.remove(command)
            found[of][entry.seq] = command
            continue
        n = place
        while f"s{n}" in taken:
            n += 1
        found[of][entry.seq] = f"s{n}"
        taken.add(f"s{n}")
    return found


def _answered(step: sc.ScriptStep, says: str, world: World) -> sc.ScriptStep:
    return replace(step, answered=says, asked=asked(world, step.by, step.crews, step.device))


class Recorder:
    """Turns entries into steps, one after the other."""

    def __init__(
        self, world: World, ids: dict[int, str], before: Mapping[str, sc.ScriptStep], site: SiteCode | None, alone: bool
    ) -> None:
        self.world = world
        self.before = before
        self.ids = ids
        self.site, self.alone = site, alone
        self.made: dict[Made, dict[str, str]] = {what: {} for what in get_args(Made)}
        """Of all that steps made, by number: the step that made it."""

    def note(self, entry: ev.Entry) -> None:
        """What an entry made, for later steps that refer to it."""
        for what, made in self.made.items():
            number = made_in(entry, what)
            if number:
                made.setdefault(number, self.ids[entry.seq])

    def step(self, entry: ev.Entry) -> sc.ScriptStep | None:
        """The step that an entry is recorded as; None for what a rehearsal does by itself."""
        stamp = entry.command.stamp
        if known := self.before.get(self.ids[entry.seq]):
            return known
        if isinstance(entry.command.act, acts.PassOn) and not self.alone:
            return None  # what one site sends, the rehearsal passes on to the other by itself
        do = self._doing(entry.command.act, stamp)
        if do is None:
            return None
        return sc.ScriptStep(
            self.ids[entry.seq], do, stamp.who, stamp.device, stamp.crews, lost=stamp.lost, site=self.site
        )

    def pinned(self, expectation: sc.Expectation) -> sc.Expectation:
        """An expectation as a script has it: a plate that a step made is that step's plate."""
        if isinstance(expectation, sc.ExpectStock) and isinstance(expectation.plate, sc.Literally):
            return replace(expectation, plate=self.plate(expectation.plate.text))
        if isinstance(expectation, sc.ExpectLabels) and isinstance(expectation.code, sc.Literally):
            return replace(expectation, code=self.plate(expectation.code.text))
        return expectation

    def _doing(self, act: acts.Act, stamp: acts.Stamp) -> sc.Doing | None:
        by = RECORDED.get(type(act))
        if by:
            return by(self, act, stamp)
        return self.office(act) if isinstance(act, acts.OfficeAct) else None

    def office(self, act: acts.OfficeAct) -> sc.DoOffice:
        """Any act of the office: as it was, but what earlier steps made is named by them."""
        found = []
        for each in fields(act):
            what, number = sc.named_by(act, each.name), getattr(act, each.name)
            if what and number in self.made[what]:
                found.append((each.name, self.made[what][number]))
        return sc.DoOffice(act, tuple(found))

    def booked(self, act: acts.BookReceipt, _: acts.Stamp) -> sc.DoBook:
        """A receipt is booked by its plate."""
        known = self.world.state.receipts.get(act.receipt)
        return sc.DoBook(self.plate(known.plate) if known else sc.Literally(act.receipt))

    def plate(self, plate: str) -> sc.Ref:
        """A plate as a script names it."""
        made = self.made["plate"]
        return sc.PlateOf(made[plate]) if plate in made else sc.Literally(plate)

    def ref(self, scan: Scan, stamp: acts.Stamp) -> sc.Ref:
        """A scan as a script names it."""
        ground, text = self.world.state.ground, scan.text.strip()
        dialogue = open_dialogue(self.world.state, stamp.device)
        question = question_of(self.world, dialogue, stamp.crews) if dialogue else None
        if question and question.expect and text.upper() == question.expect:
            return sc.Shown()
        if text.upper() in self.made["plate"]:
            return sc.PlateOf(self.made["plate"][text.upper()])
        values = dict(scan.elements)
        code = ground.barcodes.get(values.get(GTIN, text).lstrip("0") if values else text)
        if OUR_ORDER in values:
            return sc.Literally(text)  # a supplier's label means just that order
        if code and values:
            expiry = next((values[ai] for ai in DATES if ai in values), None)
            count = values.get(COUNT)
            return sc.TheItem(
                code.item, code.unit, values.get(LOT, ""), gs1_day(expiry, stamp.today) if expiry else None,
                int(count) if count else None,
            )  # fmt: skip
        if code:
            return sc.TheItem(code.item, code.unit)
        if self.world.state.order(OrderNo(text.upper())):
            return sc.TheOrder(OrderNo(text.upper()))
        if text.upper() in ground.bins:
            return sc.TheBin(BinCode(text.upper()))
        return sc.Literally(text)


Recording = Callable[[Recorder, A, acts.Stamp], sc.Doing]


def recorded(kind: type[A], by: Recording[A]) -> Row[Recording[object]]:
    """How an act by hand is written into a script."""
    return Row(kind, cast(Recording[object], by))


def _in_host(_: Recorder, act: acts.HostAct, __: acts.Stamp) -> sc.Doing:
    return sc.DoHost(act)


RECORDED = by_kind(
    (
        recorded(acts.ConfirmOrder, lambda _, act, __: sc.DoConfirm(act.order)),
        *(recorded(kind, _in_host) for kind in get_args(acts.HostAct)),
        recorded(acts.OpenFlow, lambda _, act, __: sc.DoOpen(act.flow)),
        recorded(acts.Answer, lambda r, act, stamp: sc.DoScan(r.ref(act.scan, stamp), act.scan.how)),
        recorded(acts.Press, lambda _, act, __: sc.DoPress(act.action, act.line, act.count)),
        recorded(acts.StepBack, lambda _, __, ___: sc.DoPress("back")),
        recorded(acts.LeaveFlow, lambda _, __, ___: sc.DoPress("leave")),
        recorded(acts.FinishPlate, lambda r, act, _: sc.DoFinish(r.plate(act.plate))),
        recorded(acts.BookReceipt, Recorder.booked),
        recorded(acts.BlockBin, lambda _, act, __: sc.DoBlock(sc.TheBin(act.bin), act.reason)),
        recorded(acts.ReserveStock, lambda _, act, __: sc.DoReserve(act.holder, act.item, act.quantity)),
        recorded(acts.LetGo, lambda r, act, _: sc.DoLetGo(r.made["reservation"].get(act.reservation, act.reservation))),
        recorded(acts.Wait, lambda _, act, __: sc.DoWait(act.seconds)),
    )
)
"""How acts by hand are recorded that have a step of their own; other acts of the office are recorded as they are. What
host and flows do by themselves is not."""


def record(
    head: sc.Rehearsal,
    log: tuple[ev.Entry, ...],
    fresh: World,
    expect: Mapping[int, tuple[sc.Expectation, ...]],
    at_end: tuple[sc.Expectation, ...],
    before: tuple[sc.ScriptStep, ...] = (),
    *,
    whole: bool = True,
    beside: Sequence[Played] = (),
) -> sc.Rehearsal:
    """A rehearsal under the name, site and opening of ``head`` with the steps of a log, and of those of other sites ``beside`` it. Each log is
    folded in a fresh world, so that each scan is seen against the question it answered. ``expect`` are the pins by entry. ``before`` are the
    steps of the script that was opened: an entry that replays one of them stays that step, word for word; all of them are replayed
    (``whole``), or those up to a point from which one went on otherwise. A step that could not be tried left nothing in the log; it stays
    where it was."""
    played = (Played(log, fresh, expect), *beside)
    logs, known = [p.log for p in played], {s.id: s for s in before}
    ids = step_ids(logs, frozenset(known))
    recorders = [Recorder(p.fresh, i, known, p.site, not beside) for p, i in zip(played, ids, strict=True)]
    steps: list[sc.ScriptStep] = []
    last: list[int | None] = [None for _ in played]
    for of, entry in in_order(logs):
        recorder, world = recorders[of], played[of].fresh
        step = recorder.step(entry)
        apply(world.state, entry)
        world.log.append(entry)
        recorder.note(entry)
        if step is None:
            if (at := last[of]) is not None:
                steps[at] = _answered(steps[at], steps[at].answered, world)
            continue
        pinned = tuple(recorder.pinned(e) for e in played[of].expect.get(entry.seq, ()))
        step = replace(
            step,
            expect=pinned,
            shows=step.shows if pinned else (),  # without a pin it shows nothing any more
            was="done" if isinstance(entry.outcome, ev.Done) else "refused",
        )
        last[of] = len(steps)
        steps.append(_answered(step, entry.says, world))
    every = _with_untried(tuple(steps), before, whole)
    return replace(head, steps=every, at_end=tuple(recorders[0].pinned(e) for e in at_end))


def _with_untried(
    steps: tuple[sc.ScriptStep, ...], before: tuple[sc.ScriptStep, ...], whole: bool
) -> tuple[sc.ScriptStep, ...]:
    there = {s.id for s in steps}
    last = max((n for n, s in enumerate(before) if s.id in there), default=-1)
    found = list(steps)
    for n, step in enumerate(before):
        if step.id not in there and (whole or n < last):
            ids = [s.id for s in found]
            at = ids.index(before[n - 1].id) + 1 if n and before[n - 1].id in ids else 0
            found.insert(at, step)
    return tuple(found)
