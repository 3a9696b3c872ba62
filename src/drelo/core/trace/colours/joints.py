"""Junctions, in which several open lines end."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from drelo.core.trace.colours.arcs import Arcs
from drelo.core.trace.fit.curves import Curves, Indices, angles, picked
from drelo.core.trace.fit.refine import turns

Array = NDArray[np.float64]

# A junction stays this near (px) to where the labels meet; how much it is drawn to the middle of the ends there.
MAX_STRAY, LOOSE = 1.5, 0.05
# Beside a junction a segment shorter than LONG px that strays from its chord by less than BENT px is a line when it
# goes on as a line, or in a corner; and one with a line that it goes on in by less than TURNED, radians.
LONG, BENT, TURNED = 15.0, 0.25, 0.06


class Joints:
    """Ends of open lines that meet in one junction; those on the border stay on it."""

    def __init__(self, arcs: Arcs, inner: Indices, width: int, height: int) -> None:
        self._ends = arcs.ends[inner]
        self._home = arcs.junctions
        self._size = np.array([width, height], np.float64)

    def places(self, curves: Curves) -> Array:
        """Where each junction lies: nearest to all arcs that end there, each drawn on straight; near its home.

        An arc says where the junction lies across it, and hardly where along it.
        """
        nodes, joints = self._nodes(curves)
        count = len(self._home)
        last = np.flatnonzero(curves.void)
        final = curves.before[last]
        chord = angles(curves.node[curves.following] - curves.node)
        first = curves.following[last]
        heading = np.concatenate(
            [
                np.where(curves.straight[first], chord[first], curves.leaving[first]),
                np.where(curves.straight[final], chord[final], curves.arriving[final]),
            ]
        )
        x, y = -np.sin(heading), np.cos(heading)
        end = curves.node[nodes]
        across = x * end[:, 0] + y * end[:, 1]

        def total(values: Array) -> Array:
            return np.asarray(np.bincount(joints, values, count), np.float64)

        many = np.maximum(total(np.ones(len(joints))), 1)
        mean = np.stack([total(end[:, 0]) / many, total(end[:, 1]) / many], axis=1)
        xx, xy, yy = total(x * x) + LOOSE, total(x * y), total(y * y) + LOOSE
        bx, by = total(x * across) + LOOSE * mean[:, 0], total(y * across) + LOOSE * mean[:, 1]
        determinant = xx * yy - xy * xy
        found = np.stack([(bx * yy - by * xy) / determinant, (by * xx - bx * xy) / determinant], axis=1)
        found = np.clip(found, self._home - MAX_STRAY, self._home + MAX_STRAY)
        on_border = (self._home == 0) | (self._home == self._size)
        along = np.where(on_border[:, ::-1], mean, found)
        return np.where(on_border, self._home, np.clip(along, 0, self._size))

    def hold(self, curves: Curves) -> Curves:
        nodes, joints = self._nodes(curves)
        if not len(nodes):
            return curves
        node = curves.node.copy()
        node[nodes] = self.places(curves)[joints]
        return replace(curves, node=node)

    def _nodes(self, curves: Curves) -> tuple[Indices, Indices]:
        last = np.flatnonzero(curves.void)
        first = curves.following[last]
        line = curves.line[last]
        return np.concatenate([first, last]), np.concatenate([self._ends[line, 0], self._ends[line, 1]])


def straight_at_joints(curves: Curves) -> Curves:
    """Curves with lines for what all but runs straight into a junction.

    A pixel there mixes three areas and says little of where two of them meet, so that lines look bent.
    """
    end = curves.void | curves.void[curves.before]
    begins, arrives = end & ~curves.void, end[curves.following] & ~curves.void
    p = curves.control
    chord = p[:, 3] - p[:, 0]
    length = np.maximum(np.linalg.norm(chord, axis=1), 1e-9)
    off = p[:, 1:3] - p[:, :1]
    bow = 0.75 * np.abs(chord[:, None, 0] * off[:, :, 1] - chord[:, None, 1] * off[:, :, 0]).max(axis=1) / length
    # What it goes on in at the end that is no junction.
    ahead = curves.corner[curves.following] | curves.straight[curves.following] | arrives
    behind = curves.corner | curves.straight[curves.before] | begins
    flat = (begins | arrives) & ahead & behind & (length < LONG) & (bow < BENT)
    found = replace(curves, straight=curves.straight | flat)
    needless = (flat | flat[found.before]) & found.straight & found.straight[found.before]
    needless &= (turns(found) < TURNED) & ~end
    return picked(found, ~(needless & ~needless[found.before]))
