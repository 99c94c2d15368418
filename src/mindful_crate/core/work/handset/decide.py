"""How its acts are decided: dialogues on handsets."""

from __future__ import annotations

from mindful_crate.core.catalog.ids import DialogueNo
from mindful_crate.core.floor.answers import PLATE
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.floor.state import State, WorldKind
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Flow
from mindful_crate.core.rulebook.words.parts import capital
from mindful_crate.core.scanning import dialogue as talk
from mindful_crate.core.scanning.kinds import Context, Step
from mindful_crate.core.work.handset.acts import Answer, LeaveFlow, OpenFlow, Press, StepBack, SyncHandset
from mindful_crate.core.work.handset.events import DialogueLeft, DialogueMoved, DialogueOpened, HandsetSynced, Scanned
from mindful_crate.core.work.handset.given import behind
from mindful_crate.core.work.making import Making, said
from mindful_crate.core.work.matters import MACHINE
from mindful_crate.core.work.rows import deciding
from mindful_crate.core.work.stamp import Stamp


def context(state: State, rulebook: Rulebook, stamp: Stamp, flow: Flow) -> Context:
    """What a dialogue of this flow may look at."""
    return Context(state, rulebook, flow, stamp.who, stamp.crews, stamp.device, stamp.today, MACHINE)


def _open_flow(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: OpenFlow) -> str:
    flow = rulebook.flow(act.flow)
    if flow is None:
        raise Refusal("unknown_flow", f"The rulebook has no flow `{act.flow}`.")
    if flow not in rulebook.menu_for(state.settings.site, stamp.crews):
        raise Refusal(
            "not_on_menu", f"{flow.name} is on no menu of your crews. The analyst puts it there, under Scanner."
        )
    number = DialogueNo(making.draw("dialogue"))
    _give(state, making, rulebook, stamp)
    for open_ in state.dialogues.open_on(stamp.device):
        making.event(DialogueLeft(open_.number, by=stamp.who))
    making.event(DialogueOpened(number, flow.id, stamp.who, stamp.device))
    ctx = context(state, rulebook, stamp, flow)
    return said(_move(ctx, making, stamp, state.dialogues[number], talk.opened(ctx)), f"{flow.name} opened.")


def _answer(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: Answer) -> str:
    dialogue, ctx = _talking(state, rulebook, stamp, act.dialogue, act.step)
    step = talk.scanned(ctx, dialogue, act.scan)
    making.event(Scanned(dialogue.number, act.scan.text, step.read_as))
    return _move(ctx, making, stamp, dialogue, step) or f"{capital(step.read_as)}."


def _press(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: Press) -> str:
    dialogue, ctx = _talking(state, rulebook, stamp, act.dialogue, act.step)
    step = talk.pressed(ctx, dialogue, act.action, act.line, act.count)
    return _move(ctx, making, stamp, dialogue, step) or talk.moved_on(ctx, act.action)


def _step_back(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: StepBack) -> str:
    dialogue, ctx = _talking(state, rulebook, stamp, act.dialogue, act.step)
    return said(_move(ctx, making, stamp, dialogue, talk.stepped_back(dialogue)), "One step back.")


def _leave_flow(state: State, making: Making, rulebook: Rulebook, stamp: Stamp, act: LeaveFlow) -> str:
    there = state.dialogues.get(act.dialogue)
    if there and there.open and there.device == stamp.device and rulebook.flow(there.flow) is None:
        making.event(DialogueLeft(there.number, by=stamp.who))
        return "The flow is no more, and left."
    dialogue, ctx = _talking(state, rulebook, stamp, act.dialogue, None)
    making.event(DialogueLeft(dialogue.number, by=stamp.who))
    return f"{ctx.flow.name} left." + talk.carried_text(ctx, dialogue.answers)


def _talking(
    state: State, rulebook: Rulebook, stamp: Stamp, number: DialogueNo, step: int | None
) -> tuple[Dialogue, Context]:
    dialogue = state.dialogues.get(number)
    if dialogue is None:
        raise Refusal("unknown_dialogue", f"There is no dialogue `{number}`. Open the flow again.")
    flow = rulebook.flow(dialogue.flow)
    if not dialogue.open:
        if dialogue.taken_over:
            raise Refusal(
                "taken_over",
                f"@{dialogue.taken_by} goes on with this plate on handset `{dialogue.taken_over}`. Open the flow again.",
            )
        if flow:
            MACHINE.flows[flow.purpose].over(state, dialogue.answers)
        raise Refusal("dialogue_over", "This dialogue is over. Open the flow again.")
    if dialogue.device != stamp.device:
        raise Refusal("other_device", f"This dialogue runs on handset `{dialogue.device}`.")
    if step is not None and step != dialogue.step:
        raise Refusal("stale_step", "The question has changed meanwhile. Look at the new one and answer that.")
    if flow is None:
        raise Refusal("unknown_flow", f"The rulebook no longer has flow `{dialogue.flow}`. Leave it, and open another.")
    return dialogue, context(state, rulebook, stamp, flow)


def _move(ctx: Context, making: Making, stamp: Stamp, dialogue: Dialogue, step: Step) -> str:
    """Carry out what a step of a dialogue leads to, and let the dialogue stand where that leaves it."""
    _give(ctx.state, making, ctx.rulebook, stamp)
    before = len(making.events)
    says = said(*[making.act(act) for act in step.acts])
    answers = ctx.kind.follows(step.answers, step.acts, making.events[before:])
    while step.acts and not step.ended and talk.answers_itself(ctx, answers):  # what was taken up has a place already
        before, step = len(making.events), talk.settled(ctx, answers, ())
        says = said(says, *[making.act(act) for act in step.acts])
        answers = ctx.kind.follows(step.answers, step.acts, making.events[before:])
    if answers[PLATE] and answers[PLATE] != dialogue.answers[PLATE]:
        # built in one dialogue at a time: who opens it last goes on
        for other in ctx.state.dialogues.open_about(answers[PLATE]):
            if other.number != dialogue.number:
                making.event(DialogueLeft(other.number, stamp.device, stamp.who))
    if step.ended:
        answers = talk.refilled(ctx, answers)
    making.event(DialogueMoved(dialogue.number, answers, step.past, step.doubt))
    return says


def _give(state: State, making: Making, rulebook: Rulebook, stamp: Stamp) -> None:
    """A handset of a live floor that is seen for the first time goes by what holds; later too, where rules hold at once."""
    device = stamp.device
    if device is None or state.settings.kind is not WorldKind.LIVE:
        return
    if device not in state.devices or (state.given_to(device) != state.rules and not behind(state, rulebook, device)):
        making.event(HandsetSynced(device, state.rules))


def _sync_handset(state: State, making: Making, _: Rulebook, stamp: Stamp, act: SyncHandset) -> str:
    if stamp.device is None:
        raise Refusal("no_device", "Only a handset takes menus and flows.")
    if state.settings.kind is not WorldKind.LIVE:
        raise Refusal("not_live", "In a rehearsal every handset goes by its rules at once.")
    if state.dialogues.open_on(stamp.device):
        raise Refusal("flow_open", "Leave the flow first: its questions stay as they are until then.")
    making.event(HandsetSynced(stamp.device, state.rules))
    return "This handset has the menu and the flows that are in force."


DECIDES = (
    deciding(OpenFlow, _open_flow),
    deciding(Answer, _answer),
    deciding(Press, _press),
    deciding(StepBack, _step_back),
    deciding(LeaveFlow, _leave_flow),
    deciding(SyncHandset, _sync_handset),
)
"""How its acts are decided."""
