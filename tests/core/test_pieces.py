"""Pieces scanned one by one up to a limit, then the rest as a number."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mindful_crate.core.catalog.ids import FlowId, OrderNo, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.proving.counting import cost_of
from mindful_crate.core.proving.findings.whole import findings
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Asks, Check
from mindful_crate.core.world.invariants import broken
from tests.playbook import STARTS, Play, barcode, new_world

HQ = SiteCode("HQ")


def by_piece(book: Rulebook, pieces: int, check: Check = Check.SCAN) -> Rulebook:
    """Receiving to a pallet, of which so many pieces are scanned."""
    flow = book.flows[0]
    prompts = tuple(
        replace(p, pieces=pieces) if p.asks is Asks.QUANTITY else replace(p, check=check) if p.asks is Asks.ITEM else p
        for p in flow.prompts
    )
    return replace(book, flows=(replace(flow, prompts=prompts), *book.flows[1:]))


def at_anchors(ground: Ground, book: Rulebook) -> Play:
    """Oren, at the items of an order of twelve and eight anchors."""
    return Play(new_world(ground, book)).opens("F-RECEIVE").scan("PO-1005")


def noted(play: Play) -> list[tuple[str, int]]:
    return [(x.item, x.quantity) for p in play.state.building() for x in p.lines]


def test_pieces_are_counted_then_the_rest_is_asked(ground: Ground, rulebook: Rulebook) -> None:
    """The scan of the item is the first; typing does not count; the rest is asked, not the total, and adds to what was scanned."""
    play = at_anchors(ground, by_piece(rulebook, 3))
    anchor, other = barcode(ground, "ANC-10", "pc"), barcode(ground, "ANC-16", "pc")
    play.scan(anchor).asks("quantity", "Scan the next piece: 1 of 3").type("11").refused("must_scan")
    play.scan(other).refused("pieces_first", "1 of 3 are scanned").scan(anchor).asks("quantity", "2 of 3")
    play.scan(anchor).asks("quantity", "How many pieces more?")
    assert play.question().proposal == "9"
    play.type("10").refused("more_than_ordered").type("2").done()
    assert noted(play) == [("ANC-10", 5)]
    play.scan(anchor).scan(anchor).scan(anchor).scan(other).done()
    assert noted(play)[:2] == [("ANC-10", 5), ("ANC-10", 7)], "the next item confirms the rest that was proposed"
    assert play.question().buttons[0].label == "That is all: 1"
    play.press("that_is_all").done()
    assert noted(play)[-1] == ("ANC-16", 1) and broken(play.state) == []


def test_fewer_open_than_the_limit_ask_for_nothing_more(ground: Ground, rulebook: Rulebook) -> None:
    """Eight anchors, twenty to be scanned at most: the eighth completes the line."""
    play = at_anchors(ground, by_piece(rulebook, 20))
    for n in range(8):
        play.scan(barcode(ground, "ANC-16", "pc")).done()
        assert bool(noted(play)) == (n == 7)
    assert noted(play) == [("ANC-16", 8)]
    play.asks("item")


def test_a_case_counts_its_pieces_and_is_never_cut(ground: Ground, rulebook: Rulebook) -> None:
    """A box of shackles is its pieces; one that would count more than are still to be scanned is refused with both numbers."""
    play = Play(new_world(ground, by_piece(rulebook, 120))).opens("F-RECEIVE").scan("PO-1001")
    box = barcode(ground, "SHK-08", "box")
    play.scan(box).asks("quantity", "50 of 120").scan(box).asks("quantity", "100 of 120")
    play.scan(box).refused("more_than_counted", "That counts 50 pieces, and 20 pieces are still to be scanned.")
    play.press("that_is_all").done()
    assert noted(play) == [("SHK-08", 100)]
    few = Play(new_world(ground, by_piece(rulebook, 10))).opens("F-RECEIVE").scan("PO-1001")
    few.scan(box).refused("more_than_counted", "10 pieces are still to be scanned").asks("item")


def test_without_the_scan_of_the_item_it_has_no_effect_and_says_so(ground: Ground, rulebook: Rulebook) -> None:
    """A finding at the prompt, and the flow asks as before."""
    book = by_piece(rulebook, 3, Check.BELIEVE)
    assert [(f.code, f.place) for f in findings(book, ground, HQ)] == [
        ("pieces_without_item", "flows/F-RECEIVE/prompts/PR-6/pieces")
    ]
    assert findings(by_piece(rulebook, 3), ground, HQ) == []
    at_anchors(ground, book).scan(barcode(ground, "ANC-10", "pc")).asks("quantity", "How many pieces?")


@pytest.mark.parametrize(("pieces", "scans"), [(0, 4), (3, 10), (20, 41)])
def test_what_it_costs_is_counted(ground: Ground, rulebook: Rulebook, pieces: int, scans: int) -> None:
    """Twelve and eight anchors, and chain by the metre: a scan a piece up to the limit, and the order."""
    found = cost_of(
        by_piece(rulebook, pieces), ground, HQ, FlowId("F-RECEIVE"), OrderNo("PO-1005"), STARTS, lambda at: at.date()
    )
    assert (found.stopped, found.scans) == ("", scans)


@settings(max_examples=40)
@given(st.integers(0, 15), st.lists(st.sampled_from(["anchor", "other", "all", "confirm", "2", "back"]), max_size=25))
def test_never_more_than_ordered_and_never_lost(
    ground: Ground, rulebook: Rulebook, pieces: int, does: list[str]
) -> None:
    """Whatever is scanned, typed and pressed: what is noted is at most what was ordered, and all is sound."""
    play = at_anchors(ground, by_piece(rulebook, pieces))
    steps: dict[str, Any] = {
        "anchor": lambda: play.scan(barcode(ground, "ANC-10", "pc")), "other": lambda: play.scan(barcode(ground, "ANC-16", "pc")),
        "all": lambda: play.press("that_is_all"), "confirm": lambda: play.press("confirm"), "2": lambda: play.type("2"),
        "back": lambda: play.press("back"),
    }  # fmt: skip
    for each in does:
        steps[each]()
    sums = {item: sum(q for i, q in noted(play) if i == item) for item in ("ANC-10", "ANC-16")}
    assert sums["ANC-10"] <= 12 and sums["ANC-16"] <= 8 and broken(play.state) == []
