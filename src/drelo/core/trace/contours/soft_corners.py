"""Shallow corners that the picture does not ask for made smooth: the kinks that noise leaves in round ends."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from drelo.core.outline.cubics import Array
from drelo.core.trace.corners.corners import MIN_TURN
from drelo.core.trace.fit.curves import Cloud, Curves, Flags, Indices
from drelo.core.trace.fit.merge import none_beside
from drelo.core.trace.fit.refine import beside, headings, joined, settle, turns
from drelo.core.trace.fit.scene import Scene, looked_at, observed

# What turns by less (radians) is hardly seen, and by more is surely a corner.
LEAST, MOST = 0.8 * MIN_TURN, 0.85
# A corner stays where without it the squares of all misses beside it, in those of the usual miss, grow by more; at
# first sight, by so much more.
ASKED, FIRST = 12.0, 24.0
# The median of squares is this share of their mean where misses are spread as noise is.
MEDIAN_SQUARE = 0.455
# Corners beside each other are judged one after the other.
PASSES = 3
# A curve without its corner settles in so many rounds at first sight, then in so many after each look at the picture.
ROUNDS, AFTER_LOOKS = 3, (2, 2)


def softened(curves: Curves, scene: Scene) -> Curves:
    """The curves with smooth nodes for shallow corners wherever they meet the picture's edge as well so."""
    stays = np.zeros(len(curves), bool)
    cloud: Cloud | None = None
    for _ in range(PASSES):
        at = _shallow(curves, ~stays)
        if not len(at):
            break
        cloud = cloud or observed(curves, scene)
        before, usual = _squares(curves, cloud), _usual(cloud)
        # Most that are corners are asked for by the edge as it was seen: no other look at the picture is needed.
        sure = _grown(before, _squares_led(_without(curves, at), cloud), curves, at) > FIRST * usual
        stays[at[sure]] = True
        at = at[~sure]
        if not len(at):
            continue
        trial = _without(curves, at)
        for rounds in AFTER_LOOKS:
            look = looked_at(trial, scene)
            for _ in range(rounds):
                trial = settle(trial, look.cloud(trial, scene), 1)
        trial_cloud = look.cloud(trial, scene)
        bad = at[_grown(before, _squares(trial, trial_cloud), curves, at) > ASKED * usual]
        stays[bad] = True
        if not len(bad):
            curves, cloud = joined(trial), trial_cloud
        elif len(bad) < len(at):
            curves = _with_again(trial, curves, bad)
            curves = joined(settle(curves, observed(curves, scene), 1))
            cloud = None
    return curves


def _shallow(curves: Curves, free: Flags) -> Indices:
    """Corners that may be none, those that turn least first, none beside another."""
    turn = turns(curves)
    ends = curves.void | curves.void[curves.before]
    lines = curves.straight & curves.straight[curves.before]
    at = np.flatnonzero(free & curves.corner & ~ends & ~lines & (turn > LEAST) & (turn < MOST))
    at = at[np.argsort(turn[at], kind="stable")]
    return at[none_beside(curves.before[at], at, curves.before, curves.following)]


def _without(curves: Curves, at: Indices) -> Curves:
    """The curves with smooth nodes for the corners `at`: in the direction of a line, else in that between both."""
    corner = curves.corner.copy()
    corner[at] = False
    into, out = headings(curves)
    between = np.arctan2(np.sin(into) + np.sin(out), np.cos(into) + np.cos(out))
    way = np.where(curves.straight, out, np.where(curves.straight[curves.before], into, between))[at]
    leaving, arriving = curves.leaving.copy(), curves.arriving.copy()
    leaving[at] = arriving[curves.before[at]] = way
    return replace(curves, corner=corner, leaving=leaving, arriving=arriving)


def _with_again(trial: Curves, curves: Curves, at: Indices) -> Curves:
    """The trial with the corners `at` as they were, and the segments beside them."""
    node, corner = trial.node.copy(), trial.corner.copy()
    node[at], corner[at] = curves.node[at], True
    leaving, arriving, handles = trial.leaving.copy(), trial.arriving.copy(), trial.handles.copy()
    for segment in (at, curves.before[at]):
        leaving[segment], arriving[segment] = curves.leaving[segment], curves.arriving[segment]
        handles[segment] = curves.handles[segment]
    return replace(trial, node=node, corner=corner, leaving=leaving, arriving=arriving, handles=handles)


def _squares_led(curves: Curves, cloud: Cloud) -> Array:
    """What each segment misses a cloud by, once the curves are led onto it."""
    cloud = beside(curves, cloud)
    curves = settle(curves, cloud, ROUNDS)
    return _squares(curves, beside(curves, cloud))


def _squares(curves: Curves, cloud: Cloud) -> Array:
    """The squares of what each segment misses the picture's edge by, summed up, px²."""
    return np.asarray(np.bincount(cloud.probes.segment, cloud.weight * _square(cloud), len(curves)), float)


def _usual(cloud: Cloud) -> float:
    """The square of the usual miss, px²."""
    return max(float(np.median(_square(cloud))) / MEDIAN_SQUARE, 1e-12)


def _square(cloud: Cloud) -> Array:
    shift = np.einsum("mi,mi->m", cloud.targets - cloud.probes.at, cloud.probes.normal)
    return np.asarray(shift**2)


def _grown(before: Array, after: Array, curves: Curves, at: Indices) -> Array:
    """By how much the squares of misses on both sides of each corner grew."""
    more = after - before
    return more[at] + more[curves.before[at]]
