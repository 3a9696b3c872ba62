"""What stands between tops and floors, whatever covers what."""

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from drelo.core.form.columns import crossed
from drelo.core.region.arrangement import GRID, arrange


def volume(layers, columns) -> float:
    a = arrange(layers, GRID)
    height = np.array([*(sum(b.top - b.bottom for b in c) for c in columns), 0.0])
    return float((a.areas * height[a.top]).sum())


@given(st.integers(0, 2**31 - 1), st.integers(1, 5), st.integers(0, 4))
def test_the_last_top_and_the_last_floor_count(seed, tops, floors):
    random = np.random.default_rng(seed)

    def level(low: float, high: float) -> tuple[shapely.Polygon, float]:
        x, y = random.integers(0, 8, 2)
        w, d = random.integers(1, 6, 2)
        return shapely.box(x, y, x + w, y + d), float(random.uniform(low, high))

    above, below = [level(1, 4) for _ in range(tops)], [level(-2, 2) for _ in range(floors)]
    layers, columns, _ = crossed(above, below, 0.0)
    wanted = 0.0
    for x in range(14):
        for y in range(14):
            spot = shapely.Point(x + 0.5, y + 0.5)
            top = next((h for s, h in reversed(above) if s.contains(spot)), None)
            floor = next((h for s, h in reversed(below) if s.contains(spot)), 0.0)
            wanted += max(0.0, top - floor) if top is not None else 0.0
    assert volume(layers, columns) == pytest.approx(wanted, abs=1e-6)


def test_a_floor_above_its_top_leaves_nothing_and_empty_shapes_do_not_count():
    box, hole = shapely.box(0, 0, 4, 4), shapely.box(1, 1, 2, 2)
    layers, columns, owners = crossed(
        [(box, 2.0), (shapely.Polygon(), 9.0)], [(hole, 3.0), (shapely.Polygon(), 1.0)], 0.0, owners=[7, 8]
    )
    assert volume(layers, columns) == pytest.approx(2 * 15)
    assert columns[-1] == ()
    assert owners == (7, 7)
