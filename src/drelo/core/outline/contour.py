"""A contour: one run of lines and cubic Béziers, closed or open."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

Points = NDArray[np.float64]
"""Array of shape (n, 2): x, y."""
Matrix = tuple[float, float, float, float, float, float]
"""An affine map as SVG writes it: a, b, c, d, e, f."""


@dataclass(frozen=True, eq=False)
class Contour:
    """Cubic segments end to end.

    curves: shape (n, 4, 2): start, two handles, end; each start equals the end before it.
    straight: shape (n,) of bool: which segments are lines (their handles stand at the thirds).
    closed: whether the last end equals the first start.

    Units are those of the maker of the contour: px after a trace, mm on the bench.
    """

    curves: NDArray[np.float64]
    straight: NDArray[np.bool_]
    closed: bool = True

    def __len__(self) -> int:
        return len(self.curves)

    @cached_property
    def area(self) -> float:
        """Signed area by Green's theorem, exact for cubics; positive when counter-clockwise with y up."""
        p = self.curves
        x, y = p[..., 0], p[..., 1]
        # The integral of x dy - y dx over one cubic, as a bilinear form in its control points.
        m = np.array([[0, 6, 3, 1], [-6, 0, 3, 3], [-3, -3, 0, 6], [-1, -3, -6, 0]]) / 10.0
        twice = np.einsum("ni,ij,nj->", x, m, y)
        if not self.closed and len(p):
            a, b = p[-1, 3], p[0, 0]
            twice += a[0] * b[1] - a[1] * b[0]
        return float(twice) / 2

    @cached_property
    def bounds(self) -> tuple[float, float, float, float]:
        """Tight box: min x, min y, max x, max y."""
        p0, p1, p2, p3 = (self.curves[:, i] for i in range(4))
        a, b, c = p3 - 3 * p2 + 3 * p1 - p0, 2 * (p2 - 2 * p1 + p0), p1 - p0
        with np.errstate(divide="ignore", invalid="ignore"):
            root = np.sqrt(np.maximum(b * b - 4 * a * c, 0))
            turns = np.stack([(-b + root) / (2 * a), (-b - root) / (2 * a), -c / b])
        turns = np.where(np.isfinite(turns), np.clip(turns, 0, 1), 0)
        u = 1 - turns
        extreme = u**3 * p0 + 3 * u * u * turns * p1 + 3 * u * turns**2 * p2 + turns**3 * p3
        every = np.concatenate([extreme.reshape(-1, 2), p0, p3])
        low, high = every.min(0), every.max(0)
        return float(low[0]), float(low[1]), float(high[0]), float(high[1])

    def transformed(self, scale: float, dx: float = 0.0, dy: float = 0.0, flip_y: bool = False) -> Contour:
        """Scaled about the origin (y mirrored when asked), then moved."""
        factor = np.array([scale, -scale if flip_y else scale])
        return Contour(self.curves * factor + np.array([dx, dy]), self.straight, self.closed)

    def mapped(self, matrix: Matrix) -> Contour:
        """Under an affine map: x' = a x + c y + e, y' = b x + d y + f, given as (a, b, c, d, e, f)."""
        a, b, c, d, e, f = matrix
        x, y = self.curves[..., 0], self.curves[..., 1]
        return Contour(np.stack([a * x + c * y + e, b * x + d * y + f], axis=-1), self.straight, self.closed)

    def reversed(self) -> Contour:
        """The same contour run the other way."""
        return Contour(self.curves[::-1, ::-1], self.straight[::-1], self.closed)

    def flattened(self, tolerance: float) -> Points:
        """Corners of a polyline within `tolerance` of the contour; a closed one does not repeat its start."""
        return flattened([self], tolerance)[0]

    def path_data(self, digits: int = 4) -> str:
        """SVG path data: M, L, C and, when closed, Z; absolute."""
        if not len(self.curves):
            return ""
        # Adding zero turns -0.0 into 0.0.
        p = np.round(self.curves, digits) + 0.0
        parts = [f"M{p[0, 0, 0].item()!r} {p[0, 0, 1].item()!r}"]
        rows = p[:, 1:].reshape(-1, 6).tolist()
        straight = self.straight.tolist()
        if self.closed and straight[-1]:
            # Z draws the last line.
            rows.pop()
        for (a, b, c, d, x, y), line in zip(rows, straight, strict=False):
            parts.append(f"L{x!r} {y!r}" if line else f"C{a!r} {b!r} {c!r} {d!r} {x!r} {y!r}")
        parts.append("Z" if self.closed else "")
        return _WHOLE.sub("", "".join(parts))


_WHOLE = re.compile(r"\.0(?=[ LCZ]|$)")


def polygon(points: Points) -> Contour:
    """A closed contour of lines through the points, shape (n, 2)."""
    ends = np.roll(points, -1, axis=0)
    curves = np.stack([points, points + (ends - points) / 3, ends - (ends - points) / 3, ends], axis=1)
    return Contour(curves, np.ones(len(points), bool))


def flattened(contours: Sequence[Contour], tolerance: float) -> list[Points]:
    """Each contour's corners of a polyline that stays within `tolerance` of it, all worked out at once.

    The number of steps a segment follows from its largest second derivative (Wang's bound).
    """
    some = [c for c in contours if len(c)]
    if not some:
        return [np.empty((0, 2)) for _ in contours]
    p = np.concatenate([c.curves for c in some])
    bend = np.maximum(_lengths(p[:, 0] - 2 * p[:, 1] + p[:, 2]), _lengths(p[:, 1] - 2 * p[:, 2] + p[:, 3]))
    steps = np.ceil(np.sqrt(0.75 * bend / tolerance)).astype(np.int64).clip(1)
    steps[np.concatenate([c.straight for c in some])] = 1
    ends = np.cumsum(steps)
    segment = np.repeat(np.arange(len(p)), steps)
    t = (np.arange(len(segment)) - (ends - steps)[segment]) / steps[segment]
    u = 1 - t
    points = np.zeros((len(segment), 2))
    for corner, share in enumerate((u**3, 3 * u * u * t, 3 * u * t * t, t**3)):
        for axis in range(2):
            points[:, axis] += share * p[segment, corner, axis]
    cuts = ends[np.cumsum([len(c) for c in some]) - 1]
    lines = iter(np.split(points, cuts[:-1]))
    result = []
    for contour in contours:
        line = next(lines) if len(contour) else np.empty((0, 2))
        result.append(line if contour.closed or not len(contour) else np.concatenate([line, contour.curves[-1:, 3]]))
    return result


def _lengths(ways: Points) -> NDArray[np.float64]:
    return np.hypot(ways[:, 0], ways[:, 1])
