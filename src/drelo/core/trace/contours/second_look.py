"""Large pictures are looked at twice: lines through where the edges were seen take fewer curves than level lines do.

Level lines between pixels miss an edge by up to 0.09 px, in waves that grow long where it runs nearly along rows or
columns. On a small picture curves pass over them; on a large one they are as long as curves are.
"""

from __future__ import annotations

import numpy as np

from drelo.core.near import points_tree
from drelo.core.outline.cubics import Array
from drelo.core.trace.corners.corners import Corners
from drelo.core.trace.fit.curves import Cloud, Curves, Indices, place, unit
from drelo.core.trace.fit.refine import headings, joined, settle
from drelo.core.trace.fit.scene import Scene, observed
from drelo.core.trace.fit.segments import segment
from drelo.core.trace.fit.trust import Trust
from drelo.core.trace.seen.level_lines import ClosedLines
from drelo.core.trace.seen.samples import SPACING, Samples, sample

# At least so many points stand for a segment.
LEAST = 4


def seen_again(
    curves: Curves, cloud: Cloud, count: int, scene: Scene, scale: float, trust: Trust
) -> tuple[Curves, Cloud]:
    """First curves and their cloud, of `count` lines, made anew of lines through where the picture has its edges."""
    corner = curves.corner
    first = joined(settle(curves, cloud, 2))
    seen = observed(first, scene)
    points, line = _edge_points(first, seen)
    samples = sample(ClosedLines(points, np.searchsorted(line, np.arange(count + 1))))
    curves, cloud, _ = segment(samples, _corners(first, np.flatnonzero(corner), samples), scale, trust.tolerance, True)
    return curves, cloud


def _edge_points(curves: Curves, cloud: Cloud) -> tuple[Array, Indices]:
    """Points along the curves, each moved as far as the edge was seen beside it, shape (m, 2), and whose they are."""
    many = np.maximum(np.ceil(curves.lengths / SPACING), LEAST).astype(np.int64)
    owner = np.repeat(np.arange(len(curves)), many)
    first = np.cumsum(many) - many
    u = (np.arange(len(owner)) - first[owner]) / many[owner]
    on = place(curves, owner, u, first)
    shift = np.einsum("mi,mi->m", cloud.targets - cloud.probes.at, cloud.probes.normal)
    moved_by = np.interp(owner + u, cloud.probes.segment + cloud.probes.u, shift)
    return on.at + on.normal * moved_by[:, None], curves.line[owner]


def _corners(curves: Curves, at: Indices, samples: Samples) -> Corners:
    """The nodes `at` as corners of samples of the curves."""
    if not len(at):
        return Corners(at, np.zeros((0, 2)), np.zeros((0, 2)), np.zeros((0, 2)))
    into, out = headings(curves)
    sample_at, first = np.unique(points_tree(samples.points).query(curves.node[at])[1], return_index=True)
    at = at[first]
    return Corners(sample_at, curves.node[at], unit(into[at]), unit(out[at]))
