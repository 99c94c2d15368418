"""The documents of a world: lists of them, and each with what came before and after it."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from flask import current_app
from flask_openapi3 import APIBlueprint, Tag
from pydantic import Field

from mindful_crate.api.doors import needs
from mindful_crate.api.hosts import LIST
from mindful_crate.api.rights import Right
from mindful_crate.api.shapes import PROBLEMS, ById
from mindful_crate.api.wiring import WITH_DOCUMENT, Answer, Body, wired
from mindful_crate.api.worlds import world_row
from mindful_crate.core.catalog.refs import Ref
from mindful_crate.core.problem import Refusal
from mindful_crate.core.proving.facts import facts_of
from mindful_crate.core.world import chain
from mindful_crate.core.world import events as ev
from mindful_crate.store.past import LISTED

api = APIBlueprint("documents", __name__, url_prefix="/api", abp_tags=[Tag(name="host")], doc_ui=WITH_DOCUMENT)


class StageView(Answer):
    """A state of a document, with who reached it, where and when."""

    word: str
    done: bool
    says: str
    seq: int
    who: str
    device: str
    at: datetime | None


class RefView(Answer):
    """A document by kind and number."""

    kind: chain.DocKind
    number: str


class FactView(Answer):
    """One thing that is so of a document, and the rule that made it so."""

    word: str
    says: str
    link: str


class DocView(Answer):
    """A document of a chain."""

    kind: chain.DocKind
    number: str
    says: str
    word: str
    open: bool
    stages: list[StageView]
    before: list[RefView]
    after: list[RefView]


class ChainView(Answer):
    """Documents that hang together, from the order on; of the one asked about, what is so beside its states."""

    facts: list[FactView]
    seq: int
    time_zone: str
    docs: list[DocView]


class ChainQuery(Body):
    """Which document, and whether in short."""

    number: str = Field(max_length=60)
    short: bool = False


class DocHead(Answer):
    """A document in a list."""

    kind: chain.DocKind
    number: str
    says: str
    word: str
    open: bool
    latest: int


class DocList(Answer):
    """Documents, the one that moved last first."""

    docs: list[DocHead]
    total: int
    seq: int


class DocQuery(Body):
    """Narrows the list of documents, and says which part of it is asked for."""

    find: str = Field(default="", max_length=60)
    kind: Literal["", "order", "shipment", "wave", "unloading", "plate", "receipt", "task", "message", "count"] = ""
    state: Literal["open", "done", "all"] = "open"
    start: int = Field(default=0, ge=0, le=100_000)
    most: int = Field(default=LIST, ge=1, le=LIST)


@api.get("/worlds/<id>/documents", responses={200: DocList, **PROBLEMS})
@needs(Right.LOOK)
def documents(path: ById, query: DocQuery) -> DocList:
    """All documents of a world: open, done or both."""
    parts, find = wired(current_app), query.find.strip().lower()
    with parts.database.transaction() as conn:
        world_row(conn, path.id)
    parts.worlds.keep_settled(path.id)
    with parts.database.transaction() as conn, parts.worlds.reading(conn, path.id) as w:
        every = list(chain.documents(w.state))
        here = [
            d
            for d in every
            if (query.state == "all" or d.open == (query.state == "open"))
            and query.kind in ("", d.kind)
            and (not find or find in d.number.lower() or find in d.says.lower())
        ]
        settled: list[Ref] = []
        left = 0
        if query.state != "open":  # nothing of what is settled is still to come
            kinds = [k for k in LISTED if query.kind in ("", k)]
            known = {(d.kind, d.number) for d in every}
            found, left = w.past.found(kinds, query.start + query.most, find)
            settled = [r for r in found if (r.kind, r.number) not in known]
        docs = [*here, *chain.told(w.state, settled)]
        seq = w.state.seq
    docs.sort(key=lambda d: (-d.latest, d.kind, d.number))
    heads = [
        DocHead(kind=d.kind, number=d.number, says=d.says, word=d.word, open=d.open, latest=d.latest)
        for d in docs[query.start : query.start + query.most]
    ]
    return DocList(docs=heads, total=len(here) + left, seq=seq)


@api.get("/worlds/<id>/chain", responses={200: ChainView, **PROBLEMS})
@needs(Right.LOOK)
def chain_of(path: ById, query: ChainQuery) -> ChainView:
    """What came before a document and after it, with who did what, where and when."""
    parts = wired(current_app)
    with parts.database.transaction() as conn:
        row = world_row(conn, path.id)
        with parts.worlds.reading(conn, path.id) as w:
            number = query.number.strip().upper()
            start = chain.find(w.state, number)
            if start is None:
                raise Refusal("unknown_document", f"There is no document `{number}` in this world.")
            docs = chain.chain(w.state, start, short=query.short)
            so = [FactView(word=f.word, says=f.says, link=f.link) for f in facts_of(w.state, w.rulebook, start)]
            seqs = sorted({s.seq for d in docs for s in d.stages} - {0})
            entries = {e.seq: e for e in parts.worlds.entries_at(conn, row, seqs)}
            seq, zone = w.state.seq, w.ground.sites[w.settings.site].time_zone
    return ChainView(facts=so, seq=seq, time_zone=zone, docs=[_doc(d, entries) for d in docs])


def _doc(doc: chain.Doc, entries: dict[int, ev.Entry]) -> DocView:
    return DocView(
        kind=doc.kind, number=doc.number, says=doc.says, word=doc.word, open=doc.open,
        stages=[_stage(s, entries.get(s.seq)) for s in doc.stages],
        before=[RefView(kind=r.kind, number=r.number) for r in doc.before],
        after=[RefView(kind=r.kind, number=r.number) for r in doc.after],
    )  # fmt: skip


def _stage(stage: chain.Stage, entry: ev.Entry | None) -> StageView:
    stamp = entry.command.stamp if entry and stage.done else None
    return StageView(
        word=stage.word, done=stage.done, says=stage.says, seq=stage.seq, who=stamp.who if stamp else "",
        device=(stamp.device or "") if stamp else "", at=stamp.at if stamp else None,
    )  # fmt: skip
