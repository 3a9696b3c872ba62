"""The cabinet's motifs: well named, found by words, each what it says."""

import hashlib
import re

import pytest

from drelo.core.picture.decode import decode
from drelo.formats.drawing_in import Reading, read_drawing
from drelo.store import cabinet


def test_motifs_drawn_for_it_have_plain_names():
    motifs = cabinet.motifs()
    assert len({m.id for m in motifs}) == len({m.name for m in motifs}) == len(motifs) >= 24
    assert [m.name for m in motifs] == sorted(m.name for m in motifs)
    assert all(re.fullmatch(r"[a-z-]{1,40}", m.id) for m in motifs)
    assert sum(m.kind == "line drawing" for m in motifs) >= 4


def test_each_of_them_is_a_picture_of_its_own():
    seen = set()
    for motif in cabinet.motifs():
        data = cabinet.picture(motif)
        seen.add(hashlib.sha256(data).hexdigest())
        picture = decode(data)
        assert (picture.width, picture.height) == (900, 900)
        assert picture.alpha is None
        small = decode(cabinet.small_picture(motif))
        assert (small.width, small.height) == (cabinet.SMALL, cabinet.SMALL)
    assert len(seen) == len(cabinet.motifs())


def test_a_motif_is_found_by_its_id_only():
    assert cabinet.motif("hen").name == "Hen"
    assert cabinet.motif("Hen") is None
    assert cabinet.motif("../hen") is None


def test_collections_hold_several_thousand_each_with_its_credit_and_a_free_licence():
    collected = [m for m in cabinet.all_motifs() if m.collection]
    assert len(collected) > 5000
    assert len({m.id for m in collected}) == len(collected)
    assert {m.licence for m in collected} <= {"MIT", "CC0", "CC BY 3.0", "Apache 2.0"}
    assert all(m.credit and m.licence in m.source for m in collected)
    assert {m.kind for m in collected} == {"silhouette", "line drawing"}
    assert not [m.name for m in collected if re.search(r"logo|lego|amazon|twitter", m.name, re.IGNORECASE)]


@pytest.mark.parametrize(
    ("words", "name"),
    [
        ("cat", "Cat"),
        ("cats", "Cat"),
        ("feline", "Cat"),
        ("animal", "Hen"),
        ("BIRD", "Bird"),
        ("drag head", "Dragon head"),
        ("flower", "Sunflower"),
        ("blossom", "Cherry blossom"),
    ],
)
def test_a_motif_is_found_by_its_name_a_beginning_a_synonym_and_by_what_it_is(words, name):
    assert name in [m.name for m in cabinet.search(words)]


def test_the_best_comes_first_and_every_word_must_be_found():
    assert cabinet.search("dragon head")[0].name == "Dragon head"
    assert cabinet.search("hen")[0].name == "Hen"
    assert cabinet.search("dragon xyzzy") == []
    assert {m.kind for m in cabinet.search("house", "line drawing")} == {"line drawing"}
    assert len(cabinet.search("")) == len(cabinet.all_motifs())


def test_every_drawing_can_be_read():
    step = 61
    for motif in [m for m in cabinet.all_motifs() if m.collection][::step]:
        drawing = read_drawing(cabinet.drawing(motif), "drawing.svg", Reading())
        assert drawing.things, motif.id
        assert any(c.closed for t in drawing.things for c in t.contours), motif.id
