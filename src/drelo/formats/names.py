"""Names of files."""

from __future__ import annotations

import itertools
import re
import unicodedata
from collections.abc import Sequence


def file_name(text: str) -> str:
    """A name that is safe on every system: letters, digits, dashes."""
    plain = unicodedata.normalize("NFKD", text).encode("ascii", "ignore").decode()
    name = re.sub(r"[^A-Za-z0-9]+", "-", plain).strip("-").lower()[:60] or "piece"
    return f"{name}-piece" if re.fullmatch(r"con|prn|aux|nul|(com|lpt)\d", name) else name


def distinct_names(texts: Sequence[str]) -> list[str]:
    """Safe names in the same order, told apart by a number where two would be the same."""
    used: set[str] = set()
    result = []
    for text in texts:
        name = file_name(text)
        free = (f"{name}-{number}" for number in itertools.count(2))
        unused = name if name not in used else next(n for n in free if n not in used)
        used.add(unused)
        result.append(unused)
    return result
