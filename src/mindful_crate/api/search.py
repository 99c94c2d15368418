"""Search in one place: the things a site has, and what its live floor keeps papers about."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import islice

from flask import current_app
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field

from mindful_crate.api.doors import needs
from mindful_crate.api.drafts import seen_draft
from mindful_crate.api.rights import Right
from mindful_crate.api.shapes import PROBLEMS, ById
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.core.catalog.ids import OrderNo
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.floor.state import State
from mindful_crate.core.work.numbered import spot_told
from mindful_crate.core.world import chain
from mindful_crate.store import db
from mindful_crate.store.rows import WorldRow

api = APIBlueprint("search", __name__, url_prefix="/api", abp_tags=[Tag(name="search")], doc_ui=WITH_DOCUMENT)
MOST = 6
"""So many of each kind."""


class SearchQuery(Body):
    """What is looked for: part of a code, a number or a name."""

    find: str = Field(min_length=2, max_length=60)


class Hit(Answer):
    """Something that was found, and the page that shows it."""

    kind: str
    label: str
    link: str


class Hits(Answer):
    """What was found."""

    hits: list[Hit]


@api.get("/drafts/<id>/search", responses={200: Hits, **PROBLEMS})
@needs(Right.LOOK)
def search(path: ById, query: SearchQuery) -> Hits:
    """Items, bins and orders of a draft's site, and the document of a number on its live floor."""
    parts, find = wired(current_app), query.find.strip().lower()
    with parts.database.transaction() as conn:
        found = seen_draft(conn, path.id)
        ground = parts.worlds.ground(conn, found.row.opening)
        hits = [*islice(_items(ground, find), MOST), *islice(_orders(ground, found.row.site, find), MOST)]
        hits += islice(_bins(ground, found.row.site, find), MOST)
        live = db.row(conn, WorldRow, "live_world", site=found.row.site)
        if live:
            with parts.worlds.reading(conn, live.id) as w:
                hits += _on_the_floor(w.state, live.id, query.find.strip().upper())
                hits += islice(_pieces(w.state, query.find.strip()), MOST)
    return Hits(hits=hits)


def _items(ground: Ground, find: str) -> Iterator[Hit]:
    for item in ground.items.values():
        if find in item.code.lower() or find in item.name.lower():
            yield Hit(kind="item", label=f"{item.name}, {item.code}", link=f"/catalogue/items?find={item.code}")


def _orders(ground: Ground, site: str, find: str) -> Iterator[Hit]:
    for order in ground.orders.values():
        partner = ground.partners.get(order.partner)
        name = partner.name if partner else order.partner
        if order.site == site and (find in order.number.lower() or find in name.lower()):
            yield Hit(kind="order", label=f"{order.number}, {name}", link=f"/orders?find={order.number}")


def _bins(ground: Ground, site: str, find: str) -> Iterator[Hit]:
    for zone in ground.zones_of_site.get(site, ()):  # type: ignore[call-overload]
        for each in ground.bins_by_zone.get(zone, ()):
            if find in each.code.lower():
                yield Hit(kind="bin", label=f"{each.code}, {ground.zones[zone].name}", link=f"/stock?find={each.code}")


def _pieces(state: State, serial: str) -> Iterator[Hit]:
    """Pieces with a serial number, here or gone."""
    for item in state.serials.items_with(serial) or state.serials.items_with(serial.upper()):
        number = serial if state.serials.where(item, serial) else serial.upper()
        lies = state.serials.where(item, number)
        where = f"{spot_told(lies.spot)}".replace("`", "") if lies and lies.spot else "not here any more"
        yield Hit(kind="serial number", label=f"{number} of {item}, {where}", link=f"/stock?find={number}")


def _on_the_floor(state: State, world: str, number: str) -> list[Hit]:
    ref = chain.find(state, number)
    order = state.order(OrderNo(number))
    if ref is None or (order is not None and order.site != state.settings.site):
        return []
    return [
        Hit(kind=ref.kind.value, label=f"{number}, on the live floor", link=f"/documents?world={world}&doc={number}")
    ]
