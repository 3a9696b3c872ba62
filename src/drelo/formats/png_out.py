"""PNG out: outlines filled at a resolution."""

from __future__ import annotations

import io
from collections.abc import Sequence

import cv2
import numpy as np
from PIL import Image

from drelo.core.errors import Refusal
from drelo.core.outline.outline import Outline

MAX_PIXELS = 64_000_000
# Samples along each side of a pixel.
FINE = 4
MM_PER_INCH = 25.4


def write_png(shapes: Sequence[tuple[Outline, str]], width: float, height: float, dpi: float) -> bytes:
    """Outlines (mm, y down, the sheet's corner at 0, 0) with their colours over nothing, smooth at their edges.

    Raises Refusal when the picture would be too large.
    """
    scale = dpi / MM_PER_INCH
    across, down = max(1, round(width * scale)), max(1, round(height * scale))
    if across * down > MAX_PIXELS:
        raise Refusal("png.too-many-pixels", "dpi", dpi=dpi, across=across, down=down, most=MAX_PIXELS // 10**6)
    image = np.zeros((down, across, 4), np.float32)
    for outline, colour in shapes:
        rings = [
            np.round((c.flattened(0.1 / scale) * scale * FINE - 0.5) * 256).astype(np.int32)
            for c in outline.contours
            if len(c)
        ]
        box = np.concatenate(rings) / 256 / FINE
        x0, y0 = np.clip(np.floor(box.min(axis=0)).astype(int) - 1, 0, [across, down])
        x1, y1 = np.clip(np.ceil(box.max(axis=0)).astype(int) + 2, 0, [across, down])
        if x1 <= x0 or y1 <= y0:
            continue
        mask = np.zeros(((y1 - y0) * FINE, (x1 - x0) * FINE), np.uint8)
        shift = np.array([x0, y0]) * FINE * 256
        cv2.fillPoly(mask, [r - shift.astype(np.int32) for r in rings], (255,), lineType=cv2.LINE_8, shift=8)
        cover = cv2.resize(mask, (x1 - x0, y1 - y0), interpolation=cv2.INTER_AREA).astype(np.float32) / 255
        rgb = np.array([int(colour[i : i + 2], 16) for i in (1, 3, 5)], np.float32)
        part = image[y0:y1, x0:x1]
        part[..., :3] = part[..., :3] * (1 - cover[..., None]) + rgb * cover[..., None]
        part[..., 3] = part[..., 3] * (1 - cover) + cover
    alpha = image[..., 3:]
    colours = np.where(alpha > 0, image[..., :3] / np.maximum(alpha, 1e-6), 0)
    final = np.concatenate([colours, alpha * 255], axis=2)
    out = io.BytesIO()
    Image.fromarray(np.clip(np.round(final), 0, 255).astype(np.uint8), "RGBA").save(out, "PNG", dpi=(dpi, dpi))
    return out.getvalue()


def on_white(data: bytes) -> bytes:
    """A PNG without what is clear in it."""
    out = io.BytesIO()
    with Image.open(io.BytesIO(data)) as clear:
        ground = Image.new("RGBA", clear.size, "#ffffff")
        Image.alpha_composite(ground, clear.convert("RGBA")).convert("L").save(out, "PNG")
    return out.getvalue()
