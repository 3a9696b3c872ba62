"""glTF 2.0, binary: the surface for the screen."""

from __future__ import annotations

import json
from typing import Any

import numpy as np
from numpy.typing import NDArray

from drelo.core.piece.evaluate import Raised

_FLOAT, _UNSIGNED_BYTE = 5126, 5121
_ARRAY_BUFFER = 34962


def write_glb(raised: Raised) -> bytes:
    """One mesh of loose triangles with a colour a corner, mm, z up.

    `extras` of the mesh: `runs`, a list of region, colour and the range of triangles; `size` in mm.
    """
    triangles = raised.surface.triangles
    positions = np.ascontiguousarray(triangles.reshape(-1, 3), np.float32)
    colours = np.empty((len(positions), 4), np.uint8)
    linear = {colour: _linear(colour) for colour in raised.colours}
    runs = []
    for run in raised.surface.runs:
        colours[3 * run.start : 3 * (run.start + run.count)] = linear[raised.colours[run.filament]]
        runs.append(
            {
                "region": raised.regions[run.layer],
                "colour": raised.colours[run.filament],
                "start": run.start,
                "count": run.count,
            }
        )
    binary = positions.tobytes() + colours.tobytes()
    # Axis by axis: over short rows the library is ten times as slow.
    low, high = ([float(f(axis)) for axis in positions.T] if len(positions) else [0.0] * 3 for f in (np.min, np.max))
    document: dict[str, Any] = {
        "asset": {"version": "2.0", "generator": "Drelo"},
        "scene": 0,
        "scenes": [{"nodes": [0]}],
        "nodes": [{"mesh": 0, "name": "piece"}],
        "meshes": [
            {
                "primitives": [{"attributes": {"POSITION": 0, "COLOR_0": 1}, "mode": 4}],
                "extras": {"runs": runs, "size": list(raised.size)},
            }
        ],
        "buffers": [{"byteLength": len(binary)}],
        "bufferViews": [
            {"buffer": 0, "byteOffset": 0, "byteLength": positions.nbytes, "target": _ARRAY_BUFFER},
            {
                "buffer": 0,
                "byteOffset": positions.nbytes,
                "byteLength": colours.nbytes,
                "target": _ARRAY_BUFFER,
            },
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
            {
                "bufferView": 1,
                "componentType": _UNSIGNED_BYTE,
                "normalized": True,
                "count": len(positions),
                "type": "VEC4",
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


def _linear(colour: str) -> NDArray[np.uint8]:
    """glTF's colours are linear light; ours are sRGB."""
    value = np.array([int(colour[i : i + 2], 16) for i in (1, 3, 5)]) / 255
    linear = np.where(value <= 0.04045, value / 12.92, ((value + 0.055) / 1.055) ** 2.4)
    return np.append(np.round(linear * 255), 255).astype(np.uint8)
