"""Answers."""

from __future__ import annotations

from flask import Response, make_response
from pydantic import BaseModel, TypeAdapter

from drelo.core.piece.difference import Difference
from drelo.core.piece.document import Document
from drelo.core.piece.flat import Flat
from drelo.formats.names import file_name
from drelo.store.pieces import State
from drelo.web.people.who import right
from drelo.web.schemas.bench import BenchChangeOut, DocumentPart, FlatPart
from drelo.web.schemas.pieces import BenchOut, PieceHeadOut, PieceOut
from drelo.words.spoken import CONTEXT

# Bytes that are named by their content never change.
FOREVER = "private, max-age=31536000, immutable"
_FLAT = TypeAdapter(Flat)


def reply(model: BaseModel, status: int = 200) -> Response:
    return _json(model.model_dump_json(context=CONTEXT).encode(), status)


def flat_reply(flat: Flat) -> Response:
    return _json(_FLAT.dump_json(flat, context=CONTEXT))


def bench_reply(state: State, flat: Flat, together: bool = False) -> Response:
    return reply(BenchOut(piece=PieceOut.of(state, right()), flat=flat, together=together))


def change_reply(before: Document, state: State, flat: Difference) -> Response:
    """What differs from a revision that the browser holds."""
    document = DocumentPart.between(before, state.document)
    answer = BenchChangeOut.model_construct(
        piece=PieceHeadOut.head(state, right()), document=document, flat=FlatPart.of(flat)
    )
    return reply(answer)


def unchanging(data: bytes, media_type: str) -> Response:
    response = make_response(data)
    response.content_type = media_type
    response.headers["Cache-Control"] = FOREVER
    return response


def attached(response: Response, name: str) -> Response:
    """A response that the browser keeps as a file of a name."""
    stem, _, suffix = name.rpartition(".")
    response.headers["Content-Disposition"] = f'attachment; filename="{file_name(stem)}.{file_name(suffix)}"'
    return response


def _json(data: bytes, status: int = 200) -> Response:
    response = make_response(data, status)
    response.content_type = "application/json"
    return response
