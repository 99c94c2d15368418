"""What a change of steps and recipes makes, alters and leaves behind, said before it is saved."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.proving.effects import effects
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.recipes import Leg
from mindful_crate.core.rulebook.steps import Begins, Found, InspectStep, Need, Only, PutAwayStep, ReceiveStep
from tests.core.test_recipes import HAZARD, HQ, LANE, received, tasks
from tests.playbook import Play


def said(play: Play, after: Rulebook) -> str:
    return "\n".join(effects(play.world.rulebook, after, play.state))


def otherwise(book: Rulebook, **plan: Any) -> Rulebook:
    return replace(book, step_plans=(replace(book.step_plans[0], **plan), *book.step_plans[1:]))


def test_it_is_said_what_becomes_of_orders_goods_and_work(ground: Ground, rulebook: Rulebook) -> None:
    """Each change by what it does: lines by another plan or none, tasks that come or go, what waits, what is under way; nothing
    of a change of words alone."""
    play = received(ground, rulebook, 2)
    book = rulebook
    first = book.step_plans[0]
    assert said(play, book) == "" and said(play, otherwise(book, name="Otherwise")) == ""
    off = said(play, otherwise(book, put_away=PutAwayStep(False)))
    assert (
        "No put-away task is made of what Purchase receipts receives: it stays in `RCV-01`. 2 tasks that are open stay"
        in off
    )
    back = "\n".join(effects(otherwise(book, put_away=PutAwayStep(False)), book, play.state))
    assert "becomes put-away tasks, for Instrument store, Reach crew or Quay crew." in back
    assert "begins on demand" in said(play, otherwise(book, put_away=PutAwayStep(begins=Begins.ON_DEMAND)))
    assert "is inspected from now on, at the first bin of Inspection lanes" in said(
        play,
        otherwise(book, inspect=InspectStep(True, Found("INS"))),  # type: ignore[arg-type]
    )
    gone = said(play, replace(book, step_plans=book.step_plans[1:]))
    assert "received by no plan any more, and on no handset." in gone and "`PO-1001`" in gone
    rope = replace(first, id="SP-9", name="Rope", only=Only(group="Rope"))  # type: ignore[arg-type]
    moved = said(play, replace(book, step_plans=(*book.step_plans, rope)))
    assert "go by Rope instead of Purchase receipts." in moved
    assert "stands in `RCV-04`" in said(play, otherwise(book, receive=ReceiveStep("RCV-04")))  # type: ignore[arg-type]


def test_hand_overs_and_what_recipes_made_are_told(ground: Ground, rulebook: Rulebook) -> None:
    """A hand-over that comes, changes or goes; tasks that stay as they are; goods at a hand-over whose recipe goes."""
    recipe = replace(rulebook.recipes_for(HQ, Need.PUT_AWAY)[-1], legs=(replace(LANE, next=Begins.ON_DEMAND),))
    book = replace(rulebook, recipes=(recipe,))
    plain = replace(rulebook, recipes=tuple(rulebook.recipes_for(HQ, Need.PUT_AWAY)[-1:]))
    play = received(ground, book, 2)
    one, _ = tasks(play)
    play.opens("F-PUTAWAY").scan(one.plate).scan(one.to_bin).done("waits in")
    comes = "\n".join(effects(plain, book, play.state))
    assert (
        "A hand-over comes by recipe 1: a task of Hazard crew to the first bin of Staging that has room, and one more from there."
        in comes
    )
    goes = said(play, plain)
    assert (
        "A hand-over of recipe 1 goes: no task of Hazard crew" in goes
        and "1 task made by recipe 1 stays as it is." in goes
    )
    other = replace(recipe, legs=(Leg(LANE.id, HAZARD, Found("XDK")),))  # type: ignore[arg-type]
    assert "changes: a task of Hazard crew to the first bin of Cross-dock lanes" in said(
        play, replace(book, recipes=(other,))
    )
    away = said(play, replace(book, recipes=(replace(rulebook.recipes_for(HQ, Need.PUT_AWAY)[-1], id="RE-9"),)))  # type: ignore[arg-type]
    assert "1 thing waits at a hand-over of recipe 1, and goes on by the first recipe whose conditions hold." in away
    crew = said(play, replace(book, recipes=(replace(recipe, crew=HAZARD),)))
    assert "New tasks of recipe 1 are for Hazard crew instead of Quay crew." in crew
