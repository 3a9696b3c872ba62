"""Rehearsals: made of the very bytes that leave, once, and kept by all that they follow from."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from functools import partial

from pydantic import BaseModel, ConfigDict

from drelo.application.bench import Bench
from drelo.application.products import IN_PASSING, JSON, product, product_key
from drelo.core.errors import Refusal
from drelo.core.piece.document import Document
from drelo.core.piece.prospects import Prospects
from drelo.core.rehearsal.settings import Manner, Printer, Spool
from drelo.formats.rehearsal_out import RehearsalReport, trouble_of
from drelo.work import rehearsing, tasks
from drelo.work.rehearsing import Rehearsed
from drelo.work.workers import heard, lane_of

# Curves of a file that is rehearsed keep so near to their truth, mm.
WITHIN = 0.008


def printer_of(bench: Bench, identifier: str) -> Printer:
    """The printer of that name, else the first one on the shelf."""
    return bench.printers.get(identifier) or bench.printers.all()[0]


def manner_of(document: Document) -> Manner:
    """How a piece is printed; its layer is the one that its heights are drawn for."""
    return document.printing.manner.model_copy(update={"layer": document.layer})


def spools_of(bench: Bench, document: Document) -> list[Spool]:
    """The piece's filaments, with what is left of them on the shelf."""
    left = {filament.id: weighed for filament, weighed in bench.filaments.spools()}
    return [
        Spool(
            name=f.title,
            colour=f.colour,
            material=f.material,
            density=f.density,
            diameter=f.diameter,
            price=f.price,
            left=left.get(f.id),
        )
        for f in document.filaments
    ]


def rehearsal(
    bench: Bench, piece: str, document: Document, title: str, printer: Printer, manner: Manner, copies: int
) -> tuple[str, RehearsalReport]:
    """The key of a rehearsal and its report; a newer one of the piece supersedes it. Raises Refusal."""
    file, _ = product(bench, piece, document, "3mf", WITHIN, title, lane="rehearsal")
    return rehearsal_of_file(bench, piece, file, spools_of(bench, document), printer, manner, copies)


def rehearsal_of_file(
    bench: Bench,
    name: str,
    file: str,
    spools: list[Spool],
    printer: Printer,
    manner: Manner,
    copies: int,
    as_placed: bool = False,
) -> tuple[str, RehearsalReport]:
    """The rehearsal of a file that is kept, by its key. name: of what asks; as_placed: it is printed where it lies."""
    key = _key(file, spools, printer, manner, copies, as_placed)
    known = bench.derived.get(key)
    if known is not None:
        told = RehearsalReport.model_validate_json(known[0])
        # The oldest bytes are taken away first: lines may be gone where their report is not.
        if bench.derived.has(*keys_of(key, told)):
            return key, told
    found = bench.derived.get(file)
    if found is None:
        raise Refusal("rehearsal.file-cleared")
    # What an older one told may be half cleared away.
    _put_underway(bench, key, Underway())
    hearing = heard.set(partial(_hear, bench, key, []))
    try:
        made = bench.pool.run(
            name,
            rehearsing.rehearse_file,
            found[0],
            spools,
            printer,
            manner,
            copies,
            as_placed,
            lane=lane_of("rehearsal"),
            aside=True,
        )
    finally:
        heard.reset(hearing)
    _keep(bench, key, made)
    return key, made.report


class Underway(BaseModel):
    """A rehearsal that goes on. share: how much is done, 0 to 1. first: by which its lowest layers are fetched."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    share: float | None = None
    first: str | None = None


def underway(bench: Bench, document: Document, title: str, printer: Printer, manner: Manner, copies: int) -> Underway:
    """How far the rehearsal of a piece is; nothing is known of it where it goes on on another machine."""
    file = product_key(document, "3mf", WITHIN, title)
    found = bench.derived.get(_beside(_key(file, spools_of(bench, document), printer, manner, copies, False)))
    return Underway() if found is None else Underway.model_validate_json(found[0])


def _hear(bench: Bench, key: str, first: list[str], told: Rehearsed | float) -> None:
    """Keep what a rehearsal tells while it goes on. first: what it has told of its lowest layers, by their key."""
    if isinstance(told, Rehearsed):
        first.append(_first(key))
        _keep(bench, first[0], told)
    share = told if isinstance(told, float) else None
    _put_underway(bench, key, Underway(share=share, first=first[0] if first else None))


def _put_underway(bench: Bench, key: str, known: Underway) -> None:
    bench.derived.put(_beside(key), known.model_dump_json().encode(), JSON, IN_PASSING)


def _keep(bench: Bench, key: str, made: Rehearsed) -> None:
    lines = {pattern_key(key, number): lines for number, lines in enumerate(made.patterns)}
    bench.derived.put_all(lines, JSON, IN_PASSING)
    bench.derived.put(key, made.report.model_dump_json().encode(), JSON, IN_PASSING)


def _key(file: str, spools: Sequence[Spool], printer: Printer, manner: Manner, copies: int, as_placed: bool) -> str:
    """Names a rehearsal by all that it follows from."""
    settings = [printer.model_dump_json(), manner.model_dump_json(), *[s.model_dump_json() for s in spools]]
    follows = [file, *settings, copies, as_placed]
    return hashlib.sha256(f"rehearsal 7 {follows}".encode()).hexdigest()


def _first(key: str) -> str:
    """Names the lowest layers of a rehearsal."""
    return hashlib.sha256(f"first {key}".encode()).hexdigest()


def _beside(key: str) -> str:
    """Names what is known of a rehearsal while it goes on."""
    return hashlib.sha256(f"underway {key}".encode()).hexdigest()


def prospects_of(
    bench: Bench, piece: str, document: Document, report: RehearsalReport, manner: Manner, printer: Printer
) -> Prospects:
    """What a rehearsal found, on the sheet, with its mends. Raises Refusal."""
    found = [trouble_of(trouble, report.corner) for trouble in report.troubles]
    return bench.work(piece, tasks.prospects, document, found, manner, printer.nozzle, lane="prospects", aside=True)


def keys_of(key: str, told: RehearsalReport) -> list[str]:
    """All that is kept of a rehearsal."""
    return [key, *(pattern_key(key, number) for number in range(told.patterns))]


def pattern_key(key: str, number: int) -> str:
    """Names the lines of a pattern of a rehearsal."""
    return hashlib.sha256(f"pattern {key} {number}".encode()).hexdigest()
