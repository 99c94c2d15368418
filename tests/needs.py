"""The table of needs: for each number, which step of which rehearsal shows it by what it pins, or which test drives it on a screen.

``python -m tests.needs`` writes it anew. A number counts only where something is pinned: a step that shows one without an expectation is
an error, and so is a number that is none.
"""

from __future__ import annotations

import ast
from collections.abc import Iterator

from mindful_crate.demo.loader import demo_rehearsals
from tests.conftest import ROOT

HOW_MANY = {
    "A": 35, "B": 49, "C": 40, "D": 13, "E": 22, "F": 21, "G": 15, "H": 22, "I": 40, "J": 19, "K": 14, "L": 18, "M": 5, "N": 21,
    "O": 15, "P": 11, "Q": 10, "R": 20,
}  # fmt: skip
"""How many needs there are under each letter."""
ABOUT = {
    "A": "site and master data", "B": "set-up of steps, rules, recipes, flows", "C": "receiving", "D": "inspection, degrees of arrival",
    "E": "put-away", "F": "stock and looking back", "G": "replenishment and moves", "H": "cover and release", "I": "picking",
    "J": "packing", "K": "loading and shipping", "L": "counting", "M": "replenishment", "N": "the handset", "O": "why, and why not",
    "P": "papers and devices", "Q": "who and where", "R": "proving",
}  # fmt: skip
WHY_NOT = {
    "B07": "a need pulls one movement, a refill; a chain of several back from the need is not made",
    "F14": "what production uses up the host knows; the floor is told of what is made",
    "H17": "the host confirms, or its stand-in; the floor does not force it",
    "N05": "what was not answered is kept and sent again; beyond that nothing is taken without the network",
    "N06": "lines are not loaded to a handset beforehand; without the network nothing new is begun",
}
"""Why some are not shown."""
PATH = ROOT / "docs" / "needs.md"
NUMBERS = [f"{letter}{n:02}" for letter, many in HOW_MANY.items() for n in range(1, many + 1)]


def in_rehearsals() -> Iterator[tuple[str, str]]:
    """Numbers with the rehearsal and the step, or the end, that shows them. ValueError where nothing is pinned."""
    for script in demo_rehearsals():
        for step in script.steps:
            if step.shows and not step.expect:
                raise ValueError(f"{script.id}, {step.id} shows {', '.join(step.shows)} and pins nothing")
            yield from ((number, f"rehearsal *{script.name}*, step {step.id[1:]}") for number in step.shows)
        if script.shows and not script.at_end:
            raise ValueError(f"{script.id} shows {', '.join(script.shows)} at its end and pins nothing there")
        yield from ((number, f"rehearsal *{script.name}*, at the end") for number in script.shows)


def on_screens() -> Iterator[tuple[str, str]]:
    """Numbers with the test that drives the real screen: those named by its mark ``needs``."""
    for path in sorted((ROOT / "tests" / "browser").glob("test_*.py")):
        for part in ast.parse(path.read_text()).body:
            if isinstance(part, ast.FunctionDef):
                for mark in part.decorator_list:
                    if (
                        isinstance(mark, ast.Call)
                        and isinstance(mark.func, ast.Attribute)
                        and mark.func.attr == "needs"
                    ):
                        yield from (
                            (str(a.value), f"on a screen, `{path.stem}.{part.name}`") for a in mark.args if isinstance(a, ast.Constant)
                        )  # fmt: skip


def table() -> str:
    """The whole table as it is published. ValueError for a number that is none."""
    shown: dict[str, list[str]] = {}
    for number, where in (*in_rehearsals(), *on_screens()):
        if number not in NUMBERS:
            raise ValueError(f"{number}, of {where}, is no need")
        shown.setdefault(number, []).append(where)
    lines = [
        "# Needs, and what shows them", "",
        f"{len(shown)} of {len(NUMBERS)} needs are shown: by a step of a rehearsal that pins what comes of it, or by a test that drives the "
        "real screen. Made by `python -m tests.needs`; a test holds that it is what the rehearsals and tests say.", "",
    ]  # fmt: skip
    for letter, about in ABOUT.items():
        numbers = [n for n in NUMBERS if n[0] == letter]
        done = [n for n in numbers if n in shown]
        lines += [f"## {letter}: {about} ({len(done)} of {len(numbers)})", ""]
        if done:
            lines += ["| need | shown by |", "| --- | --- |", *(f"| {n} | {'; '.join(shown[n])} |" for n in done), ""]
        missing = [n for n in numbers if n not in shown]
        if missing:
            lines += [f"Not yet: {', '.join(missing)}.", *(f"{n}: {WHY_NOT[n]}." for n in missing if n in WHY_NOT), ""]
    return "\n".join(lines).rstrip() + "\n"


if __name__ == "__main__":
    PATH.write_text(table())
