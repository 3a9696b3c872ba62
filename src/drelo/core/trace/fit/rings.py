"""Normal equations in which every unknown meets only its neighbours round a ring, solved ring by ring."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from drelo.core.compiled import compiled

Array = NDArray[np.float64]
Indices = NDArray[np.int64]

# Unknowns of a node; loops of a known length are compiled to much faster code.
SIZE = 6


@compiled
def add_pair(
    own: Array, ahead: Array, right: Array, i: int, j: int, row_i: Array, row_j: Array, weight: float, value: float
) -> None:
    """Adds one equation over the unknowns of node i and of the node j that follows it.

    own: shape (n, SIZE, SIZE), each node's equations. ahead: the same shape, those between it and the one after it.
    right: shape (n, SIZE).
    """
    for a in range(SIZE):
        wa, wb = weight * row_i[a], weight * row_j[a]
        right[i, a] += wa * value
        right[j, a] += wb * value
        for b in range(SIZE):
            own[i, a, b] += wa * row_i[b]
            own[j, a, b] += wb * row_j[b]
            ahead[i, a, b] += wa * row_j[b]


@compiled
def solve(own: Array, ahead: Array, right: Array, starts: Indices) -> Array:
    """The unknowns, shape (n, SIZE); ring r is nodes starts[r] to starts[r + 1].

    The equations must be positive definite. Block elimination along each ring, its last node set apart as a border
    since it meets the first.
    """
    result = np.zeros_like(right)
    pivot, schur, rest = np.empty((SIZE, SIZE)), np.empty((SIZE, SIZE)), np.empty((SIZE, 1))
    for r in range(len(starts) - 1):
        low, count = starts[r], starts[r + 1] - starts[r]
        last = starts[r + 1] - 1
        if count <= 0:
            continue
        schur[:], rest[:, 0] = own[last], right[last]
        inner = count - 1
        if inner == 0:
            schur += ahead[low] + ahead[low].T
        # Columns of every node: its right side, what couples it to the border, what couples it to the next node.
        wide = np.zeros((max(inner, 1), SIZE, 1 + 2 * SIZE))
        for i in range(inner):
            wide[i, :, 0] = right[low + i]
            if i == 0:
                wide[i, :, 1 : SIZE + 1] += ahead[last].T
            if i == inner - 1:
                wide[i, :, 1 : SIZE + 1] += ahead[last - 1]
            else:
                wide[i, :, SIZE + 1 :] = ahead[low + i]
        first_border, last_border = wide[0, :, 1 : SIZE + 1].copy(), wide[max(inner - 1, 0), :, 1 : SIZE + 1].copy()
        for i in range(inner):
            pivot[:] = own[low + i]
            if i:
                _forward(pivot, wide[i], ahead[low + i - 1], wide[i - 1])
            _divide(pivot, wide[i])
        for i in range(inner - 2, -1, -1):
            _back(wide[i], wide[i + 1])
        if inner:
            _take_away(schur, first_border, wide[0, :, 1 : SIZE + 1])
            _take_away(rest, first_border, wide[0, :, :1])
        if inner > 1:
            _take_away(schur, last_border, wide[inner - 1, :, 1 : SIZE + 1])
            _take_away(rest, last_border, wide[inner - 1, :, :1])
        _divide(schur, rest)
        result[last] = rest[:, 0]
        for i in range(inner):
            for a in range(SIZE):
                total = wide[i, a, 0]
                for b in range(SIZE):
                    total -= wide[i, a, 1 + b] * rest[b, 0]
                result[low + i, a] = total
    return result


# The two below are written out, since slices of whole arrays are fast and slices of their columns are not.
@compiled
def _forward(pivot: Array, columns: Array, between: Array, before: Array) -> None:
    """Takes what the node before, already solved for, adds to a node's equations out of them."""
    for a in range(SIZE):
        for k in range(SIZE):
            factor = between[k, a]
            for b in range(SIZE + 1):
                columns[a, b] -= factor * before[k, b]
            for b in range(SIZE):
                pivot[a, b] -= factor * before[k, SIZE + 1 + b]


@compiled
def _back(columns: Array, after: Array) -> None:
    """Puts what the next node was found to be into a node's solution."""
    for a in range(SIZE):
        for k in range(SIZE):
            factor = columns[a, SIZE + 1 + k]
            for b in range(SIZE + 1):
                columns[a, b] -= factor * after[k, b]


@compiled
def _take_away(target: Array, left: Array, right: Array) -> None:
    """target -= leftᵀ right"""
    for a in range(SIZE):
        for k in range(SIZE):
            factor = left[k, a]
            for b in range(target.shape[1]):
                target[a, b] -= factor * right[k, b]


@compiled
def _divide(matrix: Array, columns: Array) -> None:
    """columns = matrix⁻¹ columns, in place; the matrix is spent."""
    for k in range(SIZE):
        inverse = 1.0 / matrix[k, k]
        for i in range(k + 1, SIZE):
            factor = matrix[i, k] * inverse
            for j in range(k + 1, SIZE):
                matrix[i, j] -= factor * matrix[k, j]
            for j in range(columns.shape[1]):
                columns[i, j] -= factor * columns[k, j]
    for k in range(SIZE - 1, -1, -1):
        for j in range(columns.shape[1]):
            total = columns[k, j]
            for i in range(k + 1, SIZE):
                total -= matrix[k, i] * columns[i, j]
            columns[k, j] = total / matrix[k, k]
