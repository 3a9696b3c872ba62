"""Triangles of faces on the grid: they fill them, use every vertex and leave none in the middle of a side."""

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from drelo.core.outline.outline import only_areas
from drelo.core.region.arrangement import GRID, Arrangement, arrange
from drelo.core.solid.planar import borders, rings, straight_vertices
from drelo.core.solid.triangulate import triangulate


def cut(a: Arrangement) -> tuple[np.ndarray, np.ndarray]:
    return triangulate(a.vertices, rings(a, a.top, straight_vertices(a, borders(a, a.top))))


def twice_areas(a: Arrangement, triangles: np.ndarray) -> np.ndarray:
    p, q, r = np.moveaxis(a.vertices[triangles], 1, 0)
    return (q - p)[:, 0] * (r - p)[:, 1] - (q - p)[:, 1] * (r - p)[:, 0]


def check(a: Arrangement) -> None:
    triangles, label = cut(a)
    twice = twice_areas(a, triangles)
    assert (twice > 0).all()
    for layer in np.unique(a.top[a.top >= 0]):
        wanted = a.areas[a.top == layer].sum() / a.grid**2
        assert twice[label == layer].sum() / 2 == pytest.approx(wanted, rel=1e-12)
    # Within a label every side has its other side, but for those on its border.
    for layer in np.unique(label):
        mine = triangles[label == layer]
        sides = {(int(u), int(v)) for t in mine for u, v in zip(t, np.roll(t, -1), strict=True)}
        assert len(sides) == 3 * len(mine)
        b = borders(a, a.top)
        skip = straight_vertices(a, b)
        lonely = {s for s in sides if s[::-1] not in sides}
        kept = {int(v) for v in np.concatenate([b.start, b.end]) if not skip[v]}
        assert {v for s in lonely for v in s} <= kept
        length = sum(np.hypot(*(a.vertices[u] - a.vertices[v])) for u, v in lonely)
        way = np.hypot(*(a.vertices[b.end] - a.vertices[b.start]).T)
        assert length == pytest.approx(way[(b.left == layer) | (b.right == layer)].sum(), rel=1e-9)


@given(st.integers(0, 2**31 - 1), st.integers(1, 14), st.sampled_from([1.0, 8 * GRID]))
def test_random_shapes_on_a_fine_and_on_a_coarse_grid(seed, count, size):
    random = np.random.default_rng(seed)
    shapes = []
    for _ in range(count):
        ring = random.integers(0, 14, (int(random.integers(3, 12)), 2)) * size
        shapes.append(only_areas(shapely.make_valid(shapely.Polygon(ring))))
    if sum(s.area for s in shapes) > 0:
        check(arrange(shapes, GRID))


def test_a_plate_with_many_holes():
    holes = [shapely.box(3 * i, 3 * j, 3 * i + 1, 3 * j + 1) for i in range(20) for j in range(20)]
    plate = shapely.difference(shapely.box(-2, -2, 60, 60), shapely.union_all(holes))
    a = arrange([plate], GRID)
    triangles, _ = cut(a)
    assert len(triangles) == 4 * 401 + 2 * 400 - 2
    check(a)


def test_points_in_one_upright_line_and_spikes():
    comb = [(0, 0), (0, 1), (0, 2), (0, 3), (5, 3), (1, 2.5), (5, 2), (1, 1.5), (5, 1), (1, 0.5), (5, 0)]
    check(arrange([shapely.Polygon(comb)], GRID))


def test_holes_that_touch_their_ring_and_each_other():
    plate = shapely.box(0, 0, 8, 8)
    for cutout in (
        shapely.Polygon([(0, 4), (2, 3), (2, 5)]),
        shapely.Polygon([(2, 3), (4, 2), (4, 4)]),
        shapely.box(5, 6, 7, 8),
    ):
        plate = shapely.difference(plate, cutout)
    check(arrange([plate, shapely.Polygon([(4, 4), (6, 5), (4, 6)])], GRID))
