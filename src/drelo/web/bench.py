"""What the blueprints share: the repositories, the workers, and documents evaluated by them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, TypeVar, cast, get_args

from flask import current_app

from drelo.core.errors import Refusal
from drelo.core.piece.difference import Difference
from drelo.core.piece.document import Document
from drelo.core.piece.edits import Edit, apply
from drelo.core.piece.flat import Flat
from drelo.core.piece.operations import Operation
from drelo.store.blobs import Assets, DerivedBytes
from drelo.store.motif_shelf import MotifShelf
from drelo.store.pieces import Pieces
from drelo.work import shaping, tasks
from drelo.work.pool import Pool
from drelo.work.tasks import AssetMissing

T = TypeVar("T")
_NAME = "drelo"


OPERATIONS = tuple(get_args(get_args(Operation)[0]))


@dataclass(frozen=True)
class Step:
    """An edit, and the document that it leads to."""

    edit: Edit
    document: Document


@dataclass(frozen=True)
class Bench:
    """Everything that a request may need."""

    pieces: Pieces
    assets: Assets
    derived: DerivedBytes
    pool: Pool
    motifs: MotifShelf

    def work(
        self,
        piece: str,
        function: Callable[..., T],
        document: Document,
        *more: Any,
        lane: str | None = None,
        aside: bool = False,
    ) -> T:
        """Run a task on a document in the piece's worker, sending the bytes of pictures that it does not hold."""
        sent: dict[str, bytes] = {}
        while True:
            try:
                return self.pool.run(piece, function, document, sent, *more, lane=lane, aside=aside)
            except AssetMissing as missing:
                data = self.assets.get(missing.sha256)
                if data is None or missing.sha256 in sent:
                    raise Refusal(
                        "The piece's picture or a font of it is gone from the store. Bring it in again.", "source"
                    ) from None
                sent = {**sent, missing.sha256: data}

    def step(self, piece: str, document: Document, edit: Edit | Operation, lane: str | None = None) -> Step:
        """The document after an edit; what is asked of outlines is worked out first and becomes an edit itself."""
        if isinstance(edit, OPERATIONS):
            edit = self.work(piece, shaping.shape, document, edit, lane=lane)
        plain = cast(Edit, edit)
        return Step(plain, apply(document, plain))

    def flat(self, piece: str, document: Document, lane: str | None = None, coarse: bool = False) -> Flat:
        return self.work(piece, tasks.flat, document, coarse, lane=lane)

    def flat_change(
        self, piece: str, before: Document, after: Document, lane: str | None = None, coarse: bool = False
    ) -> Difference:
        return self.work(piece, tasks.flat_change, after, before, coarse, lane=lane)


def bench() -> Bench:
    """The bench of the application that answers this request."""
    return cast(Bench, current_app.extensions[_NAME])


def attach(app: Any, value: Bench) -> None:
    app.extensions[_NAME] = value
