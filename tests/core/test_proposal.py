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
