"""The pixels of which a kernel made a larger picture, by least squares."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from drelo.core.picture.grain import KERNELS

if TYPE_CHECKING:
    # It takes long to load, and hardly a picture asks for it.
    from scipy.sparse import csr_array

Values = NDArray[np.float32]
# No kernel reaches further, in pixels of the small picture.
WIDEST = 3
# About so many rows tell which of several kernels was meant.
TRIED = 60
# So often is asked what was cut off at white and black, as long as that moves by so much (of 255).
CUT_OFF, MOVED = 10, 0.5


def unspread(pixels: NDArray[np.uint8], times: int, kernels: tuple[str, ...]) -> NDArray[np.uint8]:
    """The small picture, shape (rows, columns, channels), of one enlarged so many times with one of the kernels."""
    kernel = min(kernels, key=lambda k: _missed(pixels, times, k)) if len(kernels) > 1 else kernels[0]
    grey = pixels.shape[2] > 1 and bool((pixels == pixels[..., :1]).all())
    values = pixels[..., :1].astype(np.float32) if grey else pixels.astype(np.float32)
    for _ in range(2):
        values = _along_first(values, times, kernel)[0].transpose(1, 0, 2)
    return np.repeat(values.astype(np.uint8), pixels.shape[2] // values.shape[2], axis=2)


def _missed(pixels: NDArray[np.uint8], times: int, kernel: str) -> float:
    """By how much a kernel misses some of the pixels, sum of squares."""
    by = max(1, len(pixels) // times // TRIED)
    some = np.ascontiguousarray(pixels.transpose(1, 0, 2)[:, :: by * times]).astype(np.float32)
    found, spread = _along_first(some, times, kernel)
    made = np.round(np.clip(np.asarray(spread @ found.reshape(len(found), -1)), 0, 255))
    return float(np.square(made.reshape(some.shape) - some).sum())


def _along_first(values: Values, times: int, kernel: str) -> tuple[Values, csr_array[Any, Any]]:
    """The small values along the first axis, and how they spread."""
    spread = _spread(len(values), times, kernel)
    band = _band(spread)
    given = np.ascontiguousarray(values.reshape(len(values), -1))
    found = _solved(band, spread, given)
    # Only kernels that swing beyond white and black were cut off there.
    columns = np.arange(0 if kernel == "linear" else given.shape[1])
    wanted = given[:, columns]
    for _ in range(CUT_OFF):
        more = given[:, columns]
        white, black = more >= 255, more <= 0
        made = np.asarray(spread @ found[:, columns], np.float32)
        np.maximum(made, 255, out=more, where=white)
        np.minimum(made, 0, out=more, where=black)
        moving = np.abs(more - wanted).max(axis=0, initial=0.0) > MOVED
        columns, wanted = columns[moving], more[:, moving]
        if not len(columns):
            break
        found[:, columns] = _solved(band, spread, wanted)
    return np.round(found).reshape(-1, *values.shape[1:]), spread


def _spread(size: int, times: int, kernel: str) -> csr_array[Any, Any]:
    """How much of each small pixel every pixel along an axis has, shape (size, small pixels)."""
    from scipy.sparse import csr_array

    count = -(-size // times)
    at = (np.arange(size) + 0.5) / times - 0.5
    near = np.floor(at).astype(np.int64)[:, None] + np.arange(-WIDEST, WIDEST + 1)
    shares = KERNELS[kernel](np.abs(at[:, None] - near)) * ((near >= 0) & (near < count))
    shares /= shares.sum(axis=1, keepdims=True)
    rows = np.repeat(np.arange(size), near.shape[1])
    spread = csr_array((shares.ravel(), (rows, near.clip(0, count - 1).ravel())), shape=(size, count))
    spread.eliminate_zeros()
    return spread.astype(np.float32)


def _band(spread: csr_array[Any, Any]) -> NDArray[np.float64]:
    """The normal equations' matrix, its upper diagonals as rows."""
    count = spread.shape[1]
    square = (spread.T @ spread).todia()
    band = np.zeros((2 * WIDEST + 1, count))
    for offset, line in zip(square.offsets, square.data, strict=True):
        if 0 <= offset <= 2 * WIDEST:
            band[2 * WIDEST - offset, offset:count] = line[offset:count]
    return band


def _solved(band: NDArray[np.float64], spread: csr_array[Any, Any], wanted: Values) -> Values:
    from scipy.linalg import solveh_banded

    found = np.asarray(solveh_banded(band, np.asarray(spread.T @ wanted, np.float64)), np.float32)
    return np.clip(found, 0, 255, out=found)
