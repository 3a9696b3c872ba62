"""The cabinet: silhouettes and line drawings that ship with the program, found by words.

Some were drawn for it; most are from open collections, packed by `demo/cabinet.py`.
"""

from __future__ import annotations

import gzip
import io
import json
import re
from bisect import bisect_left
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any

from PIL import Image

SMALL = 100
ORIGIN = "Drelo's own cabinet"
INK = "#000"
# What a word that is found counts: in the name itself, as what means the same, as what it is a kind of.
OWN, SAME, KIND = 8, 3, 1
# A word that only begins as the typed one does counts this share.
BEGINS = 0.5


@dataclass(frozen=True)
class Motif:
    """kind: silhouette or line drawing. collection: the letter of its file, none for those drawn for the cabinet.

    credit, licence: whose it is, and by what right it is used.
    """

    id: str
    name: str
    kind: str
    collection: str = ""
    credit: str = ORIGIN
    licence: str = ""

    @property
    def source(self) -> str:
        """Where it came from, in words that travel with it."""
        if not self.collection:
            return ORIGIN
        return f"“{self.name}”, {self.credit}, {self.licence}"


def search(words: str, kind: str = "") -> list[Motif]:
    """Motifs of a kind for which every word typed is found, the best first; all of them while nothing is typed."""
    wanted = [w for w in re.split(r"[^a-z0-9]+", words.lower()) if w]
    found = [m for m in all_motifs() if kind in ("", m.kind)]
    if not wanted:
        return found
    scores = [_scores(word) for word in wanted]
    ranked = [(sum(s[m.id] for s in scores), m) for m in found if all(m.id in s for s in scores)]
    return [m for _, m in sorted(ranked, key=lambda pair: (-pair[0], len(pair[1].name), pair[1].name))]


@cache
def all_motifs() -> tuple[Motif, ...]:
    """All of them: those drawn for the cabinet first, each part by name."""
    collections = {letter: _collection(letter) for letter in _letters()}
    rest = []
    for identifier, name in _index()["names"]:
        about = collections[identifier[0]]
        title = name[:1].upper() + name[1:]
        rest.append(Motif(identifier, title, about["kind"], identifier[0], about["credit"], about["licence"]))
    return (*motifs(), *sorted(rest, key=lambda m: m.name))


@cache
def motifs() -> tuple[Motif, ...]:
    """Those that were drawn for the cabinet, by name."""
    return tuple(sorted((Motif(m["id"], m["name"], m["kind"]) for m in _own()), key=lambda m: m.name))


def motif(identifier: str) -> Motif | None:
    """The motif of that id."""
    return _by_id().get(identifier)


def drawing(found: Motif) -> bytes | None:
    """A motif as SVG; none of those that are pictures."""
    if not found.collection:
        return None
    width, height, body = _collection(found.collection)["drawings"][found.id[2:]]
    size = f'width="{width}mm" height="{height}mm" viewBox="0 0 {width} {height}"'
    plain = body.replace("currentColor", INK)
    return f'<svg xmlns="http://www.w3.org/2000/svg" {size}><g fill="{INK}">{plain}</g></svg>'.encode()


def picture(found: Motif) -> bytes:
    """A motif that was drawn for the cabinet as PNG."""
    return files(__package__).joinpath("motifs", f"{found.id}.png").read_bytes()


@cache
def small_picture(found: Motif) -> bytes:
    """Such a motif as PNG of SMALL px a side, to choose by."""
    packed = io.BytesIO()
    with Image.open(io.BytesIO(picture(found))) as whole:
        whole.convert("L").resize((SMALL, SMALL), Image.Resampling.BOX).save(packed, "PNG")
    return packed.getvalue()


# The index


@cache
def _words() -> tuple[tuple[str, ...], Mapping[str, Mapping[str, int]]]:
    """Every word that something is found under, in order, and what each counts for which motifs."""
    counts: dict[str, dict[str, int]] = defaultdict(dict)

    def under(word: str, identifier: str, count: int) -> None:
        for part in word.split(" "):
            counts[part][identifier] = max(counts[part].get(identifier, 0), count)

    for own in _own():
        for word in own["name"].lower().split(" "):
            under(word, own["id"], OWN)
        for word in (*own["words"], *own["kind"].split(" ")):
            under(word, own["id"], SAME)
    index = _index()
    for identifier, name in index["names"]:
        for token in name.split(" "):
            under(token, identifier, OWN)
            same, kinds = index["words"].get(token, ((), ()))
            for word in same:
                under(word, identifier, SAME)
            for word in kinds:
                under(word, identifier, KIND)
    return tuple(sorted(counts)), counts


def _scores(word: str) -> Mapping[str, float]:
    """What a typed word counts for each motif: as it is, in the singular, or as a beginning."""
    words, counts = _words()
    scores: dict[str, float] = {}

    def take(found: Mapping[str, int], share: float) -> None:
        for identifier, count in found.items():
            scores[identifier] = max(scores.get(identifier, 0.0), count * share)

    exact = [w for w in (word, word.removesuffix("s"), word.removesuffix("es")) if w in counts]
    for known in exact:
        take(counts[known], 1.0)
    for longer in _beginning(words, word):
        take(counts[longer], BEGINS)
    return scores


def _beginning(words: Sequence[str], start: str) -> Sequence[str]:
    return words[bisect_left(words, start) : bisect_left(words, start + "\U0010ffff")]


@cache
def _by_id() -> Mapping[str, Motif]:
    return {m.id: m for m in all_motifs()}


@cache
def _own() -> Sequence[Mapping[str, Any]]:
    listing: list[dict[str, Any]] = json.loads(
        files(__package__).joinpath("motifs", "motifs.json").read_text(encoding="utf-8")
    )
    return listing


@cache
def _index() -> Mapping[str, Any]:
    return _unpacked("index")


def _letters() -> set[str]:
    return {identifier[0] for identifier, _ in _index()["names"]}


@cache
def _collection(letter: str) -> Mapping[str, Any]:
    return _unpacked(letter)


def _unpacked(name: str) -> Mapping[str, Any]:
    packed = files(__package__).joinpath("collections", f"{name}.json.gz").read_bytes()
    value: dict[str, Any] = json.loads(gzip.decompress(packed))
    return value
