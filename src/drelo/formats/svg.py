"""SVG out: closed profiles in mm."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from drelo.core.outline.contour import Contour
from drelo.core.outline.outline import Outline
from drelo.core.trace.trace import Line
from drelo.formats.xml_text import attribute, text


@dataclass(frozen=True)
class Drawing:
    """Outlines of one fill.

    outlines: in mm, y down, the sheet's top left corner at 0, 0.
    fill: #rrggbb. name: what the group is called.
    """

    outlines: Sequence[Outline]
    fill: str = "#000000"
    name: str = ""


# Width, mm, in which a line without one is shown.
HAIR = 0.1
_CAPS = {"flat": "butt", "round": "round", "square": "square"}
_JOINS = {"mitre": "miter", "round": "round", "bevel": "bevel"}


def write_svg(
    drawings: Iterable[Drawing],
    width: float,
    height: float,
    lines: Iterable[Line] = (),
    hairs: Iterable[tuple[Contour, str]] = (),
    digits: int = 4,
    told: str = "",
) -> bytes:
    """An SVG whose user unit is 1 mm: a filled path a connected shape, holes by the even-odd rule.

    lines: middle lines in mm, written unfilled with their widths. hairs: open lines that have no width, and colours.
    digits: of places. told: what the file says of itself, such as whose drawings are in it.
    """
    written = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" version="1.1" width="{width:.6g}mm" height="{height:.6g}mm" '
        f'viewBox="0 0 {width:.6g} {height:.6g}">',
    ]
    if told:
        written.append(f"<desc>{text(told)}</desc>")
    for drawing in drawings:
        label = f" id={attribute(drawing.name)}" if drawing.name else ""
        written.append(f'<g{label} fill={attribute(drawing.fill)} fill-rule="evenodd">')
        written += [
            f'<path fill={attribute(drawing.fill)} fill-rule="evenodd" d="{outline.path_data(digits)}"/>'
            for outline in drawing.outlines
        ]
        written.append("</g>")
    written += [
        f'<path fill="none" stroke="#000000" stroke-width="{line.width:.4f}" '
        f'stroke-linecap="{_CAPS[line.cap]}" stroke-linejoin="{_JOINS[line.join]}" d="{line.contour.path_data()}"/>'
        for line in lines
    ]
    written += [
        f'<path fill="none" stroke={attribute(colour)} stroke-width="{HAIR}" d="{line.path_data()}"/>'
        for line, colour in hairs
    ]
    written.append("</svg>")
    return ("\n".join(written) + "\n").encode()
