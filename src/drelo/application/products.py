"""Files that are taken away: made once, kept, and found again by what they follow from."""

from __future__ import annotations

import hashlib
import json
from datetime import timedelta
from typing import Any

from pydantic import BaseModel, ConfigDict

from drelo.application.bench import Bench
from drelo.core.piece.document import Document
from drelo.core.piece.many import named
from drelo.core.rehearsal.settings import Manner
from drelo.formats.product import BodyFigures, FileKind, Product
from drelo.store.blobs import WANTED
from drelo.work import many, tasks

JSON = "application/json"
# So long stays, however much is kept, what was made on the side, a file to weigh or to rehearse, and its rehearsal.
IN_PASSING = timedelta(minutes=10)
# What of a document no file follows from.
ASIDE: dict[str, Any] = {
    "units": True,
    # The swap list in a file follows from the first layer.
    "printing": {
        "printer": True,
        "copies": True,
        "manner": {name: True for name in Manner.model_fields if name != "first_layer"},
    },
    "symmetry": True,
    "pictures": {"__all__": {"attempts": True, "locked": True}},
}


class ProductFigures(BaseModel):
    """What is known of a file that was made: it is kept beside its bytes. footprint: in hexadecimal digits."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    bytes: int
    triangles: int
    parts: int
    volume_mm3: float
    size_mm: tuple[float, float, float]
    bodies: tuple[BodyFigures, ...]
    remarks: tuple[str, ...]
    footprint: str


def product(
    bench: Bench, piece: str, document: Document, kind: FileKind, within: float, title: str, lane: str | None = None
) -> tuple[str, ProductFigures]:
    """The key of a file and what is known of it; it is made where it is not there yet.

    within: how far chords may keep off curves, mm. lane: a newer question of the lane supersedes this one; the file is
    made on the side then, and wanted by the answer only.
    """
    key = product_key(document, kind, within, title)
    known = figures_of(bench, key)
    if known is None:
        made = bench.work(piece, tasks.take_away, document, kind, within, title, lane=lane, aside=True)
        known = _keep(bench, key, made, WANTED if lane is None else IN_PASSING)
    elif lane is None:
        bench.derived.want(key, _beside(key))
    return key, known


def named_product(
    bench: Bench, piece: str, document: Document, name: str, words: str | None, kind: FileKind, within: float
) -> tuple[str, ProductFigures]:
    """The key of a file of a piece with other words in it and what is known of it; made where it is not there yet."""
    key = product_key(named(document, name, words), kind, within, name)
    known = figures_of(bench, key)
    if known is None:
        known = _keep(bench, key, bench.work(piece, many.make_one, document, name, words, kind, within))
    return key, known


def product_key(document: Document, kind: FileKind, within: float, title: str) -> str:
    """Names a file by all that its bytes follow from."""
    content = json.dumps([document.model_dump(mode="json", exclude=ASIDE), kind, within, title], sort_keys=True)
    return hashlib.sha256(f"file 5 {content}".encode()).hexdigest()


def figures_of(bench: Bench, key: str) -> ProductFigures | None:
    """What is known of a file, as long as it is kept."""
    found = bench.derived.get(_beside(key))
    if found is None or not bench.derived.has(key):
        return None
    return ProductFigures.model_validate_json(found[0])


def outline_of(figures: ProductFigures) -> bytes:
    """What a solid covers of a bed, as WKB, mm, the corner of its box at 0, 0."""
    return bytes.fromhex(figures.footprint)


def _keep(bench: Bench, key: str, made: Product, wanted: timedelta = WANTED) -> ProductFigures:
    """Store a file and what is known of it."""
    figures = ProductFigures(
        bytes=len(made.data),
        triangles=made.triangles,
        parts=made.parts,
        volume_mm3=made.volume,
        size_mm=made.size,
        bodies=made.bodies,
        remarks=made.remarks,
        footprint=made.footprint.hex(),
    )
    bench.derived.put(key, made.data, made.media_type, wanted)
    bench.derived.put(_beside(key), figures.model_dump_json().encode(), JSON, wanted)
    return figures


def _beside(key: str) -> str:
    return hashlib.sha256(f"figures {key}".encode()).hexdigest()
