"""What the rehearsal of a piece found, brought back to the sheet: where it lies, whose it is, what would mend it."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from drelo.core.form.base import mirrored
from drelo.core.form.columns import Design
from drelo.core.form.relief import Height
from drelo.core.piece.applying import apply
from drelo.core.piece.document import Document
from drelo.core.piece.edits import Picked, SetBase, SetForm, SetPrinting, SetRegions
from drelo.core.piece.flat import sheet_box, sheet_path
from drelo.core.piece.operations import Offset, Thicken, Tie
from drelo.core.rehearsal.by_design import changes_of
from drelo.core.rehearsal.settings import Manner
from drelo.core.rehearsal.troubles import Trouble

TIE_WIDTH = 1.6
# Loops of a brim that hold what stands on little.
BRIM = 5
# How far over a gap what closes it is grown, mm.
OVER = 0.02
# Heights nearer than this are the same, mm.
SAME = 0.011
Edit = SetBase | SetRegions | SetForm | SetPrinting | Offset | Thicken | Tie


@dataclass(frozen=True)
class Mend:
    """An edit that would help, and what it does in words."""

    words: str
    edit: Edit


@dataclass(frozen=True)
class TroublePlace:
    """Where a trouble lies on the sheet: path, at and radius in mm. regions: whose it is."""

    path: str
    at: tuple[float, float]
    radius: float
    regions: tuple[str, ...]
    mend: Mend | None


@dataclass(frozen=True)
class Fewer:
    """Other heights with which filament is changed less often. changes: how often then; now: how often now."""

    words: str
    changes: int
    now: int
    edit: Edit


@dataclass(frozen=True)
class Prospects:
    """places: of the troubles that were found, in their order. fewer: how filament would be changed less often."""

    places: tuple[TroublePlace, ...]
    fewer: tuple[Fewer, ...]


@dataclass(frozen=True)
class Standing:
    """A kept region: how it is picked, its name, its shape (mm, as drawn), its height, its filament."""

    pick: Picked
    name: str
    shape: BaseGeometry
    height: Height
    colour: str


def trouble_places(
    document: Document,
    design: Design,
    regions: Sequence[Standing],
    found: Sequence[Trouble],
    at_sheet: tuple[float, float],
    nozzle: float,
) -> tuple[TroublePlace, ...]:
    """Troubles (places as the file has them, its box at 0, 0) on the sheet.

    at_sheet: where the design's origin lies on the sheet, mm. nozzle: mm.
    """
    left, bottom = at_sheet
    whole = shapely.total_bounds([g for g, c in zip(design.layers, design.columns, strict=True) if c])
    low, deep = whole[:2], float(whole[3] - whole[1])
    if document.printing.face_down:
        found = [_turned(trouble, deep) for trouble in found]
    built_mirrored = document.form in ("stamp", "cutter")
    owner_of = _owners(design)
    places = []
    for number, trouble in enumerate(found):
        shape = shapely.transform(trouble.shape, lambda xy: xy + low)
        at = (float(trouble.at[0] + low[0]), float(trouble.at[1] + low[1]))
        own = owner_of(shapely.Point(at))
        owner = regions[own] if 0 <= own < len(regions) else None
        if built_mirrored:
            shape, at = mirrored(shape), (-at[0], at[1])
        drawn = replace(trouble, shape=shape, at=at)
        box = sheet_box(shape.bounds, left, bottom)
        places.append(
            TroublePlace(
                sheet_path(shape, left, bottom),
                (left + at[0], bottom - at[1]),
                max(box[2], box[3]) / 2,
                (owner.pick.id,) if owner and trouble.kind not in ("too large", "too tall") else (),
                _mend(document, drawn, owner, regions, number, nozzle),
            )
        )
    return tuple(places)


def _turned(trouble: Trouble, deep: float) -> Trouble:
    """A trouble of a print that lies on its top, as the piece is drawn. deep: of the box, mm."""
    shape = shapely.transform(trouble.shape, lambda xy: xy * [1.0, -1.0] + [0.0, deep])
    return replace(trouble, shape=shape, at=(trouble.at[0], deep - trouble.at[1]))


def _owners(design: Design) -> Callable[[BaseGeometry], int]:
    """Finds the region at a point, or the nearest one; -1 where there is none."""
    owned = [i for i, owner in enumerate(design.owners) if owner >= 0]
    shapes = np.array([design.layers[i] for i in owned], object)

    def nearest(point: BaseGeometry) -> int:
        if not owned:
            return -1
        far = shapely.distance(shapes, point)
        return int(design.owners[owned[int(np.flatnonzero(far <= far.min() + 1e-6)[-1])]])

    return nearest


def _mend(
    document: Document,
    trouble: Trouble,
    owner: Standing | None,
    regions: Sequence[Standing],
    number: int,
    nozzle: float,
) -> Mend | None:
    match trouble.kind:
        case "little hold" if document.printing.manner.brim < BRIM:
            manner = document.printing.manner.model_copy(update={"brim": BRIM})
            return Mend("Add a brim", SetPrinting(manner=manner))
        case "overhang" | "bridge" | "starts in the air" if _hangs_by_its_grip(document):
            grip = document.stamp.grip.model_copy(update={"joint": "peg"})
            return Mend("Print the grip apart", SetForm(stamp=document.stamp.model_copy(update={"grip": grip})))
        case "overhang" | "starts in the air" if document.form == "relief":
            return Mend("Turn it over", SetPrinting(face_down=not document.printing.face_down))
        case "loose part" if document.base.shape == "outline" and document.form != "cutter":
            return Mend("Use one plate", SetBase(shape="rectangle"))
        case "between layers":
            return _to_layer(document, trouble, regions)
    if owner is None or document.form == "cutter":
        return None
    # A name that no thing of the piece has, and the same for the same piece.
    told = repr([[t.id for t in document.drawn], owner.pick.id, trouble.kind, number])
    seed = "m" + hashlib.sha256(told.encode()).hexdigest()[:12]
    mine = (owner.pick.id,)
    half = nozzle / 2
    match trouble.kind:
        case "not printed":
            return Mend("Thicken it", Thicken(seed=seed, picked=mine, least=nozzle))
        case "gap closes":
            within = shapely.buffer(shapely.buffer(owner.shape, half), -half)
            if within.intersects(shapely.Point(trouble.at)):
                return Mend("Close it", Offset(seed=seed, picked=mine, by=half, back=-half, keep=False))
            by = round(min(trouble.value + OVER, nozzle), 3)
            return Mend("Grow it across the gap", Offset(seed=seed, picked=mine, by=by, keep=False))
        case "loose part" if document.base.shape == "none":
            return Mend("Tie it", Tie(seed=seed, picked=tuple(r.pick.id for r in regions), width=TIE_WIDTH))
    return None


def _hangs_by_its_grip(document: Document) -> bool:
    grip = document.stamp.grip
    return document.form == "stamp" and grip.kind in ("knob", "bar") and grip.joint == "joined"


def _to_layer(document: Document, trouble: Trouble, regions: Sequence[Standing]) -> Mend | None:
    """What ends between two layers set to end at the nearest one, and regions at least a layer high."""
    stamp, by = document.stamp, trouble.limit - trouble.value
    if document.form == "stamp":
        lift = stamp.grip.to_core().height if _hangs_by_its_grip(document) else 0.0
        if abs(lift + stamp.thickness + stamp.depth - trouble.value) > SAME:
            return None
        depth = round(stamp.depth + by, 4)
        return Mend("Round to a layer", SetForm(stamp=stamp.model_copy(update={"depth": depth})))
    if document.form not in ("relief", "nameplate"):
        return None
    floor = (
        (document.nameplate.thickness or 2.4)
        if document.form == "nameplate"
        else (0.0 if document.base.shape == "none" else document.base.thickness)
    )
    mine = [
        r for r in regions if isinstance(r.height, float) and r.height and abs(floor + r.height - trouble.value) < SAME
    ]
    if not mine or not isinstance(mine[0].height, float):
        return None
    layer = document.layer
    height = round(mine[0].height + by, 4)
    if abs(height) < layer - SAME:
        height = round(layer if mine[0].height > 0 else -layer, 4)
    return Mend("Round to a layer", SetRegions(picked=tuple(r.pick for r in mine), height=height))


def fewer_changes(
    document: Document, regions: Sequence[Standing], design_of: Callable[[Document], Design], manner: Manner
) -> tuple[Fewer, ...]:
    """Heights with which filament would be changed less often, the fewest changes first.

    What is flush needs both filaments in every layer of its inlay: raised by as much it stands above the base, and
    inlaid one layer deep it shares a single layer with it.
    """
    if document.form not in ("relief", "nameplate"):
        return ()
    now = len(changes_of(design_of(document), manner))
    flush = [r for r in regions if r.height == 0]
    if now < 2 or not flush:
        return ()
    names = list(dict.fromkeys(r.name for r in flush))
    said = names[0] if len(names) == 1 else "What is flush"
    deep = document.relief.inlay
    tries: list[tuple[str, SetRegions | SetForm]] = [
        (f"{said} raised {deep:g} mm instead of flush", SetRegions(picked=tuple(r.pick for r in flush), height=deep))
    ]
    if document.form == "relief" and deep > manner.layer + SAME:
        numbers = document.relief.model_copy(update={"inlay": manner.layer})
        tries.append((f"{said} inlaid one layer deep", SetForm(relief=numbers)))
    found = []
    for words, edit in tries:
        then = len(changes_of(design_of(apply(document, edit)), manner))
        if then < now:
            found.append(Fewer(words, then, now, edit))
    return tuple(sorted(found, key=lambda f: f.changes))
