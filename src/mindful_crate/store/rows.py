"""What rows of the database are called in Python."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from mindful_crate.core.floor.topics import OrderTopic


@dataclass(frozen=True, slots=True)
class PersonRow:
    """Somebody who may sign in."""

    id: str
    name: str
    role: str
    sites: list[str]
    crews: list[str]
    login: str
    password_hash: str
    active: bool
    has_badge: bool
    erased_at: datetime | None
    default_site: str
    """Where a handset of this person begins; empty: it asks."""
    default_flow: str
    given: list[str]
    """Rights besides those of the role, each as a site and a right."""


@dataclass(frozen=True, slots=True)
class SessionRow(PersonRow):
    """The person of a session. ``stale`` says that it is time to note that it was seen; ``stands`` is another as soon as either
    is changed."""

    by_badge: bool
    stale: bool
    stands: str


@dataclass(frozen=True, slots=True)
class OpenSessions:
    """How many sessions of a person are open, and when one was last used."""

    person: str
    open: int
    seen_at: datetime


@dataclass(frozen=True, slots=True)
class DraftRow:
    """A draft of a rulebook as it stands at its cursor."""

    id: str
    name: str
    parent: int | None
    site: str
    opening: str
    version: int
    cursor: int
    rulebook: str
    """What it says as a whole, with the layer for all sites."""
    own: str
    """What is the site's own of it."""
    general: int
    """The version of the layer for all sites it stands on; 0: there is none yet."""
    says: str
    last_step: int


@dataclass(frozen=True, slots=True)
class GeneralRow:
    """A version of the layer of the rulebook that all sites share."""

    no: int
    rulebook: str
    says: str
    made_by: str
    made_at: datetime


@dataclass(frozen=True, slots=True)
class StepRow:
    """One state of a draft, with the version of the layer for all sites that it made, if it made one."""

    rulebook: str
    general: int | None
    says: str


@dataclass(frozen=True, slots=True)
class DraftStepRow:
    """One state a draft has had."""

    step: int
    says: str
    made_by: str
    made_at: datetime


@dataclass(frozen=True, slots=True)
class RevisionRow:
    """A rulebook that is or was in force."""

    no: int
    name: str
    site: str
    rulebook: str
    general: int
    state: str
    made_by: str
    made_at: datetime

    def is_of(self, draft: DraftRow) -> bool:
        """Does a draft say the same?"""
        return self.rulebook == draft.rulebook


@dataclass(frozen=True, slots=True)
class GroundRow:
    """A state of the ground."""

    no: int
    opening: str
    says: str
    made_by: str
    made_at: datetime


@dataclass(frozen=True, slots=True)
class WorldRow:
    """A world without its log."""

    id: str
    kind: Literal["rehearsal", "live"]
    name: str
    site: str
    opening: str
    rulebook: str
    draft: str | None
    settings: bytes
    parent: str | None
    parent_seq: int
    seq: int
    settled_to: int
    rehearsal: str | None
    rehearsal_version: int | None
    made_by: str
    made_at: datetime
    beside: str | None = None
    """The group of rehearsals at several sites it is one of."""


@dataclass(frozen=True, slots=True)
class SettledRow:
    """A settled document."""

    kind: str
    number: str
    seq: int
    body: bytes


@dataclass(frozen=True, slots=True)
class FoundRow:
    """The name of one that was found, and how many were."""

    kind: str
    number: str
    total: int


@dataclass(frozen=True, slots=True)
class SnapshotRow:
    """A kept state."""

    seq: int
    body: bytes


@dataclass(frozen=True, slots=True)
class PinRow:
    """An expectation pinned on a desk."""

    id: int
    seq: int | None
    expectation: bytes


@dataclass(frozen=True, slots=True)
class RehearsalRow:
    """A rehearsal as it is."""

    id: str
    name: str
    site: str
    version: int
    script: bytes


@dataclass(frozen=True, slots=True)
class RehearsalVersionRow:
    """A version a rehearsal has had."""

    version: int
    name: str
    steps: int
    pins: int
    says: str
    made_by: str
    made_at: datetime


@dataclass(frozen=True, slots=True)
class ResultRow:
    """What came of a run, and what it speaks for."""

    id: int
    rehearsal: str
    version: int
    passed: bool
    checked: int
    first_difference: str | None
    ran_by: str
    ran_at: datetime
    rulebook: str
    opening: str
    engine: str
    draft: str | None
    revision: int | None


@dataclass(frozen=True, slots=True)
class Part:
    """A part of something long."""

    content: bytes


@dataclass(frozen=True, slots=True)
class ImportRow:
    """Files somebody brings in, and how far they are."""

    id: str
    made_by: str
    made_at: datetime
    names: list[str]
    sees: list[str]
    site: str
    whole: bool
    state: str
    says: str
    rows: int
    share: float
    base: int
    opening: str | None
    outcome: bytes | None


@dataclass(frozen=True, slots=True)
class ImportFile:
    """One of the files."""

    file: int
    name: str


@dataclass(frozen=True, slots=True)
class WaitingOrder:
    """What a host told of an order that names no site; ``site`` is the one it was given since."""

    message: str
    topic: OrderTopic
    body: bytes
    told_by: str
    told_at: datetime
    site: str
    tries: int
    """How often it was given a site: a floor that refused it once would answer the same message as before."""

    def told_as(self, time: int) -> str:
        """The message it is told by the first, second ... time."""
        return self.message if time == 1 else f"{self.message}#{time}"


@dataclass(frozen=True, slots=True)
class Body:
    """One stored log entry."""

    body: bytes


@dataclass(frozen=True, slots=True)
class DeviceRow:
    """A real printer or scale of a live floor: where it is, since when, and why it takes nothing now."""

    kind: str
    code: str
    says: str
    since: datetime
    failed: str


@dataclass(frozen=True, slots=True)
class DeliveryRow:
    """What was given to a real printer; ``failed``: why it never will be."""

    print: str
    printer: str
    at: datetime
    failed: str
