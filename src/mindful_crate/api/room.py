"""How many bytes a request may bring: most little, some routes more. The front turns more away before it is read; what Flask reads is
bounded by the same table, and both say the same."""

from __future__ import annotations

from typing import Any

from flask import request

MOST = 4_000_000
LARGER = {"/api/ground/imports": 512_000_000, "/api/pictures": 13_000_000, "/api/photos": 13_000_000}
"""Routes that take more than others, and how much."""
WHOLE = frozenset(("/api/pictures", "/api/photos"))
"""What they take comes in one piece or not at all."""


def room_for(path: str) -> int:
    """How many bytes a route takes."""
    return LARGER.get(path, MOST)


def too_much(path: str) -> str:
    """What is said to more."""
    parts = "" if path in WHOLE else "; bring it in parts"
    return f"That is more than the {room_for(path) // 1_000_000} MB that are taken at once. Nothing was changed{parts}."


def install(app: Any) -> None:
    """Bound what Flask reads."""
    app.config["MAX_CONTENT_LENGTH"] = MOST

    @app.before_request
    def room() -> None:
        if request.path in LARGER:
            request.max_content_length = request.max_form_memory_size = room_for(request.path)
