"""Rehearsals: made of the very bytes that leave, once, and kept by all that they follow from."""

from __future__ import annotations

import hashlib

from drelo.application.bench import Bench
from drelo.application.products import JSON, product
from drelo.core.errors import Refusal
from drelo.core.piece.document import Document
from drelo.core.piece.prospects import Prospects
from drelo.core.rehearsal.settings import Manner, Printer, Spool
from drelo.formats.rehearsal_out import RehearsalReport, trouble_of
from drelo.work import rehearsing, tasks

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
    follows = [
        file,
        printer.model_dump_json(),
        manner.model_dump_json(),
        *[s.model_dump_json() for s in spools],
        copies,
        as_placed,
    ]
    key = hashlib.sha256(f"rehearsal 5 {follows}".encode()).hexdigest()
    known = bench.derived.get(key)
    if known is not None:
        told = RehearsalReport.model_validate_json(known[0])
        # The oldest bytes are taken away first: lines may be gone where their report is not.
        if all(bench.derived.has(pattern_key(key, number)) for number in range(told.patterns)):
            return key, told
    found = bench.derived.get(file)
    if found is None:
        raise Refusal("rehearsal.file-cleared")
    made = bench.pool.run(
        name,
        rehearsing.rehearse_file,
        found[0],
        spools,
        printer,
        manner,
        copies,
        as_placed,
        lane="rehearsal",
        aside=True,
    )
    for number, lines in enumerate(made.patterns):
        bench.derived.put(pattern_key(key, number), lines, JSON)
    bench.derived.put(key, made.report.model_dump_json().encode(), JSON)
    return key, made.report


def prospects_of(
    bench: Bench, piece: str, document: Document, report: RehearsalReport, manner: Manner, printer: Printer
) -> Prospects:
    """What a rehearsal found, on the sheet, with its mends. Raises Refusal."""
    found = [trouble_of(trouble, report.corner) for trouble in report.troubles]
    return bench.work(piece, tasks.prospects, document, found, manner, printer.nozzle, lane="prospects", aside=True)


def pattern_key(key: str, number: int) -> str:
    """Names the lines of a pattern of a rehearsal."""
    return hashlib.sha256(f"pattern {key} {number}".encode()).hexdigest()
