"""What a document says of itself: where a task goes and why, where a receipt arrived, how far each line of an order is."""

from __future__ import annotations

from dataclasses import replace

from mindful_crate.core.catalog.ids import TaskNo
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.proving.facts import facts_of
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.steps import Begins, Need, PutAwayStep
from mindful_crate.core.world import acts
from tests.core.test_loose import GL, at
from tests.core.test_recipes import ways
from tests.playbook import Play, barcode, new_world


def so(play: Play, kind: DocKind, number: str) -> dict[str, str]:
    """The facts of a document by their words."""
    return {f.word: f.says for f in facts_of(play.state, play.world.rulebook, Ref(kind, number))}


def test_a_task_tells_what_it_moves_where_and_by_which_rule(ground: Ground, rulebook: Rulebook) -> None:
    """Stock with its lot, date and status; both bins with their zones; the rule and the recipe by where they stand; placed, nothing is
    left, and of a rule that is gone that is said."""
    play = Play(new_world(ground, rulebook))
    play.opens("F-RECEIVE").scan("PO-1002").scan(barcode(ground, "AF-RED-25", "case")).type("2029-08-31").type(
        "K2611"
    ).type("6").done()
    play.press("finish").done()
    (task,) = play.state.tasks.values()
    said = so(play, DocKind.TASK, task.number)
    assert said["For"] == "Put away: a whole plate"
    assert (
        said["Stock"]
        == said["Still to be placed"]
        == "24 tins Antifouling red 2.5 l, available, lot `K2611`, keeps until 2029-08-31"
    )
    assert (
        said["From"] == "`RCV-01`, Receiving"
        and said["To"].startswith(f"`{task.to_bin}`, ")
        and "by Bin rules, rule" in said["To"]
    )
    links = {f.word: f.link for f in facts_of(play.state, rulebook, task.ref)}
    assert links["To"] == f"bin-rules/{task.rule}" and links["Made by"] == f"recipes/{task.plan.recipe}"
    bare = replace(rulebook, bin_rules=())
    assert any("by a rule that is gone" in f.says for f in facts_of(play.state, bare, task.ref))
    play.do(acts.RaiseTask(task.number, 4)).do(acts.HoldTask(task.number, "aisle closed")).done()
    said = so(play, DocKind.TASK, task.number)
    assert (said["Priority"], said["Held"]) == ("4", "aisle closed")
    play.do(acts.LetTaskGo(task.number)).opens("F-PUTAWAY").scan(task.plate or "").scan(task.to_bin or "").done()
    said = so(play, DocKind.TASK, TaskNo(task.number))
    assert not {"To", "Still to be placed", "Held"} & said.keys() and said["Made by"]


def test_a_receipt_tells_its_plate_its_bin_and_what_is_still_to_be_put_away(ground: Ground, rulebook: Rulebook) -> None:
    """In part as in whole, with a task or without: what is not at its place yet is the same number at the receipt and
    at the line of the order, and nothing once it is placed."""
    book = ways(rulebook, *rulebook.recipes, put_away=PutAwayStep(begins=Begins.ON_DEMAND))
    play = Play(new_world(ground, book))
    play.opens("F-RECEIVE").scan("PO-1001").scan(barcode(ground, "SHK-08", "box")).type("5").done()
    assert so(play, DocKind.ORDER, "PO-1001")["Line 1"] == "500 pieces Bow shackle 8 mm, 250 noted, not finished"
    play.press("finish").done()
    (receipt,) = play.state.receipts.values()
    said = so(play, DocKind.RECEIPT, receipt.number)
    assert said["On plate"] == f"`{receipt.plate}`" and said["Into bin"] == "`RCV-01`, Receiving"
    assert said["Still to be put away"] == "250 pieces Bow shackle 8 mm, available"
    line = so(play, DocKind.ORDER, "PO-1001")["Line 1"]
    assert line == "500 pieces Bow shackle 8 mm, 250 arrived, 250 booked, 250 still to be put away"
    play.do(acts.MakeTasks((str(receipt.plate),))).done()
    assert so(play, DocKind.RECEIPT, receipt.number) == said
    (task,) = play.state.tasks.values()
    play.press("leave").opens("F-PUTAWAY").scan(task.plate or "").scan(task.to_bin or "").done()
    assert so(play, DocKind.RECEIPT, receipt.number)["Still to be put away"] == "nothing"
    assert so(play, DocKind.ORDER, "PO-1001")["Line 1"].endswith("250 booked")
    assert so(play, DocKind.PLATE, str(receipt.plate))["Stands in"].startswith(f"`{task.to_bin}`")


def test_loose_goods_too(ground: Ground) -> None:
    """Received loose: on no plate, and what is not placed goes down with each part."""
    play = (
        at(ground, GL)
        .opens("F-RECEIVE")
        .scan("GL-501")
        .scan(barcode(ground, "SHK-08", "box"))
        .type("4")
        .press("finish")
        .done()
    )
    said = so(play, DocKind.RECEIPT, "RCR-0093")
    assert said["On plate"] == "none, received loose" and said["Into bin"].startswith("`GL-COUNTER`, ")
    assert said["Still to be put away"] == "200 pieces Bow shackle 8 mm, available"
    first = play.state.tasks.open_tasks(play.crews, Need.PUT_AWAY)[0]
    assert so(play, DocKind.TASK, first.number)["For"] == "Put away: loose"
    play.opens("F-PUTAWAY").scan(first.number).scan(first.to_bin or "").done()
    left = 200 - sum(g.quantity for g in first.goods)
    assert so(play, DocKind.RECEIPT, "RCR-0093")["Still to be put away"] == (
        f"{left} pieces Bow shackle 8 mm, available" if left else "nothing"
    )
