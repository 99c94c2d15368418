"""The log of a world in words, and why a bin was chosen in it."""

from __future__ import annotations

from datetime import date, datetime
from typing import Literal

from flask import Response, current_app
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field

from mindful_crate.api.benches import why_of
from mindful_crate.api.doors import needs
from mindful_crate.api.rights import Right
from mindful_crate.api.shapes import PROBLEMS, ById, Why
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.api.worlds import world_row
from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.problem import Refusal
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.rulebook.words.bin_rules import PURPOSE_TITLES, rule_sentence
from mindful_crate.core.rulebook.words.parts import Names, words_of
from mindful_crate.core.trail import Trail
from mindful_crate.core.world import acts
from mindful_crate.core.world import events as ev
from mindful_crate.core.world.decide import decide
from mindful_crate.core.world.words import LOST, event_told
from mindful_crate.files.epcis import FORMS, Naming, written

api = APIBlueprint("logs", __name__, url_prefix="/api", abp_tags=[Tag(name="worlds")], doc_ui=WITH_DOCUMENT)
MOST_EVENTS = 50_000
"""A log of more entries is written by a command, which needs no memory for it."""
LIST = 400
"""Most entries in one answer."""


class LineView(Answer):
    """A line of a why trail as it was recorded."""

    rule: str
    number: int | None
    sentence: str
    outcome: str
    says: str


class DockView(Answer):
    """A rule of cross-docking that was asked for an order line, and why the goods go there or not."""

    rule: str
    number: int | None
    line: str
    takes: bool
    says: str


class TrailView(Answer):
    """A question that was put to the rules, the bins they chose, and the lines of its trail."""

    asks: str
    """What was asked: which bin, for what."""
    bins: list[str]
    rest: str
    """What no bin was found for; empty when there is nothing left."""
    lines: list[LineView]
    docks: list[DockView]


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
    lost: str
    details: list[str]
    trails: list[TrailView]


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
        rules = parts.worlds.rules_of(conn, row)
        end = row.seq if query.until is None else min(query.until, row.seq)
        after = max(query.after, end - LIST) if query.last else query.after
        found = parts.worlds.entries(conn, row, after, min(end, after + LIST))
        names = Names(parts.worlds.ground(conn, row.opening))
    return Log(entries=[entry_view(e, rules(e.seq), names) for e in found], seq=row.seq)


def entry_view(entry: ev.Entry, rulebook: Rulebook, names: Names) -> EntryView:
    """A log entry in words."""
    stamp, act, outcome = entry.command.stamp, entry.command.act, entry.outcome
    done = isinstance(outcome, ev.Done)
    details: list[str] = []
    trails: list[TrailView] = []
    if isinstance(outcome, ev.Done):
        details = [t for e in outcome.events if (t := event_told(e))]
        trails = [trail_view(each, rulebook, names) for each in outcome.trails]
    return EntryView(
        seq=entry.seq, command=stamp.id, at=stamp.at, kind=act.kind, done=done, says=entry.says,
        code="" if isinstance(outcome, ev.Done) else outcome.problem.code, who=stamp.who, actor=stamp.actor,
        device=stamp.device, scanned=act.scan.text if isinstance(act, acts.Answer) else "",
        how=act.scan.how.value if isinstance(act, acts.Answer) else "", lost=LOST[stamp.lost], details=details, trails=trails,
    )  # fmt: skip


def trail_view(trail: Trail, rulebook: Rulebook, names: Names) -> TrailView:
    """A trail in words, by the rules it is of."""
    request, items = trail.request, names.ground.items
    numbers = {r.id: n for n, r in enumerate(rulebook.rules_for(request.site, request.purpose, request.at), 1)}
    lines = []
    for line in trail.lines:
        rule = rulebook.find_rule(line.rule)
        sentence = words_of(rule_sentence(rule, names, "", request.purpose)) if rule else ""
        lines.append(
            LineView(
                rule=line.rule, number=numbers.get(line.rule), sentence=sentence, outcome=line.outcome.value, says=line.says,
            )
        )  # fmt: skip
    of_docks = {d.id: n for n, d in enumerate(rulebook.dock_rules, 1)}
    docks = [
        DockView(rule=d.rule, number=of_docks.get(d.rule), line=d.line, takes=d.takes, says=d.says) for d in trail.docks
    ]
    goods = ", ".join(f"{items[g.item].told(g.quantity)} {items[g.item].name}" for g in request.goods)
    rest = items[request.goods[0].item].told(trail.rest) if trail.rest and request.goods else ""
    bins = list(dict.fromkeys(str(a.bin) for a in trail.allocations))
    return TrailView(
        asks=f"{PURPOSE_TITLES[request.purpose]}: {goods or 'an empty plate'}",
        bins=bins,
        rest=rest,
        lines=lines,
        docks=docks,
    )


class EventsQuery(Body):
    """As what, and of which day at the site; none: all of it."""

    form: Literal["epcis", "csv"] = "epcis"
    day: date | None = None


@api.get("/worlds/<id>/events", responses={200: {"content": {m: {} for m in FORMS.values()}}, **PROBLEMS})
@needs(Right.LOOK)
def events(path: ById, query: EventsQuery) -> Response:
    """What was done with goods, for machines elsewhere: an EPCIS 2.0 document, or the same as CSV."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        row = world_row(conn, path.id)
        if row.seq > MOST_EVENTS:
            raise Refusal(
                "too_long",
                f"This log has {row.seq:,} entries. `./crate events {row.id}` writes it into a file as it reads.",
            )
        names = Naming(
            parts.worlds.ground(conn, row.opening), SiteCode(row.site), row.id, parts.worlds.order_of(conn, row.id)
        )
        text = "".join(written(query.form, parts.worlds.walk(conn, row), names, query.day, row.made_at))
    ending = "jsonld" if query.form == "epcis" else "csv"
    name = f"{row.id}{f'-{query.day}' if query.day else ''}.{ending}"
    return Response(text, mimetype=FORMS[query.form], headers={"Content-Disposition": f'attachment; filename="{name}"'})


class WhyQuery(Body):
    """Which of an entry's trails, from 0."""

    trail: int = Field(default=0, ge=0, le=10_000)


@api.get("/worlds/<id>/entries/<seq>/why", responses={200: Why, **PROBLEMS})
@needs(Right.LOOK)
def why(path: EntryPath, query: WhyQuery) -> Why:
    """The counts behind a decision, for the state at that point of the log and by the rules it was made by. The entry is
    decided once more, so that a question that came after others of its command is explained with what they led to."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        row = world_row(conn, path.id)
        found = parts.worlds.entries(conn, row, path.seq - 1, path.seq)
        trails = found[0].outcome.trails if found and isinstance(found[0].outcome, ev.Done) else ()
        if len(trails) <= query.trail:
            raise Refusal("no_trail", f"Entry {path.seq} chose no bin.")
        before = parts.worlds.state_at(conn, path.id, path.seq - 1)
        rules = parts.worlds.rules_of(conn, row)(path.seq)
        told = trails[query.trail].request
        asked: list[Trail] = []
        explained: list[Why] = []

        def seen(trail: Trail) -> None:
            asked.append(trail)
            if len(asked) == query.trail + 1 and trail.request == told:
                explained.append(why_of(told, rules, before.state))

        decide(before.state, rules, found[0].command, seen)
        return explained[0] if explained else why_of(told, rules, before.state)  # decided otherwise by an older version
