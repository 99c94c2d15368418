"""How its events change a state: labels and printers."""

from __future__ import annotations

from mindful_crate.core.floor.prints import Print
from mindful_crate.core.floor.state import State
from mindful_crate.core.record import evolve
from mindful_crate.core.work.printing.events import LabelsSent, PrintDropped, PrinterChosen, PrinterSet, PrintMoved
from mindful_crate.core.work.rows import folding
from mindful_crate.core.work.stamp import At


def _sent(state: State, e: LabelsSent, at: At) -> None:
    made = Print(
        e.number(at.seq), e.labels, e.copies, e.by, at.stamp.at, at.seq, e.turn, e.printer, e.by_rule, why=e.why
    )
    state.prints.send(made, at.stamp.at)


def _moved(state: State, e: PrintMoved, at: At) -> None:
    state.prints.send(evolve(state.prints[e.number], printer=e.printer, why=""), at.stamp.at)


def _dropped(state: State, e: PrintDropped, _: At) -> None:
    state.prints.put(e.number, None)


def _set(state: State, e: PrinterSet, at: At) -> None:
    state.prints.set(e.printer, e.condition, at.stamp.at)


def _chosen(state: State, e: PrinterChosen, _: At) -> None:
    state.printers_chosen.put(e.device, e.printer)


FOLDS = (
    folding(LabelsSent, _sent),
    folding(PrintMoved, _moved),
    folding(PrintDropped, _dropped),
    folding(PrinterSet, _set),
    folding(PrinterChosen, _chosen),
)
"""How its events change a state."""
