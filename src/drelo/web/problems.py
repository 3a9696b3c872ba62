"""Errors in one shape: RFC 9457 problem details."""

from __future__ import annotations

import logging
from http import HTTPStatus

from flask import Flask, Response, make_response, request
from pydantic import ValidationError
from sqlalchemy.exc import DBAPIError, OperationalError
from werkzeug.exceptions import HTTPException, RequestEntityTooLarge

from drelo.core.errors import Busy, Refusal, Superseded
from drelo.core.picture.decode import MAX_BYTES
from drelo.formats.recipe import field_path
from drelo.store.plan_shelf import NoPlan
from drelo.store.revisions import NotFound
from drelo.web.requests import number
from drelo.web.schemas.base import Problem
from drelo.words.spoken import sentence

log = logging.getLogger(__name__)
# After so many seconds it is worth while to ask again.
BUSY_SECONDS, DATABASE_SECONDS = 1, 2
MEDIA_TYPE = "application/problem+json"


def answer(problem: Problem) -> Response:
    response = make_response(problem.model_dump_json(), problem.status)
    response.content_type = MEDIA_TYPE
    return response


def problem(status: int, detail: str, field: str = "", kind: str = "about:blank") -> Response:
    """A problem response."""
    return answer(Problem(type=kind, title=HTTPStatus(status).phrase, status=status, detail=detail, field=field))


def later(detail: str, seconds: int) -> Response:
    """503: ask again after so many seconds."""
    response = problem(503, detail, kind="/problems/busy")
    response.headers["Retry-After"] = str(seconds)
    return response


def gone(detail: str) -> Response:
    """404 with what to do."""
    return problem(404, detail)


def invalid(error: ValidationError) -> Response:
    """What flask-openapi3 answers when a request does not fit its description."""
    first = error.errors(include_url=False, include_input=False)[0]
    path = field_path(first["loc"])
    return problem(422, f"{first['msg']}.", path)


def install(app: Flask) -> None:
    """Answer every error as problem details, never with a trace."""

    @app.errorhandler(Refusal)
    def refused(error: Refusal) -> Response:
        return problem(422, sentence(error), error.field)

    @app.errorhandler(NoPlan)
    def no_plan(_: NoPlan) -> Response:
        return gone("This bed plan is gone: it was deleted.")

    @app.errorhandler(Superseded)
    def superseded(_: Superseded) -> Response:
        return problem(409, "A newer request has taken the place of this one.", kind="/problems/superseded")

    @app.errorhandler(Busy)
    def busy(_: Busy) -> Response:
        return later(
            "Drelo is busy with other pieces. Nothing was changed; the page will try again in a moment.", BUSY_SECONDS
        )

    @app.errorhandler(DBAPIError)
    def no_database(error: DBAPIError) -> Response:
        log.warning("%s %s: the database failed: %s", request.method, request.path, error.orig)
        if not error.connection_invalidated and not isinstance(error, OperationalError):
            return unexpected(error)
        return later(
            "The database is restarting. Nothing was changed; the page will try again in a moment.",
            DATABASE_SECONDS,
        )

    @app.errorhandler(NotFound)
    def missing(_: NotFound) -> Response:
        return problem(404, "There is no such piece. It may have been deleted; open the list of pieces.")

    @app.errorhandler(RequestEntityTooLarge)
    def too_large(_: RequestEntityTooLarge) -> Response:
        return problem(
            413,
            f"The file is too large; at most {MAX_BYTES // 2**20} MB can be read. "
            "Save it with fewer pixels or as JPEG.",
            "picture",
        )

    @app.errorhandler(RecursionError)
    def too_deep(_: RecursionError) -> Response:
        return problem(422, "The request is nested far too deeply.")

    @app.errorhandler(HTTPException)
    def http(error: HTTPException) -> Response:
        return problem(error.code or 500, error.description or "The request could not be answered.")

    @app.errorhandler(Exception)
    def unexpected(error: Exception) -> Response:
        log.exception("request %s: %s %s failed", number(), request.method, request.path, exc_info=error)
        return problem(
            500,
            "Something went wrong in Drelo, and nothing was changed. Try again, or undo the last step. "
            f"If it happens again, report it with the number {number()}, under which the log says more.",
        )
