"""Sizes that printers cannot make are remarked, and only those."""

from __future__ import annotations

import pytest

from drelo.core.rehearsal.reach import LINES, REACH, beyond_reach


@pytest.mark.parametrize("size", [(60, 40, 3), (REACH, REACH, REACH), (LINES * 0.4, 1, 1), (0.0, 0.0, 0.0)])
def test_ordinary_sizes_are_not_remarked(size):
    assert beyond_reach(size) == ()


@pytest.mark.parametrize(
    ("size", "says"),
    [
        ((301, 10, 2), "301 mm across"),
        ((10, 4000, 2), "4000 mm across"),
        ((10, 10, 500), "500 mm high"),
        ((0.1, 0.08, 2), "only 0.10 mm across"),
    ],
)
def test_sizes_out_of_reach_are_told_with_their_measure(size, says):
    (remark,) = beyond_reach(size)
    assert says in remark.text


def test_a_finer_nozzle_prints_smaller_things():
    assert beyond_reach((1.2, 1.0, 1.0), 0.4)
    assert not beyond_reach((1.2, 1.0, 1.0), 0.2)


def test_a_giant_is_too_wide_and_too_high():
    assert len(beyond_reach((900, 900, 900))) == 2
