"""The log of a world in words, and why a bin was chosen in it."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from flask import current_app
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field

from mindful_crate.api.doors import Right, needs
from mindful_crate.api.rulebook import PROBLEMS, why_of
from mindful_crate.api.shapes import ById, Why
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.api.worlds import world_row
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.sentences import Names, rule_sentence, words_of
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.words import event_told

api = APIBlueprint("logs", __name__, url_prefix="/api", abp_tags=[Tag(name="worlds")], doc_ui=WITH_DOCUMENT)
LIST = 400
"""Most entries in one answer."""


class TrailView(Answer):
    """A line of a why trail as it was recorded."""

    rule: str
    number: int | None
    sentence: str
    outcome: str
    says: str


class EntryView(Answer):
    """A log entry as the desk shows it."""

    seq: int
    command: str
    at: datetime
    kind: str
    done: bool
    says: str
    code: str
    who: str
    actor: str
    device: str | None
    scanned: str
    how: str
    details: list[str]
    trail: list[TrailView]
    chosen_bin: str | None


class Log(Answer):
    """Log entries in order."""

    entries: list[EntryView]
    seq: int


class SinceQuery(Body):
    """Entries after this one, the first of them; or, with ``last``, the latest of all that come after it."""

    after: int = Field(default=0, ge=0, le=2**53)
    until: int | None = Field(default=None, ge=0, le=2**53)
    last: bool = False


class EntryPath(Body):
    """An entry of a world."""

    id: str = Field(max_length=80)
    seq: int = Field(ge=0, le=2**53)


@api.get("/worlds/<id>/log", responses={200: Log, **PROBLEMS})
@needs(Right.LOOK)
def log(path: ById, query: SinceQuery) -> Log:
    """A window of the log: at most so many entries after a sequence number, the first of them or the last."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        row = world_row(conn, path.id)
        rulebook = parts.worlds.rulebook(conn, row.rulebook)
        end = row.seq if query.until is None else min(query.until, row.seq)
        after = max(query.after, end - LIST) if query.last else query.after
        found = parts.worlds.entries(conn, row, after, min(end, after + LIST))
        names = Names(parts.worlds.ground(conn, row.opening))
    return Log(entries=[entry_view(e, rulebook, names) for e in found], seq=row.seq)


def entry_view(entry: ev.Entry, rulebook: Any, names: Names) -> EntryView:
    """A log entry in words."""
    stamp, act, outcome = entry.command.stamp, entry.command.act, entry.outcome
    done = isinstance(outcome, ev.Done)
    trail: list[TrailView] = []
    details: list[str] = []
    chosen = None
    if isinstance(outcome, ev.Done):
        details = [t for e in outcome.events if (t := event_told(e))]
        for each in outcome.trails:
            numbers = {r.id: n for n, r in enumerate(rulebook.rules_for(each.request.site, each.request.purpose), 1)}
            chosen = each.bin
            for line in each.lines:
                rule = rulebook.find_rule(line.rule)
                sentence = words_of(rule_sentence(rule, names, "", each.request.purpose)) if rule else ""
                trail.append(
                    TrailView(
                        rule=line.rule,
                        number=numbers.get(line.rule),
                        sentence=sentence,
                        outcome=line.outcome.value,
                        says=line.says,
                    )
                )
    return EntryView(
        seq=entry.seq, command=stamp.id, at=stamp.at, kind=act.kind, done=done, says=entry.says,
        code="" if isinstance(outcome, ev.Done) else outcome.problem.code, who=stamp.who, actor=stamp.actor,
        device=stamp.device, scanned=act.scan.text if isinstance(act, acts.Answer) else "",
        how=act.scan.how.value if isinstance(act, acts.Answer) else "", details=details, trail=trail,
        chosen_bin=chosen,
    )  # fmt: skip


@api.get("/worlds/<id>/entries/<seq>/why", responses={200: Why, **PROBLEMS})
@needs(Right.LOOK)
def why(path: EntryPath) -> Why:
    """The counts behind a decision, for the state at that point of the log."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        row = world_row(conn, path.id)
        found = parts.worlds.entries(conn, row, path.seq - 1, path.seq)
        if not found or not isinstance(found[0].outcome, ev.Done) or not found[0].outcome.trails:
            raise Refusal("no_trail", f"Entry {path.seq} chose no bin.")
        before = parts.worlds.state_at(conn, path.id, path.seq - 1)
        return why_of(found[0].outcome.trails[-1].request, before.rulebook, before.state)
