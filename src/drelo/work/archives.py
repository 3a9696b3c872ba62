"""What a worker does with archives of pieces."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from drelo.core.errors import Refusal
from drelo.core.piece.document import Document
from drelo.core.piece.evaluate import Evaluation
from drelo.core.piece.flat import Flat
from drelo.core.piece.former import brought_up, is_former, read_document
from drelo.formats import foreign
from drelo.work.tasks import Checkpoint, evaluation


@dataclass(frozen=True)
class TakenArchive:
    """A piece that came in an archive, with its flat view. past: named versions (name, ISO moment, document)."""

    name: str
    document: Document
    past: tuple[tuple[str, str, Document], ...]
    assets: Mapping[str, tuple[bytes, str]]
    flat: Flat


def take_archive(checkpoint: Checkpoint, data: bytes) -> TakenArchive:
    """Read an archive and work out what it shows. Raises Refusal where it cannot be used."""
    found = foreign.piece_archive(data)
    checkpoint()
    for data_, media_type in found.assets.values():
        # What passes here once is read without the guard from then on.
        if media_type.startswith("font/"):
            foreign.check_font(data_)
        checkpoint()
    evaluated = evaluation(checkpoint, {sha256: bytes_ for sha256, (bytes_, _) in found.assets.items()})
    document = _document(found.document, evaluated)
    past = tuple((v.name, v.made, _document(v.document, evaluated)) for v in found.versions)
    kinds = _media_types(found.assets, [document, *(d for _, _, d in past)], evaluated)
    return TakenArchive(found.name, document, past, kinds, evaluated.flat(document))


def _document(value: Mapping[str, Any], evaluated: Evaluation) -> Document:
    return brought_up(value, evaluated) if is_former(value) else read_document(value)


def _media_types(
    assets: Mapping[str, tuple[bytes, str]], documents: list[Document], evaluated: Evaluation
) -> dict[str, tuple[bytes, str]]:
    """Assets with the media types that they really have. Raises Refusal where a picture is not what is said of it."""
    found = {sha256: (data, "font/sfnt") for sha256, (data, kind) in assets.items() if kind.startswith("font/")}
    for document in documents:
        for picture in document.pictures:
            if picture.asset in found:
                continue
            decoded = evaluated.asset_picture(picture.asset)
            if (decoded.width, decoded.height) != (picture.width, picture.height):
                raise Refusal("archive.wrong-size", "files", name=picture.name)
            found[picture.asset] = (assets[picture.asset][0], decoded.media_type)
    return found
