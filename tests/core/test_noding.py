"""Noding on the grid and the faces between what was noded, held against exact fractions and against shapely."""

from fractions import Fraction

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from drelo.core.outline.outline import only_areas
from drelo.core.region.arrangement import GRID, arrange, overlaid
from drelo.core.region.noding import Noded, distinct, noded
from drelo.core.region.sweep import sides_of

coordinate = st.integers(0, 12)
segment = st.tuples(coordinate, coordinate, coordinate, coordinate).filter(lambda s: s[:2] != s[2:])


def of(*rows: tuple[int, int, int, int]) -> np.ndarray:
    return np.array(rows, np.int64).reshape(-1, 2, 2)


def meet_within(one: np.ndarray, other: np.ndarray) -> bool:
    """Whether two different segments of whole numbers share more than ends."""
    (ax, ay), (bx, by), (cx, cy), (dx, dy) = (tuple(map(int, p)) for p in (*one, *other))
    turn = (bx - ax) * (dy - cy) - (by - ay) * (dx - cx)
    if turn == 0:
        if (bx - ax) * (cy - ay) != (by - ay) * (cx - ax):
            return False
        a, b = sorted([(ax, ay), (bx, by)])
        c, d = sorted([(cx, cy), (dx, dy)])
        return max(a, c) < min(b, d)
    t = Fraction((cx - ax) * (dy - cy) - (cy - ay) * (dx - cx), turn)
    u = Fraction((cx - ax) * (by - ay) - (cy - ay) * (bx - ax), turn)
    return 0 <= t <= 1 and 0 <= u <= 1 and not (t in (0, 1) and u in (0, 1))


def pieces(n: Noded) -> np.ndarray:
    return n.points[np.stack([n.first, n.last], axis=1)]


@given(st.lists(segment, min_size=1, max_size=14))
def test_on_a_coarse_grid_pieces_meet_in_their_ends_only(rows):
    found = noded(distinct(of(*rows))[0])
    lines = pieces(found)
    crossing = [(i, j) for j in range(len(lines)) for i in range(j) if meet_within(lines[i], lines[j])]
    assert not crossing
    assert sides_of(found.points, found.first, found.last) is not None


@given(st.lists(segment, min_size=1, max_size=14))
def test_every_segment_goes_from_its_start_to_its_end_within_a_step(rows):
    segments, _ = distinct(of(*rows))
    found = noded(segments)
    for i, (start, end) in enumerate(segments):
        mine = pieces(found)[found.piece[found.source == i]]
        ends = {tuple(p): 0 for line in mine for p in line.tolist()}
        for a, b in mine.tolist():
            ends[tuple(a)] += 1
            ends[tuple(b)] += 1
        odd = {p for p, many in ends.items() if many % 2}
        assert odd == {tuple(start.tolist()), tuple(end.tolist())}
        line = shapely.LineString([start, end])
        assert shapely.hausdorff_distance(shapely.multilinestrings(mine.astype(float)), line) <= 2**-0.5 + 1e-9


def test_the_square_of_a_grid_point_holds_its_left_and_lower_border_only():
    through_corner = noded(of((0, 0, 1, 1), (0, 1, 0, 2), (1, 0, 2, 0)))
    assert len(through_corner.first) == 3
    along_lower = noded(of((0, 0, 2, 1), (1, 1, 1, 2)))
    assert [1, 1] in along_lower.points.tolist()
    assert len(along_lower.first) == 3


def test_the_order_of_segments_does_not_matter():
    rows = np.random.default_rng(3).integers(0, 300, (60, 2, 2))
    one, other = noded(rows), noded(rows[::-1])
    assert np.array_equal(pieces(one), pieces(other))


def test_a_long_line_over_many_short_ones_meets_each():
    comb = [(x, -5, x, 5) for x in range(0, 4000, 4)]
    found = noded(of((-10, 0, 4010, 0), *comb))
    assert len(found.first) == 1001 + 2 * 1000


# Sides


def test_segments_that_cross_touch_or_lie_on_each_other_have_no_sides():
    points = np.array([[0, 0], [0, 2], [1, 1], [2, 0], [2, 2]], np.int64)
    assert sides_of(points, np.array([0, 1]), np.array([4, 3])) is None
    assert sides_of(points, np.array([0, 1]), np.array([4, 2])) is None
    assert sides_of(points, np.array([0, 0]), np.array([4, 2])) is None
    assert sides_of(points, np.array([0, 2]), np.array([2, 4])) is not None


@given(st.lists(segment, min_size=1, max_size=20))
def test_sides_are_the_faces_that_polygonizing_finds(rows):
    found = noded(distinct(of(*rows))[0])
    sides = sides_of(found.points, found.first, found.last)
    polygons = shapely.get_parts(shapely.polygonize(shapely.linestrings(pieces(found).astype(float))))
    assert sides.count - 1 == len(polygons)
    areas = np.zeros(sides.count)
    (ax, ay), (bx, by) = found.points[found.first].T, found.points[found.last].T
    np.add.at(areas, sides.above, (ax * by - ay * bx) / 2)
    np.subtract.at(areas, sides.below, (ax * by - ay * bx) / 2)
    assert sorted(areas[1:]) == pytest.approx(sorted(shapely.area(polygons)))


def test_rings_within_rings_that_nothing_ties_are_told_apart():
    rings = [shapely.box(i, i, 20 - i, 20 - i).exterior for i in range(0, 10, 2)]
    corners = np.array([np.array(r.coords, np.int64) for r in rings])
    found = noded(np.stack([corners[:, :-1], corners[:, 1:]], axis=2).reshape(-1, 2, 2))
    sides = sides_of(found.points, found.first, found.last)
    assert sides.count == 6
    assert len(set(zip(sides.above.tolist(), sides.below.tolist(), strict=True))) == 10


# What lies on top


@given(st.integers(0, 2**31 - 1), st.integers(1, 12))
def test_the_top_of_every_face_is_the_last_layer_over_it(seed, count):
    random = np.random.default_rng(seed)
    corners = random.integers(0, 12, (count, 2))
    sides = random.integers(1, 9, (count, 2))
    boxes = [shapely.box(*low, *high) for low, high in zip(corners, corners + sides, strict=True)]
    layers = [boxes[0], *(b if random.random() < 0.7 else b.difference(boxes[0]) for b in boxes[1:])]
    a = arrange(layers, GRID)
    rest = shapely.union_all(layers)
    for top in range(count - 1, -1, -1):
        shown = shapely.intersection(layers[top], rest)
        rest = shapely.difference(rest, layers[top])
        assert a.areas[a.top == top].sum() == pytest.approx(shown.area, abs=1e-9)


def test_a_border_there_and_back_is_none():
    spike = shapely.Polygon([(0, 0), (10, 0), (10, 10), (5, 10), (5, 14), (5.0001, 10), (0, 10)])
    a = arrange([spike], GRID)
    assert len(a.areas) == 1
    assert a.areas.sum() == pytest.approx(100)
    assert a.vertices[:, 1].max() == 10 / GRID


# Layers put on top of an arrangement


@given(st.integers(0, 2**31 - 1), st.integers(1, 8), st.integers(1, 4))
def test_layers_overlaid_are_as_if_they_had_been_there_at_once(seed, count, more):
    random = np.random.default_rng(seed)

    def star() -> shapely.Polygon:
        turn = np.sort(random.uniform(0, 2 * np.pi, 7))
        reach = random.uniform(1, 6, 7)
        at = random.uniform(0, 20, 2)
        ring = at + reach[:, None] * np.column_stack([np.cos(turn), np.sin(turn)])
        return only_areas(shapely.make_valid(shapely.Polygon(np.round(ring / GRID) * GRID)))

    below, above = [star() for _ in range(count)], [star() for _ in range(more)]
    steps = [shapely.transform(s, lambda xy: xy / GRID) for s in above]
    one, other = overlaid(arrange(below, GRID), steps), arrange([*below, *above], GRID)
    for layer in range(count + more):
        mine, theirs = (a.areas[a.top == layer].sum() for a in (one, other))
        assert mine == pytest.approx(theirs, abs=0.02)
    assert one.areas.sum() == pytest.approx(other.areas.sum(), abs=0.02)


def test_faces_beside_each_other_with_one_top_are_one():
    hidden = [shapely.box(i, 0, i + 1, 5) for i in range(8)]
    a = arrange([*hidden, shapely.box(-1, -1, 9, 6)], GRID)
    assert len(a.areas) == 1
    assert a.areas[0] == pytest.approx(70)
    assert len(a.edges) == 4


@given(st.lists(segment, min_size=1, max_size=12))
def test_each_segment_is_kept_once_whichever_way_it_runs(rows):
    segments = np.concatenate([of(*rows), of(*rows)[:, ::-1]])
    kept, which = distinct(segments)
    names = {frozenset(map(tuple, s)) for s in segments.tolist()}
    assert len(kept) == len(names)
    assert all(
        frozenset(map(tuple, kept[w].tolist())) == frozenset(map(tuple, s))
        for w, s in zip(which, segments.tolist(), strict=True)
    )
