"""Few points are compared one by one and many through a tree: both say the same."""

from __future__ import annotations

import numpy as np
import pytest

from drelo.core import near
from drelo.core.near import points_tree


@pytest.fixture(params=[0, near.FEW], ids=["through the tree", "one by one"])
def few(request: pytest.FixtureRequest, monkeypatch: pytest.MonkeyPatch) -> int:
    monkeypatch.setattr(near, "FEW", request.param)
    return int(request.param)


@pytest.mark.parametrize("axes", [2, 3])
def test_neighbours_are_those_that_distances_say(few: int, axes: int) -> None:
    random = np.random.default_rng(4)
    points, at = random.uniform(0, 10, (60, axes)), random.uniform(-2, 12, (40, axes))
    distances = np.linalg.norm(at[:, None] - points[None], axis=2)
    tree = points_tree(points)
    away, nearest = tree.query(at)
    assert np.allclose(away, distances.min(axis=1))
    assert np.array_equal(nearest, distances.argmin(axis=1))
    assert [sorted(found) for found in tree.within(at, 3.0)] == [np.flatnonzero(row <= 3).tolist() for row in distances]
    assert np.array_equal(tree.count_within(at, 3.0), (distances <= 3).sum(axis=1))


def test_where_there_are_no_points_nothing_is_near(few: int) -> None:
    none, one = np.zeros((0, 2)), np.zeros((1, 2))
    away, nearest = points_tree(none).query(one)
    assert away.tolist() == [np.inf]
    assert nearest.tolist() == [0]
    assert [len(found) for found in points_tree(none).within(one, 5)] == [0]
    assert points_tree(none).count_within(one, 5).tolist() == [0]
    assert [len(answer) for answer in points_tree(one).query(none)] == [0, 0]
    assert points_tree(one).within(none, 5) == []


def test_a_point_is_not_its_own_neighbour() -> None:
    tree = points_tree([[0, 0], [3, 4], [3, 5]])
    assert tree.nearest_other().tolist() == [5, 1, 1]
    assert sorted(map(tuple, tree.pairs(2).tolist())) == [(1, 2)]
