"""All nodes and handles of all curves, moved together onto where the picture's edge was seen."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from drelo.core.compiled import compiled
from drelo.core.outline.cubics import Array
from drelo.core.trace.fit import rings
from drelo.core.trace.fit.curves import Cloud, Curves, Flags, Indices, Probes, angles, place, unit

# Damping of the normal equations for a node, its directions and its handles.
DAMPING = (0.05, 0.05, 0.4, 0.4, 0.05, 0.05)
# Moves larger than this (px for nodes and handles, radians for directions) are cut: a poor start must not run off.
MAX_MOVE, MAX_ROTATION = 1.5, 0.35
MIN_HANDLE = 0.05
# Weight (px² a radian²) that holds a curve to the direction of the line it meets smoothly.
TIE = 1e4
# A curve that leaves a line within this angle (radians) leaves it smoothly.
SMOOTH_JOIN = 0.16
# A curve whose end is turned bows by about this share of its chord for each radian; by so many px at most beside a line
# that is shorter than this share of it, and beside longer ones.
BOW, SHORT, MOST_BOW = 0.15, 0.5, (0.25, 1.0)


Hold = Callable[[Curves], Curves]
"""Puts right what several lines share, after they were moved one by one."""


def as_is(curves: Curves) -> Curves:
    """Lines that share nothing."""
    return curves


def settle(curves: Curves, cloud: Cloud, rounds: int, hold: Hold = as_is) -> Curves:
    """Gauss–Newton on the distance of the curves to a cloud's targets."""
    for left in range(rounds)[::-1]:
        found = cloud.probes
        shift = np.einsum("mi,mi->m", cloud.targets - found.at, found.normal)
        curves = hold(moved(curves, found, shift, cloud.weight))
        if left:
            cloud = beside(curves, cloud)
    return curves


def beside(curves: Curves, cloud: Cloud) -> Cloud:
    """The cloud with its probes where the curves, which have moved, come nearer to its targets."""
    found = cloud.probes
    u = _closer(curves.control, found.segment, found.u, cloud.targets)
    return replace(cloud, probes=place(curves, found.segment, u, found.first))


@compiled
def _closer(control: Array, segment: Indices, u: Array, targets: Array) -> Array:
    """Parameters nearer to the feet of the targets, one Newton step, kept in order within 0..1."""
    nearer = u.copy()
    for i in range(len(u)):
        p, t = control[segment[i]], u[i]
        v = 1 - t
        above = below = 0.0
        for k in range(2):
            one, two, three = p[1, k] - p[0, k], p[2, k] - p[1, k], p[3, k] - p[2, k]
            at = v * v * v * p[0, k] + 3 * v * t * (v * p[1, k] + t * p[2, k]) + t * t * t * p[3, k]
            along = 3 * (v * v * one + 2 * v * t * two + t * t * three)
            above += (at - targets[i, k]) * along
            below += along * along
        if below > 1e-9:
            nearer[i] = min(max(t - min(max(above / below, -0.1), 0.1), 0.0), 1.0)
    return nearer


def moved(curves: Curves, found: Probes, shift: Array, weight: Array) -> Curves:
    """The curves after one Gauss–Newton step towards shifts (px, along the normals) at the probes.

    A smooth node has one direction for both sides; corners turn freely; a curve that meets a line smoothly turns with
    it.
    """
    out, into = tied(curves)
    return curves.placed(
        *_step(
            curves.node,
            curves.leaving,
            curves.arriving,
            curves.handles,
            curves.straight,
            curves.smooth,
            out,
            into,
            curves.following,
            curves.before,
            found.segment,
            found.u,
            found.normal,
            shift,
            weight,
        )
    )


@compiled
def _step(
    node: Array,
    leaving: Array,
    arriving: Array,
    handles: Array,
    straight: Flags,
    smooth: Flags,
    tied_out: Flags,
    tied_in: Flags,
    following: Indices,
    before: Indices,
    segment: Indices,
    u: Array,
    normal: Array,
    shift: Array,
    weight: Array,
) -> tuple[Array, Array, Array, Array]:
    """Nodes, directions and handles after the step."""
    count = len(node)
    own, ahead, right = np.zeros((count, 6, 6)), np.zeros((count, 6, 6)), np.zeros((count, 6))
    for i in range(count):
        for k in range(6):
            own[i, k, k] = DAMPING[k]
    out, into = unit(leaving), unit(arriving)
    _add_shifts(own, ahead, right, following, smooth, segment, u, normal, shift, weight, out, into, handles, straight)
    _add_ties(own, ahead, right, following, before, tied_out, tied_in, leaving, arriving, node[following] - node)
    step = rings.solve(own, ahead, right, np.append(np.flatnonzero(before >= np.arange(count)), count))
    new_node, new_leaving, new_arriving = np.empty_like(node), np.empty(count), np.empty(count)
    new_handles = np.empty_like(handles)
    for i in range(count):
        for k in range(2):
            new_node[i, k] = node[i, k] + _within(step[i, k], MAX_MOVE)
        new_leaving[i] = leaving[i] + _within(step[i, 2], MAX_ROTATION)
        f = following[i]
        new_arriving[i] = arriving[i] + _within(step[f, 2] if smooth[f] else step[f, 3], MAX_ROTATION)
    for i in range(count):
        f = following[i]
        most = 1.5 * np.hypot(new_node[f, 0] - new_node[i, 0], new_node[f, 1] - new_node[i, 1])
        for k in range(2):
            grown = handles[i, k] + _within(step[i, 4] if k == 0 else step[f, 5], 3 * MAX_MOVE)
            new_handles[i, k] = min(max(grown, MIN_HANDLE), max(most, 2 * MIN_HANDLE))
    return new_node, new_leaving, new_arriving, new_handles


@compiled
def _within(value: float, most: float) -> float:
    return min(max(value, -most), most)


# Unknowns of a node: x, y, direction out and in, length of the handle out of it and of that into it.
@compiled
def _add_shifts(
    own: Array,
    ahead: Array,
    right: Array,
    following: Indices,
    smooth: Flags,
    segment: Indices,
    u: Array,
    normal: Array,
    shift: Array,
    weight: Array,
    out: Array,
    into: Array,
    handles: Array,
    straight: Flags,
) -> None:
    # Of a segment: the first four unknowns are of its start (x, y, direction, handle), the others of its end.
    row, square, side, at_start, at_end = (
        np.zeros(8),
        np.zeros((8, 8)),
        np.zeros(8),
        np.array([0, 1, 2, 4]),
        np.zeros(4, np.int64),
    )
    for i in range(len(segment)):
        s, t = segment[i], u[i]
        v = 1 - t
        nx, ny = normal[i, 0], normal[i, 1]
        if straight[s]:
            row[:] = 0.0
            row[0], row[1], row[4], row[5] = v * nx, v * ny, t * nx, t * ny
        else:
            b1, b2 = 3 * t * v * v, 3 * t * t * v
            near, far = v * v * v + b1, t * t * t + b2
            row[0], row[1], row[4], row[5] = near * nx, near * ny, far * nx, far * ny
            row[2] = b1 * handles[s, 0] * (ny * out[s, 0] - nx * out[s, 1])
            row[3] = b1 * (nx * out[s, 0] + ny * out[s, 1])
            row[6] = -b2 * handles[s, 1] * (ny * into[s, 0] - nx * into[s, 1])
            row[7] = -b2 * (nx * into[s, 0] + ny * into[s, 1])
        for a in range(8):
            scaled = row[a] * weight[i]
            side[a] += scaled * shift[i]
            for b in range(a + 1):
                square[a, b] += scaled * row[b]
        if i + 1 == len(segment) or segment[i + 1] != s:
            f = following[s]
            at_end[:] = np.array([0, 1, 2 if smooth[f] else 3, 5])
            for a in range(4):
                right[s, at_start[a]] += side[a]
                right[f, at_end[a]] += side[4 + a]
                for b in range(4):
                    # Only the lower half was added up.
                    low, high = min(a, b), max(a, b)
                    own[s, at_start[a], at_start[b]] += square[high, low]
                    own[f, at_end[a], at_end[b]] += square[4 + high, 4 + low]
                    ahead[s, at_start[a], at_end[b]] += square[4 + b, a]
            square[:], side[:] = 0.0, 0.0


@compiled
def _add_ties(
    own: Array,
    ahead: Array,
    right: Array,
    following: Indices,
    before: Indices,
    tied_out: Flags,
    tied_in: Flags,
    leaving: Array,
    arriving: Array,
    chord: Array,
) -> None:
    """One equation a tied end: the curve's angle turns with its line, whose nodes move."""
    start, end = np.zeros(6), np.zeros(6)
    for i in range(len(following)):
        for which in range(2):
            if not (tied_out[i] if which == 0 else tied_in[i]):
                continue
            line = before[i] if which == 0 else following[i]
            own_angle = leaving[i] if which == 0 else arriving[i]
            length = max(chord[line, 0] ** 2 + chord[line, 1] ** 2, 1e-12)
            # How the line's angle follows its end's x and y.
            turn_x, turn_y = -chord[line, 1] / length, chord[line, 0] / length
            start[:], end[:] = 0.0, 0.0
            start[0], start[1], end[0], end[1] = turn_x, turn_y, -turn_x, -turn_y
            if which == 0:
                end[2] = 1.0
            else:
                start[3] = 1.0
            apart = (np.arctan2(chord[line, 1], chord[line, 0]) - own_angle + np.pi) % (2 * np.pi) - np.pi
            rings.add_pair(own, ahead, right, line, following[line], start, end, TIE, apart)


def tied(curves: Curves) -> tuple[Flags, Flags]:
    """Which curves leave a line, and which run into one, smoothly."""
    out = ~curves.straight & ~curves.corner & curves.straight[curves.before]
    into = ~curves.straight & ~curves.corner[curves.following] & curves.straight[curves.following]
    return out, into


def _tied(curves: Curves) -> Curves:
    chord = angles(curves.node[curves.following] - curves.node)
    out, into = tied(curves)
    return replace(
        curves,
        leaving=np.where(out, chord[curves.before], curves.leaving),
        arriving=np.where(into, chord[curves.following], curves.arriving),
    )


def joined(curves: Curves) -> Curves:
    """Says of every node beside a line whether it is a corner, by the angle there; ties what runs on smoothly.

    The ends of open lines stay corners.
    """
    beside_line = curves.straight | curves.straight[curves.before]
    end = curves.void | curves.void[curves.before]
    turn = turns(curves)
    # A long curve cannot take the direction of a line, least of a short one's that is hardly known, without a bow.
    chord = np.linalg.norm(curves.node[curves.following] - curves.node, axis=1)
    line = np.where(curves.straight, chord, chord[curves.before])
    curve = np.where(curves.straight, chord[curves.before], chord)
    bows = BOW * turn * curve > np.where(line < SHORT * curve, *MOST_BOW)
    corner = np.where(beside_line, (turn > SMOOTH_JOIN) | bows, curves.corner) | end
    return _tied(replace(curves, corner=corner))


def headings(curves: Curves) -> tuple[Array, Array]:
    """Directions in which the outline comes to the start of every segment and goes on from it, radians."""
    chord = angles(curves.node[curves.following] - curves.node)
    into = np.where(curves.straight, chord, curves.arriving)[curves.before]
    return into, np.where(curves.straight, chord, curves.leaving)


def turns(curves: Curves) -> Array:
    """How far the outline turns at the start of every segment, radians."""
    into, out = headings(curves)
    return np.asarray(np.abs((out - into + np.pi) % (2 * np.pi) - np.pi))
