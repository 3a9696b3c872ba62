"""Pictures on their way in: looked at in a worker, stored only when they can be used."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from pathlib import PurePath

from werkzeug.datastructures import FileStorage

from drelo.core.errors import Refusal
from drelo.core.picture.decode import MAX_BYTES
from drelo.core.piece.document import Document, Source
from drelo.core.piece.edits import PutPicture, apply
from drelo.core.piece.evaluate import Flat
from drelo.web.bench import Bench
from drelo.work import tasks


@dataclass(frozen=True)
class Incoming:
    """A picture that can be used: what the document says of it, and its bytes."""

    source: Source
    data: bytes
    media_type: str

    @property
    def edit(self) -> PutPicture:
        return PutPicture(source=self.source)

    @property
    def title(self) -> str:
        """A piece's name from the file's."""
        words = PurePath(self.source.name).stem.replace("-", " ").replace("_", " ").split()
        text = " ".join(words)[:100]
        return text[:1].upper() + text[1:] or "New piece"


def look_at(bench: Bench, file: FileStorage) -> Incoming:
    """Decode a picture in a worker. Raises Refusal when it cannot be used."""
    data = file.stream.read(MAX_BYTES + 1)
    if not data:
        raise Refusal("The file is empty. Save or export the picture again and choose it once more.", "picture")
    name = PurePath(file.filename or "picture").name[:120]
    width, height, media_type = bench.pool.run("intake", tasks.inspect, data)
    sha256 = hashlib.sha256(data).hexdigest()
    source = Source(id=f"s{sha256[:10]}", asset=sha256, name=name, width=width, height=height)
    return Incoming(source, data, media_type)


def trial(bench: Bench, piece: str, document: Document, picture: Incoming) -> tuple[Document, Flat]:
    """The document with the picture, and its flat view. Raises Refusal when it traces to nothing."""
    after = apply(document, picture.edit)
    return after, bench.pool.run(piece, tasks.flat, after, {picture.source.asset: picture.data})
