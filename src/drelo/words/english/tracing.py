"""Traces, and the pictures they are made of."""

from __future__ import annotations

SENTENCES = {
    "trace.number-of-colours": "The number of colours must be between {least} and {most}.",
    "trace.too-many-edges": (
        "At these settings the picture falls into {count} edges, and {most} is the limit. Raise the "
        "speck size or use fewer colours."
    ),
    "trace.one-colour": "Two colours are needed, one of them the background.",
    "trace.only-background": "Nothing but background is left. Use more colours or allow smaller specks.",
    "trace.no-ink": (
        "Nothing in the picture counts as ink at this level and speck size. Move the level, allow smaller specks,"
        " or swap light and dark."
    ),
    "trace.too-many-outlines": (
        "At these settings the picture falls into {count} outlines, and {most} is the limit. Raise the "
        "speck size or move the level."
    ),
    "trace.too-small": (
        "What is left at these settings is too small to be drawn with curves. Choose a larger picture, or move "
        "the level."
    ),
    "trace.noise": (
        "At these settings the picture is noise: nearly every pixel is on an edge. Raise the speck size, move "
        "the level, crop to what is meant, or choose a cleaner picture."
    ),
    "trace.level": "The level must be between 0 and 1.",
    "trace.pinhole": "The size of pinholes must be 0 or more square pixels.",
    "trace.speck": "The speck size must be 0 or more square pixels.",
    "trace.calmness": "Calmness must be between 0 and 1.",
    "trace.keenness": "Corner keenness must be between 0 and 1.",
    "trace.specks-everywhere": (
        "The picture falls apart into far too many specks to be traced. Blur it, clean it, or choose a cleaner one."
    ),
    "trace.too-many-strokes": (
        "The picture falls into {count} strokes, and {most} is the limit. Raise the speck size, or use "
        "mode ink for a picture that is not a line drawing."
    ),
    "trace.width": "The width must be above 0.",
    "trace.no-ink-at-level": (
        "Nothing in the picture counts as ink at this level. Move the level or swap light and dark."
    ),
    "trace.no-line-left": "No lines are left. Allow smaller specks, or use mode ink for dots and solid shapes.",
    "area.corners": "A free area has 3 to {most} corners.",
    "area.no-size": "The area needs a width and a height above 0.",
    "area.outside": "The area is outside the picture, or smaller than 4 × 4 pixels.",
    "colour.not-one": "{colour} is not a colour; write it as #rrggbb.",
    "care.box-too-small": "There is too little of the picture in the box. Draw a larger box.",
    "care.line-too-short": "The line is too short to level by. Draw it along something long and straight.",
    "care.corners-too-far": "The corners are too far apart. Place them on the picture.",
    "care.corners-crossed": "The four corners must go round the sheet in order.",
    "pen.outside": "The pen's line runs far outside the picture. Place its points on the picture.",
    "picture.empty-file": "The file is empty. Save or export the picture again and choose it once more.",
    "picture.too-large": (
        "The file is {has:.0f} MB; at most {most} MB can be read. Save it with fewer pixels or as JPEG."
    ),
    "picture.is-svg": "This is an SVG drawing, not a picture. Save it as PNG, or export one from your drawing program.",
    "picture.unreadable": "This is not a picture that can be read. Use PNG, JPEG, WebP, GIF, BMP or TIFF.",
    "picture.damaged": "The picture is damaged or cut off and cannot be read to its end. Save or download it again.",
    "picture.too-small": (
        "The picture is only {width} × {height} pixels: too small to hold a shape. Use one of at least 100 pixels"
        " a side."
    ),
    "picture.one-tone": (
        "The picture is all of one tone, so there is no shape to trace. Choose one with shapes that stand out "
        "from their ground."
    ),
    "picture.one-colour": (
        "The picture is all of one colour, so there is no shape to trace. Choose one with two colours or more."
    ),
    "picture.points-too-near": "Mark two points on the picture, some way apart.",
    "picture.bad-length": "The picture would become too large or too small. Check the length.",
    "picture.of-outline-gone": "The picture that this outline was traced from is no longer there.",
    "picture.replaced-gone": "The picture to replace is no longer there.",
    "picture.bent": "A picture can be moved, turned and resized, but not bent or mirrored.",
    "picture.bad-size": "The picture would become too large or too small. Choose another size.",
    "picture.too-many-pixels": "The picture has too many pixels; at most {most} million can be read. Save it smaller.",
    "picture.too-many-pixels-counted": (
        "The picture is {width} × {height} pixels; at most {most} million can be read. Save it smaller."
    ),
    "cleanup.gone": "That clean-up step is no longer there.",
}
