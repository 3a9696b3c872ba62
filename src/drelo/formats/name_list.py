"""Lists of names: one a line, or the first column of a CSV."""

from __future__ import annotations

import csv
import io

from drelo.core.errors import Refusal

MAX_NAMES = 1000
MAX_BYTES = 2**20
HEADERS = {"name", "names", "text"}


def read_names(data: bytes) -> list[str]:
    """The first column, a heading left out. Raises Refusal when no name is left."""
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise Refusal("names.not-utf8", "names") from None
    sample = text[:2000]
    separator = ";" if sample.count(";") > sample.count(",") else ","
    lines = csv.reader(io.StringIO(text), delimiter=separator)
    try:
        rows = [row[0].strip() for row in lines if row and row[0].strip()]
    except csv.Error as error:
        raise Refusal("names.line-unreadable", "names", line=lines.line_num, reason=str(error)) from None
    if rows and rows[0].lower() in HEADERS:
        rows = rows[1:]
    if not rows:
        raise Refusal("names.none", "names")
    if len(rows) > MAX_NAMES:
        raise Refusal("names.too-many", "names", count=len(rows), most=MAX_NAMES)
    return rows
