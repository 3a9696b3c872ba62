"""glTF 2.0, binary: the surface for the screen."""

from __future__ import annotations

import json
from typing import Any

import numpy as np

from drelo.core.piece.evaluate import Raised

_FLOAT = 5126
_ARRAY_BUFFER = 34962


def write_glb(raised: Raised) -> bytes:
    """One mesh of loose triangles, mm, z up.

    `extras` of the mesh: `runs`, a list of region, colour and the range of triangles, which say more than a colour a
    corner would, in a hundredth of the bytes; `size` in mm; `heights` of regions, mm; `rising`, rows of four numbers in
    one list: first triangle, how many, and the regions (numbers in `regions`, -1 for none) with whose height the lower
    and the upper corners go; `standing`, the triangle from which on there are only walls of no height.
    """
    triangles = raised.surface.triangles
    positions = np.ascontiguousarray(triangles.reshape(-1, 3), np.float32)
    runs = [
        {
            "region": raised.regions[run.layer],
            "colour": raised.colours[run.filament],
            "start": run.start,
            "count": run.count,
        }
        for run in raised.surface.runs
    ]
    # Parts of one region are one there: a number for each name, and for no layer at the end.
    names = list(dict.fromkeys(raised.regions))
    of_layer = np.array([*(names.index(name) for name in raised.regions), -1])
    rising = np.column_stack([raised.rising[:, :2], of_layer[raised.rising[:, 2:]]])
    extras = {
        "runs": runs,
        "size": list(raised.size),
        "regions": names,
        "heights": raised.heights,
        "rising": rising.ravel().tolist(),
        "standing": raised.surface.standing,
    }
    binary = positions.tobytes()
    # Axis by axis: over short rows the library is ten times as slow.
    low, high = ([float(f(axis)) for axis in positions.T] if len(positions) else [0.0] * 3 for f in (np.min, np.max))
    document: dict[str, Any] = {
        "asset": {"version": "2.0", "generator": "Drelo"},
        "scene": 0,
        "scenes": [{"nodes": [0]}],
        "nodes": [{"mesh": 0, "name": "piece"}],
        "meshes": [
            {
                "primitives": [{"attributes": {"POSITION": 0}, "mode": 4}],
                "extras": extras,
            }
        ],
        "buffers": [{"byteLength": len(binary)}],
        "bufferViews": [
            {"buffer": 0, "byteOffset": 0, "byteLength": positions.nbytes, "target": _ARRAY_BUFFER},
        ],
        "accessors": [
            {
                "bufferView": 0,
                "componentType": _FLOAT,
                "count": len(positions),
                "type": "VEC3",
                "min": low,
                "max": high,
            },
        ],
    }
    text = json.dumps(document, separators=(",", ":")).encode()
    text += b" " * (-len(text) % 4)
    binary += b"\0" * (-len(binary) % 4)
    chunks = _chunk(b"JSON", text) + _chunk(b"BIN\0", binary)
    return b"glTF" + np.array([2, 12 + len(chunks)], "<u4").tobytes() + chunks


def _chunk(kind: bytes, data: bytes) -> bytes:
    return np.uint32(len(data)).tobytes() + kind + data
