"""Changes to a piece, what changed of it, and what is asked of its outlines and its solid."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, Generic, TypeVar, get_type_hints

from pydantic import (
    BaseModel,
    ConfigDict,
    Field,
    RootModel,
    SerializerFunctionWrapHandler,
    create_model,
    model_serializer,
)

from drelo.core.piece.difference import Difference, Rows, Splice, difference
from drelo.core.piece.document import Document, RegionChoice
from drelo.core.piece.drawn import Drawn, Identifier, Point
from drelo.core.piece.edits import Edit
from drelo.core.piece.flat import Flat, FlatRegion, FlatThing, OutcomeView
from drelo.core.piece.look_over import LookOver
from drelo.core.piece.operations import Operation
from drelo.web.schemas.base import Wire
from drelo.web.schemas.pieces import BenchOut, PieceHeadOut

Row = TypeVar("Row")

# One union told apart by `do`, so that a wrong value is named by its field.
Change = Annotated[Edit | Operation, Field(discriminator="do")]


class EditRequest(Wire):
    """An edit, or what is asked of outlines, and the revision that it was made on.

    changes_only: the answer holds what differs from that revision, not the whole.
    """

    revision: int
    edit: Change
    changes_only: bool = False


# So many edits can wait for their answer while the next one is looked at.
MOST_WAITING = 200


class DraftRequest(EditRequest):
    """An edit to look at; waiting: those made before it on the same revision that are not stored yet, in order."""

    waiting: list[Change] = Field(default=[], max_length=MOST_WAITING)


class PreviewRequest(DraftRequest):
    """coarse: fast enough to follow the hand, on a reduced picture where it is large."""

    coarse: bool = False


class Part(BaseModel):
    """Of its fields only those that changed are there."""

    model_config = ConfigDict(extra="forbid")

    @model_serializer(mode="wrap")
    def _only_what_changed(self, whole: SerializerFunctionWrapHandler):  # type: ignore[no-untyped-def]
        return {name: value for name, value in whole(self).items() if name in self.model_fields_set}


class RowsOut(BaseModel, Generic[Row]):
    """A list of which some rows changed: how their ids change, where they do, and the rows that differ."""

    order: Splice | None
    changed: tuple[Row, ...]

    @classmethod
    def of(cls, rows: Rows) -> RowsOut[Row]:
        return cls.model_construct(order=rows.order, changed=rows.changed)


def _fields_of(name: str, hints: Mapping[str, Any], documentation: str) -> type[Part]:
    """A model with the same fields as another value, each of which may be missing."""
    fields: dict[str, Any] = {field: (hint, Field(default=None)) for field, hint in hints.items()}
    return create_model(name, __base__=Part, __doc__=documentation, **fields)


FlatFields = _fields_of(
    "FlatFields", get_type_hints(Flat, include_extras=True), "Fields of the flat view that changed."
)
DocumentFields = _fields_of(
    "DocumentFields", get_type_hints(Document, include_extras=True), "Fields of the document that changed."
)


FlatRows = _fields_of(
    "FlatRows",
    {"regions": RowsOut[FlatRegion], "things": RowsOut[FlatThing]},
    "Lists of the flat view of which only some rows differ.",
)
DocumentRows = _fields_of(
    "DocumentRows",
    {"drawn": RowsOut[Drawn], "regions": RowsOut[RegionChoice]},
    "Lists of the document of which only some rows differ.",
)


def _some(kind: type[Part], values: Mapping[str, Any]) -> Part:
    """Values that are known to be valid, as a part."""
    return kind.model_construct(set(values), **values)


def _rows(kind: type[Part], change: Difference) -> Part:
    return _some(kind, {name: RowsOut.of(found) for name, found in change.rows.items()})


class FlatPart(BaseModel):
    """What changed of the flat view."""

    fields: FlatFields  # type: ignore[valid-type]
    rows: FlatRows  # type: ignore[valid-type]

    @classmethod
    def of(cls, change: Difference) -> FlatPart:
        return cls.model_construct(fields=_some(FlatFields, change.fields), rows=_rows(FlatRows, change))


class DocumentPart(BaseModel):
    """What changed of the document."""

    fields: DocumentFields  # type: ignore[valid-type]
    rows: DocumentRows  # type: ignore[valid-type]

    @classmethod
    def between(cls, before: Document, after: Document) -> DocumentPart:
        change = difference(before.__dict__, after.__dict__, ("drawn", "regions"))
        return cls.model_construct(fields=_some(DocumentFields, change.fields), rows=_rows(DocumentRows, change))


class FlatView(RootModel[Flat]):
    """All that the flat view and the tuning show."""


class LookedOver(RootModel[LookOver]):
    """Narrow places, and rough spots, the one that wants a look most first."""


class ClingRequest(Wire):
    """From where to where a line is to follow the strongest edge, mm on the sheet; snap: its end goes to an edge.

    moving: the hand is still on its way, so that a newer request takes this one's place.
    """

    revision: int
    picture: Identifier | None = None
    start: Point
    end: Point
    snap: bool = True
    moving: bool = False


class ClungOut(Wire):
    """Where it ends, and the points along it, mm on the sheet."""

    to: Point
    points: list[Point]


class BenchChangeOut(Wire):
    """What differs from the revision that was asked about; the piece's document is in parts of its own."""

    piece: PieceHeadOut
    document: DocumentPart
    flat: FlatPart


class BenchAnswer(RootModel[BenchOut | BenchChangeOut]):
    """The piece and its flat view, or what changed of them."""


class FlatAnswer(RootModel[Flat | FlatPart]):
    """The flat view, or what would change of it."""


class OutcomeQuery(Wire):
    """spread: how far ink runs, mm. rise: by which share dough gets larger."""

    spread: Annotated[float, Field(ge=0, le=5, allow_inf_nan=False)] = 0.0
    rise: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)] = 0.0


class OutcomePngQuery(OutcomeQuery):
    dpi: Annotated[float, Field(ge=10, le=1200, allow_inf_nan=False)] = 300.0


class OutcomeOut(Wire):
    outcome: OutcomeView
