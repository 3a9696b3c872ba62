"""From a design to its sealed meshes: each body once, and the one surface of all only where it is asked for."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.form.columns import Design
from drelo.core.outline.outline import even_odd, only_areas
from drelo.core.region.arrangement import OUTSIDE, Arrangement
from drelo.core.solid.mesh import Mesh
from drelo.core.solid.planar import borders, rings, straight_vertices
from drelo.core.solid.raising import has_matter, raise_body

# A footprint is as exact as this, mm.
ROUGHLY = 0.05


@dataclass(frozen=True)
class Body:
    """A sealed mesh, its name and its filament's colour, #rrggbb.

    thing: bodies of one number hang together; others lie beside them and can be moved by themselves.
    """

    name: str
    colour: str
    mesh: Mesh
    thing: int = 0


@dataclass(frozen=True, eq=False)
class Made:
    """A design raised. checkpoint: called between bodies; it may end the work."""

    design: Design
    arrangement: Arrangement
    checkpoint: Callable[[], None] = lambda: None

    @cached_property
    def bodies(self) -> tuple[Body, ...]:
        """One for each filament that has any matter. Raises Refusal when one cannot be sealed."""
        found = []
        for number, filament in enumerate(self.design.filaments):
            self.checkpoint()
            mesh = raise_body(self.design, self.arrangement, number)
            if len(mesh.faces):
                found.append(Body(filament.name, filament.colour, mesh, number if filament.apart else 0))
        return tuple(found)

    @cached_property
    def whole(self) -> Mesh:
        """One surface of everything. Raises Refusal when it cannot be sealed."""
        self.checkpoint()
        return raise_body(self.design, self.arrangement)

    def footprint(self, face_down: bool = False) -> BaseGeometry:
        """What the solid covers of a bed, mm, the corner of its box at 0, 0."""
        a = self.arrangement
        label = np.where(has_matter(self.design, a), 0, OUTSIDE)
        found = rings(a, label, straight_vertices(a, borders(a, label)))
        points = a.vertices[found.vertices] * a.grid
        points -= points.min(axis=0)
        if face_down:
            points[:, 1] = points[:, 1].max() - points[:, 1]
        loops = np.split(points, found.starts[1:-1])
        areas: list[shapely.Polygon] = []
        order = np.argsort(found.patch, kind="stable")
        for patch in np.split(order, np.flatnonzero(np.diff(found.patch[order])) + 1):
            areas += shapely.get_parts(even_odd([loops[number] for number in patch])).tolist()
        whole = shapely.simplify(shapely.MultiPolygon(areas), ROUGHLY)
        return whole if whole.is_valid else only_areas(shapely.make_valid(whole))

    @property
    def flat_body(self) -> Body:
        """The one surface of all as a body, called after every filament."""
        names = ", ".join(f.name for f in self.design.filaments)
        return Body(names, self.design.filaments[0].colour, self.whole)
