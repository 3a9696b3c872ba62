"""Where ink and paper meet between the pixels of a picture."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from drelo.core.compiled import compiled

# Eight pixels in one word: all paper, all ink.
_ALIKE = np.array([[0] * 8, [1] * 8], np.uint8).view(np.uint64)[:, 0].copy()


def patterns(ink: NDArray[np.bool_]) -> tuple[NDArray[np.uint8], NDArray[np.int64], int]:
    """Pattern of ink in the four corners of every cell between pixels, 0 where all are alike; the cells where they are
    not, counted row by row; and how many stretches of line run through them.

    ink: shape (height, width); the patterns have shape (height - 1, width - 1), bits 1, 2, 4, 8 clockwise from the
    upper left corner.
    """
    height, width = ink.shape
    # Padded to whole words and one more, so that eight pixels are looked at at once.
    padded = np.zeros((height, width // 8 * 8 + 16), np.uint8)
    padded[:, :width] = ink
    code = np.zeros((height - 1, width - 1), np.uint8)
    cells, count = _patterns(padded, padded.view(np.uint64), code)
    return code, cells, count


@compiled
def _patterns(
    ink: NDArray[np.uint8], words: NDArray[np.uint64], code: NDArray[np.uint8]
) -> tuple[NDArray[np.int64], int]:
    rows, columns = code.shape
    # Memory that is not written to costs nothing.
    cells = np.empty(code.size, np.int64)
    found = count = 0
    for r in range(rows):
        for word in range((columns + 7) // 8):
            begin = 8 * word
            alike = _ALIKE[ink[r, begin]]
            beyond = begin + 8
            if (
                words[r, word] == alike
                and words[r + 1, word] == alike
                and ink[r, beyond] == ink[r, begin]
                and ink[r + 1, beyond] == ink[r, begin]
            ):
                continue
            for c in range(begin, min(beyond, columns)):
                pattern = ink[r, c] + 2 * ink[r, c + 1] + 4 * ink[r + 1, c + 1] + 8 * ink[r + 1, c]
                if pattern != 0 and pattern != 15:
                    code[r, c] = pattern
                    count += 2 if pattern == 5 or pattern == 10 else 1
                    cells[found] = r * columns + c
                    found += 1
    return cells[:found], count
