"""Strokes fitted: middle lines moved, and widened, until the picture that they would make is the picture."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields, replace
from statistics import NormalDist

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray

from drelo.core.outline.drawn import Cap, Join
from drelo.core.picture.field import InkField
from drelo.core.trace.contours.fit import opened
from drelo.core.trace.corners.corners import MIN_TURN, find_corners
from drelo.core.trace.corners.tips import calmed_between_tips, there_and_back, with_tips
from drelo.core.trace.fit.curves import Cloud, Curves, Flags, edges, probes, together
from drelo.core.trace.fit.merge import merged
from drelo.core.trace.fit.refine import joined, settle, turns
from drelo.core.trace.fit.scene import blur_between
from drelo.core.trace.fit.segments import segment
from drelo.core.trace.fit.trust import Trust
from drelo.core.trace.seen.coverage import between, coverage
from drelo.core.trace.seen.samples import sample
from drelo.core.trace.strokes.middles import HEADING, ink_ahead
from drelo.core.trace.strokes.paths import Path

Array = NDArray[np.float64]

# Strokes so wide, px, tell the blur, where they are so large a share.
WIDE, WIDE_SHARE = 4.0, 0.05
# Less blur (px) than this is not reckoned with. Without any, the edge of what is covered, read between pixels, is as
# steep as under a blur of so many px.
LEAST_BLUR, SHARP = 0.3, 0.585
# An end is led on to another stroke over at most so many times its distance from it, and px.
LANDING, LANDING_PX = 4.0, 0.5


@dataclass(frozen=True, eq=False)
class Strokes:
    """Fitted strokes: their curves, and of each stroke its width (px), ends, corners, and whether it is closed."""

    curves: Curves
    width: Array
    caps: list[Cap]
    joins: list[Join]
    closed: Flags

    @property
    def usual_width(self) -> float:
        """px that half of all that is drawn, by its length, does not exceed."""
        width = self.width[self.curves.line]
        order = np.argsort(width)
        drawn = np.cumsum(np.where(self.curves.void, 0.0, self.curves.lengths)[order])
        return float(width[order][np.searchsorted(drawn, drawn[-1] / 2)])

    def enlarged(self, scale: float) -> Strokes:
        curves = replace(self.curves, node=self.curves.node * scale, handles=self.curves.handles * scale)
        return replace(self, curves=curves, width=self.width * scale)

    def chosen(self, which: Flags) -> Strokes:
        """Those that are flagged."""
        curves = self.curves
        stays = which[curves.line]
        kept = Curves(*(getattr(curves, f.name)[stays] for f in fields(curves)))
        numbers = np.flatnonzero(which).tolist()
        return Strokes(
            replace(kept, line=(np.cumsum(which) - 1)[kept.line]),
            self.width[which],
            [self.caps[i] for i in numbers],
            [self.joins[i] for i in numbers],
            self.closed[which],
        )

    def and_more(self, more: Strokes) -> Strokes:
        """These, and more after them."""
        curves = together(self.curves, replace(more.curves, line=more.curves.line + len(self.width)))
        return Strokes(
            curves,
            np.concatenate([self.width, more.width]),
            [*self.caps, *more.caps],
            [*self.joins, *more.joins],
            np.concatenate([self.closed, more.closed]),
        )


_NONE, _NO_FLAG = np.empty(0), np.empty(0, bool)
_NO_CURVES = Curves(
    node=np.empty((0, 2)),
    leaving=_NONE,
    arriving=_NONE,
    handles=np.empty((0, 2)),
    straight=_NO_FLAG,
    corner=_NO_FLAG,
    line=np.empty(0, np.int64),
    void=_NO_FLAG,
)
NO_STROKES = Strokes(_NO_CURVES, _NONE, [], [], _NO_FLAG)


def first_fit(paths: Sequence[Path], field: InkField, trust: Trust) -> Strokes:
    """Strokes through the middle points of the paths."""
    closed = np.array([p.closed for p in paths])
    width = np.array([p.width for p in paths])
    ends = [_capped(p, field) for p in paths]
    lines = there_and_back([p for p, _ in ends], closed)
    samples = sample(lines)
    if trust.along > 0:
        samples = calmed_between_tips(samples, closed, trust.along)
    # Inside a bend the middle is drawn off over half the width.
    scale = trust.scale + float(np.median(width)) / 5
    corners = with_tips(find_corners(samples, scale), samples, closed)
    curves, cloud, begin = segment(samples, corners, scale, trust.tolerance)
    size = np.diff(samples.starts)
    forward = closed[curves.line] | ((begin - samples.starts[curves.line]) * 2 < size[curves.line])
    curves, cloud = opened(curves, cloud, forward, ~closed, samples.points[samples.starts[:-1] + size // 2])
    curves = joined(settle(curves, cloud, 2))
    curves = joined(merged(curves, cloud, 0.25 * trust.tolerance))
    return Strokes(curves, width, [c for _, c in ends], _joins(curves, width, field), closed)


def refined(
    strokes: Strokes, paths: Sequence[Path], field: InkField, beside: Flags, tolerance: float, rounds: int
) -> Strokes:
    """Strokes moved and widened until the picture that they would make is the picture.

    beside: ink that is not theirs, shape (height, width).
    """
    other = np.where(beside, np.clip(field.values, 0, 1), np.float32(0)) if beside.any() else None
    for turn in range(rounds):
        cloud, wider = _observed(strokes, field, other)
        curves = joined(settle(strokes.curves, cloud, 1))
        if turn == 1:
            curves = joined(merged(curves, cloud, 0.25 * tolerance))
        strokes = replace(strokes, curves=curves, width=np.maximum(strokes.width + wider, 0.3))
    curves = _met(strokes.curves, paths)
    return replace(strokes, curves=curves, joins=_joins(curves, strokes.width, field))


def _met(curves: Curves, paths: Sequence[Path]) -> Curves:
    """Ends that lie at a joint brought together: onto the stroke that goes through there, else into their middle."""
    node = curves.node.copy()
    last = np.flatnonzero(curves.void)
    first = curves.following[last]
    number = {int(line): (int(a), int(b)) for line, a, b in zip(curves.line[last], first, last, strict=True)}
    ends: dict[int, list[int]] = {}
    for k, path in enumerate(paths):
        for end in (0, 1):
            if k in number and path.ends[end] >= 0:
                ends.setdefault(path.ends[end], []).append(number[k][end])
    outline = edges(curves, 0.01)
    for joint, nodes in ends.items():
        passing = [k for k, path in enumerate(paths) if joint in path.through]
        if passing:
            on = np.isin(outline.line, passing)
            pieces = shapely.linestrings(np.stack([outline.starts[on], outline.ends[on]], axis=1))
            run = shapely.MultiLineString(list(np.atleast_1d(np.asarray(pieces))))
            for n in nodes:
                node[n] = _landing(node[n], _running_out(curves, n), run)
        else:
            node[nodes] = node[nodes].mean(axis=0)
    return replace(curves, node=node)


def _running_out(curves: Curves, node: int) -> Array:
    """Unit direction in which an open line runs out at the node at one of its ends."""
    ends = curves.void[node]
    p = curves.control[curves.before[node] if ends else node]
    way = p[3] - p[2] if ends else p[0] - p[1]
    return np.asarray(way / max(float(np.linalg.norm(way)), 1e-9))


def _landing(end: Array, way: Array, run: shapely.Geometry) -> Array:
    """Where an end that is led on, or back, in its own direction meets a run; the nearest place, where it does not
    nearby.
    """
    point = shapely.Point(end)
    nearest = shapely.get_coordinates(shapely.shortest_line(run, point))[0]
    reach = LANDING * float(np.linalg.norm(nearest - end)) + LANDING_PX
    met = shapely.intersection(run, shapely.LineString([end - reach * way, end + reach * way]))
    return np.asarray(nearest if met.is_empty else shapely.get_coordinates(shapely.shortest_line(met, point))[0])


def _capped(path: Path, field: InkField) -> tuple[Array, Cap]:
    """Points led to the end of the stroke where it ends freely, and how its ends are shaped."""
    points = path.points
    if path.closed:
        return points, "round"
    flat = []
    for end in (0, 1):
        if path.ends[end] != -1:
            continue
        line = points if end == 1 else points[::-1]
        many = min(len(line), max(2, round(HEADING * path.width)))
        centre = line[-many:].mean(axis=0)
        _, _, axes = np.linalg.svd(line[-many:] - centre, full_matrices=False)
        direction = axes[0] if (line[-1] - line[-many]) @ axes[0] >= 0 else -axes[0]
        last = line[-1]
        reach = float(np.nan_to_num(ink_ahead(field, last[None], direction[None], 5 * path.width + 4)[0], nan=0.0))
        side = np.array([-direction[1], direction[0]]) * 0.38 * path.width
        # A flat end is as wide as the stroke right up to it; a round one is not.
        corner = last + direction * max(reach - 0.12 * path.width, 0)
        flat.append(bool((between(field.values, np.stack([corner + side, corner - side])) > field.level).all()))
        tip = last + direction * (reach if flat[-1] else max(reach - path.width / 2, 0.0))
        line = np.concatenate([line, tip[None]])
        points = line if end == 1 else line[::-1]
    return points, "flat" if flat and all(flat) else "round"


def _joins(curves: Curves, width: Array, field: InkField) -> list[Join]:
    """Whether the corners of each stroke are mitred or round, by what the picture shows outside them."""
    sharp = np.flatnonzero((turns(curves) > MIN_TURN) & ~curves.void & ~curves.void[curves.before])
    p = curves.control
    out = p[sharp, 1] - p[sharp, 0]
    into = p[curves.before[sharp], 3] - p[curves.before[sharp], 2]
    out, into = (v / np.maximum(np.linalg.norm(v, axis=1, keepdims=True), 1e-9) for v in (out, into))
    away = into - out
    length = np.linalg.norm(away, axis=1)
    half = np.arcsin(np.clip(length / 2, 0, 0.95))
    radius = width[curves.line[sharp]] / 2
    tip = (radius + np.minimum(radius / np.cos(half), 2 * radius)) / 2
    at = p[sharp, 0] + away / np.maximum(length, 1e-9)[:, None] * tip[:, None]
    full = between(field.values, at) > field.level
    votes = np.bincount(curves.line[sharp], np.where(full, 1.0, -1.0), len(width))
    return ["mitre" if v > 0 else "round" for v in votes]


def _observed(strokes: Strokes, field: InkField, other: NDArray[np.float32] | None) -> tuple[Cloud, Array]:
    """Where the middle truly lies beside points of the strokes, and by how much each stroke is wider, px.

    The picture that the strokes would make is compared with the real one at both of their edges.
    other: what is there beside them, shape (height, width).
    """
    curves, width = strokes.curves, strokes.width
    made = made_by(strokes, field.values.shape)
    if other is not None:
        made = np.maximum(made, other)
    found = probes(curves, 1.5, 8)
    line = curves.line[found.segment]
    half = (width[line] / 2)[:, None] * found.normal
    outward, slopes, reals = [], [], []
    for side in (1.0, -1.0):
        at, normal = found.at + side * half, side * found.normal
        slopes.append(between(made, at - normal / 2) - between(made, at + normal / 2))
        reals.append(between(field.values, at - normal / 2) - between(field.values, at + normal / 2))
    # A blur takes from thin lines more than their edges' steepness: it is told by thick ones, where there are some.
    wide = width[line] >= WIDE
    wide = wide if wide.mean() >= WIDE_SHARE else np.ones(len(line), bool)
    blur = blur_between(float(np.median(reals[0][wide])), float(np.median(slopes[0][wide])))
    if blur > LEAST_BLUR:
        blurred = np.asarray(cv2.GaussianBlur(made, (0, 0), blur, borderType=cv2.BORDER_REPLICATE), np.float32)
        made = blurred if field.plain is None else np.where(field.plain, made, blurred)
        # What is there beside the strokes is blurred already.
        made = made if other is None else np.where(other > 0, np.maximum(made, other), made)
    soft = float(np.hypot(SHARP, blur if blur > LEAST_BLUR else 0.0))
    steepest = 2 * NormalDist().cdf(0.5 / soft) - 1
    # What a stroke gains at one edge by being wider: of thin ones the other edge adds to it.
    gain = (steepest * (1 + np.exp(-0.5 * (width / soft) ** 2)))[line]
    weights, wider = [], np.zeros(len(line))
    for side in (1.0, -1.0):
        at, normal = found.at + side * half, side * found.normal
        slope = between(made, at - normal / 2) - between(made, at + normal / 2)
        typical = max(float(np.median(slope)), 0.02)
        ahead = between(field.values, at) - field.level - between(made, at) + 0.5
        outward.append(np.clip(ahead / np.maximum(slope, 0.35 * typical), -0.7, 0.7))
        wider += np.clip(ahead / gain, -0.7, 0.7)
        weights.append(np.clip(slope / typical, 0.0, 1.0))
    weight = np.minimum(weights[0], weights[1])
    total = np.maximum(np.bincount(line, weight, len(width)), 1e-9)
    wider = np.bincount(line, weight * wider, len(width)) / total
    shift = (outward[0] - outward[1]) / 2
    cloud = Cloud(found, found.at + found.normal * shift[:, None], np.maximum(weight, 0.02))
    return cloud, wider


def made_by(strokes: Strokes, shape: tuple[int, ...]) -> NDArray[np.float32]:
    starts, ends, _ = covered(strokes, shape)
    return coverage(starts, ends, shape[1], shape[0])


def covered(
    strokes: Strokes, shape: tuple[int, ...], shapes: Sequence[shapely.Geometry] = ()
) -> tuple[Array, Array, NDArray[np.int64]]:
    """Edges (starts and ends, each (n, 2)) round what the strokes, and shapes among them, cover of a picture of `shape`
    (height, width), ring by ring, and where each ring begins.
    """
    outline = edges(strokes.curves, 0.03)
    width = strokes.width
    bounds = np.searchsorted(outline.line, np.arange(len(width) + 1))
    bands = []
    for k in range(len(width)):
        points = outline.starts[bounds[k] : bounds[k + 1]]
        if strokes.closed[k] and len(points) >= 3:
            run: shapely.Geometry = shapely.LinearRing(points)
        else:
            run = shapely.LineString(np.concatenate([points, outline.ends[bounds[k + 1] - 1][None]]))
        cap, join = strokes.caps[k], strokes.joins[k]
        bands.append(shapely.buffer(run, width[k] / 2, quad_segs=12, cap_style=cap, join_style=join, mitre_limit=4))
    area = shapely.intersection(shapely.union_all([*bands, *shapes]), shapely.box(0, 0, shape[1], shape[0]))
    rings = [shapely.get_coordinates(r) for r in shapely.get_rings(shapely.get_parts(shapely.orient_polygons(area)))]
    # Shapely runs with the area on its left with y up, which is its right as seen on the screen.
    turned = [ring[::-1] for ring in rings]
    bounds_of = np.cumsum([0, *(len(r) - 1 for r in turned)])
    none = np.empty((0, 2))
    return (
        np.concatenate([none, *(r[:-1] for r in turned)]),
        np.concatenate([none, *(r[1:] for r in turned)]),
        bounds_of,
    )
