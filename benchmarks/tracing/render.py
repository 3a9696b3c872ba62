"""Pictures of known outlines: rendered large and averaged down to true coverage, then spoilt as real pictures are."""

from __future__ import annotations

import io
from collections.abc import Callable, Sequence

import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from drelo.core.outline.outline import Outline

Grey = NDArray[np.float64]
# Sub-pixels a side of which one pixel is the average, by the picture's longer side.
FINE, COARSE, FINE_UP_TO = 16, 8, 700


def coverage(outlines: Sequence[Outline], width: int, height: int) -> Grey:
    """Share of each pixel that the outlines cover, shape (height, width)."""
    factor = FINE if max(width, height) <= FINE_UP_TO else COARSE
    result = np.empty((height, width))
    lines = [[c.flattened(0.01) * factor for c in o.contours] for o in outlines]
    # In strips, so that a large picture needs little memory.
    strip = 200
    for top in range(0, height, strip):
        rows = min(strip, height - top)
        big = np.zeros((rows * factor, width * factor), np.uint8)
        for rings in lines:
            _fill(big, rings, top * factor)
        result[top : top + rows] = big.reshape(rows, factor, width, factor).mean((1, 3))
    return result


def _fill(big: NDArray[np.uint8], rings: list[NDArray[np.float64]], top: float) -> None:
    """Sub-pixels whose centres lie inside by the even-odd rule. (cv2's own fill also paints those on the edge.)"""
    starts, ends = np.concatenate(rings), np.concatenate([np.roll(r, -1, 0) for r in rings])
    x0, y0, x1, y1 = starts[:, 0], starts[:, 1] - top - 0.5, ends[:, 0], ends[:, 1] - top - 0.5
    first = np.ceil(np.minimum(y0, y1)).clip(0, len(big)).astype(np.int64)
    last = np.ceil(np.maximum(y0, y1)).clip(0, len(big)).astype(np.int64)
    count = last - first
    edge = np.repeat(np.arange(len(count)), count)
    row = np.arange(count.sum()) - np.repeat(np.cumsum(count) - count, count) + first[edge]
    across = x0[edge] + (row - y0[edge]) * ((x1 - x0)[edge] / np.where(y1 != y0, y1 - y0, 1)[edge])
    column = np.ceil(across - 0.5).clip(0, big.shape[1]).astype(np.int64)
    flips = np.zeros((big.shape[0], big.shape[1] + 1), np.uint8)
    np.bitwise_xor.at(flips, (row, column), 1)
    big ^= np.bitwise_xor.accumulate(flips, axis=1)[:, :-1]


def toned(cover: Grey, paper: float = 244.0, ink: float = 28.0) -> Grey:
    return paper + (ink - paper) * cover


def png(grey: Grey) -> bytes:
    return _packed(grey, "PNG")


def _packed(grey: Grey, kind: str, **options: int) -> bytes:
    out = io.BytesIO()
    Image.fromarray(np.clip(np.round(grey), 0, 255).astype(np.uint8)).save(out, kind, **options)
    return out.getvalue()


def clean(cover: Grey) -> bytes:
    return png(toned(cover, 255, 0))


def jpeg(cover: Grey) -> bytes:
    return _packed(toned(cover), "JPEG", quality=60)


def jpeg_75(cover: Grey) -> bytes:
    return _packed(toned(cover), "JPEG", quality=75)


def blurred_a_little(cover: Grey) -> bytes:
    return png(cv2.GaussianBlur(toned(cover), (0, 0), 1.0))


def blurred(cover: Grey) -> bytes:
    return png(cv2.GaussianBlur(toned(cover), (0, 0), 1.5))


def noisy(cover: Grey) -> bytes:
    return png(toned(cover) + np.random.default_rng(5).normal(0, 12, cover.shape))


def light(shape: tuple[int, ...]) -> Grey:
    """A lamp at the upper left: full there, half at the far corner."""
    y, x = np.mgrid[0 : shape[0], 0 : shape[1]]
    away = np.hypot(x / shape[1] - 0.2, y / shape[0] - 0.15)
    return 1 - 0.45 * away


def uneven(cover: Grey) -> bytes:
    return png(toned(cover) * light(cover.shape))


def spoilt(cover: Grey) -> bytes:
    """All at once, as a hurried photo is."""
    grey = cv2.GaussianBlur(toned(cover), (0, 0), 1.0) * light(cover.shape)
    return _packed(grey + np.random.default_rng(6).normal(0, 6, cover.shape), "JPEG", quality=75)


def one_bit(cover: Grey) -> bytes:
    return png(np.where(cover >= 0.5, 0.0, 255.0))


def enlarged(cover: Grey, times: int) -> bytes:
    """Every pixel repeated, as programs show small pictures."""
    return png(np.kron(toned(cover), np.ones((times, times))))


CONDITIONS: dict[str, Callable[[Grey], bytes]] = {
    "clean": clean,
    "jpeg": jpeg,
    "blur": blurred,
    "noise": noisy,
    "uneven": uneven,
    "spoilt": spoilt,
    "1-bit": one_bit,
}
