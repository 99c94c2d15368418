"""Tasks as the chain tells them."""

from __future__ import annotations

from collections.abc import Iterable

from mindful_crate.core.catalog.ids import TaskNo
from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import PartDone, Task, TaskState
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.work.numbered import numbers_told
from mindful_crate.core.work.papers import Doc, PaperKind, Papers, Stage
from mindful_crate.core.work.tasks.words import loose_told, picks_told


class TaskPaper(PaperKind):
    """Tasks: made, given another bin, taken, placed, or cancelled."""

    kind = DocKind.TASK

    def there(self, state: State, number: str) -> bool:
        return state.has_task(TaskNo(number))

    def all(self, state: State) -> Iterable[str]:
        return iter(state.tasks.plans)

    def before(self, state: State, number: str) -> tuple[Ref, ...]:
        return state.tasks.plans[TaskNo(number)].follows

    def since(self, state: State, number: str) -> int:
        return state.tasks.plans[TaskNo(number)].made

    def doc(self, papers: Papers, number: str) -> Doc:
        task = papers.state.tasks[TaskNo(number)]
        before = self.before(papers.state, number)
        what = {Need.PUT_AWAY: "put away", Need.INSPECT: "inspect", Need.PICK: "pick", Need.REPLENISH: "refill"}.get(
            task.need, "move"
        )
        to = task.placed_in or task.to_bin
        looked = task.going.parts[-1] if task.need is Need.INSPECT and task.state is TaskState.DONE else None
        plates = " and ".join(f"plate `{p}`" for p in task.plan.plates)
        if task.need is Need.PICK and not plates:
            says = f"{what} {picks_told(task.plan)}"
        else:
            says = f"{what} {plates or loose_told(papers.state, task.plan)} from `{task.from_bin}`"
        says += f" to `{to}`" if to else ""
        stages = [Stage("made", True, task.made), *(Stage("another bin", True, seq) for seq in task.again)]
        if task.state is TaskState.CANCELLED:
            stages.append(Stage("cancelled", True, task.cancelled, task.held))
            return Doc(self.kind, task.number, says, tuple(stages), before)
        stages.append(Stage("taken", task.taken > 0, task.taken, f"by @{task.person}" if task.person else ""))
        if task.need is Need.INSPECT:
            verdict = f"{looked.reason}, in `{looked.bin}`" if looked else ""
            stages.append(Stage("inspected", looked is not None, looked.seq if looked else 0, verdict))
            return Doc(self.kind, task.number, says, tuple(stages), before)
        seq = max((p.seq for p in task.placed), default=0)
        where = ", ".join(
            f"in `{p.bin}`"
            + (f", {_much(papers.state, task, p)}" if len(task.placed) > 1 else "")
            + (f", {numbers_told(p.serials)}" if p.serials else "")
            + (f": {p.reason}" if p.reason else "")
            for p in task.placed
        )
        stages.append(Stage("placed", task.state is TaskState.DONE, seq, where))
        return Doc(self.kind, task.number, says, tuple(stages), before)


def _much(state: State, task: Task, part: PartDone) -> str:
    """How much of what a part put there, where it was not all in one."""
    moves = {m.no: m for m in task.plan.moves}
    item = part.off or next((g.item for g in moves[part.move].goods), None)
    return state.ground.items[item].told(part.quantity) if item else "the plate"


PAPERS = (TaskPaper(),)
"""Its documents."""
