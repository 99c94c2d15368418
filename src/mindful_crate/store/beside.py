"""Worlds of several sites that hear from one another: rehearsals of the same day, and live floors."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import TYPE_CHECKING

from mindful_crate.core.floor.state import WorldKind
from mindful_crate.core.work.host.passing import passed_on
from mindful_crate.core.world.world import HOST, later
from mindful_crate.store import db
from mindful_crate.store.loaded import Who
from mindful_crate.store.rows import WorldRow

if TYPE_CHECKING:
    from mindful_crate.store.worlds import Worlds


class Beside:
    """Which worlds are beside which, and what is passed on between them."""

    def __init__(self, worlds: Worlds) -> None:
        self.worlds = worlds
        self._passed: set[tuple[str, str]] = set()
        """What was passed on, by the world it left; so that it is asked once a process."""
        self._up_to: dict[str, int] = {}
        """Up to which entry of a world there is nothing that is still to be passed on."""

    def put(self, conn: db.Conn, ids: Sequence[str]) -> None:
        """Let rehearsals at several sites be one group: what the one sends the other hears of."""
        for id_ in ids:
            db.run(conn, "put_beside", id=id_, beside=ids[0])
            self.worlds.forget(id_)

    def of(self, conn: db.Conn, row: WorldRow) -> list[WorldRow]:
        """The other worlds of its group; of a live floor, those of other sites."""
        if row.kind == WorldKind.LIVE.value:
            found = db.rows(conn, WorldRow, "live_worlds")
        else:
            found = db.rows(conn, WorldRow, "beside", beside=row.beside) if row.beside else []
        return [r for r in found if r.site != row.site]

    def pass_on(self, id_: str) -> None:
        """Let other sites hear what has left this floor for them. Told once, however often it is asked."""
        with self.worlds.database.transaction() as conn, self.worlds.reading(conn, id_) as loaded:
            seq = loaded.state.seq
            if self._up_to.get(id_) == seq:
                return
            passed = [p for p in passed_on(loaded.state) if (id_, p.id) not in self._passed]
            others = {r.site: r.id for r in self.of(conn, loaded.row)} if passed else {}
        for each in passed:
            if (other := others.get(each.to)) is not None:
                whose, after = (lambda conn, row: Who(HOST)), self._clocks(other)
                self.worlds.run_alone(other, each.id, each.act, whose, lambda _, __: None, after)
                self._passed.add((id_, each.id))
        if all(p.to in others for p in passed):  # else the other floor may yet begin
            self._up_to[id_] = seq

    def met(self, id_: str) -> datetime | None:
        """When the next command of a world in a group comes; the hosts of the others have answered by then, and what they sent was passed on."""
        after = self._clocks(id_)
        with self.worlds.database.transaction() as conn, self.worlds.reading(conn, id_) as loaded:
            at = max(loaded.now(), after) if after else loaded.now()
            others = [r.id for r in self.of(conn, loaded.row)]
        for other in others:
            self.worlds.settle(other, at)
        for each in (*others, id_):
            self.pass_on(each)
        return self._clocks(id_)

    def _clocks(self, id_: str) -> datetime | None:
        """When something may be done in a world: later than whatever was done in the others of its group."""
        clocks = []
        with self.worlds.database.transaction() as conn:
            row = self.worlds.row(conn, id_)
            for other in self.of(conn, row) if row.beside else []:
                with self.worlds.reading(conn, other.id) as loaded:
                    if loaded.state.seq:
                        clocks.append(later(loaded.state.clock))
        return max(clocks, default=None)
