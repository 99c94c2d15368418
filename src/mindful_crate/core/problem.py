"""Errors that a person can cause are values: a code for programs, a sentence for people, the place."""

from __future__ import annotations

from mindful_crate.core.record import record


@record
class Problem:
    """Something refused. ``says`` tells what is so and what to do; codes in it stand in `backticks`."""

    code: str
    says: str
    place: str = ""
    by: str = ""
    """The place of the rulebook whose rule refuses it, where one does."""


class Refusal(Exception):
    """Carries a :class:`Problem` out of a decision; ``decide`` turns it into the logged outcome."""

    def __init__(self, code: str, says: str, place: str = "", by: str = "") -> None:
        super().__init__(says)
        self.problem = Problem(code, says, place, by)
