"""Log entries as they are stored, and how older ones are read.

Every stored entry says its version. An upcaster turns the plain data of one version into the next; reading
applies them one after the other. Samples of every version are kept in the tests.
"""

from __future__ import annotations

from collections.abc import Callable

from mindful_crate.core.plain import Misfit, Plain, from_plain, to_plain
from mindful_crate.core.world.events import Entry

VERSION = 3
"""3 has events that 2 had not, and answers where 2 had slots. Promised to be read are the versions that were released: 1 and 2."""


def _shares_of_trails(plain: Plain) -> Plain:
    """Version 2: a trail names shares instead of one bin; until then everything went to one."""

    def trail(old: Plain) -> Plain:
        new = {k: v for k, v in old.items() if k not in ("bin", "rule")}
        if old.get("bin"):
            quantity = sum(g["quantity"] for g in old["request"]["goods"])
            chosen = next(x for x in old["lines"] if x["outcome"] == "chosen")
            new["allocations"] = [
                {"bin": old["bin"], "quantity": quantity, "rule": old["rule"], "target": chosen.get("target")}
            ]
        else:
            new["rest"] = sum(g["quantity"] for g in old["request"]["goods"])
        return new

    outcome = plain["outcome"]
    if "trails" not in outcome:
        return plain
    return {**plain, "outcome": {**outcome, "trails": [trail(t) for t in outcome["trails"]]}}


def _answers_by_name(plain: Plain) -> Plain:
    """Version 3: what a dialogue was told are answers by name; until then they were slots, one a record of its own."""

    def answers(slots: Plain) -> Plain:
        looked = slots.get("looked")
        return {**slots, "looked": f"{looked['kind']} {looked['code']}"} if looked else slots

    def event(old: Plain) -> Plain:
        if old["kind"] != "dialogue_moved":
            return old
        new = {**{k: v for k, v in old.items() if k != "slots"}, "answers": answers(old["slots"])}
        if "past" in old:
            new["past"] = [answers(each) for each in old["past"]]
        if old.get("doubt"):
            new["doubt"] = {**old["doubt"], "then": answers(old["doubt"]["then"])}
        return new

    outcome = plain["outcome"]
    if "events" not in outcome:
        return plain
    return {**plain, "outcome": {**outcome, "events": [event(e) for e in outcome["events"]]}}


UPCASTERS: dict[int, Callable[[Plain], Plain]] = {1: _shares_of_trails, 2: _answers_by_name}
"""From version n to n + 1."""


def stored(entry: Entry) -> Plain:
    """Plain form of an entry with its version."""
    return {"version": VERSION, **to_plain(entry)}


def read_entry(plain: Plain, upcasters: dict[int, Callable[[Plain], Plain]] = UPCASTERS, today: int = VERSION) -> Entry:
    """The entry that was stored, of this version or an older one; Misfit for one from the future."""
    version = plain.get("version") if isinstance(plain, dict) else None
    if not isinstance(version, int) or version > today:
        raise Misfit("version", f"this engine reads entries up to version {today}, not {version}")
    while version < today:
        plain = {**upcasters[version](plain), "version": version + 1}
        version += 1
    return from_plain(Entry, {k: v for k, v in plain.items() if k != "version"})
