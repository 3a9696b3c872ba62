"""Words in the place of traced letters."""

from __future__ import annotations

import numpy as np
import shapely

from drelo.core.errors import Refusal
from drelo.core.piece.drawing import worked
from drelo.core.piece.drawn import Lettering
from drelo.core.piece.edits import Picked, Reshape
from drelo.core.piece.operations import Replace, SetWords
from drelo.core.piece.shaping.workshop import ROUGHLY, Workshop, mark_of


def replace_traced(shop: Workshop, operation: Replace) -> Reshape:
    thing = shop.things.get(operation.id)
    if not isinstance(thing, Lettering):
        raise Refusal("replace.no-words", "id")
    contours = dict(shop.art.things)[thing.id]
    boxes = np.array([c.bounds for c in contours])
    area = shapely.box(*boxes[:, :2].min(axis=0).tolist(), *boxes[:, 2:].max(axis=0).tolist())
    beneath = []
    for region in shop.regions:
        if region.shape.drawn is None and not (region.choice and region.choice.left_out):
            rough = region.shape.outline.flattened(ROUGHLY)
            if shapely.intersection(rough, area).area > 0.5 * rough.area:
                beneath.append(Picked(id=region.id, mark=region.mark))
    if not beneath:
        raise Refusal("replace.no-outline", "id")
    return Reshape(name="replace", leave_out=tuple(beneath))


def set_words(shop: Workshop, operation: SetWords) -> Reshape:
    taken = {p.id for p in operation.under}
    choice = next((r.choice for r in shop.regions if r.id in taken and r.choice is not None), None)
    choices = []
    if choice is not None:
        # The words stand as high as the letters did, in their filament; each letter is a region.
        for thing in operation.things:
            for part, outline in enumerate(worked(thing, shop.fonts).outlines):
                name = f"{thing.id}-{part}"
                choices.append(choice.model_copy(update={"id": name, "mark": mark_of(outline), "name": None}))
    return Reshape(name="words", put=operation.things, leave_out=operation.under, choices=tuple(choices))
