"""Many outlines: python -m benchmarks.many [documents|sheet] [OUTLINES]

documents: what an edit costs in the core, on the wire and in the database, and how that grows.
sheet: frames a second while the sheet is moved and zoomed, and how long picking takes. Both when none is named.
"""

from __future__ import annotations

import argparse

from benchmarks.many.documents import documents
from benchmarks.many.sheet import sheet

PARTS = {"documents": documents, "sheet": sheet}
OUTLINES = 5000


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("part", nargs="?", choices=PARTS)
    parser.add_argument("outlines", nargs="?", type=int, default=OUTLINES)
    chosen = parser.parse_args()
    for name, part in PARTS.items():
        if chosen.part in (None, name):
            part(chosen.outlines)


if __name__ == "__main__":
    main()
