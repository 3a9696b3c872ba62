"""Colours of thin shapes in pictures whose coding spreads colour further than brightness."""

import io

import numpy as np
import pytest
from PIL import Image

from drelo.core.picture.decode import decode
from drelo.core.trace.colours.colours import ColourSettings, trace_colours
from drelo.core.trace.trace import Swatch

GROUND, BROWN = (232, 196, 90), (60, 40, 30)


def packed(kind: str, size: tuple[int, int] = (96, 128)) -> bytes:
    """Brown bars of two pixels on yellow."""
    pixels = np.full((*size, 3), GROUND, np.uint8)
    for x in range(9, size[1] - 8, 13):
        pixels[3:-3, x : x + 2] = BROWN
    out = io.BytesIO()
    Image.fromarray(pixels).save(out, kind, **({"quality": 60} if kind == "JPEG" else {}))
    return out.getvalue()


def off(swatches: tuple[Swatch, ...], colour: tuple[int, int, int]) -> int:
    """How far the nearest swatch is off a colour, its worst channel."""
    found = [[int(s.colour[i : i + 2], 16) for i in (1, 3, 5)] for s in swatches]
    return min(max(abs(a - b) for a, b in zip(f, colour, strict=True)) for f in found)


@pytest.mark.parametrize("area", [None, (7.0, 5.0, 110.0, 85.0)])
def test_bars_of_two_pixels_have_their_colour(area):
    found = trace_colours(decode(packed("JPEG")), ColourSettings(area=area)).swatches
    assert off(found, BROWN) <= 12
    assert off(found, GROUND) <= 6


def test_colours_that_the_maker_named_stay():
    named = ColourSettings(palette=(("#e8c45a",), ("#102030",)))
    assert {s.colour for s in trace_colours(decode(packed("JPEG")), named).swatches} == {"#e8c45a", "#102030"}


def test_a_picture_that_is_kept_exactly_has_its_colours_exactly():
    found = trace_colours(decode(packed("PNG")), ColourSettings()).swatches
    assert off(found, BROWN) == 0
    assert off(found, GROUND) == 0


def test_a_picture_smaller_than_a_block_is_traced():
    found = trace_colours(decode(packed("JPEG", (15, 40))), ColourSettings(speck=0.0)).swatches
    assert len(found) >= 2
