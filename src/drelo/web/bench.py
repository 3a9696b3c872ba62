"""The bench of the application that answers a request."""

from __future__ import annotations

from typing import cast

from flask import Flask, current_app

from drelo.application.bench import Bench

_NAME = "drelo"


def bench() -> Bench:
    """The bench of the application that answers this request."""
    return cast(Bench, current_app.extensions[_NAME])


def attach(app: Flask, value: Bench) -> None:
    app.extensions[_NAME] = value
