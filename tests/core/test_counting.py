"""How many scans, taps, keys and seconds an order takes: found by running the flow, and never by an error."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given, settings

from mindful_crate.core.catalog.ids import FlowId, OrderNo, PromptId, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.counting import KEY_MS, SCAN_MS, TAP_MS, Cost, cost_of, given_up
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Asks, Check, Each, Flow, FlowPurpose, Proposes
from tests.core.test_any_flow import ANY, GROUND, RULEBOOK, flows
from tests.core.test_any_flow import with_flow as with_any
from tests.playbook import STARTS

HQ = SiteCode("HQ")


def cost(book: Rulebook, flow: str, order: str) -> Cost:
    return cost_of(book, GROUND, HQ, FlowId(flow), OrderNo(order), STARTS, lambda at: at.date())


def changed(flow: Flow, asks: Asks, **more: object) -> Flow:
    prompts = tuple(replace(p, **more) if p.asks is asks else p for p in flow.prompts)  # type: ignore[arg-type]
    return replace(flow, prompts=prompts)


def with_flow(flow: Flow) -> Rulebook:
    return replace(RULEBOOK, flows=tuple(flow if f.id == flow.id else f for f in RULEBOOK.flows))


def test_an_order_is_counted_to_its_end(ground: Ground) -> None:
    """Three lines of rope: the order, an item a line, of which the next confirms the last; one tap confirms the last, one finishes.
    Putting away takes two scans a plate. What is changed in the flow shows in the count."""
    found = cost(RULEBOOK, "F-RECEIVE", "PO-1007")
    assert (found.lines, found.scans, found.taps, found.keys, found.stopped) == (3, 4, 2, 0, "")
    assert found.ms == 4 * SCAN_MS + 2 * TAP_MS
    away = cost(RULEBOOK, "F-PUTAWAY", "PO-1007")
    assert (away.scans, away.taps, away.stopped) == (6, 0, "")
    receive = RULEBOOK.flows[0]
    blank = cost(with_flow(changed(receive, Asks.QUANTITY, proposes=Proposes.BLANK)), "F-RECEIVE", "PO-1007")
    assert blank.keys > 0 and blank.ms == blank.scans * SCAN_MS + blank.taps * TAP_MS + blank.keys * KEY_MS > found.ms
    alone = cost(with_flow(replace(receive, next_item_confirms=False)), "F-RECEIVE", "PO-1007")
    assert (alone.scans, alone.taps) == (4, 4)
    lots = cost(RULEBOOK, "F-RECEIVE", "PO-1004")
    assert lots.keys == 24, "a date and a lot for each of two lines"
    door = cost(RULEBOOK, "F-RECEIVE", "PO-1013")
    assert door.stopped == "" and door.scans > 0, "what its plan unloads is supposed to stand at the door"
    plain, one = (cost(RULEBOOK, flow, "PO-1001") for flow in ("F-RECEIVE", "F-INONE"))
    assert (one.scans, one.stopped) == (plain.scans + 1, ""), "one plate, and its bin"
    assert "no rule finds a bin" in cost(RULEBOOK, "F-INONE", "PO-1007").stopped
    lotless = replace(receive, prompts=tuple(p for p in receive.prompts if p.asks is not Asks.LOT))
    stops = cost(with_flow(lotless), "F-RECEIVE", "PO-1004")
    assert "the lot number is missing" in stops.stopped and stops.scans > 0


def test_proofs_that_are_given_up_are_named() -> None:
    """No longer scanned, no longer asked, passed over when it is the only one; nothing of a flow that is new, or asks for more."""
    receive = changed(RULEBOOK.flows[0], Asks.ITEM, check=Check.SCAN)
    less = changed(receive, Asks.ITEM, check=Check.BELIEVE)
    less = changed(less, Asks.ORDER, skip_single=True)
    less = replace(less, prompts=tuple(p for p in less.prompts if p.asks is not Asks.LOT))
    assert given_up(receive, less) == [
        "The order is passed over when there is only one: nobody looks whether it is that one.",
        "The item was scanned, and may be typed or tapped now.",
        "The lot is asked no more.",
    ]
    assert given_up(None, less) == [] and given_up(less, receive) == []
    fixed = changed(changed(receive, Asks.QUANTITY, fixed="5"), Asks.LOT, each=Each.ONCE)
    assert given_up(receive, fixed) == [
        "The lot of the line before is taken: nobody looks whether it is that of the next.",
        "The quantity is taken to be 5: nobody looks whether it is.",
    ]
    pieces = changed(receive, Asks.QUANTITY, pieces=5)
    assert given_up(pieces, receive) == ["The quantity was scanned piece by piece for 5 of a line, now for 0."]


@pytest.mark.parametrize(
    ("flow", "order", "code"),
    [("F-NO", "PO-1007", "unknown_flow"), ("F-RECEIVE", "PO-9", "unknown_order"), ("F-RECEIVE", "SO-2001", "unknown_order"), ("F-LOOK", "PO-1007", "not_counted")],
)  # fmt: skip
def test_what_cannot_be_counted_is_refused_in_words(flow: str, order: str, code: str) -> None:
    """By name."""
    with pytest.raises(Refusal) as refused:
        cost(RULEBOOK, flow, order)
    assert refused.value.problem.code == code


@settings(max_examples=40)
@given(flows())
def test_any_flow_is_counted_or_says_where_it_stopped(flow: Flow) -> None:
    """Whatever is composed: the count ends, with all lines received or with the question it stopped at."""
    try:
        found = cost(with_any(flow), ANY, "SO-2009" if flow.purpose is FlowPurpose.PICK else "PO-1004")
    except Refusal as refused:
        assert refused.problem.code == "not_counted"
    else:
        assert found.stopped or found.questions > 0


def test_an_order_that_goes_out_is_counted(ground: Ground) -> None:
    """It is released as far as it is here and picked to the end: a scan for the task and the tote, bin and item a stop, a tap for how many, one for the
    station. Where each piece is scanned it costs more, and the sentence says what a flow gave up."""
    found = cost(RULEBOOK, "F-PICK", "SO-2003")
    assert found.stopped == "" and found.scans > 3
    dear = cost(RULEBOOK, "F-PICKDEAR", "SO-2003")
    assert dear.stopped == "" and dear.scans > found.scans - 2
    assert cost(RULEBOOK, "F-PICK", "SO-2004").stopped == ""
    with pytest.raises(Refusal, match="go from"):
        cost(RULEBOOK, "F-PICK", "PO-1007")


def test_a_prompt_of_another_flow_ends_nothing() -> None:
    """Receiving and putting away in one, with a question that only a flow that puts away has use for: it is passed over, as if it were not there."""
    one = next(f for f in RULEBOOK.flows if f.id == "F-INONE")
    place = next(p for p in one.prompts if p.asks is Asks.BIN)
    early = (place, *(p for p in one.prompts if p is not place))
    other = replace(place, id=PromptId("PR-X"), asks=Asks.TASK)
    found = [
        cost(with_flow(replace(one, prompts=prompts)), "F-INONE", "PO-1001") for prompts in (early, (other, *early))
    ]
    assert found[0] == found[1] and found[0].stopped == ""
