"""STL: binary out, binary and ASCII in."""

from __future__ import annotations

import re

import numpy as np
from numpy.typing import NDArray

from drelo.core.errors import Refusal
from drelo.core.solid.mesh import Mesh, unit_normals, welded

MAX_BYTES = 512 * 2**20
_RECORD = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("extra", "<u2")])
_HEADER = b"Drelo, millimetres, one sealed surface"
_VERTEX = re.compile(rb"vertex\s+(\S+)\s+(\S+)\s+(\S+)")


def write_stl(mesh: Mesh) -> bytes:
    """Binary STL, mm, with unit normals."""
    records = np.zeros(len(mesh.faces), _RECORD)
    corners = mesh.vertices[mesh.faces]
    records["normal"] = unit_normals(corners)
    records["corners"] = corners
    return _HEADER.ljust(80, b" ") + np.uint32(len(corners)).tobytes() + records.tobytes()


def read_stl(data: bytes) -> Mesh:
    """A mesh with equal vertices welded. Raises Refusal when the bytes are no STL or are cut off."""
    if len(data) > MAX_BYTES:
        raise Refusal("stl.too-large", megabytes=MAX_BYTES // 2**20)
    if len(data) >= 84:
        count = int(np.frombuffer(data, "<u4", 1, 80)[0])
        if len(data) == 84 + 50 * count:
            return welded(np.frombuffer(data, _RECORD, count, 84)["corners"])
    if data[:5].lower() == b"solid" and b"vertex" in data:
        return welded(_ascii(data))
    if len(data) >= 84:
        raise Refusal("stl.wrong-length", count=count, needed=84 + 50 * count, has=len(data))
    raise Refusal("stl.too-short")


def _ascii(data: bytes) -> NDArray[np.float32]:
    try:
        numbers = np.array([[float(v) for v in match] for match in _VERTEX.findall(data)], np.float32)
    except ValueError:
        raise Refusal("stl.no-number") from None
    if not len(numbers) or len(numbers) % 3 or b"endsolid" not in data[-400:]:
        raise Refusal("stl.cut-off")
    return numbers.reshape(-1, 3, 3)
