"""The same piece for many names: each is built and checked by itself, then laid on beds."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from typing import Literal

from drelo.core.piece.document import Document
from drelo.core.piece.many import named
from drelo.formats.beds import Laid, write_bed
from drelo.formats.product import FileKind, Product
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


def make_bed(
    checkpoint: Checkpoint, number: int, names: Sequence[str], files: Sequence[bytes], at: Sequence[tuple[float, float]]
) -> bytes:
    """The 3MF of a bed with pieces (each a 3MF) at their places, mm."""

    def laid() -> Iterator[Laid]:
        for name, data, place in zip(names, files, at, strict=True):
            checkpoint()
            yield Laid(name, tuple(read_3mf(data)), place)

    return write_bed(number, laid())
