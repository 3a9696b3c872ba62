"""English: a sentence or two for each code of a refusal, and the names of fields in them.

Another language is a package like this one, with the same codes and values.
"""

from __future__ import annotations

from drelo.words.english import command, files, forms, printing, requests, shape, tracing, workshop
from drelo.words.language import Language

ENGLISH = Language(
    sentences=(
        command.SENTENCES
        | files.SENTENCES
        | forms.SENTENCES
        | printing.SENTENCES
        | requests.SENTENCES
        | shape.SENTENCES
        | tracing.SENTENCES
        | workshop.SENTENCES
    ),
    names={
        "bar_width": "cross-bar width",
        "edge": "edge thickness",
        "fixing.inner": "hole diameter",
        "fixing.wall": "wall around its hole",
        "flange_round": "rounding",
        "foot": "lean",
        "letters": "letter height",
        "rib_short": "gap below its ribs",
        "wall": "wall thickness",
    },
    either="or",
)
