"""Messages between host and floor: their order about one document, and what is due next."""

from __future__ import annotations

from bisect import bisect_left, insort
from datetime import datetime
from enum import StrEnum
from typing import cast

from mindful_crate.core.catalog.goods import Order
from mindful_crate.core.catalog.ids import MessageNo
from mindful_crate.core.catalog.notices import Notice
from mindful_crate.core.catalog.refs import DocKind, Ref, ref_to
from mindful_crate.core.floor.keeper import Journal
from mindful_crate.core.floor.past import Documents, Past
from mindful_crate.core.floor.topics import ABOUT_COUNTS, ABOUT_SHIPMENTS, FROM_HOST, Topic
from mindful_crate.core.record import record


class MessageState(StrEnum):
    """How far a message is."""

    WAITING = "waiting"
    ANSWERED = "answered"
    REFUSED = "refused"
    GIVEN_UP = "given_up"


@record
class Message:
    """A message between host and floor. ``due`` is its next delivery, if there is to be one; ``order`` is what the
    host tells, until it is accepted; ``seq`` the entry that sent it, where its content stays."""

    number: MessageNo
    topic: Topic
    subject: str
    due: datetime | None
    order: Order | None = None
    notice: Notice | None = None
    state: MessageState = MessageState.WAITING
    seq: int = 0
    sent: datetime | None = None
    turn: int = 0
    """How often it was delivered or tried in all."""
    tries: int = 0
    """The same since it was sent, or repeated, last."""
    settled: datetime | None = None
    """When it was accepted or refused."""
    settled_in: int = 0
    """The entry in which it was."""
    heard_again: int = 0
    """How often it came again after it was in effect."""
    says: str = ""
    """Why it was refused, or could not be delivered last."""

    @property
    def from_host(self) -> bool:
        """Does the host tell the floor?"""
        return self.topic in FROM_HOST

    @property
    def open(self) -> bool:
        """Does it hold back later messages about its document?"""
        return self.state in (MessageState.WAITING, MessageState.GIVEN_UP)

    @property
    def ref(self) -> Ref:
        """Its name."""
        return ref_to(DocKind.MESSAGE, self.number)

    @property
    def follows(self) -> tuple[Ref, ...]:
        """What it is about."""
        kind = DocKind.SHIPMENT if self.topic in ABOUT_SHIPMENTS else DocKind.RECEIPT
        if self.topic in ABOUT_COUNTS:
            kind = DocKind.COUNT
        return (Ref(DocKind.ORDER if self.from_host else kind, self.subject),)


Turn = tuple[datetime, int, MessageNo]
"""When a message is due; of two at once the one that was sent first."""


class Messages(Documents[MessageNo, Message]):
    """All messages; of each document only the first open one is in the queue. One is settled when it was accepted and does
    not come again, or was refused and a later one about the same document was accepted since."""

    def __init__(self, journal: Journal, past: Past) -> None:
        super().__init__(journal, past, DocKind.MESSAGE)
        self._about: dict[str, list[tuple[int, int, MessageNo]]] = {}
        self._unsettled: dict[str, None] = {}
        """Documents with a message that is open."""
        self._queue: list[Turn] = []
        self._queued: dict[str, Turn] = {}

    def changed(self, key: MessageNo, before: Message | None, after: Message | None) -> None:
        """Its place among those about its document, and in the queue."""
        subject = (after or cast(Message, before)).subject
        if before is None and after is not None:
            insort(self._about.setdefault(subject, []), (after.seq, len(key), key))
        elif before is not None and after is None:
            about = self._about[subject]
            about.remove((before.seq, len(key), key))
            if not about:
                del self._about[subject]
        again = after if after is not None and after.state is MessageState.ANSWERED else None
        if again is not None:
            self.may_leave[key] = None
        if again is not None or f"again {key}" in self._queued:
            self._queue_up(f"again {key}", again)
        first = self.first_open(subject)
        self._queue_up(subject, self[first] if first else None)
        if first:
            self._unsettled[subject] = None
        else:
            self._unsettled.pop(subject, None)

    def _queue_up(self, key: str, message: Message | None) -> None:
        known = self._queued.pop(key, None)
        if known:
            del self._queue[bisect_left(self._queue, known)]
        if message and message.due:
            self._queued[key] = place = (message.due, message.seq, message.number)
            insort(self._queue, place)

    def due(self, until: datetime) -> Message | None:
        """The next message to be seen to by ``until``."""
        if not self._queue or self._queue[0][0] > until:
            return None
        return self[self._queue[0][2]]

    def about(self, subject: str) -> list[Message]:
        """The messages about a document that are not settled, in the order they were sent."""
        return [self._held[number] for _, _, number in self._about.get(subject, ())]

    def messages_about(self, subject: str) -> list[Message]:
        """All messages about a document, settled or not, in the order they were sent."""
        settled = [
            m
            for kind in (DocKind.ORDER, DocKind.RECEIPT, DocKind.SHIPMENT, DocKind.COUNT)
            for m in self.past.after(Ref(kind, subject))
        ]
        left = [m for m in settled if isinstance(m, Message) and self.here(m.number) is None]
        return sorted([*self.about(subject), *left], key=_sent)

    def leaving(self) -> list[Message]:
        """Those that are settled, which are here no more."""
        found: dict[MessageNo, Message] = {}
        for number in sorted(self.may_leave):
            message = self.here(number)
            if message is not None and message.state is MessageState.ANSWERED:  # it may have been taken back
                overtaken = (m for m in self.about(message.subject) if m.seq < message.seq)
                found.update((m.number, m) for m in overtaken if m.state is MessageState.REFUSED)
                if message.due is None:
                    found[number] = message
        self.may_leave.clear()
        for number in found:
            self.leave(number)
        return list(found.values())

    def first_open(self, subject: str) -> MessageNo | None:
        """The message about a document that the later ones wait for."""
        return next((n for _, _, n in self._about.get(subject, ()) if self._held[n].open), None)

    def to_send(self) -> list[Message]:
        """Messages to a real host that it may answer now, in the order they were sent: of each document the first that is
        open."""
        found = (self[cast(MessageNo, self.first_open(s))] for s in self._unsettled)
        return sorted((m for m in found if m.state is MessageState.WAITING and not m.from_host), key=_sent)

    def waiting(self) -> list[Message]:
        """Messages that were not accepted or refused yet, in the order they were sent."""
        found = (m for subject in self._unsettled for m in self.about(subject) if m.open)
        return sorted(found, key=_sent)


def _sent(message: Message) -> tuple[int, int, MessageNo]:
    return message.seq, len(message.number), message.number
