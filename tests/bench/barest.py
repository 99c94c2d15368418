"""The barest route to measure against: sign-in checked, one row committed."""

from __future__ import annotations

import os
import uuid
from typing import Any

from flask import Flask, jsonify, request
from flask_login import current_user

from mindful_crate.api import doors
from mindful_crate.api.wiring import Wired
from mindful_crate.store.db import Database
from mindful_crate.store.drafts import Drafts
from mindful_crate.store.grounds import Grounds
from mindful_crate.store.worlds import Worlds


def app() -> Flask:
    """A server with nothing but that."""
    made = Flask(__name__)
    made.config.update(SECRET_KEY=os.environ["CRATE_SECRET"])
    database = Database(os.environ["CRATE_DATABASE"])
    worlds = Worlds(database)
    made.extensions["mindful_crate"] = Wired(database, worlds, Drafts(worlds), Grounds(worlds), None)  # type: ignore[arg-type]
    doors.install(made)

    @made.get("/api/health")
    def health() -> Any:
        return jsonify({})

    @made.post("/begin")
    def begin() -> Any:
        with database.transaction() as conn:
            conn.execute("CREATE TABLE IF NOT EXISTS barest (id text PRIMARY KEY, body text NOT NULL)")
        return jsonify({})

    @made.post("/row")
    def row() -> Any:
        if not current_user.is_authenticated:
            return jsonify({}), 401
        with database.transaction() as conn:
            conn.execute("INSERT INTO barest (id, body) VALUES (%s, %s)", (uuid.uuid4().hex, request.json["text"]))  # type: ignore[index]
        return jsonify({"ok": True})

    return made
