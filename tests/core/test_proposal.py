"""A picture is taken as ink, colours or strokes by what it is."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from benchmarks import proposal

from drelo.core.picture.decode import Picture, decode
from drelo.core.trace.proposal import proposed

# Seeds that the choice was not made on.
SEEDS = range(900, 912)


@pytest.mark.parametrize("meant", proposal.KINDS)
def test_most_pictures_of_a_kind_are_taken_as_it(meant):
    found = [proposed(decode(proposal.KINDS[meant](seed))) for seed in SEEDS]
    assert found.count(meant) >= len(found) - 1


def test_one_colour_on_paper_is_ink_and_two_are_colours():
    rgb = np.full((200, 300, 3), 250, np.uint8)
    cv2.circle(rgb, (90, 100), 60, (200, 40, 40), -1, cv2.LINE_AA)
    assert proposed(Picture(rgb, None, None, "image/png")) == "ink"
    cv2.rectangle(rgb, (180, 40), (270, 160), (30, 90, 160), -1)
    assert proposed(Picture(rgb, None, None, "image/png")) == "colours"


def test_a_picture_of_one_tone_is_ink():
    assert proposed(Picture(np.full((60, 80, 3), 200, np.uint8), None, None, "image/png")) == "ink"


def test_what_is_opaque_on_nothing_is_told_by_its_colours():
    rgb, alpha = np.full((120, 160, 3), 255, np.uint8), np.zeros((120, 160), np.uint8)
    cv2.circle(rgb, (60, 60), 40, (20, 20, 20), -1)
    cv2.circle(alpha, (60, 60), 40, 255, -1)
    assert proposed(Picture(rgb, alpha, None, "image/png")) == "ink"
    cv2.rectangle(rgb, (110, 20), (150, 100), (200, 60, 40), -1)
    cv2.rectangle(alpha, (110, 20), (150, 100), 255, -1)
    assert proposed(Picture(rgb, alpha, None, "image/png")) == "colours"


def test_letters_are_no_drawing():
    grey = np.full((160, 500), 255, np.uint8)
    cv2.putText(grey, "MILL", (20, 120), cv2.FONT_HERSHEY_SIMPLEX, 4, 0, 16, cv2.LINE_AA)
    assert proposed(decode(cv2.imencode(".png", grey)[1].tobytes())) == "ink"


def test_a_logo_with_a_bold_outline_round_filled_shapes_is_ink():
    grey = np.full((600, 600), 255, np.uint8)
    cv2.ellipse(grey, (300, 300), (250, 220), 0, 0, 360, 0, 30, cv2.LINE_AA)
    assert proposed(decode(cv2.imencode(".png", grey)[1].tobytes())) == "strokes"
    cv2.ellipse(grey, (260, 300), (110, 60), 20, 0, 360, 0, -1, cv2.LINE_AA)
    assert proposed(decode(cv2.imencode(".png", grey)[1].tobytes())) == "ink"


def test_a_filled_shape_that_a_line_leads_to_is_no_drawing():
    grey = np.full((600, 600), 255, np.uint8)
    cv2.line(grey, (20, 560), (400, 200), 0, 6, cv2.LINE_AA)
    assert proposed(decode(cv2.imencode(".png", grey)[1].tobytes())) == "strokes"
    cv2.circle(grey, (430, 170), 110, 0, -1, cv2.LINE_AA)
    assert proposed(decode(cv2.imencode(".png", grey)[1].tobytes())) == "ink"


def under_a_lamp(rgb: np.ndarray) -> bytes:
    """A photograph of it as a JPEG: brightest at the upper left, and half as bright at the lower right."""
    y, x = np.mgrid[: rgb.shape[0], : rgb.shape[1]]
    far = np.hypot(x / rgb.shape[1] - 0.2, y / rgb.shape[0] - 0.15)
    lit = np.clip(rgb * (1 - 0.5 * far)[..., None], 0, 255).astype(np.uint8)
    return cv2.imencode(".jpg", lit[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 80])[1].tobytes()


def test_a_logo_of_one_colour_under_a_lamp_is_ink_and_of_two_is_colours():
    rgb = np.full((700, 700, 3), (244, 238, 224), np.uint8)
    cv2.circle(rgb, (160, 160), 110, (30, 60, 140), -1, cv2.LINE_AA)
    cv2.rectangle(rgb, (460, 480), (640, 620), (30, 60, 140), -1)
    assert proposed(decode(under_a_lamp(rgb))) == "ink"
    cv2.rectangle(rgb, (460, 100), (640, 260), (170, 60, 50), -1)
    assert proposed(decode(under_a_lamp(rgb))) == "colours"


def test_a_grey_shape_beside_a_blue_one_is_a_colour_and_no_shade():
    rgb = np.full((400, 600, 3), 250, np.uint8)
    cv2.circle(rgb, (160, 200), 110, (30, 60, 140), -1, cv2.LINE_AA)
    cv2.rectangle(rgb, (340, 90), (540, 310), (150, 150, 150), -1)
    assert proposed(decode(cv2.imencode(".png", rgb[..., ::-1])[1].tobytes())) == "colours"


@pytest.mark.parametrize("seed", [320, 335])
def test_the_fringe_that_coding_leaves_round_a_colour_is_none(seed):
    assert proposed(decode(proposal.silhouettes(seed))) == "ink"
