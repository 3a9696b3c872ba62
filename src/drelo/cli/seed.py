"""The demo pieces, laid out once."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from drelo.core.picture.decode import decode
from drelo.core.piece.applying import apply
from drelo.core.piece.document import Document, RegionChoice
from drelo.core.piece.evaluate import Evaluation
from drelo.core.piece.flat import FlatRegion
from drelo.core.piece.incoming import laid_out
from drelo.core.piece.memo import Memo
from drelo.core.piece.operations import SetSize
from drelo.core.piece.pictures import PlacedPicture, TraceSettings
from drelo.core.piece.shaping import shaped
from drelo.store.blobs import Assets
from drelo.store.pieces import Pieces

DEMO = Path(__file__).resolve().parents[3] / "demo"


def seed(pieces: Pieces, assets: Assets, folder: Path = DEMO) -> int:
    """Lay out every demo piece that was never laid out before; how many. A maker's changes are never touched."""
    listing = folder / "pieces.json"
    if not listing.exists():
        return 0
    known = pieces.seeded()
    added = 0
    for entry in json.loads(listing.read_text(encoding="utf-8")):
        if entry["key"] in known:
            continue
        if "picture" in entry:
            document = _document(entry, (folder / entry["picture"]).read_bytes(), assets)
        else:
            document = Document.model_validate(entry["document"])
        pieces.create(entry["name"], document, demo=entry["key"])
        added += 1
    return added


def _document(entry: dict[str, Any], data: bytes, assets: Assets) -> Document:
    decoded = decode(data)
    sha256 = assets.put(data, decoded.media_type)
    told = entry.get("document", {})
    picture = PlacedPicture(
        id=f"s{sha256[:10]}",
        asset=sha256,
        name=entry["picture"].split("/")[-1],
        width=decoded.width,
        height=decoded.height,
        origin="drawn for the Mossgate fair",
        permission="mine",
        care=entry.get("care", ()),
        trace=entry.get("trace", TraceSettings()),
    )
    evaluated = Evaluation(lambda _: data, Memo())
    placed = laid_out(evaluated, Document(), picture)
    document = Document.model_validate({**told, "pictures": [placed]})
    if "size" in entry:
        document = apply(document, shaped(evaluated.workshop(document), SetSize(**entry["size"])))
    regions = evaluated.flat(document).regions
    choices = [
        choice
        for number, rule in enumerate(entry.get("regions", []))
        for choice in _choices(number, rule, document.pictures[0], regions)
    ]
    return document.model_copy(update={"regions": tuple(choices)})


def _choices(
    number: int, rule: dict[str, Any], picture: PlacedPicture, regions: tuple[FlatRegion, ...]
) -> list[RegionChoice]:
    """A rule names a region by a point inside its box, as shares of the picture; the smallest box wins."""
    x, y = picture.place.on_sheet((rule["at"][0] * picture.width, rule["at"][1] * picture.height))
    holding = [r for r in regions if r.mark.box[0] <= x <= r.mark.box[2] and r.mark.box[1] <= y <= r.mark.box[3]]
    if not holding:
        return []
    found = min(holding, key=lambda r: r.area)
    wanted = {k: v for k, v in rule.items() if k != "at"}
    return [RegionChoice(id=f"d{number}", mark=found.mark, **wanted)]
