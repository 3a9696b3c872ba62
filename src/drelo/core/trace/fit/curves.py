"""Lines and cubics of all closed lines at once, in the unknowns that a fit may move."""

from __future__ import annotations

from dataclasses import dataclass, fields, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from drelo.core.compiled import compiled
from drelo.core.outline.cubics import Array, basis

Indices = NDArray[np.int64]
Flags = NDArray[np.bool_]


@dataclass(frozen=True, eq=False)
class Curves:
    """Segments in order round each line.

    node: shape (n, 2), px: where each begins; it ends where the one after it begins.
    leaving, arriving: shape (n,), radians: directions of travel at its start and at its end.
    handles: shape (n, 2), px: lengths of its two handles.
    straight: shape (n,): which are lines. corner: whether the node at the start is a corner.
    line: shape (n,): which line each belongs to.
    void: shape (n,): the segment that would close an open line: it is not drawn, and its node is the line's end.
    """

    node: Array
    leaving: Array
    arriving: Array
    handles: Array
    straight: Flags
    corner: Flags
    line: Indices
    void: Flags

    def __len__(self) -> int:
        return len(self.line)

    def placed(self, node: Array, leaving: Array, arriving: Array, handles: Array) -> Curves:
        """The same segments elsewhere; how they follow one another need not be found again."""
        other = replace(self, node=node, leaving=leaving, arriving=arriving, handles=handles)
        other.__dict__.update({name: self.__dict__[name] for name in _LASTING if name in self.__dict__})
        return other

    @cached_property
    def following(self) -> Indices:
        """Index of the next segment round the same line."""
        return _following(self.line)

    @cached_property
    def before(self) -> Indices:
        """Index of the segment before, round the same line."""
        back = np.empty(len(self), np.int64)
        back[self.following] = np.arange(len(self))
        return back

    @cached_property
    def smooth(self) -> Flags:
        """Whether two curves meet at the start with one direction."""
        return ~self.corner & ~self.straight & ~self.straight[self.before]

    @cached_property
    def control(self) -> Array:
        """Control points, shape (n, 4, 2); those of lines stand at the thirds."""
        return _controlled(self.node, self.following, self.leaving, self.arriving, self.handles, self.straight)

    @cached_property
    def lengths(self) -> Array:
        """Length of each segment, px, close enough to space points by, shape (n,)."""
        p = self.control
        chord = np.linalg.norm(p[:, 3] - p[:, 0], axis=1)
        hull = np.linalg.norm(np.diff(p, axis=1), axis=2).sum(axis=1)
        return np.asarray((chord + hull) / 2)


# What does not change when segments move.
_LASTING = ("following", "before", "smooth")


@dataclass(frozen=True, eq=False)
class Probes:
    """Points on curves, sorted by segment.

    segment, u: shape (m,): on which segment and where on it. first: shape (n,): the first point of each segment.
    at, normal: shape (m, 2): place, px, and unit normal to the left of travel as seen on the screen.
    """

    segment: Indices
    u: Array
    first: Indices
    at: Array
    normal: Array


@dataclass(frozen=True, eq=False)
class Cloud:
    """Where the edge truly lies beside points on the curves.

    targets: shape (m, 2), px, one for each probe. weight: shape (m,), 0..1.
    """

    probes: Probes
    targets: Array
    weight: Array


@compiled
def unit(angle: Array) -> Array:
    direction = np.empty((len(angle), 2))
    for i in range(len(angle)):
        direction[i, 0], direction[i, 1] = np.cos(angle[i]), np.sin(angle[i])
    return direction


def angles(direction: Array) -> Array:
    return np.asarray(np.arctan2(direction[:, 1], direction[:, 0]))


@compiled
def _following(line: Indices) -> Indices:
    count = len(line)
    after = np.empty(count, np.int64)
    begin = 0
    for i in range(count):
        if i + 1 < count and line[i + 1] == line[i]:
            after[i] = i + 1
        else:
            after[i] = begin
            begin = i + 1
    return after


@compiled
def _controlled(
    node: Array, following: Indices, leaving: Array, arriving: Array, handles: Array, straight: Flags
) -> Array:
    p = np.empty((len(node), 4, 2))
    for i in range(len(node)):
        start, end = node[i], node[following[i]]
        p[i, 0], p[i, 3] = start, end
        if straight[i]:
            p[i, 1], p[i, 2] = start + (end - start) / 3, end - (end - start) / 3
        else:
            p[i, 1, 0] = start[0] + handles[i, 0] * np.cos(leaving[i])
            p[i, 1, 1] = start[1] + handles[i, 0] * np.sin(leaving[i])
            p[i, 2, 0] = end[0] - handles[i, 1] * np.cos(arriving[i])
            p[i, 2, 1] = end[1] - handles[i, 1] * np.sin(arriving[i])
    return p


def probes(curves: Curves, spacing: float, least: int, most: int = 400) -> Probes:
    """Points evenly spread in the parameter, about `spacing` px apart."""
    count = np.clip(np.round(curves.lengths / spacing), least, most).astype(np.int64)
    count[curves.void] = 0
    segment = np.repeat(np.arange(len(curves)), count)
    first = np.cumsum(count) - count
    u = (np.arange(len(segment)) - first[segment] + 0.5) / count[segment]
    return place(curves, segment, u, first)


def place(curves: Curves, segment: Indices, u: Array, first: Indices) -> Probes:
    """Points at given parameters of given segments."""
    at, normal = _placed(curves.control, segment, u)
    return Probes(segment, u, first, at, normal)


@compiled
def _placed(control: Array, segment: Indices, u: Array) -> tuple[Array, Array]:
    at, normal = np.empty((len(u), 2)), np.zeros((len(u), 2))
    along = np.empty(2)
    for i in range(len(u)):
        p, t = control[segment[i]], u[i]
        v = 1 - t
        for k in range(2):
            one, two, three = p[1, k] - p[0, k], p[2, k] - p[1, k], p[3, k] - p[2, k]
            at[i, k] = v * v * v * p[0, k] + 3 * v * t * (v * p[1, k] + t * p[2, k]) + t * t * t * p[3, k]
            along[k] = v * v * one + 2 * v * t * two + t * t * three
        length = np.sqrt(along[0] * along[0] + along[1] * along[1])
        # y points down, so the left of travel on the screen is a quarter turn against the angle.
        if length > 1e-12:
            normal[i, 0], normal[i, 1] = along[1] / length, -along[0] / length
    return at, normal


@dataclass(frozen=True, eq=False)
class Edges:
    """Directed straight edges: starts and ends of shape (m, 2), px, and which line each is of."""

    starts: Array
    ends: Array
    line: Indices


def edges(curves: Curves, tolerance: float) -> Edges:
    """The curves as straight edges within `tolerance` px."""
    p = curves.control
    second = np.maximum(
        np.linalg.norm(p[:, 0] - 2 * p[:, 1] + p[:, 2], axis=1), np.linalg.norm(p[:, 1] - 2 * p[:, 2] + p[:, 3], axis=1)
    )
    steps = np.ceil(np.sqrt(0.75 * second / tolerance)).astype(np.int64).clip(1)
    steps[curves.void] = 0
    segment = np.repeat(np.arange(len(p)), steps)
    first = np.cumsum(steps) - steps
    t = (np.arange(len(segment)) - first[segment]) / steps[segment]
    start = np.einsum("mi,mij->mj", basis(t), p[segment])
    end = np.roll(start, -1, axis=0)
    real = ~curves.void
    end[(first + steps - 1)[real]] = curves.node[curves.following][real]
    return Edges(start, end, curves.line[segment])


def picked(curves: Curves, keep: Flags) -> Curves:
    """Only the flagged segments; each goes on to where the next one begins."""
    return Curves(*(getattr(curves, f.name)[keep] for f in fields(curves)))


def chosen(curves: Curves, lines: Flags) -> Curves:
    """Only the segments of the flagged lines; they keep the numbers of their lines."""
    return picked(curves, lines[curves.line])


def together(one: Curves, other: Curves) -> Curves:
    """The segments of both, in the order of their lines; no line may be in both."""
    order = np.argsort(np.concatenate([one.line, other.line]), kind="stable")
    return Curves(*(np.concatenate([getattr(one, f.name), getattr(other, f.name)])[order] for f in fields(one)))
