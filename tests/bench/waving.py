"""What a wave costs: made of many released orders against few, for one line of them, stock kept and tasks made; and the board of a floor with many
waves against few."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from mindful_crate.core.catalog.ids import OrderNo, WavePlanId
from mindful_crate.core.proving.wave_board import board
from mindful_crate.core.rulebook.recipes import NO_CAPS
from mindful_crate.core.rulebook.waves import Method, WavePlan
from mindful_crate.core.world import acts
from mindful_crate.demo.loader import demo_rulebook
from tests.bench.big import few
from tests.bench.measures import Line, settle_down
from tests.bench.receiving import in_turns
from tests.bench.releases import LINES, ground_with
from tests.playbook import Play, new_world

PLAN = WavePlanId("WP-9")


def waving() -> Iterator[Line]:
    """Each method; then the board."""
    many = few(1_000)
    some = max(4, many // 10)
    for method in (Method.ORDER, Method.CLUSTER, Method.BATCH):
        yield _made(some, many, method)
    yield _board(max(4, few(60)))


def waits(count: int, plan: WavePlan, caps: bool = True) -> Play:
    """A floor on which so many orders are released and wait for a plan; without ``caps`` nothing but the plan bounds a task."""
    ground, demo = ground_with(count), demo_rulebook()
    recipes = demo.recipes if caps else tuple(replace(r, most=NO_CAPS) for r in demo.recipes)
    book = replace(demo, wave_plans=(plan,), gates=(), recipes=recipes)
    play = Play(new_world(ground, book))
    numbers = tuple(OrderNo(o) for o in sorted(ground.orders) if o.startswith("BIG"))
    return play.do(acts.ReleaseOrders(numbers)).done()


def _made(some: int, many: int, method: Method) -> Line:
    """The wave of all of them, made and given up again."""
    plan = WavePlan(PLAN, "All", method=method)
    plays = [waits(n, plan) for n in (some, many)]

    def make(play: Play) -> None:
        play.do(acts.MakeWave(PLAN)).done()

    def again(play: Play) -> None:
        make(play)
        play.do(acts.CancelWave(max(play.state.waves.all()), "again")).done()

    settle_down()
    ratio, ms = in_turns(lambda _: again(plays[0]), lambda _: again(plays[1]), max(1, few(3)))
    each = ratio * some / many
    told = (
        f"{ms * ratio:,.0f} ms, {ms * ratio / (many * LINES):,.2f} ms a line; {ms / (some * LINES):,.2f} ms by {some}"
    )
    return Line(
        f"a wave made and cancelled, for one line: {method.value}",
        f"{many * LINES:,} lines against {some * LINES:,}",
        each,
        1.5,
        at_least=False,
        note=told,
    )


def _board(many: int) -> Line:
    """All waves in a line each; each of one order."""
    plays = [waits(n, WavePlan(PLAN, "All")) for n in (many // 4, many)]
    for play in plays:
        for release in play.state.releases.values():
            play.do(acts.MakeWave(PLAN, (release.order,))).done()
    settle_down()
    ratio, ms = in_turns(lambda _: board(plays[0].state), lambda _: board(plays[1].state), few(40))
    return Line(
        "the board of a floor",
        f"{many:,} waves against {many // 4:,}",
        ratio,
        6,
        at_least=False,
        note=f"{ms * ratio:,.2f} ms",
    )
