"""The look over of a whole piece: figures in mm on the sheet, in every mode."""

import cv2
import numpy as np
import pytest
from PIL import Image

from drelo.core.piece.applying import apply
from drelo.core.piece.document import Document
from drelo.core.piece.edits import EDIT
from drelo.core.piece.evaluate import Evaluation
from drelo.core.piece.memo import Memo
from drelo.core.piece.pictures import PlacedPicture, TraceSettings
from tests.conftest import png
from tests.piece import edited, picked, worked
from tests.refusals import refused

ASSET = "c" * 64


def begun(rgb: np.ndarray, **settings) -> tuple[Document, Evaluation]:
    source = PlacedPicture(id="s", asset=ASSET, name="a.png", width=rgb.shape[1], height=rgb.shape[0])
    data = png(Image.fromarray(rgb))
    return Document(pictures=(source.model_copy(update={"trace": TraceSettings(**settings)}),)), Evaluation(
        lambda _: data, Memo()
    )


def bars() -> np.ndarray:
    rgb = np.full((200, 300, 3), 255, np.uint8)
    rgb[40:160, 40:140] = (200, 40, 40)
    rgb[40:160, 140:180] = (40, 160, 60)
    rgb[40:160, 200:260] = (40, 60, 200)
    return rgb


def test_neighbours_that_share_an_edge_leave_no_gap():
    document, evaluation = begun(bars(), mode="colours")
    flat, found = evaluation.flat(document), evaluation.look_over(document)
    assert len(flat.regions) == 3
    assert found.gap is not None
    assert found.gap.width == pytest.approx(20, rel=0.02)
    assert found.gap.at[0] == pytest.approx(190, abs=1)


def test_figures_follow_the_size():
    document, evaluation = begun(bars())
    at_60 = evaluation.look_over(document)
    larger = worked(evaluation, document, do="set-size", side="width", mm=2 * evaluation.flat(document).width)
    at_120 = evaluation.look_over(larger)
    assert at_60.gap is not None
    assert at_120.gap is not None
    assert at_120.gap.width == pytest.approx(2 * at_60.gap.width, rel=1e-6)


def test_what_is_left_out_leaves_no_gap():
    document, evaluation = begun(bars())
    last = evaluation.flat(document).regions[-1]
    alone = edited(document, do="set-regions", picked=picked(last), left_out=True)
    assert evaluation.look_over(alone).gap is None
    none = apply(alone, EDIT.validate_python({"do": "set-tracing", "on": False}))
    with refused("No region is left"):
        evaluation.look_over(none)


def test_strokes_of_even_width_are_not_called_off_the_edge():
    rgb = np.full((160, 240, 3), 255, np.uint8)
    for k, width in enumerate((3, 5, 9, 5)):
        cv2.line(rgb, (30 + 50 * k, 30), (60 + 50 * k, 130), (0, 0, 0), width, cv2.LINE_AA)
    document, evaluation = begun(rgb, mode="strokes", width=4.0)
    kinds = {spot.kind for spot in evaluation.look_over(document).spots}
    assert not kinds & {"off", "faint"}


def test_the_pen_is_not_blamed_for_what_the_picture_lacks():
    document, evaluation = begun(bars())
    line = {
        "id": "p",
        "name": "Line",
        "start": [60, 170],
        "stretches": [{"kind": "straight", "to": [200, 170]}, {"kind": "straight", "to": [130, 195]}],
        "closed": True,
    }
    drawn = apply(document, EDIT.validate_python({"do": "set-pen", "line": line}))
    assert len(evaluation.flat(drawn).regions) == len(evaluation.flat(document).regions) + 1
    assert evaluation.look_over(drawn).spots == evaluation.look_over(document).spots
