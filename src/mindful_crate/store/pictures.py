"""Pictures by name, as they were made anew."""

from __future__ import annotations

from typing import Protocol

from mindful_crate.store import db


class Picture(Protocol):
    """A picture as it was made anew."""

    @property
    def hash(self) -> str:
        """Of its content."""
        ...

    @property
    def content(self) -> bytes:
        """WebP."""
        ...

    @property
    def width(self) -> int:
        """Pixels."""
        ...

    @property
    def height(self) -> int:
        """Pixels."""
        ...


def keep(conn: db.Conn, name: str, made: Picture, by: str) -> None:
    """Keep a picture; one of that name is replaced."""
    db.run(
        conn, "put_picture", name=name, hash=made.hash, width=made.width, height=made.height, content=made.content, put_by=by
    )  # fmt: skip


def find(conn: db.Conn, name: str) -> tuple[str, bytes] | None:
    """The hash and the content of a picture; None: there is none of that name."""
    found = conn.execute(db.QUERIES["picture"], {"name": name}).fetchone()
    return None if found is None else (found[0], bytes(found[1]))


def drop(conn: db.Conn, name: str) -> None:
    """Keep it no longer."""
    db.run(conn, "drop_picture", name=name)
