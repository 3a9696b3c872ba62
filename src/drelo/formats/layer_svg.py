"""A layer of a rehearsal as SVG, in mm: its lines at their true widths, and what is not printed."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from drelo.core.rehearsal.hatch import rings
from drelo.core.rehearsal.lines import KINDS
from drelo.core.rehearsal.whole import Pattern

MARGIN = 2.0
MISSING = "#c9302c"


def layer_svg(
    parts: Sequence[tuple[Pattern, str]], low: tuple[float, float], high: tuple[float, float], title: str
) -> bytes:
    """parts: patterns and the colours of their filaments. low, high: corners of the piece, mm, y up."""
    width, height = high[0] - low[0] + 2 * MARGIN, high[1] - low[1] + 2 * MARGIN
    rows = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:.3f}mm" height="{height:.3f}mm" '
        f'viewBox="{low[0] - MARGIN:.3f} {-high[1] - MARGIN:.3f} {width:.3f} {height:.3f}">',
        f"<title>{title}</title>",
        '<g transform="scale(1 -1)" fill="none" stroke-linejoin="round">',
    ]
    for pattern, colour in parts:
        lines = pattern.laid.lines
        for number, kind in enumerate(KINDS):
            for wide in np.unique(lines.widths[lines.kinds == number]):
                mine = (lines.kinds == number) & (lines.widths == wide)
                path = "".join(
                    "M" + "L".join(f"{x:.3f} {y:.3f}" for x, y in lines.points[lines.starts[k] : lines.starts[k + 1]])
                    for k in np.flatnonzero(mine)
                )
                rows.append(f'<path class="{kind}" stroke="{colour}" stroke-width="{wide:.3f}" d="{path}"/>')
        for ring in rings(pattern.laid.missing):
            path = "M" + "L".join(f"{x:.3f} {y:.3f}" for x, y in ring) + "Z"
            rows.append(f'<path class="not printed" fill="{MISSING}" d="{path}"/>')
    return "\n".join([*rows, "</g></svg>\n"]).encode()
