"""Pictures on their way in: worked out first, stored with the piece that they belong to when they can be used."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import PurePath

from drelo.application.bench import Bench
from drelo.core.errors import Refusal
from drelo.core.picture.decode import MAX_BYTES
from drelo.core.piece.document import Document
from drelo.core.piece.drawn import Lettering
from drelo.work import tasks
from drelo.work.tasks import FromRecipe, TakenIn, Wanted

MAX_NAME = 120
PLAIN = Wanted()
# What a piece is called that has neither a picture nor words yet.
NAMELESS = "New piece"
# What words say before anybody has typed.
SAMPLE_WORDS = "Words"


def title_of(stem: str) -> str:
    """A piece's name from a file's."""
    text = " ".join(stem.replace("-", " ").replace("_", " ").split())[:MAX_NAME]
    return text[:1].upper() + text[1:] or NAMELESS


def title_from(document: Document) -> str | None:
    """What a piece that nobody named is called: as its first picture, its first words, or a drawing of the cabinet."""
    if document.pictures:
        return title_of(PurePath(document.pictures[0].name).stem)
    words = (t.text for t in document.drawn if isinstance(t, Lettering) and t.text.strip() != SAMPLE_WORDS)
    taken = (t.name for t in document.drawn if t.origin and t.name)
    first = next(words, None) or next(taken, None)
    return title_of(first) if first else None


def take_recipe(bench: Bench, piece: str, files: Mapping[str, bytes]) -> FromRecipe:
    """Work a recipe out. files: bytes by name. Raises Refusal when it cannot be used."""
    for name, data in files.items():
        if len(data) > MAX_BYTES:
            raise Refusal("intake.too-large", "files", name=PurePath(name).name, megabytes=MAX_BYTES // 2**20)
    return bench.pool.run(piece, tasks.from_recipe, files)


def take_picture(
    bench: Bench, piece: str, document: Document, data: bytes, file_name: str, wanted: Wanted = PLAIN
) -> TakenIn:
    """Trace a picture in the piece's worker. Raises Refusal when it cannot be used."""
    if not data:
        raise Refusal("picture.empty-file", "picture")
    name = PurePath(file_name or "picture").name[:MAX_NAME]
    taken = bench.work(piece, tasks.take_in, document, data, name, wanted)
    bench.sender.changed(document, taken.document)
    return taken


def title_of_picture(taken: TakenIn) -> str:
    """A piece's name from the picture's file."""
    return title_of(PurePath(taken.edit.source.name).stem)
