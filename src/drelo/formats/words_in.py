"""Words read in a picture, by the program tesseract where it is installed."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

import cv2
import numpy as np
import pytesseract
import shapely
from numpy.typing import NDArray
from PIL import Image

from drelo.core.errors import Refusal
from drelo.core.picture.decode import Picture
from drelo.core.piece.words import ReadLine

# Words anywhere in a drawing, in no order; and a single line.
SPARSE, ONE_LINE = "--psm 11", "--psm 7"
# Pictures are brought to about so many px on their longer side: letters of a small one are too small to be read.
LONG_SIDE = 2000
MOST_LARGER = 4
# Less sure words are mostly strokes of the drawing.
LEAST_SURE = 0.35
# Letters of a line are not further apart than this, against their height.
SPACE = 1.2
# What is higher than so many times the letters of a line, or lower than this share, is no letter of it.
HIGHEST, LOWEST = 1.5, 0.08
PATIENCE_S = 60

Grey = NDArray[np.uint8]
Ends = NDArray[np.float64]
Which = NDArray[np.bool_]


def read_words(picture: Picture) -> tuple[ReadLine, ...]:
    """The lines of words in a picture, from top to bottom. Raises Refusal when the program is not there."""
    scale = min(LONG_SIDE / max(picture.width, picture.height), MOST_LARGER)
    size = (max(round(picture.width * scale), 1), max(round(picture.height * scale), 1))
    plain = cv2.cvtColor(picture.rgb, cv2.COLOR_RGB2GRAY)
    grey = np.asarray(cv2.resize(plain, size, interpolation=cv2.INTER_CUBIC), np.uint8)
    found = _apart([_read_alone(grey, line) for line in lines_of(_words(grey, SPARSE))])
    return tuple(replace(line, box=_over(line.box, size[0] / picture.width)) for line in found)


def _words(grey: Grey, mode: str) -> Mapping[str, Sequence[Any]]:
    try:
        found: Mapping[str, Sequence[Any]] = pytesseract.image_to_data(
            Image.fromarray(grey), config=mode, output_type=pytesseract.Output.DICT, timeout=PATIENCE_S
        )
    except pytesseract.TesseractNotFoundError:
        raise Refusal("words.no-reader", "words") from None
    except (pytesseract.TesseractError, RuntimeError) as error:
        raise Refusal("words.unreadable", "words", reason=str(error)[:200]) from None
    return found


def _read_alone(grey: Grey, line: ReadLine) -> ReadLine:
    """A line read once more without what stands beside its letters and is no letter, where that is surer."""
    left, top, right, bottom = line.box
    high = bottom - top
    _, ink = cv2.threshold(grey, 0, 255, cv2.THRESH_BINARY_INV | cv2.THRESH_OTSU)
    if ink[int(top) : int(bottom), int(left) : int(right)].mean() > 127:
        ink = 255 - ink
    _, label, boxes, middles = cv2.connectedComponentsWithStats(ink)
    begin, _, wide, tall, _ = np.asarray(boxes, np.float64).T
    level = (middles[:, 1] > top - high / 2) & (middles[:, 1] < bottom + high / 2)
    letter = level & (tall < HIGHEST * high) & (tall > LOWEST * high)
    letter[0] = False
    letter &= _in_reach(begin, begin + wide, letter, (left, right), SPACE * high)
    alone = np.where(letter[label], np.uint8(0), np.uint8(255))
    rows, columns = np.flatnonzero((alone == 0).any(axis=1)), np.flatnonzero((alone == 0).any(axis=0))
    if not len(rows):
        return line
    pad = round(high / 2)
    y0, x0 = max(int(rows[0]) - pad, 0), max(int(columns[0]) - pad, 0)
    part = alone[y0 : int(rows[-1]) + pad, x0 : int(columns[-1]) + pad]
    again = lines_of(_words(np.ascontiguousarray(part), ONE_LINE))
    if len(again) != 1:
        return line
    (a, b, c, d) = again[0].box
    return better(line, replace(again[0], box=(a + x0, b + y0, c + x0, d + y0)))


def better(one: ReadLine, again: ReadLine) -> ReadLine:
    """Of two readings of a line the worthier one; where both have the same letters, the one that saw a decimal point.

    A small point is missed more often than one is seen that is not there.
    """
    worthier, other = (again, one) if _worth(again) > _worth(one) else (one, again)
    if _letters(one.text) == _letters(again.text) and _points(other.text) > _points(worthier.text):
        return replace(worthier, text=other.text)
    return worthier


def _letters(text: str) -> str:
    return "".join(filter(str.isalnum, text))


def _points(text: str) -> int:
    """How many decimal points lie between digits."""
    return len(re.findall(r"(?<=\d)[.,](?=\d)", text))


def _in_reach(begin: Ends, end: Ends, letter: Which, line: tuple[float, float], space: float) -> Which:
    """Which letters follow each other, no further apart than a space, on from those of the line."""
    low, high = line
    while True:
        reached = letter & (end > low - space) & (begin < high + space)
        if not reached.any() or (begin[reached].min() >= low and end[reached].max() <= high):
            return reached
        low, high = min(low, float(begin[reached].min())), max(high, float(end[reached].max()))


def _apart(lines: Sequence[ReadLine]) -> list[ReadLine]:
    """Of lines that were read twice the worthier one."""
    kept: list[ReadLine] = []
    for line in sorted(lines, key=_worth, reverse=True):
        box = shapely.box(*line.box)
        if all(shapely.intersection(box, shapely.box(*other.box)).area < 0.5 * box.area for other in kept):
            kept.append(line)
    return sorted(kept, key=lambda line: (line.box[1], line.box[0]))


def _worth(line: ReadLine) -> float:
    return line.confidence * sum(c.isalnum() for c in line.text)


def _over(box: tuple[float, float, float, float], scale: float) -> tuple[float, float, float, float]:
    return (box[0] / scale, box[1] / scale, box[2] / scale, box[3] / scale)


def lines_of(found: Mapping[str, Sequence[Any]]) -> tuple[ReadLine, ...]:
    """Words of one line together, as high as its surest word. found: columns of words as the program gives them."""
    lines: dict[tuple[int, int, int], list[int]] = {}
    for i, text in enumerate(found["text"]):
        if any(c.isalnum() for c in text) and float(found["conf"][i]) >= 100 * LEAST_SURE:
            place = (int(found["block_num"][i]), int(found["par_num"][i]), int(found["line_num"][i]))
            lines.setdefault(place, []).append(i)
    result = []
    for words in lines.values():
        surest = max(words, key=lambda i: float(found["conf"][i]))
        left = min(found["left"][i] for i in words)
        right = max(found["left"][i] + found["width"][i] for i in words)
        top, bottom = found["top"][surest], found["top"][surest] + found["height"][surest]
        sure = min(float(found["conf"][i]) for i in words) / 100
        text = " ".join(found["text"][i].strip() for i in words)
        result.append(ReadLine(text, (left, top, right, bottom), min(sure, 1.0)))
    return tuple(sorted(result, key=lambda line: (line.box[1], line.box[0])))
