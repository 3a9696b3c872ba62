"""Pictures drawn for the walks: a maker's usual sources, none of them anybody's."""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

Image = NDArray[np.uint8]
FONT = cv2.FONT_HERSHEY_DUPLEX


def png(image: Image) -> bytes:
    return cv2.imencode(".png", image)[1].tobytes()


def jpeg(image: Image, quality: int = 75) -> bytes:
    return cv2.imencode(".jpg", image, [cv2.IMWRITE_JPEG_QUALITY, quality])[1].tobytes()


def paper(width: int, height: int, grey: int = 255) -> Image:
    return np.full((height, width, 3), grey, np.uint8)


def points(*xy: tuple[int, int]) -> NDArray[np.int32]:
    return np.array([xy], np.int32)


def busy_sign() -> bytes:
    """A word among ornaments."""
    image = paper(900, 600)
    for x in range(60, 860, 80):
        cv2.circle(image, (x, 60), 22, (0, 0, 0), 6, cv2.LINE_AA)
        cv2.circle(image, (x, 540), 22, (0, 0, 0), 6, cv2.LINE_AA)
    cv2.ellipse(image, (450, 300), (420, 190), 0, 0, 360, (0, 0, 0), 8, cv2.LINE_AA)
    cv2.putText(image, "BEANS", (250, 330), FONT, 4.0, (0, 0, 0), 12, cv2.LINE_AA)
    return png(image)


def saw_blade(teeth: int = 24) -> bytes:
    image = paper(900, 900)
    rim = []
    for i in range(teeth):
        angle = 2 * np.pi * i / teeth
        for turn, radius in ((0.0, 380), (0.12, 300)):
            rim.append((int(450 + radius * np.cos(angle + turn)), int(450 + radius * np.sin(angle + turn))))
    cv2.fillPoly(image, points(*rim), (0, 0, 0), cv2.LINE_AA)
    cv2.circle(image, (450, 450), 60, (255, 255, 255), -1, cv2.LINE_AA)
    return png(image)


def faint_logo() -> bytes:
    """A pale hexagon with a bar, as a faint copy of a logo."""
    image = paper(700, 700, 250)
    rim = [(int(350 + 260 * np.cos(a)), int(350 + 260 * np.sin(a))) for a in np.arange(6) * np.pi / 3]
    cv2.polylines(image, points(*rim), True, (225, 225, 225), 10, cv2.LINE_AA)
    cv2.rectangle(image, (230, 310), (470, 390), (228, 228, 228), -1, cv2.LINE_AA)
    return png(image)


def face() -> bytes:
    """Hair is dark, the mouth is light: one level does not take both."""
    image = paper(700, 800)
    cv2.ellipse(image, (350, 420), (240, 300), 0, 0, 360, (60, 60, 60), 8, cv2.LINE_AA)
    cv2.ellipse(image, (350, 220), (250, 130), 0, 180, 360, (20, 20, 20), -1, cv2.LINE_AA)
    for x in (260, 440):
        cv2.circle(image, (x, 400), 26, (40, 40, 40), -1, cv2.LINE_AA)
    cv2.ellipse(image, (350, 560), (90, 45), 0, 0, 180, (170, 170, 170), 16, cv2.LINE_AA)
    return png(image)


def floor_plan() -> bytes:
    image = paper(1000, 700)
    cv2.rectangle(image, (100, 100), (900, 600), (0, 0, 0), 14)
    cv2.line(image, (520, 100), (520, 380), (0, 0, 0), 14)
    cv2.line(image, (520, 480), (520, 600), (0, 0, 0), 14)
    cv2.putText(image, "SHED", (220, 380), FONT, 2.2, (0, 0, 0), 4, cv2.LINE_AA)
    return png(image)


def poster() -> bytes:
    image = paper(800, 900)
    cv2.putText(image, "AUTUMN", (90, 180), FONT, 4.2, (0, 0, 0), 14, cv2.LINE_AA)
    cv2.circle(image, (400, 480), 180, (0, 0, 0), -1, cv2.LINE_AA)
    cv2.putText(image, "FAIR", (210, 830), FONT, 4.6, (0, 0, 0), 14, cv2.LINE_AA)
    return png(image)


def fish() -> bytes:
    """A fish with bubbles and dirt, as a poor JPEG."""
    rng = np.random.default_rng(5)
    image = paper(800, 500)
    cv2.ellipse(image, (360, 260), (220, 110), 0, 0, 360, (0, 0, 0), -1, cv2.LINE_AA)
    cv2.fillPoly(image, points((540, 260), (700, 150), (700, 370)), (0, 0, 0), cv2.LINE_AA)
    cv2.circle(image, (240, 225), 18, (255, 255, 255), -1, cv2.LINE_AA)
    for x, y, r in ((110, 150, 22), (80, 90, 16), (130, 60, 12)):
        cv2.circle(image, (x, y), r, (0, 0, 0), -1, cv2.LINE_AA)
    for x, y in rng.integers([20, 380], [780, 490], (40, 2)):
        cv2.circle(image, (int(x), int(y)), 2, (0, 0, 0), -1)
    return jpeg(image, 60)


def logo() -> bytes:
    image = paper(600, 600)
    cv2.circle(image, (300, 300), 250, (0, 0, 0), 40, cv2.LINE_AA)
    cv2.fillPoly(image, points((300, 140), (430, 420), (170, 420)), (0, 0, 0), cv2.LINE_AA)
    return png(image)


def coloured_scan() -> bytes:
    """A badge in three colours under uneven light."""
    image = paper(800, 800, 245).astype(np.float32)
    flat = paper(800, 800, 245)
    cv2.ellipse(flat, (400, 400), (320, 240), 0, 0, 360, (60, 110, 40), -1, cv2.LINE_AA)
    cv2.circle(flat, (320, 380), 90, (50, 60, 190), -1, cv2.LINE_AA)
    cv2.circle(flat, (500, 430), 70, (60, 190, 220), -1, cv2.LINE_AA)
    light = 1 - 0.12 * np.linspace(0, 1, 800)[None, :, None]
    image = flat * light
    return jpeg(np.clip(image, 0, 255).astype(np.uint8), 85)


def strays() -> bytes:
    rng = np.random.default_rng(9)
    image = paper(700, 700)
    cv2.rectangle(image, (180, 180), (520, 520), (0, 0, 0), -1)
    for x, y in rng.integers(40, 660, (60, 2)):
        cv2.circle(image, (int(x), int(y)), 5, (0, 0, 0), -1, cv2.LINE_AA)
    return png(image)


def plane() -> bytes:
    image = paper(900, 600)
    outline = [(80, 300), (340, 260), (480, 80), (560, 80), (520, 260), (740, 250), (800, 170), (850, 170)]
    rim = [*outline, *((x, 600 - y) for x, y in reversed(outline))]
    cv2.fillPoly(image, points(*rim), (0, 0, 0), cv2.LINE_AA)
    return png(image)
