"""What was found out about a value, kept as long as the value is among the latest that were asked about.

Rulebooks and their parts never change and are asked the same with every scan; they are known again by being the same object, since
to hash one costs more than most answers."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Any, TypeVar

T = TypeVar("T")
MOST_VALUES, MOST_ANSWERS = 200, 20_000


class Memo:
    """Answers by value, and by what was asked of it."""

    def __init__(self, most: int = MOST_VALUES) -> None:
        self._most = most
        self._of: dict[int, tuple[object, dict[Any, Any]]] = {}

    def answer(self, value: object, asked: Any, find: Callable[[], T]) -> T:
        """What ``find`` answers, found once for each value and question."""
        held = self._of.get(id(value))
        if held is None or held[0] is not value:  # an id comes back once its object is gone
            if len(self._of) >= self._most:
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

    def about(self, value: object, asked: Any, thing: object, find: Callable[[], T]) -> T:
        """The same where something else is asked about, that never changes either: known again by being the same object, too."""
        known: dict[int, tuple[object, T]] = self.answer(value, asked, dict)
        held = known.get(id(thing))
        if held is None or held[0] is not thing:
            if len(known) >= MOST_ANSWERS:
                known.clear()
            held = known[id(thing)] = (thing, find())
        return held[1]


class Bounded(dict[Any, tuple[Any, ...]]):
    """Rows by a key, found once as long as all of them together are not more than so many; then begun anew."""

    def __init__(self, most: int) -> None:
        super().__init__()
        self.most, self.rows = most, 0

    def answer(self, asked: Any, find: Callable[[], Iterable[T]]) -> tuple[T, ...]:
        """What ``find`` answers."""
        found = self.get(asked)
        if found is None:
            found = tuple(find())
            self.rows += 1 + len(found)
            if self.rows > self.most:
                self.clear()
                self.rows = 1 + len(found)
            self[asked] = found
        return found
