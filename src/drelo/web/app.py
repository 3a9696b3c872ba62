"""The application factory."""

from __future__ import annotations

from pathlib import Path

from flask_openapi3 import Info, OpenAPI

from drelo.application.bench import Bench
from drelo.web import (
    beds,
    cabinet,
    edits,
    filaments,
    files,
    leaving,
    looks,
    many,
    metrics,
    motifs,
    pages,
    pieces,
    printing,
    problems,
    rehearsals,
    requests,
    room,
    security,
    shape,
    storage,
)
from drelo.web.bench import attach
from drelo.web.listening import WITH_FILES
from drelo.web.schemas.base import Problem

FRONT_END = Path(__file__).resolve().parents[3] / "frontend" / "dist"


def create_app(bench: Bench, dist: Path = FRONT_END) -> OpenAPI:
    """The WSGI application.

    bench: repositories and workers. dist: the built front end.
    """
    app = OpenAPI(
        __name__,
        info=Info(title="Drelo", version="1"),
        doc_ui=False,
        static_folder=None,
        validation_error_status=422,
        validation_error_model=Problem,
        validation_error_callback=problems.invalid,
    )
    app.config["MAX_CONTENT_LENGTH"] = WITH_FILES
    attach(app, bench)
    requests.install(app)
    metrics.install(app)
    security.install(app)
    problems.install(app)
    leaving.install(app)
    room.install(app)
    app.register_api(pieces.blueprint)
    app.register_api(edits.blueprint)
    app.register_api(looks.blueprint)
    app.register_api(files.blueprint)
    app.register_api(cabinet.blueprint)
    app.register_api(shape.blueprint)
    app.register_api(motifs.blueprint)
    app.register_api(filaments.blueprint)
    app.register_api(many.blueprint)
    app.register_api(storage.blueprint)
    app.register_api(rehearsals.blueprint)
    app.register_api(beds.blueprint)
    app.register_api(printing.blueprint)
    app.register_blueprint(pages.pages(dist))
    return app
