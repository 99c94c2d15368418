"""Shelves filled by the clock, in sentences."""

from __future__ import annotations

from mindful_crate.core.rulebook.filling import Fills, ShelfRun
from mindful_crate.core.rulebook.times import said_times
from mindful_crate.core.rulebook.words.parts import Names, Part, Sentence, all_of, any_of, just

FILLS = {Fills.NOT_FULL: "that could take more", Fills.LOW: "that hold less than their least"}


def shelf_run_sentence(run: ShelfRun, path: str = "", names: Names | None = None) -> Sentence:
    """What fills shelves by the clock, in words."""
    times = said_times(run.times)
    parts = [just("At "), Part("word", all_of(times) if times else "no time yet", f"{path}/times", "wave_times")]
    parts.append(just(" by the site's clock all shelves "))
    if run.zones:
        told = any_of(names.zone(z) if names else z for z in run.zones)
        parts += [just("of "), Part("word", told, f"{path}/zones", "shelf_zones"), just(" ")]
    if run.groups:
        parts += [just("for "), Part("word", any_of(run.groups), f"{path}/groups", "groups"), just(" ")]
    parts += [Part("word", FILLS[run.fills], f"{path}/fills", "fills"), just(" are filled up to their most")]
    parts.append(just("." if run.on else ". Switched off: it fills nothing."))
    if not run.zones or not run.groups:
        parts.append(Part("add", "but only", path, "shelf_only"))
    return tuple(parts)
