"""The application's own command line: rehearse files, prepare the database, write published documents."""

from __future__ import annotations

import argparse
import json
import os
import socket
import sys
import time
import traceback
from collections.abc import Callable
from contextlib import nullcontext
from datetime import UTC, date, datetime
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar
from zoneinfo import ZoneInfo

import psycopg
from psycopg_pool import PoolTimeout

from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.findings.whole import findings
from mindful_crate.core.proving.rehearse import Beside, Result, check_script, run
from mindful_crate.core.proving.script import Rehearsal
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.demo.loader import demo_letters, demo_opening, demo_rules
from mindful_crate.files import gs1
from mindful_crate.files.junit import Timed, junit
from mindful_crate.files.texts import BadText, read_path, read_rehearsal, read_rulebook

if TYPE_CHECKING:
    from mindful_crate.store.db import Conn
    from mindful_crate.store.drafts import Drafts

T = TypeVar("T")

PASSED, FAILED, UNUSABLE = 0, 1, 2


def main(argv: list[str] | None = None) -> int:
    """Run one command; its exit code."""
    parser = argparse.ArgumentParser(prog="crate")
    commands = parser.add_subparsers(dest="command", required=True)
    rehearse = commands.add_parser("rehearse", help="run rehearsal files")
    rehearse.add_argument("files", nargs="+", type=Path)
    rehearse.add_argument(
        "--rulebook", default="", help="a rulebook file, draft, draft:ID, or in-force; the demo's if not given"
    )
    rehearse.add_argument("--junit", type=Path, help="write results as JUnit XML")
    prepare = commands.add_parser("prepare", help="bring the database up to date and load the demo if it is empty")
    prepare.add_argument("--anew", action="store_true", help="clear everything away first")
    prepare.add_argument("--empty", action="store_true", help="load no demo")
    work = commands.add_parser("work", help="do long work that waits, until told to end")
    work.add_argument("--once", action="store_true", help="end when nothing waits")
    told = commands.add_parser("events", help="write what was done with goods on a floor, as EPCIS 2.0 or CSV")
    told.add_argument("world", help="a run, or a live floor")
    told.add_argument("--form", choices=("epcis", "csv"), default="epcis")
    told.add_argument("--day", type=date.fromisoformat, help="that day at the site alone, as 2026-03-02")
    told.add_argument("--out", type=Path, help="a file; else it is printed")
    commands.add_parser("examine", help="say what is well and what is wrong with the database, a line each")
    document = commands.add_parser("openapi", help="write the OpenAPI document")
    document.add_argument("out", type=Path)
    published = commands.add_parser(
        "schemas", help="write the published schemas of the file formats and the tables' columns"
    )
    published.add_argument("folder", type=Path)
    args = parser.parse_args(argv)
    try:
        if args.command == "rehearse":
            return _rehearse(args.files, args.rulebook, args.junit)
        if args.command == "prepare":
            return _prepare(anew=args.anew, empty=args.empty)
        if args.command == "events":
            return _events(args.world, args.form, args.day, args.out)
        if args.command == "examine":
            return _examine()
        if args.command == "work":
            from mindful_crate import leash
            from mindful_crate.jobs import queue

            leash.hold()
            queue.let_log()
            queue.work(os.environ["CRATE_DATABASE"], once=args.once)
            return PASSED
        if args.command == "openapi":
            from mindful_crate.api.app import document as openapi

            args.out.write_text(json.dumps(openapi(), indent=1) + "\n")
            return PASSED
        from mindful_crate.files import letter_pages, schemas, tables

        opening = demo_opening()
        schemas.write(args.folder)
        (args.folder / "tables.md").write_text(tables.told())
        (args.folder / "messages.md").write_text(letter_pages.told(demo_letters(opening), Ground(opening)))
        return PASSED
    except BadText as bad:
        print(f"{bad.problem.place}: {bad.problem.says}", file=sys.stderr)
    except Refusal as refusal:
        print(refusal.problem.says.replace("`", ""), file=sys.stderr)
    except (OSError, RuntimeError, psycopg.Error, PoolTimeout) as error:  # database or disk out of reach
        print(f"It could not be done: {str(error).strip() or type(error).__name__}", file=sys.stderr)
    except Exception as error:
        if args.command != "rehearse":
            raise
        frame = traceback.extract_tb(error.__traceback__)[-1]
        where = f"{Path(frame.filename).name}:{frame.lineno}"
        print(
            f"This is a fault of Mindful Crate, not of your file: {type(error).__name__} in {where}: {error}",
            file=sys.stderr,
        )
    return UNUSABLE


def _rehearse(files: list[Path], which: str, out: Path | None) -> int:
    if out is not None:
        _check_writable(out)
    scripts = [read_rehearsal(read_path(p), str(p)) for p in files]
    results: list[Timed] = []
    for path, script in zip(files, scripts, strict=True):
        ground, rulebook = _stage(script, which)
        check_script(script, ground)
        blocking = [f for f in findings(rulebook, ground, script.site) if f.severity.value == "blocks"]
        if blocking:
            print(f"{which or 'rulebook'}: {blocking[0].place}: {blocking[0].says.replace('`', '')}", file=sys.stderr)
            return UNUSABLE
        beside = _beside(script, ground, which)
        began = time.perf_counter()
        result, _ = run(script, ground, rulebook, _calendar(ground, script.site), gs1.split, beside)
        results.append((result, time.perf_counter() - began))
        _report(path, script, result)
    if out:
        try:
            out.write_text(junit(results, datetime.now(UTC), socket.gethostname()), encoding="utf-8")
        except OSError as error:
            raise Refusal("no_junit", f"{out} could not be written: {error.strerror}.") from None
    return PASSED if all(r.passed for r, _ in results) else FAILED


def _calendar(ground: Ground, site: SiteCode) -> Callable[[datetime], date]:
    """The date at a site at a moment."""
    zone = ZoneInfo(ground.sites[site].time_zone)
    return lambda at: at.astimezone(zone).date()


def _beside(script: Rehearsal, ground: Ground, which: str) -> dict[SiteCode, Beside]:
    """What the other sites of a rehearsal go by."""
    return {s: Beside(_rules_at(ground, s, which), _calendar(ground, s)) for s in script.sites[1:]}


def _rules_at(ground: Ground, site: SiteCode, which: str) -> Rulebook:
    if which in ("draft", "in-force") or which.startswith("draft:"):
        return _of_database(lambda conn, drafts: drafts.rules_at(conn, site, ground))
    return demo_rules(site, ground)


def _check_writable(out: Path) -> None:
    """Refuse a place for results that can be none, before anything is run."""
    if out.is_dir():
        raise Refusal("no_junit", f"{out} is a folder; name a file in it.")
    if not out.parent.is_dir():
        raise Refusal("no_junit", f"There is no folder {out.parent} to write {out.name} into.")


def _stage(script: Rehearsal, which: str) -> tuple[Ground, Rulebook]:
    """The opening state a script was made on and the rulebook to run it by."""
    if which in ("draft", "in-force") or which.startswith("draft:"):
        return _from_database(script, which)
    ground = _demo()
    if script.opening != ground.hash:
        raise Refusal(
            "other_opening",
            f"{script.id} was made on opening state {script.opening}, which is not the demo's ({ground.hash}). "
            "Name --rulebook draft or in-force to look for it in the database.",
        )
    return ground, read_rulebook(read_path(Path(which)), which) if which else demo_rules(script.site, ground)


@cache
def _demo() -> Ground:
    return Ground(demo_opening())


def _from_database(script: Rehearsal, which: str) -> tuple[Ground, Rulebook]:
    if not os.environ.get("CRATE_DATABASE"):
        raise Refusal("no_database", f"{which} is in the database; run ./crate rehearse, which knows where that is.")

    def found(conn: Conn, drafts: Drafts) -> tuple[Ground, Rulebook]:
        ground = drafts.worlds.ground(conn, script.opening)
        if which == "in-force":
            force = drafts.in_force(conn, script.site)
            if force is None:
                raise Refusal("nothing_in_force", "No rulebook is in force yet.")
            return ground, drafts.worlds.rulebook(conn, force.rulebook)
        return ground, drafts.get(conn, which.removeprefix("draft").removeprefix(":") or "d-1").rulebook

    return _of_database(found)


def _of_database(find: Callable[[Conn, Drafts], T]) -> T:
    """What is found out in the database that the launcher names."""
    from mindful_crate.store.db import Database
    from mindful_crate.store.drafts import Drafts
    from mindful_crate.store.worlds import Worlds

    database = Database(os.environ["CRATE_DATABASE"], most=2)
    try:
        with database.transaction() as conn:
            return find(conn, Drafts(Worlds(database)))
    finally:
        database.close()


def _events(world: str, form: str, day: date | None, out: Path | None) -> int:
    """Write a log part by part, as it is read."""
    from mindful_crate.files.epcis import Naming, written
    from mindful_crate.store.db import Database
    from mindful_crate.store.worlds import Worlds

    if out is not None:
        _check_writable(out)
    database = Database(os.environ["CRATE_DATABASE"], most=1)
    worlds = Worlds(database)
    try:
        with database.transaction() as conn:
            row = worlds.row(conn, world)
            names = Naming(worlds.ground(conn, row.opening), SiteCode(row.site), row.id, worlds.order_of(conn, row.id))
            parts = written(form, worlds.walk(conn, row), names, day, row.made_at)
            with out.open("w", encoding="utf-8") if out else nullcontext(sys.stdout) as file:
                file.writelines(parts)
    finally:
        database.close()
    return PASSED


def _report(path: Path, script: Rehearsal, result: Result) -> None:
    """What came of one rehearsal, for people."""
    nothing = "" if result.checked else "  (nothing is expected in it)"
    print(f"{'passed' if result.passed else 'FAILED'}  {script.name}  ({path}){nothing}")
    for step in result.steps:
        if not (step.fails or step.differs):
            continue
        print(f"  {'fails' if step.fails else 'differs'} at {step.id}: {step.says.replace('`', '')}")
        if step.differs and step.was_says:
            print(f"      it was: {step.was_says.replace('`', '')}")
        if step.differs and (step.was_asks or step.asks) and step.was_asks != step.asks:
            print(f"      asked: {step.asks or 'nothing'}; it was: {step.was_asks or 'nothing'}")
        for check in step.checks:
            if not check.holds:
                print(f"      expected {check.expectation.kind}; found: {check.found.replace('`', '')}")
    for check in result.at_end:
        if not check.holds:
            print(f"  at the end: expected {check.expectation.kind}; found: {check.found.replace('`', '')}")


def _examine() -> int:
    """What is well with the database, one line each; the launcher's doctor reads them."""
    from mindful_crate.core.world.invariants import broken
    from mindful_crate.store.db import Database, pending, rows
    from mindful_crate.store.rows import WorldRow
    from mindful_crate.store.worlds import Worlds

    dsn = os.environ["CRATE_DATABASE"]
    waiting = pending(dsn)
    print(f"{'wrong' if waiting else 'well'} migrations: {f'{waiting} are pending' if waiting else 'up to date'}")
    if waiting:
        return FAILED
    database = Database(dsn, most=2)
    worlds = Worlds(database)
    found: list[str] = []
    try:
        with database.transaction() as conn:
            listed = rows(conn, WorldRow, "worlds_to_examine", most=200)
            for row in listed:
                with worlds.reading(conn, row.id) as loaded:
                    found += [f"{row.name}: {says}" for says in broken(loaded.state)[:3]]
    finally:
        database.close()
    says = "; ".join(found[:5]) if found else f"the {len(listed)} latest hold every invariant"
    print(f"{'wrong' if found else 'well'} worlds: {says}")
    return FAILED if found else PASSED


def _prepare(*, anew: bool, empty: bool) -> int:
    from mindful_crate.demo.loader import load, loaded
    from mindful_crate.jobs.queue import put_schema
    from mindful_crate.outside.devices import read_devices
    from mindful_crate.store.db import Database, clear, migrate

    if named := os.environ.get("CRATE_DEVICES"):
        try:
            read_devices(Path(named))
        except Refusal as refusal:
            print(f"{named}: {refusal.problem.says}", file=sys.stderr)
            return UNUSABLE
    dsn = os.environ["CRATE_DATABASE"]
    if anew:
        clear(dsn)
    migrate(dsn)
    put_schema(dsn)
    database = Database(dsn, most=2)
    try:
        if not empty and not loaded(database):
            load(database)
            print("The demo of Halloway Quay is loaded.", flush=True)
    finally:
        database.close()
    return PASSED


if __name__ == "__main__":
    sys.exit(main())
