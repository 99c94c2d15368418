"""The layer for all sites: put together with a site's own and taken apart, given to all sites, made a site's own."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mindful_crate.core.catalog.goods import OrderKind
from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.plain import from_plain, to_plain
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.bin_rules import BinPurpose
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.edits import Edit, apply_edits
from mindful_crate.core.rulebook.flows import Crew, OtherBin
from mindful_crate.core.rulebook.layers import (
    LISTS,
    NOTHING,
    at_another_site,
    kept_apart,
    merged,
    own,
    shared_by,
    taken_apart,
)
from mindful_crate.core.rulebook.settings import GENERAL, SettingsLayer
from mindful_crate.core.rulebook.steps import Asked
from mindful_crate.demo.loader import demo_rulebook

HQ, GL = SiteCode("HQ"), SiteCode("GL")
BOOK = demo_rulebook()
PARTS = [(name, part.id) for name in LISTS for part in getattr(BOOK, name)]


def edited(book: Rulebook, general: Rulebook, site: SiteCode, *edits: Edit) -> tuple[Rulebook, Rulebook]:
    """The layer for all sites and the site's own, after edits of both as one."""
    made: list[str] = []
    after = from_plain(Rulebook, apply_edits(to_plain(merged(general, book)), edits, made=made))
    return taken_apart(kept_apart(after, general, shared_by(edits, made), site))


@settings(deadline=None)
@given(st.lists(st.sampled_from(PARTS), unique=True), st.booleans())
def test_together_and_apart(given_away: list[tuple[str, str]], set_: bool) -> None:
    """Whatever is given to all sites: nothing is lost, the site works as before, and both layers come apart as they were."""
    ours = own(BOOK, HQ)
    edits = [Edit("share", f"{list_}/{id_}") for list_, id_ in given_away]
    if set_:
        edits.append(Edit("set", "settings/general/other_bin", "never"))
    general, rest = edited(ours, NOTHING, HQ, *edits)
    whole = merged(general, rest)
    assert taken_apart(whole) == (general, rest)
    for name in LISTS:
        given = {id_ for list_, id_ in given_away if list_ == name}
        assert len(getattr(general, name)) == len(given)
        assert {p.id for p in getattr(rest, name)} == {p.id for p in getattr(BOOK, name)} - given
        assert all(p.site is None and (name == "crews" or p.id.startswith("all-")) for p in getattr(general, name))
    menus = sorted(f.name for f in whole.menu_for(HQ, {c.id for c in BOOK.crews}))
    assert menus == sorted(f.name for f in BOOK.menu_for(HQ, {c.id for c in BOOK.crews}))
    for purpose in BinPurpose:
        assert len(whole.rules_for(HQ, purpose)) == len(BOOK.rules_for(HQ, purpose))
    assert [layer.id for layer in general.settings] == [GENERAL] * set_


def test_what_another_site_sees(rulebook: Rulebook) -> None:
    """What is given to all sites holds at the others, after their own; a copy for one site stands before it."""
    general, rest = edited(own(rulebook, HQ), NOTHING, HQ, Edit("share", "step_plans/SP-1"))
    there = own(Rulebook("Gull Lane"), GL)
    plan = merged(general, there).plan_for(Asked(GL, OrderKind.PURCHASE))
    assert plan is not None and plan.id.startswith("all-")
    general_after, there = edited(there, general, GL, Edit("own", f"step_plans/{plan.id}", "GL"))
    assert general_after == general
    mine = merged(general, there).plan_for(Asked(GL, OrderKind.PURCHASE))
    assert mine is not None and (mine.id, mine.site, mine.name) == ("SP-2", GL, f"{plan.name} (here)")
    assert merged(general, rest).plan_for(Asked(HQ, OrderKind.PURCHASE)) == plan


def test_a_new_part_is_the_sites_own(rulebook: Rulebook) -> None:
    """Nothing becomes a part of all sites but by being given to them; within one that is, ids are of all sites too."""
    general, rest = edited(own(rulebook, HQ), NOTHING, HQ, Edit("share", "bin_rules/BL-1"))
    insert = Edit("insert", "crews", {"id": "night", "name": "Night crew"})
    copy = Edit("copy", f"bin_rules/all-BL-7/rules/{general.bin_rules[0].rules[0].id}")
    after, ours = edited(rest, general, HQ, insert, copy)
    assert Crew("night", "Night crew", HQ) in ours.crews and not after.crews  # type: ignore[arg-type]
    assert len(after.bin_rules[0].rules) == len(general.bin_rules[0].rules) + 1
    assert all(r.id.startswith("all-BR-") for r in after.bin_rules[0].rules)
    with pytest.raises(Refusal, match="nothing at"):
        edited(rest, general, HQ, Edit("share", "bin_rules/all-BL-7/rules/all-BR-6"))


def test_a_crew_that_all_sites_have(rulebook: Rulebook) -> None:
    """People belong to a crew by its id: a site that has one of that id has the shared one."""
    general, _ = edited(own(rulebook, HQ), NOTHING, HQ, Edit("share", "crews/quay"))
    there = own(Rulebook("Gull Lane", crews=(Crew("quay", "Quay crew of Gull Lane"),)), GL)  # type: ignore[arg-type]
    assert merged(general, there).crews == general.crews


def test_a_rulebook_of_before_or_of_a_file(rulebook: Rulebook) -> None:
    """It is one site's: its settings for all sites stand below the site's, what names another site is left out, and what all
    sites have anyway is not taken twice."""
    general, _ = edited(own(rulebook, HQ), NOTHING, HQ, Edit("share", "recipes/RE-1"))
    book = replace(
        rulebook,
        flows=(*rulebook.flows, replace(rulebook.flows[0], id="F-GL", site=GL)),
        recipes=general.recipes,
        settings=(
            SettingsLayer(GENERAL, other_bin=OtherBin.NEVER, next_item_confirms=False),
            SettingsLayer("HQ", HQ, other_bin=OtherBin.REASON),
        ),
    )
    read = own(book, HQ, but=general)
    assert read.settings == (SettingsLayer("HQ", HQ, other_bin=OtherBin.REASON, next_item_confirms=False),)
    assert "F-GL" not in {f.id for f in read.flows} and read.recipes == ()
    assert own(read, HQ) == read
    moved = at_another_site(read, HQ, GL)
    assert {p.site for name in LISTS for p in getattr(moved, name)} == {GL}
    assert moved.settings[0].id == "GL"
