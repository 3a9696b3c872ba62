"""Answers."""

from __future__ import annotations

from flask import Response, make_response
from pydantic import BaseModel

from drelo.core.piece.difference import Difference
from drelo.core.piece.document import Document
from drelo.core.piece.flat import Flat
from drelo.store.pieces import State
from drelo.web.schemas import BenchChangeOut, BenchOut, FlatOut, PartOut, PieceHeadOut, PieceOut

# Bytes that are named by their content never change.
FOREVER = "private, max-age=31536000, immutable"


def reply(model: BaseModel, status: int = 200) -> Response:
    response = make_response(model.model_dump_json(), status)
    response.content_type = "application/json"
    return response


def bench_reply(state: State, flat: Flat) -> Response:
    return reply(BenchOut(piece=PieceOut.of(state), flat=FlatOut.of(flat)))


def change_reply(before: Document, state: State, flat: Difference) -> Response:
    """What differs from a revision that the browser holds."""
    document = PartOut.of_document(before, state.document)
    return reply(BenchChangeOut(piece=PieceHeadOut.head(state), document=document, flat=PartOut.of_flat(flat)))


def unchanging(data: bytes, media_type: str) -> Response:
    response = make_response(data)
    response.content_type = media_type
    response.headers["Cache-Control"] = FOREVER
    return response
