"""What regions are called: as the maker named them, else by what they are."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence

from drelo.core.picture.colour_names import colour_name
from drelo.core.piece.document import Document
from drelo.core.piece.drawn import Drawn, DrawnLine, DrawnShape, Lettering
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
