"""Answers that hold beyond their line, answers said beforehand, and menus in groups with what waits."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest

from mindful_crate.core.catalog.ids import CrewId, FlowId, SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.proving.findings.whole import findings
from mindful_crate.core.rulebook.bin_rules import BinPurpose
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.flows import Check, Each, Menu, OtherBin
from mindful_crate.core.rulebook.words.scanner import ASKS_NOTES, FIXED, PURPOSE_NOTES
from mindful_crate.core.scanning.dialogue import open_work
from mindful_crate.core.work.handset.decide import context
from mindful_crate.core.work.matters import MACHINE
from mindful_crate.core.world.invariants import broken
from tests.playbook import Play, barcode, new_world

HQ = SiteCode("HQ")


def saying(book: Rulebook, flow: str, **prompts: dict[str, Any]) -> Rulebook:
    """The rulebook in which prompts of a flow say something else."""

    def told(each: Any) -> Any:
        return replace(each, **prompts.get(each.asks.value, {}))

    return replace(
        book, flows=tuple(replace(f, prompts=tuple(map(told, f.prompts))) if f.id == flow else f for f in book.flows)
    )


def noted(play: Play) -> list[tuple[str, int]]:
    return [(x.item, x.quantity) for p in play.state.building() for x in p.lines]


def test_a_fixed_quantity_is_not_asked_as_long_as_it_can_be(ground: Ground, rulebook: Rulebook) -> None:
    """Each scan of an item is a line of five; when fewer are open it is asked, and nothing is lost."""
    play = Play(new_world(ground, saying(rulebook, "F-RECEIVE", quantity={"fixed": "5"}))).opens("F-RECEIVE")
    anchor = barcode(ground, "ANC-10", "pc")
    play.scan("PO-1005").scan(anchor).done("5").asks("item").scan(anchor).done("5").asks("item")
    play.scan(anchor).done().asks("quantity").type("2").done()
    assert noted(play) == [("ANC-10", 5), ("ANC-10", 5), ("ANC-10", 2)] and broken(play.state) == []


def test_asked_once_holds_for_the_next_lines_as_long_as_it_suits(ground: Ground, rulebook: Rulebook) -> None:
    """The number of the first line is that of the next; where it is too many it is asked; finishing forgets it."""
    play = Play(new_world(ground, saying(rulebook, "F-RECEIVE", quantity={"each": Each.ONCE}))).opens("F-RECEIVE")
    anchor, other = barcode(ground, "ANC-10", "pc"), barcode(ground, "ANC-16", "pc")
    play.scan("PO-1005").scan(anchor).asks("quantity").type("7").done().asks("item")
    play.scan(other).done().asks("item").scan(anchor).asks("quantity").type("2").done().asks("item")
    assert noted(play) == [("ANC-10", 7), ("ANC-16", 7), ("ANC-10", 2)]
    play.press("finish").done().scan("PO-1005" if play.question().asks == "order" else anchor)
    while play.question().asks != "quantity":
        play.scan(anchor)
    assert play.question().proposal == "3", "what was said before was said of the plate before"


def test_an_order_may_be_asked_for_each_line(ground: Ground, rulebook: Rulebook) -> None:
    """Pieces of many orders onto one plate: the order is asked again after each line, the plate is gone on with."""
    play = Play(new_world(ground, saying(rulebook, "F-RECEIVE", order={"each": Each.LINE}))).opens("F-RECEIVE")
    play.confirm("PO-1007").scan("PO-1005").scan(barcode(ground, "ANC-10", "pc")).type("1").done().asks("order")
    play.scan("PO-1007").asks("item").scan("2900000000087").type("1").done().asks("order")
    assert len(play.state.building()) == 1 and len(noted(play)) == 2


def test_goods_from_one_bin_to_a_fixed_one(ground: Ground, rulebook: Rulebook) -> None:
    """The source is asked once and the target never: two scans a line. When the source has nothing more it is asked again."""
    world = new_world(ground, rulebook)
    _, source, item = min(
        (x.quantity, b, x.item)
        for b in ground.bins
        for x in world.state.loose(b)
        if ground.site_of(b) == HQ and x.quantity >= 3 and not x.lot
    )
    target = next(
        b for b in ground.bins
        if ground.site_of(b) == HQ and b != source and any(x.item == item for x in world.state.loose(b))
    )  # fmt: skip
    book = saying(rulebook, "F-MOVEGOODS", **{"from": {"each": Each.ONCE}, "to": {"fixed": target}})
    play = Play(new_world(ground, book)).opens("F-MOVEGOODS").asks("from").scan(source)
    each = ground.items[item].base.code
    have = sum(x.quantity for x in play.state.loose(source) if x.item == item)
    there = play.state.quantity_in(target, item)
    play.scan(barcode(ground, item, each)).asks("count").type("1").done(target).asks("goods")
    play.scan(barcode(ground, item, each)).asks("count").type(str(have - 1)).done(target)
    assert play.state.quantity_in(target, item) == there + have
    assert play.question().asks == ("goods" if play.state.loose(source) else "from") and broken(play.state) == []


def test_a_fixed_place_that_does_not_fit_is_asked(ground: Ground, rulebook: Rulebook) -> None:
    """A plate goes nowhere it may not: the bin is asked, as if nothing were fixed."""
    book = saying(rulebook, "F-MOVEPLATES", to={"fixed": "P-01-01-1"})
    book = replace(book, flows=tuple(replace(f, several=False) if f.id == "F-MOVEPLATES" else f for f in book.flows))
    play = Play(new_world(ground, book)).opens("F-MOVEPLATES").scan("LP-000064").done("taken").asks("to")
    play.press("leave").done("You still carry")


def test_several_plates_to_a_fixed_place(ground: Ground, rulebook: Rulebook) -> None:
    """The place is taken when all are taken up, not with the scan of the next plate."""
    book = saying(rulebook, "F-MOVEPLATES", to={"fixed": "RCV-03"})
    play = Play(new_world(ground, book)).opens("F-MOVEPLATES").scan("LP-000064").done("taken").asks("plates")
    kind = next(p.plate_kind for p in ground.opening.plates if p.number == "LP-000064")
    other = next(
        p.number for p in ground.opening.plates
        if p.number != "LP-000064" and p.plate_kind == kind and not p.on and ground.site_of(p.bin) == HQ
    )  # fmt: skip
    play.scan(other).done("taken").asks("plates")
    assert len(play.state.tasks.all_carried()) == 2, "neither is placed yet"
    play.press("go_on").done("RCV-03")
    assert play.state.bin_of("LP-000064") == play.state.bin_of(other) == "RCV-03" and broken(play.state) == []


def test_the_bin_of_one_plate_is_never_that_of_the_next_before_it_is_taken(ground: Ground, rulebook: Rulebook) -> None:
    """Asked once, the bin holds for what is in hands: each plate is taken up first, and shown another bin it is asked."""
    play = Play(new_world(ground, saying(rulebook, "F-PUTAWAY", bin={"each": Each.ONCE}))).opens("F-RECEIVE")
    play.scan("PO-1005")
    anchor = barcode(ground, "ANC-10", "pc")
    for _ in range(2):
        play.scan(anchor).type("5").press("finish").done()
    play.press("leave").opens("F-PUTAWAY")
    for plate in [t.plate for t in play.state.tasks.values()]:
        play.scan(plate or "").done("taken")
        shown = play.question().expect
        play.scan(shown).done("stands in")
    assert not list(play.state.tasks.values()) and broken(play.state) == []


NOTHING: list[tuple[str, dict[str, dict[str, Any]], str]] = [
    ("F-RECEIVE", {"item": {"fixed": "ANC-10"}}, "another each time"),
    ("F-RECEIVE", {"quantity": {"fixed": "many"}}, "no number above zero"),
    ("F-RECEIVE", {"quantity": {"fixed": "2", "pieces": 3}}, "no piece is scanned"),
    ("F-RECEIVE", {"lot": {"fixed": "NOLOT", "check": Check.SCAN}}, "nothing to scan"),
    ("F-RECEIVE", {"plate": {"each": Each.LINE}}, "asked once"),
    ("F-PUTAWAY", {"task": {"each": Each.ONCE}}, "asked for each line"),
    ("F-MOVEGOODS", {"to": {"fixed": "NOWHERE"}}, "no bin `NOWHERE`"),
]


@pytest.mark.parametrize(("flow", "says", "why"), NOTHING)
def test_what_has_no_effect_says_why(
    ground: Ground, rulebook: Rulebook, flow: str, says: dict[str, dict[str, Any]], why: str
) -> None:
    """A doubt at the word itself; the demo has none."""
    assert "no_effect" not in {f.code for f in findings(rulebook, ground, HQ)}
    found = [f for f in findings(saying(rulebook, flow, **says), ground, HQ) if f.code == "no_effect"]
    assert any(why in f.says and f.says.endswith("This has no effect.") for f in found), found
    asks, fields = next(iter(says.items()))
    prompt = next(p for f in rulebook.flows if f.id == flow for p in f.prompts if p.asks.value == asks)
    assert {f.place.rpartition("/")[0] for f in found} == {f"flows/{flow}/prompts/{prompt.id}"}
    assert {f.place.rpartition("/")[2] for f in found} <= {*fields, "check", "pieces"}


def test_another_bin_needs_one_that_is_shown(ground: Ground, rulebook: Rulebook) -> None:
    """Where the worker chooses both, it is said at the flow; where rules show where it is taken from, it counts."""

    def found(flow: str, **more: Any) -> list[str]:
        flows = tuple(replace(f, other_bin=OtherBin.NEVER, **more) if f.id == flow else f for f in rulebook.flows)
        own = findings(replace(rulebook, flows=flows), ground, HQ)
        return [f.place for f in own if f.code == "no_effect"]

    assert found("F-MOVEGOODS", to_rules=None, from_rules=None) == ["flows/F-MOVEGOODS/other_bin"]
    assert found("F-MOVEGOODS", to_rules=None, from_rules=BinPurpose.PICK_FROM) == []
    assert found("F-MOVEPLATES", to_rules=None, from_rules=BinPurpose.PICK_FROM) == ["flows/F-MOVEPLATES/other_bin"]


def test_the_editor_offers_what_the_machine_can() -> None:
    """Fixed answers where a kind of prompt takes them; a sentence for each purpose and prompt."""
    assert set(FIXED) == {asks for asks, kind in MACHINE.prompts.items() if kind.fixable}
    assert set(ASKS_NOTES) == set(MACHINE.prompts) and set(PURPOSE_NOTES) == set(MACHINE.flows)


def test_menus_in_groups_with_what_waits(ground: Ground, rulebook: Rulebook) -> None:
    """Groups of one name are one, each flow stands once; orders and plates that wait are counted, looking up is not."""
    menus = (
        Menu("A", CrewId("quay"), (FlowId("F-RECEIVE"), FlowId("F-PUTAWAY")), HQ, "Goods in"),
        Menu("B", CrewId("quay"), (FlowId("F-LOOK"),), HQ),
        Menu("C", CrewId("hazard"), (FlowId("F-PUTAWAY"), FlowId("F-TOTE")), HQ, "Goods in"),
    )
    book = replace(rulebook, menus=menus)
    groups = book.menu_groups(HQ, (CrewId("quay"), CrewId("hazard")))
    told = [(name, [f.id for f in flows]) for name, flows in groups]
    assert told == [("Goods in", ["F-RECEIVE", "F-PUTAWAY", "F-TOTE"]), ("", ["F-LOOK"])]
    assert [f.id for f in book.menu_for(HQ, (CrewId("hazard"),))] == ["F-PUTAWAY", "F-TOTE"]
    play = Play(new_world(ground, rulebook))

    def waits(flow: str) -> str:
        found = rulebook.flow(FlowId(flow))
        assert found
        return open_work(context(play.state, rulebook, play.stamp(), found))

    before = int(waits("F-RECEIVE"))
    assert waits("F-PUTAWAY") == "0" and waits("F-LOOK") == ""
    play.confirm("PO-1007").opens("F-RECEIVE").scan("PO-1007").scan("2900000000087").type("2").press("finish")
    assert (waits("F-RECEIVE"), waits("F-PUTAWAY")) == (str(before + 1), "1")
    assert waits("F-MOVEPLATES") == ""
    play.press("leave").opens("F-MOVEPLATES").scan("LP-000064")
    assert waits("F-MOVEPLATES") == "1", "what she carries waits to be set down"
