"""Blueprint: rehearsals on a simulated printer, and printers."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint, Tag

from drelo.application.products import JSON
from drelo.application.rehearsals import manner_of, pattern_key, printer_of, prospects_of, rehearsal, underway
from drelo.core.errors import Refusal
from drelo.core.rehearsal.settings import PRESETS, Printer
from drelo.formats.rehearsal_out import RehearsalReport
from drelo.web.bench import bench
from drelo.web.derived import may_have, told
from drelo.web.problems import problem
from drelo.web.replies import reply, unchanging
from drelo.web.schemas.base import PiecePath, Problem
from drelo.web.schemas.rehearsal import (
    PatternPath,
    PrinterList,
    PrinterPath,
    RehearsalOut,
    RehearsalPath,
    RehearsalRequest,
    UnderwayOut,
    UnderwayQuery,
)

blueprint = APIBlueprint(
    "rehearsals",
    __name__,
    url_prefix="/api",
    abp_tags=[Tag(name="rehearsals")],
    abp_responses={404: Problem, 422: Problem},
)


@blueprint.post("/pieces/<piece_id>/rehearsal", operation_id="rehearse", responses={200: RehearsalOut, 409: Problem})
def rehearse(path: PiecePath, body: RehearsalRequest) -> Response:
    """Print the file of a revision on a simulated printer. A newer rehearsal of the piece supersedes this one."""
    document = bench().pieces.at(path.piece_id, body.revision)
    printing = document.printing
    printer = printer_of(bench(), body.printer or printing.printer)
    manner = body.manner or manner_of(document)
    title = bench().pieces.title(path.piece_id)
    copies = body.copies or printing.copies
    key, report = rehearsal(bench(), path.piece_id, document, title, printer, manner, copies)
    prospects = prospects_of(bench(), path.piece_id, document, report, manner, printer)
    return reply(
        RehearsalOut(key=told(key, path.piece_id), printer=printer, manner=manner, report=report, prospects=prospects)
    )


@blueprint.get("/pieces/<piece_id>/rehearsal", operation_id="rehearsalUnderway", responses={200: UnderwayOut})
def underway_of(path: PiecePath, query: UnderwayQuery) -> Response:
    """How far the rehearsal of a revision is that goes on."""
    document = bench().pieces.at(path.piece_id, query.revision)
    printing = document.printing
    printer = printer_of(bench(), printing.printer)
    title = bench().pieces.title(path.piece_id)
    known = underway(bench(), document, title, printer, manner_of(document), printing.copies)
    first = None if known.first is None else told(known.first, path.piece_id)
    return reply(UnderwayOut(share=known.share, first=first, printer=printer))


@blueprint.get("/rehearsals/<key>/patterns/<int:pattern>", operation_id="pattern", responses={200: None})
def pattern(path: PatternPath) -> Response:
    """The lines of a pattern of a rehearsal, as JSON."""
    found = bench().derived.get(pattern_key(path.key, path.pattern))
    if found is None or not may_have(path.key):
        return problem(404, Refusal("rehearsal.cleared"))
    return unchanging(*found)


@blueprint.get("/rehearsals/<key>", operation_id="keptRehearsal", responses={200: RehearsalReport})
def kept(path: RehearsalPath) -> Response:
    """A rehearsal that was made, as long as it is kept."""
    found = bench().derived.get(path.key)
    if found is None or found[1] != JSON or not may_have(path.key):
        return problem(404, Refusal("rehearsal.cleared"))
    return unchanging(*found)


@blueprint.get("/printers", operation_id="printers", responses={200: PrinterList})
def printers() -> Response:
    """Every printer, the oldest first, and the presets of how to print."""
    return _printers()


@blueprint.put("/printers/<printer>", operation_id="putPrinter", responses={200: PrinterList})
def put(path: PrinterPath, body: Printer) -> Response:
    """Add a printer, or change one."""
    if body.thinnest_layer > body.thickest_layer:
        raise Refusal("printer.layers-swapped", "thinnest_layer")
    bench().printers.put(body.model_copy(update={"id": path.printer}))
    return _printers()


@blueprint.delete("/printers/<printer>", operation_id="dropPrinter", responses={200: PrinterList})
def drop(path: PrinterPath) -> Response:
    """Remove a printer; the last one stays."""
    bench().printers.drop(path.printer)
    return _printers()


def _printers() -> Response:
    return reply(PrinterList(printers=bench().printers.all(), presets=PRESETS))
