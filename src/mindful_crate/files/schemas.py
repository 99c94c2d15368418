"""The published JSON Schemas of our file formats, made from the core's own types."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from pydantic import TypeAdapter

from mindful_crate.core.proving.script import Rehearsal
from mindful_crate.core.rulebook.book import Rulebook
from mindful_crate.core.work.matters import BUTTONS
from mindful_crate.core.world.letters import Letter
from mindful_crate.files.letters import Told

FORMATS: dict[str, Any] = {"rulebook": Rulebook, "rehearsal": Rehearsal, "message-in": Told, "message-out": Letter}


def schema(name: str) -> dict[str, Any]:
    """The JSON Schema of a format."""
    made = TypeAdapter(FORMATS[name]).json_schema()
    if name == "rehearsal":  # which buttons there are is known to the matters, not to the shape
        made["$defs"]["DoPress"]["properties"]["action"]["enum"] = sorted(BUTTONS)
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **made}


def text(name: str) -> str:
    """The schema as it is published."""
    return json.dumps(schema(name), indent=2, ensure_ascii=False) + "\n"


def write(folder: Path) -> None:
    """Write all schemas into a folder."""
    folder.mkdir(parents=True, exist_ok=True)
    for name in FORMATS:
        (folder / f"{name}.schema.json").write_text(text(name))
