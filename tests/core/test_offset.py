"""Areas of many borders are offset border by border, and come out as at once."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import assume, given
from hypothesis import strategies as st
from shapely import affinity

from drelo.core.outline.offset import offset, offset_each

# What rounding leaves between the two ways, mm².
ROUNDING = 1e-6
WAYS = ({"quad_segs": 6}, {"join_style": "mitre", "mitre_limit": 2.0})


def same(one: shapely.Geometry, other: shapely.Geometry) -> bool:
    return one.is_valid and shapely.area(shapely.symmetric_difference(one, other)) < ROUNDING


def blobs(seed: int, count: int) -> shapely.Geometry:
    """Ellipses on 100 mm, some of which meet."""
    rng = np.random.default_rng(seed)
    found = []
    for x, y, radius, long, turn in zip(
        *rng.uniform(0, 100, (2, count)), *rng.uniform(0.2, 3, (3, count)), strict=True
    ):
        disc = shapely.Point(x, y).buffer(radius, quad_segs=int(rng.integers(1, 5)))
        found.append(affinity.rotate(affinity.scale(disc, 1, long), 60 * turn))
    return shapely.union_all(found)


@given(
    st.integers(0, 10_000),
    st.integers(30, 250),
    st.sampled_from(["many", "holes", "rings", "islands"]),
    st.sampled_from([-2.0, -0.8, -0.3, -0.01, 0.01, 0.3, 0.8, 2.0]),
    st.sampled_from(WAYS),
)
def test_border_by_border_is_as_at_once(seed, count, kind, by, way):
    area = blobs(seed, count)
    if kind != "many":
        area = shapely.difference(shapely.box(5, 5, 95, 95), area)
    if kind == "rings":
        # A hole that nearly closes round what is in it.
        gap = shapely.Point(50, 50).buffer(30).boundary.buffer(1).difference(shapely.box(70, 48, 90, 52))
        area = shapely.difference(area, gap)
    if kind == "islands":
        area = shapely.difference(area, shapely.Point(50, 50).buffer(25)).union(shapely.Point(50, 50).buffer(20))
    at_once = shapely.buffer(area, by, **way)
    # Now and then a part that it leaves in a hole touches what is round it.
    assume(at_once.is_valid)
    assert same(offset(area, by, **way), at_once)


@pytest.mark.parametrize("by", [-0.21, -0.1, 0.1, 0.21])
def test_a_grid_of_studs_and_of_holes(by):
    """Where neighbours are 0.4 mm apart they meet, or none does."""
    studs = [shapely.box(x, y, x + 1.6, y + 1.6) for x in range(0, 40, 2) for y in range(0, 40, 2)]
    plate = shapely.difference(shapely.box(-2, -2, 42, 42), shapely.union_all(studs))
    for area in (shapely.MultiPolygon(studs), plate):
        assert same(offset(area, by), shapely.buffer(area, by))


def test_each_by_itself():
    disc = shapely.Point(0, 0).buffer(10)
    sieve = shapely.difference(shapely.box(0, 0, 60, 60), blobs(3, 90))
    parts = np.array([disc, *shapely.get_parts(sieve), shapely.box(0, 0, 0.1, 0.1)])
    found = offset_each(parts, -0.2, join_style="mitre", mitre_limit=2.0)
    assert all(
        same(mine, other)
        for mine, other in zip(found, shapely.buffer(parts, -0.2, join_style="mitre", mitre_limit=2.0), strict=True)
    )
    assert found[-1].is_empty


def test_nothing_stays_nothing():
    assert offset(shapely.Polygon(), -1).is_empty
    assert offset(shapely.Polygon(), 1).is_empty
    assert not len(offset_each(np.array([], object), 1))
