"""Pictures drawn to break a trace."""

from __future__ import annotations

from collections.abc import Callable

import cv2
import numpy as np
from numpy.typing import NDArray

Grey = NDArray[np.uint8]
# Line art is drawn so many times larger and averaged down.
FINE = 4


def checkerboard(side: int) -> Grey:
    y, x = np.mgrid[:side, :side]
    return np.where((x // 6 + y // 6) % 2, 250, 20).astype(np.uint8)


def moire(side: int) -> Grey:
    y, x = np.mgrid[:side, :side] * (2 * np.pi / 3.3)
    return np.asarray(127 + 120 * np.sin(x) * np.sin(x * np.cos(0.06) + y * np.sin(0.06)), np.uint8)


def hairs(side: int) -> Grey:
    large = np.full((side * FINE, side * FINE), 255, np.uint8)
    for k in range(0, side * FINE, 7 * FINE):
        cv2.line(large, (k, 0), (k + 60, side * FINE), 20, FINE)
        cv2.line(large, (0, k), (side * FINE, k + 40), 20, FINE)
    return _averaged(large)


def small_text(side: int) -> Grey:
    large = np.full((side * FINE, side * FINE), 255, np.uint8)
    for row in range(9, side, 9):
        cv2.putText(large, "Quick foxes 0123 &%", (8, row * FINE), cv2.FONT_HERSHEY_SIMPLEX, 0.8, 20, 2, cv2.LINE_AA)
    return _averaged(large)


def noise(side: int) -> Grey:
    calm = cv2.GaussianBlur(np.random.default_rng(1).random((side, side)).astype(np.float32), (0, 0), 4)
    return np.asarray(255 * (calm - calm.min()) / np.ptp(calm), np.uint8)


def gradient(side: int) -> Grey:
    y, x = np.mgrid[:side, :side]
    return np.asarray((x + y) * 127.0 / side, np.uint8)


def folded_scan(side: int) -> Grey:
    random = np.random.default_rng(2)
    y, x = np.mgrid[:side, :side]
    paper = np.full((side, side), 235, np.float32)
    for _ in range(3):
        angle, at = random.uniform(0, np.pi), random.uniform(0.2, 0.8) * side
        paper -= 40 * np.exp(-(((x * np.cos(angle) + y * np.sin(angle) - at) / 2.5) ** 2)).astype(np.float32)
    cv2.circle(paper, (side // 2, side // 2), side // 4, 40, -1, cv2.LINE_AA)
    cv2.circle(paper, (side // 2, side // 2), side // 9, 225, -1, cv2.LINE_AA)
    return np.asarray(np.clip(paper + random.normal(0, 8, paper.shape), 0, 255), np.uint8)


def rays(side: int) -> Grey:
    large = np.full((side * FINE, side * FINE), 255, np.uint8)
    middle, reach = side * FINE / 2, side * FINE * 0.48
    for angle in np.linspace(0, np.pi, 36, endpoint=False):
        step = reach * np.array([np.cos(angle), np.sin(angle)])
        ends = np.round([middle - step, middle + step]).astype(int).tolist()
        cv2.line(large, ends[0], ends[1], 20, 5)
    return _averaged(large)


def fish(side: int) -> Grey:
    large = np.full((side * FINE, side * FINE), 255, np.uint8)
    t, unit = np.linspace(0, 2 * np.pi, 400), side * FINE
    body = np.stack([0.5 + 0.3 * np.cos(t) - 0.11 * np.sin(t) ** 2, 0.5 + 0.33 * np.sin(t) * np.cos(t)], axis=1)
    cv2.fillPoly(large, [np.round(body * unit).astype(np.int32)], 20)
    for k in range(8):
        cv2.line(
            large,
            (int(unit * (0.38 + 0.05 * k)), int(0.42 * unit)),
            (int(unit * (0.35 + 0.05 * k)), int(0.57 * unit)),
            255,
            5,
        )
    return _averaged(large)


def block_letters(side: int) -> Grey:
    large = np.full((side * FINE, side * FINE), 255, np.uint8)
    size = side * FINE / 640
    cv2.putText(large, "ABE", (20, side * FINE // 2), cv2.FONT_HERSHEY_SIMPLEX, 9 * size, 20, int(50 * size))
    cv2.putText(large, "RSX8", (20, int(side * FINE * 0.9)), cv2.FONT_HERSHEY_SIMPLEX, 6.5 * size, 20, int(26 * size))
    return _averaged(large)


PICTURES: dict[str, Callable[[int], Grey]] = {
    draw.__name__: draw
    for draw in (checkerboard, moire, hairs, small_text, noise, gradient, folded_scan, rays, fish, block_letters)
}


def spoilt(grey: Grey, how: str) -> bytes:
    """A picture file; how: as drawn, without antialiasing, as a poor JPEG, blurred, or noisy."""
    random = np.random.default_rng(3)
    match how:
        case "jpeg":
            return cv2.imencode(".jpg", grey, [cv2.IMWRITE_JPEG_QUALITY, 40])[1].tobytes()
        case "1-bit":
            grey = np.where(grey > 127, 255, 0).astype(np.uint8)
        case "blur":
            grey = np.asarray(cv2.GaussianBlur(grey, (0, 0), 1.4), np.uint8)
        case "noise":
            grey = np.clip(grey + random.normal(0, 14, grey.shape), 0, 255).astype(np.uint8)
    return cv2.imencode(".png", grey)[1].tobytes()


def _averaged(large: Grey) -> Grey:
    size = large.shape[0] // FINE
    return np.asarray(cv2.resize(large, (size, size), interpolation=cv2.INTER_AREA), np.uint8)
