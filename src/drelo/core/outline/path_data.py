"""SVG path data in and out; contours are written in M, L, C and Z, absolute."""

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
_COMMANDS = frozenset("MmLlHhVvCcSsQqTtAaZz")
_NUMBER = r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?"
_TOKENS = re.compile(rf"[MmLlHhVvCcSsQqTtAaZz]|{_NUMBER}")
_LETTERS = re.compile(r"[^MmLlHhVvCcSsQqTtAaZz]+")
# The two flags of an arc may stand without anything between them and what follows.
_ARCS = re.compile(r"([Aa])([^MmLlHhVvCcSsQqTtAaZz]*)")
# Each number takes all the digits that it can: to try it with fewer, six times over, would take for ever.
_NEXT = rf"[\s,]*+((?>{_NUMBER}))"
_ARC = re.compile(_NEXT * 3 + r"[\s,]*+([01])" * 2 + _NEXT * 2)
_FOUR = np.arange(4)
_CUBICS = re.compile(r"MC+[Zz]?")
_BLANKS = str.maketrans("MCZz,", "     ")
_BETWEEN = re.compile(r"[\s,]+")


def read_path(text: str, field: str = "path") -> tuple[Contour, ...]:
    """Contours of path data in M, L, C and Z. Raises Refusal when it is anything else."""
    if len(text) > MAX_LENGTH:
        raise Refusal("outline.too-many-nodes", field)
    strange = _STRANGE.search(text)
    if strange:
        raise Refusal("outline.strange-letter", field, letter=strange[0])
    found = contours_of(text)
    if found is None:
        raise Refusal("outline.bad-path", field)
    if any(np.abs(c.curves).max() > FAR for c in found):
        raise Refusal("outline.too-large-numbers", field)
    return tuple(found)


def write_path(contours: tuple[Contour, ...] | list[Contour], digits: int = DIGITS) -> str:
    """Path data of contours."""
    return "".join(c.path_data(digits) for c in contours)


def contours_of(data: str) -> list[Contour] | None:
    """Contours in the unit of the data; None where it is not well formed.

    All at once: a reader that makes an object of every number takes most of the time of a large drawing.
    """
    plain = _one_run_of_cubics(data)
    if plain is not None:
        return plain
    if "A" in data or "a" in data:
        data = _ARCS.sub(_flags_apart, data)
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
    # Where the handle before a smooth curve stands, and of which kind its curve was.
    hx = hy = 0.0
    before = ""
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
            x, y, closed[-1], is_open, before = x0, y0, True, False, ""
            continue
        step = _STEPS[kind]
        if not numbers or len(numbers) % step or (kind != "M" and not is_open):
            return None
        for at in range(0, len(numbers), step):
            n = numbers[at : at + step]
            if kind in "CSQT":
                if relative:
                    n = [v + (y if i % 2 else x) for i, v in enumerate(n)]
                if kind in "ST":
                    # The handle of the curve before, turned round the node.
                    smooth = before == ("C" if kind == "S" else "Q")
                    n = [2 * x - hx if smooth else x, 2 * y - hy if smooth else y, *n]
                hx, hy = n[-4], n[-3]
                before = "C" if kind in "CS" else "Q"
                if before == "Q":
                    n = [
                        x + (hx - x) * 2 / 3,
                        y + (hy - y) * 2 / 3,
                        n[2] + (hx - n[2]) * 2 / 3,
                        n[3] + (hy - n[3]) * 2 / 3,
                        *n[2:],
                    ]
                rows.append((x, y, *n))
                x, y = n[4], n[5]
                continue
            before = ""
            if kind == "A":
                ex, ey = (n[5] + x, n[6] + y) if relative else (n[5], n[6])
                rows += _arc(x, y, n, ex, ey)
                x, y = ex, ey
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


_STEPS = {"M": 2, "L": 2, "H": 1, "V": 1, "C": 6, "S": 4, "Q": 4, "T": 2, "A": 7}


def _flags_apart(found: re.Match[str]) -> str:
    """An arc's numbers with its flags parted from what follows; what nothing reads where they are no arcs."""
    arcs, at = [found[1]], 0
    text = found[2].rstrip(" ,\t\r\n\f")
    while at < len(text):
        arc = _ARC.match(text, at)
        if arc is None:
            return "?"
        arcs += arc.groups()
        at = arc.end()
    return " ".join(arcs) + " "


def _arc(x: float, y: float, n: list[float], ex: float, ey: float) -> list[tuple[float, ...]]:
    """An elliptical arc as cubics of at most a quarter turn; rows as `contours_of` gathers them.

    Source: Scalable Vector Graphics (SVG) 2, implementation notes B.2, conversion from endpoint to centre.
    """
    rx, ry, turn, large, sweep = abs(n[0]), abs(n[1]), math.radians(n[2] % 360), n[3] != 0, n[4] != 0
    if (x, y) == (ex, ey):
        return []
    if not (rx > 0 and ry > 0):
        return [(x, y, ex, ey)]
    cos, sin = math.cos(turn), math.sin(turn)
    px, py = cos * (x - ex) / 2 + sin * (y - ey) / 2, cos * (y - ey) / 2 - sin * (x - ex) / 2
    # Radii that do not reach are grown until they do.
    short = math.hypot(px / rx, py / ry)
    if short > 1:
        rx, ry = rx * short, ry * short
    ux, uy = px / rx, py / ry
    away = max(1 / max(ux * ux + uy * uy, 1e-300) - 1, 0.0) ** 0.5 * (1 if large != sweep else -1)
    mx, my = away * uy, -away * ux
    start, end = math.atan2(uy - my, ux - mx), math.atan2(-uy - my, -ux - mx)
    along = (end - start) % math.tau - (0 if sweep else math.tau)
    pieces = max(1, math.ceil(abs(along) / (math.pi / 2) - 1e-9))
    handle = 4 / 3 * math.tan(along / pieces / 4)
    cx, cy = cos * rx * mx - sin * ry * my + (x + ex) / 2, sin * rx * mx + cos * ry * my + (y + ey) / 2
    rows = []
    ax, ay = x, y
    for i in range(pieces):
        one, two = start + along * i / pieces, start + along * (i + 1) / pieces
        on = []
        for angle, back in ((one, handle), (two, -handle)):
            u, v = math.cos(angle) - back * math.sin(angle), math.sin(angle) + back * math.cos(angle)
            on += [cx + cos * rx * u - sin * ry * v, cy + sin * rx * u + cos * ry * v]
        u, v = rx * math.cos(two), ry * math.sin(two)
        bx, by = (ex, ey) if i == pieces - 1 else (cx + cos * u - sin * v, cy + sin * u + cos * v)
        rows.append((ax, ay, *on, bx, by))
        ax, ay = bx, by
    return rows


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
