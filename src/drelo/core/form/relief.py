"""Form relief: regions raised over a base, sunk into it, flush with it or cut through it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.errors import Refusal
from drelo.core.form.base import Base, base_plate
from drelo.core.form.columns import Band, Column, Design, Filament
from drelo.core.form.edges import STRAIGHT, Edge, check_edge, footing, grown, inset, pocket_profile, profile
from drelo.core.outline.outline import only_areas
from drelo.core.remark import Remark

Height = float | Literal["through"]
MAX_HEIGHT = 500.0
INLAY_DEPTH = 0.6


@dataclass(frozen=True, eq=False)
class Part:
    """One region or group of regions.

    shape: valid polygonal geometry, mm, y up. height: mm above the base's top; negative sinks, 0 is flush.
    colour: of its filament. field: path of its height, for messages. edge: how it falls off.
    number: of its region. hole: it goes through everything on its place, in every form, and no base follows it.
    """

    shape: BaseGeometry
    height: Height
    colour: str
    name: str
    field: str = "heights"
    edge: Edge = STRAIGHT
    number: int = -1
    hole: bool = False


def holes_of(parts: Sequence[Part]) -> BaseGeometry:
    """Everything that is cut through whatever lies there, mm; empty where nothing is."""
    return shapely.union_all([p.shape for p in parts if p.hole]) if any(p.hole for p in parts) else shapely.Polygon()


@dataclass(frozen=True)
class Relief:
    """Lengths in mm.

    inlay: how deep what is flush goes. flat_top: all that is raised ends at one height, so that a cup stands.
    rim_width, rim_height: of a rim along the base's edge; none where the width is 0.
    clip: art that stands out over its base is cut off, not taken down to the bottom. layer: of the print.
    """

    inlay: float = INLAY_DEPTH
    flat_top: bool = False
    rim_width: float = 0.0
    rim_height: float = 1.2
    clip: bool = False
    layer: float = 0.2


def relief(
    parts: Sequence[Part],
    base: Base,
    tolerance: float,
    plate: BaseGeometry | None = None,
    numbers: Relief = Relief(),
) -> Design:
    """Design of a relief; later parts cover earlier ones.

    tolerance: mm, for the curves of the base. plate: the base's footprint, when it is known already.

    Raises Refusal with the field's path.
    """
    _check_relief(numbers)
    holes = holes_of(parts)
    drawn = [p for p in parts if not p.hole]
    if numbers.flat_top:
        raised = [p.height for p in drawn if p.height != "through" and p.height > 0]
        drawn = [replace(p, height=max(raised)) if p.height in raised else p for p in drawn]
    if not any(p.shape.area > 0 for p in drawn) and not base.stands_alone:
        raise Refusal("art.no-outline", "art")
    for part in drawn:
        _check(part, base)
    if plate is None:
        plate = base_plate(base, shapely.geometrycollections([p.shape for p in drawn]), tolerance)
    thickness = base.thickness if base.shape != "none" else 0.0
    if numbers.clip and thickness:
        drawn = [replace(p, shape=only_areas(shapely.intersection(p.shape, plate))) for p in drawn]
    remarks: list[Remark] = []
    if thickness:
        drawn, cut = _kept_inside(drawn, plate)
        if cut > 0:
            remarks.append(
                Remark(f"{cut:.1f} mm² of what is sunk or flush lies off the base, where there is nothing to cut into.")
            )
    overhang = _overhang(drawn, plate) if base.shape != "none" else None
    if overhang is not None:
        far = shapely.distance(plate, shapely.points(shapely.get_coordinates(overhang))).max()
        remarks.append(
            Remark(f"The art reaches {far:.2f} mm past the base; there it goes down to the bottom.", remedy="clip")
        )
    remarks += _loose(drawn, plate, base)
    if base.shape == "none" and any(p.height in (0, "through") for p in drawn):
        remarks.append(Remark("Without a base, regions that are flush or cut through leave nothing to print."))
    colours = list(dict.fromkeys([base.colour] * bool(thickness) + [p.colour for p in drawn]))
    number = {colour: i for i, colour in enumerate(colours)}
    inlay = min(numbers.inlay, thickness)
    stepped = _stepped(drawn, numbers.layer, tolerance, plate if thickness else None)
    own_base = number[base.colour] if thickness else 0
    columns = [column_of(p, thickness, own_base, number[p.colour], inlay) for p in stepped]
    columns = rooted(stepped, columns, thickness, inlay)
    layers, stacks = [p.shape for p in stepped], columns
    owners = [p.number for p in stepped]
    if thickness:
        owners.insert(0, -1)
        layers = [plate, *layers]
        stacks = [(Band(0.0, thickness, number[base.colour]),), *columns]
        if numbers.rim_width > 0:
            layers.append(shapely.difference(plate, shapely.buffer(plate, -numbers.rim_width)))
            stacks.append((Band(0.0, thickness + numbers.rim_height, number[base.colour]),))
            owners.append(-1)
    if not holes.is_empty:
        layers.append(holes)
        stacks.append(())
        owners.append(-1)
    used = {band.filament for column in stacks for band in column}
    filaments = [Filament(colour, _body_name(colour, drawn, base, bool(thickness))) for colour in colours]
    footprint = (plate if holes.is_empty else shapely.difference(plate, holes)) if thickness else None
    whole = Design(
        tuple(layers),
        tuple(stacks),
        tuple(filaments),
        tuple(remarks),
        owners=tuple(owners),
        footprint=footprint,
        overhang=overhang,
        datum=None if numbers.flat_top else thickness,
    )
    return _compact(whole, used)


def _check_relief(numbers: Relief) -> None:
    for name, value, low, high in (
        ("inlay", numbers.inlay, 0.02, 100.0),
        ("rim_width", numbers.rim_width, 0.0, 100.0),
        ("rim_height", numbers.rim_height, 0.02, 100.0),
        ("layer", numbers.layer, 0.02, 2.0),
    ):
        if not (math.isfinite(value) and low <= value <= high):
            raise Refusal("relief.out-of-range", f"relief.{name}", name=name, low=low, high=high)


def _stepped(parts: Sequence[Part], layer: float, tolerance: float, plate: BaseGeometry | None) -> list[Part]:
    """Parts whose edges fall off as several, one inside the other. plate: the base, if there is one."""
    falling = {i for i, p in enumerate(parts) if p.edge.kind != "straight" and p.height not in ("through", 0)}
    if not falling:
        return list(parts)
    shapes = np.array([p.shape for p in parts])
    tree = shapely.STRtree(shapes)
    result: list[Part] = []
    for number, part in enumerate(parts):
        if number not in falling or part.height == "through":
            result.append(part)
            continue
        over = np.sort(tree.query(part.shape))
        covered = shapely.union_all(shapes[over[over > number]])
        seen = only_areas(shapely.difference(part.shape, covered))
        if part.edge.kind == "draft" and part.height > 0:
            result += [*_foot(parts, tree, number, seen, plate, layer, tolerance), part]
            continue
        result.append(part)
        falls = profile if part.height > 0 else pocket_profile
        sign = 1 if part.height > 0 else -1
        levels = falls(part.edge, abs(part.height), layer)
        result[-1] = replace(part, height=sign * levels[0][1])
        for by, reach in levels[1:]:
            smaller = inset(seen, by, tolerance)
            if not smaller.is_empty:
                result.append(replace(part, shape=smaller, height=sign * reach))
    return result


def _foot(
    parts: Sequence[Part],
    tree: shapely.STRtree,
    number: int,
    seen: BaseGeometry,
    plate: BaseGeometry | None,
    layer: float,
    tolerance: float,
) -> list[Part]:
    """What a raised region with a draft stands on: its face is as drawn, and it widens down from there.

    It covers nothing that is as high or higher, sunk, or cut through, and does not reach over the base.
    """
    part = parts[number]
    steps = []
    for by, level in footing(part.edge, abs(float(part.height)), layer):
        wide = grown(seen, by, tolerance)
        near = [parts[i] for i in tree.query(wide).tolist() if i != number]
        higher = [p.shape for p in near if p.height == "through" or p.height <= 0 or p.height >= level]
        wide = shapely.difference(wide, shapely.union_all(higher))
        if plate is not None:
            wide = shapely.intersection(wide, plate)
        if not (wide := only_areas(wide)).is_empty:
            steps.append(replace(part, shape=wide, height=level))
    return steps


def _check(part: Part, base: Base) -> None:
    check_edge(part.edge, f"{part.field.removesuffix('.height')}.edge")
    height = part.height
    if height == "through":
        return
    if not isinstance(height, (int, float)) or not math.isfinite(height) or abs(height) > MAX_HEIGHT:
        raise Refusal("relief.height", part.field, most=MAX_HEIGHT)
    if height < 0 and base.shape == "none":
        raise Refusal("relief.sunk-without-base", part.field)
    if height < 0 and -height >= base.thickness:
        raise Refusal("relief.sunk-through", part.field, depth=-height, thickness=base.thickness)


def column_of(part: Part, thickness: float, base: int, own: int, inlay: float) -> Column:
    height = part.height
    if height == "through":
        return ()
    if height > 0:
        foot: Column = (Band(0.0, thickness, base),) if thickness else ()
        return (*foot, Band(thickness, thickness + height, own))
    if not thickness:
        return ()
    if height < 0:
        return (Band(0.0, thickness + height, base),)
    foot = (Band(0.0, thickness - inlay, base),) if thickness > inlay else ()
    return (*foot, Band(thickness - inlay, thickness, own))


def rooted(parts: Sequence[Part], columns: list[Column], thickness: float, inlay: float) -> list[Column]:
    """Raised parts of a filament that is inlaid as well go down to the inlay's floor.

    Else the two would touch along a line only, one ending at the height at which the other begins.
    """
    inlaid = {p.colour for p in parts if p.height == 0}
    floor = thickness - inlay
    result = []
    for part, column in zip(parts, columns, strict=True):
        raised = part.height != "through" and part.height > 0
        if (
            raised
            and thickness
            and part.colour in inlaid
            and len(column) == 2
            and column[0].filament != column[1].filament
        ):
            foot, own = column
            column = ((replace(foot, top=floor),) if floor > 0 else ()) + (replace(own, bottom=floor),)
        result.append(column)
    return result


def _kept_inside(parts: Sequence[Part], plate: BaseGeometry) -> tuple[list[Part], float]:
    """Parts, of which those that are sunk or flush end where the base does; and how much of them lay beside it, mm²."""
    result, cut = [], 0.0
    shapely.prepare(plate)
    for part in parts:
        low = part.height != "through" and part.height <= 0
        if low and not shapely.covers(plate, part.shape):
            inside = only_areas(shapely.intersection(part.shape, plate))
            cut += part.shape.area - inside.area
            part = replace(part, shape=inside)
        result.append(part)
    # Chords of the base's curves leave hairs that are none.
    return result, cut if cut > 1e-3 + 1e-6 * plate.area else 0.0


def _overhang(parts: Sequence[Part], plate: BaseGeometry) -> BaseGeometry | None:
    """What of the art stands out over the base; None where it all lies on it."""
    shapes = np.array([p.shape for p in parts if p.height != "through"])
    shapely.prepare(plate)
    out = shapes[~shapely.covers(plate, shapes)] if len(shapes) else shapes
    outside = only_areas(shapely.difference(shapely.union_all(out), plate))
    # The chords of the base's curves leave hairs that are none.
    return None if outside.area <= 1e-3 + 1e-6 * plate.area else outside


def _loose(parts: Sequence[Part], plate: BaseGeometry, base: Base) -> list[Remark]:
    whole = shapely.union_all([p.shape for p in parts if p.height != "through"]) if base.shape == "none" else plate
    count = int(shapely.get_num_geometries(whole))
    if count < 2:
        return []
    mend = "Choose a base" if base.shape == "none" else "Widen the base's margin, or use one plate for all"
    return [
        Remark(f"The piece comes out in {count} separate parts. {mend}, to hold them together.", remedy="one plate")
    ]


def _body_name(colour: str, parts: Sequence[Part], base: Base, has_base: bool) -> str:
    names = [p.name for p in parts if p.colour == colour and p.name and p.height != "through"]
    if has_base and colour == base.colour:
        return "base"
    unique = list(dict.fromkeys(names))
    return ", ".join(unique[:4]) + (" …" if len(unique) > 4 else "") if unique else colour


def _compact(design: Design, used: set[int]) -> Design:
    """Without filaments that no band uses."""
    keep = [i for i in range(len(design.filaments)) if i in used]
    if not keep:
        raise Refusal("relief.nothing-to-build", "heights")
    if len(keep) == len(design.filaments):
        return design
    place = {old: new for new, old in enumerate(keep)}
    columns = tuple(tuple(replace(b, filament=place[b.filament]) for b in c) for c in design.columns)
    return replace(design, columns=columns, filaments=tuple(design.filaments[i] for i in keep))
