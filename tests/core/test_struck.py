"""What a trace leaves out is handed over as rings, whatever the mode."""

import cv2
import numpy as np
import pytest

from drelo.core.picture.decode import Picture
from drelo.core.trace.colours.colours import ColourSettings, trace_colours
from drelo.core.trace.ink import InkSettings, trace_ink
from drelo.core.trace.settings import Fence
from drelo.core.trace.strokes.strokes import StrokeSettings, trace_strokes
from drelo.core.trace.struck import MAX_LOST, rings_round

SPECKS = ((30, 30), (170, 40), (40, 160))


def dirty():
    """A thick ring with three specks of 3 by 3 px beside it."""
    rgb = np.full((200, 200, 3), 255, np.uint8)
    cv2.circle(rgb, (100, 100), 50, (20, 20, 20), 12, cv2.LINE_AA)
    for x, y in SPECKS:
        rgb[y : y + 3, x : x + 3] = 20
    return Picture(rgb, None, None, "image/png")


@pytest.mark.parametrize(
    ("trace", "settings"),
    [
        (trace_ink, InkSettings(speck=30)),
        (trace_colours, ColourSettings(speck=30, colours=2)),
        (trace_strokes, StrokeSettings(speck=30)),
    ],
)
def test_every_mode_shows_the_specks_that_it_dropped(trace, settings):
    found = trace(dirty(), settings)
    assert found.dropped == len(SPECKS)
    middles = sorted(tuple(((ring.min(axis=0) + ring.max(axis=0)) / 2).tolist()) for ring in found.lost)
    assert np.allclose(middles, sorted((x + 1.5, y + 1.5) for x, y in SPECKS), atol=0.6)


def test_a_part_shows_them_where_they_lie():
    area = Fence(((20, 20), (180, 20), (180, 180), (20, 180)))
    found = trace_colours(dirty(), ColourSettings(speck=30, colours=2, area=area))
    near = [np.linalg.norm(ring.mean(axis=0) - (31.5, 31.5)) for ring in found.lost]
    assert min(near) < 0.7


def test_a_ring_goes_round_a_single_pixel():
    gone = np.zeros((6, 8), bool)
    gone[2, 5] = True
    (ring,) = rings_round(gone, fine=2.0, offset=(10.0, 20.0))
    assert ring.min(axis=0) == pytest.approx((10 + 2.5 + 0.25 / 3, 20 + 1 + 0.25 / 3))
    assert ring.max(axis=0) == pytest.approx((10 + 3 - 0.25 / 3, 20 + 1.5 - 0.25 / 3))


def test_of_very_many_the_largest_are_shown():
    gone = np.zeros((120, 120), bool)
    gone[::3, ::3] = True
    gone[60:64, 61:66] = True
    rings = rings_round(gone)
    assert len(rings) == MAX_LOST
    assert max(np.ptp(ring, axis=0).max() for ring in rings) > 4
