"""Drawings without antialiasing that were saved as JPEG or WebP, and those with more tones than ink and paper."""

from __future__ import annotations

import io
from typing import Any

import pytest
from PIL import Image, ImageDraw

from drelo.core.picture.decode import Picture, decode
from drelo.core.trace.colours.colours import ColourSettings, trace_colours
from drelo.core.trace.ink import InkSettings, trace_ink

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
    for trace in (trace_ink(picture, InkSettings()), trace_colours(picture, ColourSettings())):
        (outline,) = trace.outlines
        assert outline.nodes <= 16
        assert len(outline.holes) == 1


@pytest.mark.parametrize(("kind", "how"), FORMATS)
@pytest.mark.parametrize("over", [1, 6])
def test_two_colours_have_the_nodes_of_their_shapes(over, kind, how):
    trace = trace_colours(saved(drawn((0, 120, 60), (250, 200, 0), over), kind, **how), ColourSettings())
    assert len(trace.outlines) == 2
    assert sum(o.nodes for o in trace.outlines) <= 16


def test_a_third_tone_is_no_antialiasing():
    (outline,) = trace_ink(saved(drawn((0, 120, 60), (250, 200, 0)), "PNG"), InkSettings()).outlines
    assert outline.nodes <= 12


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
    for trace in (trace_ink(picture, InkSettings()), trace_colours(picture, ColourSettings())):
        disc = max(trace.outlines, key=lambda o: o.outer.bounds[3])
        assert disc.area == pytest.approx(true, rel=0.004)


@pytest.mark.parametrize(
    ("kind", "how", "coded"),
    [
        ("PNG", {}, False),
        ("JPEG", {"quality": 90}, True),
        ("WEBP", {"quality": 80}, True),
        ("WEBP", {"lossless": True}, False),
        ("WEBP", {"lossless": True, "exif": b"Exif\0\0II*\0\x08\0\0\0\0\0\0\0\0\0"}, False),
        ("WEBP", {"quality": 50, "save_all": True, "append_images": [Image.new("RGB", (400, 300))]}, True),
        ("WEBP", {"lossless": True, "save_all": True, "append_images": [Image.new("RGB", (400, 300))]}, False),
    ],
)
def test_it_is_known_which_files_keep_colour_coarsely(kind, how, coded):
    assert saved(drawn((0, 120, 60), (250, 200, 0)), kind, **how).coded == coded
