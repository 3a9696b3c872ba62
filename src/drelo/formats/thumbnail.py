"""A piece as a small SVG: base and regions in their filaments."""

from __future__ import annotations

from drelo.core.piece.document import Document
from drelo.core.piece.flat import Flat

MARGIN = 0.04


def thumbnail(document: Document, flat: Flat) -> bytes:
    """SVG bytes, y down, a little margin round what is drawn."""
    x, y, width, height = flat.base_box or (flat.left, flat.top, flat.width, flat.height)
    right, bottom = max(x + width, flat.left + flat.width), max(y + height, flat.top + flat.height)
    x, y = min(x, flat.left), min(y, flat.top)
    side = max(right - x, bottom - y, 1.0)
    pad = side * MARGIN
    box = f"{x - pad:.2f} {y - pad:.2f} {right - x + 2 * pad:.2f} {bottom - y + 2 * pad:.2f}"
    base = document.filament(document.base.filament).colour
    if document.form in ("stamp", "cutter"):
        # What leaves the print or the dough is shown, the right way round.
        plate = "#e4ddcf" if document.form == "stamp" else base
        inside = "#23262b" if document.form == "stamp" else "#faf6ee"
        drawn = (
            f'<path d="{flat.base_path}" fill="{plate}" fill-rule="evenodd"/>'
            f'<path d="{flat.product_path}" fill="{inside}" fill-rule="evenodd"/>'
        )
        return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{box}">{drawn}</svg>'.encode()
    paths = [f'<path d="{flat.base_path}" fill="{base}" fill-rule="evenodd"/>'] if flat.base_path else []
    for region in flat.regions:
        if region.left_out:
            continue
        sunk = region.height == "through" or (isinstance(region.height, float) and region.height < 0)
        colour = (
            "#faf6ee" if region.height == "through" else base if sunk else document.filament(region.filament).colour
        )
        shade = ' stroke="#00000055" stroke-width="0.4"' if sunk and region.height != "through" else ""
        paths.append(f'<path d="{region.path}" fill="{colour}" fill-rule="evenodd"{shade}/>')
    return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{box}">{"".join(paths)}</svg>'.encode()
