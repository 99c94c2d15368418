"""The interpreter of handset dialogues: a pure step over flows that are data.

A dialogue is answers to fill. The first prompt of the flow that applies and is unfilled is the question; a scan
is read as what that prompt expects and fills its slot, and perhaps others. When every prompt of a line is
filled, the flow's kind turns the answers into acts, which ``world.decide`` carries out or refuses. A press is
accepted exactly when the question offers its button.
"""

from __future__ import annotations

from collections.abc import Iterable

from mindful_crate.core.floor.answers import PLATE, Answers
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import Named, evolve
from mindful_crate.core.rulebook.flows import Asks, Each, FlowPurpose, Prompt
from mindful_crate.core.scanning.kinds import (
    AGAIN,
    EXPIRY,
    ITEM,
    LOT,
    MUCH,
    REASON,
    SERIALS,
    UNIT,
    UNIT_ASKED,
    UNIT_SAID,
    ButtonKind,
    Context,
    Step,
    called,
)
from mindful_crate.core.scanning.question import Button, OfLine, Question
from mindful_crate.core.scanning.reading import How, Read, Reading, Scan, read, told


def current(ctx: Context, answers: Answers) -> Prompt | None:
    """The prompt to ask: the first of the flow that applies, is not answered, and waits for no other."""

    known: dict[Asks, bool] = {}

    def open_(asks: Asks) -> bool:
        found = known.get(asks)
        if found is None:
            found = known[asks] = ctx.prompt(asks).needed(ctx, answers)
        return found

    machine = ctx.machine
    first = ctx.kind.first(ctx, answers)
    if first is not None and open_(first):
        return next(p for p in machine.used(ctx.flow) if p.asks is first)
    return next(
        (p for p in machine.used(ctx.flow) if not any(map(open_, machine.waits_for(ctx.flow, p))) and open_(p.asks)),
        None,
    )


def opened(ctx: Context) -> Step:
    """The first step of a dialogue: whatever is known without asking is filled in. Refused when the flow lacks a prompt
    without which it leads nowhere."""
    lacks = ctx.machine.lacking(ctx.flow)
    if lacks:
        says = f"{ctx.flow.name} never asks for the {called(lacks[0])}, so it cannot do its work. Tell the analyst."
        raise Refusal("prompt_missing", says)
    return settled(ctx, Answers(), ())


def scanned(ctx: Context, dialogue: Dialogue, scan: Scan) -> Step:
    """One scan, typed or tapped text."""
    answers, doubt = dialogue.answers, dialogue.doubt
    if doubt and doubt.asks == "reason":
        reason = scan.text.strip()
        if len(reason) < 3:
            raise Refusal("no_reason", "Write the reason in a few words, so that the rules can be mended.")
        return evolve(settled(ctx, doubt.then.having(REASON, reason), ()), read_as="reason")
    if doubt:
        raise Refusal("answer_first", "Answer the question first: yes or no.")
    prompt = current(ctx, answers)
    if prompt is None:
        raise Refusal("flow_unfinished", f"Flow {ctx.flow.name} asks nothing more here. Leave it and tell the analyst.")
    kind = ctx.prompt(prompt.asks)
    reading = read(scan, kind.reads, ctx.state, ctx.today)
    aside = ctx.machine.at_any_time.get(reading.kind)
    if aside is not None:
        return Step(answers, dialogue.past, acts=(aside(reading),), read_as=told(reading))
    looked_for = kind.sought(ctx, answers, reading) if scan.how is How.TYPED else None
    if looked_for is not None:
        return Step(looked_for, dialogue.past, read_as=kind.heard(ctx, looked_for, reading))
    if kind.must_scan(ctx, answers, prompt) and scan.how is not How.SCANNED:
        raise Refusal("must_scan", f"This must be scanned, not {scan.how.value}: scan {kind.asked(ctx, answers)}.")
    read_as = kind.heard(ctx, answers, reading) or _read_as(ctx, reading)
    instead = kind.instead(ctx, dialogue, prompt, reading)
    if instead is not None:
        return evolve(instead, read_as=read_as)
    filled = kind.take(ctx, answers, reading)
    if isinstance(filled, Answers):
        return evolve(settled(ctx, filled, passed(dialogue)), read_as=read_as)
    return Step(answers, passed(dialogue), filled, read_as=read_as)


STEPS_BACK = 12
"""So many questions a worker may step back. Looking up goes on for as long as she likes, and its log must not grow."""


def passed(dialogue: Dialogue) -> tuple[Answers, ...]:
    """What may be stepped back to after the question that is answered now."""
    return (*dialogue.past, dialogue.answers)[-STEPS_BACK:]


def _read_as(ctx: Context, reading: Reading) -> str:
    """What a scan was read as, for the log: ``item `ROPE-12` Braided rope 12 mm, coil``."""
    if reading.kind is Read.UNKNOWN:
        return "unknown"
    if reading.item and reading.unit:
        item = ctx.ground.items[reading.item]
        unit = f", {item.unit(reading.unit).name}" if reading.says_unit or not ctx.asks_unit else ""
        return f"{told(reading)} {item.name}{unit}"
    return told(reading)


def settled(ctx: Context, answers: Answers, past: tuple[Answers, ...]) -> Step:
    """Fill what is known without asking; when a line is complete, turn it into acts."""
    acts: tuple[Named, ...] = ()
    prompt = None
    for _ in range(len(ctx.flow.prompts) + 1):
        prompt = current(ctx, answers)
        if prompt is None:
            act, kept = ctx.kind.complete(ctx, answers)
            return Step(_kept_for_the_next(ctx, answers, kept), (), acts=(*acts, act), ended=True)
        filled = _without_asking(ctx, answers, prompt)
        if filled is None:
            break
        answers = filled
    noted = _noted(ctx, answers)
    begun, answers = ctx.kind.between(ctx, answers, prompt)
    if begun:
        answers = answers.having(AGAIN, noted)
    acts = (*acts, *begun)
    return Step(answers, past if not acts else (), acts=acts)


def _without_asking(ctx: Context, answers: Answers, prompt: Prompt) -> Answers | None:
    kind = ctx.prompt(prompt.asks)
    given = kind.given(ctx, answers)
    if given is not None:
        return given
    said = _said_before(ctx, answers, prompt)
    if said is not None:
        return said
    if not prompt.skip_single:
        return None
    picks = list(kind.picks(ctx, answers))
    if len(picks) != 1:
        return None
    filled = kind.take(ctx, answers, read(Scan(picks[0].value, How.TAPPED), kind.reads, ctx.state, ctx.today))
    return filled if isinstance(filled, Answers) else None


def _said_before(ctx: Context, answers: Answers, prompt: Prompt) -> Answers | None:
    """The answer the analyst fixed, or that of the line before; None when there is none, or when it is none now."""
    kind = ctx.prompt(prompt.asks)
    said = (prompt.fixed if kind.fixable else "") or dict(_pairs(answers)).get(prompt.id, "")
    if not said:
        return None
    try:
        filled = kind.take(ctx, answers, read(Scan(said, How.TAPPED), kind.reads, ctx.state, ctx.today))
    except Refusal:
        return None
    return filled if isinstance(filled, Answers) else None


def _kept_for_the_next(ctx: Context, answers: Answers, kept: Answers) -> Answers:
    """What stays after a line: what lasts by itself but is to be asked each time goes, what is to be asked once is noted."""
    for prompt in ctx.machine.used(ctx.flow):
        if prompt.each is Each.LINE:
            kept = kept.without(*ctx.prompt(prompt.asks).lasts)
    return kept.having(AGAIN, _noted(ctx, answers))


def _noted(ctx: Context, answers: Answers) -> tuple[str, ...]:
    """What was answered to prompts that are asked once, with what was noted before."""
    noted: dict[str, str] = dict(_pairs(answers))
    for prompt in ctx.machine.used(ctx.flow):
        if prompt.each is Each.ONCE and (said := ctx.prompt(prompt.asks).again(answers)):
            noted[prompt.id] = said
    return tuple(text for pair in noted.items() for text in pair)


def _pairs(answers: Answers) -> Iterable[tuple[str, str]]:
    kept = answers[AGAIN]
    return zip(kept[::2], kept[1::2], strict=True)


def answers_itself(ctx: Context, answers: Answers) -> bool:
    """Was the answer to the question that stands now said before?"""
    prompt = current(ctx, answers)
    return prompt is not None and _said_before(ctx, answers, prompt) is not None


def refilled(ctx: Context, answers: Answers) -> Answers:
    """The answers at the beginning of the next line, with what was said before filled in; never all of them: something is
    always asked."""
    now = answers
    while (prompt := current(ctx, now)) is not None:
        filled = _said_before(ctx, now, prompt)
        if filled is None or filled == now:
            return now
        now = filled
    return answers


class Confirm(ButtonKind):
    """Takes the number that is offered."""

    action = "confirm"

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if prompt is None or ctx.prompt(prompt.asks).reads is not Read.NUMBER:
            return Refusal("nothing_to_confirm", "There is nothing to confirm here.")
        if ctx.prompt(prompt.asks).proposal(ctx, dialogue.answers, prompt) is None:
            return Refusal("no_proposal", "Enter how many; there is no number to confirm.")
        return None

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return f"Confirm {question.proposal}"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        prompt = current(ctx, dialogue.answers)
        assert prompt is not None
        kind = ctx.prompt(prompt.asks)
        proposal = kind.proposal(ctx, dialogue.answers, prompt)
        assert proposal is not None
        return settled(ctx, kind.confirmed(ctx, dialogue.answers, proposal), ())


CONFIRM = Confirm()
OFFERED_BY_ALL = {CONFIRM.action, "yes", "no", "back", "leave"}
"""The names of the buttons that belong to no flow."""


def buttons(ctx: Context) -> tuple[ButtonKind, ...]:
    """The buttons a flow may offer, in the order in which they stand."""
    return (CONFIRM, *ctx.kind.buttons, *ctx.machine.everywhere)


def pressed(ctx: Context, dialogue: Dialogue, action: str, line: int | None = None, count: str | None = None) -> Step:
    """One button; refused unless it is offered."""
    if action in ("yes", "no"):
        return _doubt_answered(ctx, dialogue, action == "yes")
    if dialogue.doubt:
        raise Refusal("answer_first", "Answer the question first: yes or no.")
    button = next((b for b in buttons(ctx) if b.action == action), None)
    if button is None:
        raise Refusal("not_now", f"{ctx.flow.name} has no such button. Look at the question and answer that.")
    refused = button.unless(ctx, dialogue, current(ctx, dialogue.answers))
    if refused:
        raise refused
    return button.pressed(ctx, dialogue, line, count)


def moved_on(ctx: Context, action: str) -> str:
    """What is said of a press that only moved the dialogue."""
    if action == "no":
        return "No, then."
    return next((b.says for b in buttons(ctx) if b.action == action), "") or "Done."


def _doubt_answered(ctx: Context, dialogue: Dialogue, yes: bool) -> Step:
    doubt = dialogue.doubt
    if doubt is None or (yes and doubt.asks != "yes_no"):
        raise Refusal("nothing_to_confirm", "There is no question to answer with yes or no.")
    return settled(ctx, doubt.then, ()) if yes else Step(dialogue.answers, dialogue.past)


def stepped_back(dialogue: Dialogue) -> Step:
    """The question before, within the line."""
    if dialogue.doubt:
        return Step(dialogue.answers, dialogue.past)
    if not dialogue.past:
        raise Refusal(
            "nothing_before", "There is nothing to step back to. What is on the plate already is changed in its list."
        )
    return Step(dialogue.past[-1], dialogue.past[:-1])


def ask(ctx: Context, dialogue: Dialogue) -> Question:
    """What the handset shows now."""
    answers, doubt = dialogue.answers, dialogue.doubt
    so_far, earlier = ctx.kind.listed(ctx, answers)
    base = Question(
        dialogue=dialogue.number, step=dialogue.step, flow=ctx.flow.name, asks="", title="", shape="doubt",
        plate=answers[PLATE] or "", so_far=so_far, earlier=earlier,
    )  # fmt: skip
    if so_far:
        name, title = ctx.kind.list_told(ctx, answers)
        base = evolve(base, list_name=name, list_title=title)
    if doubt:
        yes_no = doubt.asks == "yes_no"
        # the safe choice first: who confirms without reading goes back
        replies = (Button("no", "No, go back"), Button("yes", doubt.yes)) if yes_no else (Button("no", "Not here"),)
        return evolve(
            base, asks=doubt.asks, title=doubt.says, buttons=(*replies, Button("leave", "Leave")),
            keys="none" if yes_no else "text",
        )  # fmt: skip
    prompt = current(ctx, answers)
    if prompt is None:
        return evolve(base, asks="nothing", title="This flow asks nothing more", buttons=(Button("leave", "Leave"),))
    kind = ctx.prompt(prompt.asks)
    turn, turns = _turn(ctx, answers, prompt)
    proposal = kind.proposal(ctx, answers, prompt)
    question = evolve(
        base,
        prompt=prompt.id,
        asks=prompt.asks.value,
        title=prompt.words or kind.title(ctx, answers),
        shape=kind.shape,
        keys=kind.keys,
        picks=() if kind.must_scan(ctx, answers, prompt) else tuple(kind.picks(ctx, answers)),
        facts=_facts(ctx, answers),
        proposal="" if proposal is None else str(proposal),
        turn=turn,
        turns=turns,
        must_scan=kind.must_scan(ctx, answers, prompt),
        picture=ctx.item(answers).picture if answers[ITEM] else "",
    )
    question = evolve(question, **kind.shows(ctx, answers, prompt))
    of_line = [
        OfLine(b.action, b.label(ctx, answers, question), b.counts)
        for b in ctx.kind.buttons
        if so_far and b.of_line and b.unless(ctx, dialogue, prompt) is None
    ]
    return evolve(question, buttons=_offered(ctx, dialogue, prompt, question), of_line=tuple(of_line))


SHOWN = 4
"""So many of the latest serial numbers are shown."""


def _facts(ctx: Context, answers: Answers) -> tuple[str, ...]:
    facts = []
    if answers[ITEM]:
        facts.append(f"`{answers[ITEM]}` {ctx.item(answers).name}")
    if answers[EXPIRY]:
        facts.append(f"expires {answers.known(EXPIRY).isoformat()}")
    if answers[LOT]:
        facts.append(f"lot `{answers[LOT]}`")
    if answers[SERIALS]:
        facts.append(f"{len(answers[SERIALS])} scanned: {', '.join(f'`{n}`' for n in answers[SERIALS][-SHOWN:])}")
    return tuple(facts)


def _turn(ctx: Context, answers: Answers, prompt: Prompt) -> tuple[int, int]:
    """The how-manyeth question of how many, among those asked once or those asked for each line."""
    blank = answers.only(ITEM, UNIT, UNIT_SAID, UNIT_ASKED)
    applying = [
        p
        for p in ctx.machine.used(ctx.flow)
        if p.each is prompt.each and (p.id == prompt.id or ctx.prompt(p.asks).counts(ctx, blank))
    ]
    return applying.index(prompt) + 1, len(applying)


def _offered(ctx: Context, dialogue: Dialogue, prompt: Prompt, question: Question) -> tuple[Button, ...]:
    found = [
        Button(b.action, b.label(ctx, dialogue.answers, question))
        for b in buttons(ctx)
        if not b.of_line and b.unless(ctx, dialogue, prompt) is None
    ]
    if dialogue.past:
        found.append(Button("back", "Step back"))
    return (*found, Button("leave", "Leave"))


def open_work(ctx: Context) -> str:
    """How much waits to be done by a flow, for the menu; empty where nothing is counted."""
    count = ctx.kind.open_work(ctx)
    return "" if count is None else f"{MUCH} or more" if count >= MUCH else str(count)


def carried_text(ctx: Context, answers: Answers) -> str:
    """What stays as it is when the dialogue is left now."""
    unfinished = ctx.kind.unfinished(ctx, answers)
    if unfinished:
        return f" {unfinished}; open the flow again to go on with it."
    found = ""
    for purpose, kind in ctx.machine.flows.items():
        carried = kind.carried(ctx)
        if carried:
            found += f" You still carry {', '.join(carried)}; {_how_placed(ctx, purpose)}"
    return found


def _how_placed(ctx: Context, purpose: FlowPurpose) -> str:
    """By which flow something is placed that is carried by flows of this purpose."""
    if ctx.kind.places(ctx, purpose):
        return "open the flow again to place it."
    menu = ctx.rulebook.menu_for(ctx.state.settings.site, ctx.crews)
    other = next((f.name for f in menu if f.purpose is purpose), None)
    return f"open {other} to place it." if other else "no flow on your menu places it: tell the analyst."
