"""Text as XML holds it. The standard library's own module for it loads a web client first."""

from __future__ import annotations

from html import escape as _escape

_WHITE = str.maketrans({"\n": "&#10;", "\r": "&#13;", "\t": "&#9;"})


def text(value: str) -> str:
    """Between tags."""
    return _escape(value, quote=False)


def attribute(value: str) -> str:
    """As an attribute's value, in its quotes."""
    return f'"{_escape(value).translate(_WHITE)}"'
