"""What was found out about a value, kept as long as the value is among the latest that were asked about.

Rulebooks and their parts never change and are asked the same with every scan; they are known again by being the same object, since
to hash one costs more than most answers."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

T = TypeVar("T")
MOST_VALUES, MOST_ANSWERS = 200, 20_000


class Memo:
    """Answers by value, and by what was asked of it."""

    def __init__(self) -> None:
        self._of: dict[int, tuple[object, dict[Any, Any]]] = {}

    def answer(self, value: object, asked: Any, find: Callable[[], T]) -> T:
        """What ``find`` answers, found once for each value and question."""
        held = self._of.get(id(value))
        if held is None or held[0] is not value:  # an id comes back once its object is gone
            if len(self._of) >= MOST_VALUES:
                self._of.clear()
            held = self._of[id(value)] = (value, {})
        answers = held[1]
        try:
            found: T = answers[asked]
        except KeyError:
            if len(answers) >= MOST_ANSWERS:
                answers.clear()
            found = answers[asked] = find()
        return found
