"""The same piece for many names: each is built and checked by itself."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Literal

from drelo.core.piece.document import Document
from drelo.core.piece.many import named
from drelo.formats.product import FileKind, Product
from drelo.work.tasks import Checkpoint, take_away

Packing = Literal["beds", "stl"]


def make_one(
    checkpoint: Checkpoint,
    document: Document,
    assets: Mapping[str, bytes],
    name: str,
    words: str | None,
    kind: FileKind,
    within: float,
) -> Product:
    """The piece with a name in place of its words, built and checked. Raises Refusal when it cannot be."""
    return take_away(checkpoint, named(document, name, words), assets, kind, within, name)
