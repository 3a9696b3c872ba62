"""Edits: every change to a piece is one of these, and `apply` is the only way to make it."""

from __future__ import annotations

from typing import Annotated, Any, Literal, TypeVar

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, TypeAdapter, ValidationError

from drelo.core.errors import Refusal
from drelo.core.form.base import MAX_MARGIN, MAX_THICKNESS, BaseShape
from drelo.core.picture.care import placement
from drelo.core.picture.palette import MAX_COLOURS, MIN_COLOURS
from drelo.core.piece.document import (
    MAX_CARE,
    BasePlate,
    CareStep,
    Colour,
    Document,
    Filament,
    Frozen,
    Identifier,
    Mark,
    Name,
    Palette,
    Permission,
    RegionChoice,
    RegionHeight,
    Size,
    Source,
    TraceSettings,
)
from drelo.core.trace.modes import Mode

MAX_PICKED = 5000
T = TypeVar("T", bound=Frozen)


class PutPicture(Frozen):
    """Take a picture as the piece's source; what was decided for regions waits for shapes in the same places."""

    do: Literal["put-picture"] = "put-picture"
    source: Source


class SetSource(Frozen):
    """Note where the picture came from, and by what right it is used; only what is given changes."""

    do: Literal["set-source"] = "set-source"
    origin: Annotated[str, Field(max_length=400)] | None = None
    permission: Permission | None = None


class SetCare(Frozen):
    """What is done to the picture before it is traced, in order. The original is kept."""

    do: Literal["set-care"] = "set-care"
    care: Annotated[tuple[CareStep, ...], Field(max_length=MAX_CARE)]


class SetTrace(Frozen):
    """Trace again with other settings; only those that are given change, null lets Drelo find it."""

    do: Literal["set-trace"] = "set-trace"
    level: Annotated[float, Field(ge=0, le=1)] | None = None
    mode: Mode | None = None
    invert: bool | None = None
    speck: Annotated[float, Field(ge=0, le=1e9)] | None = None
    smooth: Annotated[float, Field(ge=0, le=1)] | None = None
    keen: Annotated[float, Field(ge=0, le=1)] | None = None
    silhouette: bool | None = None
    colours: Annotated[int, Field(ge=MIN_COLOURS, le=MAX_COLOURS)] | None = None
    palette: Palette | None = None
    background: Colour | Literal["none"] | None = None
    width: Annotated[float, Field(gt=0, le=1e4)] | None = None


class SetSize(Frozen):
    do: Literal["set-size"] = "set-size"
    size: Size


class SetBase(Frozen):
    """Only the values that are given change. Lengths in mm."""

    do: Literal["set-base"] = "set-base"
    shape: BaseShape | None = None
    margin: Annotated[float, Field(ge=0, le=MAX_MARGIN)] | None = None
    thickness: Annotated[float, Field(gt=0, le=MAX_THICKNESS)] | None = None
    corner_radius: Annotated[float, Field(ge=0, le=MAX_MARGIN)] | None = None
    filament: Identifier | None = None


class Picked(Frozen):
    """A region as the flat view names it."""

    id: Identifier
    mark: Mark


class SetRegions(Frozen):
    """Height, filament or name of one or several regions; only the values that are given change."""

    do: Literal["set-regions"] = "set-regions"
    picked: Annotated[tuple[Picked, ...], Field(min_length=1, max_length=MAX_PICKED)]
    height: RegionHeight | None = None
    filament: Identifier | None = None
    name: Name | None = None


class SetDefaults(Frozen):
    """Height and filament of regions for which nothing was decided."""

    do: Literal["set-defaults"] = "set-defaults"
    height: RegionHeight | None = None
    filament: Identifier | None = None


class SetFilament(Frozen):
    """Change a filament, or add one with a new id."""

    do: Literal["set-filament"] = "set-filament"
    id: Identifier
    name: Name
    colour: Colour


class SetUnits(Frozen):
    do: Literal["set-units"] = "set-units"
    units: Literal["mm", "inch"]


Edit = Annotated[
    PutPicture | SetSource | SetCare | SetTrace | SetSize | SetBase | SetRegions | SetDefaults | SetFilament | SetUnits,
    Field(discriminator="do"),
]
EDIT: TypeAdapter[Edit] = TypeAdapter(Edit)


def apply(document: Document, edit: Edit) -> Document:
    """The document after an edit. Raises Refusal when a value is out of its range or names nothing."""
    match edit:
        case PutPicture(source=source):
            return _with(document, source=source)
        case SetSource():
            if document.source is None:
                raise Refusal("The piece has no picture yet. Drop one on the page to begin.", "source")
            noted = {k: v for k, v in _given(edit).items() if v is not None}
            return _with(document, source=_checked(Source, {**document.source.model_dump(), **noted}, "source"))
        case SetCare():
            return _cared(document, edit)
        case SetTrace():
            return _with(
                document,
                trace=_checked(TraceSettings, {**document.trace.model_dump(), **_given(edit)}, "trace"),
            )
        case SetSize(size=size):
            return _with(document, size=size)
        case SetBase():
            _known(document, edit.filament)
            return _with(document, base=_checked(BasePlate, {**document.base.model_dump(), **_given(edit)}, "base"))
        case SetRegions():
            _known(document, edit.filament)
            return _with(document, regions=_decided(document.regions, edit))
        case SetDefaults():
            _known(document, edit.filament)
            names = {"height": "default_height", "filament": "default_filament"}
            return _with(document, **{names[k]: v for k, v in _given(edit).items()})
        case SetFilament():
            return _with(document, filaments=_spools(document.filaments, edit))
        case SetUnits(units=units):
            return _with(document, units=units)


def _cared(document: Document, edit: SetCare) -> Document:
    """Marks of regions go where the picture's care takes them, so that what was decided stays with its place."""
    source = document.source
    if source is None:
        raise Refusal("The piece has no picture yet. Drop one on the page to begin.", "source")
    after = source.model_copy(update={"care": edit.care})
    old = placement(source.width, source.height, source.steps)
    new = placement(source.width, source.height, after.steps)
    matrix = new @ np.linalg.inv(old)
    regions = tuple(r.model_copy(update={"mark": _moved(r.mark, matrix)}) for r in document.regions)
    return _with(document, source=after, regions=regions)


def _moved(mark: Mark, matrix: NDArray[np.float64]) -> Mark:
    x0, y0, x1, y1 = mark.box
    points = np.array([mark.anchor, (x0, y0), (x1, y0), (x1, y1), (x0, y1)])
    moved = np.column_stack([points, np.ones(5)]) @ matrix.T
    flat = np.clip(moved[:, :2] / np.where(np.abs(moved[:, 2:]) < 1e-9, 1e-9, moved[:, 2:]), -1e6, 1e6)
    (left, top), (right, bottom) = flat[1:].min(axis=0).tolist(), flat[1:].max(axis=0).tolist()
    return Mark(anchor=(float(flat[0, 0]), float(flat[0, 1])), box=(left, top, right, bottom))


def _given(edit: Frozen) -> dict[str, Any]:
    return edit.model_dump(exclude_unset=True, exclude={"do", "picked"})


def _with(document: Document, **changes: Any) -> Document:
    return _checked(Document, {**document.model_dump(), **{k: _plain(v) for k, v in changes.items()}}, "")


def _plain(value: Any) -> Any:
    if isinstance(value, Frozen):
        return value.model_dump()
    return [_plain(v) for v in value] if isinstance(value, tuple | list) else value


def _checked(kind: type[T], values: dict[str, Any], field: str) -> T:
    try:
        return kind.model_validate(values)
    except ValidationError as error:
        first = error.errors()[0]
        path = ".".join([field] * bool(field) + [str(p) for p in first["loc"]])
        raise Refusal(f"{first['msg']}.", path) from None


def _known(document: Document, filament: str | None) -> None:
    if filament is not None and all(f.id != filament for f in document.filaments):
        raise Refusal("The piece has no filament of that name.", "filament")


def _decided(choices: tuple[RegionChoice, ...], edit: SetRegions) -> tuple[RegionChoice, ...]:
    given = _given(edit)
    result = {c.id: c for c in choices}
    for picked in edit.picked:
        before = result.get(picked.id, RegionChoice(id=picked.id, mark=picked.mark))
        result[picked.id] = before.model_copy(update={**given, "mark": picked.mark})
    return tuple(result.values())


def _spools(filaments: tuple[Filament, ...], edit: SetFilament) -> tuple[Filament, ...]:
    new = Filament(id=edit.id, name=edit.name, colour=edit.colour)
    if any(f.id == edit.id for f in filaments):
        return tuple(new if f.id == edit.id else f for f in filaments)
    return (*filaments, new)
