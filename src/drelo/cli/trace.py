"""`drelo trace`: trace a picture to closed outlines."""

from __future__ import annotations

import argparse
import re
from collections import Counter
from dataclasses import asdict
from pathlib import Path

from drelo.cli import files
from drelo.cli.stages import Stages
from drelo.core.errors import Refusal
from drelo.core.picture.decode import DEFAULT_MM_PER_PX, MAX_BYTES
from drelo.core.trace.modes import Settings, prepare, trace
from drelo.core.trace.settings import ColourSettings, InkSettings, StrokeSettings
from drelo.core.trace.trace import Trace
from drelo.formats import foreign
from drelo.formats.svg import Drawing, write_svg

# Where a picture states no resolution, one pixel is one CSS pixel.


def add_arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("picture", type=Path, metavar="PICTURE", help="PNG, JPEG, WebP, GIF, BMP or TIFF")
    parser.add_argument(
        "-o", dest="out", type=Path, required=True, metavar="OUT.svg", help="where to write the outlines"
    )
    parser.add_argument(
        "--mode",
        choices=["ink", "colours", "strokes"],
        default="ink",
        help="dark shapes on light; flat colours that share their edges; the middle lines of a line drawing",
    )
    parser.add_argument(
        "--colours", type=int, default=None, metavar="N", help="number of colours, 2 to 24 (mode colours)"
    )
    parser.add_argument("--level", type=level, default=None, metavar="auto|0..1", help="how dark counts as ink, 0 to 1")
    parser.add_argument("--invert", action="store_true", help="trace light areas on a dark ground")
    parser.add_argument("--speck", type=float, default=None, metavar="A", help="leave out specks smaller than A px²")
    parser.add_argument(
        "--smooth", type=float, default=0.5, metavar="0..1", help="0 follows every pixel, 1 gives the calmest curves"
    )
    parser.add_argument("--area", type=area, default=None, metavar="X,Y,W,H", help="trace only this box, px")
    parser.add_argument("--pinhole", type=float, default=None, metavar="A", help="fill holes smaller than A px²")
    parser.add_argument(
        "--keen", type=float, default=0.5, metavar="0..1", help="0 rounds corners off, 1 keeps every one"
    )
    parser.add_argument("--silhouette", action="store_true", help="keep only the outer outline (mode ink)")
    parser.add_argument(
        "--background", default=None, metavar="#rrggbb|none", help="the colour that is no shape (mode colours)"
    )
    parser.add_argument("--mm-per-px", type=float, default=None, metavar="F", help="size of a pixel, mm")
    parser.add_argument(
        "--report", type=Path, default=None, metavar="R.json", help="write the figures of the run as JSON"
    )


def level(text: str) -> float | None:
    return None if text == "auto" else float(text)


def area(text: str) -> tuple[float, float, float, float]:
    x, y, w, h = (float(part) for part in text.split(","))
    return x, y, w, h


def run(args: argparse.Namespace) -> None:
    stages = Stages()
    scale = args.mm_per_px
    if scale is not None and not 0 < scale <= 1000:
        raise Refusal("command.mm-per-px", "mm_per_px")
    settings = settings_of(args)
    data = files.read(args.picture, "The picture", MAX_BYTES)
    with stages.stage("prepare"):
        prepare(args.mode)
    with stages.stage("decode"):
        picture = foreign.picture(data)
    with stages.stage("trace"):
        found = trace(picture, settings)
    scale = scale or picture.mm_per_px or DEFAULT_MM_PER_PX
    with stages.stage("write"):
        lines = [line.transformed(scale) for line in found.lines]
        drawings = by_fill(found, scale)
        files.write(args.out, write_svg(drawings, picture.width * scale, picture.height * scale, lines))
    middles, shapes = found.lines_and_shapes
    contours = [line.contour for line in middles] + [c for o in shapes for c in o.contours]
    kinds = Counter("line" if line else "cubic" for c in contours for line in c.straight.tolist())
    files.write_report(
        args.report,
        {
            "pixels": [picture.width, picture.height],
            "mm_per_px": scale,
            "mode": args.mode,
            "level": found.level,
            "colours": [
                {"colour": s.colour, "share": s.share, "background": s.background or s.clear} for s in found.swatches
            ],
            "speck_px2": found.speck,
            "specks_dropped": found.dropped + found.filled,
            "pinholes_filled": found.filled,
            "profiles": len(middles) + len(shapes),
            "holes": sum(len(o.holes) for o in shapes),
            "nodes": found.nodes,
            "check": found.check and asdict(found.check),
            "segments": {"line": kinds["line"], "cubic": kinds["cubic"]},
            "seconds": stages.seconds,
        },
    )


def settings_of(args: argparse.Namespace) -> Settings:
    """The mode's settings. Raises Refusal when an option belongs to another mode."""
    for name, given, modes in (
        ("colours", args.colours is not None, ("colours",)),
        ("background", args.background is not None, ("colours",)),
        ("level", args.level is not None, ("ink", "strokes")),
        ("invert", args.invert, ("ink", "strokes")),
        ("pinhole", args.pinhole is not None, ("ink",)),
        ("silhouette", args.silhouette, ("ink",)),
    ):
        if given and args.mode not in modes:
            raise Refusal("command.option-of-other-mode", name, name=name, modes=tuple(modes))
    if args.background is not None and not re.fullmatch("none|#[0-9a-f]{6}", args.background):
        raise Refusal("command.background", "background")
    shared = {"speck": args.speck, "smooth": args.smooth, "area": args.area, "keen": args.keen}
    if args.mode == "colours":
        return ColourSettings(args.colours, background=args.background, **shared)
    if args.mode == "strokes":
        return StrokeSettings(args.level, args.invert, **shared)
    return InkSettings(args.level, args.invert, pinhole=args.pinhole, silhouette=args.silhouette, **shared)


def by_fill(found: Trace, scale: float) -> list[Drawing]:
    """Outlines in mm, a drawing a colour, the one with the largest outline first; of strokes the filled shapes."""
    _, shapes = found.lines_and_shapes
    fills = list(dict.fromkeys(found.fill(i) for i in range(len(shapes))))
    return [
        Drawing([o.transformed(scale) for i, o in enumerate(shapes) if found.fill(i) == fill], fill) for fill in fills
    ]
