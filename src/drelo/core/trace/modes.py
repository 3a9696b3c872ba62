"""The three ways to trace a picture, behind one door."""

from __future__ import annotations

import math

import numpy as np

from drelo.core.picture.decode import Picture
from drelo.core.picture.enlarged import enlarged
from drelo.core.picture.reduce import factor_for, reduced
from drelo.core.trace.settings import MODES as MODES
from drelo.core.trace.settings import ColourSettings, InkSettings, StrokeSettings, for_reduced
from drelo.core.trace.settings import Mode as Mode
from drelo.core.trace.settings import Settings as Settings
from drelo.core.trace.trace import Trace

# More pixels than this are traced reduced, else a gigabyte of memory would not do.
MOST_PIXELS: dict[Mode, int] = {"ink": 36_000_000, "colours": 13_000_000, "strokes": 36_000_000}


def trace(picture: Picture, settings: Settings, factor: int = 1) -> Trace:
    """Traces a picture in the mode of the settings. Raises Refusal as each mode does.

    factor: the picture is worked on at this part of its resolution, or at what its size needs; settings and result
    stay in px of the whole one.
    A picture that was enlarged is worked on as it was before.
    """
    factor = max(factor, factor_for(picture.width * picture.height, MOST_PIXELS[mode_of(settings)]))
    was = enlarged(picture)
    if was is not None:
        x, y = was.shift
        smaller = for_reduced(settings, was.scale, (-x, -y))
        # Squares that were made larger are there to be seen.
        whole = was.scale < 1
        found = _traced(was.small, smaller) if whole else trace(was.small, smaller, math.ceil(factor / was.scale))
        return found.enlarged(was.scale, was.shift)
    if factor == 1:
        return _traced(picture, settings)
    return _traced(reduced(picture, factor), for_reduced(settings, factor)).enlarged(factor)


def mode_of(settings: Settings) -> Mode:
    match settings:
        case InkSettings():
            return "ink"
        case ColourSettings():
            return "colours"
        case StrokeSettings():
            return "strokes"


def _traced(picture: Picture, settings: Settings) -> Trace:
    """A mode loads what it needs when it is first asked for: that takes longer than to trace a small picture."""
    match settings:
        case InkSettings():
            from drelo.core.trace.ink import trace_ink

            return trace_ink(picture, settings)
        case ColourSettings():
            from drelo.core.trace.colours.colours import trace_colours

            return trace_colours(picture, settings)
        case StrokeSettings():
            from drelo.core.trace.strokes.strokes import trace_strokes

            return trace_strokes(picture, settings)


def prepare(mode: Mode) -> None:
    """Loads, or compiles at the very first time, what a trace in this mode needs."""
    rgb = np.full((48, 64, 3), 255, np.uint8)
    rgb[12:30, 10:40] = (20, 60, 140)
    rgb[20:36, 30:54] = (200, 60, 40)
    settings: dict[Mode, Settings] = {"ink": InkSettings(), "colours": ColourSettings(), "strokes": StrokeSettings()}
    trace(Picture(rgb, None, None, "image/png"), settings[mode])
