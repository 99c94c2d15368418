"""Labels and printers: the button on the handset, words, and its row among the matters."""

from __future__ import annotations

from collections.abc import Sequence

from mindful_crate.core.catalog.ids import PrinterCode
from mindful_crate.core.floor.answers import Answers
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.floor.prints import STOPPED
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.flows import Prompt
from mindful_crate.core.rulebook.papers import PAPER_OF, Prints, When
from mindful_crate.core.rulebook.words.papers import TITLES
from mindful_crate.core.scanning.kinds import ButtonKind, Context, Step
from mindful_crate.core.scanning.question import Question
from mindful_crate.core.scanning.reading import Read
from mindful_crate.core.work.printing.acts import (
    ChoosePrinter,
    DropPrint,
    PrintAgain,
    PrintLabel,
    PrintNumbers,
    SetPrinter,
)
from mindful_crate.core.work.printing.decide import DECIDES, after
from mindful_crate.core.work.printing.events import LabelsSent, PrintDropped, PrinterChosen, PrinterSet, PrintMoved
from mindful_crate.core.work.printing.fold import FOLDS
from mindful_crate.core.work.printing.labels import called
from mindful_crate.core.work.rows import Matter, telling


class PrintButton(ButtonKind):
    """The label of what is in hand, or those of the goods on it, as a rule says that they may be asked for."""

    def __init__(self, prints: Sequence[Prints], action: str, says: str) -> None:
        self.prints = prints
        self.action = action
        self._label = says

    def _wanted(self, ctx: Context, dialogue: Dialogue) -> Prints | None:
        code = ctx.kind.in_hand(ctx, dialogue.answers)
        if not code:
            return None
        rules = ctx.rulebook.labels_for(ctx.state.settings.site, When.ASKED)
        return next((r.prints for r in rules if r.prints in self.prints), None)

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        if self._wanted(ctx, dialogue) is None:
            return Refusal("not_now", "There is nothing in hand whose label could be printed, or no rule says so.")
        return None

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return self._label

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        prints = self._wanted(ctx, dialogue)
        assert prints is not None
        act = PrintLabel(ctx.kind.in_hand(ctx, dialogue.answers), prints)
        return Step(dialogue.answers, dialogue.past, acts=(act,))


def _sent(e: LabelsSent) -> str:
    count = len(e.labels) * e.copies
    what = called(e.labels, len(e.labels))
    times = f", {e.copies} times" if e.copies > 1 and len(e.labels) == 1 else ""
    rule = f", by rule {e.by_rule}" if e.by_rule else ""
    return f"{what}{times} {'is' if count == 1 else 'are'} for " + (
        f"printer `{e.printer}`{rule}" if e.printer else f"no printer{rule}: {e.why}"
    )


def _set(e: PrinterSet) -> str:
    return f"printer `{e.printer}` {STOPPED.get(e.condition, f'is {e.condition.value}')}"


def _asked_label(a: PrintLabel) -> str:
    paper = {**{p: TITLES[x].lower() for p, x in PAPER_OF.items()}, Prints.PICKS: "pick list"}.get(a.prints)
    what = f"the {paper}" if paper else "the label" if a.prints is Prints.PLATE else "the labels of the goods"
    return f"The office prints {what} of `{a.code}`" + (f" on `{a.printer}`" if a.printer else "")


def _asked_again(a: PrintAgain) -> str:
    return f"The office prints `{a.number}` again" + (f" on `{a.printer}`" if a.printer else "")


def every_print_waits_for_a_reason(state: State) -> list[str]:
    """What is not printed says why, and what is has a time."""
    return [f"print {p.number} waits for no reason" for p in state.prints.values() if (p.due is None) != bool(p.why)]


PRINTING = Matter(
    "printing",
    DECIDES,
    FOLDS,
    (
        telling(LabelsSent, _sent),
        telling(PrintMoved, lambda e: f"print `{e.number}` is for printer `{e.printer}`"),
        telling(PrintDropped, lambda e: f"print `{e.number}` is dropped"),
        telling(PrinterSet, _set),
        telling(PrinterChosen, lambda e: f"handset `{e.device}` prints on `{e.printer}`"),
    ),
    asked=(
        telling(PrintLabel, _asked_label),
        telling(PrintNumbers, lambda a: f"The office prints labels for {a.count} plates to come"),
        telling(PrintAgain, _asked_again),
        telling(DropPrint, lambda a: f"The office drops print `{a.number}`"),
        telling(SetPrinter, lambda a: f"Printer `{a.printer}` {STOPPED.get(a.condition, f'is {a.condition.value}')}"),
    ),
    everywhere=(
        PrintButton((Prints.PLATE,), "print_label", "Print label"),
        PrintButton((Prints.UNIT, Prints.ITEM), "print_items", "Print item labels"),
    ),
    at_any_time={Read.PRINTER: lambda reading: ChoosePrinter(PrinterCode(reading.code))},
    after=after,
    invariants=(every_print_waits_for_a_reason,),
)
"""What it brings."""
