"""Pieces under the hand of a test: edits and operations by their words."""

from __future__ import annotations

from typing import Any

from drelo.core.piece.applying import apply
from drelo.core.piece.document import Document
from drelo.core.piece.edits import EDIT
from drelo.core.piece.evaluate import Evaluation
from drelo.core.piece.operations import OPERATION
from drelo.core.piece.pictures import PlacedPicture
from drelo.core.piece.shaping import shaped


def edited(document: Document, **edit: Any) -> Document:
    """After an edit."""
    return apply(document, EDIT.validate_python(edit))


def worked(evaluation: Evaluation, document: Document, **operation: Any) -> Document:
    """After an operation on its outlines."""
    return apply(document, shaped(evaluation.workshop(document), OPERATION.validate_python(operation)))


def picked(*regions: Any) -> list[dict[str, Any]]:
    """Regions as an edit names them."""
    return [{"id": r.id, "mark": r.mark.model_dump()} for r in regions]


def picture_of(document: Document) -> PlacedPicture:
    """The first picture, which is there."""
    found = document.picture(None)
    assert found is not None
    return found
