"""SVG path data of moves, lines and cubic Béziers in and out; contours are written in M, L, C and Z, absolute."""

from __future__ import annotations

import math
import re
from itertools import pairwise

import numpy as np

from drelo.core.errors import Refusal
from drelo.core.outline.contour import Contour

MAX_LENGTH = 4_000_000
# Beyond this a number is no drawing.
FAR = 1e6
# So many digits keep every place within 1e-9 mm.
DIGITS = 9
_STRANGE = re.compile(r"[^MLCZ\d\s,.eE+-]")
_COMMANDS = frozenset("MmLlHhVvCcZz")
_TOKENS = re.compile(r"[MmLlHhVvCcZz]|[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")
_LETTERS = re.compile(r"[^MmLlHhVvCcZz]+")
_FOUR = np.arange(4)
_CUBICS = re.compile(r"MC+[Zz]?")
_BLANKS = str.maketrans("MCZz,", "     ")
_BETWEEN = re.compile(r"[\s,]+")


def read_path(text: str, field: str = "path") -> tuple[Contour, ...]:
    """Contours of path data in M, L, C and Z. Raises Refusal when it is anything else."""
    if len(text) > MAX_LENGTH:
        raise Refusal("This outline has too many nodes. Simplify it.", field)
    strange = _STRANGE.search(text)
    if strange:
        raise Refusal(f"An outline is made of M, L, C and Z; “{strange[0]}” is none of them.", field)
    found = contours_of(text)
    if found is None:
        raise Refusal("An outline begins with M, and has two numbers for each point of a line, six for a curve.", field)
    if any(np.abs(c.curves).max() > FAR for c in found):
        raise Refusal("An outline has numbers that are far too large.", field)
    return tuple(found)


def write_path(contours: tuple[Contour, ...] | list[Contour], digits: int = DIGITS) -> str:
    """Path data of contours."""
    return "".join(c.path_data(digits) for c in contours)


def contours_of(data: str) -> list[Contour] | None:
    """Contours in the unit of the data; None where it holds arcs, quadratic or smooth curves, or is not well formed.

    All at once: a reader that makes an object of every number takes most of the time of a large drawing.
    """
    plain = _one_run_of_cubics(data)
    if plain is not None:
        return plain
    tokens = _TOKENS.findall(data)
    if not tokens or "".join(tokens) != _BETWEEN.sub("", data):
        return None
    places = [i for i, token in enumerate(tokens) if token in _COMMANDS]
    if places[:1] != [0]:
        return None
    rows: list[tuple[float, ...]] = []
    starts: list[int] = []
    closed: list[bool] = []
    x = y = x0 = y0 = 0.0
    is_open = False
    for place, following in pairwise([*places, len(tokens)]):
        command = tokens[place]
        kind = command.upper()
        numbers = list(map(float, tokens[place + 1 : following]))
        relative = command != kind
        if kind == "Z":
            if numbers or not is_open:
                return None
            rows.append((x, y, x0, y0))
            x, y, closed[-1], is_open = x0, y0, True, False
            continue
        step = _STEPS[kind]
        if not numbers or len(numbers) % step or (kind != "M" and not is_open):
            return None
        for at in range(0, len(numbers), step):
            n = numbers[at : at + step]
            if kind == "C":
                if relative:
                    n = [n[0] + x, n[1] + y, n[2] + x, n[3] + y, n[4] + x, n[5] + y]
                rows.append((x, y, *n))
                x, y = n[4], n[5]
                continue
            bx, by = x, y
            if kind != "V":
                bx = n[0] + x if relative else n[0]
            if kind != "H":
                by = n[-1] + y if relative else n[-1]
            if kind == "M" and at == 0:
                starts.append(len(rows))
                closed.append(False)
                x0, y0, is_open = bx, by, True
            else:
                rows.append((x, y, bx, by))
            x, y = bx, by
    if not all(math.isfinite(n) for row in rows for n in row):
        return None
    return _contours(rows, starts, closed)


_STEPS = {"M": 2, "L": 2, "H": 1, "V": 1, "C": 6}


def _one_run_of_cubics(data: str) -> list[Contour] | None:
    """The commonest path, one contour of cubics in absolute coordinates with a letter each; None for any other."""
    letters = _LETTERS.sub("", data)
    if not _CUBICS.fullmatch(letters):
        return None
    numbers = data.translate(_BLANKS).split()
    closed = letters[-1] in "Zz"
    count = len(letters) - 1 - closed
    if len(numbers) != 2 + 6 * count:
        return None
    try:
        points = np.array(numbers, np.float64).reshape(-1, 2)
    except ValueError:
        return None
    if not np.isfinite(points).all():
        return None
    curves = points[np.arange(0, 3 * count, 3)[:, None] + _FOUR]
    straight = np.zeros(count, bool)
    start, end = points[0], points[-1]
    if closed and (start != end).any():
        curves = np.concatenate([curves, [[end, end + (start - end) / 3, start - (start - end) / 3, start]]])
        straight = np.append(straight, True)
    return [Contour(curves, straight, closed)]


def _contours(rows: list[tuple[float, ...]], starts: list[int], closed: list[bool]) -> list[Contour]:
    straight = np.array([len(row) == 4 for row in rows], bool)
    curves = np.empty((len(rows), 8))
    curves[~straight] = np.array([row for row in rows if len(row) == 8]).reshape(-1, 8)
    lines = np.array([row for row in rows if len(row) == 4]).reshape(-1, 4)
    way = (lines[:, 2:] - lines[:, :2]) / 3
    curves[straight] = np.column_stack([lines[:, :2], lines[:, :2] + way, lines[:, 2:] - way, lines[:, 2:]])
    # Lines without length are none.
    keep = ~straight | (curves[:, :2] != curves[:, 6:]).any(axis=1)
    found = []
    for (begin, end), is_closed in zip(pairwise([*starts, len(rows)]), closed, strict=True):
        mine = keep[begin:end]
        if mine.any():
            found.append(Contour(curves[begin:end][mine].reshape(-1, 4, 2), straight[begin:end][mine], is_closed))
    return found
