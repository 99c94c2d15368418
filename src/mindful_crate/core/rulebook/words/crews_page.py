"""The page of crews: who is in them, what they see and what they do."""

from __future__ import annotations

from collections.abc import Iterator

from mindful_crate.core.rulebook.chapter import Act, Add, Chapter, Draw, Note, Row, Section, layer_acts
from mindful_crate.core.rulebook.edits import Edit
from mindful_crate.core.rulebook.flows import Crew
from mindful_crate.core.rulebook.steps import Need
from mindful_crate.core.rulebook.words.parts import just


def draw(what: Draw, tab: str) -> Chapter:
    """All crews."""
    crews = Section(
        "crews", "cards", called="Crew", empty="There is no crew yet: nobody sees a flow or takes a task. Add the first one.",
        add=(Add("Add a crew", "crews", "A crew was added."),), rows=tuple(_crew(what, c) for c in what.book.crews),
    )  # fmt: skip
    lead = "People see the flows on the menus of their crews, and take the tasks that recipes make for them. Who belongs to which crew is said on People."
    return Chapter("crews", "Crews", lead, sections=(crews,))


def _crew(what: Draw, crew: Crew) -> Row:
    path = f"crews/{crew.id}"
    menus = [m for m in what.book.menus if m.crew == crew.id]
    gone = tuple(Edit("remove", f"menus/{m.id}") for m in menus)
    acts = layer_acts(path, crew.name, crew, what.site) if crew.site is not None else ()
    remove = Act("remove", "Remove", (*gone, Edit("remove", path)), f"{crew.name} was removed.", look=True)
    return Row(
        crew.id, path, tuple(just(says) for says in _does(what, crew)), what.word(crew.name, f"{path}/name", "name"),
        for_all=crew.site is None, notes=(*_people(what, crew), *what.notes(path)), acts=(*acts, remove),
    )  # fmt: skip


def _people(what: Draw, crew: Crew) -> Iterator[Note]:
    """Who is in it, as far as that is known here."""
    if what.members is not None:
        people = what.members.get(crew.id, ())
        says = f"In it: {', '.join(f'@{p}' for p in people)}" if people else "Nobody is in it yet"
        yield Note("fact", "information", says, link="people")


def _does(what: Draw, crew: Crew) -> Iterator[str]:
    """What it sees, and what tasks and steps are its own."""
    flows = [f.name for f in what.book.menu_for(what.site, (crew.id,))]
    yield f"Sees {', '.join(flows)}." if flows else "Sees nothing: it has no menu, or an empty one."
    recipes = what.book.recipes_for(what.site, Need.PUT_AWAY)
    mine = [
        str(n) for n, r in enumerate(recipes, start=1) if r.on and crew.id in (r.crew, *(leg.crew for leg in r.legs))
    ]
    yield f" Takes tasks by recipe {', '.join(mine)}." if mine else " No recipe makes tasks for it."
    steps = [
        f"{name} by {p.name}" for p in what.book.step_plans if p.on
        for name, step in (("unload", p.unload), ("receive", p.receive), ("inspect", p.inspect)) if step.on and step.crew == crew.id
    ]  # fmt: skip
    if steps:
        yield f" Alone it may {', '.join(steps)}."
