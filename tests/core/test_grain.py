"""Pictures that were enlarged by repeating pixels are told, and worked on as they were."""

import io

import cv2
import numpy as np
import pytest
from benchmarks.tracing import render
from benchmarks.tracing.measure import score
from benchmarks.tracing.truth import truths
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from drelo.core.picture.decode import Picture, decode
from drelo.core.picture.enlarged import enlarged
from drelo.core.picture.grain import PLAIN, Grain, grain_of
from drelo.core.picture.repeats import repeats_of
from drelo.core.trace.check.spots import rough_spots
from drelo.core.trace.colours.colours import ColourSettings
from drelo.core.trace.ink import InkSettings
from drelo.core.trace.modes import trace


def picture(grey: np.ndarray) -> Picture:
    packed = io.BytesIO()
    Image.fromarray(grey.astype(np.uint8)).save(packed, "PNG")
    return decode(packed.getvalue())


def repeated(grey: np.ndarray, size: int, left: int = 0, top: int = 0) -> np.ndarray:
    """Every pixel `size` px wide; the first ones lack `left` and `top` px."""
    return np.kron(grey, np.ones((size, size)))[top:, left:]


def disc(side: int = 40) -> np.ndarray:
    y, x = np.mgrid[:side, :side] + 0.5
    return 255 * np.clip(np.hypot(x - side / 2 - 0.13, y - side / 2 + 0.29) - side / 3 + 0.5, 0, 1)


@given(st.integers(2, 9), st.data())
@settings(max_examples=40, deadline=None)
def test_how_large_pixels_are_and_where_they_begin_is_found(size, data):
    left, top = data.draw(st.integers(0, size - 1)), data.draw(st.integers(0, size - 1))
    assert grain_of(picture(repeated(disc(), size, left, top))) == Grain(size, left, top)


def test_pictures_that_were_not_enlarged_are_plain():
    noise = np.random.default_rng(4).integers(0, 256, (60, 80))
    bars = np.full((240, 320), 255)
    bars[40:200, 40:110] = bars[40:120, 180:280] = 0
    squares = repeated(np.indices((20, 30)).sum(axis=0) % 2 * 255, 8)
    for grey in (disc(), noise, bars, squares, np.full((50, 50), 200)):
        assert grain_of(picture(grey)) == PLAIN


def test_large_squares_in_few_colours_are_meant():
    icon = np.where(np.random.default_rng(9).random((24, 24)) < 0.5, 0, 255)
    assert grain_of(picture(repeated(icon, 3))).size == 3
    assert grain_of(picture(repeated(icon, 10))) == PLAIN


@pytest.mark.parametrize(("size", "left", "top"), [(2, 0, 0), (3, 2, 1), (6, 0, 5)])
def test_an_enlarged_picture_is_traced_as_the_small_one(size, left, top):
    truth = truths()[5]
    outlines, width, height = truth.fitted(150)
    small = render.toned(render.coverage(outlines, width, height))
    found = trace(picture(repeated(small, size, left, top)), InkSettings())
    there = [o.transformed(1 / size, left / size, top / size) for o in found.outlines]
    reached = score(there, outlines)
    assert reached.topology
    assert reached.mean < 0.04
    assert reached.nodes < 1.25
    # Sizes stay those of the picture at hand.
    assert found.speck == pytest.approx(trace(picture(small), InkSettings()).speck * size**2)


@pytest.mark.parametrize(("across", "down", "way"), [(300, 300, "pillow"), (250, 251, "pillow"), (520, 519, "opencv")])
def test_a_picture_with_some_pixels_repeated_is_traced_as_the_small_one(across, down, way):
    outlines, width, height = truths()[5].fitted(200)
    small = np.round(render.toned(render.coverage(outlines, width, height))).astype(np.uint8)
    size = (across, round(height * down / 200))
    if way == "pillow":
        large = np.asarray(Image.fromarray(small).resize(size, Image.Resampling.NEAREST))
    else:
        large = cv2.resize(small, size, interpolation=cv2.INTER_NEAREST)
    was = enlarged(picture(large))
    assert was is not None
    assert np.array_equal(was.small.rgb[..., 0], small)
    found = trace(picture(large), InkSettings())
    shift_x, shift_y = was.shift
    there = [o.transformed(1 / was.scale, -shift_x / was.scale, -shift_y / was.scale) for o in found.outlines]
    reached = score(there, outlines)
    assert reached.topology
    assert reached.mean < 0.04
    assert reached.nodes < 1.25
    assert reached.false <= 2


@pytest.mark.parametrize("seed", range(6))
def test_flat_rectangles_are_no_repeats(seed):
    random = np.random.default_rng(seed)
    page = np.full((211, 257), 255)
    for _ in range(14):
        x, y = random.integers(0, 200, 2)
        page[y : y + random.integers(5, 40), x : x + random.integers(5, 40)] = random.integers(0, 200)
    assert repeats_of(picture(page)) is None


def test_an_area_lies_where_it_lay():
    enlarged = picture(repeated(np.hstack([disc(), disc()]), 4, 3, 2))
    for settings_ in (InkSettings(area=(170, 10, 130, 130)), ColourSettings(area=(170, 10, 130, 130))):
        found = max(trace(enlarged, settings_).outlines, key=lambda o: o.area)
        x0, y0, x1, y1 = found.outer.bounds
        if isinstance(settings_, InkSettings):
            assert ((x0 + x1) / 2, (y0 + y1) / 2) == pytest.approx((4 * 60.13 - 3, 4 * 19.71 - 2), abs=0.4)
        assert x0 >= 166
        assert x1 <= 304


def small_art(number: int) -> np.ndarray:
    outlines, width, height = truths()[number].fitted(260)
    return np.round(render.toned(render.coverage(outlines, width, height)))


@pytest.mark.parametrize("way", [Image.Resampling.BILINEAR, Image.Resampling.BICUBIC])
@pytest.mark.parametrize("times", [2, 3, 5, 8])
@pytest.mark.parametrize("number", [0, 3, 5])
def test_a_smooth_enlargement_is_told_wherever_it_was_cropped(number, times, way):
    grey = small_art(number)
    large = Image.fromarray(grey.astype(np.uint8)).resize((grey.shape[1] * times, grey.shape[0] * times), way)
    assert grain_of(picture(np.asarray(large))) == Grain(times)
    assert grain_of(picture(np.asarray(large)[1:, times - 1 :])) == Grain(times, times - 1, 1)


@pytest.mark.parametrize("side", [200, 1000])
@pytest.mark.parametrize("spoil", [*render.CONDITIONS.values()])
def test_spoilt_pictures_are_no_enlargements(spoil, side):
    for truth in truths()[1::2] if side > 500 else truths():
        outlines, width, height = truth.fitted(side)
        assert grain_of(decode(spoil(render.coverage(outlines, width, height)))) == PLAIN


@pytest.mark.parametrize("sigma", [1.0, 1.5, 2.0, 3.0, 5.0])
def test_blurred_pictures_are_no_enlargements(sigma):
    for number in range(6):
        assert grain_of(picture(np.round(cv2.GaussianBlur(small_art(number), (0, 0), sigma)))) == PLAIN


def test_gradients_and_noise_are_no_enlargements():
    rng = np.random.default_rng(1)
    slope = np.round(np.hypot(*np.mgrid[:220, :260]) / 340 * 255)
    for grey in (slope, rng.integers(0, 256, (200, 220)), 255 * rng.integers(0, 2, (200, 220))):
        assert grain_of(picture(grey)) == PLAIN


def test_a_smooth_enlargement_is_traced_as_the_small_picture():
    outlines, width, height = truths()[2].fitted(200)
    grey = render.toned(render.coverage(outlines, width, height)).round().astype(np.uint8)
    large = Image.fromarray(grey).resize((2 * width, 2 * height), Image.Resampling.BILINEAR)
    found = trace(picture(np.asarray(large)), InkSettings()).outlines
    reached = score([o.transformed(0.5) for o in found], outlines)
    assert reached.topology
    assert reached.mean < 0.04
    assert reached.nodes < 1.25
    assert reached.false <= 2


def test_an_enlarged_picture_has_no_rough_spots_at_its_stairs():
    outlines, width, height = truths()[5].fitted(200)
    enlarged = picture(repeated(render.toned(render.coverage(outlines, width, height)), 4, 1, 2))
    found = trace(enlarged, InkSettings()).outlines
    assert rough_spots(enlarged, found, (), ()) == ()
    aside = [o.transformed(1.0, 8.0, 0.0) for o in found]
    off = [spot for spot in rough_spots(enlarged, aside, (), ()) if spot.kind == "off"]
    assert off
    bounds = np.array([o.outer.bounds for o in aside])
    for spot in off:
        x, y = spot.at
        near = (bounds[:, 0] - 9 < x) & (x < bounds[:, 2] + 9) & (bounds[:, 1] - 9 < y) & (y < bounds[:, 3] + 9)
        assert near.any()


def test_an_area_of_an_unevenly_repeated_picture_lies_where_it_lay():
    pair = np.hstack([disc(), disc()]).astype(np.uint8)
    large = picture(np.asarray(Image.fromarray(pair).resize((200, 100), Image.Resampling.NEAREST)))
    assert enlarged(large) is not None
    found = trace(large, InkSettings(area=(105, 5, 90, 90)))
    (outline,) = found.outlines
    x0, y0, x1, y1 = outline.outer.bounds
    assert ((x0 + x1) / 2, (y0 + y1) / 2) == pytest.approx((2.5 * 60.13, 2.5 * 19.71), abs=0.4)
    assert x1 - x0 == pytest.approx(2 * 2.5 * 40 / 3, abs=0.5)


@pytest.mark.parametrize("turns", range(4))
def test_an_unevenly_repeated_cut_out_is_told_by_its_opacity(turns):
    opacity = np.rot90(255 - disc(60).astype(np.uint8), turns)
    small = np.dstack([np.full((60, 60, 3), 90, np.uint8), opacity])
    large = np.asarray(Image.fromarray(small).resize((105, 105), Image.Resampling.NEAREST))
    packed = io.BytesIO()
    Image.fromarray(large).save(packed, "PNG")
    was = enlarged(decode(packed.getvalue()))
    assert was is not None
    assert was.small.alpha is not None
    assert np.array_equal(was.small.alpha, opacity)
    assert was.scale == pytest.approx(1.75)


@given(st.integers(0, 10_000))
@settings(max_examples=25, deadline=None)
def test_pictures_with_every_pixel_of_their_own_are_no_repeats(seed):
    random = np.random.default_rng(seed)
    grey = cv2.GaussianBlur(random.normal(128, 90, (70, 90)), (0, 0), float(random.uniform(0.3, 2)))
    assert repeats_of(picture(np.clip(grey, 0, 255))) is None
