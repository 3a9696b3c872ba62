"""Words of seven letters in the shipped typefaces, joined where they join: the truth for traces of letters."""

from __future__ import annotations

from benchmarks.tracing.truth import Truth
from drelo.core.lettering.fonts import font_of
from drelo.core.lettering.layout import Setting, letters
from drelo.formats.fonts import NAMES, shipped_font

WORDS = ("Gabfest", "Rhyming", "Vexjuly", "quickDO", "MasWznt")


def lettered() -> list[Truth]:
    """Every word in every typeface."""
    return [
        Truth(
            f"{name} {word}",
            tuple(letters(word, font_of(shipped_font(name)), Setting(spacing=0.12 * (name != "script")))),
        )
        for name in NAMES
        for word in WORDS
    ]
