"""SVG out: closed profiles in mm."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from xml.sax.saxutils import quoteattr

from drelo.core.outline.outline import Outline


@dataclass(frozen=True)
class Drawing:
    """Outlines of one fill.

    outlines: in mm, y down, the sheet's top left corner at 0, 0.
    fill: #rrggbb. name: what the group is called.
    """

    outlines: Sequence[Outline]
    fill: str = "#000000"
    name: str = ""


def write_svg(drawings: Iterable[Drawing], width: float, height: float) -> bytes:
    """An SVG whose user unit is 1 mm: a filled path a connected shape, holes by the even-odd rule."""
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" version="1.1" width="{width:.6g}mm" height="{height:.6g}mm" '
        f'viewBox="0 0 {width:.6g} {height:.6g}">',
    ]
    for drawing in drawings:
        label = f" id={quoteattr(drawing.name)}" if drawing.name else ""
        lines.append(f'<g{label} fill={quoteattr(drawing.fill)} fill-rule="evenodd">')
        lines += [
            f'<path fill={quoteattr(drawing.fill)} fill-rule="evenodd" d="{outline.path_data()}"/>'
            for outline in drawing.outlines
        ]
        lines.append("</g>")
    lines.append("</svg>")
    return ("\n".join(lines) + "\n").encode()
