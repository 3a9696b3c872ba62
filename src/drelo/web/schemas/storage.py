"""What takes how much room."""

from __future__ import annotations

from typing import Literal

from drelo.web.schemas.base import Wire


class AmountOut(Wire):
    count: int
    bytes: int


class DeletedOut(Wire):
    """A deleted piece. until: when it goes for good, UTC."""

    id: str
    name: str
    deleted: str
    until: str


class StorageOut(Wire):
    """assets: pictures and fonts that makers brought; derived: what can be made again; free: bytes on the disk."""

    pieces: AmountOut
    trash: AmountOut
    assets: AmountOut
    derived: AmountOut
    free: int | None
    deleted: list[DeletedOut]


class Empty(Wire):
    what: Literal["trash", "derived"]
