"""`drelo trace`: picture to closed profiles."""

from __future__ import annotations

import argparse
from collections import Counter
from pathlib import Path

from drelo.cli import files
from drelo.cli.stages import Stages
from drelo.core.errors import Refusal
from drelo.core.picture.decode import MAX_BYTES, decode
from drelo.core.trace.ink import InkSettings, trace_ink
from drelo.formats.svg import Drawing, write_svg

# Where a picture states no resolution, one pixel is one CSS pixel.
DEFAULT_MM_PER_PX = 25.4 / 96


def add_arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("picture", type=Path, metavar="PICTURE")
    parser.add_argument("-o", dest="out", type=Path, required=True, metavar="OUT.svg")
    parser.add_argument("--mode", choices=["ink"], default="ink", help="dark shapes on light")
    parser.add_argument("--level", type=level, default=None, metavar="auto|0..1", help="how dark counts as ink")
    parser.add_argument("--invert", action="store_true", help="the light parts are the shape")
    parser.add_argument("--speck", type=float, default=None, metavar="A", help="drop what is smaller than A px²")
    parser.add_argument("--smooth", type=float, default=0.5, metavar="0..1", help="0 follows every pixel, 1 is calmest")
    parser.add_argument("--area", type=area, default=None, metavar="X,Y,W,H", help="only this box, px")
    parser.add_argument("--mm-per-px", type=float, default=None, metavar="F", help="scale of the result")
    parser.add_argument("--report", type=Path, default=None, metavar="R.json", help="figures of the run")


def level(text: str) -> float | None:
    return None if text == "auto" else float(text)


def area(text: str) -> tuple[float, float, float, float]:
    x, y, w, h = (float(part) for part in text.split(","))
    return x, y, w, h


def run(args: argparse.Namespace) -> None:
    stages = Stages()
    scale = args.mm_per_px
    if scale is not None and not 0 < scale <= 1000:
        raise Refusal("--mm-per-px must be a number above 0 and up to 1000.", "mm_per_px")
    settings = InkSettings(args.level, args.invert, args.speck, args.smooth, args.area)
    data = files.read(args.picture, "The picture", MAX_BYTES)
    with stages.stage("decode"):
        picture = decode(data)
    with stages.stage("trace"):
        trace = trace_ink(picture, settings)
    scale = scale or picture.mm_per_px or DEFAULT_MM_PER_PX
    with stages.stage("write"):
        outlines = [o.transformed(scale) for o in trace.outlines]
        files.write(args.out, write_svg([Drawing(outlines)], picture.width * scale, picture.height * scale))
    contours = [c for o in trace.outlines for c in o.contours]
    kinds = Counter("line" if line else "cubic" for c in contours for line in c.straight.tolist())
    files.write_report(
        args.report,
        {
            "pixels": [picture.width, picture.height],
            "mm_per_px": scale,
            "level": trace.level,
            "speck_px2": trace.speck,
            "specks_dropped": trace.dropped,
            "profiles": len(trace.outlines),
            "holes": len(contours) - len(trace.outlines),
            "nodes": trace.nodes,
            "segments": {"line": kinds["line"], "cubic": kinds["cubic"]},
            "seconds": stages.seconds,
        },
    )
