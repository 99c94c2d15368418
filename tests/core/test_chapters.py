"""Chapters as data: whatever a page offers can be done, and is found on the page afterwards."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import replace
from typing import Any

import pytest

from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.plain import to_plain
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.findings.whole import findings
from mindful_crate.core.rulebook.adding import at, first_part
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.chapter import Add, Chapter, Draw, Row, Section
from mindful_crate.core.rulebook.chapters import CHAPTERS, chapter_of, draw, where
from mindful_crate.core.rulebook.choices import choices
from mindful_crate.core.rulebook.differences import differences
from mindful_crate.core.rulebook.edits import Edit, apply_edits
from mindful_crate.core.rulebook.starter import starter
from mindful_crate.core.rulebook.versions import read_rulebook
from mindful_crate.core.rulebook.words.parts import Part

HQ = SiteCode("HQ")


@pytest.fixture(params=["the demo's", "first rules", "nothing"])
def book(request: pytest.FixtureRequest, ground: Ground, rulebook: Rulebook) -> Rulebook:
    return {"the demo's": rulebook, "first rules": starter("First", ground, HQ), "nothing": Rulebook("Empty")}[
        request.param
    ]


def pages(book: Rulebook, ground: Ground, chapter: str = "") -> Iterator[Chapter]:
    """Every page, or those of a chapter, tab by tab."""
    what = Draw(book, ground, HQ)
    for id_ in [chapter] if chapter else CHAPTERS:
        page = draw(id_, what, "")
        assert page
        yield page
        for tab in page.tabs[1:]:
            other = draw(id_, what, tab.id)
            assert other and other.tab == tab.id
            yield other


def sections(page: Chapter) -> Iterator[Section]:
    waiting = list(page.sections)
    while waiting:
        section = waiting.pop(0)
        yield section
        waiting += [inner for row in section.rows for inner in row.lists]


def rows(page: Chapter) -> Iterator[Row]:
    yield from (row for section in sections(page) for row in section.rows)


def words(page: Chapter) -> Iterator[Part]:
    for row in rows(page):
        yield from (p for p in (*row.parts, *((row.name,) if row.name else ())) if p.kind in ("word", "add"))
    for section in sections(page):
        yield from (cell for line in (section.matrix.lines if section.matrix else ()) for cell in line.cells)


def changed(book: Rulebook, ground: Ground, *edits: Edit, made: list[str] | None = None) -> Rulebook:
    return read_rulebook(apply_edits(to_plain(book), edits, first_part(ground, HQ), made))


def like(path: str) -> str:
    """What paths of one kind have in common: all but the ids."""
    return "/".join(part for part in path.split("/") if "-" not in part)


def test_every_word_can_be_changed_and_says_what_stands_there(ground: Ground, book: Rulebook) -> None:
    """Each has choices or an entry; to set it to the value it shows changes nothing."""
    plain = to_plain(book)
    for page in pages(book, ground):
        for part in words(page):
            assert choices(part.field, ground, HQ, lambda zone: (0, 0), book), part
            if part.kind == "word":
                assert read_rulebook(apply_edits(plain, (Edit("set", part.path, part.value),))) == book, part


def test_whatever_is_offered_can_be_done(ground: Ground, book: Rulebook) -> None:
    """Each act gives another rulebook that can be read, and found in (of acts of one kind the first few are); each row can be moved;
    nothing named twice."""
    found_in: Counter[tuple[str, str]] = Counter()
    for page in pages(book, ground):
        for section in sections(page):
            for row in section.rows:
                for act in row.acts:
                    after = changed(book, ground, *act.edits)
                    assert after != book and act.told, act
                    found_in[like(row.path), act.id] += 1
                    if found_in[like(row.path), act.id] <= 4:
                        findings(after, ground, HQ)
                    drawn = draw(page.id, Draw(after, ground, HQ), page.tab)
                    gone = not drawn or all(r.path != row.path for r in rows(drawn))
                    assert gone == (act.id == "remove"), act
            if section.ordered and len(section.rows) > 1:
                first, last = section.rows[0], section.rows[-1]
                moved = changed(book, ground, Edit("move", last.path, at=0))
                again = next(
                    s
                    for p in pages(moved, ground, page.id)
                    for s in sections(p)
                    if s.rows and s.rows[0].path == last.path
                )
                assert [r.id for r in again.rows][:2] == [last.id, first.id]


def test_whatever_can_be_added_is_there_then(ground: Ground, book: Rulebook) -> None:
    """Each choice of a place to add makes a part with an id of its own, shown on the page; twice at once makes two. Places of one kind,
    as the prompts of all flows, offer the same: there each place is tried, and each choice once."""
    tried: set[tuple[str, str | None]] = set()
    for page in pages(book, ground):
        adds = [(a, page) for s in sections(page) for a in s.add] + ([(page.begin, page)] if page.begin else [])
        for add, _ in adds:
            assert isinstance(add, Add)
            kind = like(add.path)
            offered = [o.value for o in add.options] or [add.value]
            for value in [v for v in offered if (kind, v) not in tried] or offered[:1]:
                tried.add((kind, value))
                made: list[str] = []
                edit = Edit("add", add.path, value)
                after = changed(book, ground, edit, made=made)
                findings(after, ground, HQ)
                (path,) = made
                assert at(to_plain(after), path)
                list_ = path.split("/")[0]
                drawn = [*pages(after, ground, page.id)]
                shown = {r.path for p in drawn for r in rows(p)} | {x.path for p in drawn for x in words(p)}
                tabs = {t.id for p in drawn for t in p.tabs}
                assert path in shown or f"{path}/flows" in shown or value in tabs, path
                assert chapter_of(list_) == page.id
                if list_ not in ("bin_rules", "menus"):
                    changed(book, ground, edit, edit, made=made)
                    assert len(set(made[1:])) == 2


def test_a_copy_is_its_own(ground: Ground, rulebook: Rulebook) -> None:
    """A rule with its places, a flow with its prompts: after the first, every id new, all else the same."""
    made: list[str] = []
    after = changed(
        rulebook, ground, Edit("copy", "bin_rules/BL-1/rules/BR-3"), Edit("copy", "flows/F-RECEIVE"), made=made
    )
    rules = [r.id for r in after.bin_rules[0].rules]
    copy = after.bin_rules[0].rules[rules.index("BR-3") + 1]  # type: ignore[arg-type]
    assert made[0] == f"bin_rules/BL-1/rules/{copy.id}" and copy.id not in [
        r.id for x in rulebook.bin_rules for r in x.rules
    ]
    old = {t.id for x in rulebook.bin_rules for r in x.rules for t in r.targets}
    assert not old & {t.id for t in copy.targets}
    flow = after.flows[1]
    assert flow.name == f"{rulebook.flows[0].name} (copy)" and [p.asks for p in flow.prompts] == [
        p.asks for p in rulebook.flows[0].prompts
    ]
    assert not {p.id for p in flow.prompts} & {p.id for f in rulebook.flows for p in f.prompts}


@pytest.mark.parametrize(
    "edit",
    [Edit("add", "zones"), Edit("add", "flows", "dance"), Edit("add", "step_plans", "dance"), Edit("copy", "flows/F-NO"), Edit("copy", "flows"), Edit("add", "flows/F-NO/prompts", "order")],
)  # fmt: skip
def test_what_cannot_be_added_is_refused_in_words(ground: Ground, rulebook: Rulebook, edit: Edit) -> None:
    """Nothing is there of that name, or nothing is made there."""
    with pytest.raises(Refusal) as refused:
        changed(rulebook, ground, edit)
    assert refused.value.problem.says.endswith(".")


def test_a_rule_with_several_places_has_a_line_for_each(ground: Ground, rulebook: Rulebook) -> None:
    """Its first place begins one too, and what holds for all of them; a rule with one place is one line."""
    page = draw("bin-rules", Draw(rulebook, ground, HQ), "put_away")
    assert page
    for row, rule in zip(page.sections[0].rows, rulebook.bin_rules[0].rules, strict=True):
        lines = [p.line for p in row.parts if p.line]
        assert lines == (["in"] * len(rule.targets) + ["out"] if len(rule.targets) > 1 else [])


def test_a_setting_makes_its_layer(ground: Ground, rulebook: Rulebook) -> None:
    """For the site or for all; nothing is made where nothing is set."""
    book: Any = changed(
        rulebook,
        ground,
        Edit("set", "settings/HQ/other_bin", "never"),
        Edit("set", "settings/general/booking", "by_hand"),
    )
    assert [(x.id, x.site) for x in book.settings] == [("HQ", "HQ"), ("general", None)]


def test_what_changes_is_said_in_the_sentences_of_both(ground: Ground, rulebook: Rulebook) -> None:
    """Said otherwise, new, gone, moved, set; nothing of two that say the same. Each where it is shown."""
    assert differences(rulebook, rulebook, ground, HQ) == []
    after = changed(
        rulebook, ground, Edit("move", "bin_rules/BL-1/rules/BR-5", at=0), Edit("set", "flows/F-TOTE/name", "Totes"),
        Edit("remove", "flows/F-LOOK"), Edit("add", "crews"), Edit("set", "settings/HQ/other_bin", "never"),
        Edit("set", "bin_rules/BL-2/rules/BR-21/fefo_days", 9),
    )  # fmt: skip
    found = differences(rulebook, after, ground, HQ)
    said = {(d.what, d.link) for d in found}
    assert {
        ("moved", "bin-rules/BR-5"), ("changed", "scanner/F-TOTE"), ("gone", "scanner/F-LOOK"), ("new", "crews/crew-6"),
        ("changed", "settings/HQ"), ("changed", "bin-rules/BR-21"),
    } <= said  # fmt: skip
    (tote,) = (d for d in found if d.link == "scanner/F-TOTE")
    assert tote.before.startswith("Receive to a tote: ") and tote.after.startswith("Totes: ")
    nothing = differences(Rulebook("Nothing"), rulebook, ground, HQ)
    assert {d.what for d in nothing} == {"new"} and len(nothing) > 30


def test_the_map_of_stations_is_what_plans_and_rules_say(book: Rulebook, ground: Ground) -> None:
    """Every way has both its ends, every station leads to a part that is there, whatever the rulebook; without a plan there is
    no map."""
    page = draw("steps", Draw(book, ground, HQ), "")
    assert page
    graphs = [s.graph for s in page.sections if s.graph]
    assert len(graphs) == bool(book.step_plans)
    for graph in graphs:
        ids = {n.id for n in graph.nodes}
        assert {e.target for e in graph.edges} == ids - {"door"} and {e.source for e in graph.edges} <= ids
        assert all(at(to_plain(book), n.path) and n.link == where(n.path, book)[1] for n in graph.nodes if n.path)


def test_the_map_names_the_rules_that_put_goods_there(rulebook: Rulebook, ground: Ground) -> None:
    """Zones with the numbers of their rules; a rule that is switched off puts nothing; put-away off, goods stay."""

    def said(book: Rulebook) -> dict[str, str]:
        page = draw("steps", Draw(book, ground, HQ), "")
        assert page and page.sections[0].graph
        return {n.title: n.says for n in page.sections[0].graph.nodes if n.on}

    rulebook = replace(rulebook, step_plans=rulebook.step_plans[:1])
    assert said(rulebook)["Bulk"] == "rules 3, 6" and said(rulebook)["Receive"] == "Purchase receipts"
    off = apply_edits(to_plain(rulebook), (Edit("set", "bin_rules/BL-1/rules/BR-3/on", False),))
    assert said(read_rulebook(off))["Bulk"] == "rule 6"
    stay = apply_edits(to_plain(rulebook), (Edit("set", "step_plans/SP-1/put_away/on", False),))
    assert "Bulk" not in said(read_rulebook(stay)) and "Goods stay" not in said(read_rulebook(stay))


def test_of_a_long_list_what_is_in_sight_is_drawn(rulebook: Rulebook, ground: Ground) -> None:
    """So many rows and how many more there are; on to a rule farther down that is asked for."""
    copies = tuple(Edit("copy", "bin_rules/BL-1/rules/BR-5") for _ in range(30))
    book = read_rulebook(apply_edits(to_plain(rulebook), copies))
    ids = [r.id for r in book.bin_rules[0].rules]

    def shown(tab: str, most: int) -> tuple[list[str], int]:
        page = draw("bin-rules", Draw(book, ground, HQ, most=most), tab)
        assert page
        return [r.id for r in page.sections[0].rows], page.sections[0].more

    assert shown("put_away", 0) == (ids, 0) and shown("put_away", 99) == (ids, 0)
    assert shown("put_away", 7) == (ids[:7], len(ids) - 7)
    rows, more = shown(ids[20], 7)
    assert ids[20] in rows and rows == ids[: len(rows)] and len(rows) + more == len(ids)
