"""Form relief: regions raised over a base, sunk into it, flush with it or cut through it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.errors import Refusal
from drelo.core.form.base import Base, base_plate
from drelo.core.form.columns import Band, Column, Design, Filament

Height = float | Literal["through"]
MAX_HEIGHT = 500.0
INLAY_DEPTH = 0.6


@dataclass(frozen=True, eq=False)
class Part:
    """One region or group of regions.

    shape: valid polygonal geometry, mm, y up. height: mm above the base's top; negative sinks, 0 is flush.
    colour: of its filament. field: path of its height, for messages.
    """

    shape: BaseGeometry
    height: Height
    colour: str
    name: str
    field: str = "heights"


def relief(parts: Sequence[Part], base: Base, tolerance: float, plate: BaseGeometry | None = None) -> Design:
    """Design of a relief; later parts cover earlier ones.

    tolerance: mm, for the curves of the base. plate: the base's footprint, when it is known already.

    Raises Refusal with the field's path.
    """
    drawn = list(parts)
    if not any(p.shape.area > 0 for p in drawn):
        raise Refusal("The art is empty: there is no closed outline to raise.", "art")
    for part in drawn:
        _check(part, base)
    if plate is None:
        plate = base_plate(base, shapely.union_all([p.shape for p in drawn]), tolerance)
    thickness = base.thickness if base.shape != "none" else 0.0
    remarks = [_overhang(drawn, plate)] if base.shape != "none" else []
    remarks.append(_loose(drawn, plate, base))
    if base.shape == "none" and any(p.height in (0, "through") for p in drawn):
        remarks.append("Parts of height 0 or cut through leave nothing where there is no base.")
    colours = list(dict.fromkeys([base.colour] * bool(thickness) + [p.colour for p in drawn]))
    number = {colour: i for i, colour in enumerate(colours)}
    columns = [_column(p, thickness, number[base.colour] if thickness else 0, number[p.colour]) for p in drawn]
    columns = _rooted(drawn, columns, thickness)
    layers, stacks = [p.shape for p in drawn], columns
    if thickness:
        layers = [plate, *layers]
        stacks = [(Band(0.0, thickness, number[base.colour]),), *columns]
    used = {band.filament for column in stacks for band in column}
    filaments = [Filament(colour, _body_name(colour, drawn, base, bool(thickness))) for colour in colours]
    return _compact(Design(tuple(layers), tuple(stacks), tuple(filaments), tuple(r for r in remarks if r)), used)


def _check(part: Part, base: Base) -> None:
    height = part.height
    if height == "through":
        return
    if not isinstance(height, (int, float)) or not math.isfinite(height) or abs(height) > MAX_HEIGHT:
        raise Refusal(f'A height must be a number up to {MAX_HEIGHT:g} mm, or "through".', part.field)
    if height < 0 and base.shape == "none":
        raise Refusal("A negative height needs a base to sink into. Choose a base or raise the region.", part.field)
    if height < 0 and -height >= base.thickness:
        raise Refusal(
            f"The region is sunk {-height:g} mm into a base of {base.thickness:g} mm and would go through it. "
            'Make it shallower, the base thicker, or say "through".',
            part.field,
        )


def _column(part: Part, thickness: float, base: int, own: int) -> Column:
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
    depth = min(INLAY_DEPTH, thickness)
    foot = (Band(0.0, thickness - depth, base),) if thickness > depth else ()
    return (*foot, Band(thickness - depth, thickness, own))


def _rooted(parts: Sequence[Part], columns: list[Column], thickness: float) -> list[Column]:
    """Raised parts of a filament that is inlaid as well go down to the inlay's floor.

    Else the two would touch along a line only, one ending at the height at which the other begins.
    """
    inlaid = {p.colour for p in parts if p.height == 0}
    floor = thickness - min(INLAY_DEPTH, thickness)
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


def _overhang(parts: Sequence[Part], plate: BaseGeometry) -> str:
    standing = shapely.union_all([p.shape for p in parts if p.height != "through"])
    outside = shapely.difference(standing, plate).area
    # The chords of the base's curves leave hairs that are none.
    if outside <= 1e-3 + 1e-6 * plate.area:
        return ""
    return f"{outside:.1f} mm² of the art stand out over the base; there it goes down to the bottom."


def _loose(parts: Sequence[Part], plate: BaseGeometry, base: Base) -> str:
    whole = shapely.union_all([p.shape for p in parts if p.height != "through"]) if base.shape == "none" else plate
    count = int(shapely.get_num_geometries(whole))
    if count < 2:
        return ""
    mend = "Choose a base" if base.shape == "none" else "Widen the base's margin, or choose a round or rectangular one"
    return f"The piece falls into {count} separate parts. {mend} to hold them together."


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
        raise Refusal("Nothing stands: every region is cut through, or has no height and no base.", "heights")
    place = {old: new for new, old in enumerate(keep)}
    columns = tuple(tuple(replace(b, filament=place[b.filament]) for b in c) for c in design.columns)
    return replace(design, columns=columns, filaments=tuple(design.filaments[i] for i in keep))
