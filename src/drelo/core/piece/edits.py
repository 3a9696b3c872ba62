"""Edits: every change to a piece is one of these, and `apply` is the only way to make it."""

from __future__ import annotations

from typing import Annotated, Any, Literal, TypeVar

from pydantic import Field, TypeAdapter, ValidationError

from drelo.core.errors import Refusal
from drelo.core.form.base import MAX_MARGIN, MAX_THICKNESS, BaseShape
from drelo.core.picture.palette import MAX_COLOURS, MIN_COLOURS
from drelo.core.piece.document import (
    MAX_CARE,
    Attempt,
    BasePlate,
    BlockSide,
    CareStep,
    Colour,
    Document,
    Drawn,
    Filament,
    Form,
    Frozen,
    Identified,
    Identifier,
    Mark,
    Mend,
    Name,
    Palette,
    PenLine,
    Permission,
    PictureArea,
    Point,
    RegionChoice,
    RegionHeight,
    Size,
    Source,
    Symmetry,
    TraceSettings,
)
from drelo.core.piece.drawn import MAX_DRAWN, Thing
from drelo.core.piece.form_numbers import (
    CutterOptions,
    EdgeOptions,
    NameplateOptions,
    ReliefOptions,
    StampOptions,
)
from drelo.core.piece.moving import cared_for, pictured, switched, without
from drelo.core.trace.area import MAX_CORNERS
from drelo.core.trace.modes import Mode

MAX_PICKED = 12_000
T = TypeVar("T", bound=Frozen)
Named = TypeVar("Named", bound=Identified | Thing)


class PutPicture(Frozen):
    """Take a picture as the piece's source; what was decided for regions waits for shapes in the same places."""

    do: Literal["put-picture"] = "put-picture"
    source: Source


class SetSource(Frozen):
    """Note where the picture came from, and by what right it is used; only what is given changes."""

    do: Literal["set-source"] = "set-source"
    origin: Annotated[str, Field(max_length=400)] | None = None
    permission: Permission | None = None
    whole: bool | None = None


class SetCare(Frozen):
    """What is done to the picture before it is traced, in order. The original is kept."""

    do: Literal["set-care"] = "set-care"
    care: Annotated[tuple[CareStep, ...], Field(max_length=MAX_CARE)]


class SwitchCare(Frozen):
    """Take one step of the picture's care back, do it again, or forget it; the others stay."""

    do: Literal["switch-care"] = "switch-care"
    at: Annotated[int, Field(ge=0, lt=MAX_CARE)]
    state: Literal["on", "off", "gone"]


class SetTrace(Frozen):
    """Trace again with other settings; only those that are given change, null lets Drelo find it.

    area: the settings of this area; without it, those of the whole picture.
    """

    do: Literal["set-trace"] = "set-trace"
    area: Identifier | None = None
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
    pinhole: Annotated[float, Field(ge=0, le=1e9)] | None = None
    local: bool | None = None


class SetTracing(Frozen):
    """Off: only what the pen drew counts."""

    do: Literal["set-tracing"] = "set-tracing"
    on: bool


class AddArea(Frozen):
    """Trace only here, too: a part of the picture, which begins with the settings of the whole."""

    do: Literal["add-area"] = "add-area"
    id: Identifier
    corners: Annotated[tuple[Point, ...], Field(min_length=3, max_length=MAX_CORNERS)]
    name: Name | None = None


class SetArea(Frozen):
    """Other corners or another name; only what is given changes."""

    do: Literal["set-area"] = "set-area"
    id: Identifier
    corners: Annotated[tuple[Point, ...], Field(min_length=3, max_length=MAX_CORNERS)] | None = None
    name: Name | None = None


class DropArea(Frozen):
    do: Literal["drop-area"] = "drop-area"
    id: Identifier


class KeepAttempt(Frozen):
    """Keep all settings of the trace as they stand now."""

    do: Literal["keep-attempt"] = "keep-attempt"
    id: Identifier
    name: Name | None = None


class ChooseAttempt(Frozen):
    """Trace as an attempt did."""

    do: Literal["choose-attempt"] = "choose-attempt"
    id: Identifier


class DropAttempt(Frozen):
    do: Literal["drop-attempt"] = "drop-attempt"
    id: Identifier


class SetPen(Frozen):
    """A line of the pen, new or gone on with."""

    do: Literal["set-pen"] = "set-pen"
    line: PenLine


class DropPen(Frozen):
    do: Literal["drop-pen"] = "drop-pen"
    id: Identifier


class Picked(Frozen):
    """A region as the flat view names it."""

    id: Identifier
    mark: Mark


class PutDrawn(Frozen):
    """Drawn things, new ones on top or in the place of those of the same id."""

    do: Literal["put-drawn"] = "put-drawn"
    things: Annotated[tuple[Drawn, ...], Field(min_length=1, max_length=MAX_DRAWN)]


class MarkDrawn(Frozen):
    """Name, lock, hide or group drawn things; only what is given changes, an empty group takes them apart."""

    do: Literal["mark-drawn"] = "mark-drawn"
    ids: Annotated[tuple[Identifier, ...], Field(min_length=1, max_length=MAX_DRAWN)]
    name: Name | None = None
    locked: bool | None = None
    hidden: bool | None = None
    group: Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{0,40}$")] | None = None


class OrderDrawn(Frozen):
    """Bring drawn things to the top or the bottom, or one step up or down."""

    do: Literal["order-drawn"] = "order-drawn"
    ids: Annotated[tuple[Identifier, ...], Field(min_length=1, max_length=MAX_DRAWN)]
    to: Literal["top", "bottom", "up", "down"]


class SetSymmetry(Frozen):
    """How what is drawn from now on is repeated; null ends it."""

    do: Literal["set-symmetry"] = "set-symmetry"
    symmetry: Symmetry | None = None


class Reshape(Frozen):
    """What became of a change of shape: things put and dropped, traced regions left out or mended.

    name: what was done. choices: heights, filaments and names of regions that took the place of others.
    """

    do: Literal["reshape"] = "reshape"
    name: Annotated[str, Field(max_length=60)]
    put: Annotated[tuple[Drawn, ...], Field(max_length=MAX_DRAWN)] = ()
    drop: Annotated[tuple[Identifier, ...], Field(max_length=MAX_DRAWN)] = ()
    leave_out: Annotated[tuple[Picked, ...], Field(max_length=MAX_DRAWN)] = ()
    mends: Annotated[tuple[Mend, ...], Field(max_length=MAX_DRAWN)] = ()
    choices: Annotated[tuple[RegionChoice, ...], Field(max_length=MAX_DRAWN)] = ()
    size: Size | None = None


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
    block: tuple[BlockSide, BlockSide] | None = None
    keep_holes: bool | None = None


class SetRegions(Frozen):
    """Height, filament, name, or whether they are left out, of regions; only the values that are given change."""

    do: Literal["set-regions"] = "set-regions"
    picked: Annotated[tuple[Picked, ...], Field(min_length=1, max_length=MAX_PICKED)]
    height: RegionHeight | None = None
    filament: Identifier | None = None
    name: Name | None = None
    left_out: bool | None = None
    edge: EdgeOptions | None = None


class SetDefaults(Frozen):
    """Height, filament and edge of regions for which nothing was decided."""

    do: Literal["set-defaults"] = "set-defaults"
    height: RegionHeight | None = None
    filament: Identifier | None = None
    edge: EdgeOptions | None = None


class SetForm(Frozen):
    """Another form, or other numbers of one; heights and all other numbers stay."""

    do: Literal["set-form"] = "set-form"
    form: Form | None = None
    relief: ReliefOptions | None = None
    stamp: StampOptions | None = None
    cutter: CutterOptions | None = None
    nameplate: NameplateOptions | None = None
    layer: Annotated[float, Field(ge=0.02, le=2)] | None = None
    nozzle: Annotated[float, Field(ge=0.1, le=2)] | None = None


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
    PutPicture
    | SetSource
    | SetCare
    | SwitchCare
    | SetTrace
    | SetTracing
    | AddArea
    | SetArea
    | DropArea
    | KeepAttempt
    | ChooseAttempt
    | DropAttempt
    | SetPen
    | DropPen
    | PutDrawn
    | MarkDrawn
    | OrderDrawn
    | SetSymmetry
    | Reshape
    | SetSize
    | SetBase
    | SetRegions
    | SetDefaults
    | SetForm
    | SetFilament
    | SetUnits,
    Field(discriminator="do"),
]
EDIT: TypeAdapter[Edit] = TypeAdapter(Edit)


def apply(document: Document, edit: Edit) -> Document:
    """The document after an edit. Raises Refusal when a value is out of its range or names nothing."""
    match edit:
        case PutPicture(source=source):
            return _valid(pictured(document, source))
        case SetSource():
            noted = {k: v for k, v in _given(edit).items() if v is not None}
            return _with(document, source=_checked(Source, {**_source(document).model_dump(), **noted}, "source"))
        case SetCare(care=care):
            return _valid(cared_for(document, _source(document), care))
        case SwitchCare(at=at, state=state):
            source = _source(document)
            if at >= len(source.care):
                raise Refusal("The picture's care has no such step.", "at")
            care = without(source, at) if state == "gone" else switched(source, at, state == "off")
            return _valid(cared_for(document, source, care))
        case SetTrace() | SetTracing() | AddArea() | SetArea() | DropArea():
            return _traced(document, edit)
        case KeepAttempt() | ChooseAttempt() | DropAttempt():
            return _tried(document, edit)
        case SetPen(line=line):
            return _with(document, pen=_put(document.pen, line))
        case DropPen(id=identifier):
            return _with(document, pen=_dropped(document.pen, identifier, "line of the pen"))
        case PutDrawn() | MarkDrawn() | OrderDrawn() | SetSymmetry() | Reshape():
            return _drawn(document, edit)
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
            names = {"height": "default_height", "filament": "default_filament", "edge": "default_edge"}
            return _with(document, **{names[k]: v for k, v in _given(edit).items()})
        case SetForm():
            return _with(document, **{k: v for k, v in _given(edit).items() if v is not None})
        case SetFilament():
            new = Filament(id=edit.id, name=edit.name, colour=edit.colour)
            return _with(document, filaments=_put(document.filaments, new))
        case SetUnits(units=units):
            return _with(document, units=units)


def _source(document: Document) -> Source:
    if document.source is None:
        raise Refusal("The piece has no picture yet. Drop one on the page to begin.", "source")
    return document.source


def _traced(document: Document, edit: SetTrace | SetTracing | AddArea | SetArea | DropArea) -> Document:
    match edit:
        case SetTracing(on=on):
            return _with(document, tracing=on)
        case SetTrace(area=None):
            return _with(
                document, trace=_checked(TraceSettings, {**document.trace.model_dump(), **_given(edit)}, "trace")
            )
        case SetTrace():
            area = _found(document.areas, edit.area or "", "area")
            trace = _checked(TraceSettings, {**area.trace.model_dump(), **_given(edit)}, "trace")
            return _with(document, areas=_put(document.areas, area.model_copy(update={"trace": trace})))
        case AddArea():
            name = edit.name or f"Area {_others(document.areas, edit.id) + 1}"
            new = PictureArea(id=edit.id, name=name, corners=edit.corners, trace=document.trace)
            return _with(document, areas=_put(document.areas, new))
        case SetArea():
            area = _found(document.areas, edit.id, "area")
            changed = {k: v for k, v in _given(edit).items() if v is not None}
            return _with(document, areas=_put(document.areas, area.model_copy(update=changed)))
        case DropArea(id=identifier):
            return _with(document, areas=_dropped(document.areas, identifier, "area"))


def _tried(document: Document, edit: KeepAttempt | ChooseAttempt | DropAttempt) -> Document:
    match edit:
        case KeepAttempt():
            name = edit.name or f"Attempt {_others(document.attempts, edit.id) + 1}"
            new = Attempt(id=edit.id, name=name, trace=document.trace, areas=document.areas)
            return _with(document, attempts=_put(document.attempts, new))
        case ChooseAttempt(id=identifier):
            kept = _found(document.attempts, identifier, "attempt")
            return _with(document, trace=kept.trace, areas=kept.areas)
        case DropAttempt(id=identifier):
            return _with(document, attempts=_dropped(document.attempts, identifier, "attempt"))


def _drawn(document: Document, edit: PutDrawn | MarkDrawn | OrderDrawn | SetSymmetry | Reshape) -> Document:
    match edit:
        case PutDrawn(things=things):
            return _changed(document, drawn=_put_all(document.drawn, things))
        case MarkDrawn(ids=ids):
            for identifier in ids:
                _found(document.drawn, identifier, "drawn thing")
            given = {k: v for k, v in edit.model_dump(exclude={"do", "ids"}).items() if v is not None}
            if "group" in given:
                given["group"] = given["group"] or None
            chosen = set(ids)
            return _changed(
                document, drawn=tuple(t.model_copy(update=given) if t.id in chosen else t for t in document.drawn)
            )
        case OrderDrawn(ids=ids, to=to):
            return _changed(document, drawn=_ordered(document.drawn, set(ids), to))
        case SetSymmetry(symmetry=symmetry):
            return _changed(document, symmetry=symmetry)
        case Reshape():
            gone = set(edit.drop)
            drawn = _put_all(tuple(t for t in document.drawn if t.id not in gone), edit.put)
            mended = {m.id for m in edit.mends}
            mends = (*(m for m in document.mends if m.id not in mended), *edit.mends)
            regions = document.regions
            if edit.leave_out:
                out = SetRegions(picked=edit.leave_out, left_out=True)
                regions = _decided(regions, out)
            new = {c.id for c in edit.choices}
            regions = (*(c for c in regions if c.id not in new), *edit.choices)
            return _changed(document, drawn=drawn, mends=mends, regions=regions, size=edit.size or document.size)


def _changed(document: Document, **changes: Any) -> Document:
    """With parts that are valid by themselves; the limits on how many there may be are looked at."""
    if len(changes.get("drawn", ())) > MAX_DRAWN:
        raise Refusal(f"A piece holds at most {MAX_DRAWN} drawn things. Unite some of them.", "drawn")
    return document.model_copy(update=changes)


def _put_all(things: tuple[Drawn, ...], new: tuple[Drawn, ...]) -> tuple[Drawn, ...]:
    """With all of the new ones, each in the place of the one of its id, or on top."""
    by_id = {t.id: t for t in new}
    kept = tuple(by_id.pop(t.id, t) for t in things)
    under = tuple(t for t in by_id.values() if t.beneath)
    return (*under, *kept, *(t for t in by_id.values() if not t.beneath))


def _ordered(things: tuple[Drawn, ...], ids: set[str], to: str) -> tuple[Drawn, ...]:
    chosen = [t for t in things if t.id in ids]
    rest = [t for t in things if t.id not in ids]
    if to == "top":
        return (*rest, *(t.model_copy(update={"beneath": False}) for t in chosen))
    if to == "bottom":
        return (*(t.model_copy(update={"beneath": True}) for t in chosen), *rest)
    order = list(things) if to == "down" else list(reversed(things))
    for i in range(1, len(order)):
        if order[i].id in ids and order[i - 1].id not in ids:
            order[i - 1], order[i] = order[i], order[i - 1]
    return tuple(order if to == "down" else reversed(order))


def _found(things: tuple[Named, ...], identifier: str, kind: str) -> Named:
    for thing in things:
        if thing.id == identifier:
            return thing
    raise Refusal(f"The piece has no {kind} of that name.", "id")


def _others(things: tuple[Named, ...], identifier: str) -> int:
    return sum(thing.id != identifier for thing in things)


def _put(things: tuple[Named, ...], new: Named) -> tuple[Named, ...]:
    """With a new one at the end, or in the place of the one of the same id."""
    if any(thing.id == new.id for thing in things):
        return tuple(new if thing.id == new.id else thing for thing in things)
    return (*things, new)


def _dropped(things: tuple[Named, ...], identifier: str, kind: str) -> tuple[Named, ...]:
    gone = _found(things, identifier, kind)
    return tuple(thing for thing in things if thing is not gone)


def _given(edit: Frozen) -> dict[str, Any]:
    return edit.model_dump(exclude_unset=True, exclude={"do", "picked", "id", "area"})


def _with(document: Document, **changes: Any) -> Document:
    return _checked(Document, {**document.model_dump(), **{k: _plain(v) for k, v in changes.items()}}, "")


def _valid(document: Document) -> Document:
    return _checked(Document, document.model_dump(), "")


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
    given = {name: getattr(edit, name) for name in _given(edit)}
    result = {c.id: c for c in choices}
    for picked in edit.picked:
        before = result.get(picked.id, RegionChoice(id=picked.id, mark=picked.mark))
        result[picked.id] = before.model_copy(update={**given, "mark": picked.mark})
    return tuple(result.values())
