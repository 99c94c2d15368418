"""Labels: what rules print, on which printer, what is on them; what waits holds nobody up and is never lost."""

from __future__ import annotations

from datetime import timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mindful_crate.core.catalog.checking import check_opening
from mindful_crate.core.catalog.ids import ItemCode, OrderNo, PlateKindCode, PlateNo, PrinterCode, ZoneCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.keeper import Journal
from mindful_crate.core.floor.prints import TRAY, Condition, Label, Print, Prints
from mindful_crate.core.proving.findings.whole import findings
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.papers import LabelRule, When
from mindful_crate.core.rulebook.papers import Prints as What
from mindful_crate.core.work.printing.labels import plate_label
from mindful_crate.core.world import acts
from mindful_crate.core.world.acts import OfficeLine
from mindful_crate.core.world.invariants import broken
from tests.playbook import STARTS, Play, barcode, from_snapshot, new_world

HALL, BELT = PrinterCode("LABEL-5"), PrinterCode("LABEL-6")


def rules(book: Rulebook, *wanted: LabelRule) -> Rulebook:
    return evolve(book, label_rules=wanted)


def begun(play: Play, ground: Ground) -> Play:
    """A pallet is begun by its first line."""
    play.opens("F-RECEIVE").scan("PO-1001").scan(barcode(ground, "SHK-08", "box")).type("5")
    return play


def tray(play: Play) -> list[tuple[str, str, int, bool]]:
    """What was sent: of what, to which printer, how many, printed or not; the latest first."""
    return [
        (p.labels[0].code, p.printer or "", p.count, p.printed(play.state.clock)) for p in play.state.prints.latest()
    ]


def test_a_plate_begun_has_its_label_where_it_is_received(ground: Ground, rulebook: Rulebook) -> None:
    """Printed in the receiving hall, since that printer serves the zone; one that was scanned has its label already."""
    play = begun(Play(new_world(ground, rulebook)), ground)
    play.done("Plate `LPR-000417` made", "Label of `LPR-000417` on `LABEL-5`.")
    assert tray(play) == [("LPR-000417", HALL, 1, True)]
    tote = Play(new_world(ground, rulebook)).opens("F-TOTE")
    tote.scan("PO-1001").scan(barcode(ground, "SHK-08", "box")).type("5").asks("plate").scan("LPR-000900").done(
        "LPR-000900"
    )
    assert tray(tote) == []


def test_down_slow_without_paper_nothing_is_lost(ground: Ground, rulebook: Rulebook) -> None:
    """Who receives goes on; what waited comes out once it prints again, in the order it was sent, slowly where it is slow."""
    play = Play(new_world(ground, rulebook))
    play.do(acts.SetPrinter(HALL, Condition.NO_PAPER)).done("has no paper")
    begun(play, ground).done("Plate `LPR-000417` made", "Label of `LPR-000417` waits: printer `LABEL-5` has no paper.")
    play.do(acts.PrintLabel("B-01-01-1", printer=HALL, copies=3)).done("3 labels wait")
    assert [p for *_, p in tray(play)] == [False, False]
    assert broken(play.state) == broken(from_snapshot(play.state)) == []
    play.do(acts.SetPrinter(HALL, Condition.SLOW)).done("It prints what waited: 2.")
    assert [p for *_, p in tray(play)] == [False, False]
    play.do(acts.Wait(15))
    assert tray(play) == [("B-01-01-1", HALL, 3, False), ("LPR-000417", HALL, 1, True)]
    play.do(acts.SetPrinter(HALL, Condition.OFF)).done("does not answer")
    play.do(acts.Wait(600))
    assert tray(play)[0][3] is False
    number = play.state.prints.all_waiting()[0].number
    play.do(acts.PrintAgain(number)).refused("waits_already", "does not answer")
    play.do(acts.PrintAgain(number, BELT)).done("3 labels on `LABEL-6`")
    assert tray(play)[0] == ("B-01-01-1", BELT, 3, True)
    play.do(acts.DropPrint(number)).refused("printed_already")


def test_a_handset_prints_where_it_has_scanned(ground: Ground, rulebook: Rulebook) -> None:
    """The printer's code is taken at any question, and the question stays; another handset is not touched."""
    play = Play(new_world(ground, rulebook)).opens("F-RECEIVE").asks("order").scan("LABEL-6")
    play.done("This handset prints on `LABEL-6` Small label printer").asks("order")
    play.scan("PO-1001").scan(barcode(ground, "SHK-08", "box")).type("5").done("Label of `LPR-000417` on `LABEL-6`.")
    play.press("print_label").done("Label of `LPR-000417` on `LABEL-6`.").asks("item")
    assert broken(from_snapshot(play.state)) == []
    assert from_snapshot(play.state).printers_chosen.all() == play.state.printers_chosen.all()


def test_the_button_is_there_when_a_rule_says_so(ground: Ground, rulebook: Rulebook) -> None:
    """Without a rule nobody may print by hand; with one the label of what is in hand comes out, also of what is looked up."""
    play = begun(Play(new_world(ground, rules(rulebook))), ground)
    assert tray(play) == []
    play.press("print_label").refused("not_now", "no rule says so")
    asked = LabelRule("LR-1", when=When.ASKED, copies=2)  # type: ignore[arg-type]
    play = Play(new_world(ground, rules(rulebook, asked))).opens("F-LOOK")
    play.press("print_label").refused("not_now")
    play.scan("B-01-01-1").press("print_label").done("waits in the tray: no printer is tied to Bulk").scan(
        "LABEL-6"
    ).scan(barcode(ground, "SHK-08", "box")).press("print_label")
    assert [c for c, *_ in tray(play)] == ["SHK-08", "B-01-01-1"]


def test_no_printer_is_tied_to_the_place(ground: Ground, rulebook: Rulebook) -> None:
    """It waits in the tray with the reason, and the office lets another printer print it; a site's only printer serves all of it."""
    loose = evolve(ground.opening, printers=tuple(evolve(p, zones=()) for p in ground.opening.printers))
    play = begun(Play(new_world(Ground(loose), rulebook)), ground)
    play.done("made", "Label of `LPR-000417` waits in the tray: no printer is tied to Receiving.")
    play.do(acts.PrintAgain(play.state.prints.all_waiting()[0].number, HALL)).done("on `LABEL-5`")
    one = evolve(loose, printers=loose.printers[:1], pack_stations=())
    begun(Play(new_world(Ground(one), rulebook)), ground).done("on `LABEL-1`")
    none = evolve(one, printers=())
    begun(Play(new_world(Ground(none), rulebook)), ground).done("waits in the tray")


def test_each_unit_and_each_piece_with_a_number(ground: Ground, rulebook: Rulebook) -> None:
    """Goods of a receipt: a label a unit as it was counted, a label of its own a numbered piece; no more than a limit."""
    each = LabelRule("LR-1", What.UNIT, When.FINISHED)  # type: ignore[arg-type]
    play = Play(new_world(ground, rules(rulebook, each)))
    lines = (OfficeLine(ItemCode("PLOT-09"), 2, serials=("P9-1", "P9-2")),)
    play.do(acts.ReceiveInOffice(OrderNo("PO-1006"), lines, PlateKindCode("PAL"), why="label torn")).done(
        "2 labels on `LABEL-5`"
    )
    made = play.state.prints[next(iter(play.state.prints))]
    assert [dict(label.elements).get("21") for label in made.labels] == ["P9-1", "P9-2"]
    assert all(dict(label.elements)["01"] == barcode(ground, "PLOT-09", "pc").zfill(14) for label in made.labels)
    play = Play(new_world(ground, rules(rulebook, evolve(each, copies=3))))
    lines = (OfficeLine(ItemCode("SHK-08"), 250),)
    play.do(acts.ReceiveInOffice(OrderNo("PO-1001"), lines, PlateKindCode("PAL"), why="label torn"))
    play.done("500 labels on `LABEL-5`")
    group = LabelRule("LR-1", What.ITEM, When.FINISHED, groups=("nothing",))  # type: ignore[arg-type]
    other = Play(new_world(ground, rules(rulebook, group)))
    other.do(acts.ReceiveInOffice(OrderNo("PO-1001"), lines, PlateKindCode("PAL"), why="label torn"))
    assert tray(other) == []


def test_numbers_for_labels_are_nobody_elses(ground: Ground, rulebook: Rulebook) -> None:
    """Labels printed before: their numbers come from the series, so what is made next has another."""
    play = Play(new_world(ground, rulebook))
    play.do(acts.PrintNumbers(3)).done("`LPR-000417` to `LPR-000419` are kept for labels. 3 labels on `LABEL-5`.")
    begun(play, ground).done("Plate `LPR-000420` made")
    play.do(acts.PrintNumbers(0)).refused("bad_copies")
    play.do(acts.PrintLabel("B-01-01-1", copies=501)).refused("bad_copies")
    play.do(acts.PrintLabel("NOWHERE")).refused("nothing_to_print")
    play.do(acts.PrintLabel("B-01-01-1", printer=PrinterCode("LABEL-9"))).refused("unknown_printer")


def test_what_is_on_the_label_of_a_plate(ground: Ground, rulebook: Rulebook) -> None:
    """What it bears; where all of it is alike, the trade number, count, lot and expiry as GS1 elements."""
    play = Play(new_world(ground, rulebook))
    lines = (OfficeLine(ItemCode("SHK-08"), 250),)
    play.do(acts.ReceiveInOffice(OrderNo("PO-1001"), lines, PlateKindCode("PAL"), why="label torn")).done()
    label = plate_label(play.state, PlateNo("LPR-000417"))
    box = ground.items[ItemCode("SHK-08")].largest_first()[0]
    assert label.lines[1] == "250 pieces Bow shackle 8 mm"
    assert dict(label.also) == {"02": barcode(ground, "SHK-08", box.code).zfill(14), "37": str(250 // box.quantity)}
    assert label.elements == ()  # the site's own number is no SSCC


def test_findings_of_label_rules(ground: Ground, rulebook: Rulebook) -> None:
    """A rule that prints nothing, nowhere or twice is named."""
    found = {
        f.code
        for f in findings(
            rules(
                rulebook,
                LabelRule("LR-1", What.UNIT, When.BEGUN, copies=99),  # type: ignore[arg-type]
                LabelRule("LR-2", printer=PrinterCode("GONE"), plate_kinds=(PlateKindCode("GONE"),)),  # type: ignore[arg-type]
                LabelRule("LR-3", when=When.PLACED),  # type: ignore[arg-type]
                LabelRule("LR-4", when=When.PLACED, printer=HALL),  # type: ignore[arg-type]
            ),
            ground,
            play_site(ground),
        )
    }
    assert {"nothing_to_print", "bad_copies", "missing_printer", "missing_kind", "printed_twice"} <= found
    bare = Ground(evolve(ground.opening, printers=tuple(evolve(p, zones=()) for p in ground.opening.printers)))
    assert "no_printer" in {f.code for f in findings(rulebook, bare, play_site(bare))}


def play_site(ground: Ground):  # type: ignore[no-untyped-def]
    return ground.opening.printers[0].site


@pytest.mark.parametrize(
    ("changes", "says"),
    [
        ({"zones": (ZoneCode("RCV"),)}, "prints on `LABEL-"),
        ({"zones": (ZoneCode("GLR"),)}, "zone `GLR` is at site `GL`"),
        ({"width_mm": 5}, "from 20 to 300 mm"),
        ({"site": "XX"}, "site `XX` does not exist"),
    ],
)
def test_printers_of_the_catalogue_are_checked(ground: Ground, changes: dict[str, object], says: str) -> None:
    first, *rest = ground.opening.printers
    wrong = evolve(ground.opening, printers=(evolve(first, **changes), *rest))
    assert any(says in p.says for p in check_opening(wrong))


@given(st.lists(st.tuples(st.sampled_from(["send", *Condition]), st.integers(0, 40)), max_size=30))
def test_whatever_happens_to_a_printer_everything_comes_out_in_order(steps: list[tuple[str, int]]) -> None:
    """Sent to one printer that is set as it may be: once it is ready all of it is printed, each once, none before one sent
    earlier; and what waits has a reason."""
    prints, now, sent = Prints(Journal()), STARTS, 0
    for what, seconds in steps:
        now += timedelta(seconds=seconds)
        if what == "send":
            sent += 1
            label = Label("bin", str(sent), "")
            prints.send(Print(str(sent), (label,), 1, "p", now, sent, 0, HALL), now)  # type: ignore[arg-type]
        else:
            prints.set(HALL, Condition(what), now)
        assert all((p.due is None) == bool(p.why) for p in prints.values())
    prints.set(HALL, Condition.READY, now)
    later = now + timedelta(hours=1)
    in_order = [*prints.latest()][::-1]
    assert [p.number for p in in_order] == [str(n + 1) for n in range(sent)]
    assert all(p.printed(later) for p in in_order)
    assert [p.due for p in in_order] == sorted(p.due for p in in_order if p.due)


def test_the_tray_holds_so_many_and_never_lets_go_what_waits() -> None:
    prints = Prints(Journal())
    prints.set(HALL, Condition.OFF, STARTS)
    for n in range(TRAY + 50):
        label = Label("bin", str(n), "")
        to = HALL if n < 5 else BELT
        prints.send(Print(str(n), (label,), 1, "p", STARTS, n, 0, to), STARTS)  # type: ignore[arg-type]
    assert len(prints) == TRAY + 5 and [p.number for p in prints.all_waiting()] == ["0", "1", "2", "3", "4"]
