"""Rehearsals and the printers that they are made for."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from drelo.core.piece.prospects import Prospects
from drelo.core.rehearsal.settings import MAX_COPIES, Key, Manner, Printer
from drelo.formats.rehearsal_out import RehearsalReport
from drelo.web.schemas.base import Wire


class RehearsalRequest(Wire):
    """Without a printer, a manner or a number of copies, those of the piece."""

    revision: int
    printer: Key | None = None
    manner: Manner | None = None
    copies: Annotated[int, Field(ge=1, le=MAX_COPIES)] | None = None


class RehearsalOut(Wire):
    """key: by which the lines of its patterns are fetched. printer: the one that it was made for.

    prospects: where its troubles lie on the sheet, in their order, and what would mend them.
    """

    key: str
    printer: Printer
    manner: Manner
    report: RehearsalReport
    prospects: Prospects


class UnderwayQuery(Wire):
    revision: int


class UnderwayOut(Wire):
    """share: how much is done, 0 to 1, where it is known. first: by which the lowest layers are fetched once they are
    there, as a rehearsal of no more than these; printer: the one that it is made for.
    """

    share: float | None
    first: str | None
    printer: Printer


class RehearsalPath(Wire):
    key: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]


class PatternPath(Wire):
    key: Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]
    pattern: Annotated[int, Field(ge=0, le=100_000)]


class PrinterPath(Wire):
    printer: Key


class PrinterList(Wire):
    printers: list[Printer]
    presets: dict[str, Manner]
