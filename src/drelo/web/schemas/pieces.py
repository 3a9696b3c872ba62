"""Pieces as a whole, and how one begins."""

from __future__ import annotations

from datetime import UTC
from typing import Annotated, Literal

from flask_openapi3 import FileStorage
from pydantic import BaseModel, Field

from drelo.core.people.rights import Right
from drelo.core.piece.document import Document
from drelo.core.piece.drawn import Identifier
from drelo.core.piece.flat import Flat
from drelo.core.piece.history.telling import Told
from drelo.store.pieces import Card, State
from drelo.web.schemas.base import Problem, Wire

Units = Literal["mm", "inch"]
RightName = Literal["look", "edit", "own"]
RIGHT_NAMES: dict[Right, RightName] = {Right.LOOK: "look", Right.EDIT: "edit", Right.OWN: "own"}


class NewPiece(Wire):
    name: Annotated[str, Field(min_length=1, max_length=120)] = "New piece"
    units: Units = "mm"


class Rename(Wire):
    name: Annotated[str, Field(min_length=1, max_length=120)]


class PictureForm(BaseModel):
    """A picture to begin a piece with."""

    picture: FileStorage
    units: Units = "mm"


class RecipeForm(BaseModel):
    """A recipe with the files that it names, or one ZIP of all."""

    files: Annotated[list[FileStorage], Field(min_length=1, max_length=20)]


class ArchiveForm(BaseModel):
    """A piece that left as an archive."""

    file: FileStorage


class PictureForPiece(BaseModel):
    """A picture for a piece that exists, and the revision that it is put on.

    replaces: the picture whose place it takes. x, y: where its middle goes, mm on the sheet.
    """

    picture: FileStorage
    revision: int
    replaces: Identifier | None = None
    x: Annotated[float, Field(ge=-1e6, le=1e6)] | None = None
    y: Annotated[float, Field(ge=-1e6, le=1e6)] | None = None


class MotifPath(Wire):
    motif: Identifier


class MotifQuery(Wire):
    small: bool = False


class MotifOut(Wire):
    """A motif of the cabinet. drawn: it can be taken as exact outlines too. source: whose it is, and by what right."""

    id: str
    name: str
    kind: str
    drawn: bool
    source: str


class CabinetQuery(Wire):
    """Words that it is searched by, of which kind, and how many of what is found are already there."""

    words: Annotated[str, Field(max_length=200)] = ""
    kind: Literal["", "silhouette", "line drawing"] = ""
    start: Annotated[int, Field(ge=0, le=100_000)] = 0


class CabinetOut(Wire):
    """Some of what was found, the best first, and how many there are."""

    motifs: list[MotifOut]
    total: int


class TakeMotif(Wire):
    """A motif to take, and the revision that it is put on.

    how: as a picture that is traced, or as exact outlines. replaces: the picture whose place it takes.
    """

    motif: Identifier
    revision: int
    how: Literal["picture", "outlines"] = "picture"
    replaces: Identifier | None = None


class PieceHeadOut(Wire):
    """A piece without its document. right: what who asks may do with it."""

    id: str
    name: str
    revision: int
    can_undo: bool
    can_redo: bool
    updated: str
    right: RightName = "own"

    @classmethod
    def head(cls, state: State, right: Right = Right.OWN) -> PieceHeadOut:
        return PieceHeadOut(
            right=RIGHT_NAMES[right],
            id=state.id,
            name=state.name,
            revision=state.revision,
            can_undo=state.can_undo,
            can_redo=state.can_redo,
            updated=state.updated.replace(tzinfo=UTC).isoformat(),
        )


class PieceOut(PieceHeadOut):
    """A piece as it stands."""

    document: Document

    @classmethod
    def of(cls, state: State, right: Right = Right.OWN) -> PieceOut:
        return cls(**cls.head(state, right).model_dump(), document=state.document)


class PieceCard(Wire):
    """A piece on the opening page. right: what one may do with it; owner: whose it is, where it is somebody else's."""

    id: str
    name: str
    revision: int
    updated: str
    empty: bool
    right: RightName = "own"
    owner: str | None = None

    @classmethod
    def of(cls, card: Card, right: Right = Right.OWN, owner: str | None = None) -> PieceCard:
        return cls(
            right=RIGHT_NAMES[right],
            owner=None if right == Right.OWN else owner,
            id=card.id,
            name=card.name,
            revision=card.revision,
            updated=card.updated.replace(tzinfo=UTC).isoformat(),
            empty=card.empty,
        )


class PieceList(Wire):
    pieces: list[PieceCard]


class BenchOut(Wire):
    """A piece and its flat view. together: a change was brought together with one that somebody made meanwhile."""

    piece: PieceOut
    flat: Flat
    together: bool = False


class ConflictProblem(Problem):
    """The edit was made on an old revision; `bench` is what stands now.

    collision: what was changed meanwhile of that which the edit changes, by whom; mine: what the edit makes of it.
    """

    bench: BenchOut
    collision: tuple[Told, ...] = ()
    mine: tuple[Told, ...] = ()
    by: str | None = None
