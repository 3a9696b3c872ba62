"""How well any trace can know an outline of which a picture without antialiasing is all there is.

A random walk over outlines that have the truth's own nodes, corners and lines, and make the very same picture. How far
they lie from the truth, over the square root of two, is about what the mean of all of them, the best that one could
answer, would miss it by.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from benchmarks.tracing import render
from benchmarks.tracing.measure import distances
from benchmarks.tracing.truth import Truth
from drelo.core.outline.contour import Contour
from drelo.core.trace.contours.fit import contours
from drelo.core.trace.fit.curves import Curves, angles, edges
from drelo.core.trace.seen.coverage import coverage

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]

# Steps of a walk; in its second half it is looked at so often.
STEPS, LOOKS = 40_000, 5
# An outline stays so near to the truth: nodes (px), directions (radians), handles (times their length, and px more).
NEAR, TURNED, LONGER, SLACK = 1.0, 0.4, 1.6, 0.3
# How a step begins, px, and how it grows and shrinks as it may be taken or not.
STEP, GROWS, SHRINKS = 0.15, 1.15, 0.96
# Curves that meet at a smaller angle (radians) are smooth there.
SMOOTH = 0.02


def apart(truth: Truth, side: int, seed: int = 0) -> float:
    """Mean distance, px, of outlines that make the same picture of `side` px as the truth does, to the truth."""
    outlines, width, height = truth.fitted(side)
    own = [
        c if (c.area > 0) == (k == 0) else c.reversed() for outline in outlines for k, c in enumerate(outline.contours)
    ]
    walk = _Walk(_as_curves(own), render.coverage(outlines, width, height) > 0.5, np.random.default_rng(seed))
    seen = []
    for step in range(STEPS):
        walk.step()
        if step >= STEPS // 2 and step % (STEPS // 2 // LOOKS) == 0:
            there = contours(walk.curves, len(own), (0.0, 0.0))
            seen.append(np.concatenate([distances(there, own), distances(own, there)]).mean())
    return float(np.mean(seen))


def _as_curves(own: list[Contour]) -> Curves:
    p = np.concatenate([c.curves for c in own])
    straight = np.concatenate([c.straight for c in own])
    line = np.repeat(np.arange(len(own)), [len(c) for c in own])
    chord = p[:, 3] - p[:, 0]
    ends = []
    for near, far, sign in ((0, 1, 1), (3, 2, -1)):
        handle = sign * (p[:, far] - p[:, near])
        other = sign * (p[:, 3 - far] - p[:, near])
        handle = np.where(np.linalg.norm(handle, axis=1, keepdims=True) < 1e-6, other, handle)
        ends.append(angles(np.where(straight[:, None], chord, handle)))
    handles = np.stack([np.linalg.norm(p[:, 1] - p[:, 0], axis=1), np.linalg.norm(p[:, 3] - p[:, 2], axis=1)], axis=1)
    none = np.zeros(len(p), bool)
    curves = Curves(p[:, 0], ends[0], ends[1], handles, straight, ~none, line, none)
    return replace(curves, corner=_turn(curves.leaving, curves.arriving[curves.before]) > SMOOTH)


def _turn(one: Array, other: Array) -> Array:
    return np.asarray(np.abs((one - other + np.pi) % (2 * np.pi) - np.pi))


@dataclass
class _Walk:
    """curves: where the walk is. bits: the picture, shape (height, width)."""

    curves: Curves
    bits: Mask
    random: np.random.Generator

    def __post_init__(self) -> None:
        self._truth = self.curves
        self._sizes = np.full(len(self.curves), STEP)
        # Where two ways to cover a pixel differ by a hair of half of it, the picture says nothing.
        self._unsure = self._wrong(self.curves)

    def step(self) -> None:
        """Moves a node, turns it, or moves a segment, if the picture stays what it is."""
        k = int(self.random.integers(len(self.curves)))
        moved = self._moved(k, self._sizes[k])
        if self._is_near(moved) and not (self._wrong(moved) & ~self._unsure).any():
            self.curves = moved
            self._sizes[k] = min(self._sizes[k] * GROWS, NEAR)
        else:
            self._sizes[k] = max(self._sizes[k] * SHRINKS, 0.01)

    def _moved(self, k: int, size: float) -> Curves:
        c = self.curves
        node, leaving, arriving, handles = c.node.copy(), c.leaving.copy(), c.arriving.copy(), c.handles.copy()
        b, corner = int(c.before[k]), bool(c.corner[k])
        kind = int(self.random.integers(3))
        if kind == 1:
            handles[k, 0] = max(0.05, handles[k, 0] + 2 * size * self.random.normal())
            handles[b, 1] = max(0.05, handles[b, 1] + 2 * size * self.random.normal())
            turn = size / 5 * self.random.normal()
            leaving[k] += turn
            arriving[b] += size / 5 * self.random.normal() if corner else turn
        else:
            by = size * self.random.normal(size=2)
            node[k] += by
            if kind == 2:
                node[c.following[k]] += by
        chord = angles(node[c.following] - node)
        # What goes on smoothly from a line turns with it.
        leaving = np.where(~c.corner & c.straight[c.before], chord[c.before], leaving)
        arriving = np.where(~c.corner[c.following] & c.straight[c.following], chord[c.following], arriving)
        return replace(c, node=node, leaving=leaving, arriving=arriving, handles=handles)

    def _is_near(self, moved: Curves) -> bool:
        truth, bent = self._truth, ~moved.straight
        return bool(
            np.abs(moved.node - truth.node).max() < NEAR
            and _turn(moved.leaving, truth.leaving)[bent].max(initial=0) < TURNED
            and _turn(moved.arriving, truth.arriving)[bent].max(initial=0) < TURNED
            and (moved.handles < LONGER * truth.handles + SLACK)[bent].all()
            and (moved.handles > truth.handles / LONGER - SLACK)[bent].all()
        )

    def _wrong(self, curves: Curves) -> Mask:
        outline = edges(curves, 0.02)
        made = coverage(outline.starts, outline.ends, self.bits.shape[1], self.bits.shape[0])
        return np.asarray((np.abs(made) > 0.5) != self.bits)
