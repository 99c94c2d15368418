"""Core values to plain data and back."""

from __future__ import annotations

import json
from concurrent.futures import ThreadPoolExecutor
from datetime import date
from decimal import Decimal
from threading import Barrier
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter

from mindful_crate.core import plain as plain_module
from mindful_crate.core.catalog.amounts import Goods
from mindful_crate.core.catalog.goods import Status
from mindful_crate.core.catalog.ids import DialogueNo, ItemCode, RuleId, TargetId, TaskNo, ZoneCode
from mindful_crate.core.floor.answers import Answers
from mindful_crate.core.plain import Misfit, canonical, digest, from_plain, to_plain
from mindful_crate.core.proving.script import Rehearsal
from mindful_crate.core.record import maker, record
from mindful_crate.core.rulebook.bin_rules import (
    BinRule,
    Conditions,
    IfNothing,
    LookIn,
    Prefer,
    Target,
    UnitForm,
    Wants,
)
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.scanning.kinds import COUNT, EXPIRY, ITEM, LOT
from mindful_crate.core.work.receiving.coming import NEW_PLATE
from mindful_crate.core.work.tasks.dialogue import TASKS
from mindful_crate.core.world import events as ev
from mindful_crate.demo.loader import demo_rehearsals, demo_rulebook

codes = st.text("ABCXYZ0123456789-", min_size=1, max_size=6)
rules = st.builds(
    BinRule,
    id=codes.map(RuleId),
    targets=st.lists(
        st.builds(
            Target,
            id=codes.map(TargetId),
            look_in=st.builds(LookIn, zones=st.lists(codes.map(ZoneCode), max_size=2).map(tuple)),
            wants=st.sampled_from(Wants),
            prefer=st.lists(st.sampled_from(Prefer), unique=True, max_size=3).map(tuple),
        ),
        max_size=3,
    ).map(tuple),
    applies=st.builds(
        Conditions,
        items=st.lists(codes.map(ItemCode), max_size=2).map(tuple),
        unit_forms=st.lists(st.sampled_from(UnitForm), unique=True, max_size=2).map(tuple),
    ),
    if_nothing=st.sampled_from(IfNothing),
    on=st.booleans(),
)


@given(rules)
def test_a_value_survives_plain_form(rule: BinRule) -> None:
    """Plain and back is the same value, with the same bytes."""
    again = from_plain(BinRule, to_plain(rule))
    assert again == rule
    assert canonical(again) == canonical(rule)


@given(rules, rules)
def test_hash_is_the_content(one: BinRule, two: BinRule) -> None:
    """Two values have one hash exactly when they are equal."""
    assert (digest(one) == digest(two)) == (one == two)


counts = st.none() | st.decimals(0, 10**6, places=3)
days = st.none() | st.dates(date(1999, 1, 1), date(2099, 12, 31))


@given(counts, st.booleans(), st.none() | codes, days, st.lists(codes.map(TaskNo)).map(tuple))
def test_answers_survive(
    count: Decimal | None, new: bool, lot: str | None, expiry: date | None, tasks: tuple[TaskNo, ...]
) -> None:
    """Each comes back by its key as it was given, exact, and through the log; what is unset stays unset."""
    given = (
        Answers()
        .having(COUNT, count)
        .having(NEW_PLATE, new)
        .having(LOT, lot)
        .having(EXPIRY, expiry)
        .having(TASKS, tasks)
    )
    event = ev.DialogueMoved(DialogueNo("D-1"), given)
    read = from_plain(ev.DialogueMoved, json.loads(json.dumps(to_plain(event))))
    assert read == event and hash(read.answers) == hash(given)
    for answers in (given, read.answers):
        assert (answers[COUNT], answers[NEW_PLATE], answers[LOT]) == (count, new, lot)
        assert (answers[EXPIRY], answers[TASKS], answers[ITEM]) == (expiry, tasks, None)
    set_ = [
        k for k, v in ((COUNT, count), (NEW_PLATE, new), (LOT, lot), (EXPIRY, expiry), (TASKS, tasks)) if v != k.absent
    ]
    assert sorted(to_plain(given)) == sorted(k.name for k in set_)
    assert (
        given.only(COUNT, LOT).without(LOT)
        == Answers().having(COUNT, count)
        == given.having(LOT, None).only(COUNT, LOT)
    )


def test_an_answer_is_a_plain_value() -> None:
    """What is none is refused with its name, not kept."""
    for held in ({"x": 1}, None, [1], 1.5):
        with pytest.raises(Misfit, match=r"lot: .* is no answer"):
            from_plain(ev.DialogueMoved, {"dialogue": "D-1", "answers": {"lot": held}, "kind": "dialogue_moved"})


@pytest.mark.parametrize(
    ("plain", "place", "part"),
    [
        ({"id": "R"}, "targets", "is missing"),
        ({"id": "R", "targets": [], "oops": 1}, "oops", "unknown field"),
        ({"id": 7, "targets": []}, "id", "not text"),
        (
            {"id": "R", "targets": [{"id": "T", "look_in": {}, "wants": "same"}]},
            "targets/0/wants",
            "none of same_item_and_lot",
        ),
        ({"id": "R", "targets": {}}, "targets", "not a list"),
        ({"id": "R", "targets": [], "on": 1}, "on", "true or false"),
        ([], "", "not a set of named values"),
    ],
)
def test_a_misfit_names_its_place(plain: object, place: str, part: str) -> None:
    """Data of the wrong shape is refused with where and what."""
    with pytest.raises(Misfit) as caught:
        from_plain(BinRule, plain)
    assert caught.value.place == place
    assert part in caught.value.says


def test_a_union_is_told_apart_by_kind() -> None:
    """An unknown kind is refused with the kinds there are."""
    with pytest.raises(Misfit, match="order_confirmed"):
        from_plain(ev.Done, {"events": [{"kind": "nonsense"}], "says": ""})
    assert from_plain(Decimal, "1.50") == Decimal("1.50")


def test_the_edge_reads_files_as_the_core_does() -> None:
    """Pydantic, which publishes the schemas and guards the API, reads the same values from the same data."""
    book = demo_rulebook()
    assert TypeAdapter(Rulebook).validate_python(to_plain(book)) == book
    reads = TypeAdapter(Rehearsal)
    for script in demo_rehearsals():
        assert reads.validate_python(to_plain(script)) == script


def test_a_value_made_quickly_is_the_same_value() -> None:
    """All fields in order; equal, with the same hash and the same words."""
    fields = ("ROPE-12", 4, "L1", date(2026, 3, 3), Status.DAMAGED, None)
    quick, plain = maker(Goods)(*fields), Goods(*fields)  # type: ignore[arg-type]
    assert quick == plain and hash(quick) == hash(plain) and repr(quick) == repr(plain)


def test_two_threads_may_read_the_first_of_a_kind(monkeypatch: pytest.MonkeyPatch) -> None:
    """The reader of a kind finds out at first use how its fields are read; both threads are held there at once."""

    @record
    class Pair:
        left: int
        right: int

    both = Barrier(2)
    found_out = plain_module._reader
    monkeypatch.setattr(plain_module, "get_type_hints", lambda cls: {"left": "left", "right": "right"})

    def waiting(kind: Any) -> Any:
        if kind == "left":
            both.wait(10)
        return plain_module._exactly(int, "a whole number") if kind in ("left", "right") else found_out(kind)

    read = plain_module._fields(Pair)
    monkeypatch.setattr(plain_module, "_reader", waiting)
    with ThreadPoolExecutor(2) as pool:
        assert list(pool.map(read, [{"left": 1, "right": 2}] * 2)) == [Pair(1, 2)] * 2
    assert read({"left": 3, "right": 4}) == Pair(3, 4)
