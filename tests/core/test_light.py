"""Uneven light, tones, noise and the level between them."""

import cv2
import numpy as np
import pytest

from drelo.core.picture.decode import Picture
from drelo.core.picture.field import TONES, ink_field, noise_of, tones
from drelo.core.picture.light import uneven_light
from drelo.core.trace.ink import InkSettings, trace_ink


def picture(grey: np.ndarray) -> Picture:
    values = np.clip(np.round(grey), 0, 255).astype(np.uint8)
    return Picture(np.repeat(values[..., None], 3, axis=2), None, None, "image/png")


def drawing(paper: float = 240.0, ink: float = 30.0, thin: bool = False) -> np.ndarray:
    grey = np.full((240, 320), float(paper))
    if thin:
        for x in range(30, 300, 24):
            cv2.line(grey, (x, 30), (x + 8, 210), ink, 2, cv2.LINE_AA)
        return grey
    cv2.circle(grey, (100, 120), 60, ink, -1, cv2.LINE_AA)
    cv2.rectangle(grey, (190, 60), (280, 180), ink, -1)
    return grey


def lamp(shape: tuple[int, int], strength: float) -> np.ndarray:
    y, x = np.mgrid[0 : shape[0], 0 : shape[1]]
    return 1 - strength * np.hypot(x / shape[1] - 0.2, y / shape[0] - 0.3)


@pytest.mark.parametrize("grey", [drawing(), drawing(255, 0), drawing(thin=True)])
def test_even_light_is_left_alone(grey):
    assert uneven_light(np.clip(grey, 0, 255).astype(np.uint8)) is None


def test_paper_is_found_where_lines_are_dense():
    y, x = np.mgrid[:900, :900] + 0.5
    ring = np.hypot(x - 450, y - 450)
    ink = (ring < 430) & (ring % 18 < 9)
    noise = np.random.default_rng(1).normal(0, 6, ink.shape)
    falls = 0.5 + 0.5 * x / 900
    grey = np.clip(cv2.GaussianBlur(np.where(ink, 20.0, 230.0), (0, 0), 1.2) * falls + noise, 0, 255)
    assert uneven_light(grey.astype(np.uint8)) is not None
    assert len(trace_ink(picture(grey), InkSettings()).outlines) == 24


@pytest.mark.parametrize("strength", [0.15, 0.3, 0.5])
@pytest.mark.parametrize("thin", [False, True])
def test_paper_is_found_under_a_lamp(strength, thin):
    light_on = lamp((240, 320), strength)
    grey = np.clip(drawing(thin=thin) * light_on, 0, 255)
    light = uneven_light(grey.astype(np.uint8))
    assert light is not None
    paper = drawing(thin=thin) > 200
    assert np.abs(light.paper - 240 * light_on)[paper].mean() < 5
    assert (light.paper > light.ink).all()


@pytest.mark.parametrize("strength", [0.0, 0.25, 0.5])
def test_a_lamp_moves_no_outline(strength):
    plain = trace_ink(picture(drawing()), InkSettings()).outlines
    lit = trace_ink(picture(drawing() * lamp((240, 320), strength)), InkSettings()).outlines
    assert [o.area for o in lit] == pytest.approx([o.area for o in plain], rel=6e-3)


def test_the_tones_of_a_picture_are_counted():
    bars = tones(picture(drawing()))
    assert len(bars) == TONES
    assert max(bars) == 1
    # Paper at the light end, ink at the dark one, hardly anything between.
    assert max(bars[:8]) == 1
    assert max(bars[-12:]) > 0.3
    assert max(bars[20:44]) < 0.1


@pytest.mark.parametrize("sigma", [0.0, 3.0, 10.0])
def test_noise_is_measured(sigma):
    grey = drawing(200, 60) + np.random.default_rng(3).normal(0, sigma, (240, 320))
    assert noise_of(picture(grey)) == pytest.approx(sigma, abs=max(0.4, 0.15 * sigma))


@pytest.mark.parametrize(("paper", "ink"), [(255, 0), (240, 30), (180, 90), (140, 110)])
def test_the_level_lies_between_paper_and_ink(paper, ink):
    field = ink_field(picture(drawing(paper, ink)), None, False)
    assert field.level == pytest.approx(0.5)
    assert field.darkness == pytest.approx(1 - (paper + ink) / 510, abs=0.02)


def test_ink_is_one_and_paper_nought_whatever_the_tones():
    for paper, ink in ((255, 0), (200, 120)):
        values = ink_field(picture(drawing(paper, ink)), None, False).values
        assert values[120, 100] == pytest.approx(1, abs=0.02)
        assert values[5, 5] == pytest.approx(0, abs=0.02)


def test_a_given_level_is_a_darkness():
    field = ink_field(picture(drawing(240, 30)), 0.25, False)
    assert field.darkness == pytest.approx(0.25)
    assert field.level == pytest.approx((0.25 * 255 - 15) / 210, abs=0.01)


def test_inverting_turns_values_and_level():
    plain, turned = (ink_field(picture(drawing()), 0.3, invert) for invert in (False, True))
    assert turned.values == pytest.approx(1 - plain.values, abs=1e-6)
    assert turned.level == pytest.approx(1 - plain.level)
    assert turned.darkness == pytest.approx(plain.darkness)


def test_a_crowd_of_dirt_is_told_from_what_is_meant():
    grey = drawing()
    for k in range(40):
        x, y = 15 + 7 * k, 12 + 7 * (k % 5)
        grey[y : y + 3, x : x + 2 + k % 2] = 30
    found = trace_ink(picture(grey), InkSettings())
    assert len(found.outlines) == 2
    assert found.dropped >= 20
    assert len(found.lost) == found.dropped
    assert len(trace_ink(picture(grey), InkSettings(speck=0)).outlines) > 15


def test_a_row_of_small_dots_is_no_dirt():
    grey = drawing()
    for x in range(20, 300, 20):
        cv2.circle(grey, (x, 220), 4, 30, -1, cv2.LINE_AA)
    assert len(trace_ink(picture(grey), InkSettings()).outlines) == 16
