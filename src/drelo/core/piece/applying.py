"""How an edit changes a document. A document is valid when it comes in; here only what an edit brings is looked at."""

from __future__ import annotations

import math
from typing import Any, TypeVar

from pydantic import ValidationError

from drelo.core.errors import Refusal
from drelo.core.piece.document import MAX_FILAMENTS, BasePlate, Document, Filament, RegionChoice, RegionHeight
from drelo.core.piece.drawn import MAX_DRAWN, Drawn, DrawnShape, Frozen, Thing
from drelo.core.piece.edits import (
    AddArea,
    ChooseAttempt,
    DropArea,
    DropAttempt,
    DropFilament,
    DropPen,
    DropPicture,
    Edit,
    KeepAttempt,
    MarkDrawn,
    MarkPicture,
    MoveSheet,
    OfPicture,
    OrderDrawn,
    OrderPicture,
    PlacePicture,
    PutDrawn,
    PutPicture,
    Reshape,
    SetArea,
    SetBase,
    SetCare,
    SetDefaults,
    SetFilament,
    SetForm,
    SetPen,
    SetPrinting,
    SetRegions,
    SetScale,
    SetSource,
    SetSymmetry,
    SetTrace,
    SetTracing,
    SetUnits,
    SwitchCare,
)
from drelo.core.piece.moving import cared_for, keeps_shape, placed_otherwise, sheet_moved, switched, without
from drelo.core.piece.naming import attempt_name
from drelo.core.piece.pictures import (
    LARGEST_PIXEL,
    LEAST_PIXEL,
    MAX_AREAS,
    MAX_ATTEMPTS,
    MAX_PEN,
    MAX_PICTURES,
    Attempt,
    Identified,
    Mend,
    PictureArea,
    PlacedPicture,
    TraceSettings,
    marked,
)

T = TypeVar("T", bound=Frozen)
Named = TypeVar("Named", bound=Identified | Thing | PlacedPicture | Filament)
# Two points (px) by which a picture is scaled lie at least so far apart.
MIN_BETWEEN = 2.0


def apply(document: Document, edit: Edit) -> Document:
    """The document after an edit. Raises Refusal when a value is out of its range or names nothing."""
    match edit:
        case PutPicture(source=picture):
            return _changed(document, pictures=_put(document.pictures, picture, MAX_PICTURES, "pictures"))
        case PlacePicture(place=place):
            return placed_otherwise(document, _picture(document, edit), place)
        case DropPicture():
            return _without_pictures(document, {_picture(document, edit).id})
        case SetScale():
            return _scaled(document, edit)
        case MoveSheet():
            if not keeps_shape(edit.matrix) or not all(math.isfinite(v) for v in edit.matrix):
                raise Refusal("sheet.bent", "matrix")
            return sheet_moved(document, edit.matrix, edit.size)
        case MarkPicture() | OrderPicture() | SetSource() | SetCare() | SwitchCare():
            return _pictured(document, edit)
        case SetTrace() | SetTracing() | AddArea() | SetArea() | DropArea():
            return _traced(document, edit)
        case KeepAttempt() | ChooseAttempt() | DropAttempt() | SetPen() | DropPen():
            return _on_picture(document, edit)
        case PutDrawn() | MarkDrawn() | OrderDrawn() | SetSymmetry() | Reshape():
            return _drawn(document, edit)
        case SetBase():
            _known(document, edit.filament)
            return _changed(document, base=_checked(BasePlate, document.base, _given(edit), "base"))
        case SetRegions():
            _known(document, edit.filament)
            return _changed(document, regions=_decided(document.regions, edit))
        case SetDefaults():
            _known(document, edit.filament)
            names = {"height": "default_height", "filament": "default_filament", "edge": "default_edge"}
            return _changed(document, **{names[k]: v for k, v in _given(edit).items() if v is not None})
        case SetForm():
            return _changed(document, **{k: v for k, v in _given(edit).items() if v is not None})
        case SetFilament():
            told = {**_given(edit), "id": edit.id}
            known = next((f for f in document.filaments if f.id == edit.id), None)
            new = known.model_copy(update=told) if known else Filament(**told)
            return _changed(document, filaments=_put(document.filaments, new, MAX_FILAMENTS, "filaments"))
        case SetPrinting():
            given = {name: value for name, value in _given(edit).items() if value is not None}
            return _changed(document, printing=document.printing.model_copy(update=given))
        case DropFilament(id=identifier, instead=instead):
            return _without_filament(document, identifier, instead)
        case SetUnits(units=units):
            return _changed(document, units=units)


def _without_filament(document: Document, identifier: str, instead: str) -> Document:
    """Without a filament; another one takes its place wherever it was chosen."""
    if identifier == instead:
        raise Refusal("filament.no-other", "instead")
    _known(document, instead)
    kept = _dropped(document.filaments, identifier, "filament")

    def now(chosen: str | None) -> str | None:
        return instead if chosen == identifier else chosen

    return _changed(
        document,
        filaments=kept,
        base=document.base.model_copy(update={"filament": now(document.base.filament)}),
        default_filament=now(document.default_filament),
        regions=tuple(r.model_copy(update={"filament": now(r.filament)}) for r in document.regions),
    )


def _picture(document: Document, edit: OfPicture) -> PlacedPicture:
    """The picture that an edit is of."""
    found = document.picture(edit.picture)
    if found is None:
        if edit.picture is None:
            raise Refusal("piece.no-picture", "picture")
        raise Refusal("piece.no-such-picture", "picture")
    return found


def _with_picture(document: Document, picture: PlacedPicture) -> Document:
    return _changed(document, pictures=_put(document.pictures, picture, MAX_PICTURES, "pictures"))


def _scaled(document: Document, edit: SetScale) -> Document:
    """A picture made so large that two of its points lie so far apart; the middle between them stays."""
    picture = _picture(document, edit)
    (x0, y0), (x1, y1) = edit.points
    apart = math.dist(*edit.points)
    if apart < MIN_BETWEEN * picture.place.mm_per_px:
        raise Refusal("picture.points-too-near", "points")
    by = edit.mm / apart
    scale = picture.place.mm_per_px * by
    if not LEAST_PIXEL <= scale <= LARGEST_PIXEL:
        raise Refusal("picture.bad-length", "mm")
    (mx, my), (x, y) = ((x0 + x1) / 2, (y0 + y1) / 2), picture.place.at
    at = (mx + (x - mx) * by, my + (y - my) * by)
    return placed_otherwise(document, picture, picture.place.model_copy(update={"mm_per_px": scale, "at": at}))


def _without_pictures(document: Document, ids: set[str]) -> Document:
    return _changed(
        document,
        pictures=tuple(p for p in document.pictures if p.id not in ids),
        regions=tuple(r for r in document.regions if r.mark.picture is None or r.mark.picture not in ids),
    )


def _pictured(document: Document, edit: MarkPicture | OrderPicture | SetSource | SetCare | SwitchCare) -> Document:
    picture = _picture(document, edit)
    match edit:
        case SetSource() | MarkPicture():
            given = {k: v for k, v in _given(edit).items() if v is not None}
            return _with_picture(document, picture.model_copy(update=given))
        case OrderPicture(to=to):
            return _changed(document, pictures=_ordered(document.pictures, {picture.id}, to))
        case SetCare(care=care):
            return cared_for(document, picture, care)
        case SwitchCare(at=at, state=state):
            if at >= len(picture.care):
                raise Refusal("cleanup.gone", "at")
            care = without(picture, at) if state == "gone" else switched(picture, at, state == "off")
            return cared_for(document, picture, care)


def _traced(document: Document, edit: SetTrace | SetTracing | AddArea | SetArea | DropArea) -> Document:
    picture = _picture(document, edit)
    match edit:
        case SetTracing(on=on):
            changed: dict[str, Any] = {"tracing": on}
        case SetTrace(area=None):
            changed = {"trace": _checked(TraceSettings, picture.trace, _given(edit), "trace")}
        case SetTrace():
            area = _found(picture.areas, edit.area or "", "area")
            trace = _checked(TraceSettings, area.trace, _given(edit), "trace")
            changed = {"areas": _put(picture.areas, area.model_copy(update={"trace": trace}))}
        case AddArea():
            name = edit.name or f"Area {_others(picture.areas, edit.id) + 1}"
            new = PictureArea(id=edit.id, name=name, corners=edit.corners, trace=picture.trace)
            changed = {"areas": _put(picture.areas, new, MAX_AREAS, "areas")}
        case SetArea():
            area = _found(picture.areas, edit.id, "area")
            given = {k: v for k, v in _given(edit).items() if v is not None}
            changed = {"areas": _put(picture.areas, area.model_copy(update=given))}
        case DropArea(id=identifier):
            changed = {"areas": _dropped(picture.areas, identifier, "area")}
    return _with_picture(document, picture.model_copy(update=changed))


def _on_picture(document: Document, edit: KeepAttempt | ChooseAttempt | DropAttempt | SetPen | DropPen) -> Document:
    picture = _picture(document, edit)
    match edit:
        case KeepAttempt():
            taken = [a.name for a in picture.attempts if a.id != edit.id]
            name = edit.name or attempt_name(picture.trace, len(picture.areas), taken)
            new = Attempt(id=edit.id, name=name, trace=picture.trace, areas=picture.areas)
            changed: dict[str, Any] = {"attempts": _put(picture.attempts, new, MAX_ATTEMPTS, "attempts")}
        case ChooseAttempt(id=identifier):
            kept = _found(picture.attempts, identifier, "attempt")
            changed = {"trace": kept.trace, "areas": kept.areas}
        case DropAttempt(id=identifier):
            changed = {"attempts": _dropped(picture.attempts, identifier, "attempt")}
        case SetPen(line=line):
            changed = {"pen": _put(picture.pen, line, MAX_PEN, "lines of the pen")}
        case DropPen(id=identifier):
            changed = {"pen": _dropped(picture.pen, identifier, "line of the pen")}
    return _with_picture(document, picture.model_copy(update=changed))


def _drawn(document: Document, edit: PutDrawn | MarkDrawn | OrderDrawn | SetSymmetry | Reshape) -> Document:
    match edit:
        case PutDrawn(things=things, height=height):
            after = _changed(document, drawn=_put_all(document.drawn, things))
            return after if height is None else _as_high(document, after, things, height)
        case MarkDrawn(ids=ids):
            known = {t.id for t in document.drawn}
            if any(identifier not in known for identifier in ids):
                raise Refusal("drawn.none-of-that-name", "id")
            given = {k: v for k, v in _given(edit).items() if k != "ids" and v is not None}
            if "group" in given:
                given["group"] = given["group"] or None
            if given.get("fill") == "none":
                given["fill"] = None
            chosen = set(ids)
            return _changed(
                document, drawn=tuple(t.model_copy(update=given) if t.id in chosen else t for t in document.drawn)
            )
        case OrderDrawn(ids=ids, to=to):
            lower = {"top": False, "bottom": True}.get(to)
            things_now = document.drawn
            if lower is not None:
                things_now = tuple(
                    t.model_copy(update={"beneath": lower}) if t.id in ids else t for t in document.drawn
                )
            return _changed(document, drawn=_ordered(things_now, set(ids), to))
        case SetSymmetry(symmetry=symmetry):
            return _changed(document, symmetry=symmetry)
        case Reshape():
            return _reshaped(document, edit)


def _as_high(before: Document, after: Document, things: tuple[Drawn, ...], height: RegionHeight) -> Document:
    """With a height for the shapes among new things."""
    known = {t.id for t in before.drawn}
    choices = []
    for thing in things:
        if isinstance(thing, DrawnShape) and thing.id not in known:
            (x, y), w, h = thing.at, thing.width / 2, thing.height / 2
            mark = marked(thing.at, (x - w, y - h, x + w, y + h))
            choices.append(RegionChoice(id=f"{thing.id}-0", mark=mark, height=height))
    return _changed(after, regions=(*after.regions, *choices))


def _reshaped(document: Document, edit: Reshape) -> Document:
    drawn = _replaced(document.drawn, set(edit.drop), edit.put)
    regions = document.regions
    if edit.leave_out:
        regions = _decided(regions, SetRegions(picked=edit.leave_out, left_out=True))
    new = {c.id for c in edit.choices}
    if new:
        regions = (*(c for c in regions if c.id not in new), *edit.choices)
    base = document.base if edit.base_at is None else document.base.model_copy(update={"at": edit.base_at})
    after = _changed(document, drawn=drawn, regions=regions, base=base)
    for mend in edit.mends:
        after = _mended(after, mend)
    for identifier, place in edit.place:
        picture = after.picture(identifier)
        if picture is not None:
            after = placed_otherwise(after, picture, place)
    return _without_pictures(after, set(edit.drop_pictures)) if edit.drop_pictures else after


def _replaced(things: tuple[Drawn, ...], gone: set[str], new: tuple[Drawn, ...]) -> tuple[Drawn, ...]:
    """Without what is gone; new things lie where the highest of it lay, or as `_put_all` puts them."""
    known = {t.id for t in things}
    fresh = tuple(t for t in new if t.id not in known)
    last = max((i for i, t in enumerate(things) if t.id in gone), default=None)
    if last is None or not fresh:
        return _put_all(tuple(t for t in things if t.id not in gone), new)
    changed = {t.id: t for t in new}
    below = [changed.get(t.id, t) for t in things[: last + 1] if t.id not in gone or t.id in changed]
    above = [changed.get(t.id, t) for t in things[last + 1 :]]
    return (*below, *fresh, *above)


def _mended(document: Document, mend: Mend) -> Document:
    picture = document.picture(mend.mark.picture)
    if picture is None:
        raise Refusal("picture.of-outline-gone", "mends")
    mends = (*(m for m in picture.mends if m.id != mend.id), mend)
    return _with_picture(document, picture.model_copy(update={"mends": mends}))


def _changed(document: Document, **changes: Any) -> Document:
    """With parts that are valid by themselves; the limits on how many there may be are looked at."""
    if len(changes.get("drawn", ())) > MAX_DRAWN:
        raise Refusal("drawn.too-many", "drawn", most=MAX_DRAWN)
    return document.model_copy(update=changes)


def _put_all(things: tuple[Drawn, ...], new: tuple[Drawn, ...]) -> tuple[Drawn, ...]:
    """With all of the new ones, each in the place of the one of its id, or on top."""
    by_id = {t.id: t for t in new}
    kept = tuple(by_id.pop(t.id, t) for t in things)
    under = tuple(t for t in by_id.values() if t.beneath)
    return (*under, *kept, *(t for t in by_id.values() if not t.beneath))


def _ordered(things: tuple[Named, ...], ids: set[str], to: str) -> tuple[Named, ...]:
    if to in ("top", "bottom"):
        chosen = tuple(t for t in things if t.id in ids)
        rest = tuple(t for t in things if t.id not in ids)
        return (*rest, *chosen) if to == "top" else (*chosen, *rest)
    order = list(things) if to == "down" else list(reversed(things))
    for i in range(1, len(order)):
        if order[i].id in ids and order[i - 1].id not in ids:
            order[i - 1], order[i] = order[i], order[i - 1]
    return tuple(order if to == "down" else reversed(order))


def _found(things: tuple[Named, ...], identifier: str, kind: str) -> Named:
    for thing in things:
        if thing.id == identifier:
            return thing
    raise Refusal("piece.no-such-thing", "id", kind=kind)


def _others(things: tuple[Named, ...], identifier: str) -> int:
    return sum(thing.id != identifier for thing in things)


def _put(things: tuple[Named, ...], new: Named, most: int = 0, kind: str = "") -> tuple[Named, ...]:
    """With a new one at the end, or in the place of the one of the same id. Raises Refusal past `most` of a kind."""
    if any(thing.id == new.id for thing in things):
        return tuple(new if thing.id == new.id else thing for thing in things)
    if most and len(things) >= most:
        raise Refusal("piece.too-many-things", kind, most=most, kind=kind)
    return (*things, new)


def _dropped(things: tuple[Named, ...], identifier: str, kind: str) -> tuple[Named, ...]:
    gone = _found(things, identifier, kind)
    return tuple(thing for thing in things if thing is not gone)


_NAMES = frozenset({"do", "picked", "id", "area", "picture"})


def _given(edit: Frozen) -> dict[str, Any]:
    """The values that an edit gives, as they are."""
    return {name: getattr(edit, name) for name in edit.model_fields_set if name not in _NAMES}


def _checked(kind: type[T], before: T, changes: dict[str, Any], field: str) -> T:
    """A small value with changes that may be null where it takes none, or not fit each other."""
    try:
        return kind.model_validate({**dict(before), **changes})
    except ValidationError as error:
        first = error.errors()[0]
        path = ".".join([field, *(str(p) for p in first["loc"])])
        raise Refusal("edit.invalid", path, problem=first["msg"]) from None


def _known(document: Document, filament: str | None) -> None:
    if filament is not None and all(f.id != filament for f in document.filaments):
        raise Refusal("filament.none-of-that-name", "filament")


def _decided(choices: tuple[RegionChoice, ...], edit: SetRegions) -> tuple[RegionChoice, ...]:
    given = {k: v for k, v in _given(edit).items() if not (k == "left_out" and v is None)}
    result = {c.id: c for c in choices}
    for picked in edit.picked:
        before = result.get(picked.id)
        if before is None:
            before = RegionChoice(id=picked.id, mark=picked.mark)
        result[picked.id] = before.model_copy(update={**given, "mark": picked.mark})
    return tuple(result.values())
