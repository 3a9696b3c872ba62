"""The few flat colours of a picture."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from drelo.core.errors import Refusal
from drelo.core.picture.decode import Picture
from drelo.core.picture.thin_colours import thin_colours

Array = NDArray[np.float64]

MIN_COLOURS, MAX_COLOURS = 2, 24
# Colours closer than this (CIELAB units) are one; a colour covers at least this share of the plain pixels.
SAME, LEAST_SHARE = 11.0, 0.0012
# Bin (CIELAB units) in which plain pixels are counted.
BIN = 4.0
# A pixel is plain when no channel varies by more (of 255) around it, besides the noise.
PLAIN, PLAIN_NOISE = 14.0, 4.0
# Pixels on which colours are counted, and settled.
COUNT_ON, SETTLE_ON, SETTLE_ROUNDS = 150_000, 30_000, 8
# So many rows are looked at at once.
STRIP = 256
# A colour within this (CIELAB units) of a fuller one, of which a smaller share than this is plain, is no colour.
DRIFT, DRIFT_PLAIN = 30.0, 0.15
# Noise (of 255) above which a median comes first.
MEDIAN_FROM = 1.5
# Brightness and the two differences of colour of JPEG and WebP files, from red, green and blue.
# Source: ITU-R BT.601 as JFIF (ITU-T T.871) uses it.
PARTED = np.array([[0.299, 0.587, 0.114], [-0.168736, -0.331264, 0.5], [0.5, -0.418688, -0.081312]])
# A colour of fringes has one beside it with red and blue swapped, within so much (of 255), and these differ by so much.
MIRRORED, SLANTED = 16.0, 30.0
# A colour is as bright as another, and of a hue between two others, within so much (of 255).
SMEARED_BRIGHT, SMEARED_HUE = 12.0, 12.0


@dataclass(frozen=True, eq=False)
class Palette:
    """Flat colours, the commonest first.

    rgba: shape (n, 4), 0..255; alpha is 0 for what is see-through, else 255. share: of the area, shape (n,).
    """

    rgba: Array
    share: Array

    def __len__(self) -> int:
        return len(self.rgba)

    @property
    def mixing(self) -> Array:
        """Colours as they mix at antialiased edges: red, green, blue weighted by alpha, and alpha; shape (n, 4)."""
        return np.concatenate([self.rgba[:, :3] * self.rgba[:, 3:] / 255, self.rgba[:, 3:]], axis=1)

    @property
    def hexes(self) -> tuple[str, ...]:
        """Each as #rrggbb."""
        return tuple("#{:02x}{:02x}{:02x}".format(*(round(v) for v in c[:3])) for c in self.rgba.tolist())


def mixing(picture: Picture) -> NDArray[np.float32]:
    """Pixels as they mix at antialiased edges, shape (height, width, 4): see `Palette.mixing`."""
    height, width = picture.rgb.shape[:2]
    result = np.empty((height, width, 4), np.float32)
    result[..., :3] = picture.rgb
    result[..., 3] = 255
    if picture.alpha is not None:
        # The picture was composed on white; without the white, colours weighted by alpha are left.
        result[..., 3] = picture.alpha
        result[..., :3] -= 255 - result[..., 3:]
        np.clip(result, 0, 255, out=result)
    return result


def colour_distance(one: str, other: str) -> float:
    """How different two colours (#rrggbb) look, CIELAB units."""
    lab = _lab(palette_of([one, other], False).rgba[:, :3].astype(np.float32))
    return float(np.linalg.norm(lab[0] - lab[1]))


def palette_of(colours: list[str], clear: bool) -> Palette:
    """A palette of given colours (#rrggbb), and the see-through one when asked; shares are not known.

    Raises Refusal when one is no such colour.
    """
    rows = []
    for colour in colours:
        if not re.fullmatch(r"#[0-9a-fA-F]{6}", colour):
            raise Refusal("colour.not-one", "palette", colour=colour)
        rows.append([*(float(int(colour[k : k + 2], 16)) for k in (1, 3, 5)), 255.0])
    if clear:
        rows.append([0.0] * 4)
    return Palette(np.array(rows), np.zeros(len(rows)))


def find_palette(pixels: NDArray[np.float32], count: int | None, noise: float, coded: bool = False) -> Palette:
    """The palette of a picture's mixing pixels, shape (height, width, 4).

    count: how many colours, 2 to 24; None proposes a number. noise: standard deviation, of 255.
    coded: thin strokes have lost their own colour, as in a JPEG, and look like another.

    Colours are the peaks of plain pixels in CIELAB, settled by k-means. Raises Refusal when the number is out of range
    or there is only one colour.
    """
    if count is not None and not MIN_COLOURS <= count <= MAX_COLOURS:
        raise Refusal("trace.number-of-colours", "colours", least=MIN_COLOURS, most=MAX_COLOURS)
    calm = pixels
    if noise > MEDIAN_FROM:
        # A median of 5 takes floating pixels; every channel by itself.
        calm = np.asarray(cv2.medianBlur(pixels, 5 if noise > 5 else 3), np.float32)
    clear = calm[..., 3] < 128
    plain = (_steps(calm) <= PLAIN + PLAIN_NOISE * noise * (0.35 if noise > MEDIAN_FROM else 1.0)) & ~clear
    if plain.sum() < max(16, 0.001 * plain.size):
        plain = ~clear
    colours = _some(calm, plain)
    lab = _lab(colours)
    room = (count or MAX_COLOURS) - bool(clear.any())
    peaks = _settled(_peaks(lab, MAX_COLOURS - bool(clear.any()), fewest=1), lab, merge=True)
    if len(peaks) > room:
        peaks = _settled(_fewer(peaks, lab, room), lab, merge=False)
    peaks = _without_drift(peaks, lab, _lab(_some(calm, ~clear)), plain[~clear].mean())
    plainly, sizes = _medians(colours, lab, peaks)
    every = _some(pixels, ~clear)
    thin = thin_colours(every, plainly, room - len(plainly), noise)
    thin = thin[~_fringes(thin, every)]
    if coded and len(thin):
        away = np.linalg.norm(in_eye(thin)[:, None] - in_eye(plainly)[None], axis=2).min(axis=1)
        thin = thin[(away > DRIFT) & ~_smeared(thin, plainly)]
    if count and len(plainly) + len(thin) < room:
        # More were asked for than stand out.
        peaks = _settled(_peaks(lab, room - len(thin), fewest=room - len(thin)), lab, merge=False)
        plainly, sizes = _medians(colours, lab, peaks)
    rgba = np.concatenate([plainly, thin])
    rgba = np.concatenate([rgba, np.full((len(rgba), 1), 255.0)], axis=1)
    share = np.append(sizes / max(sizes.sum(), 1), np.zeros(len(thin))) * (1 - clear.mean())
    if clear.any():
        rgba, share = np.concatenate([rgba, np.zeros((1, 4))]), np.append(share, clear.mean())
    if len(rgba) < MIN_COLOURS:
        raise Refusal("picture.one-colour")
    order = np.argsort(-share, kind="stable")
    return Palette(rgba[order], share[order])


def _fringes(thin: Array, pixels: NDArray[np.float32]) -> NDArray[np.bool_]:
    """Which thin colours are those that screens smooth letters with.

    Some of the pixels (shape (n, 3)) rise from red over green to blue as others fall: at both sides of each stroke.
    """
    slanted = np.abs(thin[:, 2] - thin[:, 0]) > SLANTED
    found = slanted & ((thin[:, 1] - thin[:, 0]) * (thin[:, 2] - thin[:, 1]) > 0)
    for k in np.flatnonzero(found):
        own, mirrored = (
            int(np.count_nonzero(np.abs(pixels - colour).max(axis=1) < MIRRORED)) for colour in (thin[k], thin[k, ::-1])
        )
        found[k] = mirrored > own / 4
    return np.asarray(found)


def _smeared(thin: Array, plainly: Array) -> NDArray[np.bool_]:
    """Which thin colours are as bright as one of the others while their hue is between its and another's.

    That is what a file that keeps colour at half the resolution makes of an edge between the two.
    """
    ours, theirs = thin @ PARTED.T, plainly @ PARTED.T
    as_bright = np.abs(ours[:, None, 0] - theirs[None, :, 0]) < SMEARED_BRIGHT
    begin, step = theirs[:, None, 1:], theirs[None, :, 1:] - theirs[:, None, 1:]
    to = ours[:, None, None, 1:] - begin
    share = np.clip((to * step).sum(axis=3) / np.maximum((step**2).sum(axis=2), 1e-9), 0, 1)
    off = np.linalg.norm(to - share[..., None] * step, axis=3)
    return np.asarray((as_bright & (off < SMEARED_HUE).any(axis=2)).any(axis=1))


def _medians(colours: NDArray[np.float32], lab: Array, peaks: Array) -> tuple[Array, Array]:
    """The middle colour of what is nearest to each peak, shape (n, 3), and how many pixels that is."""
    near = nearest(lab, peaks)
    sizes = np.bincount(near, minlength=len(peaks))
    keep = np.flatnonzero(sizes > 0)
    return np.array([np.median(colours[near == k], axis=0) for k in keep], np.float64), sizes[keep].astype(float)


def in_eye(rgb: Array) -> Array:
    """Colours, shape (n, 3), 0..255, as the eye tells them apart: CIELAB."""
    return _lab(rgb.astype(np.float32))


def _lab(rgb: NDArray[np.float32]) -> Array:
    """CIELAB of sRGB colours of shape (n, 3), 0..255."""
    return np.asarray(cv2.cvtColor(np.ascontiguousarray(rgb[None] / 255, np.float32), cv2.COLOR_RGB2LAB)[0], np.float64)


def _peaks(lab: Array, most: int, fewest: int) -> Array:
    """The fullest places of colour space that lie apart from each other, the fullest first."""
    cell = (np.floor(lab / BIN).astype(np.int64) + 64) @ np.array([1 << 16, 1 << 8, 1])
    _, inverse, sizes = np.unique(cell, return_inverse=True, return_counts=True)
    centres = np.stack([np.bincount(inverse, lab[:, k]) / sizes for k in range(3)], axis=1)
    # A colour's noise falls into several bins; what lies near counts for a bin too.
    order = np.argsort(-sizes, kind="stable")[:4000]
    near = np.linalg.norm(centres[order, None] - centres[None, order], axis=2) < 1.5 * BIN
    weight = near @ sizes[order].astype(np.float64)
    found: list[NDArray[np.float64]] = []
    for k in np.argsort(-weight, kind="stable"):
        centre = centres[order[k]]
        far = min((float(np.linalg.norm(centre - p)) for p in found), default=np.inf)
        if far > SAME and weight[k] >= LEAST_SHARE * len(lab):
            found.append(centre)
        if len(found) == most:
            break
    # More were asked for than stand out: the colours farthest from all that are there.
    while len(found) < fewest:
        away = np.min([np.linalg.norm(centres - p, axis=1) for p in found], axis=0) * np.sqrt(sizes)
        k = int(np.argmax(away))
        if away[k] <= 0:
            break
        found.append(centres[k])
    return np.array(found)


def _steps(pixels: NDArray[np.float32]) -> NDArray[np.float32]:
    """By how much any channel varies round every pixel; in strips, for all of a large picture takes 400 MB."""
    kernel = np.ones((3, 3), np.uint8)
    result = np.empty(pixels.shape[:2], np.float32)
    for top in range(0, len(pixels), STRIP):
        above = min(top, 1)
        part = pixels[top - above : top + STRIP + 1]
        varies = cv2.subtract(cv2.dilate(part, kernel), cv2.erode(part, kernel)).max(axis=2)
        result[top : top + STRIP] = varies[above : above + STRIP]
    return result


def _some(pixels: NDArray[np.float32], where: NDArray[np.bool_]) -> NDArray[np.float32]:
    """Red, green and blue of pixels, evenly few of them where there are very many."""
    chosen = np.flatnonzero(where)
    chosen = chosen[:: max(1, len(chosen) // COUNT_ON)]
    return pixels.reshape(-1, pixels.shape[2])[chosen, :3]


def _fewer(peaks: Array, lab: Array, room: int) -> Array:
    """As few peaks as there is room for: again and again the two become one whose pixels miss their colour least by it.

    Source: J. H. Ward, "Hierarchical grouping to optimize an objective function", 1963.
    """
    sizes = np.bincount(nearest(lab, peaks), minlength=len(peaks)).astype(np.float64) + 1e-9
    while len(peaks) > room:
        square = ((peaks[:, None] - peaks[None]) ** 2).sum(axis=2)
        cost = square * sizes[:, None] * sizes[None] / (sizes[:, None] + sizes[None])
        np.fill_diagonal(cost, np.inf)
        i, j = divmod(int(np.argmin(cost)), len(peaks))
        i, j = min(i, j), max(i, j)
        peaks[i] = (sizes[i] * peaks[i] + sizes[j] * peaks[j]) / (sizes[i] + sizes[j])
        sizes[i] += sizes[j]
        peaks, sizes = np.delete(peaks, j, axis=0), np.delete(sizes, j)
    return peaks


def _settled(peaks: Array, lab: Array, merge: bool) -> Array:
    """k-means from the peaks; when asked, what has come close together is one colour."""
    few = lab[:: max(1, len(lab) // SETTLE_ON)]
    for _ in range(SETTLE_ROUNDS):
        near = nearest(few, peaks)
        peaks = np.array(
            [np.median(few[near == k], axis=0) if (near == k).any() else peaks[k] for k in range(len(peaks))]
        )
    if not merge:
        return peaks
    kept: list[int] = []
    for k in range(len(peaks)):
        if all(np.linalg.norm(peaks[k] - peaks[j]) > SAME for j in kept):
            kept.append(k)
    return peaks[kept]


def _without_drift(peaks: Array, lab: Array, everything: Array, plain: float) -> Array:
    """Peaks but those near to a fuller one that are hardly anywhere plain: a colour that lossy coding let drift.

    lab: of plain pixels, the share `plain` of all; everything: of all.
    """
    plainly = np.bincount(nearest(lab, peaks), minlength=len(peaks)) / max(len(lab), 1) * plain
    share = np.bincount(nearest(everything, peaks), minlength=len(peaks)) / max(len(everything), 1)
    apart = np.linalg.norm(peaks[:, None] - peaks[None], axis=2)
    fuller = plainly[None, :] > plainly[:, None]
    drifted = ((apart < DRIFT) & fuller).any(axis=1) & (plainly < DRIFT_PLAIN * share)
    kept: Array = peaks[~drifted]
    return kept


def nearest(places: NDArray[np.floating[Any]], peaks: Array) -> NDArray[np.int64]:
    """Which of the peaks, shape (k, channels), lies nearest to each place, shape (n, channels)."""
    # Axis by axis: sums over so short an axis are slow.
    columns = [np.ascontiguousarray(places[:, c], np.float32) for c in range(places.shape[1])]
    best = np.full(len(places), np.inf, np.float32)
    which = np.zeros(len(places), np.int64)
    for k, peak in enumerate(peaks.astype(np.float32)):
        away = (columns[0] - peak[0]) ** 2
        for column, value in zip(columns[1:], peak[1:], strict=True):
            away += (column - value) ** 2
        closer = away < best
        best[closer], which[closer] = away[closer], k
    return which
