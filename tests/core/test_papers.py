"""Papers that rules print: once all of a shipment is past a station, when it leaves, when a pick task may be fetched; where whole pages come out."""

from __future__ import annotations

from dataclasses import replace

from mindful_crate.core.catalog.checking import check_opening
from mindful_crate.core.catalog.ids import BinCode, CarrierCode, LabelRuleId, PlateKindCode, PrinterCode, ZoneCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.prints import Condition
from mindful_crate.core.proving.dock_board import shipment_shown
from mindful_crate.core.proving.findings import of_papers
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.papers import LabelRule, Prints, When
from mindful_crate.core.rulebook.shipping import Station
from mindful_crate.core.world import acts
from mindful_crate.core.world.invariants import broken
from tests.core.test_covering import GROUND
from tests.core.test_shipping import CLOSED, SH, by, picked, steps
from tests.core.test_waves import order, released, tasks
from tests.playbook import Play, from_snapshot

PAGES, BENCH = PrinterCode("PAPER-1"), PrinterCode("LABEL-1")
DOOR, LANE = BinCode("DOOR-3"), BinCode("STG-04")


def printing(book: Rulebook, *wanted: tuple[When, Prints], **more: object) -> Rulebook:
    """The same, printing this."""
    made = (LabelRule(LabelRuleId(f"LR-{n}"), p, w, **more) for n, (w, p) in enumerate(wanted, start=1))  # type: ignore[arg-type]
    return replace(book, label_rules=tuple(made))


def came_out(play: Play) -> list[str]:
    """The papers, the first first."""
    return [p.labels[0].title for p in reversed(list(play.state.prints.latest())) if p.is_paper]


def two_cartons(book: Rulebook, carrier: str | None = "HEAV") -> Play:
    """A shipment of two cartons, one closed and one open."""
    play = picked(
        book, order("SO-1", ("SHK-08", 6), ("ROPE-06", 30), carrier=CarrierCode(carrier) if carrier else None)
    )
    play.do(acts.PackRest(SH, BinCode("PACK-1"))).done()
    (one,) = play.state.cartons.of(SH)
    play.do(acts.TakeOut(one.number, one_order(play), 1, 6)).done()
    play.do(acts.CloseCarton(one.number, CLOSED["L"])).done()
    play.do(acts.PackRest(SH, BinCode("PACK-1"))).done()
    return play


def one_order(play: Play):  # type: ignore[no-untyped-def]
    return play.state.shipments[SH].orders[0]


def test_each_paper_comes_out_when_the_last_is_there(rulebook: Rulebook) -> None:
    """Not at the first of two cartons, not again when it is merely moved; again when it was packed anew. One that says otherwise now is marked."""
    book = printing(
        by(steps(rulebook, Station.PACK, Station.STAGE, Station.LOAD)), (When.PACKED, Prints.PACKING), (When.STAGED, Prints.LOADING),
        (When.LOADED, Prints.PALLETS), (When.LEFT, Prints.BILL), copies=2,
    )  # fmt: skip
    play = two_cartons(book)
    one, two = (c.number for c in play.state.cartons.of(SH))
    assert came_out(play) == []
    play.do(acts.CloseCarton(two, CLOSED["M"])).done("Packing list `SHR-0001`, 2 times, on `PAPER-1`.")
    play.do(acts.ReopenCarton(two)).done().do(acts.TakeOut(two, one_order(play), 1, 2)).done()
    play.do(acts.PackRest(SH, BinCode("PACK-1"))).done()
    play.do(acts.CloseCarton(two, CLOSED["M"])).done("Packing list")
    assert came_out(play) == ["Packing list"] * 2
    play.do(acts.StageGoods(SH, LANE, (one,))).done()
    assert came_out(play) == ["Packing list"] * 2
    play.do(acts.StageGoods(SH, LANE, (two,))).done("All of `SHR-0001` is there. Loading list `SHR-0001`, 2 times")
    assert not any(p.stale for p in shipment_shown(play.state, book, SH).printed)
    play.do(acts.StackPlates((one, two))).done()
    assert {p.paper.value: p.stale for p in shipment_shown(play.state, book, SH).printed} == {
        "packing-list": False, "loading-list": True,
    }  # fmt: skip
    play.do(acts.LoadGoods(SH, DOOR)).done("All of `SHR-0001` is loaded. Pallet sheet `SHR-0001`")
    play.do(acts.ShipShipment(SH)).done("Bill of lading `SHR-0001`, 2 times, on `PAPER-1`")
    assert came_out(play) == ["Packing list", "Packing list", "Loading list", "Pallet sheet", "Bill of lading"]
    bill = next(iter(play.state.prints.latest())).labels[0].pages[0]
    assert (bill.code, bill.foot) == (SH, f"Bill of lading of {SH}, as it left.") and bill.tables[0].rows[0][0] == "1"
    assert list(from_snapshot(play.state).prints.values()) == list(play.state.prints.values())
    assert broken(play.state) == []


def test_a_paper_that_cannot_be_made_is_said_and_holds_nobody_up(rulebook: Rulebook) -> None:
    """No carrier, no bill of lading; what the rule is not for is not printed."""
    book = printing(by(steps(rulebook, Station.PACK)), (When.LEFT, Prints.BILL), (When.LEFT, Prints.PACKING))
    book = replace(book, label_rules=(book.label_rules[0], replace(book.label_rules[1], groups=("Anchors",))))
    play = two_cartons(book, carrier=None)
    play.do(acts.CloseCarton(play.state.cartons.open_of(SH)[0].number, CLOSED["M"])).done()
    play.do(acts.ShipShipment(SH)).done("has left", "No carrier drives `SHR-0001` yet, so there is no bill of lading.")
    assert came_out(play) == []


def test_a_pick_list_when_the_task_may_be_fetched(rulebook: Rulebook) -> None:
    """Not while its wave is held; in the form in which it is fetched; of goods the rule is for."""
    book = printing(steps(rulebook), (When.LET_GO, Prints.PICKS), groups=("Shackles",))
    play = released(book, order("SO-1", ("SHK-08", 6)), order("SO-2", ("ROPE-06", 30), partner="C-510"))
    assert came_out(play) == ["Pick list"]
    made = next(iter(play.state.prints.latest())).labels[0]
    task = next(t for t in tasks(play) if "SO-1" in t.plan.orders)
    assert made.code == task.number and made.pages[0].tables[0].rows[0][2].startswith("SHK-08\n")
    assert [p.title for p in made.pages] == ["Pick list", "Packing list"]
    play.do(acts.HoldTask(task.number, "wait")).done()
    assert came_out(play) == ["Pick list"]
    play.do(acts.LetTaskGo(task.number)).done(f"Pick list `{task.number}` on `PAPER-1`.")
    play.do(acts.PickInOffice(task.number, "by paper", None if task.to_bin else LANE)).done()
    play.do(acts.PrintLabel(task.number, Prints.PICKS)).refused("nothing_to_pick")


def test_pages_come_out_where_pages_are(rulebook: Rulebook) -> None:
    """Never on a label printer: not on the handset's, not by hand, not out of the tray; where there is no other, the paper waits and says so."""
    book = printing(by(steps(rulebook, Station.PACK, Station.STAGE)), (When.STAGED, Prints.LOADING))

    def staged(play: Play) -> Play:
        play.do(acts.CloseCarton(play.state.cartons.open_of(SH)[0].number, CLOSED["M"])).done()
        return play.do(acts.StageGoods(SH, LANE, tuple(c.number for c in play.state.cartons.of(SH))))

    play = two_cartons(book)
    play.do(acts.SetPrinter(PAGES, Condition.OFF)).done()
    staged(play).done("Loading list `SHR-0001` waits: printer `PAPER-1` does not answer.")
    (waits,) = play.state.prints.all_waiting()
    play.do(acts.PrintAgain(waits.number, BENCH)).refused("no_pages", "`LABEL-1` prints labels, and no pages.")
    play.do(acts.PrintLabel(SH, Prints.LOADING, printer=BENCH)).refused("no_pages")
    play.do(acts.PrintLabel(SH, Prints.LOADING, copies=99)).refused("bad_copies")
    play.do(acts.PrintLabel("SHR-0007", Prints.BILL)).refused("unknown_shipment")
    play.do(acts.PrintLabel("TR-9999", Prints.PICKS)).refused("unknown_task")
    play.do(acts.SetPrinter(PAGES, Condition.READY)).done("It prints what waited: 1.")
    named = replace(book, label_rules=(replace(book.label_rules[0], printer=BENCH),))
    staged(two_cartons(named)).done("waits in the tray: `LABEL-1` prints labels, and no pages.")


def test_findings_of_papers() -> None:
    """A paper on a label printer, of kinds of plates, at a step that no plan has, or when there is none of it; a site without pages."""
    rule = LabelRule(LabelRuleId("LR-1"), Prints.LOADING, When.STAGED)
    wrong = (
        replace(rule, printer=BENCH), replace(rule, plate_kinds=(PlateKindCode("EUR"),)), replace(rule, when=When.CLOSED, copies=2),
        replace(rule, prints=Prints.PLATE, when=When.LEFT),
    )  # fmt: skip
    site = GROUND.opening.printers[0].site
    found = [f.code for f in of_papers.papers(Rulebook("Only papers", label_rules=wrong), GROUND, site)]
    assert {"no_pages", "no_plate", "never_happens"} <= set(found) and found.count("nothing_to_print") == 2
    labels = tuple(p for p in GROUND.opening.printers if not p.takes_pages)
    bare = Ground(replace(GROUND.opening, printers=labels))
    assert "no_printer" in [f.code for f in of_papers.papers(Rulebook("", label_rules=(rule,)), bare, site)]
    pages = next(p for p in GROUND.opening.printers if p.takes_pages)
    twice = replace(
        GROUND.opening,
        printers=(*GROUND.opening.printers, replace(pages, code=PrinterCode("P2"), zones=(ZoneCode("STG"),))),
    )
    assert [p.says for p in check_opening(twice)] == [
        "zone `STG` prints on `PAPER-1` already; a zone has one printer for pages"
    ]
