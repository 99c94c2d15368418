"""What a change of step plans and recipes makes, alters and leaves behind, said before it is saved: on the open lines of a site, on
what becomes of goods, and on what is under way on its floor."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from mindful_crate.core.catalog.ids import RecipeId
from mindful_crate.core.floor.state import State
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.recipes import Leg, Recipe
from mindful_crate.core.rulebook.steps import Begins, Need, StepPlan
from mindful_crate.core.rulebook.words.parts import Names, any_of, counted
from mindful_crate.core.rulebook.words.recipes import crew_name
from mindful_crate.core.rulebook.words.steps import BEGINS, place_told

NAMED = 4
"""So many orders are named before it is said how many more there are."""


def effects(before: Rulebook, after: Rulebook, state: State) -> list[str]:
    """In sentences, for the floor of a site as it stands; nothing when plans and recipes stay as they are."""
    if (before.step_plans, before.recipes, before.order_classes) == (
        after.step_plans,
        after.recipes,
        after.order_classes,
    ):
        return []
    return [
        *_classes(before, after, state),
        *_lines(before, after, state),
        *_plans(before, after, state),
        *_recipes(before, after, state),
    ]


def _classes(before: Rulebook, after: Rulebook, state: State) -> Iterator[str]:
    """Open orders that are of another class from then on."""
    ground = state.ground
    moved: dict[tuple[str, str], dict[str, None]] = {}
    asked = state.open_orders() if before.order_classes != after.order_classes else ()
    for order in sorted(asked, key=lambda o: o.number):
        was, now = (b.class_of(ground, order) for b in (before, after))
        if (was and was.id) != (now and now.id):
            moved.setdefault((was.name if was else "", now.name if now else ""), {})[order.number] = None
    for (was_name, now_name), orders in moved.items():
        which = f"{counted(len(orders), 'open order')} ({_listed(orders)}) {'is' if len(orders) == 1 else 'are'}"
        yield f"{which} {f'of class {now_name}' if now_name else 'of no class'} then, and {f'of class {was_name}' if was_name else 'of none'} now."


def _lines(before: Rulebook, after: Rulebook, state: State) -> Iterator[str]:
    """Open lines that another plan receives, or none any more."""
    site, ground = state.settings.site, state.ground
    moved: dict[tuple[str, str], tuple[int, dict[str, None]]] = {}
    names = {str(p.id): p.name for p in (*before.step_plans, *after.step_plans)}
    for order in sorted(state.all_orders(), key=lambda o: (o.promised, o.number)):
        if order.site != site or not order.inbound or state.is_cancelled(order.number):
            continue
        for line in order.lines:
            if state.open_quantity(order, line) <= 0:
                continue
            was, now = (b.plan_for(b.asked(ground, order, line.item)) for b in (before, after))
            key = was.id if was else "", now.id if now else ""
            if key[0] != key[1]:
                count, orders = moved.get(key, (0, {}))
                moved[key] = count + 1, {**orders, order.number: None}
    for (was_id, now_id), (count, orders) in moved.items():
        which = f"{counted(count, 'open line')} ({_listed(orders)})"
        if not now_id:
            yield f"{which} {_is(count)} received by no plan any more, and on no handset."
        elif not was_id:
            yield f"{which} {_is(count)} received now, by {names[now_id]}."
        else:
            yield f"{which} {'goes' if count == 1 else 'go'} by {names[now_id]} instead of {names[was_id]}."


def _plans(before: Rulebook, after: Rulebook, state: State) -> Iterator[str]:
    """What becomes of goods of a plan that says otherwise."""
    site, names = state.settings.site, Names(state.ground)
    old = {p.id: p for p in before.step_plans}
    waiting = len(state.rests)
    for plan in after.step_plans:
        was = old.get(plan.id)
        if was is None or was == plan or plan.site not in (None, site) or not (was.on and plan.on):
            continue
        yield from _put_away(was, plan, after, state, names)
        for step, does in (("unload", "unloaded"), ("inspect", "inspected")):
            one, other = getattr(was, step), getattr(plan, step)
            if other.on and not one.on:
                yield f"What {plan.name} receives is {does} from now on, at {place_told(other.at, names)}: a step more."
            elif one.on and not other.on:
                yield f"What {plan.name} receives is {does} no more: a step less."
        if was.receive.into != plan.receive.into:
            there = sum(1 for p in state.building() if p.stands == was.receive.into)
            told = f"What {plan.name} receives stands in {place_told(plan.receive.into, names)}"
            yield told + (
                f"; {counted(there, 'plate')} being built {_is(there)} finished where begun." if there else "."
            )
        if was.put_away.begins is Begins.ON_DEMAND and plan.put_away.begins is Begins.ON_ARRIVAL and waiting:
            yield f"{counted(waiting, 'thing')} {'waits' if waiting == 1 else 'wait'} for a task already, and {'stays' if waiting == 1 else 'stay'} on the list of Work until one is made."
    under_way = [p for p in state.building() if p.lines]
    if under_way and before.step_plans != after.step_plans:
        yield f"{counted(len(under_way), 'plate')} {_is(len(under_way))} being built on the floor: {_it(len(under_way))} finished by what the plans say then."


def _put_away(was: StepPlan, plan: StepPlan, after: Rulebook, state: State, names: Names) -> Iterator[str]:
    one, other = was.put_away, plan.put_away
    open_ = sum(1 for t in state.tasks.values() if t.need is Need.PUT_AWAY)
    if one.on and not other.on:
        stay = (
            f" {counted(open_, 'task')} that {_is(open_)} open {'stays' if open_ == 1 else 'stay'} and may be done."
            if open_
            else ""
        )
        yield f"No put-away task is made of what {plan.name} receives: it stays in {place_told(plan.receive.into, names)}.{stay}"
    elif other.on and not one.on:
        recipes = [r for r in after.recipes_for(state.settings.site, Need.PUT_AWAY) if r.on]
        crews = any_of(dict.fromkeys(crew_name(after.crews, r.crew) for r in recipes)) if recipes else "nobody"
        yield f"What {plan.name} receives becomes put-away tasks, for {crews}."
    elif other.on and one.begins is not other.begins:
        yield f"Put-away of what {plan.name} receives begins {BEGINS[other.begins]}" + (
            "." if other.begins is Begins.ON_ARRIVAL else ": until then it waits under Work."
        )
    if other.on and one.on and one.at != other.at:
        yield f"What {plan.name} receives is put away into {place_told(other.at, names)}" + (
            f"; {counted(open_, 'task')} made before keep{'s' if open_ == 1 else ''} the bin." if open_ else "."
        )


def _recipes(before: Rulebook, after: Rulebook, state: State) -> Iterator[str]:
    """Hand-overs that come and go, crews that change, and what was made by a recipe that is another now."""
    site, names = state.settings.site, Names(state.ground)
    old, new = ({r.id: r for r in b.recipes_for(site, Need.PUT_AWAY) if r.on} for b in (before, after))
    numbers = {r.id: n for b in (before, after) for n, r in enumerate(b.recipes_for(site, Need.PUT_AWAY), start=1)}
    if new and not old:
        crews = any_of(dict.fromkeys(crew_name(after.crews, r.crew) for r in new.values()))
        yield f"The first recipe: what is to be put away becomes tasks, for {crews}."
    if old and not new:
        yield "No recipe is left: what is to be put away waits under Work, and no task is made of it."
    for id_ in dict.fromkeys((*old, *new)):
        was, now = old.get(id_), new.get(id_)
        if was == now:
            continue
        called = f"recipe {numbers[id_]}"
        yield from _hand_overs(was, now, called, after, before, names)
        if was and now and was.crew != now.crew:
            yield f"New tasks of {called} are for {crew_name(after.crews, now.crew)} instead of {crew_name(before.crews, was.crew)}."
        yield from _made_by(id_, now, called, state)
    if [*old] != [*new] and {*old} == {*new}:
        yield "The recipes are asked in another order: what several are for goes by the first of them."


def _hand_overs(
    was: Recipe | None, now: Recipe | None, called: str, after: Rulebook, before: Rulebook, names: Names
) -> Iterator[str]:
    legs_before, legs_now = (({leg.id: leg for leg in r.legs} if r else {}) for r in (was, now))
    for id_, leg in legs_now.items():
        if id_ not in legs_before:
            yield f"A hand-over comes by {called}: {_leg(leg, after, names)}"
        elif evolve(leg, next=legs_before[id_].next) != legs_before[id_]:
            yield f"A hand-over of {called} changes: {_leg(leg, after, names)}"
    for id_, leg in legs_before.items():
        if id_ not in legs_now:
            yield f"A hand-over of {called} goes: no task of {crew_name(before.crews, leg.crew)} to {place_told(leg.to, names)} is made any more."


def _leg(leg: Leg, book: Rulebook, names: Names) -> str:
    return f"a task of {crew_name(book.crews, leg.crew)} to {place_told(leg.to, names)}, and one more from there."


def _made_by(id_: RecipeId, now: Recipe | None, called: str, state: State) -> Iterator[str]:
    """Tasks and goods that a recipe has on their way."""
    tasks = sum(1 for t in state.tasks.values() if t.plan.recipe == id_)
    rests = sum(1 for r in state.rests.values() if r.recipe == id_)
    if tasks:
        yield f"{counted(tasks, 'task')} made by {called} {'stays' if tasks == 1 else 'stay'} as {'it is' if tasks == 1 else 'they are'}."
    if rests and now is None:
        yield f"{counted(rests, 'thing')} {'waits' if rests == 1 else 'wait'} at a hand-over of {called}, and {'goes' if rests == 1 else 'go'} on by the first recipe whose conditions hold."


def _listed(orders: Iterable[str]) -> str:
    listed = [f"`{o}`" for o in orders]
    more = len(listed) - NAMED
    return ", ".join(listed[:NAMED]) + (f" and {more} more" if more > 0 else "")


def _is(n: int) -> str:
    return "is" if n == 1 else "are"


def _it(n: int) -> str:
    return "it is" if n == 1 else "they are"
