"""A rehearsal on another ground than the one it was made on: which things it names are no longer there."""

from __future__ import annotations

from collections.abc import Iterator

from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.plain import Plain, to_plain
from mindful_crate.core.proving.script import Rehearsal


def no_longer_there(script: Rehearsal, before: Ground, after: Ground) -> tuple[str, ...]:
    """What a rehearsal names that its own ground has and another has not: ``bin `P-01-02-1```, in the order named.
    Texts are looked up as a scanner would, so a code that is merely typed counts too."""
    found: dict[str, None] = {}
    for text in _texts(to_plain(script)):
        for word, had, has in (
            ("site", before.sites, after.sites),
            ("bin", before.bins, after.bins),
            ("item", before.items, after.items),
            ("order", before.orders, after.orders),
            ("plate", before.plates, after.plates),
            ("barcode", before.barcodes, after.barcodes),
        ):
            if text in had and text not in has:
                found.setdefault(f"{word} `{text}`")
    return tuple(found)


def _texts(plain: Plain) -> Iterator[str]:
    if isinstance(plain, str):
        yield plain
    elif isinstance(plain, dict):
        for value in plain.values():
            yield from _texts(value)
    elif isinstance(plain, list):
        for value in plain:
            yield from _texts(value)
