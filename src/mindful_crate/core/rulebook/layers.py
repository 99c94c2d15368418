"""The layer that all sites share, and a site's own: together they are the rulebook a draft shows and a world runs on.

A part of the layer for all sites names no site, a site's own part names it. So the two can be put together and taken apart
again without anything else being remembered. A rulebook written before there was a shared layer, or brought in as a file,
names no sites although all of it is one site's: :func:`own` reads it as that.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable
from typing import Any

from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.record import evolve
from mindful_crate.core.rulebook.adding import begins
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.edits import Edit
from mindful_crate.core.rulebook.scope import Layered
from mindful_crate.core.rulebook.settings import SettingsLayer
from mindful_crate.core.rulebook.words.bin_rules import PURPOSE_TITLES
from mindful_crate.core.rulebook.words.settings import TABLES, TITLES

LISTS = (
    "crews",
    "order_classes",
    "step_plans",
    "bin_rules",
    "recipes",
    "flows",
    "menus",
    "label_rules",
    "gates",
    "release_runs",
    "shelf_runs",
    "ship_plans",
    "wave_plans",
    "dock_rules",
    "pack_rules",
    "paper_forms",
    "count_plans",
    "stock_reasons",
    "return_rules",
    "return_marks",
)
"""The lists whose parts belong to a layer; settings are layers themselves."""
NOTHING = Rulebook("All sites")
"""The layer for all sites before anybody has put something into it."""
SET = tuple(name for name in SettingsLayer.__dataclass_fields__ if name not in ("id", "site"))
"""What a layer of settings may set."""


def own(book: Rulebook, site: SiteCode, but: Rulebook = NOTHING) -> Rulebook:
    """A rulebook read as one site's: parts that name no site become its own, and its settings for all sites those of the
    site, where that sets nothing itself. What is of ``but`` (the same parts, said the same) is left out, as is what names
    another site."""
    lists = {
        name: tuple(
            part if part.site else evolve(part, site=site)
            for part in getattr(book, name)
            if part.site in (None, site) and part not in getattr(but, name)
        )
        for name in LISTS
    }
    layers = [layer for layer in book.settings if layer.site in (None, site) and layer not in but.settings]
    set_: dict[str, Any] = {}
    for layer in sorted(layers, key=lambda layer: layer.site is not None):
        set_ |= {name: value for name in SET if (value := getattr(layer, name)) is not None}
    settings = (SettingsLayer(str(site), site, **set_),) if set_ or any(layer.site for layer in layers) else ()
    return evolve(book, settings=settings, **lists)


def merged(general: Rulebook, own: Rulebook) -> Rulebook:
    """The rulebook of a site: its own parts, then those of all sites. A crew of the site that all sites have by now is that
    crew: people belong to a crew by its id, wherever they are."""
    shared = {crew.id for crew in general.crews}
    crews = tuple(crew for crew in own.crews if crew.id not in shared)
    return evolve(
        own,
        crews=(*crews, *general.crews),
        settings=(*general.settings, *own.settings),
        **{name: (*getattr(own, name), *getattr(general, name)) for name in LISTS if name != "crews"},
    )


def taken_apart(book: Rulebook) -> tuple[Rulebook, Rulebook]:
    """The layer for all sites and the site's own, of a rulebook that was put together."""

    def of(general: bool) -> dict[str, Any]:
        return {name: tuple(p for p in getattr(book, name) if _general(p) is general) for name in (*LISTS, "settings")}

    return evolve(NOTHING, **of(True)), evolve(book, **of(False))


def _general(part: Layered) -> bool:
    return part.site is None


def kept_apart(book: Rulebook, general: Rulebook, shared: Collection[tuple[str, str]], site: SiteCode) -> Rulebook:
    """A rulebook after edits, in which a part names no site only when it was in the layer for all sites, or was given to
    all sites by an edit: ``shared`` has its list and id. Any other is the site's own."""
    lists = {}
    for name in LISTS:
        known = {part.id for part in getattr(general, name)} | {id_ for list_, id_ in shared if list_ == name}
        lists[name] = tuple(
            p if p.site is not None or p.id in known else evolve(p, site=site) for p in getattr(book, name)
        )
    return evolve(book, **lists)


def shared_by(edits: Iterable[Edit], made: Iterable[str]) -> set[tuple[str, str]]:
    """The list and id of each part that edits gave to all sites; ``made`` has the paths of what they made."""
    given = [edit.path for edit in edits if edit.op == "share" and edit.path.startswith("crews/")]
    paths = [path.split("/") for path in (*given, *(p for p in made if begins(p)))]
    return {(list_, id_) for list_, id_, *_ in paths}


def at_another_site(book: Rulebook, here: SiteCode, there: SiteCode) -> Rulebook:
    """A site's own rules, written for another site. The bins they name stay those that were named."""
    lists = {name: tuple(evolve(p, site=there) if p.site == here else p for p in getattr(book, name)) for name in LISTS}
    settings = tuple(
        evolve(layer, id=str(there), site=there) if layer.site == here else layer for layer in book.settings
    )
    return evolve(book, settings=settings, **lists)


def parts_told(general: Rulebook) -> list[str]:
    """What is in the layer for all sites, a few words a part."""
    names = {crew.id: crew.name for crew in general.crews}
    told = [f"Crew {crew.name}" for crew in general.crews] + [f"Plan {plan.name}" for plan in general.step_plans]
    told += [f"{PURPOSE_TITLES[rules.purpose]}: {len(rules.rules)} bin rules" for rules in general.bin_rules]
    told += [f"Recipe for {names.get(recipe.crew, recipe.crew)}" for recipe in general.recipes]
    told += [f"Flow {flow.name}" for flow in general.flows]
    told += [f"Menu of {names.get(menu.crew, menu.crew)}{menu.under}" for menu in general.menus]
    set_ = {name: getattr(layer, name) for layer in general.settings for name in SET}
    return told + [f"{TITLES[name]}: {TABLES[name][value]}" for name, value in set_.items() if value is not None]
