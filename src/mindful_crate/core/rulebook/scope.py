"""Parts of the general layer and those of one site, as a site asks them."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Protocol, TypeVar

from mindful_crate.core.catalog.ids import SiteCode


class Layered(Protocol):
    """Something that belongs to the general layer or to one site."""

    @property
    def site(self) -> SiteCode | None:
        """Its layer."""
        ...


L = TypeVar("L", bound=Layered)


def own_first(parts: Iterable[L], site: SiteCode) -> list[L]:
    """Those that hold at a site, in the order in which they are asked: its own first."""
    return sorted((p for p in parts if p.site in (None, site)), key=lambda p: p.site is None)
