"""Draws the demo art of the Mossgate Allotments: vector drawings, and the pictures that makers would bring.

Run with `python demo/draw.py`; the results are committed, so that a start needs no drawing.
"""

from __future__ import annotations

import io
import itertools
import math
from pathlib import Path

import cv2
import numpy as np
import resvg_py
from PIL import Image

HERE = Path(__file__).parent
INK, PAPER = "#16181b", "#ffffff"
# Rendered large and averaged down: coverage is then right to a 64th part of a pixel's area.
OVERSAMPLE = 8


def spiral(
    cx: float, cy: float, start: float, turns: float, inner: float, outer: float, width: tuple[float, float]
) -> str:
    """A closed band along a spiral that widens outward, as path data; angles in turns."""
    steps = int(turns * 48)
    t = np.linspace(0, 1, steps + 1)
    angle = 2 * np.pi * (start + turns * t)
    radius = inner + (outer - inner) * t**1.25
    half = (width[0] + (width[1] - width[0]) * t) / 2
    half *= np.clip(np.minimum(t * 14, (1 - t) * 18), 0.02, 1) ** 0.5
    rim = [
        (cx + (radius + side * half) * np.cos(angle), cy + (radius + side * half) * np.sin(angle)) for side in (1, -1)
    ]
    points = list(zip(*rim[0], strict=True)) + list(zip(*rim[1], strict=True))[::-1]
    return smooth(points)


def smooth(points: list[tuple[float, float]]) -> str:
    """A closed Catmull–Rom curve through points, as cubic path data."""
    n = len(points)
    parts = [f"M{points[0][0]:.2f} {points[0][1]:.2f}"]
    for i in range(n):
        p0, p1, p2, p3 = (np.array(points[(i + k - 1) % n]) for k in range(4))
        a, b = p1 + (p2 - p0) / 6, p2 - (p3 - p1) / 6
        parts.append(f"C{a[0]:.2f} {a[1]:.2f} {b[0]:.2f} {b[1]:.2f} {p2[0]:.2f} {p2[1]:.2f}")
    return "".join(parts) + "Z"


def leaf(x: float, y: float, length: float, width: float, turn: float, veins: int = 0) -> str:
    """A leaf from its stalk end; a light midrib and veins are cut out of it."""
    half = width / 2
    body = f"M0 0C{length * 0.22:.1f} {-half * 1.5:.1f} {length * 0.68:.1f} {-half * 1.25:.1f} {length} 0"
    body += f"C{length * 0.72:.1f} {half * 1.15:.1f} {length * 0.24:.1f} {half * 1.35:.1f} 0 0Z"
    rib = f"M{length * 0.08:.1f} 0Q{length * 0.5:.1f} {-half * 0.12:.1f} {length * 0.88:.1f} 0"
    lines = [f'<path d="{rib}" class="cut" stroke-width="{width * 0.07:.1f}"/>'] if veins else []
    for i in range(veins):
        at = length * (0.2 + 0.46 * i / max(veins - 1, 1))
        reach = half * (0.6 - 0.34 * (i / max(veins - 1, 1)) ** 2)
        for side in (-1, 1):
            lines.append(
                f'<path d="M{at:.1f} 0Q{at + reach * 0.35:.1f} {side * reach * 0.5:.1f} {at + reach * 0.95:.1f} {side * reach:.1f}" '
                f'class="cut" stroke-width="{width * 0.052:.1f}"/>'
            )
    return f'<g transform="translate({x} {y}) rotate({turn})"><path d="{body}"/>{"".join(lines)}</g>'


def sheet(width: int, height: int, body: str) -> str:
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}" height="{height}" viewBox="0 0 {width} {height}">'
        f"<style>.cut{{fill:none;stroke:{PAPER};stroke-linecap:round;stroke-linejoin:round}}"
        f".line{{fill:none;stroke:{INK};stroke-linecap:round;stroke-linejoin:round}}.gap{{fill:{PAPER}}}</style>"
        f'<rect width="{width}" height="{height}" fill="{PAPER}"/><g fill="{INK}">{body}</g></svg>\n'
    )


def pear() -> str:
    """A pear cut in two, with its core, two pips, stalk and leaf."""
    body = (
        "M470 262C520 262 552 300 560 356C568 414 590 452 632 506C690 580 724 650 716 728"
        "C704 846 598 912 462 912C326 912 226 842 218 724C212 646 254 584 306 516C350 458 372 414 380 356"
        "C388 300 420 262 470 262Z"
    )
    flesh = (
        "M470 312C496 314 508 338 514 372C524 434 552 480 594 534C640 594 668 654 662 720"
        "C652 812 568 862 462 862C356 862 280 812 272 720C268 654 302 598 346 540C392 480 416 434 426 372"
        "C432 338 446 312 470 312Z"
    )
    core = "M466 560C520 590 556 646 552 702C548 756 510 786 464 786C418 786 382 756 378 702C374 646 412 590 466 560Z"
    pip = "M0 -46C22 -20 26 8 18 26C12 40 -12 40 -18 26C-26 8 -22 -20 0 -46Z"
    stalk = "M452 270C446 226 454 186 486 146C492 138 506 136 516 142C526 149 527 160 520 168C494 200 486 232 490 270Z"
    return sheet(
        920,
        1000,
        f'<path d="{body}"/><path d="{flesh}" class="gap"/><path d="{core}"/>'
        f'<g class="gap"><path d="{pip}" transform="translate(430 700) rotate(14)"/>'
        f'<path d="{pip}" transform="translate(502 700) rotate(-14)"/></g>'
        f'<path d="{stalk}"/>' + leaf(524, 196, 236, 128, -24, veins=4),
    )


def snail() -> str:
    """A snail on the move, its shell a spiral with growth lines."""
    cx, cy = 475, 376
    foot = (
        "M92 716C150 690 196 668 232 628C262 594 300 640 350 660C440 696 560 690 640 640"
        "C694 606 724 560 738 500C748 456 742 420 760 388C780 354 826 344 858 366"
        "C896 392 900 446 886 500C862 592 812 668 742 704C668 742 560 752 440 752L140 752C96 752 70 728 92 716Z"
    )
    shell = "M478 116C630 116 736 226 736 372C736 520 622 636 478 636C330 636 214 528 214 376C214 240 322 116 478 116Z"
    growth = []
    for i in range(15):
        a = math.radians(128 + i * 17.5)
        r0, r1 = 208, 238
        bend = math.radians(5)
        growth.append(
            f'<path class="cut" stroke-width="8" d="M{cx + r0 * math.cos(a):.1f} {cy + r0 * math.sin(a):.1f}'
            f"Q{cx + (r0 + r1) / 2 * math.cos(a + bend):.1f} {cy + (r0 + r1) / 2 * math.sin(a + bend):.1f} "
            f'{cx + r1 * math.cos(a):.1f} {cy + r1 * math.sin(a):.1f}"/>'
        )
    horns = (
        '<path class="line" stroke-width="24" d="M838 384C850 320 868 268 902 226"/><circle cx="908" cy="216" r="26"/>'
        '<path class="line" stroke-width="22" d="M792 376C786 314 786 268 796 226"/><circle cx="798" cy="214" r="24"/>'
    )
    smile = '<path class="cut" stroke-width="11" d="M868 478C852 490 836 491 822 484"/><circle class="gap" cx="836" cy="428" r="13"/>'
    ripple = "".join(
        f'<path class="cut" stroke-width="9" d="M{x} 722C{x + 12} 714 {x + 24} 712 {x + 40} 714"/>'
        for x in range(190, 700, 74)
    )
    return sheet(
        1000,
        860,
        f'<path d="{foot}"/><path d="{shell}" stroke="{PAPER}" stroke-width="22"/>'
        f'<path class="gap" d="{spiral(cx, cy, 0.30, 2.55, 26, 182, (15, 24))}"/>'
        + "".join(growth)
        + horns
        + smile
        + ripple,
    )


def crest() -> str:
    """The society's crest: a shield with a rising sun, a spade and fork crossed, and a beet, under a row of hills."""
    shield = "M500 92C620 132 744 146 868 140L868 520C868 720 716 858 500 946C284 858 132 720 132 520L132 140C256 146 380 132 500 92Z"
    inner = "M500 142C616 178 724 192 820 190L820 520C820 692 688 816 500 894C312 816 180 692 180 520L180 190C276 192 384 178 500 142Z"
    rays = []
    for i in range(9):
        a = math.radians(180 + 22.5 * i)
        n = math.radians(90 + 180 + 22.5 * i)
        r0, r1, w = 122, 196 if i % 2 == 0 else 168, 11
        p = [(r0, w), (r1, 2.5), (r1, -2.5), (r0, -w)]
        pts = [(500 + r * math.cos(a) + s * math.cos(n), 404 + r * math.sin(a) + s * math.sin(n)) for r, s in p]
        rays.append('<path d="M' + "L".join(f"{x:.1f} {y:.1f}" for x, y in pts) + 'Z"/>')
    sun = '<path d="M400 404A100 100 0 0 1 600 404Z"/>'
    hill = "M214 438C300 412 372 428 440 442C520 458 610 426 786 436L786 464C690 458 610 468 520 480C420 492 330 462 214 474Z"
    beet = (
        "M500 610C560 596 616 630 616 686C616 742 566 776 520 792C508 808 504 836 500 862C496 836 492 808 480 792"
        "C434 776 384 742 384 686C384 630 440 596 500 610Z"
    )
    rings = (
        '<path class="cut" stroke-width="11" d="M424 690C426 660 446 642 472 638"/>'
        '<path class="cut" stroke-width="9" d="M452 704C454 688 464 678 478 674"/>'
    )
    leaves = leaf(500, 594, 104, 56, -90) + leaf(476, 598, 112, 54, -136) + leaf(524, 598, 112, 54, -44)
    spade = (
        '<g transform="translate(320 644) rotate(-15) scale(0.92)"><path d="M-10 -128L10 -128L10 20L-10 20Z"/>'
        '<path d="M-44 -142C-44 -152 -36 -156 -28 -156L28 -156C36 -156 44 -152 44 -142L44 -128L-44 -128Z"/>'
        '<path d="M-38 30L38 30L38 84C38 118 18 138 0 152C-18 138 -38 118 -38 84Z"/></g>'
    )
    fork = (
        '<g transform="translate(680 644) rotate(15) scale(0.92)"><path d="M-10 -128L10 -128L10 28L-10 28Z"/>'
        '<path d="M-44 -142C-44 -152 -36 -156 -28 -156L28 -156C36 -156 44 -152 44 -142L44 -128L-44 -128Z"/>'
        '<path d="M-46 28L46 28L46 128C46 142 30 142 30 128L30 58L9 58L9 140C9 154 -9 154 -9 140L-9 58L-30 58L-30 128C-30 142 -46 142 -46 128Z"/></g>'
    )
    root = f'<g transform="translate(500 716) scale(0.84) translate(-500 -700)"><path d="{beet}"/>{rings}{leaves}</g>'
    return sheet(
        1000,
        1040,
        f'<path d="{shield}"/><path d="{inner}" class="gap"/>{sun}{"".join(rays)}<path d="{hill}"/>{root}{spade}{fork}',
    )


NAVY, CREAM, MOSS, CLAY = "#2e3a4d", "#efe3c8", "#6f8f3f", "#b9503a"


def badge() -> str:
    """The society's crest in four flat colours: hills under a rising sun, a watering can and three drops."""
    shield = "M500 70C620 116 752 132 884 124L884 520C884 736 724 880 500 972C276 880 116 736 116 520L116 124C248 132 380 116 500 70Z"
    field = "M500 126C614 166 726 182 834 178L834 520C834 700 694 826 500 912C306 826 166 700 166 520L166 178C274 182 386 166 500 126Z"
    far = "M120 480C262 408 350 404 446 446C544 488 664 486 880 390L880 660L120 660Z"
    near = "M120 600C300 536 420 566 520 596C624 628 724 610 880 556L880 980L120 980Z"
    rays = "".join(
        f'<path fill="{CLAY}" d="M-13 -196L13 -196L7 -262L-7 -262Z" transform="translate(500 430) rotate({a})"/>'
        for a in range(-72, 73, 24)
    )
    can = (
        "M398 668L584 668C592 668 598 674 597 682L584 806C583 816 576 822 566 822L416 822C406 822 399 816 398 806L385 682"
        "C384 674 390 668 398 668Z"
    )
    spout = "M588 748L676 664L652 640L720 606L738 660L704 690L594 800Z"
    handle = "M398 786C324 786 300 742 306 700C312 662 346 640 398 650L396 684C362 678 344 688 342 710C340 736 358 752 398 752Z"
    bow = "M430 668C430 618 462 596 500 596C540 596 566 620 566 668L534 668C534 640 522 628 500 628C476 628 462 640 462 668Z"
    drop = "M0 -30C16 -6 22 6 22 18C22 32 12 42 0 42C-12 42 -22 32 -22 18C-22 6 -16 -6 0 -30Z"
    drops = "".join(
        f'<path d="{drop}" fill="{CREAM}" transform="translate({x} {y}) scale({k})"/>'
        for x, y, k in ((744, 706, 0.72), (708, 752, 0.6), (754, 768, 0.5))
    )
    body = (
        f'<path fill="{NAVY}" d="{shield}"/><path fill="{CREAM}" d="{field}"/>{rays}'
        f'<clipPath id="field"><path d="{field}"/></clipPath><g clip-path="url(#field)">'
        f'<circle cx="500" cy="430" r="150" fill="{CLAY}"/><path fill="{MOSS}" d="{far}"/>'
        f'<path fill="{NAVY}" d="{near}"/></g>'
        f'<g fill="{CREAM}"><path d="{can}"/><path d="{spout}"/><path d="{handle}"/><path d="{bow}"/></g>{drops}'
    )
    return sheet(1000, 1040, body)


def barrow() -> str:
    """A wheelbarrow in felt pen, as a child draws it: one line after another, a little shaky."""
    rng = np.random.default_rng(21)

    def shaky(points: list[tuple[float, float]], closed: bool = False) -> str:
        p = np.array(points, float)
        if closed:
            p = np.vstack([p, p[:1]])
        run = []
        for a, b in itertools.pairwise(p):
            steps = max(2, int(np.linalg.norm(b - a) / 70))
            run += [a + (b - a) * k / steps + (rng.normal(0, 2.2, 2) if k else 0) for k in range(steps)]
        run.append(p[-1])
        q = np.array(run)
        tangent = np.gradient(q, axis=0) / 3
        parts = [f"M{q[0][0]:.1f} {q[0][1]:.1f}"]
        for i in range(len(q) - 1):
            a, b = q[i] + tangent[i], q[i + 1] - tangent[i + 1]
            parts.append(f"C{a[0]:.1f} {a[1]:.1f} {b[0]:.1f} {b[1]:.1f} {q[i + 1][0]:.1f} {q[i + 1][1]:.1f}")
        return "".join(parts)

    def ring(cx: float, cy: float, r: float) -> str:
        wobble = min(2.0, 0.03 * r)
        angle = np.linspace(0.4, 0.4 + 2 * np.pi, 15)[:-1]
        return smooth(
            [
                (cx + (r + wobble * rng.normal()) * math.cos(a), cy + (r + wobble * rng.normal()) * math.sin(a))
                for a in angle
            ]
        )

    lines = [
        shaky([(250, 330), (800, 330)]),
        shaky([(250, 330), (356, 590)]),
        shaky([(356, 590), (690, 590)]),
        shaky([(690, 590), (800, 330)]),
        shaky([(60, 250), (250, 330)]),
        shaky([(640, 592), (868, 700)]),
        shaky([(420, 592), (384, 756)]),
        shaky([(352, 760), (424, 758)]),
        ring(880, 706, 92),
        ring(880, 706, 20),
        shaky(
            [(300, 326), (330, 240), (400, 206), (450, 240), (500, 180), (580, 190), (640, 246), (700, 230), (752, 326)]
        ),
        shaky([(500, 180), (486, 110)]),
        ring(470, 84, 26),
        shaky([(400, 206), (372, 150)]),
        shaky([(600, 196), (632, 128)]),
        ring(648, 104, 28),
    ]
    strokes = "".join(f'<path class="line" stroke-width="17" d="{d}"/>' for d in lines)
    return sheet(1040, 860, strokes)


def heron() -> str:
    """A heron standing in reeds, drawn with a soft pencil and filled in."""
    body = (
        "M452 300C480 276 500 236 494 196C490 168 470 150 446 152L330 176L440 128C478 112 520 132 528 176"
        "C538 230 520 282 498 322C560 330 640 372 690 436C730 488 752 548 756 606C716 560 684 540 650 532"
        "C620 584 560 606 498 590C440 574 404 520 404 456C404 398 424 336 452 300Z"
    )
    crest = "M500 150C540 130 590 128 640 146C596 148 560 158 524 178Z"
    wing = "M470 400C520 380 580 404 620 452C588 470 520 478 480 452C460 438 456 414 470 400Z"
    legs = '<path class="line" stroke-width="13" d="M520 586L512 724L530 880"/><path class="line" stroke-width="13" d="M572 584L588 708L566 878"/>'
    feet = '<path class="line" stroke-width="11" d="M480 892L530 880L584 894"/><path class="line" stroke-width="11" d="M528 884L566 878L622 886"/>'
    reeds = "".join(
        f'<path d="M{x} 900C{x + bend * 0.2:.0f} {900 - h * 0.5:.0f} {x + bend * 0.6:.0f} {900 - h * 0.8:.0f} {x + bend} {900 - h}'
        f'C{x + bend * 0.7 + 8:.0f} {900 - h * 0.75:.0f} {x + bend * 0.3 + 14:.0f} {900 - h * 0.45:.0f} {x + 18} 900Z"/>'
        for x, bend, h in (
            (250, -40, 380),
            (292, 30, 470),
            (336, 70, 300),
            (720, -30, 330),
            (764, 46, 430),
            (806, 84, 280),
        )
    )
    eye = '<circle cx="474" cy="166" r="8" class="gap"/>'
    return sheet(
        1000, 960, f'<path d="{body}"/><path d="{crest}"/><path class="gap" d="{wing}"/>{legs}{feet}{reeds}{eye}'
    )


def photographed(image: Image.Image, seed: int) -> Image.Image:
    """As a phone sees a sheet on a table: at an angle, under a lamp, a little blurred."""
    rng = np.random.default_rng(seed)
    width, height = 1280, 1000
    grey = np.asarray(image.convert("L"), np.float64)
    # A pencil does not cover evenly.
    grain = rng.normal(0, 1, grey.shape)
    grey = np.where(grey < 128, grey + 44 + 10 * grain, grey)
    corners = np.array([[150, 90], [1120, 40], [1215, 930], [60, 965]], np.float32)
    sides = np.array([[0, 0], [grey.shape[1], 0], [grey.shape[1], grey.shape[0]], [0, grey.shape[0]]], np.float32)
    turn = cv2.getPerspectiveTransform(sides, corners)
    sheet_of = cv2.warpPerspective(grey, turn, (width, height), flags=cv2.INTER_AREA, borderValue=0)
    covered = cv2.warpPerspective(np.ones_like(grey), turn, (width, height))
    table = 118 + 10 * np.sin(np.arange(height)[:, None] / 9) + 5 * rng.normal(0, 1, (height, width))
    seen = cv2.GaussianBlur(sheet_of * covered + table * (1 - covered), (0, 0), 1.0)
    y, x = np.mgrid[0:height, 0:width]
    lamp = 1.06 - 0.5 * np.hypot(x / width - 0.7, (y / height - 0.25) * 0.8)
    return Image.fromarray(np.clip(seen * lamp * 0.95 + rng.normal(0, 3.5, seen.shape), 0, 255).astype(np.uint8))


def rendered(svg: str, width: int) -> Image.Image:
    """The drawing at a width in px, antialiased by averaging."""
    large = resvg_py.svg_to_bytes(svg_string=svg, width=width * OVERSAMPLE, shape_rendering="crisp_edges")
    return Image.open(io.BytesIO(bytes(large))).convert("RGB").reduce(OVERSAMPLE)


def worn(image: Image.Image, seed: int) -> Image.Image:
    """As it comes out of a cheap scanner: uneven paper, noise."""
    rng = np.random.default_rng(seed)
    values = np.asarray(image, np.float64)
    height, width = values.shape[:2]
    y, x = np.mgrid[0:height, 0:width]
    light = 1 - 0.05 * (x / width) - 0.04 * ((y / height - 0.4) ** 2)
    grey = 22 + values * (232 - 22) / 255
    grey = grey * light[..., None] + rng.normal(0, 7, (height, width, 1))
    return Image.fromarray(np.clip(grey, 0, 255).astype(np.uint8))


DRAWINGS = {"pear": pear, "snail": snail, "crest": crest, "badge": badge, "barrow": barrow, "heron": heron}


def main() -> None:
    for name, draw in DRAWINGS.items():
        (HERE / "art" / f"{name}.svg").write_text(draw(), encoding="utf-8")
    rendered(pear(), 1100).save(HERE / "pictures" / "pear.png", optimize=True)
    worn(rendered(snail(), 1000), 7).save(HERE / "pictures" / "snail-scan.jpg", quality=62)
    rendered(crest(), 1100).save(HERE / "pictures" / "crest.png", optimize=True)
    rendered(badge(), 1000).save(HERE / "pictures" / "badge.jpg", quality=88)
    rendered(barrow(), 1040).save(HERE / "pictures" / "barrow.png", optimize=True)
    photographed(rendered(heron(), 1000), 3).save(HERE / "pictures" / "heron-photo.jpg", quality=80)


if __name__ == "__main__":
    main()
