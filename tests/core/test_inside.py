"""Shapes brought into others as large as they fit: by analytic sizes, and never standing out."""

from __future__ import annotations

import math

import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import affinity

from drelo.core.outline.inside import fitted_inside


def disc(radius: float, x: float = 0.0, y: float = 0.0) -> shapely.Polygon:
    return shapely.Point(x, y).buffer(radius, quad_segs=64)


def placed(art, found):
    factor, (x, y) = found
    x0, y0, x1, y1 = art.bounds
    centred = affinity.translate(art, -(x0 + x1) / 2, -(y0 + y1) / 2)
    return affinity.translate(affinity.scale(centred, factor, factor, origin=(0, 0)), x, y)


@pytest.mark.parametrize(
    ("art", "room", "factor"),
    [
        (shapely.box(0, 0, 10, 10), shapely.box(5, 5, 65, 45), 4.0),
        (shapely.box(0, 0, 20, 10), shapely.box(0, 0, 60, 60), 3.0),
        (disc(5), shapely.box(0, 0, 40, 30), 3.0),
        # A square in a disc: its diagonal is the diameter.
        (shapely.box(0, 0, 10, 10), disc(20, 3, 4), 40 / (10 * math.sqrt(2))),
        (shapely.box(0, 0, 30, 40), disc(50), 2.0),
    ],
)
def test_sizes_are_as_geometry_has_them(art, room, factor):
    found = fitted_inside(art, room)
    assert found is not None
    assert found[0] == pytest.approx(factor, rel=2e-3)
    assert room.buffer(1e-6).covers(placed(art, found))


def test_an_odd_room_is_used_where_it_is_wide():
    bottle = shapely.union_all([shapely.box(0, 0, 40, 40), shapely.box(15, 40, 25, 200)])
    found = fitted_inside(shapely.box(0, 0, 10, 10), bottle)
    assert found is not None
    assert found[0] == pytest.approx(4, rel=0.02)
    assert found[1] == pytest.approx((20, 20), abs=0.5)


def test_a_hole_of_the_room_is_kept_clear():
    washer = disc(30).difference(disc(12))
    found = fitted_inside(disc(5), washer)
    assert found is not None
    assert found[0] == pytest.approx(9 / 5, rel=0.01)
    assert washer.buffer(1e-3).covers(placed(disc(5), found))


def test_art_with_a_notch_may_reach_round_a_notch_of_the_room():
    room = shapely.box(0, 0, 60, 60).difference(shapely.box(28, 0, 32, 40))
    arch = shapely.box(0, 0, 50, 50).difference(shapely.box(22, -1, 28, 40))
    found = fitted_inside(arch, room)
    assert found is not None
    assert found[0] > 0.9
    assert room.buffer(1e-6).covers(placed(arch, found))


def test_nothing_fits_into_nothing():
    assert fitted_inside(disc(5), shapely.Polygon()) is None
    assert fitted_inside(shapely.Polygon(), disc(5)) is None


@settings(max_examples=60, deadline=None)
@given(st.lists(st.tuples(st.floats(-50, 50), st.floats(-50, 50)), min_size=4, max_size=9), st.floats(1, 40))
def test_it_never_stands_out(points, size):
    room = shapely.convex_hull(shapely.MultiPoint(points))
    if room.area < 20:
        return
    art = shapely.union_all([shapely.box(0, 0, size, 3), disc(2, size / 2, 4)])
    found = fitted_inside(art, room)
    if found is not None:
        assert room.buffer(1e-6).covers(placed(art, found))
