"""Fewer nodes: two curves become one wherever the picture's edge is met as well by it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from drelo.core.compiled import compiled
from drelo.core.outline.cubics import Array, fit
from drelo.core.trace.corners.corners import MIN_TURN
from drelo.core.trace.fit.curves import Cloud, Curves, Flags, Indices, place, unit
from drelo.core.trace.fit.refine import Hold, as_is, settle, tied, turns

# Passes over all nodes, and rounds of fitting in each; more of both on large pictures.
PASSES, ROUNDS = 3, 2
PATIENT_PASSES, PATIENT_ROUNDS = 16, 16
# One curve for two is tried when it misses, its ends kept as they are, by less than this many tolerances.
WORTH_TRYING = 3.0
# … and, since the directions at its ends are hardly known to better, this share of its length.
STIFF = 0.002
# It may be this much worse than the two were, root mean square.
WORSE = 1.2
# Misses (px) are averaged over this many points, so that noise is not taken for shape.
AVERAGED = 5
# A curve that strays from its chord by less than this many tolerances is a line.
FLAT = 0.6
# Between two corners so near to each other (px) nothing is known of a curve.
BOTH_NEAR = 1.5
# A bend is taken for a corner where a line meets it beside a short piece (px) at less than this (radians).
# It goes where a curve is no worse, or misses by this share of what else it might.
BEND, SHORT, BEND_SHARE = 0.75, 18.0, 1.0
# It may turn by this much (radians) at most.
MAX_TURN = 2.7


def merged(curves: Curves, cloud: Cloud, tolerance: float, hold: Hold = as_is, patient: bool = False) -> Curves:
    """The curves with as few nodes as keep them within `tolerance` px (root mean square) of a cloud's targets.

    patient: on large pictures long curves are cut more often, and a joined one takes longer to come to rest.
    """
    keep = np.zeros(len(curves), bool)
    # What the curves missed by at first, so that one pass after another does not add up.
    before = _misses(curves, cloud)
    again = patient
    for _ in range(PATIENT_PASSES if patient else PASSES):
        chosen, handles = _candidates(curves, cloud, ~keep, tolerance)
        if not len(chosen) and again:
            # Meanwhile its neighbours have moved: what could not go may now.
            again, keep = False, np.zeros(len(curves), bool)
            chosen, handles = _candidates(curves, cloud, ~keep, tolerance)
        if not len(chosen):
            break
        trial, trial_cloud = _joined(curves, cloud, chosen, handles)
        trial = settle(trial, trial_cloud, PATIENT_ROUNDS if patient else ROUNDS, hold)
        good = _good(curves, chosen, before, _misses(trial, trial_cloud), tolerance)
        keep[chosen[~good]] = True
        if not good.all():
            trial, trial_cloud = _joined(curves, cloud, chosen[good], handles[good])
            if good.any():
                trial = settle(trial, trial_cloud, 1, hold)
        keep = np.delete(keep, chosen[good])
        before = _worse_of_two(before, curves.before[chosen[good]], chosen[good])
        curves, cloud = trial, trial_cloud
    return straightened(curves, FLAT * tolerance)


def _worse_of_two(misses: tuple[Array, Array], into: Indices, gone: Indices) -> tuple[Array, Array]:
    """Misses after segments went into others: each has the worse of the two."""
    rms, most = (m.copy() for m in misses)
    for m in (rms, most):
        m[into] = np.maximum(m[into], m[gone])
    return np.delete(rms, gone), np.delete(most, gone)


def straightened(curves: Curves, within: float) -> Curves:
    """Curves that stray from a line by less than `within` px, or join corners that are hardly apart, are lines."""
    p = curves.control
    chord = p[:, 3] - p[:, 0]
    length = np.maximum(np.linalg.norm(chord, axis=1), 1e-9)
    off = np.abs([(p[:, k] - p[:, 0])[:, 0] * chord[:, 1] - (p[:, k] - p[:, 0])[:, 1] * chord[:, 0] for k in (1, 2)])
    # A cubic strays by three quarters of its handles at most.
    straight = curves.straight | (0.75 * off.max(axis=0) / length < within)
    return replace(curves, straight=straight | (curves.corner & curves.corner[curves.following] & (length < BOTH_NEAR)))


def _misses(curves: Curves, cloud: Cloud) -> tuple[Array, Array]:
    """Root mean square and largest averaged distance of every segment to its targets, px."""
    found = place(curves, cloud.probes.segment, cloud.probes.u, cloud.probes.first)
    shift = np.einsum("mi,mi->m", cloud.targets - found.at, found.normal)
    return _summed(shift, cloud.weight, found.segment, len(curves))


@compiled
def _summed(shift: Array, weight: Array, segment: Indices, count: int) -> tuple[Array, Array]:
    square, most, weights = np.zeros(count), np.zeros(count), np.full(count, 1e-9)
    for i in range(len(shift)):
        s = segment[i]
        square[s] += weight[i] * shift[i] ** 2
        weights[s] += weight[i]
        total = share = 0.0
        for j in range(max(0, i - AVERAGED // 2), min(len(shift), i + AVERAGED // 2 + 1)):
            if segment[j] == s:
                total += weight[j] * shift[j]
                share += weight[j]
        most[s] = max(most[s], abs(total) / max(share, 1e-9) * min(1.0, share / 2))
    return np.sqrt(square / weights), most


def _candidates(curves: Curves, cloud: Cloud, free: Flags, tolerance: float) -> tuple[Indices, Array]:
    """Nodes whose two segments may become one, none beside another, best first; and the one's handles."""
    out, into = tied(curves)
    lines = curves.straight & curves.straight[curves.before] & ~curves.corner
    goes_on = curves.smooth | out | into[curves.before] | lines
    node = np.flatnonzero(free & (goes_on | _bends(curves)))
    a = curves.before[node]
    node = node[(a != node) & (curves.following[node] != a)]
    a = curves.before[node]
    turn = np.abs(_bend(curves)[a] + _bend(curves)[node])
    node, a = node[turn < MAX_TURN], a[turn < MAX_TURN]
    fitted = _fit_all(
        a,
        node,
        curves.node,
        curves.following,
        unit(_leaving(curves)),
        unit(_arriving(curves)),
        cloud.targets,
        np.append(cloud.probes.first, len(cloud.targets)),
    )
    order = np.argsort(fitted[:, 3], kind="stable")
    length = curves.lengths[a] + curves.lengths[node]
    order = order[fitted[order, 3] < WORTH_TRYING * tolerance + STIFF * length[order]]
    chosen = order[none_beside(a[order], node[order], curves.before, curves.following)]
    return node[chosen], fitted[chosen][:, :2]


def _bends(curves: Curves) -> Flags:
    """Corners that may be no more than tight bends: the outline turns by little beside a short piece."""
    short = np.minimum(curves.lengths, curves.lengths[curves.before]) < SHORT
    ends = curves.void | curves.void[curves.before]
    turn = turns(curves)
    return np.asarray(short & ~ends & (turn > MIN_TURN) & (turn < BEND))


@compiled
def none_beside(a: Indices, b: Indices, before: Indices, following: Indices) -> Flags:
    """Which pairs of segments touch none that was chosen before them, nor its neighbours."""
    used, free = np.zeros(len(before), np.bool_), np.zeros(len(a), np.bool_)
    for i in range(len(a)):
        one, two, three, four = before[a[i]], a[i], b[i], following[b[i]]
        if not (used[one] or used[two] or used[three] or used[four]):
            used[one] = used[two] = used[three] = used[four] = free[i] = True
    return free


def _bend(curves: Curves) -> Array:
    turn = (curves.arriving - curves.leaving + np.pi) % (2 * np.pi) - np.pi
    return np.where(curves.straight, 0.0, turn)


def _chord(curves: Curves) -> Array:
    step = curves.node[curves.following] - curves.node
    return np.asarray(np.arctan2(step[:, 1], step[:, 0]))


def _leaving(curves: Curves) -> Array:
    return np.where(curves.straight, _chord(curves), curves.leaving)


def _arriving(curves: Curves) -> Array:
    return np.where(curves.straight, _chord(curves), curves.arriving)


@compiled
def _fit_all(
    a: Indices,
    b: Indices,
    node: Array,
    following: Indices,
    leaving: Array,
    arriving: Array,
    targets: Array,
    first: Indices,
) -> Array:
    result = np.empty((len(a), 4))
    for i in range(len(a)):
        one, two = targets[first[a[i]] : first[a[i] + 1]], targets[first[b[i]] : first[b[i] + 1]]
        data = np.empty((len(one) + len(two), 2))
        data[: len(one)], data[len(one) :] = one, two
        start, end = node[a[i]], node[following[b[i]]]
        u = np.empty(len(data))
        along = np.hypot(data[0, 0] - start[0], data[0, 1] - start[1])
        u[0] = along
        for k in range(1, len(data)):
            along += np.hypot(data[k, 0] - data[k - 1, 0], data[k, 1] - data[k - 1, 1])
            u[k] = along
        u /= max(along + np.hypot(data[-1, 0] - end[0], data[-1, 1] - end[1]), 1e-9)
        result[i] = fit(start, leaving[a[i]], end, arriving[b[i]], data, u, 3)
    return result


def _joined(curves: Curves, cloud: Cloud, chosen: Indices, handles: Array) -> tuple[Curves, Cloud]:
    """The segments that begin at the chosen nodes go into those before them, and their targets with them."""
    a = curves.before[chosen]
    leaving, arriving = curves.leaving.copy(), curves.arriving.copy()
    leaving[a], arriving[a] = _leaving(curves)[a], _arriving(curves)[chosen]
    all_handles, straight = curves.handles.copy(), curves.straight.copy()
    all_handles[a], straight[a] = handles, False
    stay = np.ones(len(curves), bool)
    stay[chosen] = False
    number = np.cumsum(stay) - 1
    after = replace(
        curves,
        node=curves.node[stay],
        leaving=leaving[stay],
        arriving=arriving[stay],
        handles=all_handles[stay],
        straight=straight[stay],
        corner=curves.corner[stay],
        line=curves.line[stay],
        void=curves.void[stay],
    )
    owner = np.where(stay, number, 0)
    owner[chosen] = number[a]
    segment = owner[cloud.probes.segment]
    # A segment that began its line goes to the line's end: its points follow those of the segment before it.
    order = np.argsort(segment + np.where(stay[cloud.probes.segment], 0.0, 0.5), kind="stable")
    first = np.searchsorted(segment[order], np.arange(len(after)))
    u = _spread(cloud.targets[order], segment[order], len(after))
    found = place(after, segment[order], u, first)
    return after, Cloud(found, cloud.targets[order], cloud.weight[order])


@compiled
def _spread(targets: Array, segment: Indices, count: int) -> Array:
    """Parameters of points by their share of the way along the segment they belong to."""
    u = np.zeros(len(targets))
    for i in range(1, len(targets)):
        if segment[i] == segment[i - 1]:
            u[i] = u[i - 1] + np.hypot(targets[i, 0] - targets[i - 1, 0], targets[i, 1] - targets[i - 1, 1])
    length, many = np.zeros(count), np.zeros(count)
    for i in range(len(targets)):
        length[segment[i]] = max(length[segment[i]], u[i])
        many[segment[i]] += 1
    for i in range(len(targets)):
        s = segment[i]
        gap = length[s] / max(many[s] - 1, 1)
        u[i] = (u[i] + gap / 2) / max(length[s] + gap, 1e-9)
    return u


def _good(
    curves: Curves, chosen: Indices, before: tuple[Array, Array], after: tuple[Array, Array], tolerance: float
) -> Flags:
    """Which of the joined segments meet their targets about as well as the two did, and spoil no neighbour."""
    stay = np.ones(len(curves), bool)
    stay[chosen] = False
    number = np.cumsum(stay) - 1
    a = curves.before[chosen]
    good = np.ones(len(chosen), bool)
    # A corner goes only where nothing speaks for it.
    worse = np.where(_bends(curves)[chosen], 1.0, WORSE)
    least = np.where(_bends(curves)[chosen], BEND_SHARE, 1.0) * tolerance
    for at, others in ((a, (a, chosen)), (curves.before[a], (curves.before[a],)), (curves.following[chosen],) * 2):
        group = others if isinstance(others, tuple) else (others,)
        was = np.max([before[0][g] for g in group], axis=0)
        was_most = np.max([before[1][g] for g in group], axis=0)
        now, now_most = after[0][number[at]], after[1][number[at]]
        good &= now <= np.maximum(least, worse * was)
        good &= now_most <= np.maximum(2.5 * least, worse * was_most)
    return good
