"""Bytes of a picture to pixels, safely."""

from __future__ import annotations

import io
import warnings
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageOps, UnidentifiedImageError

from drelo.core.errors import Refusal

MAX_BYTES = 32 * 2**20
MAX_PIXELS = 100_000_000
MIN_SIDE = 4
# Of pictures that state no resolution: 96 px an inch.
DEFAULT_MM_PER_PX = 25.4 / 96
FORMATS = ("PNG", "JPEG", "WEBP", "GIF", "BMP", "TIFF")
# Phones write several pictures of one view as one file, a JPEG with more behind it.
MEDIA_TYPES = {f: f"image/{f.lower()}" for f in FORMATS} | {"MPO": "image/jpeg"}
# Rows that are worked on at once.
ROWS = 256
# Alpha means something when at least this share of the pixels is see-through.
ALPHA_SHARE = 0.002


@dataclass(frozen=True, eq=False)
class Picture:
    """Upright pixels.

    rgb: shape (height, width, 3), uint8, sRGB, composed on white where it is see-through.
    alpha: shape (height, width), uint8; None when the picture has no alpha that means something.
    mm_per_px: from the file's resolution; None when the file states none.
    coded: the file kept colour more coarsely than brightness, as JPEG does.
    """

    rgb: NDArray[np.uint8]
    alpha: NDArray[np.uint8] | None
    mm_per_px: float | None
    media_type: str
    coded: bool = False

    @property
    def width(self) -> int:
        return int(self.rgb.shape[1])

    @property
    def height(self) -> int:
        return int(self.rgb.shape[0])


def decode(data: bytes) -> Picture:
    """Decode PNG, JPEG, WebP, GIF (first frame), BMP or TIFF; turn it upright by its EXIF orientation.

    Raises Refusal when the bytes are no such picture, damaged, too large or too small.
    """
    if not data:
        raise Refusal("picture.empty-file")
    if len(data) > MAX_BYTES:
        raise Refusal("picture.too-large", has=len(data) / 2**20, most=MAX_BYTES // 2**20)
    head = data[:400].lstrip(b"\xef\xbb\xbf \t\r\n").lower()
    if head.startswith((b"<svg", b"<?xml", b"<!doctype svg")):
        raise Refusal("picture.is-svg")
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            image = Image.open(io.BytesIO(data), formats=FORMATS)
            return _read(image, _is_coded(data, image.format))
    except Refusal:
        raise
    except UnidentifiedImageError:
        raise Refusal("picture.unreadable") from None
    except Image.DecompressionBombError:
        raise Refusal("picture.too-many-pixels", most=MAX_PIXELS // 10**6) from None
    except (OSError, SyntaxError, ValueError, TypeError, LookupError, ArithmeticError, EOFError) as error:
        raise Refusal("picture.damaged") from error


def _read(image: Image.Image, coded: bool) -> Picture:
    width, height = image.size
    if width * height > MAX_PIXELS:
        raise Refusal("picture.too-many-pixels-counted", width=width, height=height, most=MAX_PIXELS // 10**6)
    if min(width, height) < MIN_SIDE:
        raise Refusal("picture.too-small", width=width, height=height)
    media_type = MEDIA_TYPES[image.format or "PNG"]
    image.load()
    mm_per_px = _resolution(image)
    # In place: another copy of a large picture is hundreds of megabytes.
    ImageOps.exif_transpose(image, in_place=True)
    upright: Image.Image = image
    has_alpha = "A" in upright.getbands() or "transparency" in upright.info
    if upright.mode.startswith("I") or upright.mode == "F":
        upright = _eight_bit(upright)
    if not has_alpha:
        rgb = np.asarray(upright if upright.mode == "RGB" else upright.convert("RGB"))
        return Picture(rgb, None, mm_per_px, media_type, coded)
    rgb, alpha = _on_white(upright)
    seen = np.count_nonzero(alpha > 127)
    meaningful = alpha.size - seen >= ALPHA_SHARE * alpha.size and seen > 0
    return Picture(rgb, alpha if meaningful else None, mm_per_px, media_type, coded)


def _is_coded(data: bytes, kind: str | None) -> bool:
    """Whether a file keeps colour coarsely: JPEG, and WebP unless its first frame is lossless."""
    if kind != "WEBP":
        return kind in ("JPEG", "MPO")
    at = 12
    while (at + 8 <= len(data) and data[at : at + 3] != b"VP8") or data[at : at + 4] == b"VP8X":
        # A frame of a moving picture holds chunks of its own behind 16 bytes.
        inside = 16 if data[at : at + 4] == b"ANMF" else -(-int.from_bytes(data[at + 4 : at + 8], "little") // 2) * 2
        at += 8 + inside
    return data[at : at + 4] != b"VP8L"


def _on_white(image: Image.Image) -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
    """Colours on white, and how opaque they are, some rows at a time."""
    width, height = image.size
    rgb, alpha = np.empty((height, width, 3), np.uint8), np.empty((height, width), np.uint8)
    for top in range(0, height, ROWS):
        below = min(top + ROWS, height)
        rgba = np.asarray(image.crop((0, top, width, below)).convert("RGBA"))
        a = rgba[..., 3:].astype(np.uint16)
        rgb[top:below] = (rgba[..., :3] * a + 255 * (255 - a) + 127) // 255
        alpha[top:below] = rgba[..., 3]
    return rgb, alpha


def _eight_bit(image: Image.Image) -> Image.Image:
    values = np.asarray(image).astype(np.float32)
    top = 65535.0 if image.mode.startswith("I") and values.max() > 255 else max(values.max(), 1e-9)
    if image.mode.startswith("I") and values.max() <= 255:
        top = 255.0
    return Image.fromarray(np.clip(np.round(values * (255 / top)), 0, 255).astype(np.uint8), "L")


def _resolution(image: Image.Image) -> float | None:
    dpi = image.info.get("dpi")
    try:
        x = float(dpi[0])  # type: ignore[index]
    except (TypeError, ValueError, IndexError, ZeroDivisionError):
        return None
    # Files that state 1 or 0 dpi state an aspect ratio, not a size.
    return 25.4 / x if 10 <= x <= 10_000 else None
