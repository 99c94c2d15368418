"""How its acts are decided: dialogues on handsets."""

from __future__ import annotations

from dataclasses import replace

from mindful_crate.core.catalog.ids import DialogueNo
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Flow
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.scanning import dialogue as talk
from mindful_crate.core.scanning.kinds import Context
from mindful_crate.core.work.handset.acts import Answer, LeaveFlow, OpenFlow, Press, StepBack
from mindful_crate.core.work.handset.events import DialogueLeft, DialogueMoved, DialogueOpened, Scanned
from mindful_crate.core.work.making import Making, said
from mindful_crate.core.work.receiving import checks as receiving
from mindful_crate.core.work.receiving.acts import FinishPlate
from mindful_crate.core.work.receiving.events import LoadStarted, PlateStarted
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp
from mindful_crate.core.work.tasks.events import TaskMade, TaskRetargeted


def context(state: State, rulebook: Rulebook, stamp: Stamp, flow: Flow) -> Context:
    """What a dialogue of this flow may look at."""
    return Context(state, rulebook, flow, stamp.who, stamp.crews, stamp.device, stamp.today)


def _open_flow(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: OpenFlow) -> str:
    flow = rulebook.flow(act.flow)
    if flow is None:
        raise Refusal("unknown_flow", f"The rulebook has no flow `{act.flow}`.")
    if flow not in rulebook.menu_for(state.settings.site, stamp.crews):
        raise Refusal(
            "not_on_menu", f"{flow.name} is on no menu of your crews. The analyst puts it there, under Scanner."
        )
    number = DialogueNo(making.draw("dialogue"))
    for open_ in state.dialogues.open_on(stamp.device):
        making.event(DialogueLeft(open_.number, by=stamp.who))
    making.event(DialogueOpened(number, flow.id, stamp.who, stamp.device))
    step = talk.opened(context(state, rulebook, stamp, flow))
    return said(_move(state, making, stamp, state.dialogues[number], step), f"{flow.name} opened.")


def _answer(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: Answer) -> str:
    dialogue, ctx = _talking(state, rulebook, stamp, act.dialogue, act.step)
    step = talk.scanned(ctx, dialogue, act.scan)
    making.event(Scanned(dialogue.number, act.scan.text, step.read_as))
    return _move(state, making, stamp, dialogue, step) or f"{_first_large(step.read_as)}."


def _first_large(text: str) -> str:
    return text[:1].upper() + text[1:]


def _press(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: Press) -> str:
    dialogue, ctx = _talking(state, rulebook, stamp, act.dialogue, act.step)
    says = _move(state, making, stamp, dialogue, talk.pressed(ctx, dialogue, act))
    return says or _PRESSED.get(act.action, "Done.")


_PRESSED = {
    "other_order": "Another order, then.",
    "no": "Not there, then.",
    "new_plate": "A new plate, then.",
    "go_on": "Nothing more is taken up.",
    "part": "Only a part, then.",
}
"""What is said when a button only moved the dialogue."""


def _step_back(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: StepBack) -> str:
    dialogue, _ = _talking(state, rulebook, stamp, act.dialogue, act.step)
    return said(_move(state, making, stamp, dialogue, talk.stepped_back(dialogue)), "One step back.")


def _leave_flow(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: LeaveFlow) -> str:
    dialogue, ctx = _talking(state, rulebook, stamp, act.dialogue, None)
    making.event(DialogueLeft(dialogue.number, by=stamp.who))
    return f"{ctx.flow.name} left." + talk.carried_text(ctx, dialogue.slots)


def _talking(
    state: State, rulebook: Rulebook, stamp: Stamp, number: DialogueNo, step: int | None
) -> tuple[Dialogue, Context]:
    dialogue = state.dialogues.get(number)
    if dialogue is None:
        raise Refusal("unknown_dialogue", f"There is no dialogue `{number}`. Open the flow again.")
    if not dialogue.open:
        if dialogue.taken_over:
            raise Refusal(
                "taken_over",
                f"@{dialogue.taken_by} goes on with this plate on handset `{dialogue.taken_over}`. Open the flow again.",
            )
        if dialogue.slots.plate and state.has_plate(dialogue.slots.plate):
            receiving.building_plate(state, dialogue.slots.plate)  # says who finished it, if somebody did
        raise Refusal("dialogue_over", "This dialogue is over. Open the flow again.")
    if dialogue.device != stamp.device:
        raise Refusal("other_device", f"This dialogue runs on handset `{dialogue.device}`.")
    if step is not None and step != dialogue.step:
        raise Refusal("stale_step", "The question has changed meanwhile. Look at the new one and answer that.")
    flow = rulebook.flow(dialogue.flow)
    if flow is None:
        raise Refusal("unknown_flow", f"The rulebook no longer has flow `{dialogue.flow}`. Leave and open another.")
    return dialogue, context(state, rulebook, stamp, flow)


def _move(state: State, making: Making, stamp: Stamp, dialogue: Dialogue, step: talk.Step) -> str:
    """Carry out what a step of a dialogue leads to, and let the dialogue stand where that leaves it."""
    before = len(making.events)
    says = said(*[making.act(act) for act in step.acts])
    slots = step.slots
    finishes = any(isinstance(a, FinishPlate) for a in step.acts)
    for event in making.events[before:]:
        if isinstance(event, (PlateStarted, LoadStarted)) and not finishes:
            begun = event.load if isinstance(event, LoadStarted) else event.plate
            slots = replace(slots, plate=begun, new_plate=False)
        if isinstance(event, TaskMade) and event.need is Need.MOVE:  # what was taken up is carried from here on
            slots = replace(slots, task=event.task) if event.goods else replace(slots, tasks=(*slots.tasks, event.task))
        if isinstance(event, TaskRetargeted):  # it is still carried: ask for the new bin
            slots = replace(slots, task=event.task, bin=None, on=None, reason=None, part=None)
    if (
        slots.plate and slots.plate != dialogue.slots.plate
    ):  # built in one dialogue at a time: who opens it last goes on
        for other in state.dialogues.open_about(slots.plate):
            if other.number != dialogue.number:
                making.event(DialogueLeft(other.number, stamp.device, stamp.who))
    making.event(DialogueMoved(dialogue.number, slots, step.past, step.doubt))
    return says


DECIDES = (
    deciding(OpenFlow, _open_flow),
    deciding(Answer, _answer),
    deciding(Press, _press),
    deciding(StepBack, _step_back),
    deciding(LeaveFlow, _leave_flow),
)
"""How its acts are decided."""
