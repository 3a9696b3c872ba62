"""Hairlines made dark enough to be followed under blur and noise."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from drelo.core.picture.decode import decode
from drelo.core.picture.field import InkField, ink_field
from drelo.core.trace.strokes.hairs import averaged_along, crisp


def hairs(noise: float, blur: float = 0.0) -> InkField:
    """A line of 1.25 px between two rows of pixels, a leaning one, and a block."""
    large = np.full((8 * 120, 8 * 160), 255, np.uint8)
    cv2.rectangle(large, (80, 235), (1200, 244), 0, -1)
    cv2.rectangle(large, (960, 600), (1240, 900), 0, -1)
    cv2.line(large, (80, 860), (800, 400), 0, 10)
    grey = cv2.resize(large, (160, 120), interpolation=cv2.INTER_AREA).astype(float)
    grey = cv2.GaussianBlur(grey, (0, 0), blur) if blur else grey
    grey = np.clip(grey + np.random.default_rng(7).normal(0, noise, grey.shape), 0, 255) if noise else grey
    return ink_field(decode(cv2.imencode(".png", grey.astype(np.uint8))[1].tobytes()), None, False, None)


def pieces(field: InkField) -> int:
    """Parts of the ink that are longer than specks."""
    ink = (field.values > field.level).astype(np.uint8)
    _, _, stats, _ = cv2.connectedComponentsWithStats(ink, connectivity=8)
    return int((stats[1:, cv2.CC_STAT_AREA] >= 4).sum())


@pytest.mark.parametrize(("noise", "blur"), [(0.0, 0.0), (0.0, 0.7), (12.0, 0.0), (16.0, 0.0)])
def test_hairlines_are_one_piece_each(noise, blur):
    assert pieces(crisp(hairs(noise, blur))) == 3


def test_noise_alone_breaks_them():
    assert pieces(hairs(12.0)) > 3


def test_averaging_along_lines_takes_noise_and_leaves_edges_and_corners():
    rng = np.random.default_rng(3)
    clean = np.zeros((80, 80), np.float32)
    clean[20:60, 20:60] = 1
    noisy = (clean + rng.normal(0, 0.08, clean.shape)).astype(np.float32)
    calm = averaged_along(noisy, 0.5)
    inside = calm[25:55, 25:55]
    assert inside.std() < 0.6 * noisy[25:55, 25:55].std()
    assert ((calm > 0.5) == (clean > 0.5)).mean() > 0.999
    flat = np.full((9, 9), 0.7, np.float32)
    assert averaged_along(flat, 0.5) == pytest.approx(flat)
