"""A picture as the underlay shows it."""

from __future__ import annotations

import io

import numpy as np
from PIL import Image

from drelo.core.picture.decode import Picture

# Longer sides are reduced: a screen shows no more.
MAX_SIDE = 2400


def shown(picture: Picture) -> tuple[bytes, str]:
    """PNG (with alpha) or JPEG bytes of the upright picture, and their media type."""
    if picture.alpha is None:
        image = Image.fromarray(picture.rgb)
    else:
        image = Image.fromarray(np.dstack([picture.rgb, picture.alpha]))
    image.thumbnail((MAX_SIDE, MAX_SIDE))
    packed = io.BytesIO()
    if picture.alpha is None:
        image.save(packed, "JPEG", quality=88)
        return packed.getvalue(), "image/jpeg"
    image.save(packed, "PNG")
    return packed.getvalue(), "image/png"
