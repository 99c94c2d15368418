"""Checks of inspections that dialogue and decision share: which goods wait, where, and what a verdict may say."""

from __future__ import annotations

import re

from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import BinCode, CrewId, ItemCode, PersonId, PlateNo, TaskNo
from mindful_crate.core.floor.inspections import goods_key
from mindful_crate.core.floor.plates import PlateLine, in_bin, on_plate
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Do, Task, TaskState
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.steps import InspectStep, Need, StepPlan
from mindful_crate.core.rulebook.words.parts import capital
from mindful_crate.core.work.inspecting.acts import Verdict
from mindful_crate.core.work.inspecting.events import GoodsInspected, SampleFailed
from mindful_crate.core.work.numbered import numbers_told
from mindful_crate.core.work.putting.checks import HELD, lines_of
from mindful_crate.core.work.receiving.checks import goods_text, known_order

FAULTS = (Status.DAMAGED, Status.QUARANTINE)
"""What goods may become that do not pass, in the order in which they are offered."""
FAULTS_TOLD = {Status.DAMAGED: "damaged", Status.QUARANTINE: "kept apart"}
LONGEST = 120
"""Letters of a remark."""
_PHOTO = re.compile(r"photo-[0-9a-f]{16}")
assert set(FAULTS) <= HELD


def told(state: State, task: Task) -> str:
    """What an inspection is about: ``plate `LP-000143``` or the goods."""
    return f"plate `{task.plate}`" if task.plate else goods_text(state, task.plan.loose)


def task_to_inspect(
    state: State, number: TaskNo, crews: tuple[CrewId, ...], mine: PersonId | None = None
) -> Task:  # fmt: skip
    """An inspection these crews may go on with; refused with the reason otherwise."""
    task = state.tasks.get(number)
    if task is None or task.need is not Need.INSPECT:
        raise Refusal("unknown_task", f"There is no inspection `{number}`.")
    if task.crew is not None and task.crew not in crews:
        raise Refusal("other_crew", f"Inspection `{number}` is for crew `{task.crew}`, and you are not in it.")
    if task.whose not in (None, mine) and not task.state.ended:
        raise Refusal(
            "other_person", f"Inspection `{number}` is for @{task.whose} alone. The office gives it to others."
        )
    if task.state is TaskState.DONE:
        part = task.going.parts[-1]
        raise Refusal(
            "task_done", f"{capital(told(state, task))} was inspected already, in `{part.bin}`: {part.reason}."
        )
    if task.state is TaskState.CANCELLED:
        raise Refusal(
            "task_cancelled", f"Inspection `{number}` was cancelled: {task.held}. The goods stay as they are."
        )
    if task.held:
        raise Refusal("task_held", f"Inspection `{number}` is held: {task.held}. The office lets it go.")
    if task.state is TaskState.TAKEN and task.person != mine:
        raise Refusal("task_taken", f"@{task.person} carries {told(state, task)} already.")
    return task


def inspection_of_plate(state: State, number: PlateNo) -> Task:
    """The inspection a plate waits for; refused with what the plate is doing otherwise."""
    plate, task = state.plate(number), state.task_of(number)
    if plate is None:
        raise Refusal("unknown_plate", f"There is no license plate `{number}`.")
    if plate.building:
        raise Refusal("plate_building", f"Plate `{number}` is still being built. Finish it first.")
    if task is None or task.need is not Need.INSPECT:
        raise Refusal("no_task", f"Plate `{number}` waits for no inspection: it stands in `{state.bin_of(number)}`.")
    return task


def inspection_of_item(state: State, item: ItemCode, crews: tuple[CrewId, ...]) -> Task:
    """The first open inspection of these crews of loose goods of an item; refused when there is none."""
    found = state.first_loose((*crews, None), Need.INSPECT, item)
    if found is None:
        name = state.ground.items[item].name
        raise Refusal("no_task", f"No loose `{item}` {name} waits to be inspected. On a plate? Then scan the plate.")
    return found


def carried_by(state: State, person: PersonId) -> Task | None:
    """The inspection whose goods a person carries."""
    return next((t for t in state.carried(person, Need.INSPECT) if t.in_hands), None)


def stands_in(task: Task) -> BinCode:
    """Where goods are looked at: where they were brought, or where they stand already."""
    return task.placed_in or next((m.at for m in task.going.remaining if m.do is Do.LOOK and m.at), task.from_bin)


def waiting(state: State, task: Task) -> tuple[Goods, ...]:
    """The kinds of goods of a task about which nothing is said yet."""
    goods = state.plates.goods_on(task.plate) if task.plate else task.plan.loose
    return tuple(g for g in goods if g.status is Status.INSPECT)


def kind_of(state: State, task: Task, item: ItemCode, lot: str = "", expiry: object = None) -> Goods:
    """The goods of a task that wait, of an item, and of a lot and date if they are named; refused when there are none."""
    found = [g for g in waiting(state, task) if g.item == item]
    found = [g for g in found if not lot or (g.lot, g.expiry) == (lot, expiry)] or found
    if not found:
        name = state.ground.items[item].name if item in state.ground.items else item
        raise Refusal("not_waiting", f"No `{item}` {name} of {told(state, task)} waits to be inspected.")
    return found[0]


def step_of(rulebook: Rulebook, state: State, lines: tuple[PlateLine, ...], item: ItemCode) -> InspectStep:
    """How the plan of goods inspects them now; the step as it begins where no plan is for them any more."""
    plan = plan_of(rulebook, state, lines, item)
    return plan.inspect if plan else InspectStep(on=True)


def plan_of(
    rulebook: Rulebook, state: State, lines: tuple[PlateLine, ...], item: ItemCode | None = None
) -> StepPlan | None:
    """The plan of goods that arrived on these lines; None when none is for them any more."""
    line = next((x for x in lines if item in (None, x.item)), None)
    return rulebook.plan_for(rulebook.asked(state.ground, known_order(state, line.order), line.item)) if line else None


def sample_of(rulebook: Rulebook, state: State, task: Task, goods: Goods) -> int:
    """How many of some goods are looked at, in base units; all of them once a sample was not as it should be."""
    sample = step_of(rulebook, state, lines_of(state, task), goods.item).sample
    all_of_them = not sample or goods_key(task.number, goods) in state.samples_failed
    return goods.quantity if all_of_them else min(sample, goods.quantity)


def pieces_of(state: State, task: Task, goods: Goods) -> tuple[str, ...]:
    """The pieces that are inspected, of goods that are kept by serial numbers: those on the plate, or those of the task's receipts."""
    spot = on_plate(task.plate) if task.plate else in_bin(stands_in(task))
    there = state.serials.at(spot, goods)
    if len(there) <= goods.quantity:
        return there
    placed = [n for p in task.placed for n in p.serials]
    brought = [n for x in lines_of(state, task) if x.item == goods.item for n in x.serials]
    return tuple(n for n in there if n in (placed or brought))


def pieces_looked_at(state: State, task: Task, goods: Goods) -> tuple[str, ...]:
    """The pieces that are inspected, where others of their kind lie there too; none: they are all."""
    if goods.item not in state.serials.kept:
        return ()
    spot = on_plate(task.plate) if task.plate else in_bin(stands_in(task))
    mine = pieces_of(state, task, goods)
    if len(mine) != goods.quantity:
        item = state.ground.items[goods.item]
        says = f"Which of the {item.base.plural} of {item.name} in `{spot.code}` are inspected is not known any more."
        raise Refusal("which_pieces", says)
    return mine if len(state.serials.at(spot, goods)) > goods.quantity else ()


def check_failing(state: State, task: Task, goods: Goods, verdict: Verdict) -> tuple[str, ...]:
    """The numbers of what fails, where it is a part; refused when they are not said, or are of other pieces."""
    if goods.item not in state.serials.kept or verdict.failed in (0, goods.quantity):
        return ()
    item, mine = state.ground.items[goods.item], pieces_of(state, task, goods)
    failing = tuple(dict.fromkeys(verdict.failing))
    odd = [n for n in failing if n not in mine]
    if odd:
        says = f"`{odd[0]}` is none of the pieces of {item.name} that are inspected: {numbers_told(mine)}."
        raise Refusal("other_piece", says, "failing")
    if len(failing) != verdict.failed:
        says = (
            f"Say which {item.told(verdict.failed)} of {item.name} fail, by their serial numbers: {numbers_told(mine)}."
        )
        raise Refusal("which_pieces", says, "failing")
    return failing


def check_verdict(state: State, goods: Goods, verdict: Verdict) -> None:
    """Refuse a verdict that cannot be."""
    item = state.ground.items[goods.item]
    if not 0 <= verdict.failed <= goods.quantity:
        says = f"{item.told(goods.quantity)} of {item.name} are inspected; so {verdict.failed:,} of them cannot fail."
        raise Refusal("more_than_there", says, "failed")
    if verdict.failed and verdict.fault not in FAULTS:
        raise Refusal("no_fault", "Say what becomes of what fails: damaged, or kept apart.", "fault")
    check_remark(verdict)


def remarked(seen: Verdict | SampleFailed | GoodsInspected) -> str:
    """What was said of goods, with the photo that was taken."""
    return ", ".join(part for part in (seen.remark.strip(), f"photo `{seen.photo}`" if seen.photo else "") if part)


def photo_name(hash_: str) -> str:
    """The name of a photo, by the first 16 hexadecimal digits of the hash of what is seen on it."""
    return f"photo-{hash_}"


def is_photo(text: str) -> bool:
    """Is this the name of a photo?"""
    return _PHOTO.fullmatch(text) is not None


def check_remark(verdict: Verdict) -> None:
    """Refuse a remark that is too long, and a name that is none of a photo."""
    if len(verdict.remark) > LONGEST:
        raise Refusal("too_long", f"A remark has at most {LONGEST} characters.", "remark")
    if verdict.photo and not is_photo(verdict.photo):
        raise Refusal("no_photo", f"`{verdict.photo[:40]}` is no photo. Take it anew.", "photo")


def verdict_told(state: State, goods: Goods, verdict: Verdict) -> str:
    """``60 pieces pass``, ``2 of 60 pieces damaged, 58 pass``."""
    item = state.ground.items[goods.item]
    seen = remarked(verdict)
    remark = f" ({seen})" if seen else ""
    if not verdict.failed:
        return f"{item.told(goods.quantity)} of {item.name} pass{remark}"
    fault = FAULTS_TOLD[verdict.fault or Status.QUARANTINE]
    if verdict.failed == goods.quantity:
        return f"{item.told(goods.quantity)} of {item.name} {fault}{remark}"
    passed = goods.quantity - verdict.failed
    return f"{item.told(verdict.failed)} of {item.name} {fault}{remark}, {item.told(passed)} pass"
