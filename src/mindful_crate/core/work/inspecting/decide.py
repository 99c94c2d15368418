"""How its acts are decided: inspecting what has arrived."""

from __future__ import annotations

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import BinCode, PlateNo
from mindful_crate.core.floor.plates import in_bin
from mindful_crate.core.floor.rests import Rest
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, Task
from mindful_crate.core.placing.fit import Judge
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.bin_rules import BinPurpose
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import FlowPurpose
from mindful_crate.core.rulebook.steps import BY_RULES, Begins, Need
from mindful_crate.core.rulebook.words.parts import capital
from mindful_crate.core.work.inspecting import checks as inspecting
from mindful_crate.core.work.inspecting import doing
from mindful_crate.core.work.inspecting.acts import Inspect, InspectInOffice, PlaceToInspect, TakeToInspect, Verdict
from mindful_crate.core.work.inspecting.events import GoodsInspected, SampleFailed
from mindful_crate.core.work.making import Making, said
from mindful_crate.core.work.office import check_why, of_every_crew
from mindful_crate.core.work.putting import checks as putting
from mindful_crate.core.work.putting import doing as putting_away
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.tasks import doing as tasks
from mindful_crate.core.work.tasks.events import MoveDone, TaskLeft


def _take(state: State, making: Making, _: Rulebook, stamp: Stamp, act: TakeToInspect) -> str:
    task = inspecting.task_to_inspect(state, act.task, stamp.crews, stamp.who)
    if not any(m.do is Do.TAKE for m in task.going.remaining):
        raise Refusal("not_carried", f"{capital(inspecting.told(state, task))} stands where it is inspected.")
    if task.plate is None:
        putting.check_there(state, task)
    elif state.bin_of(task.plate) is None:
        raise Refusal("not_there", f"Plate `{task.plate}` stands in no bin. Have it set down first.")
    tasks.take_up(state, making, task, stamp.who, serials=act.serials)
    where = f" Take it to `{task.to_bin}`." if task.to_bin else " Choose where it is inspected."
    return f"{capital(inspecting.told(state, task))} taken up.{where}"


def judge_place(state: State, rulebook: Rulebook, task: Task, code: BinCode, stamp: Stamp) -> None:
    """Refuse a bin in which what is carried is not inspected, or does not fit."""
    each = state.ground.bins.get(code)
    if each is None or state.ground.site_of(code) != state.settings.site:
        raise Refusal("unknown_bin", f"There is no bin `{code}` at this site.")
    waits = doing.of_task(state, task)
    step = inspecting.step_of(rulebook, state, waits.lines, waits.goods[0].item)
    if code != task.to_bin and step.at != BY_RULES and not putting.lies_at(state, code, step.at):
        shown = f" Take it to `{task.to_bin}`." if task.to_bin else ""
        raise Refusal("not_the_place", f"`{code}` is not where this is inspected.{shown}")
    request = evolve(doing.request_at(state, waits, step, stamp.today), task=task.number)
    judged = Judge(request, state)
    if (down := judged.turn_down(each)) is not None:
        raise Refusal(f"bin_{down.value}", judged.told(each, down))


def _place(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: PlaceToInspect) -> str:
    task = inspecting.task_to_inspect(state, act.task, stamp.crews, stamp.who)
    if not task.in_hands:
        raise Refusal("not_taken", f"Take {inspecting.told(state, task)} up first.")
    judge_place(state, rulebook, task, act.bin, stamp)
    tasks.place(state, making, task, act.bin, None, () if task.plate else task.goods, "")
    making.event(TaskLeft(task.number))
    return f"{capital(inspecting.told(state, task))} stands in `{act.bin}`, to be inspected."


def _inspect(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: Inspect) -> str:
    task = inspecting.task_to_inspect(state, act.task, stamp.crews, stamp.who)
    if task.going.place is not None:
        shown = f" to `{task.to_bin}`" if task.to_bin else ""
        raise Refusal("not_there_yet", f"Take {inspecting.told(state, task)}{shown} first: it is inspected there.")
    verdict = act.verdict
    goods = inspecting.kind_of(state, task, verdict.item, verdict.lot, verdict.expiry)
    sample = inspecting.sample_of(rulebook, state, task, goods)
    if verdict.failed and sample < goods.quantity:
        inspecting.check_remark(verdict)
        making.event(SampleFailed(task.number, goods, verdict.remark.strip(), verdict.photo))
        item = state.ground.items[goods.item]
        return f"The sample is not as it should be: look at all {item.told(goods.quantity)} of {item.name}."
    inspecting.check_verdict(state, goods, verdict)
    fault = verdict.fault if verdict.failed else None
    stands = inspecting.stands_in(task)
    apart = task.plate is not None and _passes(state, task, goods, verdict)
    onto = _label(state, making, verdict) if apart and verdict.failed else None
    lies = state.plates[task.plate].bin if task.plate else stands
    if lies is None or (
        task.plate is None and sum(g.quantity for g in state.loose(stands) if g.alike(goods)) < goods.quantity
    ):
        raise Refusal(
            "not_there",
            f"{capital(inspecting.told(state, task))} should be in `{stands}`, and is not. Tell the office.",
        )
    looked = inspecting.pieces_looked_at(state, task, goods)
    making.event(
        GoodsInspected(
            task.number, stamp.who, lies, task.plate, goods, verdict.failed, fault, onto, verdict.remark.strip(),
            inspecting.check_failing(state, task, goods, verdict), looked, verdict.photo,
        )
    )  # fmt: skip
    says = inspecting.verdict_told(state, goods, verdict) + "."
    if onto:
        says = said(
            says, f"What fails stands on plate `{onto}`.", _plate_goes_on(state, making, rulebook, stamp, task, onto)
        )
    left = inspecting.waiting(state, task) if task.plate else ()
    if left:
        return said(says, f"{len(left)} more to inspect on plate `{task.plate}`.")
    look = task.going.remaining[-1]
    at = in_bin(lies)
    making.event(
        MoveDone(task.number, look.no, stamp.who, lies, at, at, reason=inspecting.verdict_told(state, goods, verdict))
    )
    return said(says, _goes_on(state, making, rulebook, stamp, task, goods, verdict))


def _passes(state: State, task: Task, goods: Goods, verdict: Verdict) -> bool:
    """Is there anything on the plate besides what fails?"""
    assert task.plate
    others = sum(g.quantity for g in state.plates.goods_on(task.plate)) - goods.quantity
    return bool(others) or verdict.failed < goods.quantity


def _label(state: State, making: Making, verdict: Verdict) -> PlateNo:
    if verdict.onto is None:
        return PlateNo(making.draw("plate"))
    if state.has_plate(verdict.onto) or state.announced(verdict.onto):
        raise Refusal("plate_known", f"There is a plate `{verdict.onto}` already. Take a label nobody used.", "onto")
    return verdict.onto


def _goes_on(
    state: State, making: Making, rulebook: Rulebook, stamp: Stamp, task: Task, goods: Goods, verdict: Verdict
) -> str:
    """What passes goes on by the next step of its plan, what fails to where it is held."""
    if task.plate is None:
        return _loose_goes_on(state, making, rulebook, stamp, task, goods, verdict)
    return _plate_goes_on(state, making, rulebook, stamp, task, task.plate)


def _plate_goes_on(
    state: State, making: Making, rulebook: Rulebook, stamp: Stamp, task: Task, number: PlateNo
) -> str:  # fmt: skip
    lines, plate = putting.lines_of(state, task), state.plates[number]
    plan = inspecting.plan_of(rulebook, state, lines)
    held = putting.purpose_of(plate.goods) is BinPurpose.HOLD_AT
    if not held and (plan is None or not plan.put_away.on):
        return f"Plate `{number}` stays in `{plate.bin}`."
    pieces = putting_away.pieces_of_plate(state, rulebook, plate, plate.goods, lines)
    begins = Begins.ON_ARRIVAL if held or plan is None else plan.put_away.begins
    return putting_away.set_going(state, making, rulebook, stamp, pieces, begins)


def _loose_goes_on(
    state: State, making: Making, rulebook: Rulebook, stamp: Stamp, task: Task, goods: Goods, verdict: Verdict
) -> str:
    lines, says = putting.lines_of(state, task), ""
    plan = inspecting.plan_of(rulebook, state, lines, goods.item)
    code = inspecting.stands_in(task)
    passed, failed = goods.quantity - verdict.failed, verdict.failed
    for quantity, status in ((passed, None), (failed, verdict.fault)):
        if not quantity:
            continue
        part = evolve(goods, quantity=quantity, status=status or Status.AVAILABLE)
        if status is None and (plan is None or not plan.put_away.on):
            says = said(says, f"What passes stays in `{code}`.")
            continue
        key = f"{task.number}.{'held' if status else 'passed'}"
        rest = Rest(key, Need.PUT_AWAY, code, None, (part,), task.receipts)
        pieces = putting_away.pieces_of_goods(state, rulebook, rest, lines)
        begins = Begins.ON_ARRIVAL if status or plan is None else plan.put_away.begins
        says = said(says, putting_away.set_going(state, making, rulebook, stamp, pieces, begins))
    return says


def _in_office(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: InspectInOffice) -> str:
    check_why(rulebook, state.settings.site, FlowPurpose.INSPECT, act.why)
    stamp = of_every_crew(rulebook, stamp)
    task = inspecting.task_to_inspect(state, act.task, stamp.crews)
    if not act.verdicts:
        raise Refusal("nothing_inspected", "Say of at least one kind of goods whether it passes.")
    says = ""
    if task.going.place is not None:
        if task.to_bin is None:
            raise Refusal("no_bin", "No rule found where it is inspected: have it brought there with a handset first.")
        _take(state, making, rulebook, stamp, TakeToInspect(task.number))
        says = _place(state, making, rulebook, stamp, PlaceToInspect(task.number, task.to_bin))
    for verdict in act.verdicts:
        says = said(says, _inspect(state, making, rulebook, stamp, Inspect(task.number, verdict)))
    return says


DECIDES = (
    deciding(TakeToInspect, _take),
    deciding(PlaceToInspect, _place),
    deciding(Inspect, _inspect),
    deciding(InspectInOffice, _in_office),
)
"""How its acts are decided."""
