"""From level lines to fitted contours."""

from __future__ import annotations

import itertools
from dataclasses import dataclass, fields, replace

import numpy as np
from scipy.spatial import KDTree

from drelo.core.outline.contour import Contour
from drelo.core.outline.cubics import Array
from drelo.core.trace.corners import MIN_TURN, Corners, find_corners
from drelo.core.trace.curves import Cloud, Curves, Flags, chosen, edges, place, together
from drelo.core.trace.ends import LEAST_OF_STAIRS, LEAST_TURN, Ends, find_ends, with_ends
from drelo.core.trace.level_lines import ClosedLines
from drelo.core.trace.merge import merged
from drelo.core.trace.refine import Hold, as_is, joined, settle, turns
from drelo.core.trace.samples import SPACING, Samples, calmed, sample
from drelo.core.trace.scene import Scene, blur_between, observed
from drelo.core.trace.segments import segment
from drelo.core.trace.stairs import StairCorners, with_stairs

# Of pictures without antialiasing: px along which the staircase is averaged, what is added to the scale of corners, and
# how much more a segment may keep from the edge.
HARD_ALONG, HARD_SCALE, HARD_TOLERANCE = 1.5, 0.6, 1.6
# Only small pictures hide corners: those with at most so many samples along their lines.
SHARPEN_UP_TO = 12_000
# Corners are taken up when the line misses the edge by at most this much more, root mean square.
WORSE = 1.0
# Share of the tolerance that curves may miss by, root mean square, for the sake of fewer nodes.
MERGE_SHARE = 0.2
# Two corners of one end run together only in smaller ones still.
SQUARE_UP_TO = 6_000
# Corners nearer to an end's than this (px) are there already.
KNOWN = 0.75
# A stroke's end is square when that misses the edge by so much less, root mean square, within so many px of it.
SQUARE_GAIN, NEAR_END = 0.8, 4.0
# A square end's handles keep within this share of its width of its line, and its far corner so near (px) to where
# it was expected.
END_BULGE, END_REACH = 0.12, 1.2
# How often ends that are not the better for it are left out and the others tried again.
SQUARE_ROUNDS = 3
# Ends are looked for within so many px to either side, one reach after the other.
END_REACHES = (2.0, 2.75, 3.5, 2.75)
# … and within so many more where stairs round off wider ends.
STAIR_REACH = 4.5
# A picture with more pixels is large.
LARGE = 2_500_000
# px: where a tenth of the curves are longer, the picture is large.
LONG, LONG_IN_STAIRS = 300.0, 60.0
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


def fitted(
    lines: ClosedLines,
    scene: Scene,
    care: Care,
    offset: tuple[float, float] = (0.0, 0.0),
    stairs: StairCorners | None = None,
) -> list[Contour]:
    """One fitted contour a line, in the order of the lines, moved by `offset` px.

    stairs: corners that the pixels show, of a picture without antialiasing.
    """
    samples = sample(lines)
    if care.along > 0:
        samples = calmed(samples, care.along)
    scale = blur_scale(samples, scene, care)
    corners = find_corners(samples, scale)
    if stairs is not None:
        corners = with_stairs(corners, samples, stairs)
    curves, cloud, _ = segment(samples, corners, scale, care.tolerance)
    curves = settled(curves, cloud, scene, care)
    if not care.quick and len(samples.points) <= SHARPEN_UP_TO:
        curves = _sharpened(curves, len(lines), scene, care, scale)
        reaches = (*END_REACHES, STAIR_REACH) if care.along > 0 else END_REACHES
        for reach in reaches if len(samples.points) <= SQUARE_UP_TO else ():
            curves = _squared(curves, len(lines), scene, care, scale, reach)
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
    # A small turn of a long curve moves it far, and stairs say little of how a curve leaves a line: it takes longer to
    # come to rest.
    long = float(np.quantile(curves.lengths, 0.9)) >= (LONG_IN_STAIRS if care.along > 0 else LONG)
    for _ in range(3 if long else 1):
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
    other = _fitted_again(curves, again, fine, find_corners(fine, scale), scene, care, scale)
    better = again & (_misses(other, scene, count) <= WORSE * _misses(curves, scene, count))
    return together(chosen(curves, ~better), chosen(other, better))


def _fitted_again(
    curves: Curves, again: Flags, samples: Samples, corners: Corners, scene: Scene, care: Care, scale: float
) -> Curves:
    """The curves with the flagged lines fitted once more, from samples of these lines and with other corners."""
    other, cloud, _ = segment(samples, corners, scale, care.tolerance)
    other = joined(settle(other, cloud, 2))
    other = replace(other, line=np.flatnonzero(again)[other.line])
    other = together(chosen(curves, ~again), other)
    other = joined(settle(other, observed(other, scene), 2))
    cloud = observed(other, scene)
    other = joined(settle(other, cloud, 1))
    other = joined(merged(other, cloud, MERGE_SHARE * care.tolerance))
    return joined(settle(other, observed(other, scene), 1))


def _squared(curves: Curves, count: int, scene: Scene, care: Care, scale: float, reach: float) -> Curves:
    """Lines whose strokes end in a bend are fitted once more with two corners there, where that meets the picture
    better."""
    outline = edges(curves, 0.01)
    lines = ClosedLines(outline.starts, np.searchsorted(outline.line, np.arange(count + 1)))
    fine = sample(lines, SPACING / 2)
    ends = find_ends(fine, reach, scale, LEAST_OF_STAIRS if care.along else LEAST_TURN)
    # With no corner at all the tree is empty, and every end is far from it.
    known = KDTree(curves.node[turns(curves) > MIN_TURN])
    away = np.maximum(known.query(ends.left)[0], known.query(ends.right)[0])
    ends = ends.chosen(np.asarray(away > KNOWN))
    if not len(ends):
        return curves
    middle = fine.points[ends.middle]
    before = _misses_near(curves, scene, middle)
    for round_ in range(SQUARE_ROUNDS):
        again = np.bincount(ends.line, minlength=count) > 0
        some = sample(lines.chosen(again), SPACING / 2)
        number = np.cumsum(again) - 1
        moved = replace(
            ends,
            middle=ends.middle - fine.starts[ends.line] + some.starts[number[ends.line]],
            line=number[ends.line],
        )
        corners = with_ends(find_corners(some, scale), some, moved, reach, scale)
        other = _fitted_again(curves, again, some, corners, scene, care, scale)
        after = _misses_near(other, scene, fine.points[ends.middle])
        better = (after < SQUARE_GAIN * before) & _is_flat(other, ends)
        if better.all() or round_ == SQUARE_ROUNDS - 1:
            # A line takes its new fit when each of its ends is the better for it.
            fails = np.bincount(ends.line, ~better, count) > 0
            stays = ~again | fails
            return together(chosen(curves, stays), chosen(other, ~stays))
        ends, before = ends.chosen(better), before[better]
        if not len(ends):
            break
    return curves


def _is_flat(curves: Curves, ends: Ends) -> Flags:
    """Whether each end's line is one segment, and as good as straight: a round end bulges."""
    control = curves.control
    _, at = KDTree(curves.node).query(ends.left)
    chord = control[at, 3] - control[at, 0]
    length = np.maximum(np.linalg.norm(chord, axis=1), 1e-9)
    off = control[at, 1:3] - control[at, :1]
    bulge = np.abs(chord[:, None, 0] * off[:, :, 1] - chord[:, None, 1] * off[:, :, 0]).max(axis=1) / length
    there = np.linalg.norm(control[at, 3] - ends.right, axis=1) < END_REACH
    return np.asarray(there & (bulge < END_BULGE * length))


def _misses_near(curves: Curves, scene: Scene, spots: Array) -> Array:
    """Root mean square distance to the picture's edge of what lies round each spot, px."""
    cloud = observed(curves, scene)
    square = np.einsum("mi,mi->m", *(cloud.targets - cloud.probes.at,) * 2) * cloud.weight
    near = KDTree(cloud.probes.at).query_ball_point(spots, NEAR_END)
    return np.array([np.sqrt(square[i].sum() / max(cloud.weight[i].sum(), 1e-9)) if i else np.inf for i in near])


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
