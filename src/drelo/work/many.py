"""The same piece for many names: each is built and checked by itself, then all are packed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Literal

from drelo.core.piece.document import Document
from drelo.core.piece.many import named
from drelo.formats.archive import zipped
from drelo.formats.beds import Laid, write_beds
from drelo.formats.names import distinct_names
from drelo.formats.product import ZIP, FileKind, Product
from drelo.formats.threemf import read_3mf
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


def pack(
    checkpoint: Checkpoint,
    names: Sequence[str],
    files: Sequence[bytes],
    packing: Packing,
    bed: tuple[float, float],
    spacing: float,
) -> tuple[bytes, str, str, int]:
    """Everything in one file: its bytes, media type and suffix, and how many beds or files it holds.

    Raises Refusal when a piece is larger than the bed.
    """
    if packing == "stl":
        stems = distinct_names(names)
        return zipped({f"{stem}.stl": data for stem, data in zip(stems, files, strict=True)}), ZIP, "zip", len(files)
    laid = []
    for name, data in zip(names, files, strict=True):
        checkpoint()
        bodies = read_3mf(data)
        corners = [body.mesh.vertices.max(axis=0) for body in bodies]
        size = (max(float(c[0]) for c in corners), max(float(c[1]) for c in corners))
        laid.append(Laid(name, tuple(bodies), size))
    beds = write_beds(laid, bed, spacing)
    if len(beds) == 1:
        return next(iter(beds.values())), "model/3mf", "3mf", 1
    return zipped(beds), ZIP, "zip", len(beds)
