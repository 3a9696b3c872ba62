"""The demo is laid out once, and never over a maker's changes."""

import json

import pytest

from drelo.cli.seed import seed
from drelo.core.piece.applying import apply
from drelo.core.piece.edits import EDIT
from drelo.core.piece.evaluate import Evaluation
from drelo.core.piece.memo import Memo
from drelo.formats.fonts import shipped_font
from drelo.store.blobs import Assets
from drelo.store.pieces import Pieces
from tests.conftest import ROOT

DEMO = ROOT / "demo"


@pytest.fixture
def store(maker):
    return Pieces(maker), Assets(maker)


def listed() -> list[dict]:
    return json.loads((DEMO / "pieces.json").read_text())


def test_every_demo_piece_is_laid_out_once(store):
    pieces, assets = store
    first = seed(pieces, assets)
    names = {p.name for p in pieces.all()}
    assert {e["name"] for e in listed()} <= names
    assert first in (0, len(listed()))
    assert seed(pieces, assets) == 0


def test_a_changed_or_deleted_demo_piece_is_left_alone(store):
    pieces, assets = store
    seed(pieces, assets)
    pear = next(p for p in pieces.all() if p.name == "Pear coaster")
    edit = EDIT.validate_python({"do": "set-defaults", "height": 4.4})
    changed = pieces.edit(pear.id, pear.revision, edit, apply(pieces.get(pear.id).document, edit))
    other = next(p for p in pieces.all() if p.name == "Society crest")
    pieces.delete(other.id)
    assert seed(pieces, assets) == 0
    assert pieces.get(pear.id).document.default_height == 4.4
    assert "Society crest" not in {p.name for p in pieces.all()}
    pieces.restore(other.id)
    back = EDIT.validate_python({"do": "set-defaults", "height": 1.2})
    pieces.edit(pear.id, changed.revision, back, apply(changed.document, back))


@pytest.mark.parametrize("entry", listed(), ids=lambda e: e["key"])
def test_every_demo_piece_has_the_regions_that_are_named_for_it(store, entry):
    pieces, assets = store
    seed(pieces, assets)
    piece = next(p for p in pieces.all() if p.name == entry["name"])
    document = pieces.get(piece.id).document
    evaluation = Evaluation(lambda key: shipped_font(key[5:]) if key.startswith("font:") else assets.get(key), Memo())
    flat = evaluation.flat(document)
    assert evaluation.made(document, 0.05).whole.volume > 0
    named = {r.name: r for r in flat.regions}
    for rule in entry.get("regions", []):
        assert rule["name"] in named
        assert named[rule["name"]].height == rule["height"]
        assert named[rule["name"]].filament == rule["filament"]
    if "picture" in entry:
        assert document.pictures[0].permission == "mine"
