"""Normal equations in which every unknown meets only its neighbours round a ring, solved ring by ring."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from drelo.core.compiled import compiled

Array = NDArray[np.float64]
Indices = NDArray[np.int64]


@compiled
def add_pair(
    own: Array, ahead: Array, right: Array, i: int, j: int, row_i: Array, row_j: Array, weight: float, value: float
) -> None:
    """Adds one equation over the unknowns of node i and of the node j that follows it.

    own: shape (n, k, k), each node's equations. ahead: shape (n, k, k), those between it and the one after it.
    right: shape (n, k).
    """
    size = len(row_i)
    for a in range(size):
        wa, wb = weight * row_i[a], weight * row_j[a]
        right[i, a] += wa * value
        right[j, a] += wb * value
        for b in range(size):
            own[i, a, b] += wa * row_i[b]
            own[j, a, b] += wb * row_j[b]
            ahead[i, a, b] += wa * row_j[b]


@compiled
def solve(own: Array, ahead: Array, right: Array, starts: Indices) -> Array:
    """The unknowns, shape (n, k); ring r is nodes starts[r] to starts[r + 1]. The equations must be positive definite.

    Block elimination along each ring, its last node set apart as a border since it meets the first.
    """
    size = own.shape[1]
    result = np.zeros_like(right)
    pivot, schur, rest = np.empty((size, size)), np.empty((size, size)), np.empty((size, 1))
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
        wide = np.zeros((max(inner, 1), size, 1 + 2 * size))
        for i in range(inner):
            wide[i, :, 0] = right[low + i]
            if i == 0:
                wide[i, :, 1 : size + 1] += ahead[last].T
            if i == inner - 1:
                wide[i, :, 1 : size + 1] += ahead[last - 1]
            else:
                wide[i, :, size + 1 :] = ahead[low + i]
        first_border, last_border = wide[0, :, 1 : size + 1].copy(), wide[max(inner - 1, 0), :, 1 : size + 1].copy()
        for i in range(inner):
            pivot[:] = own[low + i]
            if i:
                _take_away(pivot, ahead[low + i - 1], wide[i - 1, :, size + 1 :])
                _take_away(wide[i, :, : size + 1], ahead[low + i - 1], wide[i - 1, :, : size + 1])
            _divide(pivot, wide[i])
        for i in range(inner - 2, -1, -1):
            _take_away(wide[i, :, : size + 1], wide[i, :, size + 1 :].T, wide[i + 1, :, : size + 1])
        if inner:
            _take_away(schur, first_border, wide[0, :, 1 : size + 1])
            _take_away(rest, first_border, wide[0, :, :1])
        if inner > 1:
            _take_away(schur, last_border, wide[inner - 1, :, 1 : size + 1])
            _take_away(rest, last_border, wide[inner - 1, :, :1])
        _divide(schur, rest)
        result[last] = rest[:, 0]
        for i in range(inner):
            for a in range(size):
                total = wide[i, a, 0]
                for b in range(size):
                    total -= wide[i, a, 1 + b] * rest[b, 0]
                result[low + i, a] = total
    return result


@compiled
def _take_away(target: Array, left: Array, right: Array) -> None:
    """target -= leftᵀ right"""
    for a in range(target.shape[0]):
        for k in range(left.shape[0]):
            factor = left[k, a]
            for b in range(target.shape[1]):
                target[a, b] -= factor * right[k, b]


@compiled
def _divide(matrix: Array, columns: Array) -> None:
    """columns = matrix⁻¹ columns, in place; the matrix is spent."""
    size = len(matrix)
    for k in range(size):
        inverse = 1.0 / matrix[k, k]
        for i in range(k + 1, size):
            factor = matrix[i, k] * inverse
            for j in range(k + 1, size):
                matrix[i, j] -= factor * matrix[k, j]
            for j in range(columns.shape[1]):
                columns[i, j] -= factor * columns[k, j]
    for k in range(size - 1, -1, -1):
        for j in range(columns.shape[1]):
            total = columns[k, j]
            for i in range(k + 1, size):
                total -= matrix[k, i] * columns[i, j]
            columns[k, j] = total / matrix[k, k]
