"""Many pieces on beds, one 3MF each."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from drelo.core.errors import Refusal
from drelo.core.rehearsal.packing import packed
from drelo.core.solid.mesh import Mesh
from drelo.formats.threemf import Body, write_3mf


@dataclass(frozen=True, eq=False)
class Laid:
    """A piece that is laid on a bed: its name, its bodies, and where its lower left corner lies, mm."""

    name: str
    bodies: tuple[Body, ...]
    at: tuple[float, float]


def lay_out(
    names: Sequence[str], sizes: Sequence[tuple[float, float]], bed: tuple[float, float], spacing: float
) -> list[list[tuple[int, float, float]]]:
    """Places on beds, (number, x, y) for each bed. Raises Refusal, naming the piece, when one does not fit."""
    for name, (width, depth) in zip(names, sizes, strict=True):
        if width > bed[0] or depth > bed[1]:
            raise Refusal(f"{name} is {width:.1f} × {depth:.1f} mm and does not fit the bed.", "bed")
    return packed(sizes, bed, spacing)


def write_bed(number: int, pieces: Iterable[Laid]) -> bytes:
    """The 3MF of a bed; it is called by its number."""
    bodies = [
        replace(body, name=f"{piece.name}: {body.name}", mesh=_moved(body.mesh, *piece.at))
        for piece in pieces
        for body in piece.bodies
    ]
    return write_3mf(bodies, {"Title": f"Bed {number}"})


def _moved(mesh: Mesh, x: float, y: float) -> Mesh:
    # On whole steps of a coarse power of two 32-bit floats add without rounding.
    step = np.round(np.array([x, y, 0.0]) * 1024) / 1024
    return Mesh((mesh.vertices.astype(np.float64) + step).astype(np.float32), mesh.faces)
