"""Documents of version 1 brought up to version 2.

In version 1 everything on the sheet stood in px of the one picture (mm where there was none), and the sheet followed
from what was traced of it: its left and top, and its size. A document of version 1 is one of version 2 at 1 mm a px,
of which the whole sheet is then moved once.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Any

from pydantic import ValidationError

from drelo.core.errors import Refusal
from drelo.core.outline.outline import bounds
from drelo.core.piece.document import HOLDS, VERSION, Document, Size
from drelo.core.piece.evaluate import Evaluation
from drelo.core.piece.moving import sheet_moved

OF_PICTURE = ("trace", "tracing", "areas", "attempts", "pen", "mends")
FIRST = 1


def is_former(value: Mapping[str, Any]) -> bool:
    """Whether a stored document is of an earlier version."""
    return bool(value.get("version", FIRST) == FIRST)


def read_document(value: Mapping[str, Any]) -> Document:
    """A document of this version. Raises Refusal when it is of a newer one."""
    version = value.get("version", FIRST)
    if isinstance(version, int) and version > VERSION:
        raise Refusal("piece.newer", "version", version=version)
    try:
        return Document.model_validate(value)
    except ValidationError as error:
        first = error.errors()[0]
        raise Refusal("piece.damaged", ".".join(map(str, first["loc"])), problem=first["msg"]) from None


def brought_up(value: Mapping[str, Any], evaluation: Evaluation) -> Document:
    """A document of version 1 as one of version 2: outlines and solids lie where they lay.

    evaluation: that finds the piece's picture, since its size on the sheet followed from its trace.
    """
    size = value.get("size") or {"side": "width", "mm": 60.0}
    in_px = read_document(_as_second(value))
    picture = in_px.picture(None)
    if picture is None:
        return in_px
    known = size.get("side") == "between"
    regions = evaluation.regions(in_px)
    traced = [r for r in regions if r.shape.drawn is None and (known or not r.left_out)]
    # Where nothing is traced, the picture itself had the typed size.
    pixels = evaluation.picture(picture)
    whole = (0.0, 0.0, float(pixels.width), float(pixels.height))
    box = bounds(r.shape.outline for r in traced) or whole
    if known:
        scale = size["mm"] / math.dist(*size["points"])
    else:
        scale = size["mm"] / (box[2] - box[0] if size["side"] == "width" else box[3] - box[1])
    after = sheet_moved(in_px, (scale, 0.0, 0.0, scale, -box[0] * scale, -box[1] * scale), None)
    if known:
        return after
    # The typed size holds where nothing that was drawn stands out over what was traced.
    kept = bounds(r.shape.outline for r in regions if not r.left_out) or box
    side = 0 if size["side"] == "width" else 1
    if abs((kept[2 + side] - kept[side]) * scale - size["mm"]) > HOLDS:
        return after
    return after.model_copy(update={"size": Size(side=size["side"], mm=size["mm"])})


def _as_second(value: Mapping[str, Any]) -> dict[str, Any]:
    """The same values by the names of version 2, at 1 mm a px."""
    rest = {k: v for k, v in value.items() if k not in (*OF_PICTURE, "source", "size", "version")}
    source = value.get("source")
    if source is None:
        return {**rest, "version": VERSION}
    name = source["id"]
    drawn = {thing["id"] for thing in rest.get("drawn", ())}
    regions = [_of_picture(r, name) if not _is_drawn(r["id"], drawn) else r for r in rest.get("regions", ())]
    own = {k: value[k] for k in OF_PICTURE if k in value}
    if "mends" in own:
        own["mends"] = [_of_picture(m, name) for m in own["mends"]]
    return {**rest, "version": VERSION, "regions": regions, "pictures": [{**source, **own}]}


def _of_picture(row: Mapping[str, Any], picture: str) -> dict[str, Any]:
    return {**row, "mark": {**row["mark"], "picture": picture}}


def _is_drawn(region: str, drawn: set[str]) -> bool:
    """Whether a region is one of a drawn thing: they are called after it."""
    stem, _, part = region.rpartition("-")
    return part.isdigit() and stem in drawn
