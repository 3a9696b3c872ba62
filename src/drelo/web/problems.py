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


def problem(status: int, why: Refusal | str, field: str = "", kind: str = "about:blank") -> Response:
    """A problem response: why it is refused, or words that come from a library."""
    detail, field = (sentence(why), why.field) if isinstance(why, Refusal) else (why, field)
    return answer(Problem(type=kind, title=HTTPStatus(status).phrase, status=status, detail=detail, field=field))


def later(why: Refusal, seconds: int) -> Response:
    """503: ask again after so many seconds."""
    response = problem(503, why, kind="/problems/busy")
    response.headers["Retry-After"] = str(seconds)
    return response


def invalid(error: ValidationError) -> Response:
    """What flask-openapi3 answers when a request does not fit its description."""
    first = error.errors(include_url=False, include_input=False)[0]
    path = field_path(first["loc"])
    return problem(422, f"{first['msg']}.", path)


def install(app: Flask) -> None:
    """Answer every error as problem details, never with a trace."""

    @app.errorhandler(Refusal)
    def refused(error: Refusal) -> Response:
        return problem(422, error)

    @app.errorhandler(NoPlan)
    def no_plan(_: NoPlan) -> Response:
        return problem(404, Refusal("plan.deleted"))

    @app.errorhandler(Superseded)
    def superseded(_: Superseded) -> Response:
        return problem(409, Refusal("request.superseded"), kind="/problems/superseded")

    @app.errorhandler(Busy)
    def busy(_: Busy) -> Response:
        return later(Refusal("request.busy"), BUSY_SECONDS)

    @app.errorhandler(DBAPIError)
    def no_database(error: DBAPIError) -> Response:
        log.warning("%s %s: the database failed: %s", request.method, request.path, error.orig)
        if not error.connection_invalidated and not isinstance(error, OperationalError):
            return unexpected(error)
        return later(Refusal("request.database-restarts"), DATABASE_SECONDS)

    @app.errorhandler(NotFound)
    def missing(_: NotFound) -> Response:
        return problem(404, Refusal("piece.unknown"))

    @app.errorhandler(RequestEntityTooLarge)
    def too_large(_: RequestEntityTooLarge) -> Response:
        return problem(413, Refusal("upload.too-large", "picture", most=MAX_BYTES // 2**20))

    @app.errorhandler(RecursionError)
    def too_deep(_: RecursionError) -> Response:
        return problem(422, Refusal("request.too-deep"))

    @app.errorhandler(HTTPException)
    def http(error: HTTPException) -> Response:
        return problem(error.code or 500, error.description or Refusal("request.unanswered"))

    @app.errorhandler(Exception)
    def unexpected(error: Exception) -> Response:
        log.exception("request %s: %s %s failed", number(), request.method, request.path, exc_info=error)
        return problem(500, Refusal("request.failed", number=number()))
