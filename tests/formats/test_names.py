"""Names of files are safe on every system and never the same; lists of names come in as they were meant."""

from __future__ import annotations

import re

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from drelo.formats.name_list import MAX_NAMES, read_names
from drelo.formats.names import distinct_names, file_name
from tests.refusals import refused

SAFE = re.compile(r"[a-z0-9]([a-z0-9-]*[a-z0-9])?")
DEVICES = {"con", "prn", "aux", "nul", *(f"{kind}{n}" for kind in ("com", "lpt") for n in range(10))}


@given(st.text(max_size=300))
@example("CON")
@example("lpt1")
@example("../../etc/passwd")
@example("Größe & Maß")
@example("…")
def test_any_text_gives_a_name_that_every_system_takes(text):
    name = file_name(text)
    assert SAFE.fullmatch(name)
    assert len(name) <= 70
    assert name not in DEVICES


@given(st.lists(st.one_of(st.text(max_size=8), st.sampled_from(["a", "A", "a-2", "a 2", "a-3", ""])), max_size=12))
@example(["a", "a", "a-2"])
@example(["a-2", "a", "a"])
def test_names_of_several_files_are_told_apart(texts):
    names = distinct_names(texts)
    assert len(names) == len(texts)
    assert len(set(names)) == len(names)
    assert all(SAFE.fullmatch(name) for name in names)


@pytest.mark.parametrize(
    ("data", "names"),
    [
        ("Ada\nBo\n\n Cy \n", ["Ada", "Bo", "Cy"]),
        ("name,plot\nAda,1\nBo,2\n", ["Ada", "Bo"]),
        ("Name;plot\nAda;1\n", ["Ada"]),
        ("\ufeffÅsa\nJosé\n", ["Åsa", "José"]),
        ('"Ada, the elder"\n"Bo ""the plot"""\n', ["Ada, the elder", 'Bo "the plot"']),
        ("Ada\r\nBo\r\n", ["Ada", "Bo"]),
    ],
)
def test_lists_are_read_as_they_are_written(data, names):
    assert read_names(data.encode()) == names


@pytest.mark.parametrize(
    ("data", "says"),
    [(b"", "no name"), (b"\n\n", "no name"), (b"name\n", "no name"), (b"\xff\xfe\x00", "not UTF-8")],
)
def test_lists_without_names_are_refused(data, says):
    with refused(says):
        read_names(data)


def test_a_list_that_is_too_long_is_refused_with_its_length():
    with refused(str(MAX_NAMES + 1)):
        read_names("\n".join(f"n{i}" for i in range(MAX_NAMES + 1)).encode())
