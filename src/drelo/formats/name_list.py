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
        raise Refusal("The list of names is not UTF-8 text. Save it as UTF-8.", "names") from None
    sample = text[:2000]
    separator = ";" if sample.count(";") > sample.count(",") else ","
    lines = csv.reader(io.StringIO(text), delimiter=separator)
    try:
        rows = [row[0].strip() for row in lines if row and row[0].strip()]
    except csv.Error as error:
        raise Refusal(f"Line {lines.line_num} of the list of names cannot be read: {error}.", "names") from None
    if rows and rows[0].lower() in HEADERS:
        rows = rows[1:]
    if not rows:
        raise Refusal("The list holds no name. Write one name a line.", "names")
    if len(rows) > MAX_NAMES:
        raise Refusal(f"The list holds {len(rows)} names; at most {MAX_NAMES} are made at once.", "names")
    return rows
