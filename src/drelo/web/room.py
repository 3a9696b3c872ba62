"""What needs room on the disk is refused where there is none; reading, exporting and deleting go on."""

from __future__ import annotations

import re

from flask import Flask, Response, request

from drelo.core.errors import Refusal
from drelo.web.bench import bench
from drelo.web.problems import problem

NO_ROOM = 507
# What asks without changing anything.
_ASKING = re.compile(
    r"/api/(names|storage/empty|pieces/[^/]+/(preview|solid|file-weight|cling|leak|joining|drawing/look|outlines|recipe|take-away|many/.*))"
)


def install(app: Flask) -> None:
    """Turn changes away while the disk is full."""

    @app.before_request
    def room() -> Response | None:
        if request.method not in ("POST", "PUT", "PATCH") or _ASKING.fullmatch(request.path):
            return None
        if bench().space.room() != "none":
            return None
        return problem(NO_ROOM, Refusal("disk.full"), kind="/problems/no-room")
