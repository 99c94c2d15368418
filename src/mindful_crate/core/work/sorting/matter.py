"""Sorting: its flow, and its row among the matters."""

from __future__ import annotations

from itertools import islice
from typing import ClassVar

from mindful_crate.core.catalog.ids import BinCode
from mindful_crate.core.catalog.places import ZonePurpose
from mindful_crate.core.catalog.refs import LineKey
from mindful_crate.core.floor.answers import Answers, Doubt
from mindful_crate.core.floor.dialogues import Dialogue
from mindful_crate.core.floor.plates import Card, in_bin, on_plate
from mindful_crate.core.floor.standing import purpose_of
from mindful_crate.core.floor.state import State
from mindful_crate.core.floor.tasks import Serves
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import Named
from mindful_crate.core.rulebook.flows import Asks, FlowPurpose, Prompt, Short
from mindful_crate.core.scanning.dialogue import passed
from mindful_crate.core.scanning.kinds import COUNT, MUCH, REASON, SERIALS, ButtonKind, Context, FlowKind, Step, Wanted
from mindful_crate.core.scanning.question import Question
from mindful_crate.core.work.picking.looking import pieces_wanted
from mindful_crate.core.work.rows import Matter, folding, telling
from mindful_crate.core.work.sorting import looking
from mindful_crate.core.work.sorting.acts import SortInto, SortShort
from mindful_crate.core.work.sorting.decide import DECIDES
from mindful_crate.core.work.sorting.events import GoodsSorted, SortingShort
from mindful_crate.core.work.sorting.prompts import ALL, GONE, PROMPTS, STATION, TOTE, WALL, next_one
from mindful_crate.core.work.stamp import At
from mindful_crate.core.work.waving.working import few


class NotAmongThem(ButtonKind):
    """What is left for the order, or of all, is not there; why is asked, and what follows the flow says."""

    action = "sort_short"

    def unless(self, ctx: Context, dialogue: Dialogue, prompt: Prompt | None) -> Refusal | None:
        asked = prompt is not None and prompt.asks in (Asks.SORT_ITEM, Asks.SORT_COUNT, Asks.SORT_INTO)
        if asked and dialogue.answers[COUNT] is None and dialogue.answers[STATION] is not None:
            return None
        return Refusal("not_now", "Nothing is sorted here that could be short.")

    def label(self, ctx: Context, answers: Answers, question: Question) -> str:
        return "Not there" if next_one(ctx, answers) else "Nothing more is there"

    def pressed(self, ctx: Context, dialogue: Dialogue, line: int | None, count: str | None) -> Step:
        found = next_one(ctx, dialogue.answers)
        left = [found] if found else looking.waits_at(ctx.state, dialogue.answers.known(STATION))
        says = f"{few(looking.told(ctx.state, left))} not there. Why?"
        gone = dialogue.answers.having(GONE, str(found.line) if found else ALL)
        return Step(dialogue.answers, passed(dialogue), Doubt("reason", says, gone))


class Sort(FlowKind):
    """Any item is scanned, its order's place is told and checked; until nothing is left to sort there."""

    waits: ClassVar = {
        Asks.SORT_AT: (),
        Asks.SORT_ITEM: (Asks.SORT_AT,),
        Asks.SORT_COUNT: (Asks.SORT_AT, Asks.SORT_ITEM),
        Asks.PIECES: (Asks.SORT_AT, Asks.SORT_ITEM, Asks.SORT_COUNT),
        Asks.SORT_INTO: (Asks.SORT_AT, Asks.SORT_ITEM, Asks.SORT_COUNT, Asks.PIECES),
    }
    needed = (Asks.SORT_AT, Asks.SORT_ITEM, Asks.SORT_INTO)
    buttons = (NotAmongThem(),)

    def pieces(self, ctx: Context, answers: Answers) -> Wanted | None:
        """Which pieces go to the order, where several are there."""
        found = next_one(ctx, answers)
        if found is None or answers[GONE]:
            return None
        much = int(answers[COUNT] or found.goods.quantity)
        serves = (Serves(found.line, much),)
        return pieces_wanted(ctx.state, in_bin(answers.known(STATION)), found.kinds, serves, much, "is sorted")

    def complete(self, ctx: Context, answers: Answers) -> tuple[Named, Answers]:
        found, station = next_one(ctx, answers), answers.known(STATION)
        if gone := answers[GONE]:
            line = None if gone == ALL else LineKey.from_plain(gone, "line")
            short = SortShort(station, answers[REASON] or "", line, ctx.flow.short is Short.OTHER_BIN)
            return short, answers.only(STATION)
        assert found is not None, "an item is asked for as long as nothing of it waits"
        much = int(answers[COUNT] or found.goods.quantity)
        act = SortInto(station, found.line.order, found.line.line, much, answers[WALL], answers[TOTE], answers[SERIALS])
        return act, answers.only(STATION)

    def open_work(self, ctx: Context) -> int | None:
        lines = (line for code in looking.stations(ctx.state) for line in looking.lines_at(ctx.state, code, MUCH))
        return sum(1 for _ in islice(lines, MUCH))


def _sorted(state: State, e: GoodsSorted, at: At) -> None:
    stamp = at.stamp
    if e.tote is not None and e.tote_kind is not None:
        state.plates.spots.put(e.tote, in_bin(e.place))
        state.plates.cards.put(
            e.tote, Card(e.tote_kind, False, stamp.who, stamp.at, at.seq, None, None, stamp.device, stamp.at, at.seq)
        )
    state.ledger.move(e.goods, in_bin(e.source), on_plate(e.tote) if e.tote else in_bin(e.place), e.serials)


def _told(e: GoodsSorted) -> str:
    goods = ", ".join(f"{g.quantity} of `{g.item}`" for g in e.goods)
    return f"{goods} sorted to `{e.tote or e.place}`, for `{e.order}`"


def _short_told(e: SortingShort) -> str:
    goods = ", ".join(f"{g.quantity} of `{g.item}`" for g in e.goods)
    return f"{goods} for `{e.line}` not in `{e.at}`: {e.why}"


def sorted_to_one(state: State) -> list[str]:
    """A place of the wall is one order's."""
    found = []
    for code in state.reservations.bins_with_loose():
        if purpose_of(state, BinCode(code)) is ZonePurpose.SORT:
            orders = {state.reservations[n].order for n in state.reservations.loose_in(code)} - {None}
            if len(orders) > 1:
                found.append(f"place {code} is of {sorted(map(str, orders))}")
    return found


SORTING = Matter(
    "sorting",
    DECIDES,
    (folding(GoodsSorted, _sorted), folding(SortingShort, lambda *_: None)),
    (telling(GoodsSorted, _told), telling(SortingShort, _short_told)),
    flows={FlowPurpose.SORT: Sort()},
    prompts=PROMPTS,
    invariants=(sorted_to_one,),
)
"""What it brings."""
