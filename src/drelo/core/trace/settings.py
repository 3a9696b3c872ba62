"""What a maker may turn of a trace: plain values, for which nothing is loaded; and the same at another resolution."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

Mode = Literal["ink", "colours", "strokes"]
MODES: tuple[Mode, ...] = ("ink", "colours", "strokes")
Box = tuple[float, float, float, float]
"""x, y, width, height in px."""


@dataclass(frozen=True)
class Fence:
    """A free area: the corners of a polygon, px."""

    corners: tuple[tuple[float, float], ...]

    @property
    def box(self) -> Box:
        x, y = zip(*self.corners, strict=True)
        return min(x), min(y), max(x) - min(x), max(y) - min(y)

    def scaled(self, factor: float) -> Fence:
        return Fence(tuple((x * factor, y * factor) for x, y in self.corners))


Area = Box | Fence


@dataclass(frozen=True)
class InkSettings:
    """What a maker may turn in mode ink.

    level: 0..1, how dark counts as ink; None finds it.
    invert: the light parts are the shape.
    speck: px², islands and holes smaller than this are dropped; None finds it.
    smooth: 0 follows every pixel, 1 draws the calmest curve.
    area: only this box (x, y, width, height in px) or free area; None takes the whole picture.
    keen: 0 rounds corners off, 1 takes every tight bend for one.
    silhouette: only the outer contours of what lies inside nothing else.
    pinhole: px², holes smaller than this are filled; None takes the size of specks.
    local: the level follows the light over the picture; None finds whether it needs to.
    quick: good enough to follow the hand, with more nodes.
    """

    level: float | None = None
    invert: bool = False
    speck: float | None = None
    smooth: float = 0.5
    area: Area | None = None
    keen: float = 0.5
    silhouette: bool = False
    pinhole: float | None = None
    local: bool | None = None
    quick: bool = False


@dataclass(frozen=True)
class ColourSettings:
    """What a maker may turn in mode colours.

    colours: how many, 2 to 24, the background among them; None proposes a number.
    palette: groups of colours (#rrggbb) that are to count as one each, instead of finding them; what is in none of the
        groups goes to the nearest.
    background: the colour (#rrggbb) that is no shape; None takes the one that most of the border has, "none" keeps all.
    speck: px², areas smaller than this go to their neighbours; None finds it.
    smooth: 0 follows every pixel, 1 draws the calmest curve.
    area: only this box (x, y, width, height in px) or free area; None takes the whole picture.
    keen: 0 rounds corners off, 1 takes every tight bend for one.
    quick: good enough to follow the hand, with more nodes.
    """

    colours: int | None = None
    palette: tuple[tuple[str, ...], ...] | None = None
    background: str | None = None
    speck: float | None = None
    smooth: float = 0.5
    area: Area | None = None
    keen: float = 0.5
    quick: bool = False


@dataclass(frozen=True)
class StrokeSettings:
    """What a maker may turn in mode strokes.

    level, invert, speck, smooth, area, keen, local, quick: as in mode ink.
    width: px, one width for all; None lets every stroke keep its own.
    """

    level: float | None = None
    invert: bool = False
    speck: float | None = None
    smooth: float = 0.5
    area: Area | None = None
    keen: float = 0.5
    width: float | None = None
    local: bool | None = None
    quick: bool = False


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
