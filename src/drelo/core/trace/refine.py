"""All nodes and handles of all outlines, moved together to lie closest to the picture's edge."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import scipy.sparse
import scipy.sparse.linalg
from numpy.typing import NDArray

from drelo.core.trace import cubics
from drelo.core.trace.cubics import Array, Ends, basis, control_points
from drelo.core.trace.segments import Segments

ROUNDS = 3
# Damping of the normal equations: nodes slide along a curve only as far as it pays.
DAMPING = 0.02
# Moves larger than this (px for nodes and handles, radians for directions) are cut: a poor start must not run off.
MAX_MOVE, MAX_ROTATION = 1.5, 0.35
# A curve that leaves a line within this angle (cosine) leaves it smoothly.
SMOOTH_JOIN = 0.99
MIN_HANDLE = 0.05


def refine(segments: Segments) -> Segments:
    """Gauss–Newton on the distance of every segment to its data.

    A smooth node has one direction for both sides; corners and the ends of lines turn freely.
    """
    count = len(segments.line)
    if not count:
        return segments
    following = _following(segments.line)
    # Parameters: x and y of every node, direction out of and into every segment's ends, two handles a segment.
    line_before = np.empty(count, bool)
    line_before[following] = segments.straight
    smooth = ~segments.corner & ~segments.straight & ~line_before
    node_out = 2 * count + np.arange(count)
    node_in = np.where(smooth, node_out, 3 * count + np.arange(count))
    columns = np.stack(
        [
            2 * np.arange(count),
            2 * np.arange(count) + 1,
            node_out,
            4 * count + np.arange(count),
            2 * following,
            2 * following + 1,
            node_in[following],
            5 * count + np.arange(count),
        ],
        axis=1,
    )
    ends, handles = segments.ends, segments.handles.copy()
    point = ends.start.copy()
    out_angle = np.arctan2(ends.start_direction[:, 1], ends.start_direction[:, 0])
    in_angle = np.empty(count)
    in_angle[following] = np.arctan2(ends.end_direction[:, 1], ends.end_direction[:, 0])
    u = np.tile((np.arange(segments.data.shape[1]) + 0.5) / segments.data.shape[1], (count, 1))
    p = _shape(ends, handles, segments.straight)
    for _ in range(2):
        u = cubics.closer(p, segments.data, u)
    for _ in range(ROUNDS):
        step = _step(p, ends, handles, u, segments, columns, 6 * count)
        point += np.clip(step[: 2 * count].reshape(-1, 2), -MAX_MOVE, MAX_MOVE)
        turn = np.clip(step[2 * count : 3 * count], -MAX_ROTATION, MAX_ROTATION)
        turn_in = np.where(smooth, turn, np.clip(step[3 * count : 4 * count], -MAX_ROTATION, MAX_ROTATION))
        out_angle, in_angle = out_angle + turn, in_angle + turn_in
        grown = handles + np.clip(
            np.stack([step[4 * count : 5 * count], step[5 * count :]], axis=1), -MAX_MOVE * 3, MAX_MOVE * 3
        )
        chord = np.linalg.norm(point[following] - point, axis=1, keepdims=True)
        handles = np.clip(grown, MIN_HANDLE, np.maximum(1.5 * chord, 2 * MIN_HANDLE))
        ends = Ends(point, _unit(out_angle), point[following], _unit(in_angle[following]))
        p = _shape(ends, handles, segments.straight)
        u = cubics.closer(p, segments.data, u)
    ends, corner = _joined_smoothly(ends, segments, following)
    return replace(segments, ends=ends, handles=handles, corner=corner)


def _following(line: NDArray[np.int64]) -> NDArray[np.int64]:
    """Index of the next segment round the same line."""
    count = len(line)
    begin = np.flatnonzero(np.concatenate([[True], line[1:] != line[:-1]]))
    after = np.arange(1, count + 1)
    after[np.append(begin[1:], count) - 1] = begin
    return after


def _unit(angle: Array) -> Array:
    return np.stack([np.cos(angle), np.sin(angle)], axis=1)


def _shape(ends: Ends, handles: Array, straight: NDArray[np.bool_]) -> Array:
    p = control_points(ends, handles)
    third = (p[:, 3] - p[:, 0]) / 3
    p[straight, 1] = (p[:, 0] + third)[straight]
    p[straight, 2] = (p[:, 3] - third)[straight]
    return p


def _step(
    p: Array, ends: Ends, handles: Array, u: Array, segments: Segments, columns: NDArray[np.int64], size: int
) -> Array:
    b = basis(u)
    off = np.einsum("nkj,nji->nki", b, p) - segments.data
    v = 1 - u
    along = (
        (v * v)[..., None] * (p[:, 1] - p[:, 0])[:, None]
        + (2 * u * v)[..., None] * (p[:, 2] - p[:, 1])[:, None]
        + (u * u)[..., None] * (p[:, 3] - p[:, 2])[:, None]
    )
    length = np.linalg.norm(along, axis=2, keepdims=True)
    normal = np.stack([-along[..., 1], along[..., 0]], axis=2) / np.maximum(length, 1e-9)
    distance = np.einsum("nki,nki->nk", off, normal)
    sides = []
    for near, handle_basis, handle, direction, sign in (
        (b[..., 0] + b[..., 1], b[..., 1], handles[:, 0], ends.start_direction, 1.0),
        (b[..., 2] + b[..., 3], b[..., 2], handles[:, 1], ends.end_direction, -1.0),
    ):
        # On a line the basis of its ends is what is left of a straight blend.
        blend = np.where(segments.straight[:, None], v if sign > 0 else u, near)
        curve = np.where(segments.straight[:, None], 0.0, handle_basis)
        across = np.einsum("nki,ni->nk", normal, np.stack([-direction[:, 1], direction[:, 0]], axis=1))
        forward = np.einsum("nki,ni->nk", normal, direction)
        sides += [
            blend * normal[..., 0],
            blend * normal[..., 1],
            sign * curve * handle[:, None] * across,
            sign * curve * forward,
        ]
    jacobian = np.stack(sides, axis=2)
    square = np.einsum("nki,nkj->nij", jacobian, jacobian)
    right = np.einsum("nki,nk->ni", jacobian, distance)
    rows = np.repeat(columns[:, :, None], 8, axis=2)
    cols = np.repeat(columns[:, None, :], 8, axis=1)
    matrix = scipy.sparse.csc_matrix((square.ravel(), (rows.ravel(), cols.ravel())), shape=(size, size))
    weight = np.full(size, DAMPING)
    # Directions are in radians: a small turn moves a far handle a lot.
    count = size // 6
    weight[2 * count : 4 * count] *= 4
    vector = np.bincount(columns.ravel(), right.ravel(), minlength=size)
    solved: Array = scipy.sparse.linalg.spsolve(matrix + scipy.sparse.diags_array(weight, format="csc"), -vector)
    return solved


def _joined_smoothly(ends: Ends, segments: Segments, following: NDArray[np.int64]) -> tuple[Ends, NDArray[np.bool_]]:
    """Curves that leave or meet a line nearly along it do so exactly; what turns more is a corner."""
    chord = ends.end - ends.start
    chord /= np.maximum(np.linalg.norm(chord, axis=1, keepdims=True), 1e-9)
    out = np.where(segments.straight[:, None], chord, ends.start_direction)
    into = np.where(segments.straight[:, None], chord, ends.end_direction)
    before = np.empty_like(following)
    before[following] = np.arange(len(following))
    close = np.einsum("ni,ni->n", out, into[before]) > SMOOTH_JOIN
    line_before = segments.straight[before]
    take_before = close & line_before & ~segments.straight
    out[take_before] = into[before][take_before]
    take_after = (close & segments.straight & ~line_before)[following]
    into[take_after] = chord[following][take_after]
    corner = np.where(segments.straight | line_before, ~close | segments.corner, segments.corner)
    return Ends(ends.start, out, ends.end, into), corner
