"""The whole rehearsal: from the meshes of a file to layers with their lines, times, material and changes of filament.

Layers that are alike share their lines: what stands upright is worked out once.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import partial

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.compiled import THREADS
from drelo.core.outline.offset import offset
from drelo.core.outline.outline import only_areas
from drelo.core.rehearsal.changes import Change, changes
from drelo.core.rehearsal.layers import ROUNDING, Slices, sliced
from drelo.core.rehearsal.lines import KINDS, Floats, Lines
from drelo.core.rehearsal.material import Use, used
from drelo.core.rehearsal.paths import Laid, Walled, filled, parted, walled
from drelo.core.rehearsal.settings import Manner, Printer, Spool
from drelo.core.rehearsal.timing import line_times, move_times
from drelo.core.solid.mesh import Mesh

Checkpoint = Callable[[], None]
# So many layers are told of as soon as they are there.
FIRST = 2


@dataclass(frozen=True, eq=False)
class Pattern:
    """What one filament lays in a layer. laid: its lines; seconds: they take; volume: mm³."""

    laid: Laid
    seconds: float
    volume: float


@dataclass(frozen=True)
class Part:
    """A pattern in a layer: the number of the filament's body, and of the pattern."""

    body: int
    pattern: int


@dataclass(frozen=True)
class Layer:
    """top: its upper side; thickness: both mm. parts: in the order in which they are laid. seconds: of one copy."""

    top: float
    thickness: float
    parts: tuple[Part, ...]
    seconds: float


@dataclass(frozen=True, eq=False)
class Rehearsal:
    """patterns: lines by their number. uses: material by body, of all beds. beds: seconds of each, changes included."""

    slices: Slices
    patterns: tuple[Pattern, ...]
    layers: tuple[Layer, ...]
    changes: tuple[Change, ...]
    uses: tuple[Use, ...]
    beds: tuple[float, ...]

    @property
    def seconds(self) -> float:
        """Of all beds, one after the other."""
        return sum(self.beds)


@dataclass(frozen=True)
class Progress:
    """How a rehearsal is followed. checkpoint: raises to end it. share: takes how much is there, 0 to 1.

    first: takes the lowest layers as soon as they are there, as a rehearsal of nothing else.
    """

    checkpoint: Checkpoint = lambda: None
    share: Callable[[float], None] = lambda _: None
    first: Callable[[Rehearsal], None] = lambda _: None


def rehearse(
    meshes: Sequence[Mesh],
    spools: Sequence[Spool],
    printer: Printer,
    manner: Manner,
    loads: Sequence[int] = (1,),
    progress: Progress = Progress(),
) -> Rehearsal:
    """Print closed meshes, each of its own filament. loads: how many copies lie on each bed. Raises Refusal."""
    return rehearse_slices(sliced(meshes, manner), spools, printer, manner, loads, progress)


def rehearse_slices(
    slices: Slices,
    spools: Sequence[Spool],
    printer: Printer,
    manner: Manner,
    loads: Sequence[int] = (1,),
    progress: Progress = Progress(),
) -> Rehearsal:
    """The same for what is in layers already."""
    worker = _Worker(slices, printer, manner)
    stacks = [
        [(body, worker.pattern(body, number)) for body in range(len(slices.areas))]
        for number in range(len(slices.tops))
    ]
    lowest = stacks[:FIRST]
    needed = 1 + max((pattern for stack in lowest for _, pattern in stack), default=0)
    for done in worker.work(progress.checkpoint):
        progress.share(done / worker.count)
        if done == needed:
            progress.first(_rehearsal(slices, worker.patterns, lowest, spools, printer, loads))
    return _rehearsal(slices, worker.patterns, stacks, spools, printer, loads)


def _rehearsal(
    slices: Slices,
    patterns: Sequence[Pattern],
    given: Sequence[Sequence[tuple[int, int]]],
    spools: Sequence[Spool],
    printer: Printer,
    loads: Sequence[int],
) -> Rehearsal:
    """What comes of patterns. given: for each layer from below, its bodies with the pattern of each."""
    stacks = [[(b, p) for b, p in stack if len(patterns[p].laid.lines)] for stack in given]
    orders = changes([[body for body, _ in stack] for stack in stacks], slices.tops)
    layers = []
    for number, (stack, order) in enumerate(zip(stacks, orders.orders, strict=True)):
        of_body = dict(stack)
        parts = tuple(Part(body, of_body[body]) for body in order)
        laying = sum(patterns[part.pattern].seconds for part in parts)
        layers.append(Layer(float(slices.tops[number]), float(slices.thickness[number]), parts, laying))
    volumes = np.zeros(len(slices.areas))
    for layer in layers:
        for part in layer.parts:
            volumes[part.body] += sum(loads) * patterns[part.pattern].volume
    purged = np.zeros(len(slices.areas))
    each = printer.change.minutes * 60 if printer.change.how == "by hand" else printer.change.seconds
    if printer.change.how == "changer":
        for change in orders.changes:
            purged[change.into] += len(loads) * printer.change.purged
    uses = tuple(used(float(v), float(p), spool) for v, p, spool in zip(volumes, purged, spools, strict=True))
    of_copy = np.array([layer.seconds for layer in layers])
    beds = tuple(
        float(printer.warm_up + np.maximum(of_copy * load, printer.least_layer_time).sum() + each * len(orders.changes))
        for load in loads
    )
    return Rehearsal(slices, tuple(patterns), tuple(layers), orders.changes, uses, beds)


class _Worker:
    """Works patterns out, each once."""

    def __init__(self, slices: Slices, printer: Printer, manner: Manner) -> None:
        self._slices, self._printer, self._manner = slices, printer, manner
        self.patterns: list[Pattern] = []
        self._waiting: list[Callable[[], Pattern]] = []
        self._known: dict[bytes, int] = {}
        self._names: dict[int, bytes] = {}
        self._walls: dict[bytes, Walled] = {}
        self._inside: dict[bytes, tuple[BaseGeometry, BaseGeometry]] = {}

    def pattern(self, body: int, layer: int) -> int:
        """The number that the pattern of a body in a layer will have."""
        area = self._slices.areas[body][layer]
        over, under = list(self._near(layer, 1)), list(self._near(layer, -1))
        first, odd = layer == 0, bool(layer % 2)
        names = [self._name(area), *map(self._name, over), b"|", *map(self._name, under)]
        thickness = float(self._slices.thickness[layer])
        key = hashlib.sha256(b"".join(names) + repr((thickness, odd, first)).encode()).digest()
        if key not in self._known:
            self._known[key] = len(self._waiting)
            self._waiting.append(partial(self._made, area, over, under, thickness, odd, first))
        return self._known[key]

    @property
    def count(self) -> int:
        """How many patterns were asked for."""
        return len(self._waiting)

    def work(self, checkpoint: Checkpoint) -> Iterator[int]:
        """Make every pattern that was asked for, several at a time: their geometry leaves Python to itself.

        Yields how many are there.
        """
        with ThreadPoolExecutor(THREADS) as threads:
            coming = [threads.submit(make) for make in self._waiting]
            try:
                for made in coming:
                    checkpoint()
                    self.patterns.append(made.result())
                    yield len(self.patterns)
            except BaseException:
                threads.shutdown(wait=False, cancel_futures=True)
                raise

    def _near(self, layer: int, step: int) -> Iterator[BaseGeometry]:
        """What is solid in the layers above (step 1) or below (step -1) that keep this one from being seen."""
        count = self._manner.top if step > 0 else self._manner.bottom
        for away in range(1, count + 1):
            number = layer + step * away
            if not 0 <= number < len(self._slices.tops):
                yield shapely.Polygon()
                return
            yield self._slices.whole(number)

    def _name(self, area: BaseGeometry) -> bytes:
        found = self._names.get(id(area))
        if found is None:
            found = self._names[id(area)] = hashlib.sha256(shapely.to_wkb(area)).digest()
        return found

    def _made(
        self,
        area: BaseGeometry,
        over: Sequence[BaseGeometry],
        under: Sequence[BaseGeometry],
        thickness: float,
        odd: bool,
        first: bool,
    ) -> Pattern:
        if area.is_empty:
            return Pattern(Laid(_NOTHING, shapely.Polygon()), 0.0, 0.0)
        name = self._name(area)
        others = {self._name(other): other for other in (*over, *under)}

        def skin_of(rest: BaseGeometry) -> BaseGeometry:
            hidden = rest
            for like, other in others.items():
                # What is left inside of its walls is always covered by the area itself.
                if like != name and not shapely.covers(other, hidden):
                    hidden = only_areas(shapely.intersection(hidden, other))
            if hidden is rest:
                return shapely.Polygon()
            return only_areas(shapely.difference(rest, offset(hidden, ROUNDING, quad_segs=1)))

        brim = self._manner.brim if first else 0
        if name not in self._walls:
            self._walls[name] = walled(area, self._printer.line_width, self._manner)
        line = self._printer.line_width
        walls = self._walls[name]
        # Neighbouring layers are mostly hidden by the same ones.
        hidden = b"".join([*sorted({name, *others}), name])
        inside = self._inside.get(hidden)
        if inside is None:
            inside = self._inside[hidden] = parted(walls.rest, skin_of, line, self._manner)
        found = filled(area, walls, inside, line, self._manner, odd, brim)
        speeds = self._speeds(found.lines, thickness, first)
        lines = found.lines
        laying = line_times(lines, speeds, self._printer.acceleration, self._printer.corner_speed).sum()
        gaps = lines.points[lines.starts[1:-1]] - lines.points[lines.starts[1:-1] - 1]
        moving = move_times(np.hypot(*gaps.T), self._printer.speeds.travel, self._printer.acceleration).sum()
        seconds = float(laying + moving + self._printer.retraction_time * len(lines))
        return Pattern(found, seconds, float(lines.areas.sum() * thickness))

    def _speeds(self, lines: Lines, thickness: float, first: bool) -> Floats:
        """The speed of each line, mm/s: as its kind has it, slower where more would be molten than can be."""
        speeds = self._printer.speeds
        by_kind = {
            "outer wall": speeds.outer_wall,
            "thin wall": speeds.outer_wall,
            "inner wall": speeds.inner_wall,
            "skin": speeds.skin,
            "infill": speeds.infill,
            "brim": speeds.first_layer,
        }
        wanted = np.array([by_kind[kind] for kind in KINDS])[lines.kinds]
        if first:
            wanted = np.minimum(wanted, speeds.first_layer)
        return np.asarray(np.minimum(wanted, self._printer.flow / (lines.widths * thickness)), np.float64)


_NOTHING = Lines(np.zeros((0, 2)), np.zeros(1, np.int64), np.zeros(0, np.int8), np.zeros(0))
