"""Pieces lie on their beds, apart from each other, each once, and on few beds."""

from __future__ import annotations

import itertools
import math

from hypothesis import given
from hypothesis import strategies as st

from drelo.core.rehearsal.packing import packed

side = st.floats(1, 100, allow_nan=False)


@given(st.lists(st.tuples(side, side), min_size=1, max_size=30), st.floats(0, 20), st.floats(100, 300))
def test_nothing_overlaps_or_stands_out(sizes, spacing, bed):
    beds = packed(sizes, (bed, bed), spacing)
    assert sorted(number for rows in beds for number, _, _ in rows) == list(range(len(sizes)))
    for rows in beds:
        for number, x, y in rows:
            width, depth = sizes[number]
            assert x >= 0
            assert y >= 0
            assert x + width <= bed + 1e-9
            assert y + depth <= bed + 1e-9
        for (one, x0, y0), (other, x1, y1) in itertools.combinations(rows, 2):
            apart_x = max(x1 - x0 - sizes[one][0], x0 - x1 - sizes[other][0])
            apart_y = max(y1 - y0 - sizes[one][1], y0 - y1 - sizes[other][1])
            assert max(apart_x, apart_y) >= spacing - 1e-9


@given(st.integers(1, 60), st.floats(5, 40), st.floats(5, 40))
def test_equal_pieces_fill_beds_as_tightly_as_rows_allow(count, width, depth):
    bed, spacing = 200.0, 4.0
    across = math.floor((bed + spacing) / (width + spacing) + 1e-9)
    along = math.floor((bed + spacing) / (depth + spacing) + 1e-9)
    beds = packed([(width, depth)] * count, (bed, bed), spacing)
    assert len(beds) <= math.ceil(count / max(across * along - 1, 1))


def test_the_same_pieces_are_laid_the_same_way():
    sizes = [(30.0, 20.0), (30.0, 20.0), (10.0, 50.0)]
    assert packed(sizes, (100, 100), 5) == packed(sizes, (100, 100), 5)
