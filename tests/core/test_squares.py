"""Codes and patterns on a grid: every square stays one, whatever its size, and nothing else is taken for them."""

from __future__ import annotations

import io

import cv2
import numpy as np
import pytest
import shapely
from PIL import Image

from drelo.core.outline.grow import area_of
from drelo.core.picture.decode import decode
from drelo.core.picture.squares import in_large_squares
from drelo.core.trace.ink import InkSettings
from drelo.core.trace.modes import trace
from drelo.core.trace.settings import ColourSettings


def code(seed: int = 5) -> np.ndarray:
    """Squares as a phone reads them, with three finders and a quiet rim; True where it is dark."""
    dark = np.zeros((33, 33), bool)
    dark[4:29, 4:29] = np.random.default_rng(seed).random((25, 25)) < 0.5
    for y, x in ((4, 4), (4, 22), (22, 4)):
        dark[max(y - 1, 4) : y + 8, max(x - 1, 4) : x + 8] = False
        dark[y : y + 7, x : x + 7] = True
        dark[y + 1 : y + 6, x + 1 : x + 6] = False
        dark[y + 2 : y + 5, x + 2 : x + 5] = True
    return dark


def packed(dark: np.ndarray, side: int, kind: str = "PNG", tones: tuple[int, int] = (0, 255)) -> bytes:
    image = np.where(dark.repeat(side, 0).repeat(side, 1), *tones).astype(np.uint8)
    out = io.BytesIO()
    Image.fromarray(image).save(out, kind, quality=85)
    return out.getvalue()


def squares(dark: np.ndarray) -> shapely.Geometry:
    return shapely.union_all([shapely.box(x, y, x + 1, y + 1) for y, x in np.argwhere(dark)]).buffer(0)


def missed(data: bytes, dark: np.ndarray, side: int) -> float:
    """How much of all dark squares is wrong in the trace, as a share."""
    found = area_of(trace(decode(data), InkSettings()).outlines)
    own = shapely.transform(squares(dark), lambda points: points * side)
    return float(shapely.symmetric_difference(found, own).area / own.area)


@pytest.mark.parametrize("side", range(1, 13))
def test_every_square_of_a_code_is_traced_as_one(side):
    assert missed(packed(code(), side), code(), side) < 0.03


@pytest.mark.parametrize("side", [4, 10])
def test_coding_and_other_tones_take_no_square_away(side):
    assert missed(packed(code(2), side, "JPEG", (40, 225)), code(2), side) < 0.05


def test_a_light_code_on_dark_is_one_too():
    found = in_large_squares(decode(packed(~code(), 2)))
    assert found is not None
    assert found[1] == 5


@pytest.mark.parametrize("side", [3, 4, 8])
def test_soft_letters_below_a_code_take_no_square_away(side):
    dark = code()
    image = np.where(dark.repeat(side, 0).repeat(side, 1), 0, 255).astype(np.uint8)
    image = np.pad(image, ((0, 10 * side), (0, 0)), constant_values=255)
    cv2.putText(image, "SCAN ME", (5 * side, 38 * side), cv2.FONT_HERSHEY_DUPLEX, side / 6, 0, 2, cv2.LINE_AA)
    found = area_of(trace(decode(cv2.imencode(".png", image)[1].tobytes()), InkSettings()).outlines)
    found = shapely.intersection(found, shapely.box(0, 0, 33 * side, 31 * side))
    own = shapely.transform(squares(dark), lambda points: points * side)
    assert shapely.symmetric_difference(found, own).area < 0.05 * own.area


def test_in_colours_the_squares_are_there_as_well():
    found = trace(decode(packed(code(), 3)), ColourSettings())
    dark = [outline for outline, fill in zip(found.outlines, found.fills, strict=True) if fill < "#800000"]
    own = shapely.transform(squares(code()), lambda points: points * 3)
    assert shapely.symmetric_difference(area_of(dark), own).area < 0.03 * own.area


@pytest.mark.parametrize("side", [5, 7, 9])
def test_pixel_art_of_larger_squares_keeps_single_ones(side):
    rows = [
        "..#....#..",
        "...#..#...",
        "..######..",
        ".##.##.##.",
        "##########",
        "#.######.#",
        "#.#....#.#",
        "...#..#...",
    ]
    dark = np.pad(np.array([[c == "#" for c in row] for row in rows]), 3)
    assert missed(packed(dark, side), dark, side) < 0.03


@pytest.mark.parametrize("side", [2, 6])
def test_colours_of_the_same_tone_stay_apart(side):
    """Red and blue squares on white: neither their colours nor those on a see-through ground become one."""
    dark = code()
    image = np.full((*dark.shape, 3), 255, np.uint8)
    image[dark] = (255, 0, 0)
    image[17:][dark[17:]] = (0, 0, 255)
    out = io.BytesIO()
    Image.fromarray(image.repeat(side, 0).repeat(side, 1)).save(out, "PNG")
    fills = set(trace(decode(out.getvalue()), ColourSettings()).fills)
    assert {"#ff0000", "#0000ff"} <= fills


def drawing(seed: int) -> np.ndarray:
    """Lines, rings and letters of a pixel or two, without antialiasing."""
    rng = np.random.default_rng(seed)
    image = np.zeros((160, 180), np.uint8)
    for _ in range(12 + 4 * seed):
        one, other = (tuple(map(int, rng.integers(5, 155, 2))) for _ in range(2))
        cv2.line(image, one, other, 255, int(rng.integers(1, 3)))
        cv2.circle(image, other, int(rng.integers(3, 30)), 255, 1)
        cv2.putText(image, "Hamburg 25", one, cv2.FONT_HERSHEY_SIMPLEX, 0.3, 255)
    return image > 0


@pytest.mark.parametrize("seed", range(8))
def test_thin_drawings_and_letters_are_no_squares(seed):
    for side in (1, 2, 3):
        assert in_large_squares(decode(packed(drawing(seed), side))) is None


def test_dithered_greys_are_no_squares():
    ramp = np.add.outer(np.arange(150), np.arange(150)) / 300 * 255
    dithered = ~np.asarray(Image.fromarray(ramp.astype(np.uint8)).convert("1"))
    checks = np.indices((60, 60)).sum(0) % 2 == 0
    for dark in (dithered, checks):
        assert in_large_squares(decode(packed(dark, 2))) is None
