"""A rehearsal on another ground than the one it was made on: which things it names are gone or are not as they were."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any

from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.plain import Plain, to_plain
from mindful_crate.core.proving.script import Rehearsal
from mindful_crate.core.record import record


@record
class Moved:
    """What a rehearsal names, ``bin `P-01-02-1```, in the order named: what is ``gone`` from another ground, and what is
    ``changed`` there: an order with other lines, a bin of another type or with other stock, an item with other units."""

    gone: tuple[str, ...] = ()
    changed: tuple[str, ...] = ()


def moved(script: Rehearsal, before: Ground, after: Ground) -> Moved:
    """What of a rehearsal's own ground is no longer, or otherwise, on another. Texts are looked up as a scanner would, so
    a code that is merely typed counts too."""
    named = list(_named(script, before, after))
    return Moved(
        tuple(told for told, _, has in named if has is None),
        tuple(told for told, had, has in named if has is not None and had != has),
    )


def _named(script: Rehearsal, before: Ground, after: Ground) -> Iterator[tuple[str, Any, Any]]:
    """Each thing named once: in words, as it was, and as it is; None when it is gone."""
    seen: set[str] = set()
    kinds: list[tuple[str, Mapping[Any, Any], Mapping[Any, Any]]] = [
        ("site", before.sites, after.sites),
        ("bin", before.bins, after.bins),
        ("item", before.items, after.items),
        ("order", before.orders, after.orders),
        ("plate", before.plates, after.plates),
        ("barcode", before.barcodes, after.barcodes),
    ]
    for text in _texts(to_plain(script)):
        for word, had, has in kinds:
            told = f"{word} `{text}`"
            if text in had and told not in seen:
                seen.add(told)
                there = has.get(text)
                stock = (_stock(before, text), _stock(after, text)) if word == "bin" and there is not None else ((), ())
                yield told, (had[text], stock[0]), None if there is None else (there, stock[1])


def _stock(ground: Ground, code: str) -> tuple[Any, ...]:
    return tuple(sorted((ground.stock[n] for n in ground.stock.rows_of_bin(code)), key=repr))


def _texts(plain: Plain) -> Iterator[str]:
    if isinstance(plain, str):
        yield plain
    elif isinstance(plain, dict):
        for value in plain.values():
            yield from _texts(value)
    elif isinstance(plain, list):
        for value in plain:
            yield from _texts(value)
