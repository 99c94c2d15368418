"""In which unit something is counted: asked where there is a choice and no code said it, by flows of every kind that count."""

from __future__ import annotations

from dataclasses import replace

import pytest

from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import BinCode, OrderNo, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.proving.findings.whole import findings
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Asks, Check, Each, Prompt
from mindful_crate.core.world import acts
from mindful_crate.demo.loader import demo_opening
from tests.core.test_picking import GROUND, order, released
from tests.core.test_refilling import much, reach, refills, waits
from tests.playbook import Play, new_world

PUMP, BIN = "BLG-20", "P-01-13-1"
"""Pumps, counted by the piece or the case of twelve; thirty-eight lie in this bin."""


def asks_unit(book: Rulebook, flow: str, after: Asks, **more: object) -> Rulebook:
    """The rulebook with that question in a flow, behind another."""
    (old,) = (f for f in book.flows if f.id == flow)
    at = next(n for n, p in enumerate(old.prompts, start=1) if p.asks is after)
    unit = replace(Prompt("P-UNIT", Asks.UNIT), **more)  # type: ignore[arg-type]
    new = replace(old, prompts=(*old.prompts[:at], unit, *old.prompts[at:]))
    return replace(book, flows=tuple(new if f.id == flow else f for f in book.flows))


@pytest.mark.parametrize(
    ("flow", "after", "steps", "says"),
    [
        ("F-MOVEGOODS", Asks.GOODS, (BIN, PUMP), "24 pieces of Bilge pump 20 l/min taken"),
        ("F-ADJUST", Asks.STOCK_ITEM, (BIN, PUMP), "2 cases"),
        ("F-ELSEWHERE", Asks.STOCK_ITEM, (BIN, PUMP), "2 cases"),
        ("F-MOVEGOODS", Asks.FROM, (BIN, PUMP), "24 pieces of Bilge pump 20 l/min taken"),  # too early: it waits
    ],
)
def test_where_no_code_said_it_the_unit_is_asked(
    rulebook: Rulebook, flow: str, after: Asks, steps: tuple[str, ...], says: str
) -> None:
    """By the item's own code it is; a barcode says it; the number is of that unit, and nothing else is asked for it again."""
    book = asks_unit(rulebook, flow, after)
    play = Play(new_world(GROUND, book)).opens(flow)
    for step in steps:
        play.scan(step).done()
    assert [p.value for p in play.asks("unit").question().picks] == ["pc", "case"]
    play.type("pallet").refused("no_such_unit", "piece or case").scan("SHK-08").refused("other_item", PUMP)
    play.type("Cases").done("By the case.")
    assert play.question().asks in ("count", "stock_count") and "cases" in play.question().title
    assert play.type("2").done().question().asks != "unit"
    if "taken" in says:
        play.done(says)
    with_code = Play(new_world(GROUND, book)).opens(flow).scan(BIN).scan(case_code(GROUND)).done("case")
    assert with_code.question().asks in ("count", "stock_count") and "cases" in with_code.question().title


def case_code(ground: Ground) -> str:
    """The barcode of a case of pumps."""
    return next(b.code for b in ground.barcodes_of[PUMP] if b.unit == "case")  # type: ignore[index]


def test_a_question_with_one_answer_is_none(rulebook: Rulebook) -> None:
    """A pick of fewer than a case asks for no unit. Where one is asked for, a barcode answers, and stepped back from it is asked anew."""
    few, many = ("BLG-20", 5), ("BLG-20", 24)
    for wanted, asked in ((few, "pick_count"), (many, "unit")):
        play = released(rulebook, order("SO-1", wanted, carrier=None)).opens("F-PICKNEXT")
        play.scan(play.question().expect).done().scan(play.question().expect).done().type(PUMP).asks(asked)
    play.scan(case_code(GROUND)).done().asks("pick_count")
    assert play.question().proposal == "2"
    play.press("back").asks("unit").type("pc").done("By the piece.")
    assert play.question().proposal == "24"


def test_it_may_be_asked_once_or_be_said_beforehand(rulebook: Rulebook) -> None:
    """Once, it holds for the next line while that has such a unit; fixed, it is not asked as long as that can be."""
    for more in ({"each": Each.ONCE}, {"fixed": "case"}):
        play = Play(new_world(GROUND, asks_unit(rulebook, "F-MOVEGOODS", Asks.GOODS, **more))).opens("F-MOVEGOODS")
        play.scan(BIN).done().type(PUMP).done()
        if "each" in more:
            play.asks("unit").type("case").done()
        play.asks("count").type("1").done("12 pieces").scan("STG-01").done()
        play.scan(BIN).done().type(PUMP).done().asks("count")
        assert "cases" in play.question().title
        play.press("leave")
        # a box of twenty, and fourteen lie there
        play.opens("F-MOVEGOODS").scan("P-01-04-3").done().type("BLK-S").done().asks("count")


def test_a_unit_of_more_than_there_is_is_refused(rulebook: Rulebook) -> None:
    """It is not among those to choose from, and typed it is named with what it holds."""
    opening = demo_opening()
    (pump,) = (i for i in opening.items if i.code == PUMP)
    pallet = replace(pump.units[1], code="pallet", name="pallet", plural="pallets", quantity=480)
    items = tuple(replace(i, units=(*i.units, pallet)) if i is pump else i for i in opening.items)
    book = asks_unit(rulebook, "F-MOVEGOODS", Asks.GOODS)
    play = (
        Play(new_world(Ground(replace(opening, items=items)), book))
        .opens("F-MOVEGOODS")
        .scan(BIN)
        .type(PUMP)
        .asks("unit")
    )
    assert [p.value for p in play.question().picks] == ["pc", "case"]
    play.type("pallet").refused("more_than_wanted", "480 pieces", "38 pieces").asks("unit").scan(BIN).refused(
        "wrong_kind"
    )


def test_what_comes_back_what_is_refilled_and_what_is_counted_asks_too(rulebook: Rulebook) -> None:
    """Each with its own questions around it."""
    back = (
        Play(new_world(GROUND, asks_unit(rulebook, "F-RETURN", Asks.RETURN_ITEM)))
        .opens("F-RETURN")
        .type("C-500")
        .type(PUMP)
        .press("yes")
    )
    back.asks("unit").type("case").done().asks("return_count").type("2").done()
    book = asks_unit(rulebook, "F-FILL", Asks.PICK_ITEM)
    (flow,) = (f for f in book.flows if f.id == "F-FILL")
    believed = tuple(replace(p, check=Check.BELIEVE) if p.asks is Asks.PICK_ITEM else p for p in flow.prompts)
    book = replace(book, flows=tuple(replace(f, prompts=believed) if f is flow else f for f in book.flows))
    waiting = waits(book)
    many, few = sorted(refills(waiting), key=much, reverse=True)
    for task, asks in ((many, "unit"), (few, "pick_count")):  # 26 oilskins, and 5: a case holds eight
        fill = reach(waiting).opens("F-FILL").scan(task.number).done()
        fill.scan(fill.question().expect).done().type("OIL-L").asks(asks)
        if asks == "unit":
            fill.type("case").done().asks("pick_count").type("3").done("24 pieces")
            fill.scan(fill.question().expect).done()
        fill.press("leave")
    count = Play(new_world(GROUND, asks_unit(rulebook, "F-COUNT", Asks.COUNT_ITEM)))
    count.do(acts.MakeCounts((BinCode(BIN),))).done()
    count.opens("F-COUNT").scan("CSR-0001").done().scan(BIN).done().type(PUMP).asks("unit").type("case").done().asks(
        "counted"
    )
    count.type("3").done("36 pieces")


def test_a_flow_that_has_no_use_for_it_is_a_doubt(rulebook: Rulebook) -> None:
    """One that counts nothing passes it over; a pick that asks for no number, too."""
    for flow, after in (("F-PUTAWAY", Asks.TASK), ("F-PICKPLATE", Asks.PICK_AT)):
        found = findings(asks_unit(rulebook, flow, after), GROUND, SiteCode("HQ"))
        assert [f.code for f in found if f.place == f"flows/{flow}/prompts/P-UNIT"] == ["prompt_idle"]


def test_an_order_line_says_its_unit_until_another_is_said(rulebook: Rulebook) -> None:
    """Received by the number of its line, the unit is asked, and the line's own stands first in what it proposes."""
    ground = Ground(demo_opening())
    some: Order = ground.orders[OrderNo("PO-1007")]
    assert some.lines[0].unit == "coil"
    (flow,) = (f for f in rulebook.flows if f.id == "F-RECEIVE")
    at = next(n for n, p in enumerate(flow.prompts) if p.asks is Asks.ITEM)
    line, unit = Prompt("P-LINE", Asks.LINE), Prompt("P-UNIT", Asks.UNIT)  # type: ignore[arg-type]
    new = replace(flow, prompts=(*flow.prompts[:at], line, flow.prompts[at], unit, *flow.prompts[at + 1 :]))
    book = replace(rulebook, flows=tuple(new if f.id == flow.id else f for f in rulebook.flows))
    play = Play(new_world(ground, book)).confirm("PO-1007").opens("F-RECEIVE").scan("PO-1007").done().asks("line")
    play.type("1").done().asks("unit")
    assert play.question().picks[0].value == "coil"
    play.type("coil").done().asks("quantity").type("2").done()
