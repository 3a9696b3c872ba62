"""What a step changed, in a maker's words: of two documents, whatever led from one to the other."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from typing import Any, Literal

from pydantic import BaseModel

from drelo.core.piece.document import Document, RegionChoice
from drelo.core.piece.drawn import Drawn, Frozen, Lettering
from drelo.core.piece.edits import Edit, Reshape
from drelo.core.piece.form_numbers import EdgeOptions
from drelo.core.piece.history.labels import DONE, LABELS, Unit

Value = float | str | bool | None
How = Literal["set", "added", "removed", "changed", "done"]
# Rows that have ids of their own.
ROWS = ("pictures", "drawn", "regions", "filaments")
# What follows from the rest, or is not a maker's, where it has no label of its own.
_SILENT = ("id", "mark", "version", "kind", "asset")
# A text is told so far.
_LONG = 40


class Told(Frozen):
    """One thing that changed. what: its name. set: from `before` to `after`, numbers in `unit`; done: `what` says all.

    path: where it stands in the document, without ids.
    """

    path: str
    what: str
    how: How = "set"
    before: Value = None
    after: Value = None
    unit: Unit = ""
    count: int = 1


def told(before: Document, after: Document, edit: Edit | None = None) -> tuple[Told, ...]:
    """All that differs, what is alike put together; where the edit has a name of its own, that comes first."""
    found = _together(_differences(before, after))
    if isinstance(edit, Reshape) and edit.name in DONE:
        title = DONE[edit.name]
        return (Told(path=f"reshape.{edit.name}", what=title, how="done"), *found)
    return found


def _differences(before: Document, after: Document) -> Iterator[Told]:
    for name, new in after.__dict__.items():
        old = before.__dict__[name]
        if new is old or name in _SILENT:
            continue
        if name in ROWS:
            yield from _rows(name, old, new, before, after)
        elif new != old:
            yield from _fields(name, "", old, new, before, after)


def _fields(path: str, of: str, old: Any, new: Any, before: Document, after: Document) -> Iterator[Told]:
    """What differs between two values of a field; of: the row that it belongs to, in words."""
    if path not in LABELS and isinstance(new, BaseModel) and isinstance(old, type(new)):
        for name, value in new.__dict__.items():
            was, place = old.__dict__[name], f"{path}.{name}"
            if value is not was and value != was and (name not in _SILENT or place in LABELS):
                yield from _fields(place, of, was, value, before, after)
        return
    label, unit = _label(path)
    what = f"{of} {label}".strip() if of else label
    a, b = _value(path, old, before), _value(path, new, after)
    simple = _simple(a) and _simple(b)
    yield Told(
        path=path,
        what=what,
        how="set" if simple else "changed",
        before=a if simple else None,
        after=b if simple else None,
        unit=unit if simple else "",
    )


def _rows(name: str, old: Sequence[Any], new: Sequence[Any], before: Document, after: Document) -> Iterator[Told]:
    known = {row.id: row for row in old}
    for row in new:
        was = known.pop(row.id, None)
        if was is row:
            continue
        if name == "regions":
            yield from _region(was, row, before, after)
        elif was is None:
            yield Told(path=name, what=_called(name, row), how="added")
        elif type(was) is not type(row):
            yield Told(path=f"{name}.path", what=f"{_called(name, row)} outline", how="changed")
        elif was != row:
            of = "words" if isinstance(row, Lettering) else name
            yield from _fields(of, _called(name, row), was, row, before, after)
    for row in known.values():
        if name == "regions":
            yield from _region(row, None, before, after)
        else:
            yield Told(path=name, what=_called(name, row), how="removed")


def _region(old: Any, new: Any, before: Document, after: Document) -> Iterator[Told]:
    """What was decided for a region; where nothing was, it is as all new ones are."""
    thing = _thing_of(new or old, after) or _thing_of(new or old, before)
    if thing is not None and thing not in before.drawn:
        # What comes with a height of its own came: that is told already.
        return
    named = next((row.name for row in (new, old) if row is not None and row.name), None)
    what = named or (_called("drawn", thing) if thing is not None else "Region")
    for name in ("height", "filament", "name", "left_out", "edge"):
        was, value = (None if row is None else row.__dict__[name] for row in (old, new))
        if name == "left_out":
            was, value = bool(was), bool(value)
        elif name in ("height", "filament"):
            was = getattr(before, f"default_{name}") if was is None else was
            value = getattr(after, f"default_{name}") if value is None else value
        if was != value:
            yield from _fields(f"regions.{name}", what, was, value, before, after)


def _thing_of(choice: RegionChoice, document: Document) -> Drawn | None:
    """The drawn thing that a region is of."""
    own = (choice.id, choice.id.rsplit("-", 1)[0])
    return next((thing for thing in document.drawn if thing.id in own), None)


def _label(path: str) -> tuple[str, Unit]:
    """Words are drawn things with some fields of their own."""
    usual: tuple[str, Unit] = (path.rsplit(".", 1)[-1].replace("_", " "), "")
    return LABELS.get(path) or LABELS.get(path.replace("words.", "drawn.", 1)) or usual


def _called(name: str, row: Any) -> str:
    """A row in words."""
    kind = getattr(row, "kind", "")
    if isinstance(row, Lettering):
        return f"Words “{_short(row.text)}”"
    if row.name:
        return str(row.name)
    if kind == "shape":
        return str(row.form).capitalize()
    return {"pictures": "Picture", "filaments": "Filament"}.get(name) or ("Line" if kind == "line" else "Outline")


def _value(path: str, value: Any, document: Document) -> Any:
    if path.endswith("filament"):
        return document.filament(value).name if isinstance(value, str) else value
    if path == "size" and value is not None:
        return f"{value.side} {value.mm:g} mm"
    if path == "words.text":
        return _short(value)
    if isinstance(value, EdgeOptions):
        return str(value.kind)
    if isinstance(value, float):
        return round(value, 4)
    if isinstance(value, str):
        return value[:_LONG]
    return value


def _simple(value: Any) -> bool:
    return value is None or isinstance(value, float | int | str | bool)


def _short(text: str) -> str:
    line = re.sub(r"\s+", " ", text).strip()
    return line if len(line) <= _LONG else f"{line[: _LONG - 1]}…"


def _together(found: Iterator[Told]) -> tuple[Told, ...]:
    """What happened alike to several rows is one."""
    alike: dict[tuple[Any, ...], list[Told]] = {}
    for one in found:
        in_row = one.path.split(".")[0] in _MANY
        key = (one.path, one.how, one.before, one.after) if in_row else (one.path,)
        alike.setdefault(key, []).append(one)
    return tuple(_merged(same) for same in alike.values())


_MANY: Mapping[str, str] = {
    "pictures": "pictures",
    "drawn": "shapes",
    "words": "words",
    "regions": "regions",
    "filaments": "filaments",
}


def _merged(same: Sequence[Told]) -> Told:
    first = same[0]
    if len(same) == 1:
        return first
    label = _label(first.path)[0] if "." in first.path else ""
    what = f"{len(same)} {_MANY[first.path.split('.')[0]]} {label}".strip()
    return first.model_copy(update={"what": what, "count": len(same)})
