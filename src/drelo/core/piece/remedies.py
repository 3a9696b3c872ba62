"""What mends a remark by one click."""

from __future__ import annotations

import hashlib

from drelo.core.piece.document import Document
from drelo.core.piece.drawn import DrawnShape, Point
from drelo.core.piece.edits import PutDrawn, SetBase, SetForm
from drelo.core.remark import Remark

Remedy = SetBase | SetForm | PutDrawn


def remedy_of(document: Document, remark: Remark, at: Point | None) -> tuple[Remedy | None, str]:
    """The edit that mends what a remark says, and what it does in words. at: of the remark, mm on the sheet."""
    match remark.remedy:
        case "one plate":
            return SetBase(shape="rectangle"), "Use one rectangular plate"
        case "own grip":
            grip = document.stamp.grip.model_copy(update={"joint": "peg"})
            return SetForm(stamp=document.stamp.model_copy(update={"grip": grip})), "Print the grip beside the stamp"
        case "handle":
            return SetForm(cutter=document.cutter.model_copy(update={"handle": True})), "Add a handle"
        case "clip":
            return SetForm(relief=document.relief.model_copy(update={"clip": True})), "Cut off what reaches out"
        case "hole" if at is not None:
            # The same hole for the same piece, and a name that no thing of it has.
            told = repr([[t.id for t in document.drawn], at])
            name = "h" + hashlib.sha256(told.encode()).hexdigest()[:12]
            across = round(remark.size, 2)
            hole = DrawnShape(id=name, name="Hole", form="circle", at=at, width=across, height=across, hole=True)
            return PutDrawn(things=(hole,)), "Make the hole go through"
        case _:
            return None, ""
