"""How its acts are decided: putting away."""

from __future__ import annotations

from mindful_crate.core.catalog.ids import ReceiptNo
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import TaskState
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.steps import BookingPoint, Need
from mindful_crate.core.work.host import decide as hosting
from mindful_crate.core.work.making import Making
from mindful_crate.core.work.putting import checks as putting
from mindful_crate.core.work.putting.acts import Place, Take
from mindful_crate.core.work.receiving import checks as receiving
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.tasks.doing import place, take_up, turn


def _take(state: State, making: Making, _: Rulebook, stamp: Stamp, act: Take) -> str:
    task = putting.task_to_take(state, act.task, stamp.crews)
    where = f" Take it to `{task.to_bin}`." if task.to_bin else ""
    if task.plate is None:
        putting.check_there(state, task)
        says = f"{putting.told(state, task)} taken from `{task.from_bin}`.{where}"
    else:
        plate = putting.plate_of(state, task)
        says = f"Plate `{task.plate}` taken: {receiving.plate_text(state, plate)}.{where}"
    take_up(making, task, stamp.who)
    return says


def _place(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: Place) -> str:
    task = state.tasks.get(act.task)
    if task is None or task.need is not Need.PUT_AWAY:
        raise Refusal("unknown_task", f"There is no put-away task `{act.task}`.")
    if task.person != stamp.who or task.state is not TaskState.TAKEN:
        putting.task_to_take(state, task.number, stamp.crews)
        raise Refusal("not_taken", f"Take {putting.told(state, task)} up first.")
    down = putting.judge(state, task, act.bin, stamp.today)
    if down is None and task.plate is None:
        place(making, task, act.bin, None, task.goods, act.reason)
        if task.receipt and not state.unplaced(task.receipt):
            _book_on_put_away(state, making, stamp, task.receipt)
        return f"{putting.told(state, task)} placed in `{act.bin}`."
    if down is None:
        plate = putting.plate_of(state, task)
        place(making, task, act.bin, None, (), act.reason)
        _book_on_put_away(state, making, stamp, plate.receipt)
        return f"Plate `{plate.number}` stands in `{act.bin}`."
    if act.bin != task.to_bin:
        raise Refusal(f"bin_{down[0].value}", down[1])
    trail = putting.ask_rules(state, rulebook, putting.request_of_task(state, task, stamp.today))
    what = "the plate" if task.plate else "the goods"
    where = f"Take {what} to `{trail.bin}`." if trail.bin else "No rule finds another bin: choose one and scan it."
    making.trail(trail)
    turn(making, task, trail.bin, trail.rule)
    return f"{down[1]} {where}"


def _book_on_put_away(state: State, making: Making, stamp: Stamp, number: ReceiptNo | None) -> None:
    receipt = state.receipts.get(number) if number else None
    if receipt is not None and receipt.booking is BookingPoint.PUT_AWAY and not receipt.told:
        hosting.tell_host(state, making, stamp, "book_receipt", receipt.number)


DECIDES = (
    deciding(Take, _take),
    deciding(Place, _place),
)
"""How its acts are decided."""
