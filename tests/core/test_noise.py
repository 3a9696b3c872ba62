"""Pictures that are nothing but noise or dirt are refused at once with advice; the light is followed on demand."""

import numpy as np
import pytest

from drelo.core.errors import Refusal
from drelo.core.picture.decode import Picture
from drelo.core.picture.light import uneven_light
from drelo.core.piece.flat import crowd_of
from drelo.core.trace.colours.colours import ColourSettings
from drelo.core.trace.ink import MAX_OUTLINES, InkSettings, trace_ink
from drelo.core.trace.modes import trace
from drelo.core.trace.ranges import NOISY_LEAST, check_calm, edge_length
from drelo.core.trace.strokes.strokes import StrokeSettings
from drelo.words.spoken import sentence
from tests.refusals import refused


def grey_picture(grey: np.ndarray) -> Picture:
    return Picture(np.repeat(grey.astype(np.uint8)[..., None], 3, axis=2), None, None, "image/png")


@pytest.fixture(scope="module")
def noise() -> Picture:
    return grey_picture(np.random.default_rng(2).integers(0, 2, (500, 500)) * 255)


@pytest.fixture(scope="module")
def dirt() -> Picture:
    """A hundred thousand specks of nine pixels."""
    grey = np.full((2400, 2400), 255)
    rows, columns = np.random.default_rng(3).integers(2, 2390, (2, 100_000))
    for k in range(3):
        for j in range(3):
            grey[rows + k, columns + j] = 0
    return grey_picture(grey)


@pytest.mark.parametrize("settings", [InkSettings(), InkSettings(speck=0), StrokeSettings(), ColourSettings()])
def test_noise_is_refused_with_advice(noise, settings):
    with refused("noise") as refusal:
        trace(noise, settings)
    assert refusal.value.field == "speck"


@pytest.mark.parametrize("settings", [InkSettings(speck=0), StrokeSettings()])
def test_too_many_specks_are_counted_and_refused(dirt, settings):
    with refused("is the limit") as refusal:
        trace(dirt, settings)
    assert refusal.value.field == "speck"
    count = int(sentence(refusal.value).split(" into ")[1].split()[0])
    assert count > MAX_OUTLINES


def test_larger_specks_leave_what_is_meant_in_the_dirt(dirt):
    grey = dirt.rgb[..., 0].copy()
    grey[800:1600, 800:1600] = 0
    found = trace_ink(grey_picture(grey), InkSettings(speck=5000))
    assert len(found.outlines) == 1
    assert found.outlines[0].area == pytest.approx(800 * 800, rel=0.02)
    assert found.dropped > MAX_OUTLINES


def test_small_or_calm_pictures_are_not_called_noise():
    check_calm(NOISY_LEAST, 10)
    check_calm(1_000_000, 10_000_000)
    with pytest.raises(Refusal):
        check_calm(4_000_000, 10_000_000)


def test_edges_between_labels_are_counted():
    labels = np.array([[0, 0, 1], [0, 2, 1]])
    assert edge_length(labels) == 4
    assert edge_length(np.zeros((5, 7))) == 0


def test_very_many_regions_are_a_remark():
    assert crowd_of(999) == []
    assert "1000 regions" in crowd_of(1000)[0]


def lit(falloff: float) -> Picture:
    """A disc under a lamp that leaves 1 - falloff of the light at the right."""
    y, x = np.mgrid[:300, :400] + 0.5
    ink = np.clip(90.5 - np.hypot(x - 200, y - 150), 0, 1)
    light = 1 - falloff * x / 400
    return grey_picture(np.clip(235 * light * (1 - 0.8 * ink), 0, 255))


@pytest.mark.parametrize(("falloff", "local"), [(0.0, None), (0.0, True), (0.0, False), (0.45, None), (0.45, True)])
def test_the_level_follows_the_light_where_it_must(falloff, local):
    found = trace_ink(lit(falloff), InkSettings(local=local))
    assert len(found.outlines) == 1
    assert found.outlines[0].area == pytest.approx(np.pi * 90**2, rel=2e-3)


def test_one_level_for_all_is_off_where_the_light_is_uneven():
    one = trace_ink(lit(0.45), InkSettings(local=False)).outlines[0].area
    assert abs(one - np.pi * 90**2) > 3 * abs(trace_ink(lit(0.45), InkSettings()).outlines[0].area - np.pi * 90**2)


def test_even_light_is_given_only_when_it_is_asked_for():
    grey = lit(0.0).rgb[..., 0]
    assert uneven_light(grey) is None
    light = uneven_light(grey, always=True)
    assert light is not None
    assert np.ptp(light.paper) < 3
