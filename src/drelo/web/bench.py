"""What the blueprints share: the repositories, the workers, and documents evaluated by them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, TypeVar, cast

from flask import current_app

from drelo.core.errors import Refusal
from drelo.core.piece.document import Document
from drelo.core.piece.flat import Flat
from drelo.store.blobs import Assets, DerivedBytes
from drelo.store.pieces import Pieces
from drelo.work import tasks
from drelo.work.pool import Pool
from drelo.work.tasks import AssetMissing

T = TypeVar("T")
_NAME = "drelo"


@dataclass(frozen=True)
class Bench:
    """Everything that a request may need."""

    pieces: Pieces
    assets: Assets
    derived: DerivedBytes
    pool: Pool

    def work(
        self, piece: str, function: Callable[..., T], document: Document, *more: Any, lane: str | None = None
    ) -> T:
        """Run a task on a document in the piece's worker, sending the bytes of pictures that it does not hold."""
        try:
            return self.pool.run(piece, function, document, {}, *more, lane=lane)
        except AssetMissing as missing:
            data = self.assets.get(missing.sha256)
            if data is None:
                raise Refusal(
                    "The piece's picture is gone from the store. Drop it on the page again.", "source"
                ) from None
            return self.pool.run(piece, function, document, {missing.sha256: data}, *more, lane=lane)

    def flat(self, piece: str, document: Document, lane: str | None = None, coarse: bool = False) -> Flat:
        return self.work(piece, tasks.flat, document, coarse, lane=lane)


def bench() -> Bench:
    """The bench of the application that answers this request."""
    return cast(Bench, current_app.extensions[_NAME])


def attach(app: Any, value: Bench) -> None:
    app.extensions[_NAME] = value
