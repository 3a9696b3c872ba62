"""Whether a piece is of a size that printers can make."""

from __future__ import annotations

from drelo.core.remark import Remark

# Most hobby printers reach no further, mm, across and up.
REACH = 300.0
# Nothing smaller than a few lines of the nozzle comes out as drawn.
LINES = 4


def beyond_reach(size: tuple[float, float, float], nozzle: float = 0.4) -> tuple[Remark, ...]:
    """Remarks on a piece that is larger than most printers, or too small for their nozzle; size and nozzle in mm."""
    wide, deep, high = size
    remarks = []
    if max(wide, deep) > REACH:
        remarks.append(
            Remark(f"It is {max(wide, deep):.0f} mm across; most printers have a bed of at most {REACH:.0f} mm.")
        )
    if high > REACH:
        remarks.append(Remark(f"It is {high:.0f} mm high; most printers reach at most {REACH:.0f} mm up."))
    if 0 < max(wide, deep) < LINES * nozzle:
        remarks.append(
            Remark(f"It is only {max(wide, deep):.2f} mm across; a nozzle of {nozzle:g} mm cannot print that.")
        )
    return tuple(remarks)
