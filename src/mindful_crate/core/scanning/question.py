"""What the handset shows: one question, worked out from dialogue and state each time it is asked for."""

from __future__ import annotations

from typing import Literal

from mindful_crate.core.catalog.ids import DialogueNo, PromptId
from mindful_crate.core.record import record

Shape = Literal["ticket", "carton", "pallet", "bin", "number", "calendar", "doubt"]
Keys = Literal["scan", "number", "date", "text", "none"]


@record
class Pick:
    """Something on the screen that can be tapped instead of scanned."""

    value: str
    label: str
    note: str = ""
    kind: str = ""
    """Of which kind it is, where a list has several."""
    day: str = ""
    """The day it is promised for."""


@record
class Button:
    """An act the worker may press."""

    action: str
    label: str


@record
class OfLine:
    """An act the worker may press beside a line of what is so far; ``counts``: how many are meant is said with it."""

    action: str
    label: str
    counts: bool


@record
class SoFar:
    """One line of what is so far: on the plate being built, in the carton, or picked."""

    line: int
    code: str
    label: str
    told: str
    count: str
    unit: str
    rest: str = ""
    """What is said of the rest of its line: what is still open of it, or that nothing is."""


@record
class Question:
    """One question of a dialogue. ``expect`` is the code awaited, if it is known; ``turn`` of ``turns`` says how far the line is."""

    dialogue: DialogueNo
    step: int
    flow: str
    asks: str
    title: str
    shape: Shape
    prompt: PromptId | None = None
    expect: str = ""
    note: str = ""
    facts: tuple[str, ...] = ()
    picks: tuple[Pick, ...] = ()
    proposal: str = ""
    unit: str = ""
    keys: Keys = "scan"
    buttons: tuple[Button, ...] = ()
    turn: int = 0
    turns: int = 0
    plate: str = ""
    so_far: tuple[SoFar, ...] = ()
    earlier: int = 0
    """So many lines come before those of ``so_far`` and are not listed."""
    list_name: str = ""
    """What leads to those lines, in two words at most."""
    list_title: str = ""
    """What they are."""
    of_line: tuple[OfLine, ...] = ()
    """What may be done with one of them."""
    must_scan: bool = False
    picture: str = ""
    """The name of the picture of the item it is about."""
    photo: bool = False
    """May a photo be the answer?"""
