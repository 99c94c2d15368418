"""The barest route to measure against, a file of its own: nothing of the product is in it, so that it stays what it is when
the product grows quicker or slower. Who asks is read by the hash of a cookie, one row is committed.

Under gunicorn as it is started by :data:`COMMAND`, two processes of 64 threads.
"""

from __future__ import annotations

import hashlib
import os
import secrets
import uuid
from typing import Any

from flask import Flask, jsonify, request
from psycopg_pool import ConnectionPool

COMMAND = ["--workers", "2", "--worker-class", "gthread", "--threads", "64", "--keep-alive", "20", "--log-level", "error", "tests.bench.barest:app()"]  # fmt: skip


def app() -> Flask:
    """A server with nothing but that."""
    made = Flask(__name__)
    pool = ConnectionPool(os.environ["CRATE_DATABASE"], min_size=1, max_size=12, open=True)

    @made.get("/api/health")
    def health() -> Any:
        return jsonify({})

    @made.post("/begin")
    def begin() -> Any:
        token = secrets.token_urlsafe(32)
        with pool.connection() as conn:
            conn.execute("CREATE TABLE IF NOT EXISTS barest (id text PRIMARY KEY, body text NOT NULL)")
            conn.execute("CREATE TABLE IF NOT EXISTS sitter (token text PRIMARY KEY, name text NOT NULL)")
            conn.execute("INSERT INTO sitter VALUES (%s, 'somebody')", (hashlib.sha256(token.encode()).hexdigest(),))
        answer = jsonify({})
        answer.set_cookie("sitter", token)
        return answer

    @made.post("/row")
    def row() -> Any:
        token = hashlib.sha256(request.cookies.get("sitter", "").encode()).hexdigest()
        body: Any = request.json
        with pool.connection() as conn:
            if conn.execute("SELECT name FROM sitter WHERE token = %s", (token,)).fetchone() is None:
                return jsonify({}), 401
            conn.execute("INSERT INTO barest (id, body) VALUES (%s, %s)", (uuid.uuid4().hex, body["text"]))
        return jsonify({"ok": True})

    return made
