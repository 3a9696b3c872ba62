"""Rehearsals in a worker: from the bytes of the file that leaves."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from drelo.core.errors import Refusal
from drelo.core.rehearsal.beds import on_beds
from drelo.core.rehearsal.settings import Manner, Printer, Spool
from drelo.core.rehearsal.troubles import troubles
from drelo.core.rehearsal.whole import rehearse
from drelo.core.solid.making import Body
from drelo.formats.rehearsal_out import RehearsalReport, pattern_json, report
from drelo.formats.threemf import read_3mf
from drelo.work.tasks import Checkpoint

# Between copies on a bed, mm.
SPACING = 5.0


@dataclass(frozen=True)
class Rehearsed:
    """A report, and the lines of its patterns as JSON."""

    report: RehearsalReport
    patterns: tuple[bytes, ...]


def rehearse_file(
    checkpoint: Checkpoint, data: bytes, shelf: Sequence[Spool], printer: Printer, manner: Manner, copies: int
) -> Rehearsed:
    """Print a 3MF. shelf: filaments, found by the colour of a body. Raises Refusal."""
    bodies = read_3mf(data)
    return rehearsed(checkpoint, bodies, [spool_of(body, shelf) for body in bodies], printer, manner, copies)


def rehearsed(
    checkpoint: Checkpoint,
    bodies: Sequence[Body],
    spools: Sequence[Spool],
    printer: Printer,
    manner: Manner,
    copies: int = 1,
) -> Rehearsed:
    """Print bodies, each of its spool. Raises Refusal."""
    meshes = [body.mesh for body in bodies]
    if not any(len(mesh.faces) for mesh in meshes):
        raise Refusal("There is nothing to print.")
    corners = np.vstack([mesh.vertices for mesh in meshes if len(mesh.vertices)]).astype(np.float64)
    low, high = corners.min(axis=0), corners.max(axis=0)
    places = on_beds((float(high[0] - low[0]), float(high[1] - low[1])), copies, printer, SPACING)
    found = rehearse(meshes, spools, printer, manner, [len(bed) for bed in places], checkpoint)
    checkpoint()
    wrong = troubles(meshes, found, printer, manner)
    return Rehearsed(report(found, spools, (low, high), wrong, places), tuple(map(pattern_json, found.patterns)))


def spool_of(body: Body, shelf: Sequence[Spool]) -> Spool:
    """The spool of a body's colour, else a plain one of that colour."""
    colour = body.colour.lower()
    same = next((spool for spool in shelf if spool.colour.lower() == colour), None)
    return same or Spool(name=body.name[:120] or "Filament", colour=colour)
