"""Sentences: rows of plain text and of *words* that carry the path of the field they stand for, so that the studio can edit
them in place. The why trail, findings and comparison use the same sentences."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any, Literal, Protocol

from mindful_crate.core.catalog.goods import OrderKind, Status, Tracking
from mindful_crate.core.catalog.ids import SiteCode
from mindful_crate.core.catalog.opening import Ground
from mindful_crate.core.record import record
from mindful_crate.core.rulebook.bin_rules import (
    Between,
)
from mindful_crate.core.rulebook.settings import Level, SettingsLayer, levels


class Called(Protocol):
    """Something that has a name."""

    @property
    def name(self) -> str:
        """What people call it."""
        ...


class Classed(Called, Protocol):
    """A class of orders."""

    @property
    def id(self) -> str:
        """Its own name in the rulebook."""
        ...


@record
class Part:
    """A piece of a sentence. A ``word`` may be edited at ``path`` with the choices of ``field``; an ``add`` is a
    word that is not there yet; ``code`` is set in mono."""

    kind: Literal["text", "word", "add", "code"]
    text: str
    path: str = ""
    field: str = ""
    value: Any = None
    """Of a word on a chapter's page: what stands at its path, plain."""
    line: Literal["", "in", "out"] = ""
    """Does it begin a line of its own, set in or out again?"""


Sentence = tuple[Part, ...]


def words_of(sentence: Sequence[Part]) -> str:
    """The sentence as one line of text, without the words that are not there yet."""
    return "".join(p.text for p in sentence if p.kind != "add")


def just(text: str) -> Part:
    return Part("text", text)


ORDER_KINDS = {
    OrderKind.PURCHASE: "a purchase order",
    OrderKind.TRANSFER: "a transfer from another site",
    OrderKind.PRODUCTION: "production",
    OrderKind.CUSTOMER_RETURN: "an announced return",
    OrderKind.SALES: "a sales order",
    OrderKind.VENDOR_RETURN: "a return to the vendor",
    OrderKind.TRANSFER_OUT: "a transfer to another site",
}


ORDERS = {
    OrderKind.PURCHASE: "Purchase orders",
    OrderKind.TRANSFER: "Transfers in",
    OrderKind.PRODUCTION: "Production output",
    OrderKind.CUSTOMER_RETURN: "Announced returns",
    OrderKind.SALES: "Sales orders",
    OrderKind.VENDOR_RETURN: "Returns to vendors",
    OrderKind.TRANSFER_OUT: "Transfers out",
}


TRACKINGS = {
    Tracking.NONE: "not tracked",
    Tracking.LOT: "tracked by lot",
    Tracking.LOT_EXPIRY: "tracked by lot with expiry",
    Tracking.SERIAL: "tracked by serial number",
    Tracking.SERIAL_OUT: "tracked by serial number when it leaves",
}


STATUSES = {
    Status.AVAILABLE: "available",
    Status.INSPECT: "to be inspected",
    Status.QUARANTINE: "in quarantine",
    Status.DAMAGED: "damaged",
    Status.EXPIRED: "expired",
}


ON_OFF = {True: "on", False: "off"}


def any_of(names: Iterable[str]) -> str:
    """``A``, ``A or B``, ``A, B or C``."""
    listed = list(names)
    return " or ".join([", ".join(listed[:-1]), listed[-1]] if len(listed) > 1 else listed)


def capital(text: str) -> str:
    """With its first letter large, as a sentence begins."""
    return text[:1].upper() + text[1:]


def all_of(names: Iterable[str]) -> str:
    """``A``, ``A and B``, ``A, B and C``."""
    listed = list(names)
    return " and ".join([", ".join(listed[:-1]), listed[-1]] if len(listed) > 1 else listed)


def counted(n: int, one: str) -> str:
    """``1 task``, ``2 tasks``."""
    return f"1 {one}" if n == 1 else f"{n:,} {one}s"


def within(days: int) -> str:
    """How soon something is: ``that day``, ``by the next day``, ``within 3 days``."""
    return "that day" if days == 0 else "by the next day" if days == 1 else f"within {days} days"


class Names:
    """What codes are called; a code the catalogue lacks says so."""

    def __init__(self, ground: Ground, classes: Iterable[Classed] = ()) -> None:
        self.ground = ground
        self._classes = {c.id: c for c in classes}

    def order_class(self, code: str) -> str:
        """Name of a class of orders."""
        return self._name(self._classes, code)

    def zone(self, code: str) -> str:
        """Name of a zone."""
        return self._name(self.ground.zones, code)

    def item(self, code: str) -> str:
        """Name of an item."""
        return self._name(self.ground.items, code)

    def partner(self, code: str) -> str:
        """Name of a partner."""
        return self._name(self.ground.partners, code)

    def bin_type(self, code: str) -> str:
        """Name of a bin type."""
        return self._name(self.ground.bin_types, code)

    def plate_kind(self, code: str) -> str:
        """Name of a kind of plate."""
        return self._name(self.ground.plate_kinds, code)

    def carton_kind(self, code: str) -> str:
        """Name of a kind of carton."""
        return self._name(self.ground.carton_kinds, code)

    def _name(self, known: Mapping[Any, Called], code: str) -> str:
        found = known.get(code)
        return found.name if found else f"{code} (missing)"


def thousandths(count: int) -> str:
    """A count of thousandths as a number: 2500 reads 2.5."""
    whole, rest = divmod(count, 1000)
    return f"{whole:,}.{rest:03d}".rstrip("0") if rest else f"{whole:,}"


def between(span: Between) -> str:
    """A range in words."""
    if span.least is None:
        return f"at most {span.most:,}" if span.most is not None else "any number"
    if span.most is None:
        return f"at least {span.least:,}"
    return f"{span.least:,}" if span.least == span.most else f"{span.least:,} to {span.most:,}"


AS_SET = {
    Level.OWN: "",
    Level.SITE: " (as set for this site)",
    Level.GENERAL: " (as set for all sites)",
    Level.BUILT_IN: " (as usual)",
}


def layered(table: dict[Any, str], name: str, own: Any, layers: Layers, path: str) -> Part:
    """A live word whose value may come from the settings; where from is said in brackets."""
    level, value = levels(layers[0], name, layers[1], own)[0]
    return Part("word", table[value] + AS_SET[level], f"{path}/{name}", name)


Layers = tuple[Sequence[SettingsLayer], SiteCode]


NO_LAYERS: Layers = ((), SiteCode(""))
