"""Settings for a picture that is worked on at another resolution."""

from __future__ import annotations

from dataclasses import replace

from drelo.core.trace.area import Area, Fence
from drelo.core.trace.colours import ColourSettings
from drelo.core.trace.ink import InkSettings
from drelo.core.trace.strokes import StrokeSettings

Settings = InkSettings | ColourSettings | StrokeSettings


def for_reduced(settings: Settings, factor: float, shift: tuple[float, float] = (0, 0)) -> Settings:
    """Settings in px of the whole picture, for one that was moved by `shift` px and then reduced."""
    speck = None if settings.speck is None else settings.speck / factor**2
    area = _smaller(settings.area, 1 / factor, shift)
    match settings:
        case InkSettings():
            pinhole = None if settings.pinhole is None else settings.pinhole / factor**2
            return replace(settings, speck=speck, pinhole=pinhole, area=area)
        case StrokeSettings():
            width = None if settings.width is None else settings.width / factor
            return replace(settings, speck=speck, width=width, area=area)
        case ColourSettings():
            return replace(settings, speck=speck, area=area)


def _smaller(area: Area | None, scale: float, shift: tuple[float, float]) -> Area | None:
    if area is None:
        return None
    x, y = shift
    if isinstance(area, Fence):
        return Fence(tuple((px + x, py + y) for px, py in area.corners)).scaled(scale)
    return ((area[0] + x) * scale, (area[1] + y) * scale, area[2] * scale, area[3] * scale)
