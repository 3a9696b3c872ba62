"""The fewest changes of filament, held against trying every order."""

from __future__ import annotations

import itertools

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from drelo.core.rehearsal.changes import changes


def least(layers: list[list[int]]) -> int:
    """By trying every order of every layer."""
    best = None
    for orders in itertools.product(*(itertools.permutations(layer) for layer in layers)):
        line = [filament for order in orders for filament in order]
        count = sum(a != b for a, b in itertools.pairwise(line))
        best = count if best is None else min(best, count)
    return best or 0


@given(st.lists(st.lists(st.integers(0, 3), min_size=0, max_size=3, unique=True), max_size=5))
def test_no_order_has_fewer(layers):
    found = changes(layers, 0.2 * np.arange(1, len(layers) + 1))
    assert len(found.changes) == least(layers)
    assert [sorted(order) for order in found.orders] == [sorted(layer) for layer in layers]


def test_by_height_there_is_one_change_and_it_says_where():
    found = changes([[0]] * 10 + [[1]] * 5, 0.2 * np.arange(1, 16))
    (change,) = found.changes
    assert (change.layer, change.out, change.into) == (11, 0, 1)
    assert abs(change.z - 2.0) < 1e-9


def test_who_is_in_already_begins():
    found = changes([[0, 1], [0, 1], [0, 1]], 0.2 * np.arange(1, 4))
    assert len(found.changes) == 3


def test_many_filaments_in_a_layer_keep_their_order():
    found = changes([list(range(9)), list(range(9))], np.array([0.2, 0.4]))
    assert len(found.changes) == 16
