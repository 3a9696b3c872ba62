"""Fonts read and glyphs drawn."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
import uharfbuzz as hb
from fontTools.ttLib import TTFont, TTLibError

from drelo.core.errors import Refusal, Superseded
from drelo.core.outline.contour import Contour

MAX_BYTES = 16 * 2**20
MAX_UNPACKED = 64 * 2**20
# Height of capitals against the em where a font does not say.
USUAL_CAPITAL = 0.7


@dataclass(frozen=True)
class Glyph:
    """A shaped glyph: its number in the font, where it stands and how far it advances, em."""

    number: int
    x: float
    y: float
    advance: float
    cluster: int


class Font:
    """A font that can be shaped and drawn. Raises Refusal when the bytes are no font."""

    def __init__(self, data: bytes) -> None:
        plain = _plain(data)
        face = hb.Face(plain)
        self._font = hb.Font(face)
        self._em = float(face.upem)
        self.name, self.capital = _facts(plain, self._em)
        self._drawn: dict[int, tuple[Contour, ...]] = {}

    def shape(self, text: str) -> list[Glyph]:
        """Glyphs of one line with kerning and ligatures, left to right, em."""
        buffer = hb.Buffer()
        buffer.add_str(text)
        buffer.guess_segment_properties()
        hb.shape(self._font, buffer, {"kern": True, "liga": True, "calt": True, "clig": True})
        glyphs, x = [], 0.0
        for info, place in zip(buffer.glyph_infos or [], buffer.glyph_positions or [], strict=True):
            advance = place.x_advance / self._em
            left = x + place.x_offset / self._em
            glyphs.append(Glyph(info.codepoint, left, place.y_offset / self._em, advance, info.cluster))
            x += advance
        return glyphs

    def contours(self, number: int) -> tuple[Contour, ...]:
        """Closed contours of a glyph, em, y up."""
        if number not in self._drawn:
            pen = _Pen()
            self._font.draw_glyph_with_pen(number, pen)
            self._drawn[number] = tuple(c.transformed(1 / self._em) for c in pen.finished())
        return self._drawn[number]

    def missing(self, text: str) -> list[str]:
        """Characters that the font has no glyph for."""
        return sorted({c for c in text if not c.isspace() and self._font.get_nominal_glyph(ord(c)) is None})


class _Pen:
    """Takes the strokes of a glyph."""

    def __init__(self) -> None:
        self._contours: list[Contour] = []
        self._curves: list[list[tuple[float, float]]] = []
        self._straight: list[bool] = []
        self._at = (0.0, 0.0)
        self._start = (0.0, 0.0)

    def moveTo(self, point: tuple[float, float]) -> None:  # noqa: N802 - the pens of fonts are named so
        self.closePath()
        self._start = self._at = point

    def lineTo(self, point: tuple[float, float]) -> None:  # noqa: N802
        if point != self._at:
            (ax, ay), (bx, by) = self._at, point
            third = ((bx - ax) / 3, (by - ay) / 3)
            self._add((ax + third[0], ay + third[1]), (bx - third[0], by - third[1]), point, True)

    def curveTo(self, one: tuple[float, float], two: tuple[float, float], point: tuple[float, float]) -> None:  # noqa: N802
        self._add(one, two, point, False)

    def qCurveTo(self, control: tuple[float, float], point: tuple[float, float]) -> None:  # noqa: N802
        (ax, ay), (cx, cy), (bx, by) = self._at, control, point
        one = (ax + (cx - ax) * 2 / 3, ay + (cy - ay) * 2 / 3)
        two = (bx + (cx - bx) * 2 / 3, by + (cy - by) * 2 / 3)
        self._add(one, two, point, False)

    def closePath(self) -> None:  # noqa: N802
        if self._curves:
            self.lineTo(self._start)
            self._contours.append(Contour(np.array(self._curves, np.float64), np.array(self._straight, bool)))
        self._curves, self._straight = [], []

    endPath = closePath  # noqa: N815

    def _add(self, one: tuple[float, float], two: tuple[float, float], point: tuple[float, float], line: bool) -> None:
        self._curves.append([self._at, one, two, point])
        self._straight.append(line)
        self._at = point

    def finished(self) -> Sequence[Contour]:
        self.closePath()
        return self._contours


def _plain(data: bytes) -> bytes:
    """The font unpacked. Raises Refusal when it cannot be read."""
    if len(data) > MAX_BYTES:
        raise Refusal("font.too-large", "font", megabytes=MAX_BYTES // 2**20)
    _check_unpacked(data)
    try:
        font = TTFont(io.BytesIO(data), lazy=True)
        if "cmap" not in font or not ({"glyf", "CFF ", "CFF2"} & set(font.keys())):
            raise Refusal("font.no-outlines", "font")
        font.flavor = None
        plain = io.BytesIO()
        font.save(plain)
    except (Refusal, Superseded, MemoryError):
        raise
    except Exception:
        raise Refusal("font.unreadable", "font") from None
    return plain.getvalue()


def _check_unpacked(data: bytes) -> None:
    """Raises Refusal when a packed font says that it unpacks to more than is taken."""
    if data[:4] in (b"wOFF", b"wOF2") and len(data) >= 20 and int.from_bytes(data[16:20], "big") > MAX_UNPACKED:
        raise Refusal("font.unpacks-too-large", "font", megabytes=MAX_UNPACKED // 2**20)


def _facts(plain: bytes, em: float) -> tuple[str, float]:
    """The font's name, and the height of its capitals, em."""
    try:
        font: Any = TTFont(io.BytesIO(plain), lazy=True)
        name = str(font["name"].getBestFullName() or "") if "name" in font else ""
        height = float(getattr(font["OS/2"], "sCapHeight", 0) or 0) if "OS/2" in font else 0.0
    except (TTLibError, KeyError, ValueError):
        return "", USUAL_CAPITAL
    return name, height / em if height > 0 else USUAL_CAPITAL


@lru_cache(maxsize=24)
def font_of(data: bytes) -> Font:
    """A font from its bytes, remembered. Raises Refusal when they are no font."""
    return Font(data)
