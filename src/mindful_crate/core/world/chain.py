"""The chain of documents: whatever hangs together with one, from where it goes back to, to all that follows; and back.

Which documents there are and what leads from one to the next, their kinds say (``work.papers``); none is known by name
here. The short chain leaves out some kinds: what led over them leads straight on.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from mindful_crate.core.catalog.refs import DocKind, Ref
from mindful_crate.core.floor.state import State
from mindful_crate.core.problem import Refusal
from mindful_crate.core.record import evolve
from mindful_crate.core.work.matters import PAPERS
from mindful_crate.core.work.papers import Doc, Papers, Stage

__all__ = ["Doc", "DocKind", "Ref", "Stage", "chain", "documents", "find", "told"]


def find(state: State, number: str) -> Ref | None:
    """The document of that number."""
    return next((Ref(kind.kind, number) for kind in PAPERS.values() if kind.there(state, number)), None)


def chain(state: State, start: Ref, *, short: bool = False) -> list[Doc]:
    """Every document that hangs together with one, from the first on; refused when there is no such document."""
    papers = Papers(state, PAPERS)
    if not papers.there(start):
        raise Refusal("unknown_document", f"There is no {start.kind.value} `{start.number}` here.")
    roots = papers.roots(start)
    found: dict[Ref, Doc] = {}

    def tell(ref: Ref) -> None:
        found[ref] = papers.doc(ref)
        for other in papers.after(ref):
            if PAPERS[other.kind].beside and other not in found:
                found[other] = papers.doc(other)

    def follow(ref: Ref) -> None:
        for other in papers.after(ref):
            if other not in found:
                tell(other)
            if not PAPERS[other.kind].beside:
                follow(other)

    for ref in roots:
        tell(ref)
    for ref in roots:
        follow(ref)
    docs = list(found.values())
    return _shortened(papers, docs) if short else _joined(docs)


def documents(state: State) -> Iterator[Doc]:
    """All documents that something happened to, or that wait for something to happen, and are not settled."""
    papers = Papers(state, PAPERS)
    for kind in PAPERS.values():
        for number in kind.all(state):
            yield kind.doc(papers, number)


def told(state: State, refs: Iterable[Ref]) -> Iterator[Doc]:
    """Single documents, settled or not; what is told under another name is left out."""
    papers = Papers(state, PAPERS)
    return (papers.doc(ref) for ref in refs if papers.there(ref))


def _joined(docs: list[Doc]) -> list[Doc]:
    """Every link both ways, among the documents of the chain and to those outside it."""
    after: dict[Ref, list[Ref]] = {}
    for doc in docs:
        for ref in doc.before:
            after.setdefault(ref, []).append(Ref(doc.kind, doc.number))
    return [evolve(d, after=tuple(after.get(Ref(d.kind, d.number), ()))) for d in docs]


def _shortened(papers: Papers, docs: list[Doc]) -> list[Doc]:
    """The chain without the kinds that are left out."""
    kept = []
    for doc in docs:
        if not PAPERS[doc.kind].short:
            continue
        own = Ref(doc.kind, doc.number)
        before: list[Ref] = []
        for ref in doc.before:
            kind = PAPERS[ref.kind]
            if kind.short:
                before.append(ref)
            else:
                instead = [r for r in kind.instead(papers.state, ref.number) if r != own]
                before += instead or papers.before(ref)
        kept.append(evolve(doc, before=tuple(dict.fromkeys(before))))
    return _joined(kept)
