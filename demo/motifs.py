"""Draws the cabinet's silhouettes and line drawings, and renders them to the pictures that ship with the program.

Run with `python demo/motifs.py`; the results are committed. Every drawing lies in a square of 200 units; `k` is ink,
`w` is paper, and their stroked kin are `kl` and `wl`.
"""

from __future__ import annotations

import io
import json
import math
import re
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np
import resvg_py
from PIL import Image

OUT = Path(__file__).resolve().parents[1] / "src" / "drelo" / "store" / "motifs"
SIDE, OVERSAMPLE = 900, 4
STYLE = (
    ".k{fill:#16181b}.w{fill:#fff}"
    ".kl{fill:none;stroke:#16181b;stroke-width:6;stroke-linecap:round;stroke-linejoin:round}"
    ".wl{fill:none;stroke:#fff;stroke-width:4;stroke-linecap:round;stroke-linejoin:round}"
)


@dataclass(frozen=True)
class Motif:
    """A drawing, its name, and the words under which it is found."""

    id: str
    name: str
    words: str
    art: str
    kind: str = "silhouette"


def p(d: str, look: str = "k", extra: str = "") -> str:
    # Attributes give way to the style of a class, so they are written as style.
    style = re.sub(r'([a-z-]+)="([^"]*)"\s*', r"\1:\2;", extra)
    return f'<path d="{d}" class="{look}" style="{style}"/>'


def circle(x: float, y: float, r: float, look: str = "k") -> str:
    return f'<circle cx="{x}" cy="{y}" r="{r}" class="{look}"/>'


def ellipse(x: float, y: float, a: float, b: float, look: str = "k", turn: float = 0) -> str:
    return f'<ellipse cx="{x}" cy="{y}" rx="{a}" ry="{b}" class="{look}" transform="rotate({turn} {x} {y})"/>'


def mirrored(art: str) -> str:
    """Drawn twice, left and right of the middle."""
    return art + f'<g transform="translate(200 0) scale(-1 1)">{art}</g>'


def around(art: str, count: int, x: float = 100, y: float = 100, start: float = 0) -> str:
    """Drawn `count` times about a point."""
    return "".join(f'<g transform="rotate({start + 360 * i / count} {x} {y})">{art}</g>' for i in range(count))


def star(points: int, outer: float, inner: float, x: float = 100, y: float = 100) -> str:
    corners = []
    for i in range(2 * points):
        r, a = (outer, inner)[i % 2], math.pi * i / points - math.pi / 2
        corners.append(f"{x + r * math.cos(a):.2f} {y + r * math.sin(a):.2f}")
    return "M" + "L".join(corners) + "Z"


LEAF = "M0 0C10 -16 34 -18 52 0C34 18 10 16 0 0Z"


def leaf(x: float, y: float, turn: float, size: float = 1.0, vein: bool = True) -> str:
    rib = p("M8 0L42 0", "wl", 'stroke-width="3"') if vein else ""
    return f'<g transform="translate({x} {y}) rotate({turn}) scale({size})">{p(LEAF)}{rib}</g>'


MOTIFS = (
    Motif("apple", "Apple", "fruit orchard autumn food",
        p("M100 66C84 50 48 48 34 78C20 112 42 168 76 176C88 178 92 172 100 172C108 172 112 178 124 176C158 168 180 112 166 78C152 48 116 50 100 66Z")
        + p("M100 70C98 52 100 40 112 24", "kl", 'stroke-width="8"') + leaf(106, 42, -18, 1.05)
        + p("M52 84C46 96 46 112 52 128", "wl", 'stroke-width="7"')),
    Motif("cherries", "Two cherries", "fruit summer food pair",
        circle(62, 142, 36) + circle(138, 150, 34) + p("M64 108C72 74 92 46 128 26", "kl") + p("M138 118C140 84 136 54 128 26", "kl")
        + leaf(126, 28, 22, 1.1) + p("M44 128C40 138 40 148 46 158", "wl", 'stroke-width="6"') + p("M122 138C118 146 118 156 122 164", "wl", 'stroke-width="6"')),
    Motif("strawberry", "Strawberry", "fruit summer food garden",
        p("M100 184C64 164 36 122 40 86C44 62 70 52 100 62C130 52 156 62 160 86C164 122 136 164 100 184Z")
        + p("M100 62C92 46 72 38 54 48C64 56 74 62 82 66C70 70 62 78 62 86C78 86 92 78 100 66C108 78 122 86 138 86C138 78 130 70 118 66C126 62 136 56 146 48C128 38 108 46 100 62Z", "k", 'stroke="#fff" stroke-width="5"')
        + p("M100 60C100 44 104 34 110 26", "kl")
        + "".join(ellipse(x, y, 3, 5.5, "w") for x, y in ((66, 108), (100, 104), (134, 108), (82, 130), (118, 130), (100, 154)))),
    Motif("carrot", "Carrot", "vegetable garden food root",
        p("M74 74C88 62 112 62 126 74C134 90 118 150 102 188C100 191 98 191 96 188C80 150 66 90 74 74Z")
        + p("M92 66C84 48 70 40 56 40M100 64C98 42 98 28 92 14M108 66C116 48 130 38 146 38M104 62C108 44 112 30 122 18", "kl", 'stroke-width="9"')
        + p("M76 98L96 104M120 112L104 118M86 134L98 138M108 150L100 154", "wl")),
    Motif("mushroom", "Mushroom", "autumn wood forest toadstool",
        p("M22 106C22 60 56 28 100 28C144 28 178 60 178 106C178 116 160 120 100 120C40 120 22 116 22 106Z")
        + p("M76 124C80 146 74 166 66 176C76 184 124 184 134 176C126 166 120 146 124 124C110 127 90 127 76 124Z")
        + circle(70, 72, 12, "w") + circle(112, 56, 9, "w") + circle(136, 86, 13, "w") + circle(96, 96, 8, "w")),
    Motif("acorn", "Acorn", "oak autumn tree seed nut",
        p("M48 92C52 140 76 164 98 184C100 186 100 186 102 184C124 164 148 140 152 92Z")
        + p("M40 84C40 56 66 42 100 42C134 42 160 56 160 84C160 92 140 94 100 94C60 94 40 92 40 84Z", "k", 'stroke="#fff" stroke-width="5"')
        + p("M100 42C100 32 106 24 116 18", "kl", 'stroke-width="9"')
        + p("M62 66L76 82M84 56L104 84M112 54L128 82M138 62L146 78M76 58L60 82M100 54L84 84M124 56L110 84M142 68L134 82", "wl", 'stroke-width="2.6"')),
    Motif("oak-leaf", "Oak leaf", "tree autumn wood plant",
        mirrored(p("M100 12C88 16 86 30 74 32C62 36 72 54 60 60C42 62 46 82 56 88C36 92 34 112 50 118C36 128 46 146 66 142C78 140 90 150 101 160Z"))
        + p("M100 40L100 190", "wl", 'stroke-width="5"') + p("M100 150L100 188", "kl", 'stroke-width="7"')
        + p("M100 76L76 56M100 76L124 56M100 104L68 88M100 104L132 88M100 132L70 120M100 132L130 120", "wl", 'stroke-width="3.4"')),
    Motif("tulip", "Tulip", "flower spring garden plant",
        p("M100 104C70 104 56 84 60 34C72 42 80 50 84 60C88 44 94 30 100 20C106 30 112 44 116 60C120 50 128 42 140 34C144 84 130 104 100 104Z")
        + p("M100 100L100 188", "kl", 'stroke-width="8"') + p("M98 184C66 176 48 152 42 112C74 122 94 146 100 184Z") + p("M102 184C132 172 150 144 154 104C124 118 106 144 102 184Z")
        + p("M84 62C82 76 86 90 96 98M116 62C118 76 114 90 104 98", "wl", 'stroke-width="3.4"')),
    Motif("daisy", "Daisy", "flower summer garden meadow",
        around(p("M100 78C88 66 86 34 100 18C114 34 112 66 100 78Z"), 10) + circle(100, 100, 21, "k") + p("M100 100m-21 0a21 21 0 1 0 42 0a21 21 0 1 0 -42 0", "wl", 'stroke-width="5"')),
    Motif("sunflower", "Sunflower", "flower summer garden sun seed",
        around(p("M100 62C86 50 88 24 100 8C112 24 114 50 100 62Z"), 14) + around(p("M100 60C90 48 92 32 100 22C108 32 110 48 100 60Z"), 14, start=12.86)
        + circle(100, 100, 42, "k") + p("M100 100m-42 0a42 42 0 1 0 84 0a42 42 0 1 0 -84 0", "wl", 'stroke-width="4"')
        + around("".join(circle(100, 100 - r, 2.6, "w") for r in (12, 22, 32)), 12)),
    Motif("fir-tree", "Fir tree", "tree winter wood forest",
        p("M100 12L134 62L120 62L148 104L130 104L164 152L112 152L112 186L88 186L88 152L36 152L70 104L52 104L80 62L66 62Z")),
    Motif("tree", "Round tree", "tree summer garden wood",
        p("M92 128C70 140 36 128 34 100C18 88 22 58 44 54C48 28 82 16 102 28C124 14 156 28 158 54C182 60 184 92 166 102C164 128 130 140 108 128C108 150 112 168 122 184L78 184C88 168 92 150 92 128Z")
        + p("M100 124L100 84M100 104L78 84M100 96L124 76", "wl", 'stroke-width="5"')),
    Motif("snail-shell", "Snail", "garden animal slow shell",
        p("M20 160C40 166 132 168 156 160C172 154 178 138 178 112C180 104 190 104 190 112C190 146 182 170 150 174L24 174C16 174 14 164 20 160Z")
        + p("M178 112L172 86M186 110L192 84", "kl", 'stroke-width="5"') + circle(171, 84, 5) + circle(193, 82, 5) + circle(94, 104, 58)
        + p("M134 132C148 96 122 64 92 66C62 68 50 100 64 122C76 140 106 138 110 116C112 98 90 92 86 106", "wl", 'stroke-width="7"')),
    Motif("hen", "Hen", "bird farm animal egg",
        p("M40 70C34 56 46 40 62 44C62 34 74 32 78 40C86 34 94 42 90 52C94 66 100 78 116 82C136 84 146 70 148 48C160 48 168 56 168 68C176 66 182 72 180 82C182 120 156 150 116 154L116 156L112 156L108 154C70 152 52 124 52 92C50 88 44 86 40 84L24 78Z")
        + p("M98 152L96 178M96 178L84 182M96 178L106 182M122 152L124 178M124 178L112 182M124 178L134 182", "kl", 'stroke-width="6"')
        + circle(64, 62, 5, "w") + p("M92 104C104 126 132 128 150 108", "wl", 'stroke-width="6"')),
    Motif("duck", "Duck", "bird pond animal water toy",
        p("M24 74C34 66 42 66 46 62C48 40 66 28 86 34C106 42 110 64 100 82C96 92 104 98 116 98C144 100 162 92 180 76C186 128 162 164 112 166C70 168 40 146 44 112C46 98 54 92 52 84C42 86 30 84 24 74Z")
        + circle(74, 56, 5.5, "w") + p("M84 122C100 142 134 142 152 118", "wl", 'stroke-width="6"')),
    Motif("rabbit", "Rabbit", "animal spring garden ears",
        p("M76 78C58 60 52 30 60 16C74 20 88 46 90 70C92 70 96 70 98 70C98 46 108 20 122 14C132 30 126 62 112 78C124 88 128 102 122 116C148 128 162 152 156 182L56 182C44 166 50 136 74 118C62 106 64 88 76 78Z")
        + circle(84, 96, 5, "w") + circle(158, 162, 15) + p("M112 182C112 160 122 146 136 140", "wl", 'stroke-width="6"')),
    Motif("cat", "Cat", "animal pet sitting tail",
        p("M62 28L84 46C92 42 102 42 110 46L132 28L134 70C134 84 126 94 116 98C140 116 150 148 146 172C160 172 168 160 164 140C160 126 168 116 176 124C190 144 182 184 148 186L58 186C46 150 56 118 78 98C68 94 60 84 60 70Z")
        + circle(84, 70, 5, "w") + circle(110, 70, 5, "w") + p("M97 82L92 78L102 78Z", "w") + p("M84 186L84 142M112 186L112 142", "wl")),
    Motif("dog", "Dog", "animal pet friend standing",
        p("M20 60C24 54 40 54 48 46C56 34 74 34 82 44C88 52 88 66 94 72C110 78 140 76 152 80C160 72 166 58 172 50C180 52 180 66 172 84C174 104 168 120 166 134L168 184L150 184L142 140C128 146 108 144 96 140L92 184L74 184L68 128C58 114 56 98 56 82C44 82 24 78 20 60Z")
        + p("M78 48C92 52 94 76 84 86C76 84 70 70 70 58", "k", 'stroke="#fff" stroke-width="4"') + circle(56, 56, 4, "w")),
    Motif("fish", "Fish", "animal water sea pond",
        p("M16 104C40 66 96 58 136 96L180 66C174 90 174 116 180 140L136 110C96 148 40 142 16 104Z") + circle(50, 96, 6.5, "w")
        + p("M74 78C86 94 86 114 74 130M98 80C108 94 108 112 98 128", "wl", 'stroke-width="5"')),
    Motif("butterfly", "Butterfly", "insect summer garden wings",
        mirrored(p("M97 96C84 58 50 24 26 32C10 40 18 90 46 104C26 116 30 156 54 164C78 168 92 138 97 112Z") + circle(50, 66, 11, "w") + circle(60, 134, 9, "w"))
        + ellipse(100, 108, 6.5, 46) + p("M98 66C94 50 86 40 76 34M102 66C106 50 114 40 124 34", "kl", 'stroke-width="4"')),
    Motif("bee", "Bee", "insect summer honey garden",
        ellipse(100, 122, 36, 56) + ellipse(60, 84, 40, 20, "k", 32) + ellipse(140, 84, 40, 20, "k", -32) + circle(100, 58, 20)
        + p("M94 42C92 30 84 24 76 22M106 42C108 30 116 24 124 22", "kl", 'stroke-width="4"')
        + p("M67 106C84 114 116 114 133 106M65 128C84 136 116 136 135 128M71 150C86 158 114 158 129 150", "wl", 'stroke-width="9"')
        + p("M76 92C84 84 92 80 100 80C108 80 116 84 124 92", "wl", 'stroke-width="4"')),
    Motif("paw", "Paw", "animal pet dog cat print",
        p("M100 92C128 92 160 136 152 162C144 184 120 168 100 168C80 168 56 184 48 162C40 136 72 92 100 92Z")
        + ellipse(74, 54, 17, 26, "k", -10) + ellipse(126, 54, 17, 26, "k", 10) + ellipse(36, 94, 15, 24, "k", -28) + ellipse(164, 94, 15, 24, "k", 28)),
    Motif("heart", "Heart", "love card friend shape",
        mirrored(p("M100.5 176C60 142 22 110 22 70C22 28 80 14 100.5 54Z"))),
    Motif("star", "Star", "night sky shape award", p(star(5, 92, 40), "k", 'stroke="#16181b" stroke-width="8" stroke-linejoin="round"')),
    Motif("moon", "Moon and star", "night sky sleep", p("M124 18C72 22 38 64 44 112C50 160 96 190 144 178C100 172 76 142 78 102C80 64 98 34 124 18Z") + p(star(5, 26, 11, 140, 84))),
    Motif("sun", "Sun", "summer day sky light", circle(100, 100, 44) + around(p("M94 44L100 10L106 44Z", "k", 'stroke="#16181b" stroke-width="3" stroke-linejoin="round"'), 12)),
    Motif("cloud", "Cloud and rain", "weather sky water",
        p("M52 118C24 118 16 84 42 74C40 44 78 28 98 50C120 34 152 50 150 78C180 78 186 118 152 118Z")
        + p("M60 136C66 146 66 154 60 156C54 154 54 146 60 136ZM100 144C107 156 107 166 100 168C93 166 93 156 100 144ZM140 136C146 146 146 154 140 156C134 154 134 146 140 136Z", "k", 'stroke="#16181b" stroke-width="3"')),
    Motif("snowflake", "Snowflake", "winter cold weather crystal",
        around(p("M100 100L100 14M100 36L82 20M100 36L118 20M100 62L78 44M100 62L122 44", "kl", 'stroke-width="9"'), 6)),
    Motif("house", "House", "home building door roof",
        p("M100 20L186 96L166 96L166 180L34 180L34 96L14 96L52 62L52 30L74 30L74 43Z") + p("M84 180L84 132C84 120 116 120 116 132L116 180Z", "w")
        + p("M52 104L74 104L74 128L52 128ZM126 104L148 104L148 128L126 128Z", "w") + p("M63 104L63 128M52 116L74 116M137 104L137 128M126 116L148 116", "kl", 'stroke-width="3"')),
    Motif("key", "Key", "home door lock old",
        p("M56 46C82 46 100 64 102 86L184 86L184 128L166 128L166 108L150 108L150 122L134 122L134 108L101 108C96 128 80 144 56 144C28 144 8 122 8 95C8 68 28 46 56 46Z") + circle(52, 95, 19, "w")),
    Motif("teapot", "Teapot", "kitchen tea drink afternoon",
        p("M60 74C78 64 122 64 140 74C146 78 150 84 152 90C162 78 170 62 188 62C180 76 176 112 154 126C150 146 140 160 128 168L72 168C58 160 48 146 46 128C20 128 8 104 16 86C22 74 38 74 48 86C50 82 54 78 60 74Z")
        + p("M46 114C32 114 24 102 28 92C32 86 40 88 46 98Z", "w") + p("M70 62C78 54 122 54 130 62Z") + circle(100, 46, 9) + p("M62 96C60 110 62 126 68 140", "wl", 'stroke-width="6"')),
    Motif("bell", "Bell", "ring school winter sound",
        p("M100 26C136 26 146 60 148 96C150 124 158 136 172 150L28 150C42 136 50 124 52 96C54 60 64 26 100 26Z") + circle(100, 20, 10) + p("M82 156C82 182 118 182 118 156Z")
        + p("M36 140L164 140", "wl")),
    Motif("anchor", "Anchor", "sea boat ship harbour",
        p("M100 60L100 176", "kl", 'stroke-width="13"') + p("M62 84L138 84", "kl", 'stroke-width="12"') + p("M100 34m-19 0a19 19 0 1 0 38 0a19 19 0 1 0 -38 0", "kl", 'stroke-width="11"')
        + p("M36 122C40 158 70 176 100 178C130 176 160 158 164 122", "kl", 'stroke-width="13"') + p("M20 136L34 106L54 132ZM180 136L166 106L146 132Z", "k", 'stroke="#16181b" stroke-width="3" stroke-linejoin="round"')),
    Motif("boat", "Sailing boat", "sea water ship wind",
        p("M18 136L182 136C174 160 154 176 130 176L70 176C46 176 26 160 18 136Z") + p("M94 20L94 124L30 124C60 98 84 62 94 20Z") + p("M106 40C134 62 154 92 164 124L106 124Z")
        + p("M34 152L166 152", "wl")),
    Motif("crown", "Crown", "king queen party award",
        p("M30 150L20 62L62 98L100 36L138 98L180 62L170 150Z", "k", 'stroke="#16181b" stroke-width="6" stroke-linejoin="round"') + circle(20, 56, 10) + circle(100, 30, 11) + circle(180, 56, 10)
        + p("M30 164L170 164", "kl", 'stroke-width="12"') + circle(100, 122, 8, "w") + circle(64, 126, 6, "w") + circle(136, 126, 6, "w")),
    Motif("feather", "Feather", "bird pen light",
        p("M176 22C182 66 164 116 116 138L106 128L104 144C84 152 66 152 56 148C54 116 74 62 130 36L132 50L142 32C154 26 166 22 176 22Z") + p("M146 58C106 90 72 126 42 182", "wl", 'stroke-width="4"') + p("M58 150L36 188", "kl", 'stroke-width="5"')),
    Motif("spade", "Garden spade", "tool garden digging allotment",
        p("M68 26L132 26", "kl", 'stroke-width="13"') + p("M100 26L100 104", "kl", 'stroke-width="11"') + p("M62 98L138 98C142 140 128 170 100 190C72 170 58 140 62 98Z") + p("M100 112L100 152", "wl", 'stroke-width="5"')),
    Motif("sprig", "Sprig", "line drawing plant leaf branch",
        p("M40 186C62 140 90 92 150 24", "kl") + "".join(
            f'<g transform="translate({x} {y}) rotate({t}) scale({s})">{p(LEAF, "kl")}{p("M6 0L40 0", "kl")}</g>'
            for x, y, t, s in ((62, 144, -150, 1), (66, 138, -16, 1), (86, 106, -160, .95), (92, 98, -22, .95), (112, 70, -168, .85), (118, 62, -26, .85), (150, 24, -58, .55))), "line drawing"),
    Motif("umbrella", "Umbrella", "line drawing rain weather",
        p("M18 104C22 56 56 26 100 26C144 26 178 56 182 104C170 92 152 92 141 104C130 92 112 92 100 104C88 92 70 92 59 104C48 92 30 92 18 104Z", "kl")
        + p("M100 14L100 26M100 104L100 164C100 186 70 186 70 166", "kl") + p("M59 104C62 70 76 42 100 26C124 42 138 70 141 104", "kl"), "line drawing"),
    Motif("bicycle", "Bicycle", "line drawing ride wheel",
        p("M48 130m-34 0a34 34 0 1 0 68 0a34 34 0 1 0 -68 0M152 130m-34 0a34 34 0 1 0 68 0a34 34 0 1 0 -68 0", "kl")
        + p("M48 130L76 78L132 78L98 130ZM98 130L70 66M152 130L126 56L146 50M58 62L84 62", "kl"), "line drawing"),
    Motif("kettle", "Kettle", "line drawing kitchen tea",
        p("M52 96C40 116 36 146 44 170L156 170C164 146 160 116 148 96C132 80 68 80 52 96Z", "kl") + p("M148 104C160 96 170 82 190 84C180 96 174 122 160 134", "kl")
        + p("M64 88C60 40 140 40 136 88M88 83C92 72 108 72 112 83M56 148L146 148", "kl"), "line drawing"),
    Motif("mountain", "Hills and sun", "line drawing landscape walk",
        p("M10 168L70 74L104 124L128 90L190 168ZM70 74L70 110M50 106L62 118L72 108L86 118", "kl") + p("M150 50m-20 0a20 20 0 1 0 40 0a20 20 0 1 0 -40 0", "kl"), "line drawing"),
)  # fmt: skip


def rendered(motif: Motif) -> bytes:
    """PNG bytes in shades of grey."""
    svg = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="-8 -8 216 216"><style>{STYLE}</style><rect x="-8" y="-8" width="216" height="216" fill="#fff"/>{motif.art}</svg>'
    large = resvg_py.svg_to_bytes(svg_string=svg, width=SIDE * OVERSAMPLE, shape_rendering="crisp_edges")
    pixels = np.asarray(Image.open(io.BytesIO(bytes(large))).convert("L"))
    small = cv2.resize(pixels, (SIDE, SIDE), interpolation=cv2.INTER_AREA)
    packed = io.BytesIO()
    Image.fromarray(small).quantize(32).save(packed, "PNG", optimize=True)
    return packed.getvalue()


def main() -> None:
    OUT.mkdir(parents=True, exist_ok=True)
    for motif in MOTIFS:
        (OUT / f"{motif.id}.png").write_bytes(rendered(motif))
    listing = [{"id": m.id, "name": m.name, "words": m.words.split(), "kind": m.kind} for m in MOTIFS]
    (OUT / "motifs.json").write_text(json.dumps(listing, indent=1) + "\n", encoding="utf-8")
    print(f"{len(MOTIFS)} motifs")


if __name__ == "__main__":
    main()
