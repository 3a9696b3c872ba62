"""The application factory."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from flask_openapi3 import Info, OpenAPI

from drelo.application.bench import Bench
from drelo.web import (
    api_page,
    archives,
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
    versions,
)
from drelo.web.bench import attach
from drelo.web.people import alone
from drelo.web.schemas.base import Problem

if TYPE_CHECKING:
    from drelo.web.people.workshop import Workshop

FRONT_END = Path(__file__).resolve().parents[3] / "frontend" / "dist"


def create_app(bench: Bench, dist: Path = FRONT_END, shared: Workshop | None = None) -> OpenAPI:
    """The WSGI application.

    bench: repositories and workers. dist: the built front end. shared: how a workshop of several people is run.
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
    attach(app, bench)
    requests.install(app)
    metrics.install(app)
    if shared is None:
        security.install(app)
    else:
        security.install(app, (*security.HOSTS, *shared.names), shared.secure)
    problems.install(app)
    leaving.install(app)
    room.install(app)
    if shared is not None:
        _with_people(app, shared)
    else:
        app.register_api(alone.blueprint)
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
    app.register_api(versions.blueprint)
    app.register_api(archives.blueprint)
    app.register_blueprint(api_page.blueprint)
    app.register_blueprint(pages.pages(dist))
    return app


def _with_people(app: OpenAPI, shared: Workshop) -> None:
    """What only a workshop of several people needs; one maker alone does not wait for it."""
    from drelo.web.people import access, accounts, keeping, limits, sharing, visitors, workshop

    workshop.install(app, shared)
    access.install(app)
    limits.install(app)
    for blueprint in (accounts.blueprint, keeping.blueprint, sharing.blueprint, visitors.blueprint):
        app.register_api(blueprint)
