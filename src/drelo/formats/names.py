"""Names of files."""

from __future__ import annotations

import re
import unicodedata


def file_name(text: str) -> str:
    """A name that is safe on every system: letters, digits, dashes."""
    plain = unicodedata.normalize("NFKD", text).encode("ascii", "ignore").decode()
    name = re.sub(r"[^A-Za-z0-9]+", "-", plain).strip("-").lower()[:60] or "piece"
    return f"{name}-piece" if re.fullmatch(r"con|prn|aux|nul|(com|lpt)\d", name) else name
