"""Blueprint: the front end's files, the API's description, and a sign of life."""

from __future__ import annotations

from pathlib import Path
from typing import cast

from flask import Blueprint, Response, abort, current_app, send_from_directory
from flask_openapi3 import OpenAPI

from drelo.web.bench import bench
from drelo.web.description import described
from drelo.web.replies import FOREVER, reply
from drelo.web.schemas.base import Health, Readiness


def pages(dist: Path) -> Blueprint:
    """dist: the folder of the built front end."""
    blueprint = Blueprint("pages", __name__)

    @blueprint.get("/api/health")
    def health() -> Response:
        return reply(Health())

    @blueprint.get("/api/ready")
    def ready() -> Response:
        pool, database = bench().pool.state(), bench().pieces.answers()
        found = Readiness(
            ready=database and pool.ready > 0,
            database=database,
            workers=pool.ready,
            running=pool.running,
            waiting=pool.waiting,
            room=bench().space.room(),
            free=bench().space.free(),
        )
        return reply(found, 200 if found.ready else 503)

    @blueprint.get("/api/openapi.json")
    def description() -> Response:
        app = current_app
        assert isinstance(app, OpenAPI)
        return cast(Response, app.json.response(described(app)))

    @blueprint.get("/assets/<path:name>")
    def asset(name: str) -> Response:
        response = send_from_directory(dist / "assets", name)
        # The build puts a hash of the content into every name.
        response.headers["Cache-Control"] = FOREVER
        return response

    @blueprint.get("/")
    @blueprint.get("/<path:name>")
    def page(name: str = "") -> Response:
        if name.startswith("api/"):
            abort(404, "There is no such address.")
        if name and (dist / name).is_file():
            return send_from_directory(dist, name)
        response = send_from_directory(dist, "index.html")
        response.headers["Cache-Control"] = "no-cache"
        return response

    return blueprint
