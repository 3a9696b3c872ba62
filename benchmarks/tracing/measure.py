"""How far a trace lies from the truth."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from numpy.typing import NDArray
from scipy.spatial import KDTree

from drelo.core.outline.contour import Contour, polygon
from drelo.core.outline.outline import Outline
from drelo.core.trace.trace import Line, Trace

# Spacing (px) of the points at which distances are taken.
STEP = 0.25
# A node is a corner when the outline turns by more than this, radians.
CORNER = 0.5
CORNER_REACH = 0.75
FALSE_REACH = 1.5
# Gaps between neighbours are looked for up to twice this width, px.
CLOSE = 0.02


@dataclass(frozen=True)
class Score:
    """Distances in px, both ways pooled. nodes: share of the truth's. corners: found, of, false."""

    mean: float
    most: float
    nodes: float
    found: int
    corners: int
    false: int
    topology: bool


def points(contours: Sequence[Contour]) -> NDArray[np.float64]:
    """Evenly spaced points along contours, shape (n, 2)."""
    parts = []
    for contour in contours:
        ring = contour.flattened(0.005)
        closed = np.vstack([ring, ring[:1]])
        along = np.concatenate([[0], np.cumsum(np.linalg.norm(np.diff(closed, axis=0), axis=1))])
        count = max(8, int(along[-1] / STEP))
        at = np.linspace(0, along[-1], count, endpoint=False)
        parts.append(np.stack([np.interp(at, along, closed[:, 0]), np.interp(at, along, closed[:, 1])], 1))
    return np.concatenate(parts)


def distances(contours: Sequence[Contour], others: Sequence[Contour]) -> NDArray[np.float64]:
    """Distance from points along contours to the nearest place on the others."""
    starts, ends = [], []
    for contour in others:
        ring = contour.flattened(0.003)
        ahead = np.roll(ring, -1, 0)
        pieces = np.maximum(1, np.ceil(np.linalg.norm(ahead - ring, axis=1) / 0.5)).astype(np.int64)
        edge = np.repeat(np.arange(len(ring)), pieces)
        share = (np.arange(pieces.sum()) - np.repeat(np.cumsum(pieces) - pieces, pieces)) / pieces[edge]
        begin = ring[edge] + (ahead - ring)[edge] * share[:, None]
        starts.append(begin)
        ends.append(np.roll(begin, -1, 0))
    a, b = np.concatenate(starts), np.concatenate(ends)
    probe = points(contours)
    # No edge is longer than half a pixel, so the nearest one's middle is among the nearest few.
    _, near = KDTree((a + b) / 2).query(probe, k=6)
    p, q, x = a[near], b[near] - a[near], probe[:, None]
    t = np.clip(((x - p) * q).sum(2) / np.maximum((q * q).sum(2), 1e-18), 0, 1)
    return np.linalg.norm(x - p - q * t[..., None], axis=2).min(1)


def corner_nodes(contours: Sequence[Contour]) -> NDArray[np.float64]:
    """Nodes where the outline turns sharply, shape (n, 2)."""
    found = []
    for contour in contours:
        out = _direction(contour.curves)
        into = np.roll(-_direction(contour.curves[:, ::-1]), 1, 0)
        turn = np.abs(np.arctan2(into[:, 0] * out[:, 1] - into[:, 1] * out[:, 0], (into * out).sum(1)))
        found.append(contour.curves[turn > CORNER, 0])
    return np.concatenate(found) if found else np.empty((0, 2))


def _turn_near(nodes: NDArray[np.float64], contours: Sequence[Contour]) -> NDArray[np.float64]:
    """How far the contours turn within FALSE_REACH px of each node, radians: tight rounds pass for corners."""
    rings = [points([c]) for c in contours]
    places = np.concatenate(rings)
    heading = np.concatenate([np.angle((np.roll(r, -1, 0) - r).view(np.complex128)[:, 0]) for r in rings])
    turns = []
    for near in KDTree(places).query_ball_point(nodes, FALSE_REACH):
        z = np.exp(1j * heading[near])
        turns.append(np.ptp(np.angle(z / (z.sum() or 1))) if near else 0.0)
    return np.array(turns)


def _direction(curves: NDArray[np.float64]) -> NDArray[np.float64]:
    """Unit direction at the start; where handles vanish, towards the next control point that differs."""
    result = np.zeros((len(curves), 2))
    for i in (3, 2, 1):
        step = curves[:, i] - curves[:, 0]
        length = np.linalg.norm(step, axis=1, keepdims=True)
        result = np.where(length > 1e-6, step / np.maximum(length, 1e-12), result)
    return result


def score(traced: Sequence[Outline], truth: Sequence[Outline]) -> Score:
    ours = [c for o in traced for c in o.contours]
    theirs = [c for o in truth for c in o.contours]
    off = np.concatenate([distances(ours, theirs), distances(theirs, ours)])
    mine, true = corner_nodes(ours), corner_nodes(theirs)
    found = false = 0
    if len(true) and len(mine):
        found = int((KDTree(mine).query(true)[0] <= CORNER_REACH).sum())
    if len(mine):
        false = int((_turn_near(mine, theirs) < CORNER).sum())
    shape = (len(traced), sum(len(o.holes) for o in traced))
    return Score(
        mean=float(off.mean()),
        most=float(np.quantile(off, 0.99)),
        nodes=sum(len(c) for c in ours) / sum(len(c) for c in theirs),
        found=found,
        corners=len(true),
        false=false,
        topology=shape == (len(truth), sum(len(o.holes) for o in truth)),
    )


@dataclass(frozen=True)
class LayerScore:
    """Distances in px, both ways pooled. colour: largest error of a channel, of 255. nodes: each shared arc once.

    shapes: connected areas and holes as in the truth. overlap, gap: px² between neighbours.
    """

    mean: float
    most: float
    colour: float
    shapes: bool
    overlap: float
    gap: float


def score_layers(traced: Trace, truth: Sequence[tuple[tuple[int, int, int], shapely.Geometry]]) -> LayerScore:
    ours = [c for o in traced.outlines for c in o.contours]
    rings = [r for _, g in truth for part in shapely.get_parts(g) for r in shapely.get_rings(part)]
    theirs = [polygon(shapely.get_coordinates(r)[:-1]) for r in rings]
    off = np.concatenate([distances(ours, theirs), distances(theirs, ours)])
    colours = np.array([[int(f[k : k + 2], 16) for k in (1, 3, 5)] for f in traced.fills], float)
    wanted = np.array([c for c, _ in truth], float)
    errors = np.abs(colours[:, None] - wanted[None]).max(axis=2)
    parts = [p for _, g in truth for p in shapely.get_parts(g) if p.area > 4]
    holes = sum(len(p.interiors) for p in parts)
    areas = np.array([o.flattened(0.002) for o in traced.outlines])
    union = shapely.union_all(areas)
    closed = shapely.buffer(shapely.buffer(union, CLOSE), -CLOSE)
    return LayerScore(
        mean=float(off.mean()),
        most=float(np.quantile(off, 0.99)),
        colour=float(errors.min(axis=1).max()),
        shapes=(len(traced.outlines), sum(len(o.holes) for o in traced.outlines)) == (len(parts), holes),
        overlap=float(shapely.area(areas).sum() - union.area),
        gap=float(shapely.difference(closed, union).area),
    )


@dataclass(frozen=True)
class LineScore:
    """Distances of middle lines and errors of width in px; nodes: share of the truth's."""

    mean: float
    most: float
    width: float
    nodes: float


def score_lines(traced: Sequence[Line], truth: Sequence[tuple[Contour, float]]) -> LineScore:
    ours = [_along(line.contour) for line in traced]
    theirs = [_along(c) for c, _ in truth]
    own, true = np.concatenate(ours), np.concatenate(theirs)
    widths = np.repeat([line.width for line in traced], [len(p) for p in ours])
    true_widths = np.repeat([w for _, w in truth], [len(p) for p in theirs])
    there, nearest = KDTree(true).query(own)
    back, _ = KDTree(own).query(true)
    off = np.concatenate([there, back])
    count = sum(len(line.contour) + (not line.contour.closed) for line in traced)
    return LineScore(
        mean=float(off.mean()),
        most=float(np.quantile(off, 0.99)),
        width=float(np.abs(widths - true_widths[nearest]).mean()),
        nodes=count / sum(len(c) + (not c.closed) for c, _ in truth),
    )


def _along(contour: Contour) -> NDArray[np.float64]:
    """Dense points along a contour, open or closed, shape (n, 2)."""
    points = contour.flattened(0.005)
    if contour.closed:
        points = np.vstack([points, points[:1]])
    along = np.concatenate([[0], np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))])
    at = np.linspace(0, along[-1], max(8, int(along[-1] / 0.05)))
    return np.stack([np.interp(at, along, points[:, k]) for k in range(2)], axis=1)


@dataclass(frozen=True)
class MixedScore:
    """Of drawings with thick beside thin lines: distances of middle lines where they show, px; the worst and mean error
    of width over 95 % of their length, px; and the share of the truth's length that is there, with its width.
    """

    mean: float
    most: float
    width: float
    widest: float
    kept: float
    nodes: float


# A line is there where one lies within so many px, its width off by so much (px) at most, or by this share.
THERE, WIDTH_OFF, WIDTH_SHARE = 1.0, 0.6, 0.12


def score_mixed(traced: Sequence[Line], truth: Sequence[tuple[Contour, float]]) -> MixedScore:
    """What lies within a thicker line cannot be seen, and does not count."""
    ours, theirs = [_along(line.contour) for line in traced], [_along(c) for c, _ in truth]
    own_widths = np.repeat([line.width for line in traced], [len(p) for p in ours])
    true_widths = np.repeat([w for _, w in truth], [len(p) for p in theirs])
    own, true = np.concatenate(ours), np.concatenate(theirs)
    seen = _not_under(true, true_widths, theirs, truth)
    shown = _not_under(own, own_widths, theirs, truth)
    tree, back_tree = KDTree(true), KDTree(own)
    there, nearest = tree.query(own)
    # Of lines that cross the one is meant that has the width.
    near = back_tree.query(true, k=min(24, len(own)), distance_upper_bound=THERE)[1]
    wide = np.append(own_widths, np.inf)[near]
    right = np.abs(wide - true_widths[:, None]) <= np.maximum(WIDTH_OFF, WIDTH_SHARE * true_widths[:, None])
    kept = right.any(axis=1)
    back = back_tree.query(true)[0]
    off = np.concatenate([there[shown], back[seen]])
    wrong = np.abs(own_widths - true_widths[nearest])[shown & (there < THERE)]
    return MixedScore(
        mean=float(off.mean()),
        most=float(np.quantile(off, 0.99)),
        width=float(wrong.mean()) if len(wrong) else np.inf,
        widest=float(np.quantile(wrong, 0.95)) if len(wrong) else np.inf,
        kept=float(kept[seen].mean()),
        nodes=sum(len(n.contour) + (not n.contour.closed) for n in traced)
        / sum(len(c) + (not c.closed) for c, _ in truth),
    )


def _not_under(
    points: NDArray[np.float64],
    widths: NDArray[np.float64],
    lines: Sequence[NDArray[np.float64]],
    truth: Sequence[tuple[Contour, float]],
) -> NDArray[np.bool_]:
    """Which points, of lines of given widths, lie in no wider line of the truth."""
    free = np.ones(len(points), bool)
    for line, (_, width) in zip(lines, truth, strict=True):
        thinner = widths < 0.9 * width
        free &= ~(thinner & (KDTree(line[::4]).query(points, distance_upper_bound=width / 2 + 1)[0] < width / 2 + 0.5))
    return free
