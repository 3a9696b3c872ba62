"""Where a picture that comes in is laid: the first as large as is usual, others beside, or in another one's place."""

from __future__ import annotations

from drelo.core.errors import Refusal
from drelo.core.piece.document import Document
from drelo.core.piece.drawn import Point
from drelo.core.piece.evaluate import Evaluation
from drelo.core.piece.pictures import PlacedPicture, Placement

# What is traced of a picture that comes in is so wide, mm.
FIRST_WIDTH = 60.0
# It lies so far beside what is there, mm.
BESIDE = 6.0


def laid_out(
    evaluation: Evaluation, document: Document, picture: PlacedPicture, at: Point | None = None
) -> PlacedPicture:
    """A new picture where it belongs: its outlines at the corner of an empty sheet, else beside what is there.

    at: where their middle goes instead, mm. Raises Refusal when it traces to nothing.
    """
    pixel = picture.model_copy(update={"place": Placement()})
    left, top, right, bottom = evaluation.box(Document(pictures=(pixel,))) or (0.0, 0.0, picture.width, picture.height)
    scale = FIRST_WIDTH / max(right - left, 1e-6)
    width, height = (right - left) * scale, (bottom - top) * scale
    others = evaluation.box(document)
    middle = at or (document.base.at if others is None else None)
    if middle is not None:
        x, y = middle[0] - width / 2, middle[1] - height / 2
    elif others is not None:
        x, y = others[2] + BESIDE, others[1]
    else:
        x, y = 0.0, 0.0
    place = Placement(mm_per_px=scale, at=(x - left * scale, y - top * scale))
    return picture.model_copy(update={"place": place})


def in_place_of(evaluation: Evaluation, document: Document, picture: PlacedPicture, name: str) -> PlacedPicture:
    """A picture in another one's place, as wide as that one lies there; settings, areas and pen lines stay.

    Raises Refusal when that one is not there.
    """
    before = document.picture(name)
    if before is None:
        raise Refusal("picture.replaced-gone", "replaces")
    was = evaluation.picture(before)
    scale = before.place.mm_per_px * was.width / picture.width
    of_file = {k: getattr(picture, k) for k in ("asset", "name", "width", "height", "origin", "permission")}
    place = before.place.model_copy(update={"mm_per_px": scale})
    return before.model_copy(update={**of_file, "care": (), "whole": False, "place": place})
