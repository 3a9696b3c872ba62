"""Pieces packed on the beds of a printer."""

from __future__ import annotations

from collections.abc import Sequence


def packed(
    sizes: Sequence[tuple[float, float]], bed: tuple[float, float], spacing: float
) -> list[list[tuple[int, float, float]]]:
    """Places on beds, in shelves from the deepest piece to the shallowest: (number, x, y) for each bed."""
    order = sorted(range(len(sizes)), key=lambda i: (-sizes[i][1], -sizes[i][0], i))
    beds: list[list[tuple[int, float, float]]] = []
    shelves: list[list[float]] = []
    for i in order:
        width, depth = sizes[i]
        for number, rows in enumerate(beds):
            place = _on_shelf(shelves[number], width, depth, bed, spacing)
            if place is not None:
                rows.append((i, *place))
                break
        else:
            beds.append([(i, 0.0, 0.0)])
            shelves.append([0.0, depth, width + spacing])
    return [sorted(rows) for rows in beds]


def _on_shelf(
    shelf: list[float], width: float, depth: float, bed: tuple[float, float], spacing: float
) -> tuple[float, float] | None:
    """A place on the bed's last shelf (its y, its depth, how far it is filled), or on a new one behind it."""
    y, high, x = shelf
    if x + width <= bed[0] and depth <= high:
        shelf[2] = x + width + spacing
        return x, y
    behind = y + high + spacing
    if behind + depth <= bed[1]:
        shelf[:] = [behind, depth, width + spacing]
        return 0.0, behind
    return None
