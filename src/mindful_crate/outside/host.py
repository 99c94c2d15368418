"""What a real host does to a live floor, whichever way it comes: over HTTP, or as files in a folder."""

from __future__ import annotations

from mindful_crate.core.catalog.ids import MessageNo
from mindful_crate.core.problem import Refusal
from mindful_crate.core.world import acts
from mindful_crate.core.world.events import Entry
from mindful_crate.store.loaded import Who
from mindful_crate.store.rows import WorldRow
from mindful_crate.store.worlds import Worlds


def tell(worlds: Worlds, row: WorldRow, message: str, act: acts.HostTells | acts.HostAnnounces, who: Who) -> Entry:
    """The host tells something; under its own message id, so that it is in effect once."""
    return worlds.run(row.id, f"host-in:{message}", act, who)


def answer(worlds: Worlds, row: WorldRow, number: MessageNo, refused: str | None, who: Who) -> Entry:
    """The host accepts a message of the floor, or refuses it for a reason. The same answer to the same turn of a
    message is in effect once; a message that was repeated may be answered again."""
    if refused is not None and not refused.strip():
        raise Refusal("no_reason", "Say why it is refused: somebody must mend it.", "reason")
    with worlds.database.transaction() as conn, worlds.reading(conn, row.id) as w:
        known = w.state.messages.get(number)
    act = acts.HostAnswers(number, (refused or "").strip())
    return worlds.run(row.id, f"host-answer:{number}:{known.turn if known else 0}", act, who)
