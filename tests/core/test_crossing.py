"""Triangles that cross or overlap are found without exception; held against clipping in exact fractions."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from drelo.core.solid import crossing
from drelo.core.solid.crossing import first_crossing
from drelo.core.solid.mesh import Mesh, welded

Corner = tuple[int, int, int]
Triangle = tuple[Corner, Corner, Corner]


def minus(a, b):
    return tuple(x - y for x, y in zip(a, b, strict=True))


def dot(a, b):
    return sum(x * y for x, y in zip(a, b, strict=True))


def cross(a, b):
    return (a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0])


def clipped(polygon, inside):
    """What of a convex polygon lies where the linear function `inside` is at least 0."""
    result = []
    for a, b in zip(polygon, polygon[1:] + polygon[:1], strict=True):
        u, v = inside(a), inside(b)
        if u >= 0:
            result.append(a)
        if u * v < 0:
            t = Fraction(u) / (u - v)
            result.append(tuple(x + t * (y - x) for x, y in zip(a, b, strict=True)))
    return result


def meets(one: Triangle, other: Triangle) -> bool:
    """Whether triangles share more than corners, or more than their borders where they lie in one plane."""
    normal = cross(minus(one[1], one[0]), minus(one[2], one[0]))
    polygon = [tuple(map(Fraction, p)) for p in other]
    for sign in (1, -1):
        polygon = clipped(polygon, lambda p, sign=sign: sign * dot(normal, minus(p, one[0])))
    for k in range(3):
        outward = cross(minus(one[(k + 1) % 3], one[k]), normal)
        polygon = clipped(polygon, lambda p, k=k, outward=outward: -dot(outward, minus(p, one[k])))
    common = set(polygon)
    if all(dot(normal, minus(p, one[0])) == 0 for p in other):
        return len(common) > 2 and any(
            cross(minus(b, a), minus(c, a)) != (0, 0, 0) for a in common for b in common for c in common
        )
    return bool(common - (set(one) & set(other)))


coordinate = st.integers(-3, 3)
corner = st.tuples(coordinate, coordinate, st.integers(-1, 1))
triangle = st.tuples(corner, corner, corner).filter(lambda t: cross(minus(t[1], t[0]), minus(t[2], t[0])) != (0, 0, 0))


def folded_or_edge(one: Triangle, other: Triangle) -> bool:
    return len(set(one) & set(other)) > 1


@pytest.mark.parametrize("many", [0, 10**9])
@settings(max_examples=1500, deadline=None)
@given(one=triangle, other=triangle)
@example(one=((0, 0, 0), (1, 0, 0), (0, 1, 0)), other=((0, 0, 0), (2, 1, 0), (1, 2, 0)))
@example(one=((0, 0, 0), (2, 0, 0), (0, 2, 0)), other=((0, 0, 0), (3, 3, 1), (3, 3, -1)))
@example(one=((0, 0, 0), (3, 0, 0), (0, 3, 0)), other=((1, 1, 0), (1, 1, 1), (2, 3, 1)))
def test_crossings_are_as_exact_clipping_finds_them(many, one, other):
    if folded_or_edge(one, other):
        return
    usual, crossing.MANY = crossing.MANY, many
    try:
        found = first_crossing(welded(np.array([one, other], np.float32)))
    finally:
        crossing.MANY = usual
    assert (found is not None) == meets(one, other)


@pytest.mark.parametrize("many", [0, 10**9])
def test_a_crossing_among_thousands_is_found(many, monkeypatch):
    monkeypatch.setattr(crossing, "MANY", many)
    n = 60
    x, y = np.meshgrid(np.arange(n + 1.0), np.arange(n + 1.0))
    points = np.column_stack([x.ravel(), y.ravel(), 0.3 * np.sin(x.ravel()) * np.cos(y.ravel())])
    at = np.arange(n * (n + 1)).reshape(n, n + 1)[:, :-1].ravel()
    faces = np.concatenate([np.column_stack([at, at + 1, at + n + 2]), np.column_stack([at, at + n + 2, at + n + 1])])
    sheet = Mesh(points.astype(np.float32), faces.astype(np.int32))
    assert first_crossing(sheet) is None
    blade = np.array([[41.3, 7.4, -2], [41.4, 7.5, 2], [41.5, 7.3, 2]], np.float32)
    cut = Mesh(
        np.concatenate([sheet.vertices, blade]),
        np.concatenate([sheet.faces, [[len(points), len(points) + 1, len(points) + 2]]]).astype(np.int32),
    )
    found = first_crossing(cut)
    assert found is not None
    assert len(sheet.faces) in found
