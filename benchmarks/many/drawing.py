"""Drawings of very many outlines, and the documents that hold them."""

from __future__ import annotations

import numpy as np

from drelo.core.piece.document import Document, RegionChoice
from drelo.core.piece.drawn import DrawnPath
from drelo.core.piece.pictures import Mark

NODES = 10
PITCH = 4.0


def drawing(count: int) -> list[str]:
    """Path data of closed smooth outlines in rows, mm."""
    rng = np.random.default_rng(3)
    across = int(np.ceil(np.sqrt(count * 1.6)))
    turn = np.linspace(0, 2 * np.pi, NODES, endpoint=False)
    parts = []
    for i in range(count):
        middle = np.array([i % across, i // across]) * PITCH
        radius = (1.5 + 0.25 * rng.normal(size=NODES))[:, None]
        way = np.column_stack([np.cos(turn), np.sin(turn)])
        points = middle + radius * way
        tangent = (np.roll(points, -1, 0) - np.roll(points, 1, 0)) / 6
        text = f"M{points[0, 0]:.3f} {points[0, 1]:.3f}"
        for j in range(NODES):
            k = (j + 1) % NODES
            a, b, c = points[j] + tangent[j], points[k] - tangent[k], points[k]
            text += f"C{a[0]:.3f} {a[1]:.3f} {b[0]:.3f} {b[1]:.3f} {c[0]:.3f} {c[1]:.3f}"
        parts.append(text + "Z")
    return parts


def document(count: int) -> Document:
    """A document of drawn outlines, each with a choice of its own."""
    things, choices = [], []
    across = int(np.ceil(np.sqrt(count * 1.6)))
    for i, path in enumerate(drawing(count)):
        x, y = i % across * PITCH, i // across * PITCH
        mark = Mark(anchor=(x, y), box=(x - 1.5, y - 1.5, x + 1.5, y + 1.5))
        things.append(DrawnPath(id=f"d{i}", path=path))
        choices.append(RegionChoice(id=f"r{i}", mark=mark, height=1 + (i % 40) / 10, name=f"Scale {i}"))
    return Document(drawn=tuple(things), regions=tuple(choices))
