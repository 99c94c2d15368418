"""Turn what was done in a world into a rehearsal: literal codes become references where that is possible."""

from __future__ import annotations

from dataclasses import replace

from mindful_crate.core.catalog.ids import BinCode, OrderNo
from mindful_crate.core.proving import script as sc
from mindful_crate.core.proving.rehearse import DATES, asked, made_in, open_dialogue, question_of
from mindful_crate.core.scanning.reading import COUNT, GTIN, LOT, Scan, gs1_day
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.world import World


def step_id(seq: int) -> str:
    """The id of the step recorded from a log entry; pins name it."""
    return f"s{seq}"


def record_steps(
    log: tuple[ev.Entry, ...],
    world: World,
    expect: dict[int, tuple[sc.Expectation, ...]],
) -> tuple[sc.ScriptStep, ...]:
    """The steps of a log. ``world`` is a fresh one of the same ground, settings and rulebook: the log is folded
    in it so that each scan is seen against the question it answered. ``expect`` are the pins by entry."""
    recorder = _Recorder(world)
    steps: list[sc.ScriptStep] = []
    for entry in log:
        step = recorder.step(entry)
        world.state.apply(entry)
        world.log.append(entry)
        recorder.note(entry)
        if step is None:
            if steps:
                steps[-1] = _answered(steps[-1], steps[-1].answered, world)
            continue
        step = replace(
            step,
            expect=expect.get(entry.seq, ()),
            was="done" if isinstance(entry.outcome, ev.Done) else "refused",
        )
        steps.append(_answered(step, entry.says, world))
    return tuple(steps)


def _answered(step: sc.ScriptStep, says: str, world: World) -> sc.ScriptStep:
    return replace(step, answered=says, asked=asked(world, step.by, step.crews, step.device))


class _Recorder:
    def __init__(self, world: World) -> None:
        self.world = world
        self.plates: dict[str, str] = {}
        self.reservations: dict[str, str] = {}

    def note(self, entry: ev.Entry) -> None:
        plate = made_in(entry, "plate")
        if plate:
            self.plates.setdefault(plate, step_id(entry.seq))
        reservation = made_in(entry, "reservation")
        if reservation:
            self.reservations[reservation] = step_id(entry.seq)

    def step(self, entry: ev.Entry) -> sc.ScriptStep | None:
        stamp = entry.command.stamp
        do = self._doing(entry.command.act, stamp)
        if do is None:
            return None
        return sc.ScriptStep(step_id(entry.seq), do, stamp.who, stamp.device, stamp.crews)

    def _doing(self, act: acts.Act, stamp: acts.Stamp) -> sc.Doing | None:
        if isinstance(act, acts.ConfirmOrder):
            return sc.DoConfirm(act.order)
        if isinstance(act, acts.OpenFlow):
            return sc.DoOpen(act.flow)
        if isinstance(act, acts.Answer):
            return sc.DoScan(self._ref(act.scan, stamp), act.scan.how)
        if isinstance(act, acts.Press):
            return sc.DoPress(act.action, act.line, act.count)
        if isinstance(act, acts.StepBack):
            return sc.DoPress("back")
        if isinstance(act, acts.LeaveFlow):
            return sc.DoPress("leave")
        if isinstance(act, acts.FinishPlate):
            return sc.DoFinish(self._plate(act.plate))
        if isinstance(act, acts.BookReceipt):
            known = self.world.state.receipts.get(act.receipt)
            return sc.DoBook(self._plate(known.plate) if known else sc.Literally(act.receipt))
        if isinstance(act, acts.BlockBin):
            return sc.DoBlock(sc.TheBin(act.bin), act.reason)
        if isinstance(act, acts.ReserveStock):
            return sc.DoReserve(act.holder, act.item, act.quantity)
        if isinstance(act, acts.LetGo):
            return sc.DoLetGo(self.reservations.get(act.reservation, act.reservation))
        if isinstance(act, acts.HostAct):
            return sc.DoHost(act)
        if isinstance(act, acts.Wait):
            return sc.DoWait(act.seconds)
        return None

    def _plate(self, plate: str) -> sc.Ref:
        return sc.PlateOf(self.plates[plate]) if plate in self.plates else sc.Literally(plate)

    def _ref(self, scan: Scan, stamp: acts.Stamp) -> sc.Ref:
        ground, text = self.world.state.ground, scan.text.strip()
        dialogue = open_dialogue(self.world.state, stamp.device)
        question = question_of(self.world, dialogue, stamp.crews) if dialogue else None
        if question and question.expect and text.upper() == question.expect:
            return sc.Shown()
        if text.upper() in self.plates:
            return sc.PlateOf(self.plates[text.upper()])
        values = dict(scan.elements)
        code = ground.barcodes.get(values.get(GTIN, text).lstrip("0") if values else text)
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


def record(
    head: sc.Rehearsal,
    log: tuple[ev.Entry, ...],
    fresh: World,
    expect: dict[int, tuple[sc.Expectation, ...]],
    at_end: tuple[sc.Expectation, ...],
) -> sc.Rehearsal:
    """A rehearsal under the name, site and opening of ``head`` with the steps of a log."""
    return replace(head, steps=record_steps(log, fresh, expect), at_end=at_end)
