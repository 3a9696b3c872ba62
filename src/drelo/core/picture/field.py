"""The ink field: a continuous darkness over the picture in which the edge is a level line."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from drelo.core.errors import Refusal
from drelo.core.picture.decode import Picture
from drelo.core.picture.hairlines import with_hairlines
from drelo.core.picture.light import uneven_light

# Less contrast than this share of full black to white is an empty picture.
MIN_CONTRAST = 0.06
# Below this contrast of light and dark colours are looked at, and count when they differ by so many times more.
WEAK_CONTRAST, STRONGER, COLOUR_SAMPLE = 0.12, 2.5, 40_000
# Steps in which a picture's tones are shown.
TONES = 64
# Sample of pixels from which the noise is estimated.
NOISE_SAMPLE = 100_000
# Pixels up to which every one is counted in a histogram; of larger pictures one row in so many at least.
FEW_PIXELS, MOST_STEP = 300_000, 4
# Noise below this (of 255) is left alone; above, the field is calmed by a small Gaussian.
CALM_FROM = 1.6
# Blur (px) that turns the staircase of a hard-edged picture into an edge.
HARD_CALM = 0.75
# A tone stands out when so much of its side lies within so many tones; else this share of the side is below its end.
PEAK_WIDTH, PEAK_SHARE, END_SHARE = 8, 0.3, 0.97
# A picture with fewer in-between pixels than this share along its edges counts as hard-edged (1-bit).
SOFT_EDGE_SHARE = 0.1
# In between lies what is further than this share of the contrast from both tones; where JPEG has left its ripples
# beside the edges, the second.
BETWEEN, BETWEEN_CODED = 0.12, 0.35
# Steps of edges tell the same, where there are more than so many of more than so much contrast (of 255): a pixel is
# between from this share on, and without antialiasing fewer than so many are. So many rows and columns are looked at.
STEPS, STEP_CONTRAST, STEP_BETWEEN, STEP_SHARE, STEP_ROWS = 40, 60, 0.35, 0.12, 128
# A tone in between that so large a share of the picture has is a flat one of its own, with so many tones to both sides.
FLAT_TONE, BESIDE_FLAT = 0.01, 3
# Of a picture of flat tones so large a share has one of them.
MOSTLY_FLAT = 0.9


@dataclass(frozen=True, eq=False)
class InkField:
    """Ink by pixel.

    values: shape (height, width), float32: 0 on paper, 1 on full ink, at pixel centres (x + 0.5, y + 0.5).
    level: where the edge runs, on the same scale. darkness: the level as darkness, 0..1.
    span: by how much ink is darker than paper, 0..1; below 0 where the light parts are the ink.
    plain: shape (height, width), where lines and gaps of one pixel are not calmed with the rest; None where none are.
    noise: standard deviation of the picture's noise, in 1/255 of full ink.
    bits: shape (height, width), which pixels are ink, where the picture has no antialiasing; else None.
    """

    values: NDArray[np.float32]
    level: float
    darkness: float
    noise: float
    bits: NDArray[np.bool_] | None
    span: float
    plain: NDArray[np.bool_] | None = None

    @property
    def hard(self) -> bool:
        """Whether the picture has no antialiasing, so that a staircase is no feature."""
        return self.bits is not None


def ink_field(picture: Picture, level: float | None, invert: bool, local: bool | None = None) -> InkField:
    """Ink field of a picture.

    The opaque part is ink when the picture has a meaningful alpha channel, else what is dark.
    level: 0..1, how dark (or opaque) counts as ink; None finds it.
    invert: the light (or see-through) parts are the ink; a given level is still measured in darkness.
    local: the light over the picture is taken out; None does so where it is uneven.

    Raises Refusal when the picture has no contrast.
    """
    dark, histogram = _darkness(picture)
    paper, ink = _ends(histogram)
    if (ink - paper) / 255 < MIN_CONTRAST:
        raise Refusal("picture.one-tone")
    noise = _noise(dark) * 255 / (ink - paper)
    hard = _is_hard(histogram, paper, ink, picture.coded)
    # Under uneven light edges cross the middle tone anywhere, and show nothing between.
    hard = hard or ((picture.coded or _is_flat(histogram)) and _is_hard_at_steps(dark, (paper + ink) / 2))
    calm = HARD_CALM if hard else min(0.4 + noise / 40, 1.2) if noise > CALM_FROM else 0.0
    even = local is False or picture.alpha is not None or (hard and not local)
    light = None if even else uneven_light(~dark, bool(local))
    if light is None and (hard or not calm):
        values = np.asarray(cv2.LUT(dark, ((np.arange(256) - paper) / (ink - paper)).astype(np.float32)), np.float32)
        values = _calmed(values, calm) if calm else values
    else:
        values = _calmed(dark.astype(np.float32), calm) if calm else dark.astype(np.float32)
        if calm and not hard:
            # Noise that was cut off at white or black has moved the tones; they are where the calm picture lies.
            paper, ink = _ends(_histogram(values))
        if light is None:
            values -= np.float32(paper)
            values *= np.float32(1 / (ink - paper))
        else:
            values = light.evened(np.subtract(np.float32(255), values, out=values))
    found = 0.5 if level is None else (level * 255 - paper) / (ink - paper)
    # A level at the very end would count all or nothing as ink.
    found = float(np.clip(found, (1 - paper) / (ink - paper), (254 - paper) / (ink - paper)))
    darkness = (paper + found * (ink - paper)) / 255
    bits = None
    if hard:
        edge = paper + found * (ink - paper) if light is None else 255 - light.paper + found * (light.paper - light.ink)
        bits = np.asarray((dark > int(edge)) != invert)
    if invert:
        values = 1 - values
        found = 1 - found
    span = (ink - paper) / 255
    plain = None
    if bits is not None:
        values, plain = with_hairlines(values, bits, found)
    return InkField(values, found, darkness, noise, bits, -span if invert else span, plain)


def _darkness(picture: Picture) -> tuple[NDArray[np.uint8], NDArray[np.float64]]:
    """How dark (or opaque) every pixel is, 0..255, and how many pixels are of each darkness.

    Where light and dark hardly differ, but colours do, it is how far a pixel is on the way between them.
    """
    if picture.alpha is not None:
        return picture.alpha, _histogram(picture.alpha)
    dark = np.asarray(cv2.bitwise_not(_grey(picture.rgb)), np.uint8)
    histogram = _histogram(dark)
    paper, ink = _ends(histogram)
    if (ink - paper) / 255 >= WEAK_CONTRAST:
        return dark, histogram
    hue = _along_colours(picture.rgb)
    found = _histogram(hue)
    low, high = _ends(found)
    return (hue, found) if high - low > STRONGER * (ink - paper) else (dark, histogram)


def _along_colours(rgb: NDArray[np.uint8]) -> NDArray[np.uint8]:
    """Where each pixel lies along the axis along which colours differ most, 0..255 between the ends of all colours.

    What there is less of counts as dark.
    """
    step = 1 + int(np.sqrt(rgb.shape[0] * rgb.shape[1] / COLOUR_SAMPLE))
    some = rgb[::step, ::step].reshape(-1, 3).astype(np.float64)
    away = some - some.mean(axis=0)
    axis = np.linalg.eigh(away.T @ away)[1][:, -1]
    along = away @ axis
    # The mean lies nearer to what there is more of.
    axis = axis if along.max() > -along.min() else -axis
    low, high = 255 * np.minimum(axis, 0).sum(), 255 * np.maximum(axis, 0).sum()
    scale = 255 / (high - low)
    matrix = np.append(axis * scale, -low * scale)[None]
    return np.asarray(cv2.transform(rgb, matrix), np.uint8)


def _grey(rgb: NDArray[np.uint8]) -> NDArray[np.uint8]:
    return np.asarray(cv2.cvtColor(rgb, cv2.COLOR_RGB2GRAY), np.uint8)


def _calmed(values: NDArray[np.float32], sigma: float) -> NDArray[np.float32]:
    return np.asarray(cv2.GaussianBlur(values, (0, 0), sigma, borderType=cv2.BORDER_REPLICATE), np.float32)


def _histogram(dark: NDArray[np.uint8] | NDArray[np.float32]) -> NDArray[np.float64]:
    # Some rows of a large picture tell as much.
    step = min(MOST_STEP, 1 + dark.size // FEW_PIXELS)
    whole = dark[::step] if dark.dtype == np.uint8 else cv2.convertScaleAbs(dark[::step])
    counts = cv2.calcHist([whole], [0], None, [256], [-0.5, 255.5]).ravel()
    return step * counts.astype(np.float64)


def _ends(histogram: NDArray[np.float64]) -> tuple[float, float]:
    """Darkness of paper and of ink (0..255): the heaviest tone on either side of Otsu's threshold.

    Source: N. Otsu, "A threshold selection method from gray-level histograms", 1979. The edge of an
    antialiased shape lies midway between the two tones, wherever the threshold itself falls.
    """
    tones = np.arange(256)
    weight = np.cumsum(histogram)
    total = weight[-1]
    mean = np.cumsum(histogram * tones)
    with np.errstate(divide="ignore", invalid="ignore"):
        between = (mean[-1] * weight / total - mean) ** 2 / (weight * (total - weight))
    between = np.nan_to_num(between[:-1], nan=0.0, posinf=0.0)
    best = between.max()
    if best <= 0:
        return 0.0, 0.0
    threshold = round(float(np.mean(np.flatnonzero(between >= best * (1 - 1e-9)))))
    smooth = np.convolve(histogram, [1, 2, 3, 2, 1], "same")
    low, high = smooth[: threshold + 1], smooth[threshold + 1 :]
    return threshold - _peak(low[::-1]), threshold + 1 + _peak(high)


def _peak(side: NDArray[np.float64]) -> float:
    """Tone of one side, counted from the threshold outward: its heaviest, or where it ends when none stands out."""
    total = side.sum()
    if total <= 0:
        return len(side) / 2
    top = int(np.argmax(side))
    near = np.arange(max(top - 3, 0), min(top + 4, len(side)))
    if side[max(top - PEAK_WIDTH, 0) : top + PEAK_WIDTH + 1].sum() < PEAK_SHARE * total:
        # Strokes thinner than their blur reach their tone nowhere; the most that they reach is nearest to it.
        return float(np.searchsorted(np.cumsum(side), END_SHARE * total))
    return float(np.average(near, weights=side[near]))


def _is_hard(histogram: NDArray[np.float64], paper: float, ink: float, coded: bool) -> bool:
    span = ink - paper
    off = (BETWEEN_CODED if coded else BETWEEN) * span
    shown = histogram
    if not coded:
        flat = (histogram > FLAT_TONE * histogram.sum()).astype(np.uint8)[None]
        shown = np.where(cv2.dilate(flat, np.ones((1, 2 * BESIDE_FLAT + 1), np.uint8))[0] > 0, 0, histogram)
    between = shown[round(paper + off) : round(ink - off) + 1].sum()
    # The number of edge pixels is not known yet; a picture with an antialiased edge has far more than this.
    edge_pixels = 4 * np.sqrt(
        min(histogram[: round(paper + span / 2)].sum(), histogram[round(paper + span / 2) :].sum())
    )
    return bool(between < SOFT_EDGE_SHARE * edge_pixels)


def _is_flat(histogram: NDArray[np.float64]) -> bool:
    """Whether nearly all of a picture is of a few tones."""
    total = histogram.sum()
    return bool(histogram[histogram > FLAT_TONE * total].sum() > MOSTLY_FLAT * total)


def _is_hard_at_steps(dark: NDArray[np.uint8], middle: float) -> bool:
    """Whether hardly a pixel beside the steps of its edges lies between the tones that are one pixel further on.

    Level and upright edges between whole pixels show nothing between in any picture.
    """
    soft = seen = 0
    for whole in (dark, dark.T):
        rows = np.arange(1, len(whole) - 1, max(1, len(whole) // STEP_ROWS))
        values = np.ascontiguousarray(whole[rows])
        above, here, below = (np.diff(part > middle, axis=1) for part in (whole[rows - 1], values, whole[rows + 1]))
        # Of a stair the next step is one pixel on; a corner between a level and an upright edge is none.
        beside = above | below
        stair = np.zeros_like(here)
        stair[:, 1:-1] = beside[:, :-2] | beside[:, 2:]
        edge = here & ~(above & below) & stair
        row, column = np.nonzero(edge)
        before, one, other, after = (values[row, column + k].astype(np.int16) for k in (-1, 0, 1, 2))
        contrast = np.abs(after - before)
        off = np.maximum(np.abs(one - before), np.abs(after - other))[contrast > STEP_CONTRAST]
        soft += int(np.count_nonzero(off > STEP_BETWEEN * contrast[contrast > STEP_CONTRAST]))
        seen += len(off)
    return seen > STEPS and soft < STEP_SHARE * seen


def tones(picture: Picture) -> tuple[float, ...]:
    """How much of a picture is of each darkness (or opacity), from none to full in TONES steps; the fullest is 1."""
    counts = _darkness(picture)[1].reshape(TONES, -1).sum(axis=1)
    # Paper is most of most pictures: the square root lets the rest be seen.
    share = np.sqrt(counts / max(counts.max(), 1.0))
    return tuple(round(float(v), 3) for v in share)


def border_ink(picture: Picture, darkness: float) -> float:
    """Share of the picture's border that is darker (or more opaque) than `darkness`, 0..1."""
    dark, _ = _darkness(picture)
    border = np.concatenate([dark[0], dark[-1], dark[1:-1, 0], dark[1:-1, -1]])
    return float((border > darkness * 255).mean())


def noise_of(picture: Picture) -> float:
    """Standard deviation of a picture's noise, of 255."""
    return _noise(_grey(picture.rgb))


def _noise(dark: NDArray[np.uint8]) -> float:
    """Noise by the median absolute response of a Laplacian-like mask.

    Source: J. Immerkær, "Fast noise variance estimation", 1996, with the median in place of the mean so that
    edges do not count.
    """
    height, width = dark.shape
    side = int(np.sqrt(NOISE_SAMPLE))
    top, left = max((height - side) // 2, 0), max((width - side) // 2, 0)
    part = dark[top : top + side, left : left + side]
    mask = np.array([[1, -2, 1], [-2, 4, -2], [1, -2, 1]], np.float32)
    counts = np.bincount(np.abs(cv2.filter2D(part, cv2.CV_16S, mask)).ravel())
    return int(np.searchsorted(np.cumsum(counts), part.size / 2)) / 0.6745 / 6
