"""Every refusal has its sentence, which tells what the refusal says and nothing else; no sentence is left over."""

from __future__ import annotations

import ast
import pickle
from collections.abc import Iterator
from pathlib import Path
from string import Formatter

import pytest

from drelo.core.errors import Refusal
from drelo.words.english import ENGLISH
from drelo.words.language import Language
from drelo.words.spoken import sentence

SOURCE = Path(__file__).resolve().parents[1] / "src" / "drelo"
MAKERS = ("Refusal", "DeviceAway")


def said() -> Iterator[tuple[str, str, set[str]]]:
    """Where a refusal is made, its code, and the names of its values."""
    for path in SOURCE.rglob("*.py"):
        for call in ast.walk(ast.parse(path.read_text())):
            if isinstance(call, ast.Call) and isinstance(call.func, ast.Name) and call.func.id in MAKERS:
                code = call.args[0]
                assert isinstance(code, ast.Constant), f"{path}:{call.lineno}: the code is not written out"
                values = {word.arg for word in call.keywords if word.arg is not None}
                yield f"{path.relative_to(SOURCE)}:{call.lineno}", code.value, values


def told_by(words: str) -> set[str]:
    return {name for _, name, _, _ in Formatter().parse(words) if name}


def test_each_tells_its_values():
    for place, code, values in said():
        assert code in ENGLISH.sentences, place
        assert told_by(ENGLISH.sentences[code]) == values, place


def test_no_sentence_is_left_over():
    assert set(ENGLISH.sentences) == {code for _, code, _ in said()}


def test_each_sentence_ends_as_one():
    for code, words in ENGLISH.sentences.items():
        assert words.endswith((".", "?", "}", "NAME", "32", "@host:port/name")) or "openssl" in words, code


@pytest.mark.parametrize(
    ("code", "values", "words"),
    [
        ("nameplate.out-of-range", {"name": "tie_width", "low": 0.4, "high": 50.0}, "nameplate's tie width must be"),
        ("limits.pieces", {"pieces": 1}, "room for 1 piece in"),
        ("limits.pieces", {"pieces": 2000}, "room for 2,000 pieces in"),
        ("command.option-of-other-mode", {"name": "keen", "modes": ("ink", "colours")}, "--mode ink or colours."),
        ("command.option-of-other-mode", {"name": "width", "modes": ("strokes",)}, "--mode strokes."),
        ("dxf.unit", {"units": ("mm", "in")}, "one of mm, in."),
        ("font.no-letters", {"letters": ("ß", "é")}, "no letter for ß é."),
        ("settings.invalid", {"name": "DRELO_PORT", "value": "x", "problem": "Input is odd"}, "be 'x': input is"),
        ("within", {"name": "Beet", "refusal": Refusal("star.no-notches")}, "Beet: A star's notches"),
    ],
)
def test_values_are_told_in_words(code, values, words):
    assert words in sentence(Refusal(code, "", **values))


def test_a_refusal_travels_whole():
    inner = Refusal("tie.gone", "which")
    sent = Refusal("within", "drawn.3", name="Beet", refusal=inner)
    found = pickle.loads(pickle.dumps(sent))
    assert found == sent
    assert (found.field, sentence(found)) == ("drawn.3", sentence(sent))
    assert sent.at("other").field == "other"
    assert sent.at("other") != sent


def test_another_language_is_a_table():
    shouted = Language({"tie.gone": "ALAS, {name:name}", "within": "{refusal}"}, {"tie_width": "TIE'S WIDTH"}, "OR")
    inner = Refusal("tie.gone", name="tie_width")
    assert shouted.sentence(Refusal("within", refusal=inner)) == "ALAS, TIE'S WIDTH"
