"""Coloured pictures as they come: coded with coarse colour, and under a lamp."""

from __future__ import annotations

import io

import cv2
import numpy as np
from benchmarks.tracing import layers, render
from PIL import Image

from drelo.core.picture.decode import Picture, decode
from drelo.core.picture.even import evenly_lit
from drelo.core.trace.colours.colours import trace_colours
from drelo.core.trace.settings import ColourSettings
from drelo.core.trace.trace import Trace


def jpeg(rgb: np.ndarray, quality: int) -> Picture:
    out = io.BytesIO()
    Image.fromarray(rgb).save(out, "JPEG", quality=quality)
    return decode(out.getvalue())


def as_light(side: int = 400) -> np.ndarray:
    """Red, blue and yellow on green, all about as light as each other."""
    large = np.full((side * 4, side * 4, 3), (80, 150, 70), np.uint8)
    at = side * 2
    cv2.ellipse(large, (at, at), (int(at * 0.72), int(at * 0.44)), 20, 0, 360, (190, 60, 60), -1)
    cv2.ellipse(large, (int(at * 1.1), at), (int(at * 0.4), int(at * 0.2)), 50, 0, 360, (60, 90, 190), -1)
    return np.asarray(cv2.resize(large, (side, side), interpolation=cv2.INTER_AREA), np.uint8)


def corners(trace: Trace) -> int:
    count = 0
    for contour in (c for o in trace.outlines for c in o.contours):
        into, out = (
            contour.curves[:, 3] - contour.curves[:, 2],
            np.roll(contour.curves[:, 1] - contour.curves[:, 0], -1, 0),
        )
        turn = np.arctan2(into[:, 0] * out[:, 1] - into[:, 1] * out[:, 0], (into * out).sum(axis=1))
        count += int((np.abs(turn) > 0.5).sum())
    return count


def test_edges_between_colours_of_like_lightness_are_calm():
    clean = trace_colours(jpeg(as_light(), 98), ColourSettings())
    coded = trace_colours(jpeg(as_light(), 70), ColourSettings())
    assert coded.nodes <= 1.8 * clean.nodes
    assert corners(coded) <= corners(clean) + 4
    assert coded.check is not None
    assert coded.check.most <= 0.8


def test_a_simple_logo_has_the_colours_that_one_would_count():
    large = np.full((1200, 1200, 3), 255, np.uint8)
    cv2.circle(large, (600, 600), 480, (28, 62, 140), -1)
    cv2.circle(large, (600, 600), 396, (255, 255, 255), -1)
    cv2.putText(large, "PIER", (290, 670), cv2.FONT_HERSHEY_DUPLEX, 4.6, (28, 62, 140), 27)
    cv2.ellipse(large, (600, 816), (240, 72), 0, 0, 360, (230, 120, 40), -1)
    logo = np.asarray(cv2.resize(large, (400, 400), interpolation=cv2.INTER_AREA), np.uint8)
    for quality in (50, 80):
        trace = trace_colours(jpeg(logo, quality), ColourSettings())
        assert len(trace.swatches) == 3
        assert len(trace.outlines) <= 8


def test_colours_that_are_asked_for_are_not_two_shades_of_one():
    y, x = np.mgrid[:300, :300] / 300
    poster = np.full((300, 300, 3), (238, 226, 200), float)
    poster[y > 0.55] = 30
    poster += np.where((y > 0.55)[..., None], (30 * x)[..., None], 0)
    poster[(x - 0.5) ** 2 + (y - 0.3) ** 2 < 0.03] = (205, 60, 40)
    poster[(x - 0.7) ** 2 + (y - 0.78) ** 2 < 0.012] = (60, 110, 160)
    poster += np.random.default_rng(0).normal(0, 3, poster.shape)
    trace = trace_colours(jpeg(np.clip(poster, 0, 255).astype(np.uint8), 85), ColourSettings(4))
    dark = [s.colour for s in trace.swatches if int(s.colour[1:3], 16) < 80 and int(s.colour[5:], 16) < 90]
    assert len(trace.swatches) == 4
    assert len(dark) == 1


def test_a_print_under_a_lamp_has_its_own_colours_on_one_paper():
    art, width, height = layers.crest().fitted(900)
    sheet = np.full((height + 240, width + 240, 3), 246.0)
    sheet[120:-120, 120:-120] = art.pixels(width, height)
    lit = sheet * render.light(sheet.shape[:2])[..., None] * np.array([1, 0.97, 0.9])
    photo = np.clip(lit + np.random.default_rng(1).normal(0, 3, lit.shape), 0, 255).astype(np.uint8)
    trace = trace_colours(jpeg(photo, 85), ColourSettings())
    assert len(trace.swatches) == 5
    assert trace.nodes <= 250


def test_flat_art_is_not_taken_for_uneven_light():
    rgb = np.full((200, 300, 3), 230, np.uint8)
    rgb[:, 150:] = (60, 80, 160)
    picture = Picture(rgb, None, None, "image/png")
    assert evenly_lit(picture) is picture
