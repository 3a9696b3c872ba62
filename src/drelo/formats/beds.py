"""Pieces laid on beds, one 3MF each."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.errors import Refusal
from drelo.core.rehearsal.nesting import Place, nested
from drelo.core.solid.making import Body
from drelo.core.solid.mesh import Mesh
from drelo.formats.threemf import write_3mf

# Places are whole steps of a power of two, which 32-bit floats add without rounding.
STEP = 1024.0


@dataclass(frozen=True, eq=False)
class Laid:
    """A piece that is laid on a bed: its name, its bodies, and where it lies."""

    name: str
    bodies: tuple[Body, ...]
    place: Place


def lay_out(
    names: Sequence[str], outlines: Sequence[BaseGeometry], bed: tuple[float, float], spacing: float
) -> list[list[tuple[int, Place]]]:
    """Places on beds, (number, place) for each bed. Raises Refusal, naming the piece, when one does not fit."""
    whole = shapely.box(0, 0, *bed)
    found = nested(outlines, whole, spacing)
    if found is None:
        for name, outline in zip(names, outlines, strict=True):
            if nested([outline], whole, 0.0) is None:
                wide, deep = outline.bounds[2], outline.bounds[3]
                raise Refusal("bed.piece-too-large", "bed", name=name, wide=wide, deep=deep)
        raise Refusal("bed.too-many-pieces", "bed")
    beds: list[list[tuple[int, Place]]] = [[] for _ in range(max((p.bed for p in found), default=-1) + 1)]
    for number, place in enumerate(found):
        beds[place.bed].append((number, place))
    return beds


def write_bed(
    title: str,
    pieces: Iterable[Laid],
    metadata: Mapping[str, str] | None = None,
    materials: Mapping[str, str] | None = None,
) -> bytes:
    """The 3MF of a bed as placed: each thing of each piece can be moved by itself."""
    bodies: list[Body] = []
    titles: dict[int, str] = {}
    for piece in pieces:
        mine = [body for body in piece.bodies if len(body.mesh.faces)]
        low = np.vstack([body.mesh.vertices for body in mine]).astype(np.float64).min(axis=0)
        number: dict[int, int] = {}
        for body in mine:
            if body.thing not in number:
                number[body.thing] = len(titles)
                titles[len(titles)] = f"{piece.name}: {body.name}" if len(number) > 1 else piece.name
            mesh = _laid(body.mesh, low, piece.place)
            bodies.append(replace(body, name=f"{piece.name}: {body.name}", mesh=mesh, thing=number[body.thing]))
    return write_3mf(bodies, {"Title": title, **(metadata or {})}, materials=materials, titles=titles)


def _laid(mesh: Mesh, low: np.ndarray, place: Place) -> Mesh:
    """A mesh turned about its piece's corner and moved to its place; not turned, no coordinate is rounded."""
    points = mesh.vertices.astype(np.float64) - low
    if place.turn:
        cos, sin = np.cos(place.turn), np.sin(place.turn)
        x, y = points[:, 0].copy(), points[:, 1].copy()
        points[:, 0], points[:, 1] = x * cos - y * sin, x * sin + y * cos
    points[:, :2] += np.round(np.array([place.x, place.y]) * STEP) / STEP
    return Mesh(points.astype(np.float32), mesh.faces)
