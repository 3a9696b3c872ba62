"""Path data in: the M, L, C and Z, absolute, that contours are written in."""

from __future__ import annotations

import re

import numpy as np

from drelo.core.errors import Refusal
from drelo.core.outline.contour import Contour

MAX_LENGTH = 4_000_000
# Beyond this a number is no drawing.
FAR = 1e6
_TOKEN = re.compile(r"([MLCZ])|([-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?)|([\s,]+)|(.)")


def read_path(text: str, field: str = "path") -> tuple[Contour, ...]:
    """Contours of path data. Raises Refusal when it is anything else."""
    if len(text) > MAX_LENGTH:
        raise Refusal("This outline has too many nodes. Simplify it.", field)
    contours: list[Contour] = []
    points: list[tuple[float, float]] = []
    kinds: list[bool] = []
    start: tuple[float, float] | None = None
    for command, numbers in _commands(text, field):
        if command == "M":
            _close(contours, start, points, kinds, False)
            start, points, kinds = numbers[0], [], []
            for point in numbers[1:]:
                points += [point] * 3
                kinds.append(True)
        elif start is None:
            raise Refusal("An outline must begin with M.", field)
        elif command == "L":
            for point in numbers:
                points += [point] * 3
                kinds.append(True)
        elif command == "C":
            if len(numbers) % 3:
                raise Refusal("A curve needs three points.", field)
            points += numbers
            kinds += [False] * (len(numbers) // 3)
        else:
            _close(contours, start, points, kinds, True)
            start, points, kinds = None, [], []
    _close(contours, start, points, kinds, False)
    return tuple(contours)


def _commands(text: str, field: str) -> list[tuple[str, list[tuple[float, float]]]]:
    found: list[tuple[str, list[float]]] = []
    for command, number, _, other in _TOKEN.findall(text):
        if other:
            raise Refusal(f"An outline is made of M, L, C and Z; “{other}” is none of them.", field)
        if command:
            found.append((command, []))
        elif number:
            if not found:
                raise Refusal("An outline must begin with M.", field)
            found[-1][1].append(float(number))
    result = []
    for command, flat in found:
        if len(flat) % 2 or (command == "Z") != (not flat) or any(abs(v) > FAR for v in flat):
            raise Refusal("An outline has numbers that are missing or far too large.", field)
        result.append((command, list(zip(flat[::2], flat[1::2], strict=True))))
    return result


def _close(
    contours: list[Contour],
    start: tuple[float, float] | None,
    points: list[tuple[float, float]],
    kinds: list[bool],
    closed: bool,
) -> None:
    if start is None or not kinds:
        return
    ends = np.array(points, np.float64).reshape(-1, 3, 2)
    begins = np.concatenate([[start], ends[:-1, 2]])
    curves = np.concatenate([begins[:, None], ends], axis=1)
    straight = np.array(kinds, bool)
    if closed and not np.array_equal(curves[-1, 3], curves[0, 0]):
        last, first = curves[-1, 3], curves[0, 0]
        curves = np.concatenate([curves, [[last, last, first, first]]])
        straight = np.append(straight, True)
    third = (curves[:, 3] - curves[:, 0]) / 3
    curves[straight, 1] = (curves[:, 0] + third)[straight]
    curves[straight, 2] = (curves[:, 3] - third)[straight]
    # A line of no length is no segment.
    keep = ~(straight & (curves[:, 0] == curves[:, 3]).all(axis=1))
    if keep.any():
        contours.append(Contour(curves[keep], straight[keep], closed))


# So many digits keep every place within 1e-9 mm.
DIGITS = 9


def write_path(contours: tuple[Contour, ...] | list[Contour], digits: int = DIGITS) -> str:
    """Path data of contours."""
    return "".join(c.path_data(digits) for c in contours)
