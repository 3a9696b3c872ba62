"""What joins loose parts is the least that does: held against buffering and against every spanning tree."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from drelo.core.outline import ties
from drelo.core.outline.contour import Contour
from drelo.core.outline.joining import bridge, joining_growth, links
from drelo.core.outline.outline import Outline
from drelo.core.outline.primitives import ellipse

place = st.integers(-30, 30).map(float)
disc = st.tuples(place, place, st.floats(0.5, 6))


def apart(discs) -> list[tuple[float, float, float]]:
    """Those of the discs that keep off those before."""
    kept: list[tuple[float, float, float]] = []
    for x, y, r in discs:
        if all(np.hypot(x - a, y - b) > r + s + 0.2 for a, b, s in kept):
            kept.append((x, y, r))
    return kept


@given(st.lists(disc, min_size=2, max_size=9))
@settings(max_examples=60, deadline=None)
def test_the_growth_that_joins_is_the_smallest_one(discs):
    found = apart(discs)
    if len(found) < 2:
        return
    parts = [shapely.Point(x, y).buffer(r, quad_segs=64) for x, y, r in found]
    growth = joining_growth(parts)

    def grown(by: float) -> int:
        return int(shapely.get_num_geometries(shapely.union_all([p.buffer(by, quad_segs=128) for p in parts])))

    assert grown(growth + 0.01) == 1
    assert grown(growth - 0.01) > 1


@given(st.lists(disc, min_size=2, max_size=5))
@settings(max_examples=60, deadline=None)
def test_links_are_the_shortest_that_make_one_part(discs):
    found = apart(discs)
    if len(found) < 2:
        return
    parts = [shapely.Point(x, y).buffer(r, quad_segs=32) for x, y, r in found]
    ways = links(parts)
    assert len(ways) == len(parts) - 1
    pairs = list(itertools.combinations(range(len(parts)), 2))
    least = min(
        sum(parts[i].distance(parts[j]) for i, j in tree)
        for tree in itertools.combinations(pairs, len(parts) - 1)
        if connects(tree, len(parts))
    )
    assert sum(way.length for way in ways) == pytest.approx(least, abs=1e-9)
    bridged = shapely.union_all([*parts, *(bridge(way, 0.4, 0.2) for way in ways)])
    assert shapely.get_num_geometries(bridged) == 1


def connects(tree, count: int) -> bool:
    group = list(range(count))
    for i, j in tree:
        one, other = group[i], group[j]
        group = [one if g == other else g for g in group]
    return len(set(group)) == 1


def circle(x: float, y: float, r: float) -> Outline:
    return Outline(ellipse(2 * r, 2 * r).transformed(1.0, x, y))


@given(st.lists(disc, min_size=2, max_size=6), st.floats(0.6, 3))
@settings(max_examples=25, deadline=None)
def test_proposed_ties_make_one_part_and_are_as_wide_as_asked(discs, width):
    found = [d for d in apart(discs) if d[2] > width]
    if len(found) < 2:
        return
    outlines = [circle(*d) for d in found]
    made = [outline for link in ties.proposed(outlines) for outline in ties.tie(outlines, link, width)]
    whole = shapely.union_all([o.flattened(0.002) for o in (*outlines, *made)])
    assert shapely.get_num_geometries(whole) == 1
    for link in ties.proposed(outlines):
        if link.length < 0.4:
            continue
        (x0, y0), (x1, y1) = link.start, link.end
        across = np.array([y0 - y1, x1 - x0]) / link.length
        middle = np.array([x0 + x1, y0 + y1]) / 2
        cut = shapely.LineString([middle - across * 50, middle + across * 50])
        tie = shapely.union_all([o.flattened(0.002) for o in ties.tie(outlines, link, width)])
        assert shapely.intersection(cut, tie).length >= width - 0.02


def test_one_part_needs_nothing():
    assert joining_growth([shapely.box(0, 0, 1, 1)]) == 0
    assert links([]) == ()
    assert isinstance(ellipse(2, 2), Contour)
