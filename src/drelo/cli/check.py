"""`drelo check`: say whether a mesh file is sealed, and what is wrong where it is not."""

from __future__ import annotations

import argparse
from pathlib import Path

from drelo.cli import files
from drelo.core.errors import Refusal
from drelo.core.solid.seal import check_seal
from drelo.formats import foreign
from drelo.formats.stl import MAX_BYTES


def add_arguments(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("file", type=Path, metavar="FILE.stl|FILE.3mf", help="the mesh to check")
    parser.add_argument("--report", type=Path, default=None, metavar="R.json", help="write what was found as JSON")


def run(args: argparse.Namespace) -> None:
    data = files.read(args.file, "The mesh", MAX_BYTES)
    bodies = foreign.mesh(data, args.file.stem)
    seals = [check_seal(body.mesh) for body in bodies]
    sealed = all(seal.sealed for seal in seals)
    files.write_report(
        args.report,
        {
            "sealed": sealed,
            "bodies": [
                {
                    "name": body.name,
                    "colour": body.colour,
                    "sealed": seal.sealed,
                    "problems": list(seal.problems),
                    "triangles": seal.triangles,
                    "separate_parts": seal.parts,
                    "volume_mm3": seal.volume,
                    "area_mm2": seal.area,
                    "size_mm": list(seal.size),
                }
                for body, seal in zip(bodies, seals, strict=True)
            ],
        },
    )
    for body, seal in zip(bodies, seals, strict=True):
        if not seal.sealed:
            raise Refusal("check.not-sealed", file=args.file.name, body=body.name, problems=tuple(seal.problems))
    for body, seal in zip(bodies, seals, strict=True):
        x, y, z = seal.size
        print(f"{body.name}: sealed, {seal.triangles} triangles, {seal.volume:.1f} mm³, {x:.2f} × {y:.2f} × {z:.2f} mm")
