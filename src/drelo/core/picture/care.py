"""Picture care: crop, level, flatten, even out light, rub out. The original stays; the steps are applied to it anew."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from drelo.core.errors import Refusal
from drelo.core.picture.decode import MAX_PIXELS, MIN_SIDE, Picture
from drelo.core.picture.light import uneven_light

Point = tuple[float, float]
Matrix = NDArray[np.float64]

# A line or side shorter than this (px) says nothing of a direction.
LEAST_LENGTH = 4.0


@dataclass(frozen=True)
class Crop:
    """Only this box stays: x, y, width, height in px of the picture as the steps before leave it."""

    box: tuple[float, float, float, float]


@dataclass(frozen=True)
class Level:
    """The picture is turned so that the line from one point to the other lies level, or upright if it is nearer."""

    start: Point
    end: Point


@dataclass(frozen=True)
class Flatten:
    """Four corners of what is a rectangle in truth, in order round it; it becomes the whole picture."""

    corners: tuple[Point, Point, Point, Point]


@dataclass(frozen=True)
class EvenLight:
    """Paper becomes equally bright everywhere."""


@dataclass(frozen=True)
class Rub:
    """What lies within `radius` px of a line through the points takes the colour of the paper around."""

    points: tuple[Point, ...]
    radius: float


Step = Crop | Level | Flatten | EvenLight | Rub


def cared(picture: Picture, steps: Sequence[Step]) -> Picture:
    """The picture after all steps. Raises Refusal when a step leaves nothing or makes no sense."""
    for step in steps:
        picture = _after(picture, step)
    return picture


def placement(width: int, height: int, steps: Sequence[Step]) -> Matrix:
    """Where the steps take each pixel of the original: a homogeneous matrix, shape (3, 3)."""
    return placed(width, height, steps)[0]


def placed(width: int, height: int, steps: Sequence[Step]) -> tuple[Matrix, int, int]:
    """Where the steps take each pixel of the original, and the size of the picture after them, px."""
    total = np.eye(3)
    for step in steps:
        matrix, width, height = _moved(width, height, step)
        total = matrix @ total
    return total, width, height


def _moved(width: int, height: int, step: Step) -> tuple[Matrix, int, int]:
    """What a step does to places, and the size of the picture after it."""
    match step:
        case Crop(box=(x, y, w, h)):
            left, top = max(0, round(x)), max(0, round(y))
            right, bottom = min(width, round(x + w)), min(height, round(y + h))
            if right - left < MIN_SIDE or bottom - top < MIN_SIDE:
                raise Refusal("care.box-too-small", "care")
            return np.array([[1, 0, -left], [0, 1, -top], [0, 0, 1.0]]), right - left, bottom - top
        case Level(start=(x0, y0), end=(x1, y1)):
            if math.hypot(x1 - x0, y1 - y0) < LEAST_LENGTH:
                raise Refusal("care.line-too-short", "care")
            angle = math.atan2(y1 - y0, x1 - x0)
            angle -= round(angle / (math.pi / 2)) * (math.pi / 2)
            c, s = math.cos(angle), math.sin(angle)
            turn = np.array([[c, s, 0], [-s, c, 0], [0, 0, 1.0]])
            corners = turn[:2, :2] @ np.array([[0, width, width, 0], [0, 0, height, height]], float)
            low, high = corners.min(axis=1), corners.max(axis=1)
            across, down = (math.ceil(v - 1e-6) for v in high - low)
            return np.array([[1, 0, -low[0]], [0, 1, -low[1]], [0, 0, 1.0]]) @ turn, across, down
        case Flatten(corners=corners_of):
            p = _ordered(np.array(corners_of, np.float64))
            across = max(np.linalg.norm(p[1] - p[0]), np.linalg.norm(p[2] - p[3]))
            down = max(np.linalg.norm(p[3] - p[0]), np.linalg.norm(p[2] - p[1]))
            w, h = max(MIN_SIDE, round(float(across))), max(MIN_SIDE, round(float(down)))
            if w * h > MAX_PIXELS:
                raise Refusal("care.corners-too-far", "care")
            target = np.array([[0, 0], [w, 0], [w, h], [0, h]], np.float32)
            return np.asarray(cv2.getPerspectiveTransform(p.astype(np.float32), target), np.float64), w, h
        case _:
            return np.eye(3), width, height


def _ordered(p: NDArray[np.float64]) -> NDArray[np.float64]:
    """The corners clockwise on the screen from the one nearest to the top left. Raises Refusal when one lies inside."""
    sides = np.roll(p, -1, axis=0) - p
    turns = sides[:, 0] * np.roll(sides[:, 1], -1) - sides[:, 1] * np.roll(sides[:, 0], -1)
    if np.linalg.norm(sides, axis=1).min() < LEAST_LENGTH or not (np.all(turns > 0) or np.all(turns < 0)):
        raise Refusal("care.corners-crossed", "care")
    if turns[0] < 0:
        p = p[::-1]
    return np.asarray(np.roll(p, -int(p.sum(axis=1).argmin()), axis=0))


def _after(picture: Picture, step: Step) -> Picture:
    match step:
        case EvenLight():
            return replace(picture, rgb=_even(picture.rgb))
        case Rub():
            return _rubbed(picture, step)
        case _:
            matrix, width, height = _moved(picture.width, picture.height, step)
            return _warped(picture, matrix, width, height, isinstance(step, Crop))


def _warped(picture: Picture, matrix: Matrix, width: int, height: int, whole: bool) -> Picture:
    if whole:
        left, top = round(-matrix[0, 2]), round(-matrix[1, 2])
        box = np.s_[top : top + height, left : left + width]
        alpha = None if picture.alpha is None else np.ascontiguousarray(picture.alpha[box])
        return replace(picture, rgb=np.ascontiguousarray(picture.rgb[box]), alpha=alpha)
    # OpenCV counts from pixel centres, we from pixel corners.
    half = np.array([[1, 0, 0.5], [0, 1, 0.5], [0, 0, 1.0]])
    centred = np.linalg.inv(half) @ matrix @ half
    paper = tuple(int(v) for v in np.median(picture.rgb.reshape(-1, 3)[:: max(1, picture.rgb.size // 60_000)], axis=0))
    rgb = cv2.warpPerspective(
        picture.rgb, centred, (width, height), flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_CONSTANT, borderValue=paper
    )
    alpha = None
    if picture.alpha is not None:
        alpha = np.asarray(
            cv2.warpPerspective(picture.alpha, centred, (width, height), flags=cv2.INTER_LINEAR), np.uint8
        )
    return replace(picture, rgb=np.asarray(rgb, np.uint8), alpha=alpha)


def _even(rgb: NDArray[np.uint8]) -> NDArray[np.uint8]:
    light = uneven_light(np.asarray(cv2.cvtColor(rgb, cv2.COLOR_RGB2GRAY), np.uint8))
    if light is None:
        return rgb
    gain = float(np.quantile(light.paper, 0.98)) / np.maximum(light.paper, 1)
    return np.clip(rgb * gain[..., None], 0, 255).astype(np.uint8)


def _rubbed(picture: Picture, step: Rub) -> Picture:
    mask = np.zeros(picture.rgb.shape[:2], np.uint8)
    points = np.round(np.array(step.points) * 8).astype(np.int32)
    thick = max(1, round(2 * step.radius))
    cv2.polylines(mask, [points.reshape(-1, 1, 2)], False, 255, thick, cv2.LINE_8, 3)
    if len(points) == 1:
        cv2.circle(mask, tuple(int(v) for v in points[0]), round(step.radius * 8), 255, -1, cv2.LINE_8, 3)
    if picture.alpha is not None:
        return replace(picture, alpha=np.where(mask > 0, 0, picture.alpha).astype(np.uint8))
    around = (cv2.dilate(mask, np.ones((9, 9), np.uint8)) > 0) & (mask == 0)
    beside = picture.rgb[around]
    if not len(beside):
        return picture
    # Paper is the lighter of what lies beside the mark.
    paper = np.quantile(beside, 0.9, axis=0).astype(np.uint8)
    return replace(picture, rgb=np.where(mask[..., None] > 0, paper, picture.rgb).astype(np.uint8))
