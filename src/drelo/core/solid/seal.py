"""The seal: is a mesh, as it was read back from its file, one that a slicer accepts as it stands?"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from drelo.core.solid.crossing import first_crossing
from drelo.core.solid.mesh import Mesh
from drelo.core.solid.upright import surely_sealed


@dataclass(frozen=True)
class Seal:
    """What was found.

    problems: one sentence a kind of fault; none means sealed. parts: connected solids.
    volume mm³, area mm², size mm along x, y, z.
    """

    problems: tuple[str, ...]
    triangles: int
    parts: int
    volume: float
    area: float
    size: tuple[float, float, float]

    @property
    def sealed(self) -> bool:
        return not self.problems


def check_seal(mesh: Mesh) -> Seal:
    """Test a welded mesh: every edge with two faces, oppositely directed; no degenerate or doubled faces;
    every shell facing outward, or inward round a cavity; no crossing and no overlap."""
    problems = []
    if not len(mesh.faces):
        problems.append("There are no triangles in it.")
        return Seal(tuple(problems), 0, 0, 0.0, 0.0, (0.0, 0.0, 0.0))
    if not np.isfinite(mesh.vertices).all():
        problems.append("Some coordinates are not numbers.")
        return Seal(tuple(problems), len(mesh.faces), 0, 0.0, 0.0, (0.0, 0.0, 0.0))
    if surely_sealed(mesh):
        parts = int((np.bincount(mesh.shells(), mesh.volumes) > 0).sum())
        return Seal((), len(mesh.faces), parts, mesh.volume, mesh.area, mesh.size)
    degenerate = _degenerate(mesh)
    if degenerate.any():
        problems.append(
            f"{_count(int(degenerate.sum()), 'triangle')} without area, the first at {_spot(mesh, degenerate)}."
        )
    doubled = _doubled(mesh)
    if doubled.any():
        problems.append(
            f"{_count(int(doubled.sum()), 'triangle')} twice in the file, the first at {_spot(mesh, doubled)}."
        )
    problems += _edge_problems(mesh)
    parts = 0
    if not problems:
        parts, turned = _shell_sides(mesh)
        problems += turned
    if not problems:
        pair = first_crossing(mesh)
        if pair is not None:
            at = np.zeros(len(mesh.faces), bool)
            at[pair[0]] = True
            problems.append(f"Its surface runs through itself or overlaps, first found at {_spot(mesh, at)}.")
    return Seal(tuple(problems), len(mesh.faces), parts, mesh.volume, mesh.area, mesh.size)


def _count(number: int, noun: str) -> str:
    return f"{number} {noun}{'' if number == 1 else 's'}"


def _spot(mesh: Mesh, which: NDArray[np.bool_]) -> str:
    x, y, z = mesh.vertices[mesh.faces[int(np.argmax(which))]].astype(np.float64).mean(axis=0)
    return f"x {x:.3f}, y {y:.3f}, z {z:.3f} mm"


def _degenerate(mesh: Mesh) -> NDArray[np.bool_]:
    f = mesh.faces
    same = (f[:, 0] == f[:, 1]) | (f[:, 1] == f[:, 2]) | (f[:, 2] == f[:, 0])
    a, b, c = np.moveaxis(mesh.corners, 1, 0)
    # Differences of 32-bit floats are exact in doubles, and so is a cross product that vanishes on the grid.
    return np.asarray(same | (np.cross(b - a, c - a) == 0).all(axis=1))


def _doubled(mesh: Mesh) -> NDArray[np.bool_]:
    ordered = np.sort(mesh.faces, axis=1)
    order = np.lexsort(ordered.T)
    again = np.zeros(len(ordered), bool)
    again[order[1:]] = (ordered[order[1:]] == ordered[order[:-1]]).all(axis=1)
    return again


def _edge_problems(mesh: Mesh) -> list[str]:
    f = mesh.faces.astype(np.int64)
    start, end = f.ravel(), np.roll(f, -1, axis=1).ravel()
    count = len(mesh.vertices)
    low, high = np.minimum(start, end), np.maximum(start, end)
    names, edge, uses = np.unique(low * count + high, return_inverse=True, return_counts=True)
    forward = np.bincount(edge, start < end, minlength=len(names))
    result = []
    for wrong, text in (
        (uses == 1, "{} with a face on one side only: there is a hole, the first at {}."),
        (uses > 2, "{} with more than two faces, the first at {}."),
        (
            (uses == 2) & (forward != 1),
            "{} between faces that are turned against each other, the first at {}.",
        ),
    ):
        if wrong.any():
            first = names[int(np.argmax(wrong))]
            x, y, z = mesh.vertices[[first // count, first % count]].astype(np.float64).mean(axis=0)
            result.append(text.format(_count(int(wrong.sum()), "edge"), f"x {x:.3f}, y {y:.3f}, z {z:.3f} mm"))
    return result


def _shell_sides(mesh: Mesh) -> tuple[int, list[str]]:
    """Number of solids, and what is wrong with the sides that shells face."""
    shell = mesh.shells()
    volumes = np.bincount(shell, mesh.volumes)
    count = len(volumes)
    corners = mesh.corners - mesh.vertices[0].astype(np.float64)
    outward = np.flatnonzero(volumes > 0)
    low, high = np.full((count, 3), np.inf), np.full((count, 3), -np.inf)
    for k in range(3):
        np.minimum.at(low, shell, corners[:, k])
        np.maximum.at(high, shell, corners[:, k])
    wrong = 0
    for s in np.flatnonzero(volumes <= 0):
        # A shell that faces inward bounds a cavity when it lies within one that faces outward.
        inside = (low[outward] <= low[s]).all(axis=1) & (high[outward] >= high[s]).all(axis=1)
        if volumes[s] == 0 or not (inside & (volumes[outward] > -volumes[s])).any():
            wrong += 1
    problems = [f"{_count(wrong, 'shell')} facing inward: turned inside out."] if wrong else []
    return len(outward), problems
