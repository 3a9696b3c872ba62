"""Many pieces on beds, one 3MF each."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from drelo.core.errors import Refusal
from drelo.core.rehearsal.packing import packed
from drelo.core.solid.mesh import Mesh
from drelo.formats.threemf import Body, write_3mf


@dataclass(frozen=True, eq=False)
class Laid:
    """A piece that is laid on a bed: its name, its bodies, and its width and depth, mm."""

    name: str
    bodies: tuple[Body, ...]
    size: tuple[float, float]


def write_beds(pieces: Sequence[Laid], bed: tuple[float, float], spacing: float) -> dict[str, bytes]:
    """A 3MF for each bed by its file name. Raises Refusal, naming the piece, when one is larger than the bed."""
    for piece in pieces:
        if piece.size[0] > bed[0] or piece.size[1] > bed[1]:
            raise Refusal(
                f"{piece.name} is {piece.size[0]:.1f} × {piece.size[1]:.1f} mm and does not fit the bed.", "bed"
            )
    result = {}
    for number, places in enumerate(packed([p.size for p in pieces], bed, spacing)):
        bodies = [
            replace(body, name=f"{pieces[i].name}: {body.name}", mesh=_moved(body.mesh, x, y))
            for i, x, y in places
            for body in pieces[i].bodies
        ]
        result[f"bed-{number + 1}.3mf"] = write_3mf(bodies, {"Title": f"Bed {number + 1}"})
    return result


def _moved(mesh: Mesh, x: float, y: float) -> Mesh:
    # On whole steps of a coarse power of two 32-bit floats add without rounding.
    step = np.round(np.array([x, y, 0.0]) * 1024) / 1024
    return Mesh((mesh.vertices.astype(np.float64) + step).astype(np.float32), mesh.faces)
