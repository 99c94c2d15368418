"""One way to declare a value: frozen, slotted, closed to unknown fields at the edges."""

from __future__ import annotations

import dataclasses
from typing import TypeVar, dataclass_transform

T = TypeVar("T")


@dataclass_transform(frozen_default=True, field_specifiers=(dataclasses.field,))
def record(cls: type[T]) -> type[T]:
    """Make ``cls`` a frozen, slotted dataclass.

    ``__pydantic_config__`` is plain data that the edge reads, so that a file or request with a field we do
    not know is refused there; the core itself knows nothing of pydantic.
    """
    cls.__pydantic_config__ = {"extra": "forbid", "json_schema_serialization_defaults_required": True}  # type: ignore[attr-defined]
    return dataclasses.dataclass(frozen=True, slots=True)(cls)
