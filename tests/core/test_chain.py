"""The chain of documents: complete, both ways, with every state where it was reached."""

from __future__ import annotations

import re

import pytest

from mindful_crate.core.catalog.goods import OrderKind
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.world import acts
from mindful_crate.core.world.chain import Doc, DocKind, Ref, chain, documents, find, told
from tests.playbook import Play, barcode, new_world


def received(ground: Ground, rulebook: Rulebook) -> Play:
    """Two orders of one vendor on one plate, finished, taken and placed; a third order not touched."""
    play = Play(new_world(ground, rulebook)).confirm("PO-1007", "PO-1009").opens("F-RECEIVE")
    play.scan("PO-1007").scan(barcode(ground, "ROPE-12", "coil")).type("2").press("other_order")
    play.scan("PO-1009").scan(barcode(ground, "ROPE-10", "coil")).type("1").press("finish").done()
    play.press("leave").opens("F-PUTAWAY")
    task = next(iter(play.state.tasks.every()))
    return play.scan(task.plate).scan(task.to_bin).done("stands in")


def of(docs: list[Doc], kind: DocKind) -> list[Doc]:
    return [d for d in docs if d.kind is kind]


def test_the_chain_is_the_same_from_every_document(ground: Ground, rulebook: Rulebook) -> None:
    """From the plate, its receipt, its task and their messages one finds both orders; every link leads both ways."""
    play = received(ground, rulebook)
    plate = next(iter(play.state.receipts.every())).plate
    docs = chain(play.state, Ref(DocKind.PLATE, plate))
    assert [d.number for d in of(docs, DocKind.ORDER)] == ["PO-1007", "PO-1009"]
    assert [len(of(docs, k)) for k in (DocKind.PLATE, DocKind.RECEIPT, DocKind.TASK, DocKind.MESSAGE)] == [1, 1, 1, 3]
    for doc in docs:
        if doc.kind in (DocKind.PLATE, DocKind.RECEIPT, DocKind.TASK):
            assert {d.number for d in chain(play.state, Ref(doc.kind, doc.number))} == {d.number for d in docs}
        for ref in doc.after:
            assert Ref(doc.kind, doc.number) in next(d for d in docs if d.number == ref.number).before
        for ref in doc.before:
            assert Ref(doc.kind, doc.number) in next(d for d in docs if d.number == ref.number).after
    short = chain(play.state, Ref(DocKind.PLATE, plate), short=True)
    task = of(short, DocKind.TASK)[0]
    assert {d.kind for d in short} == {DocKind.ORDER, DocKind.RECEIPT, DocKind.TASK}
    assert task.before == (Ref(DocKind.RECEIPT, of(short, DocKind.RECEIPT)[0].number),)
    assert of(short, DocKind.RECEIPT)[0].before == (Ref(DocKind.ORDER, "PO-1007"), Ref(DocKind.ORDER, "PO-1009"))


def test_each_state_is_where_it_was_reached(ground: Ground, rulebook: Rulebook) -> None:
    """The entry of each stage is the one whose words tell it, and what is not reached is said to be to come."""
    play = received(ground, rulebook)
    log = {e.seq: e for e in play.world.log}
    plate = next(iter(play.state.receipts.every())).plate
    stages = {(d.kind.value, s.word): s for d in chain(play.state, Ref(DocKind.PLATE, plate)) for s in d.stages}
    for key, words in {
        ("plate", "begun"): "made", ("plate", "finished"): "finished", ("receipt", "booked"): "booked receipt",
        ("task", "taken"): "taken", ("task", "placed"): "stands in",
    }.items():  # fmt: skip
        assert stages[key].done
        assert words in log[stages[key].seq].says, (key, log[stages[key].seq].says)
    assert not stages["order", "arrived"].done
    assert re.fullmatch(
        r"[\d,]+ m of [\d,]+ m here|\d+ of \d+ lines here(, \d+ in part)?", stages["order", "arrived"].says
    )
    settled = [s.ref for s in play.state.past.latest(DocKind.TASK)]
    every = [*documents(play.state), *told(play.state, settled)]
    open_ = {d.number: d for d in every if d.open}
    assert {"PO-1007", "PO-1009", "PO-1001"} <= set(open_)
    assert open_["PO-1019"].word == "not confirmed yet"
    assert plate not in open_
    assert max(every, key=lambda d: d.latest).kind is DocKind.TASK


def test_there_is_no_chain_of_nothing(ground: Ground, rulebook: Rulebook) -> None:
    """A number nobody knows is refused; a plate of the opening has a chain of itself."""
    play = Play(new_world(ground, rulebook))
    assert find(play.state, "PO-NONE") is None
    with pytest.raises(Refusal):
        chain(play.state, Ref(DocKind.TASK, "PO-1007"))
    number = next(iter(ground.plates))
    alone = chain(play.state, Ref(DocKind.PLATE, number))
    assert [(d.number, d.open, d.stages[0].word) for d in alone] == [(number, False, "there at the opening")]


def test_an_order_that_goes_out_is_open_until_it_is_shipped(ground: Ground, rulebook: Rulebook) -> None:
    """Being confirmed is not the end of it."""
    play = Play(new_world(ground, rulebook)).do(acts.TryOrder(OrderKind.SALES)).done("TEST-001")
    doc = next(d for d in documents(play.state) if d.number == "TEST-001")
    assert doc.open and [(s.word, s.done) for s in doc.stages][-1] == ("shipped", False)


def test_metres_and_pieces_are_not_added_up(ground: Ground, rulebook: Rulebook) -> None:
    """Of an order for anchors and chain with the chain here alone, so many lines are here, whatever the metres."""
    order = next(
        o
        for o in ground.orders.values()
        if o.inbound and o.site == "HQ" and len({ground.items[x.item].base.code for x in o.lines}) > 1
    )
    play = Play(new_world(ground, rulebook)).confirm(order.number).opens("F-RECEIVE").scan(order.number)
    long = next(x for x in order.lines if ground.items[x.item].base.code == "m")
    play.scan(barcode(ground, long.item, "m")).type(str(long.quantity)).press("finish").done()
    doc = next(d for d in documents(play.state) if d.number == order.number)
    assert doc.open
    stages = {
        s.word: s
        for d in chain(play.state, Ref(DocKind.ORDER, order.number))
        if d.number == order.number
        for s in d.stages
    }
    assert stages["arrived"].says == f"1 of {len(order.lines)} lines here" and not stages["arrived"].done
