"""A piece's recipe makes the same solid from the command line."""

from __future__ import annotations

import json

import pytest
from scipy.spatial import cKDTree

from drelo.cli.__main__ import main
from drelo.core.piece.applying import apply
from drelo.core.piece.document import Document
from drelo.core.piece.drawn import DrawnShape, Lettering
from drelo.core.piece.edits import EDIT, Picked, PutDrawn, SetRegions
from drelo.core.piece.evaluate import Evaluation
from drelo.core.piece.form_numbers import EdgeOptions
from drelo.core.piece.memo import Memo
from drelo.formats.archive import unzipped
from drelo.formats.fonts import shipped_font
from drelo.formats.recipe import read_recipe
from drelo.formats.threemf import read_3mf
from drelo.work import tasks


def asset(key: str) -> bytes:
    return shipped_font(key.removeprefix("font:"))


def go() -> None:
    pass


def drawn() -> Document:
    things = (
        DrawnShape(id="plate", form="rectangle", at=(0, 0), width=50, height=30, radius=4),
        DrawnShape(id="ring", form="ring", at=(-10, 0), width=18, height=18, inner=9),
        DrawnShape(id="star", form="star", at=(12, 0), width=16, height=16, inner=8, sides=5),
        Lettering(id="words", text="Mossgate", at=(0, -24), height=7),
    )
    document = apply(Document(), PutDrawn(things=things))
    flat = Evaluation(asset, Memo()).flat(document)
    by_thing = {r.drawn: r for r in flat.regions}
    for thing, change in (
        ("ring", {"height": -0.8}),
        ("star", {"height": 2.4, "edge": EdgeOptions(kind="bevel", size=0.5)}),
        ("plate", {"height": 0.6}),
    ):
        region = by_thing[thing]
        picked = Picked(id=region.id, mark=region.mark)
        document = apply(document, SetRegions(picked=(picked,), **change))  # type: ignore[arg-type]
    return document


@pytest.mark.parametrize("form", ["relief", "stamp", "cutter", "nameplate"])
def test_a_recipe_of_a_piece_builds_the_same_solid(tmp_path, form):
    document = apply(drawn(), EDIT.validate_python({"do": "set-form", "form": form}))
    for name, data in unzipped(tasks.recipe(go, document, {})).items():
        (tmp_path / name).write_bytes(data)
    assert read_recipe((tmp_path / "recipe.json").read_bytes()).form == form
    out, report = tmp_path / "out.3mf", tmp_path / "report.json"
    assert main(["build", str(tmp_path / "recipe.json"), "-o", str(out), "--report", str(report)]) == 0
    told = json.loads(report.read_text())
    built = Evaluation(asset, Memo()).made(document, 0.008)
    assert told["size_mm"] == pytest.approx(built.whole.size, abs=1e-6)
    for body, again in zip(built.bodies, read_3mf(out.read_bytes()), strict=True):
        assert body.colour == again.colour
        # Every vertex is one of the other's: faces and vertices may be written in another order.
        assert body.mesh.vertices.shape == again.mesh.vertices.shape
        away, _ = cKDTree(body.mesh.vertices).query(again.mesh.vertices)
        assert away.max() < 1e-6
        assert body.mesh.volume == pytest.approx(again.mesh.volume, rel=1e-9)
    assert {b["colour"] for b in told["bodies"]} == {body.colour for body in built.bodies}
