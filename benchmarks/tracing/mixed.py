"""Line drawings of pens that are thick beside thin, drawn to be 1000 px wide: widths below are px there."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from benchmarks.tracing.linework import Linework, curve, path
from benchmarks.tracing.truth import arc_ring
from drelo.core.outline.contour import Contour, polygon
from drelo.core.outline.primitives import rectangle

Lines = list[tuple[Contour, float]]
Point = tuple[float, float]


def arc(centre: Point, radius: float, start: float, end: float) -> Contour:
    """Part of a circle, angles in degrees, as cubics of at most 45 degrees each."""
    count = max(1, int(np.ceil(abs(end - start) / 45)))
    angles = np.radians(np.linspace(start, end, count + 1))
    points = np.array(centre) + radius * np.stack([np.cos(angles), np.sin(angles)], axis=1)
    ways = radius * np.stack([-np.sin(angles), np.cos(angles)], axis=1) * (4 / 3 * np.tan(np.diff(angles)[0] / 4))
    cubics = np.stack([points[:-1], points[:-1] + ways[:-1], points[1:] - ways[1:], points[1:]], axis=1)
    return Contour(cubics, np.zeros(count, bool), False)


def _letters(at: Point, size: float, text: str) -> list[Contour]:
    """Plain letters of lines, for what stands beside a dimension."""
    strokes = {
        "1": [[(0.2, 0.2), (0.5, 0), (0.5, 1)]],
        "2": [[(0, 0.2), (0.3, 0), (0.6, 0.25), (0, 1), (0.65, 1)]],
        "4": [[(0.5, 1), (0.5, 0), (0, 0.65), (0.7, 0.65)]],
        "7": [[(0, 0), (0.65, 0), (0.25, 1)]],
        "K": [[(0, 0), (0, 1)], [(0.6, 0), (0, 0.55)], [(0.2, 0.4), (0.65, 1)]],
        "A": [[(0, 1), (0.35, 0), (0.7, 1)], [(0.13, 0.65), (0.57, 0.65)]],
        "T": [[(0, 0), (0.7, 0)], [(0.35, 0), (0.35, 1)]],
        "H": [[(0, 0), (0, 1)], [(0.6, 0), (0.6, 1)], [(0, 0.5), (0.6, 0.5)]],
        "L": [[(0, 0), (0, 1), (0.55, 1)]],
    }
    found = []
    for k, letter in enumerate(text):
        for stroke in strokes[letter]:
            found.append(path(*((at[0] + size * (0.95 * k + x), at[1] + size * y) for x, y in stroke)))
    return found


def _dimension(one: Point, other: Point, width: float) -> Lines:
    """A line with a slanted tick at both ends, level or upright."""
    lines = [(path(one, other), width)]
    for x, y in (one, other):
        lines.append((path((x - 9, y + 9), (x + 9, y - 9)), width))
    return lines


def plan() -> Linework:
    """A flat: walls of two thicknesses, doors with their swing, windows, dimensions, names of rooms."""
    wall, inner, door, fine = 10.0, 6.0, 3.0, 2.0
    lines: Lines = [
        (path((260, 80), (60, 80), (60, 640), (420, 640)), wall),
        (path((500, 640), (920, 640), (920, 330)), wall),
        (path((920, 250), (920, 80), (380, 80)), wall),
        (path((400, 80), (400, 250)), inner),
        (path((400, 330), (400, 430)), inner),
        (path((60, 430), (620, 430)), inner),
        (path((700, 430), (920, 430)), inner),
        (path((400, 330), (320, 330)), door),
        (arc((400, 330), 80, 180, 270), door),
        (path((620, 430), (620, 510)), door),
        (arc((620, 430), 80, 0, 90), door),
        (path((420, 640), (420, 560)), door),
        (arc((420, 640), 80, 270, 360), door),
    ]
    lines += [(path((260, 80 + d), (380, 80 + d)), fine) for d in (-4, 4)]
    lines += [(path((920 + d, 250), (920 + d, 330)), fine) for d in (-4, 4)]
    lines += _dimension((60, 700), (920, 700), fine) + _dimension((960, 80), (960, 640), fine)
    for at, text in (((180, 240), "HALL"), ((640, 230), "KAT"), ((470, 716), "427")):
        lines += [(stroke, 2.5) for stroke in _letters(at, 34, text)]
    return Linework("plan", tuple(lines), "flat", "mitre")


def circuit() -> Linework:
    """Wires, a thick supply rail, zigzags, a cell of thin and thick plates, a coil."""
    wire, rail = 3.0, 8.0
    zigzag = [(300.0, 200.0)]
    zigzag += [(315.0 + 20 * k, 182.0 if k % 2 else 218.0) for k in range(6)]
    zigzag += [(430.0, 200.0)]
    lines: Lines = [
        (path((60, 60), (940, 60)), rail),
        (path((60, 520), (940, 520)), rail),
        (path((150, 60), (150, 200), (300, 200)), wire),
        (path(*zigzag), wire),
        (path((430, 200), (560, 200), (560, 280)), wire),
        (path((520, 280), (600, 280)), 2.0),
        (path((540, 300), (580, 300)), 7.0),
        (path((520, 320), (600, 320)), 2.0),
        (path((540, 340), (580, 340)), 7.0),
        (path((560, 340), (560, 520)), wire),
        (path((760, 60), (760, 160)), wire),
        *((arc((760, 180 + 40 * k), 20, -90, 90), wire) for k in range(4)),
        (path((760, 320), (760, 520)), wire),
        (path((150, 200), (150, 400)), wire),
        (arc_ring(150, 430, 30, 30), 4.0),
        (path((150, 460), (150, 520)), wire),
        (path((560, 200), (760, 200)), 2.0),
    ]
    return Linework("circuit", tuple(lines), "flat", "mitre")


def town_map() -> Linework:
    """Roads of four widths that meet and cross, a river, a railway with its sleepers."""
    rail = [(40.0, 560.0), (260.0, 500.0), (520.0, 520.0), (760.0, 600.0), (960.0, 590.0)]
    lines: Lines = [
        (curve((40, 120), (280, 160), (500, 110), (740, 150), (960, 90)), 12.0),
        (curve((160, 40), (200, 240), (180, 420), (240, 640)), 8.0),
        (path((500, 112), (540, 640)), 5.0),
        (path((190, 330), (520, 370), (820, 330)), 5.0),
        (path((520, 370), (700, 640)), 3.0),
        (path((360, 140), (340, 345)), 3.0),
        (path((740, 150), (820, 330), (900, 640)), 3.0),
        (curve((40, 260), (340, 240), (620, 260), (960, 220)), 4.0),
        (curve(*rail), 2.0),
    ]
    lines += [(path((x - 3, y - 9), (x + 3, y + 9)), 2.0) for x, y in ((100, 543), (180, 520), (400, 507), (640, 558))]
    return Linework("town map", tuple(lines), "round", "round")


def music() -> Linework:
    """Two staves with stems, beams, heads, bars and a slur."""
    lines: Lines = []
    for top in (100.0, 360.0):
        lines += [(path((40, top + 22 * k), (960, top + 22 * k)), 1.6) for k in range(5)]
        lines += [(path((x, top), (x, top + 88)), 2.4) for x in (40, 500)]
        lines += [(path((960, top), (960, top + 88)), 7.0), (path((946, top), (946, top + 88)), 2.0)]
        for group in (140.0, 620.0):
            heads = [(group + 70 * k, top + 66 - 11 * (k % 3)) for k in range(4)]
            lines += [(path((x - 5, y + 2), (x + 5, y - 2)), 13.0) for x, y in heads]
            lines += [(path((x + 11, y), (x + 11, top - 40)), 2.4) for x, y in heads]
            lines += [(path((heads[0][0] + 10, top - 38), (heads[3][0] + 12, top - 38)), 8.0)]
        lines.append((curve((140, top + 120), (240, top + 138), (340, top + 120)), 3.0))
    return Linework("music", tuple(lines), "round", "round")


def childs_drawing() -> Linework:
    """A house, a sun, a tree and a cat in crayon, felt pen and biro."""
    lines: Lines = [
        (path((120, 620), (120, 320), (420, 320), (420, 620), (120, 620)), 9.0),
        (path((90, 330), (270, 160), (450, 330)), 9.0),
        (path((230, 620), (230, 480), (310, 480), (310, 620)), 5.0),
        (path((160, 370), (220, 370), (220, 430), (160, 430), (160, 370)), 5.0),
        (path((190, 370), (190, 430)), 2.5),
        (path((160, 400), (220, 400)), 2.5),
        (arc_ring(820, 150, 62, 60), 7.0),
        *(
            (path(*((820 + r * np.cos(a), 150 + r * np.sin(a)) for r in (84, 130))), 4.0)
            for a in np.linspace(0.2, 2 * np.pi, 11, endpoint=False)
        ),
        (curve((640, 620), (655, 520), (640, 430)), 11.0),
        (curve((560, 430), (520, 350), (600, 280), (680, 270), (740, 340), (720, 430), (640, 446), (560, 430)), 6.0),
        (curve((640, 500), (690, 470), (720, 476)), 3.0),
        (curve((840, 600), (820, 540), (880, 500), (930, 540), (910, 600), (840, 600)), 3.0),
        (path((850, 512), (848, 480), (872, 500)), 3.0),
        (path((900, 503), (920, 478), (922, 520)), 3.0),
        (path((858, 560), (800, 552)), 1.8),
        (path((858, 566), (802, 574)), 1.8),
        (curve((40, 624), (320, 632), (640, 622), (960, 630)), 8.0),
    ]
    return Linework("child's drawing", tuple(lines), "round", "round")


def hatched() -> Linework:
    """A part in section: thick edges, thin hatching that ends on them, a bore, and dimensions."""
    edge, fine = 7.0, 1.8
    lines: Lines = [
        (polygon(np.array([[160, 160], [760, 160], [760, 480], [160, 480.0]])), edge),
        (arc_ring(460, 320, 90, 90), edge),
        (path((330, 320), (590, 320)), fine),
        (path((460, 190), (460, 450)), fine),
    ]
    for k in range(16):
        at = 190.0 + 36 * k
        top, bottom = (min(at, 760.0), 160 + max(0.0, at - 760)), (at - 320, 480.0)
        if bottom[0] < 160:
            bottom = (160.0, 160 + at - 160)
        # Hatching ends at the bore.
        a, b = np.array(top), np.array(bottom)
        way = (b - a) / np.linalg.norm(b - a)
        near = float((np.array([460, 320]) - a) @ way)
        aside = float(np.linalg.norm(a + near * way - np.array([460, 320])))
        if aside < 90:
            half = float(np.sqrt(90**2 - aside**2))
            lines += [
                (path(top, tuple(a + (near - half) * way)), fine),
                (path(tuple(a + (near + half) * way), bottom), fine),
            ]
        elif np.linalg.norm(b - a) > 20:
            lines.append((path(top, bottom), fine))
    lines += _dimension((160, 540), (760, 540), 2.0) + _dimension((820, 160), (820, 480), 2.0)
    lines += [(path((160, 484), (160, 556)), fine), (path((760, 484), (760, 556)), fine)]
    lines += [(s, 3.0) for s in _letters((430, 552), 40, "742")]
    return Linework("hatched part", tuple(lines), "flat", "mitre")


def pens() -> Linework:
    """Every pen from 1 to 12 px: alone, crossing thicker and thinner ones, in corners, and ending on another."""
    lines: Lines = []
    widths = (1.0, 1.5, 2.0, 3.0, 4.0, 6.0, 8.0, 10.0, 12.0)
    for k, width in enumerate(widths):
        y = 70.0 + 62 * k
        lines.append((curve((50, y), (250, y + 16), (450, y - 10), (600, y + 4)), width))
        lines.append((path((640, y + 20), (690, y - 20), (740, y + 20), (790, y - 20)), width))
    lines.append((path((150, 40), (190, 600)), 5.0))
    lines.append((path((330, 40), (300, 600)), 2.0))
    lines.append((path((880, 40), (880, 600)), 9.0))
    lines += [(path((880, 90 + 70 * k), (960, 90 + 70 * k)), w) for k, w in enumerate(widths[:8])]
    return Linework("pens", tuple(lines), "round", "round")


def crossed_frames() -> Linework:
    """Frames in frames, their corners sharp, joined by thin ties that go through the thick ones."""
    lines: Lines = []
    for k, width in enumerate((12.0, 3.0, 7.0, 2.0)):
        w, h = 860.0 - 180 * k, 560.0 - 130 * k
        lines.append((rectangle(w, h).transformed(1.0, 500, 320), width))
    lines += [(path((40, 320), (960, 320)), 2.0), (path((500, 20), (500, 620)), 4.0)]
    return Linework("frames in frames", tuple(lines), "flat", "mitre")


def all_mixed() -> Sequence[Linework]:
    return (plan(), circuit(), town_map(), music(), childs_drawing(), hatched(), pens(), crossed_frames())
