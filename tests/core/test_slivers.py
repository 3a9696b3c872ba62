"""Slivers between two colours end where they end."""

from __future__ import annotations

import io

import numpy as np
import pytest
from PIL import Image

from drelo.core.picture.decode import decode
from drelo.core.trace.colours.colours import ColourSettings, trace_colours

SIZE, OVER, LENGTH, WIDE = 400, 6, 250, 24
RED, BLUE, CREAM, GREEN, DARK = (200, 40, 40), (40, 80, 180), (240, 235, 220), (60, 140, 70), (30, 30, 36)


def sliver(angle: float, colours: tuple[tuple[int, int, int], ...], end: float = 0.0, bow: float = 0.0, kind="PNG"):
    """A picture of two colours with a sliver of a third that tapers along their border to a width of `end` px.

    angle: degrees. bow: how far the border bends away over the sliver's length, px. Gives how far every point of the
    sliver's outlines lies beyond its true end, px.
    """
    turn = np.radians(angle)
    t = (np.arange(SIZE * OVER) + 0.5) / OVER - SIZE / 2
    x, y = np.meshgrid(t, t)
    along = x * np.cos(turn) + y * np.sin(turn) + LENGTH / 2 + 0.37
    across = -x * np.sin(turn) + y * np.cos(turn) + 0.21 - bow * (along / LENGTH) ** 2
    inside = (along > 0) & (along < LENGTH) & (abs(across) < (end + along * (WIDE - end) / LENGTH) / 2)
    image = np.where(across[..., None] < 0, np.array(colours[0], float), np.array(colours[1], float))
    image = np.where(inside[..., None], np.array(colours[2], float), image)
    image = image.reshape(SIZE, OVER, SIZE, OVER, 3).mean(axis=(1, 3))
    packed = io.BytesIO()
    Image.fromarray(np.round(image).astype(np.uint8)).save(packed, kind, quality=80)
    trace = trace_colours(decode(packed.getvalue()), ColourSettings(background="none"))

    def away(fill: str, colour: tuple[int, int, int]) -> int:
        return sum((int(fill[i : i + 2], 16) - c) ** 2 for i, c in zip((1, 3, 5), colour, strict=True))

    beyond = []
    for outline, fill in zip(trace.outlines, trace.fills, strict=True):
        if min(colours, key=lambda c: away(fill, c)) == colours[2]:
            points = outline.outer.flattened(0.05) - SIZE / 2
            beyond.append((-points @ [np.cos(turn), np.sin(turn)]).max() - LENGTH / 2 - 0.37)
    assert trace.check is not None
    assert trace.check.crossings == 0
    return max(beyond)


@pytest.mark.parametrize("colours", [(RED, BLUE, DARK), (CREAM, GREEN, RED), (DARK, CREAM, GREEN)])
@pytest.mark.parametrize(("angle", "bow"), [(0, 0), (17, 0), (48, 0), (30, 25)])
def test_a_tip_is_where_the_sides_meet(angle, bow, colours):
    assert abs(sliver(angle, colours, bow=bow)) < 2


@pytest.mark.parametrize("angle", [5, 30, 70])
def test_a_tip_of_a_coded_picture_too(angle):
    assert abs(sliver(angle, (RED, BLUE, DARK), kind="JPEG")) < 3


@pytest.mark.parametrize("end", [1.5, 2, 3])
def test_a_blunt_end_stays_blunt(end):
    assert abs(sliver(17, (CREAM, GREEN, RED), end=end)) < 2.2
