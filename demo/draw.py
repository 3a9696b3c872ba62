"""Draws the demo art of the Mossgate Allotments: vector drawings, and the pictures that makers would bring.

Run with `python demo/draw.py`; the results are committed, so that a start needs no drawing.
"""

from __future__ import annotations

import io
import math
from pathlib import Path

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


def main() -> None:
    for name, drawing in (("pear", pear()), ("snail", snail()), ("crest", crest())):
        (HERE / "art" / f"{name}.svg").write_text(drawing, encoding="utf-8")
    rendered(pear(), 1100).save(HERE / "pictures" / "pear.png", optimize=True)
    worn(rendered(snail(), 1000), 7).save(HERE / "pictures" / "snail-scan.jpg", quality=62)
    rendered(crest(), 1100).save(HERE / "pictures" / "crest.png", optimize=True)


if __name__ == "__main__":
    main()
