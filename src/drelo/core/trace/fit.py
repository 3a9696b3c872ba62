"""From level lines to fitted contours."""

from __future__ import annotations

import itertools
from dataclasses import dataclass, fields, replace

import numpy as np

from drelo.core.outline.contour import Contour
from drelo.core.outline.cubics import Array
from drelo.core.trace.corners import MIN_TURN, find_corners
from drelo.core.trace.curves import Cloud, Curves, Flags, chosen, edges, place, together
from drelo.core.trace.level_lines import ClosedLines
from drelo.core.trace.merge import merged
from drelo.core.trace.refine import Hold, as_is, joined, settle, turns
from drelo.core.trace.samples import SPACING, Samples, calmed, sample
from drelo.core.trace.scene import Scene, blur_between, observed
from drelo.core.trace.segments import segment

# Only small pictures hide corners: those with at most so many samples along their lines.
SHARPEN_UP_TO = 12_000
# Corners are taken up when the line misses the edge by at most this much more, root mean square.
WORSE = 1.0
# Share of the tolerance that curves may miss by, root mean square, for the sake of fewer nodes.
MERGE_SHARE = 0.2
# A picture with more pixels is large.
LARGE = 2_500_000
# px: where a tenth of the curves are longer, the picture is large.
LONG = 300.0
# Scale at which corners of exact lines are looked for.
EXACT_SCALE = 0.5
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
    along: px over which level lines are averaged along themselves, for pictures without antialiasing.
    quick: a fit that follows the hand: looked at the picture once, with more nodes.
    """

    scale: float
    tolerance: float
    along: float = 0.0
    quick: bool = False


def keenness(keen: float) -> float:
    """What the scale of corners is multiplied by: 0 rounds corners off, 1 takes every tight bend for one."""
    return float(np.interp(keen, (0.0, 0.5, 1.0), (2.5, 1.0, 0.7)))


def fitted(lines: ClosedLines, scene: Scene, care: Care, offset: tuple[float, float] = (0.0, 0.0)) -> list[Contour]:
    """One fitted contour a line, in the order of the lines, moved by `offset` px."""
    samples = sample(lines)
    if care.along > 0:
        samples = calmed(samples, care.along)
    scale = blur_scale(samples, scene, care)
    curves, cloud, _ = segment(samples, find_corners(samples, scale), scale, care.tolerance)
    curves = settled(curves, cloud, scene, care)
    if not care.quick and len(samples.points) <= SHARPEN_UP_TO:
        curves = _sharpened(curves, len(lines), scene, care, scale)
    return contours(curves, len(lines), offset)


def through(lines: ClosedLines, tolerance: float) -> list[Contour]:
    """Contours through exact closed lines, such as the edges of widened strokes, within about `tolerance` px."""
    samples = sample(lines)
    curves, cloud, _ = segment(samples, find_corners(samples, EXACT_SCALE), EXACT_SCALE, tolerance)
    curves = joined(settle(curves, cloud, 2))
    curves = joined(merged(curves, cloud, MERGE_SHARE * tolerance))
    return contours(curves, len(lines), (0.0, 0.0))


def contours(curves: Curves, count: int, offset: tuple[float, float]) -> list[Contour]:
    """The curves of every line, moved by `offset` px."""
    p = curves.control + np.array(offset)
    bounds = np.searchsorted(curves.line, np.arange(count + 1)).tolist()
    found = []
    for a, b in itertools.pairwise(bounds):
        end = b - int(curves.void[b - 1])
        found.append(Contour(p[a:end], curves.straight[a:end], closed=end == b))
    return found


def opened(curves: Curves, cloud: Cloud, keep: Flags, open_: Flags, ends: Array) -> tuple[Curves, Cloud]:
    """Only the segments flagged to keep; open lines (flagged) end at `ends`, shape (lines, 2), and are not closed."""
    number = np.cumsum(keep) - 1
    probes = cloud.probes
    stays = keep[probes.segment]
    lines = np.flatnonzero(open_)
    count = len(lines)
    tail = Curves(
        ends[lines],
        np.zeros(count),
        np.zeros(count),
        np.zeros((count, 2)),
        np.ones(count, bool),
        np.ones(count, bool),
        lines,
        np.ones(count, bool),
    )
    kept = Curves(*(getattr(curves, f.name)[keep] for f in fields(curves)))
    after = together(kept, tail)
    # Where each kept segment stands among all.
    moved = np.flatnonzero(~after.void)
    segment_of = moved[number[probes.segment[stays]]]
    found = place(after, segment_of, probes.u[stays], np.searchsorted(segment_of, np.arange(len(after))))
    return after, Cloud(found, cloud.targets[stays], cloud.weight[stays])


def settled(curves: Curves, cloud: Cloud, scene: Scene, care: Care, hold: Hold = as_is) -> Curves:
    """Curves brought from a first cloud onto the picture's edge, with as few nodes as do."""
    curves = joined(settle(curves, cloud, 1 if care.quick else 2, hold))
    cloud = observed(curves, scene)
    curves = joined(settle(curves, cloud, 2, hold))
    if care.quick:
        return curves
    large = scene.field.shape[0] * scene.field.shape[1] > LARGE
    curves = joined(merged(curves, cloud, MERGE_SHARE * care.tolerance, hold, large))
    # On a large picture a small turn of a long curve moves it far, so that it takes longer to come to rest.
    for _ in range(1 if float(np.quantile(curves.lengths, 0.9)) < LONG else 3):
        curves = joined(settle(curves, observed(curves, scene), 1, hold))
    return curves


def _sharpened(curves: Curves, count: int, scene: Scene, care: Care, scale: float) -> Curves:
    """Lines on which fitting has brought out corners that the picture's blur hid are fitted once more with them.

    The fitted curves turn more tightly than level lines do, so that corners are looked for at half the scale. A line
    is changed only where its new fit meets the picture at least as well.
    """
    outline = edges(curves, 0.01)
    lines = ClosedLines(outline.starts, np.searchsorted(outline.line, np.arange(count + 1)))
    fine = sample(lines, SPACING / 2)
    corners = find_corners(fine, scale)
    known = np.bincount(curves.line, turns(curves) > MIN_TURN, count)
    found = np.bincount(fine.owner[corners.at], minlength=count)
    again = found > known
    if not again.any():
        return curves
    fine = sample(lines.chosen(again), SPACING / 2)
    other, cloud, _ = segment(fine, find_corners(fine, scale), scale, care.tolerance)
    other = joined(settle(other, cloud, 2))
    other = replace(other, line=np.flatnonzero(again)[other.line])
    other = together(chosen(curves, ~again), other)
    other = joined(settle(other, observed(other, scene), 2))
    cloud = observed(other, scene)
    other = joined(settle(other, cloud, 1))
    other = joined(merged(other, cloud, MERGE_SHARE * care.tolerance))
    other = joined(settle(other, observed(other, scene), 1))
    better = again & (_misses(other, scene, count) <= WORSE * _misses(curves, scene, count))
    return together(chosen(curves, ~better), chosen(other, better))


def _misses(curves: Curves, scene: Scene, count: int) -> Array:
    """Root mean square distance of each line to the picture's edge, px."""
    cloud = observed(curves, scene)
    line = curves.line[cloud.probes.segment]
    square = np.einsum("mi,mi->m", *(cloud.targets - cloud.probes.at,) * 2) * cloud.weight
    return np.asarray(
        np.sqrt(np.bincount(line, square, count) / np.maximum(np.bincount(line, cloud.weight, count), 1e-9))
    )


def blur_scale(samples: Samples, scene: Scene, care: Care) -> float:
    """The scale at which corners are looked for."""
    return care.scale + BLUR_SCALE * max(0.0, blur(samples, scene) - BLUR_FROM)


def blur(samples: Samples, scene: Scene) -> float:
    """Standard deviation (px) of the blur across the edges of a picture, beyond that of antialiasing."""
    few = np.arange(0, len(samples.points), max(1, len(samples.points) // BLUR_SAMPLE))
    along = samples.points[samples.shifted(3)[few]] - samples.points[samples.shifted(-3)[few]]
    along /= np.maximum(np.linalg.norm(along, axis=1, keepdims=True), 1e-9)
    normal = np.stack([along[:, 1], -along[:, 0]], axis=1) / 2
    at = samples.points[few]
    line = samples.owner[few]
    slope = np.abs(scene.read(scene.field, at + normal, line) - scene.read(scene.field, at - normal, line))
    return blur_between(float(np.median(slope)), PLAIN_SLOPE)
