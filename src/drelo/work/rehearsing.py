"""Rehearsals in a worker: from the bytes of the file that leaves."""

from __future__ import annotations

import re
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import affinity
from shapely.geometry.base import BaseGeometry

from drelo.core.errors import Refusal
from drelo.core.rehearsal.beds import on_beds
from drelo.core.rehearsal.layers import Slices, shadow, sliced
from drelo.core.rehearsal.nesting import Place
from drelo.core.rehearsal.settings import Manner, Printer, Spool
from drelo.core.rehearsal.troubles import Trouble, troubles
from drelo.core.rehearsal.whole import Checkpoint, Progress, Rehearsal, rehearse_slices
from drelo.core.solid.making import Body
from drelo.core.solid.mesh import Mesh, side_by_side
from drelo.formats.rehearsal_out import RehearsalReport, pattern_json, report
from drelo.formats.threemf import read_3mf
from drelo.work.workers import Watch

# Between copies on a bed, mm.
SPACING = 5.0
# Outlines are packed as exactly as this, mm.
ROUGHLY = 0.05
# How much of the work is done when layers are cut, and when they are laid; how much is done is told so often, s.
CUT, LAID, AGAIN = 0.2, 0.7, 0.3
COLOUR = re.compile("#[0-9a-f]{6}")


@dataclass(frozen=True)
class Rehearsed:
    """A report, and the lines of its patterns as JSON."""

    report: RehearsalReport
    patterns: tuple[bytes, ...]


Tell = Callable[[Rehearsed | float], None]
"""Takes what is known while a rehearsal goes on: the lowest layers, and again and again how much is done, 0 to 1."""


def _untold(_what: Rehearsed | float) -> None:
    """Where nobody wants to know."""


def rehearse_file(
    checkpoint: Watch,
    data: bytes,
    shelf: Sequence[Spool],
    printer: Printer,
    manner: Manner,
    copies: int,
    as_placed: bool = False,
) -> Rehearsed:
    """Print a 3MF. shelf: filaments, found by the colour of a body. as_placed: where it lies. Raises Refusal."""
    bodies = read_3mf(data)
    spools = [spool_of(body, shelf) for body in bodies]
    return rehearsed(checkpoint, bodies, spools, printer, manner, copies, as_placed, checkpoint.tell)


def rehearsed(
    checkpoint: Checkpoint,
    bodies: Sequence[Body],
    spools: Sequence[Spool],
    printer: Printer,
    manner: Manner,
    copies: int = 1,
    as_placed: bool = False,
    tell: Tell = _untold,
) -> Rehearsed:
    """Print bodies, each of its spool. Raises Refusal."""
    found, told = printed(bodies, spools, printer, manner, copies, checkpoint, as_placed, tell)
    return _sent(found, told)


def _sent(found: Rehearsal, told: RehearsalReport) -> Rehearsed:
    return Rehearsed(told, tuple(map(pattern_json, found.patterns)))


def printed(
    bodies: Sequence[Body],
    spools: Sequence[Spool],
    printer: Printer,
    manner: Manner,
    copies: int = 1,
    checkpoint: Checkpoint = lambda: None,
    as_placed: bool = False,
    tell: Tell = _untold,
) -> tuple[Rehearsal, RehearsalReport]:
    """The rehearsal of bodies, each of its spool, and what is told of it. Raises Refusal.

    as_placed: the one copy lies where the file has it.
    """
    follow = _Follow(tell)
    if not any(len(body.mesh.faces) for body in bodies):
        raise Refusal("rehearsal.empty")
    # Bodies that lie beside each other may be of one spool.
    own = list(dict.fromkeys(spools))
    numbers = [own.index(spool) for spool in spools]
    cut = _cut(tuple(bodies), tuple(numbers), Manner(layer=manner.layer, first_layer=manner.first_layer))
    low = cut.box[0]
    if as_placed:
        places = [[Place(0, float(low[0]), float(low[1]), 0.0)]]
    else:
        places = on_beds(affinity.translate(cut.outline, -low[0], -low[1]), copies, printer, SPACING)

    def told(what: Rehearsal, of_it: Sequence[Trouble] = ()) -> RehearsalReport:
        return report(what, own, cut.box, of_it, places, cut.outline, printer.id)

    follow.reached(CUT)
    progress = Progress(
        checkpoint, lambda share: follow.reached(CUT + (LAID - CUT) * share), lambda low: tell(_sent(low, told(low)))
    )
    found = rehearse_slices(cut.slices, own, printer, manner, [len(bed) for bed in places], progress)
    checkpoint()
    looked = troubles(
        cut.meshes, found, printer, manner, cut.things, lambda share: follow.reached(LAID + (1 - LAID) * share)
    )
    return found, told(found, looked)


@dataclass(frozen=True, eq=False)
class _Cut:
    """Bodies in layers. meshes, slices: by their spools. things: what is solid of each that hangs together, by layer.

    outline: seen from above. box: its lowest and its highest corner, mm.
    """

    meshes: Sequence[Mesh]
    slices: Slices
    things: Sequence[Sequence[BaseGeometry]]
    outline: BaseGeometry
    box: tuple[NDArray[np.float64], NDArray[np.float64]]


@lru_cache(maxsize=1)
def _cut(bodies: tuple[Body, ...], numbers: tuple[int, ...], layers: Manner) -> _Cut:
    """Bodies cut. numbers: of the spool of each. Kept, for mostly another setting is changed next."""
    spools = range(max(numbers) + 1)
    meshes = [side_by_side([b.mesh for b, n in zip(bodies, numbers, strict=True) if n == k]) for k in spools]
    corners = np.vstack([mesh.vertices for mesh in meshes if len(mesh.vertices)]).astype(np.float64)
    cut = sliced([body.mesh for body in bodies], layers)
    slices, things = cut.together(numbers), cut.together(_counted([body.thing for body in bodies])).areas
    outline = shapely.simplify(shadow(slices), ROUGHLY)
    return _Cut(meshes, slices, things, outline, (corners.min(axis=0), corners.max(axis=0)))


class _Follow:
    """Tells how much is done, now and then."""

    def __init__(self, tell: Tell) -> None:
        self._tell, self._told = tell, time.monotonic()

    def reached(self, share: float) -> None:
        now = time.monotonic()
        if now - self._told > AGAIN:
            self._told = now
            self._tell(share)


def _counted(names: Sequence[int]) -> list[int]:
    """Equal ones by one number, from 0."""
    seen = list(dict.fromkeys(names))
    return [seen.index(name) for name in names]


def spool_of(body: Body, shelf: Sequence[Spool]) -> Spool:
    """The spool of a body's colour, else a plain one of that colour."""
    colour = body.colour.lower()
    same = next((spool for spool in shelf if spool.colour.lower() == colour), None)
    # An STL tells no colour; what one filament is named for all is then the only one.
    if same is None and not colour and len(shelf) == 1:
        return shelf[0]
    plain = Spool(name=body.name[:120] or "Filament")
    return same or (plain.model_copy(update={"colour": colour}) if COLOUR.fullmatch(colour) else plain)
