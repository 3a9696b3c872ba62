"""Work for a request ends when who asked has gone."""

from __future__ import annotations

from flask import Flask, request

from drelo.work.workers import given_up


def install(app: Flask) -> None:
    """Tell workers, for each request, how to see whether its asker has gone."""

    @app.before_request
    def watch() -> None:
        gone = request.environ.get("waitress.client_disconnected")
        if gone is not None:
            given_up.set(gone)
