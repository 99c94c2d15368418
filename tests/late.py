"""The server with answers that are late by chance: ``python -m tests.late FD``. What a page does wrong when answers come in
another order than they were asked for, or after the next key, comes to light so; on loopback it comes up once in a hundred runs."""

from __future__ import annotations

import os
import random
import sys
import time

from flask import Flask, Response, request

from mindful_crate.api import app, serve
from tests.serving import LATE


def _late() -> None:
    if request.path.startswith("/api/") and random.random() < 0.5:
        time.sleep(random.random() * float(os.environ[LATE]))


def slowed() -> Flask:
    """The application, with a network before it that takes its time."""
    made = app.from_environment()

    @made.after_request
    def back(response: Response) -> Response:
        _late()
        return response

    made.before_request(_late)
    return made


if __name__ == "__main__":
    serve.from_environment = slowed
    sys.exit(serve.main(sys.argv[1:]))
