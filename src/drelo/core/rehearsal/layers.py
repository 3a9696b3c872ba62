"""The layers of a print: where each lies, and what of each filament is solid in it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.errors import Refusal
from drelo.core.outline.offset import offset
from drelo.core.outline.outline import only_areas
from drelo.core.rehearsal.lines import Floats
from drelo.core.rehearsal.sections import sections
from drelo.core.rehearsal.settings import Manner
from drelo.core.solid.mesh import Mesh

MOST_LAYERS = 20_000
# What rises less than this share of a layer above the last one is not printed.
ROUND = 0.5
# Borders that are meant to be the same lie so near each other, mm.
ROUNDING = 1e-3


@dataclass(frozen=True, eq=False)
class Slices:
    """tops: upper side of every layer, mm. thickness: of every layer. areas: what is solid, a list for each body."""

    tops: Floats
    thickness: Floats
    areas: tuple[tuple[BaseGeometry, ...], ...]
    _wholes: dict[tuple[int, ...], BaseGeometry] = field(default_factory=dict, init=False, repr=False)

    def together(self, groups: Sequence[int]) -> Slices:
        """What is solid of each group of bodies. groups: the number of each body's."""
        known: dict[tuple[int, ...], BaseGeometry] = {}
        areas = []
        for group in range(max(groups) + 1):
            mine = [body for body, of in zip(self.areas, groups, strict=True) if of == group]
            areas.append(tuple(_united(layer, known) for layer in zip(*mine, strict=True)))
        return Slices(self.tops, self.thickness, tuple(areas))

    def whole(self, layer: int) -> BaseGeometry:
        """What is solid in a layer of any body. Layers that are alike give the same object."""
        return _united([body[layer] for body in self.areas], self._wholes)


def _united(areas: Sequence[BaseGeometry], known: dict[tuple[int, ...], BaseGeometry]) -> BaseGeometry:
    """What any of the areas covers. known: what came of the same areas before."""
    some = [area for area in areas if not area.is_empty] or list(areas[:1])
    if len(some) == 1:
        return some[0]
    key = tuple(map(id, some))
    if key not in known:
        known[key] = only_areas(shapely.union_all(some))
    return known[key]


def shadow(slices: Slices) -> BaseGeometry:
    """What a print covers of its bed, seen from above."""
    wholes = np.array(list({id(w): w for w in map(slices.whole, range(len(slices.tops)))}.values()))
    largest = wholes[np.argmax(shapely.area(wholes))]
    # Mostly one layer lies over nearly all others, up to what rounding does.
    nearly = offset(largest, ROUNDING, quad_segs=1)
    shapely.prepare(nearly)
    beyond = wholes[~shapely.covers(nearly, wholes)]
    return only_areas(shapely.union_all([largest, *beyond]))


def tops_of(height: float, manner: Manner) -> Floats:
    """The upper sides of the layers of something of a height, mm."""
    more = max(0, int(np.floor((height - manner.first_layer) / manner.layer + ROUND)))
    return np.asarray(manner.first_layer + manner.layer * np.arange(more + 1), np.float64)


def sliced(meshes: Sequence[Mesh], manner: Manner) -> Slices:
    """The layers of closed meshes that stand on one bed, each cut in the middle of its height. Raises Refusal."""
    low = min((float(mesh.vertices[:, 2].min()) for mesh in meshes if len(mesh.faces)), default=0.0)
    high = max((float(mesh.vertices[:, 2].max()) for mesh in meshes if len(mesh.faces)), default=0.0)
    if (high - low) / manner.layer > MOST_LAYERS:
        raise Refusal("rehearsal.too-many-layers", "layer", most=MOST_LAYERS)
    tops = tops_of(high - low, manner)
    thickness = np.diff(np.concatenate([[0.0], tops]))
    middles = low + tops - thickness / 2
    return Slices(tops, thickness, tuple(tuple(sections(mesh, middles)) for mesh in meshes))
