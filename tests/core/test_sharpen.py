"""Small blurred pictures are looked at without their blur: gaps, corners and the tone of thin strokes come back."""

import cv2
import numpy as np
import pytest
from benchmarks.tracing import render
from benchmarks.tracing.measure import score
from benchmarks.tracing.truth import truths

from drelo.core.picture.decode import decode
from drelo.core.picture.sharpen import sharpened
from drelo.core.trace.ink import InkSettings, trace_ink


def strokes(width: int) -> np.ndarray:
    """Upright bars that are `width` px wide, 0 paper, 1 ink."""
    x = np.arange(120)
    return np.tile((x % 15 < width).astype(np.float32), (90, 1))


def blurred(field: np.ndarray, sigma: float) -> np.ndarray:
    """As a picture of 256 tones shows it."""
    return (np.round(cv2.GaussianBlur(field, (0, 0), sigma, borderType=cv2.BORDER_REPLICATE) * 255) / 255).astype(
        np.float32
    )


@pytest.mark.parametrize("width", [3, 4, 6])
@pytest.mark.parametrize("sigma", [1.0, 1.5])
def test_what_was_blurred_is_sharp_again_though_its_blur_is_known_roughly(width, sigma):
    soft = blurred(strokes(width), sigma)
    dark = float(soft.max())
    found = sharpened(soft / dark, 1.05 * sigma)
    assert found is not None
    # Thin strokes under a blur are paler than their ink.
    assert found.ink == pytest.approx(1 / dark, rel=0.08)
    inner = (slice(10, -10), slice(10, -10))
    before, after = (np.abs(f - strokes(width))[inner].mean() for f in (soft / dark, found.values))
    assert after < 0.6 * before


def test_noise_is_left_alone():
    noisy = blurred(strokes(5), 1.2) + np.random.default_rng(2).normal(0, 0.03, (90, 120)).astype(np.float32)
    assert sharpened(noisy, 1.2) is None


def test_a_field_without_edges_is_no_trouble():
    found = sharpened(np.zeros((40, 50), np.float32), 1.5)
    assert found is not None
    assert not found.values.any()


@pytest.mark.parametrize("sigma", [1.0, 1.5, 2.0])
def test_letters_that_ran_together_under_a_blur_come_apart(sigma):
    outlines, width, height = truths()[2].fitted(150)
    grey = cv2.GaussianBlur(render.toned(render.coverage(outlines, width, height)), (0, 0), sigma)
    reached = score(trace_ink(decode(render.png(grey)), InkSettings()).outlines, outlines)
    assert reached.topology
    assert reached.mean < 0.06


def test_the_level_that_is_told_lies_midway_between_paper_and_ink():
    outlines, width, height = truths()[4].fitted(150)
    found = trace_ink(decode(render.blurred(render.coverage(outlines, width, height))), InkSettings())
    # The picture shows no pixel of full ink.
    assert found.level == pytest.approx((255 - (244 + 28) / 2) / 255, abs=0.03)
