"""Places where matter would touch itself along an upright line only, and patches that settle them.

Where regions meet in one point, high and low by turns, the upright edge above it would belong to four walls.
A small patch over the point, at one of the heights there, makes the meeting clear.
"""

from __future__ import annotations

import itertools

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from drelo.core.region.arrangement import OUTSIDE, Arrangement
from drelo.core.solid.planar import borders

Indices = NDArray[np.int64]
Span = tuple[tuple[float, float], ...]
"""Solid intervals of height over a face, from bottom to top."""

# Radius of a patch in grid steps, from the first try to the last; the first is 0.025 mm on the usual grid.
PATCH_STEPS = (26, 21, 17, 13, 10, 7, 5)
PATCH_CORNERS = 8


def find_contacts(a: Arrangement, label: Indices, spans: list[Span], again: bool = False) -> list[tuple[int, int]]:
    """Vertices with such a contact, and for each the label whose span its patch should take.

    label: shape (faces,), index into `spans`, OUTSIDE for nothing. again: a patch was there already. Where a wedge is
    so thin that both its sides meet the patch in one point of the grid, a patch like the wedge only moves the contact
    along it; one like what lies beside the wedge ends it.
    """
    b = borders(a, label)
    ends = np.concatenate([b.start, b.end])
    degree = np.bincount(ends, minlength=len(a.vertices))
    crowded = degree[ends] >= 4
    at = ends[crowded]
    other = np.concatenate([b.end, b.start])[crowded]
    # The sector counter-clockwise of an edge going out is the one on its left.
    sector = np.concatenate([b.left, b.right])[crowded]
    way = (a.vertices[other] - a.vertices[at]).astype(np.float64)
    heading = np.arctan2(way[:, 1], way[:, 0])
    order = np.lexsort((heading, at))
    at, sector, heading = at[order], sector[order], heading[order]
    cuts = [0, *(np.flatnonzero(np.diff(at)) + 1).tolist(), len(at)]
    found = []
    for begin, end in itertools.pairwise(cuts):
        if begin == end:
            continue
        around = [int(s) for s in sector[begin:end]]
        choice = _settling(around, spans)
        if choice is None:
            continue
        if again:
            width = np.diff(heading[begin:end], append=heading[begin] + 2 * np.pi)
            thin = int(np.argmin(width))
            beside = [around[thin - 1], around[(thin + 1) % len(around)]]
            # Nothing, only where both sides are nothing.
            choice = min(beside, key=lambda s: (s == OUTSIDE, () if s == OUTSIDE else (_matter(spans[s]), s)))
        found.append((int(at[begin]), choice))
    return found


def _settling(sectors: list[int], spans: list[Span]) -> int | None:
    """The label that a patch needs to settle the sectors round a vertex; None when nothing is wrong."""
    around = [() if s == OUTSIDE else spans[s] for s in sectors]
    levels = sorted({z for span in around for interval in span for z in interval})
    for low, high in itertools.pairwise(levels):
        middle = (low + high) / 2
        solid = [any(z0 < middle < z1 for z0, z1 in span) for span in around]
        changes = sum(solid[i] != solid[i - 1] for i in range(len(solid)))
        if changes > 2:
            matter = [s for s, is_solid in zip(sectors, solid, strict=True) if is_solid]
            # The one with the least matter joins the others with the smallest change.
            return min(matter, key=lambda s: (_matter(spans[s]), s))
    return None


def _matter(span: Span) -> float:
    """How much of a span is solid, mm."""
    return sum(high - low for low, high in span)


def patches(a: Arrangement, contacts: list[tuple[int, int]], attempt: int) -> list[BaseGeometry]:
    """Small polygons over the contacts, in grid steps, clipped to the box of the whole so that its size stays."""
    if not contacts:
        return []
    radius = PATCH_STEPS[min(attempt, len(PATCH_STEPS) - 1)]
    low, high = a.vertices.min(axis=0), a.vertices.max(axis=0)
    box = shapely.box(*low.tolist(), *high.tolist())
    turn = 2 * np.pi * (np.arange(PATCH_CORNERS) + 0.5 + 0.13 * attempt) / PATCH_CORNERS
    ring = np.round(radius * np.stack([np.cos(turn), np.sin(turn)], axis=1))
    around = a.vertices[[vertex for vertex, _ in contacts]][:, None] + ring
    return list(shapely.intersection(shapely.polygons(around), box))
