"""Drawings of degenerate curves, from reading to the seal: each is built sealed, or refused in one sentence."""

from __future__ import annotations

import json
import warnings

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from drelo.cli.build import made
from drelo.core.errors import Refusal
from drelo.formats.recipe import read_recipe
from tests.refusals import refused

FORMS = ("relief", "stamp", "cutter", "nameplate")
# Few places, so that points meet, lie in line and run back; some hardly apart, some far out.
number = st.sampled_from([0.0, 10.0, 10.0, 20.0, 30.0, 5.0, 10.0 + 1e-7, 10.0 + 1e-3, 29.999, -4.0, 60.0])
point = st.tuples(number, number)


@st.composite
def path(draw) -> str:
    """Lines and cubics; now and then the way back along what was drawn."""
    points = [draw(point)]
    data = "M{} {}".format(*points[0])
    for _ in range(draw(st.integers(1, 6))):
        if draw(st.booleans()):
            points.append(draw(point))
            data += "L{} {}".format(*points[-1])
        else:
            a, b, c = draw(point), draw(point), draw(point)
            if draw(st.integers(0, 3)) == 0:
                # It folds back exactly on itself.
                a, b, c = points[-1], c, points[-1]
            points.append(c)
            data += "C{} {} {} {} {} {}".format(*a, *b, *c)
    if draw(st.booleans()):
        data += "".join("L{} {}".format(*p) for p in reversed(points[:-1]))
    return data + draw(st.sampled_from(["Z", "Z", ""]))


def build(folder, form: str, shapes: list[str]) -> None:
    (folder / "a.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="60mm" height="60mm" viewBox="0 0 60 60">'
        + "".join(shapes)
        + "</svg>"
    )
    told = {"drelo": 1, "form": form, "art": {"file": "a.svg"}}
    try:
        built = made(read_recipe(json.dumps(told).encode()), folder, 0.05, False, "a")
    except Refusal:
        return
    assert built.bodies
    assert all(body["sealed"] for body in built.report["bodies"])


@settings(max_examples=60, suppress_health_check=[HealthCheck.function_scoped_fixture, HealthCheck.too_slow])
@given(
    form=st.sampled_from(FORMS),
    paths=st.lists(path(), min_size=1, max_size=4),
    how=st.sampled_from(
        ['fill="#000"', 'fill="#000" fill-rule="evenodd"', 'fill="none" stroke="#000" stroke-width="2"']
    ),
    twice=st.booleans(),
)
def test_degenerate_drawings_are_sealed_or_refused(tmp_path, form, paths, how, twice):
    shapes = [f'<path {how} d="{data}"/>' for data in paths]
    build(tmp_path, form, shapes * (1 + twice))


@pytest.mark.parametrize("form", FORMS)
@pytest.mark.parametrize(
    "data",
    [
        "M0 0L10 10Z",
        "M0 0L10 0L20 0Z",
        "M0 0C10 0 20 0 30 0Z",
        "M5 5L5 5L5 5Z",
        "M0 0C10 10 10 10 0 0Z",
        "M0 0L10 0L10 10L10 0L0 0Z",
    ],
)
def test_art_without_area_is_one_clear_refusal_without_a_librarys_warnings(tmp_path, form, data):
    with warnings.catch_warnings():
        warnings.simplefilter("error")
        (tmp_path / "a.svg").write_text(
            f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 60 60"><path d="{data}"/></svg>'
        )
        told = {"drelo": 1, "form": form, "art": {"file": "a.svg"}}
        with refused(r"encloses|no visible"):
            made(read_recipe(json.dumps(told).encode()), tmp_path, 0.05, False, "a")
