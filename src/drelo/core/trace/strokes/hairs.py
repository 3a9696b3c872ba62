"""Hairlines made as dark as their edges are steep, so that a blur or noise does not break them."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
from numpy.typing import NDArray

from drelo.core.compiled import compiled
from drelo.core.picture.field import InkField
from drelo.core.trace.strokes.pens import widths

Values = NDArray[np.float32]

# A picture is made crisp by so much of what differs from it blurred by so many px; by less of it under noise.
CRISP, GAIN, NOISY_GAIN = 2.0, 1.0, 0.5
# … where at least such a share of its lines is so thin, px.
HAIRS_SHARE, HAIR = 0.05, 3.0
# With more noise (of 255) it is averaged along the lines first, in so many directions, over so many px.
CALM_NOISE = 5.0
DIRECTIONS, ALONG, ACROSS = 16, 1.0, 0.4
# … where there is ink beside a pixel of so much of the level; what counts least weighs so much of the most.
NEAR, LEAST = 0.5, 0.02


def crisp(field: InkField) -> InkField:
    """The field with lines as dark as their edges are steep: a blur takes hairlines below the level. Edges stay where
    they are.
    """
    if field.hard:
        return field
    noisy = field.noise > CALM_NOISE
    values = averaged_along(field.values, field.level) if noisy else field.values
    found = widths(values, field.level)
    if not len(found) or np.quantile(found, HAIRS_SHARE) > HAIR:
        return replace(field, values=values)
    soft = np.asarray(cv2.GaussianBlur(values, (0, 0), CRISP, borderType=cv2.BORDER_REPLICATE), np.float32)
    return replace(field, values=values + np.float32(NOISY_GAIN if noisy else GAIN) * (values - soft))


def averaged_along(values: Values, level: float) -> Values:
    """Each pixel in reach of ink averaged with its like: along the direction in which they differ least. Lines and
    edges stay.
    """
    taps = [_line(np.pi * k / DIRECTIONS) for k in range(DIRECTIONS)]
    bounds = np.cumsum([0, *(len(places) for places, _ in taps)])
    places, weights = (np.concatenate(parts) for parts in zip(*taps, strict=True))
    reach = int(np.abs(places).max())
    near = np.asarray(cv2.dilate(values, np.ones((3, 3), np.uint8))) > NEAR * level
    rows, columns = np.nonzero(near)
    result = values.copy()
    padded = np.pad(values, reach, mode="edge")
    result[rows, columns] = _least_spread(padded, rows + reach, columns + reach, bounds, places, weights)
    return result


def _line(angle: float) -> tuple[NDArray[np.int64], Values]:
    """Pixels along a line through the middle, rows and columns (n, 2), and their weights, of sum 1."""
    reach = round(2.5 * ALONG)
    places = np.mgrid[-reach : reach + 1, -reach : reach + 1].reshape(2, -1).T
    y, x = places.T
    along, across = x * np.cos(angle) + y * np.sin(angle), y * np.cos(angle) - x * np.sin(angle)
    weights = np.exp(-0.5 * ((along / ALONG) ** 2 + (across / ACROSS) ** 2))
    counts = weights > LEAST
    return places[counts], (weights[counts] / weights[counts].sum()).astype(np.float32)


@compiled
def _least_spread(
    values: Values,
    rows: NDArray[np.int64],
    columns: NDArray[np.int64],
    bounds: NDArray[np.int64],
    places: NDArray[np.int64],
    weights: Values,
) -> Values:
    """The mean along the direction in which the values round a pixel spread least, of each pixel, shape (n,)."""
    result = np.zeros(len(rows), np.float32)
    for i in range(len(rows)):
        least = np.inf
        for k in range(len(bounds) - 1):
            mean = square = 0.0
            for j in range(bounds[k], bounds[k + 1]):
                value = values[rows[i] + places[j, 0], columns[i] + places[j, 1]]
                mean += weights[j] * value
                square += weights[j] * value * value
            if square - mean * mean < least:
                least = square - mean * mean
                result[i] = mean
    return result
