"""Files drawn to break their reader are refused, or read, soon; none hangs, crashes or eats all memory."""

from __future__ import annotations

import os
import signal
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest

from drelo.core.errors import Refusal
from drelo.formats import foreign
from drelo.formats.recipe_in import gather_recipe
from drelo.formats.svg_check import check_svg
from drelo.guard import guarded
from drelo.words.spoken import sentence
from tests import foreign as files
from tests.refusals import refused

# Far more than any takes; a hang takes for ever.
SOON = 15.0


def children() -> set[str]:
    """Processes that this one started and that are not waited for yet."""
    return {n for task in Path("/proc/self/task").iterdir() for n in (task / "children").read_text().split()}


def soon(read: Callable[..., object], *arguments: object) -> str:
    """What a file is refused with, nothing where it is read; fails where it takes long."""
    begin = time.monotonic()
    try:
        read(*arguments)
        said = ""
    except Refusal as refusal:
        said = sentence(refusal)
        assert "Traceback" not in said
        assert said.endswith(".")
    assert time.monotonic() - begin < SOON
    return said


@pytest.mark.parametrize("name", files.DRAWINGS)
def test_a_drawing_is_read_or_refused_soon(name):
    file_name, make = files.DRAWINGS[name]
    soon(foreign.drawing, make(), file_name)


@pytest.mark.parametrize("name", [name for name in files.DRAWINGS if name.startswith("uses")])
def test_what_draws_itself_again_and_again_is_refused_before_it_is_drawn(name):
    with refused("SVG"):
        check_svg(files.DRAWINGS[name][1]())


@pytest.mark.parametrize("name", files.PICTURES)
def test_a_picture_is_read_or_refused_soon(name):
    soon(foreign.picture, files.PICTURES[name][1]())


@pytest.mark.parametrize("name", files.FONTS)
def test_a_font_is_refused_soon(name):
    assert soon(foreign.check_font, files.FONTS[name][1]())


@pytest.mark.parametrize("name", files.ARCHIVES)
def test_a_recipe_is_refused_soon(name):
    file_name, make = files.ARCHIVES[name]
    assert soon(gather_recipe, {file_name: make()})


@pytest.mark.parametrize("name", files.MESHES)
def test_a_mesh_is_read_or_refused_soon(name):
    soon(foreign.mesh, files.MESHES[name][1](), "mesh")


def test_what_lies_just_under_a_limit_is_read(monkeypatch):
    # However slow the machine: it takes twenty seconds on a quick one.
    monkeypatch.setattr(foreign, "DRAWING_SECONDS", 600.0)
    assert foreign.drawing(files.uses(10, 4), "a.svg").things
    assert foreign.drawing(files.dxf_nested(3, 4), "a.dxf").things
    assert foreign.drawing(files.dxf_array(40, 40), "a.dxf").things
    assert foreign.drawing(files.tangle(400), "a.svg").things
    assert foreign.check_font(files.plain_font()) == "Plain"


class TestTheGuard:
    def test_values_come_back_as_they_are(self):
        value = guarded(lambda: {"a": np.arange(6.0).reshape(2, 3), "b": ("x", None, {1})})
        assert value["a"].tolist() == [[0, 1, 2], [3, 4, 5]]
        assert value["b"] == ("x", None, {1})

    def test_a_large_array_can_be_written_to(self):
        value = guarded(lambda: np.zeros((2000, 2000)))
        value[5, 5] = 3
        assert value.sum() == 3

    def test_a_reader_has_no_rights(self):
        def status() -> dict[str, str]:
            return dict(line.split(":\t", 1) for line in Path("/proc/self/status").read_text().splitlines())

        known = guarded(status)
        assert int(known["CapEff"], 16) == int(known["CapPrm"], 16) == 0
        assert known["NoNewPrivs"] == "1"

    def test_a_refusal_keeps_its_words_and_its_field(self):
        def refuse():
            raise Refusal("svg.too-many-segments", "art.file", most=7)

        with refused("more than 7 segments") as told:
            guarded(refuse)
        assert told.value.field == "art.file"

    @pytest.mark.parametrize(
        ("read", "says"),
        [
            (lambda: time.sleep(60), "took longer than 0.5 s"),
            (lambda: np.ones(2 * 10**8), "would take more than 1000 MB"),
            (lambda: os.kill(os.getpid(), signal.SIGKILL), "is damaged"),
            (lambda: 1 / 0, "is damaged"),
            (lambda: os.system, "is damaged"),
            (lambda: np.fromfile, "is damaged"),
            (lambda: guarded, "is damaged"),
        ],
    )
    def test_what_goes_wrong_ends_with_its_process(self, read, says):
        before = set(os.listdir("/proc/self/fd")), children()
        with refused(says) as told:
            guarded(read, what="drawing", field="art", seconds=0.5)
        assert told.value.field == "art"
        assert (set(os.listdir("/proc/self/fd")), children()) == before
