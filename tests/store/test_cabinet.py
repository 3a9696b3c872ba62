"""The cabinet's motifs: well named, and pictures of their own."""

import hashlib
import re

from drelo.core.picture.decode import decode
from drelo.store import cabinet


def test_motifs_have_plain_names_and_words_to_be_found_under():
    motifs = cabinet.motifs()
    assert len({m.id for m in motifs}) == len({m.name for m in motifs}) == len(motifs) >= 24
    assert [m.name for m in motifs] == sorted(m.name for m in motifs)
    for motif in motifs:
        assert re.fullmatch(r"[a-z-]{1,40}", motif.id)
        assert len(motif.words) >= 2
        assert all(re.fullmatch(r"[a-z]+", word) for word in motif.words)
    assert sum(m.kind == "line drawing" for m in motifs) >= 4


def test_every_motif_is_a_picture_of_its_own():
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
