"""Circles, rings, rectangles, polygons, stars: outlines by numbers, round the origin."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from drelo.core.outline.contour import Contour, Points, polygon
from drelo.core.outline.ease import arc

Flags = NDArray[np.bool_]
MIN_SIDES, MAX_SIDES = 3, 360


def ellipse(width: float, height: float) -> Contour:
    """An ellipse by its two diameters."""
    circle = arc(np.zeros(2), 0.5, 0.0, 2 * np.pi)
    return _closed(circle.curves * np.array([width, height]), circle.straight)


def ring(outer: float, inner: float, aspect: float = 1.0) -> tuple[Contour, Contour]:
    """Two concentric circles by their diameters, or ellipses by their widths and height to width.

    The inner one runs the other way.
    """
    return ellipse(outer, outer * aspect), ellipse(inner, inner * aspect).reversed()


def rectangle(width: float, height: float, radius: float = 0.0) -> Contour:
    """A rectangle, its corners rounded with a radius, or with the largest one that it has room for."""
    x, y = width / 2, height / 2
    corners = np.array([[x, y], [-x, y], [-x, -y], [x, -y]])
    radius = min(radius, x, y)
    if radius <= 0:
        return polygon(corners)
    curves: list[Points] = []
    straight: list[Flags] = []
    for i, corner in enumerate(corners):
        turn = arc(corner - np.sign(corner) * radius, radius, i * np.pi / 2, np.pi / 2)
        if curves and (curves[-1][-1, 3] != turn.curves[0, 0]).any():
            curves.append(_line(curves[-1][-1, 3], turn.curves[0, 0]))
            straight.append(np.ones(1, bool))
        curves.append(turn.curves)
        straight.append(turn.straight)
    if np.abs(curves[-1][-1, 3] - curves[0][0, 0]).max() > 1e-9:
        curves.append(_line(curves[-1][-1, 3], curves[0][0, 0]))
        straight.append(np.ones(1, bool))
    return _closed(np.concatenate(curves), np.concatenate(straight))


def regular(sides: int, diameter: float) -> Contour:
    """A regular polygon by the diameter of the circle round it, one corner up."""
    angle = np.pi / 2 + 2 * np.pi * np.arange(sides) / sides
    return polygon(diameter / 2 * np.column_stack([np.cos(angle), -np.sin(angle)]))


def star(points: int, outer: float, inner: float) -> Contour:
    """A star by the diameters through its points and through its notches, one point up."""
    angle = np.pi / 2 + np.pi * np.arange(2 * points) / points
    radius = np.where(np.arange(2 * points) % 2, inner, outer) / 2
    return polygon(radius[:, None] * np.column_stack([np.cos(angle), -np.sin(angle)]))


def _line(start: Points, end: Points) -> Points:
    third = (end - start) / 3
    return np.array([[start, start + third, end - third, end]])


def _closed(curves: Points, straight: Flags) -> Contour:
    result = curves.copy()
    result[1:, 0] = result[:-1, 3]
    result[-1, 3] = result[0, 0]
    return Contour(result, straight, True)
