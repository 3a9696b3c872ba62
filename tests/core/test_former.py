"""Documents of version 1, kept as they were: they give the same outlines and the same solids.

Two of them are stamps; since then only the outline of the mark on a stamp's back is cut, and their volumes say so.
Traces are truer since then (strokes pen by pen, filled shapes among them, coded colours, a lamp taken out of colours):
outlines and volumes of those it touches are those of now, what was decided for their regions is as it was.
"""

from __future__ import annotations

import json
from typing import Any

import numpy as np
import pytest

from drelo.core.piece.evaluate import Evaluation
from drelo.core.piece.former import brought_up, is_former, read_document
from drelo.core.piece.memo import Memo
from drelo.formats.fonts import shipped_font
from tests.conftest import ROOT
from tests.refusals import refused

GOLDEN = ROOT / "tests" / "golden"
ROWS: list[dict[str, Any]] = json.loads((GOLDEN / "version-1.json").read_text())
CURVES = np.load(GOLDEN / "version-1.npz")
# Made by version 1 with chords of so many mm.
TOLERANCE = 0.008


def evaluation(row: dict[str, Any]) -> Evaluation:
    files = {name: (ROOT / "demo" / path).read_bytes() for name, path in row["assets"].items()}
    return Evaluation(lambda s: shipped_font(s[5:]) if s.startswith("font:") else files[s], Memo())


@pytest.mark.parametrize("row", ROWS, ids=[row["name"] for row in ROWS])
def test_a_document_of_version_1_gives_the_same_outlines_and_the_same_solid(row: dict[str, Any]) -> None:
    assert is_former(row["document"])
    ev = evaluation(row)
    document = brought_up(row["document"], ev)
    assert document.version == 2
    regions = ev.regions(document)
    contours = [c for r in regions for c in r.shape.outline.contours]
    assert [len(c) for c in contours] == row["segments"]
    before = np.split(CURVES[row["name"]], np.cumsum(row["segments"])[:-1]) if contours else []
    for contour, was in zip(contours, before, strict=True):
        # Outlines that were changed by hand ran the other way round then.
        assert min(np.abs(c.curves - was).max() for c in (contour, contour.reversed())) < 1e-6
    flat = ev.flat(document)
    assert [flat.left, flat.top, flat.width, flat.height] == pytest.approx(row["box"], abs=1e-6)
    given = {choice.id for choice in document.regions if choice.name}
    for shown, (name, called, height, filament, left_out) in zip(flat.regions, row["decided"], strict=True):
        assert (shown.height, shown.filament, shown.left_out) == (height, filament, left_out), name
        assert shown.name == called or shown.id not in given
    ends = [[line.id, *line.start, *line.end] for line in flat.lines]
    assert [e[0] for e in ends] == [e[0] for e in row["lines"]]
    for now, before in zip(ends, row["lines"], strict=True):
        assert now[1:] == pytest.approx(before[1:], abs=1e-6)
    if "volume" in row:
        whole = ev.made(document, TOLERANCE).whole
        assert whole.volume == pytest.approx(row["volume"], rel=1e-9)
        assert whole.size == pytest.approx(row["size"], abs=1e-6)
    # What was brought up is read as it is from then on.
    assert read_document(json.loads(document.model_dump_json())) == document


def test_a_document_of_a_newer_version_is_refused_in_one_line() -> None:
    with refused("newer Drelo"):
        read_document({"version": 3})
