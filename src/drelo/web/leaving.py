"""Work for a request ends when who asked has gone, or when the same page asks for something newer."""

from __future__ import annotations

import re

from flask import Flask, request

from drelo.work.workers import given_up, window

WINDOW_HEADER = "Drelo-Window"
_WINDOW = re.compile("[0-9a-f]{1,32}")


def install(app: Flask) -> None:
    """Tell workers, for each request, which page asks, and how to see whether it has gone."""

    @app.before_request
    def watch() -> None:
        gone = request.environ.get("waitress.client_disconnected")
        if gone is not None:
            given_up.set(gone)
        name = request.headers.get(WINDOW_HEADER, "")
        window.set(name if _WINDOW.fullmatch(name) else "")
