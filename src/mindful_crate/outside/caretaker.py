"""What goes on in live worlds by itself: the stand-in answers when its time has come, files of a real host are taken from a
folder and put into one, and real printers and scales are seen to.

A thread in each process of the server; for each live world one of them works at a time. The folder of a site holds
``in`` (what the host drops), ``out`` (messages that wait for its answer, one file each), ``done`` and ``failed``, where
each file has a note beside it that says why. A file is read once it has its final name, so a host writes it under
another name first, or lets us find it unreadable and tries again.
"""

from __future__ import annotations

import os
import threading
from pathlib import Path

import psycopg
import structlog
from psycopg_pool import PoolTimeout

from mindful_crate.core.catalog.ids import MessageNo
from mindful_crate.core.plain import Misfit, from_plain
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import record
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.letters import letter
from mindful_crate.core.world.world import HOST, due_command
from mindful_crate.files.letters import MOST_BYTES, json_of, letter_text, read_told
from mindful_crate.files.texts import BadText
from mindful_crate.outside import host
from mindful_crate.outside.devices import DeviceKeeper, Devices
from mindful_crate.store import db
from mindful_crate.store.loaded import Who
from mindful_crate.store.rows import WorldRow
from mindful_crate.store.worlds import Worlds

EVERY = 1.0
"""Seconds between two rounds."""
FOLDERS = ("in", "out", "done", "failed")
MOST_FILES = 200
"""So many files of a site are taken in one round, so that none waits for another site's thousands."""
log = structlog.get_logger()


@record
class HostAnswer:
    """A file with the host's answer to a message."""

    answers: MessageNo
    accepted: bool
    reason: str = ""


class Caretaker:
    """Looks after the live worlds of a database. ``drop`` is the folder of the sites' folders, if there is one; ``devices``
    are the real ones that the administrator names."""

    def __init__(self, worlds: Worlds, drop: Path | None, devices: Devices | None = None) -> None:
        self.worlds = worlds
        self.drop = drop
        self.devices = DeviceKeeper(worlds, devices or Devices())
        self._end = threading.Event()

    def start(self) -> None:
        """Begin, in a thread that ends with the process."""
        threading.Thread(target=self._run, daemon=True, name="caretaker").start()

    def stop(self) -> None:
        """End after this round."""
        self._end.set()

    def _run(self) -> None:
        while not self._end.wait(EVERY):
            try:
                self.round()
            except (psycopg.Error, PoolTimeout) as error:  # the next round tries again
                log.warning("caretaker out of touch", error=str(error).strip())

    def round(self) -> None:
        """See to every live world once; worlds that another process sees to are left to it."""
        with self.worlds.database.transaction() as conn:
            rows = db.rows(conn, WorldRow, "live_worlds")
        for row in rows:
            with self.worlds.database.transaction() as conn:
                if db.value(conn, "alone", what=f"caretaker {row.id}"):
                    self._try(row)

    def _try(self, row: WorldRow) -> None:
        """See to a world; what goes wrong with one is logged and stops no other, nor the next round."""
        try:
            self._see_to(row)
        except (psycopg.Error, PoolTimeout):
            raise
        except OSError as error:
            log.warning("caretaker cannot use its folder", world=row.id, error=str(error))
        except Exception:
            log.exception("caretaker", world=row.id)

    def _see_to(self, row: WorldRow) -> None:
        with self.worlds.database.transaction() as conn, self.worlds.reading(conn, row.id) as w:
            outside, due = w.state.host.outside, due_command(w.state, w.now(), w.today) is not None
        if due:
            self.worlds.settle(row.id)
        self.worlds.beside.pass_on(row.id)
        if outside and self.drop:
            self._files(row, self.drop / row.site)
        self.devices.see_to(row)

    # Files

    def _files(self, row: WorldRow, folder: Path) -> None:
        for name in FOLDERS:
            (folder / name).mkdir(parents=True, exist_ok=True)
        for path in sorted(p for p in (folder / "in").iterdir() if _ready(p))[:MOST_FILES]:
            self._take(row, folder, path)
        self._put_out(row, folder / "out")

    def _take(self, row: WorldRow, folder: Path, path: Path) -> None:
        try:
            if path.stat().st_size > MOST_BYTES:
                raise Refusal("too_long", f"It has more than {MOST_BYTES // 1_000_000} MB.")
            says, well = self._carry_out(row, path)
        except (BadText, Refusal) as error:
            problem = error.problem
            says, well = f"{problem.place}: {problem.says}" if problem.place else problem.says, False
        place = _free(folder / ("done" if well else "failed"), path.name)
        path.rename(place)
        place.with_name(place.name + ".txt").write_text(says + "\n", encoding="utf-8")
        log.info("file of the host", world=row.id, file=path.name, accepted=well, says=says)

    def _carry_out(self, row: WorldRow, path: Path) -> tuple[str, bool]:
        content = path.read_bytes()
        answer = _answer(content, path.name)
        if answer:
            refused = None if answer.accepted else answer.reason or "refused"
            entry = host.answer(self.worlds, row, answer.answers, refused, Who(HOST))
        else:
            with self.worlds.database.transaction() as conn:
                ground = self.worlds.ground(conn, row.opening)
            told = read_told(content, path.name, ground, row.site)
            entry = host.tell(self.worlds, row, told.message, told.act, Who(HOST))
        return entry.says, isinstance(entry.outcome, ev.Done)

    def _put_out(self, row: WorldRow, folder: Path) -> None:
        """A file for each message that waits, and none for the others."""
        with self.worlds.database.transaction() as conn, self.worlds.reading(conn, row.id) as w:
            texts = {f"{m.number}.json": letter_text(letter(w.state, m), "json", w.ground) for m in w.state.to_send()}
        there = {p.name for p in folder.iterdir() if p.suffix == ".json"}
        for name in there - set(texts):
            (folder / name).unlink(missing_ok=True)
        for name in sorted(set(texts) - there):
            new = folder / f".{name}"
            new.write_text(texts[name], encoding="utf-8")
            os.replace(new, folder / name)  # a host that looks meanwhile sees all of it or nothing


def _ready(path: Path) -> bool:
    return path.is_file() and not path.is_symlink() and path.suffix in (".json", ".csv", ".xml") and path.name[0] != "."


def _free(folder: Path, name: str) -> Path:
    """A name that no earlier file has."""
    place, n = folder / name, 1
    while place.exists():
        n += 1
        place = folder / f"{Path(name).stem}.{n}{Path(name).suffix}"
    return place


def _answer(content: bytes, name: str) -> HostAnswer | None:
    """The answer in a JSON file that has one; None for a file of another kind."""
    if not name.endswith(".json"):
        return None
    try:
        plain = json_of(content, name)
    except BadText:
        return None  # what is wrong is said by whoever reads it as an order
    if not isinstance(plain, dict) or "answers" not in plain:
        return None
    try:
        return from_plain(HostAnswer, plain)
    except Misfit as misfit:
        raise Refusal("bad_message", f"{misfit.says}.", misfit.place) from None
