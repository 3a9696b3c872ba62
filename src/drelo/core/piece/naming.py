"""What regions are called: as the maker named them, else by what they are."""

from __future__ import annotations

from collections import Counter
from collections.abc import Collection, Sequence
from itertools import chain

from drelo.core.picture.colour_names import colour_name
from drelo.core.piece.document import Document
from drelo.core.piece.drawn import Drawn, DrawnLine, DrawnShape, Lettering
from drelo.core.piece.pictures import MAX_ATTEMPTS, TraceSettings
from drelo.core.piece.regions import Region


def region_names(document: Document, regions: Sequence[Region]) -> tuple[str, ...]:
    """A name for each region.

    What is drawn is called as its thing, a part of words by its letters; what was traced by its colour, else by its
    number, counted within its picture: what comes and goes elsewhere on the sheet changes no name.
    """
    things = {t.id: t for t in document.drawn}
    count: Counter[tuple[str | None, str]] = Counter()
    names = []
    for region in regions:
        shape = region.shape
        given = (region.choice and region.choice.name) or ""
        thing = things.get(shape.drawn) if shape.drawn else None
        if thing is not None:
            names.append(given or shape.letters or thing_name(thing))
            continue
        kind = colour_name(shape.fill).capitalize() if shape.fill else "Region"
        count[shape.picture, kind] += 1
        number = count[shape.picture, kind]
        names.append(given or (kind if shape.fill and number == 1 else f"{kind} {number}"))
    return tuple(names)


def thing_name(thing: Drawn) -> str:
    """What a drawn thing is called."""
    if thing.name:
        return thing.name
    if isinstance(thing, Lettering):
        return thing.text.split("\n")[0]
    if isinstance(thing, DrawnShape):
        return thing.form.capitalize()
    return "Line" if isinstance(thing, DrawnLine) else "Outline"


def _level(trace: TraceSettings) -> str:
    """As the page shows it: the more, the more is ink."""
    if trace.level is None:
        return "auto"
    return _percent(trace.level if trace.invert else 1 - trace.level)


def attempt_name(trace: TraceSettings, areas: int, taken: Collection[str]) -> str:
    """What a kept trace is called: its mode and what was chosen of it, as "Ink, level 45, calm 50"."""
    said = [trace.mode.capitalize()]
    if trace.mode == "colours":
        many = len(trace.palette) if trace.palette else trace.colours
        said = [f"{many} colours"] if many else said
    else:
        said.append(f"level {_level(trace)}")
        said += ["light areas"] * trace.invert
    if trace.mode == "ink":
        said += ["silhouette"] * trace.silhouette
        said += [] if trace.pinhole is None else [f"pinholes {trace.pinhole:g}"]
    if trace.mode == "strokes" and trace.width is not None:
        said.append("one width")
    if trace.speck is not None:
        said.append(f"specks {trace.speck:g}")
    said.append(f"calm {_percent(trace.smooth)}")
    if trace.keen != TraceSettings().keen:
        said.append(f"corners {_percent(trace.keen)}")
    if areas:
        said.append("1 area" if areas == 1 else f"{areas} areas")
    name = ", ".join(said)
    twins = (f"{name} ({number})" for number in range(2, MAX_ATTEMPTS + 2))
    return next(free for free in chain([name], twins) if free not in taken)


def _percent(share: float) -> str:
    return f"{100 * share:.0f}"
