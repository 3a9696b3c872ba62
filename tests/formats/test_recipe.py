import json

import pytest

from drelo.core.errors import Refusal
from drelo.formats.recipe import read_recipe, recipe_schema
from drelo.words.spoken import sentence
from tests.conftest import ROOT

GOOD = {
    "drelo": 1,
    "units": "mm",
    "art": {"file": "crest.svg", "width": 80},
    "form": "relief",
    "base": {"shape": "outline", "margin": 3, "thickness": 2, "corner_radius": 0, "colour": "#30343b"},
    "heights": [
        {"fill": "#c8553d", "height": 1.2, "colour": "#c8553d", "name": "petals"},
        {"fill": "#1d3557", "height": -0.6},
    ],
    "default_height": 1.0,
}


def with_change(path: list, value) -> bytes:
    recipe = json.loads(json.dumps(GOOD))
    at = recipe
    for part in path[:-1]:
        at = at[part]
    at[path[-1]] = value
    return json.dumps(recipe).encode()


def test_the_example_is_read():
    recipe = read_recipe(json.dumps(GOOD).encode())
    assert recipe.heights[1].height == -0.6
    assert recipe.base.to_core().margin == 3


@pytest.mark.parametrize(
    ("path", "value", "field"),
    [
        (["drelo"], 2, "drelo"),
        (["units"], "furlong", "units"),
        (["art", "width"], -5, "art.width"),
        (["art", "trace"], {"smooth": 4}, "art.trace.smooth"),
        (["base", "shape"], "blob", "base.shape"),
        (["base", "colour"], "red", "base.colour"),
        (["heights", 1, "height"], "up", "heights[1].height"),
        (["heights", 0, "height"], 1e9, "heights[0].height"),
        (["heights", 0, "hight"], 1, "heights[0].hight"),
        (["form"], "teapot", "form"),
    ],
)
def test_a_wrong_field_is_named(path, value, field):
    with pytest.raises(Refusal) as refused:
        read_recipe(with_change(path, value))
    assert refused.value.field == field
    assert field in sentence(refused.value)


@pytest.mark.parametrize("data", [b"", b"[]", b"{", b"\xff\xfe", b'{"drelo": 1, "art": {"file": "a", "width": NaN}}'])
def test_what_is_no_recipe_is_refused(data):
    with pytest.raises(Refusal):
        read_recipe(data)


def test_the_shipped_schema_is_the_one_in_force():
    shipped = json.loads((ROOT / "src/drelo/formats/recipe.schema.json").read_text())
    assert shipped == recipe_schema()
