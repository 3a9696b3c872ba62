"""Drawings without antialiasing that were saved as JPEG or WebP, and those with more tones than ink and paper."""

from __future__ import annotations

import io
from typing import Any

import numpy as np
import pytest
from PIL import Image, ImageDraw

from drelo.core.picture.decode import Picture, decode
from drelo.core.picture.enlarged import enlarged
from drelo.core.trace.colours.colours import ColourSettings, trace_colours
from drelo.core.trace.ink import InkSettings, trace_ink
from drelo.core.trace.modes import trace

FORMATS: list[tuple[str, dict[str, Any]]] = [
    ("JPEG", {"quality": 50}),
    ("JPEG", {"quality": 75}),
    ("JPEG", {"quality": 92, "subsampling": 0}),
    ("WEBP", {"quality": 75}),
    ("WEBP", {"quality": 95}),
]


def drawn(fill: tuple[int, int, int], inner: tuple[int, int, int], over: int = 1) -> Image.Image:
    """A triangle of 300 × 220 px on white with a disc in it; over > 1 is antialiased."""
    image = Image.new("RGB", (400 * over, 300 * over), "white")
    pen = ImageDraw.Draw(image)
    pen.polygon([(50 * over, 250 * over), (200 * over, 30 * over), (350 * over, 250 * over)], fill=fill)
    pen.ellipse([150 * over, 120 * over, 250 * over, 220 * over], fill=inner)
    return image.resize((400, 300), Image.Resampling.BOX)


def saved(image: Image.Image, kind: str, **how: Any) -> Picture:
    packed = io.BytesIO()
    image.save(packed, kind, **how)
    return decode(packed.getvalue())


@pytest.mark.parametrize(("kind", "how"), FORMATS)
@pytest.mark.parametrize("over", [1, 6])
def test_black_on_white_has_the_nodes_of_its_shapes(over, kind, how):
    picture = saved(drawn((20, 20, 20), (255, 255, 255), over), kind, **how)
    for found in (trace_ink(picture, InkSettings()), trace_colours(picture, ColourSettings())):
        (outline,) = found.outlines
        assert outline.nodes <= 16
        assert len(outline.holes) == 1


@pytest.mark.parametrize(("kind", "how"), FORMATS)
@pytest.mark.parametrize("over", [1, 6])
def test_two_colours_have_the_nodes_of_their_shapes(over, kind, how):
    found = trace_colours(saved(drawn((0, 120, 60), (250, 200, 0), over), kind, **how), ColourSettings())
    assert len(found.outlines) == 2
    assert sum(o.nodes for o in found.outlines) <= 16


@pytest.mark.parametrize(("kind", "how"), [("PNG", {}), ("JPEG", {"quality": 75}), ("WEBP", {"quality": 90})])
def test_a_third_tone_is_no_antialiasing(kind, how):
    (outline,) = trace_ink(saved(drawn((0, 120, 60), (250, 200, 0)), kind, **how), InkSettings()).outlines
    assert outline.nodes <= 12


@pytest.mark.parametrize("quality", [60, 85])
@pytest.mark.parametrize("times", [2, 3, 4])
@pytest.mark.parametrize("over", [1, 6])
def test_repeated_pixels_are_told_in_spite_of_coding(over, times, quality):
    small = drawn((0, 120, 60), (250, 200, 0), over)
    large = small.resize((400 * times, 300 * times), Image.Resampling.NEAREST)
    picture = saved(large, "JPEG", quality=quality)
    found = trace(picture, ColourSettings())
    assert len(found.outlines) == 2
    assert sum(o.nodes for o in found.outlines) <= 16
    assert sum(o.nodes for o in trace(picture, InkSettings()).outlines) <= 12


@pytest.mark.parametrize("kernel", [Image.Resampling.BILINEAR, Image.Resampling.BICUBIC])
@pytest.mark.parametrize("times", [2, 3])
@pytest.mark.parametrize("over", [1, 6])
def test_a_smooth_enlargement_is_traced_as_it_was_before(over, times, kernel):
    large = drawn((0, 120, 60), (250, 200, 0), over).resize((400 * times, 300 * times), kernel)
    picture = saved(large, "PNG")
    assert sum(o.nodes for o in trace(picture, ColourSettings()).outlines) <= 16
    assert sum(o.nodes for o in trace(picture, InkSettings()).outlines) <= 16


@pytest.mark.parametrize("times", [2, 3, 4])
def test_the_pixels_of_a_smooth_enlargement_are_known_again(times):
    small = drawn((0, 120, 60), (250, 200, 0), 6)
    found = enlarged(saved(small.resize((400 * times, 300 * times), Image.Resampling.BICUBIC), "PNG"))
    assert found is not None
    assert found.scale == times
    off = np.abs(found.small.rgb.astype(int) - np.asarray(small))
    assert (off > 4).mean() < 0.002


def test_squares_that_are_meant_stay():
    image = Image.new("RGB", (320, 320), "white")
    pen = ImageDraw.Draw(image)
    for x, y in ((40, 40), (80, 80), (120, 40), (160, 120), (200, 200)):
        pen.rectangle([x, y, x + 39, y + 39], fill=(20, 20, 20))
    picture = saved(image, "JPEG", quality=85)
    assert enlarged(picture) is None


def test_boxes_with_one_round_thing_among_them_stay_antialiased():
    over = 6
    image = Image.new("RGB", (400 * over, 300 * over), "white")
    pen = ImageDraw.Draw(image)
    for x in range(20, 380, 45):
        pen.rectangle([x * over, 20 * over, (x + 30) * over, 200 * over], fill=(20, 60, 120))
    pen.ellipse([150 * over, 215 * over, 220 * over, 285 * over], fill=(20, 60, 120))
    small = image.resize((400, 300), Image.Resampling.BOX)
    (*_, disc) = sorted(trace_ink(saved(small, "PNG"), InkSettings()).outlines, key=lambda o: o.outer.bounds[3])
    true = disc.area
    picture = saved(small, "JPEG", quality=85)
    for found in (trace_ink(picture, InkSettings()), trace_colours(picture, ColourSettings())):
        disc = max(found.outlines, key=lambda o: o.outer.bounds[3])
        assert disc.area == pytest.approx(true, rel=0.004)


@pytest.mark.parametrize(
    ("kind", "how", "coded"),
    [
        ("PNG", {}, False),
        ("JPEG", {"quality": 90}, True),
        ("MPO", {"save_all": True, "append_images": [Image.new("RGB", (400, 300))]}, True),
        ("WEBP", {"quality": 80}, True),
        ("WEBP", {"lossless": True}, False),
        ("WEBP", {"lossless": True, "exif": b"Exif\0\0II*\0\x08\0\0\0\0\0\0\0\0\0"}, False),
        ("WEBP", {"quality": 50, "save_all": True, "append_images": [Image.new("RGB", (400, 300))]}, True),
        ("WEBP", {"lossless": True, "save_all": True, "append_images": [Image.new("RGB", (400, 300))]}, False),
    ],
)
def test_it_is_known_which_files_keep_colour_coarsely(kind, how, coded):
    assert saved(drawn((0, 120, 60), (250, 200, 0)), kind, **how).coded == coded
