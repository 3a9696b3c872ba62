"""Nobody fills the workshop: who brings or makes something new is held to their limits."""

from __future__ import annotations

from collections.abc import Mapping
from datetime import UTC, date, datetime
from typing import cast

from flask import Flask, current_app, request

from drelo.core.people.limits import Limits, Used, check_room
from drelo.web.bench import bench
from drelo.web.people.who import NAME, person
from drelo.web.people.workshop import Workshop

# Each makes a piece of one's own.
MAKES = frozenset(
    {
        "pieces.new_piece",
        "pieces.begin_with_picture",
        "pieces.begin_with_recipe",
        "pieces.duplicate_piece",
        "archives.begin_with_archive",
        "versions.begin_from_version",
    }
)


def install(app: Flask) -> None:
    """Hold requests that make or bring something against the limits of who asks. After `access`, which knows who."""

    @app.before_request
    def within() -> None:
        me = person()
        makes, brings = request.endpoint in MAKES, request.mimetype == "multipart/form-data"
        if me is None or not (makes or brings):
            return
        used = bench().consumption.used(today(), me.id).get(me.id, Used())
        check_room(used, limits_of(bench().consumption.own_limits(me.id)), int(makes))


def limits_of(own: Mapping[str, int]) -> Limits:
    """The workshop's limits, with those that somebody has otherwise."""
    return cast(Workshop, current_app.extensions[NAME]).limits.but(own)


def today() -> date:
    """The day that is counted, UTC."""
    return datetime.now(UTC).date()
