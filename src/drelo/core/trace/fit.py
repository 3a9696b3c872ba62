"""From level lines to fitted contours."""

from __future__ import annotations

import itertools
from dataclasses import dataclass

import numpy as np

from drelo.core.outline.contour import Contour
from drelo.core.trace.corners import find_corners
from drelo.core.trace.coverage import between
from drelo.core.trace.level_lines import ClosedLines
from drelo.core.trace.merge import merged
from drelo.core.trace.refine import Scene, blur_between, joined, observed, settle
from drelo.core.trace.samples import Samples, sample
from drelo.core.trace.segments import segment

ROUNDS = 1
# Share of the tolerance that curves may miss by, root mean square, for the sake of fewer nodes.
MERGE_SHARE = 0.2
# Slope over one pixel across the edge of a clean antialiased picture.
PLAIN_SLOPE = 0.78
# Corners are looked for at a scale that grows with the blur from here, px.
BLUR_FROM, BLUR_SCALE = 0.3, 0.6
# Blur is judged at so many points.
BLUR_SAMPLE = 3000


@dataclass(frozen=True)
class Care:
    """How closely the picture can be believed.

    scale: 1 for a clean antialiased picture, larger where noise or staircases would look like corners.
    tolerance: px that a segment may keep from the edge.
    """

    scale: float
    tolerance: float


def fitted(lines: ClosedLines, scene: Scene, care: Care, offset: tuple[float, float] = (0.0, 0.0)) -> list[Contour]:
    """One fitted contour a line, in the order of the lines, moved by `offset` px."""
    samples = sample(lines)
    scale = care.scale + BLUR_SCALE * max(0.0, blur(samples, scene) - BLUR_FROM)
    corners = find_corners(samples, scale)
    curves, cloud = segment(samples, corners, scale, care.tolerance)
    curves = joined(settle(curves, cloud, 2)[0])
    cloud = observed(curves, scene)
    curves = joined(settle(curves, cloud, 2)[0])
    curves = joined(merged(curves, cloud, MERGE_SHARE * care.tolerance))
    for _ in range(ROUNDS):
        curves = joined(settle(curves, observed(curves, scene), 1)[0])
    p = curves.control + np.array(offset)
    bounds = np.searchsorted(curves.line, np.arange(len(lines) + 1))
    return [Contour(p[a:b], curves.straight[a:b]) for a, b in itertools.pairwise(bounds)]


def blur(samples: Samples, scene: Scene) -> float:
    """Standard deviation (px) of the blur across the edges of a picture, beyond that of antialiasing."""
    few = np.arange(0, len(samples.points), max(1, len(samples.points) // BLUR_SAMPLE))
    along = samples.points[samples.shifted(3)[few]] - samples.points[samples.shifted(-3)[few]]
    along /= np.maximum(np.linalg.norm(along, axis=1, keepdims=True), 1e-9)
    normal = np.stack([along[:, 1], -along[:, 0]], axis=1) / 2
    at = samples.points[few]
    slope = np.abs(between(scene.values, at + normal) - between(scene.values, at - normal))
    return blur_between(float(np.median(slope)), PLAIN_SLOPE)
