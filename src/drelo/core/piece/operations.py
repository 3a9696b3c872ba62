"""What a hand asks of outlines. Points and lengths are in mm on the sheet; `picked` names regions or drawn things."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, TypeAdapter

from drelo.core.piece.document import MAX_SIZE
from drelo.core.piece.drawn import MAX_DRAWN, Coordinate, Frozen, Identifier, Lettering, Point
from drelo.core.piece.edits import Picked

PickedIds = Annotated[
    tuple[Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{1,48}$")], ...], Field(min_length=1, max_length=MAX_DRAWN)
]
Nodes = Annotated[tuple[Annotated[int, Field(ge=0)], ...], Field(min_length=1, max_length=20_000)]
Length = Annotated[float, Field(gt=0, le=500)]
# What `into` and `onto` call the base.
BASE = "base"
Seed = Annotated[str, Field(pattern=r"^[A-Za-z0-9_]{1,24}$", description="New things are named after it.")]
PickedId = Annotated[str, Field(pattern=r"^[A-Za-z0-9_-]{1,48}$")]


class Combine(Frozen):
    """unite, carve (the first picked less the others), overlap, divide, or the outer silhouette of all."""

    do: Literal["combine"] = "combine"
    seed: Seed
    how: Literal["unite", "carve", "overlap", "divide", "silhouette"]
    picked: PickedIds


class Offset(Frozen):
    """Grow by `by` mm, shrink where it is negative, then by `back`. keep: what was picked stays beneath."""

    do: Literal["offset"] = "offset"
    seed: Seed
    picked: PickedIds
    by: Annotated[float, Field(ge=-200, le=200)]
    back: Annotated[float, Field(ge=-200, le=200)] = 0.0
    corners: Literal["round", "mitre", "bevel"] = "round"
    fill_holes: bool = False
    keep: bool = True


class Thicken(Frozen):
    """Stretches narrower than `least` mm become so wide; all else stays."""

    do: Literal["thicken"] = "thicken"
    seed: Seed
    picked: PickedIds
    least: Length


class Widen(Frozen):
    """Lines and outlines become closed profiles of a width."""

    do: Literal["widen"] = "widen"
    seed: Seed
    picked: PickedIds
    width: Length
    ends: Literal["flat", "round", "square"] = "round"
    corners: Literal["mitre", "round", "bevel"] = "round"


class Tie(Frozen):
    """Bridges of a width: where `links` say, or the fewest and shortest that make one part of what is picked."""

    do: Literal["tie"] = "tie"
    seed: Seed
    picked: PickedIds
    width: Length
    links: Annotated[tuple[tuple[Point, Point], ...], Field(max_length=400)] | None = None


class Retie(Frozen):
    """Ties made anew by other numbers; what is left out stays. which: of the ties of an outline, by number."""

    do: Literal["retie"] = "retie"
    picked: PickedIds
    which: Annotated[int, Field(ge=0, lt=400)] = 0
    width: Length | None = None
    start: Point | None = None
    end: Point | None = None


class Pour(Frozen):
    """The area round a point that lines enclose becomes an outline; gaps up to `gap` mm are closed."""

    do: Literal["pour"] = "pour"
    seed: Seed
    at: Point
    gap: Annotated[float, Field(ge=0, le=50)] = 0.0


class MoveNodes(Frozen):
    """Nodes of one contour moved by a way."""

    do: Literal["move-nodes"] = "move-nodes"
    id: PickedId
    contour: Annotated[int, Field(ge=0)] = 0
    nodes: Nodes
    by: Point


class MoveHandle(Frozen):
    """The handle that leaves (1) or arrives (2) on a segment, moved; linked, the one across the node follows."""

    do: Literal["move-handle"] = "move-handle"
    id: PickedId
    contour: Annotated[int, Field(ge=0)] = 0
    segment: Annotated[int, Field(ge=0)]
    handle: Literal[1, 2]
    to: Point
    linked: bool = True


class InsertNode(Frozen):
    """A node more where the outline is nearest to a point."""

    do: Literal["insert-node"] = "insert-node"
    id: PickedId
    at: Point


class ChangeNodes(Frozen):
    """Delete nodes keeping the shape, make them smooth or corners, open the contour there, or close it.

    line, curve: the segments that begin at the nodes.
    """

    do: Literal["change-nodes"] = "change-nodes"
    id: PickedId
    contour: Annotated[int, Field(ge=0)] = 0
    nodes: Nodes
    how: Literal["delete", "smooth", "corner", "line", "curve", "open", "close"]


class Ease(Frozen):
    """Rub along a line of points: the stretch under the brush calms down within a tolerance."""

    do: Literal["ease"] = "ease"
    id: PickedId
    points: Annotated[tuple[Point, ...], Field(min_length=1, max_length=4000)]
    radius: Length
    tolerance: Annotated[float, Field(gt=0, le=20)] = 0.15


class Stretch(Frozen):
    """The stretch between two places made a line or an arc."""

    do: Literal["stretch"] = "stretch"
    id: PickedId
    start: Point
    end: Point
    how: Literal["line", "arc"]


class Simplify(Frozen):
    """The fewest nodes within a tolerance."""

    do: Literal["simplify"] = "simplify"
    picked: PickedIds
    tolerance: Annotated[float, Field(gt=0, le=20)]


class Trim(Frozen):
    """The stretch between crossings nearest to a point goes."""

    do: Literal["trim"] = "trim"
    seed: Seed
    id: PickedId
    at: Point


class Split(Frozen):
    """Outlines and lines become open stretches from crossing to crossing."""

    do: Literal["split"] = "split"
    seed: Seed
    picked: PickedIds


class JoinLines(Frozen):
    """Two open lines made one across their nearest ends; a single one is closed."""

    do: Literal["join"] = "join"
    picked: Annotated[tuple[PickedId, ...], Field(min_length=1, max_length=2)]


class Transform(Frozen):
    """Move, turn, scale, mirror: an affine map a, b, c, d, e, f. copies: so many, each mapped once more; 0 moves."""

    do: Literal["transform"] = "transform"
    seed: Seed
    picked: PickedIds
    matrix: tuple[float, float, float, float, float, float]
    copies: Annotated[int, Field(ge=0, le=500)] = 0


class FitInside(Frozen):
    """Bring what is picked into another thing, or the base, as large as it fits with a margin, mm."""

    do: Literal["fit-inside"] = "fit-inside"
    seed: Seed
    picked: PickedIds
    into: PickedId
    margin: Annotated[float, Field(ge=0, le=500)] = 2.0


class Centre(Frozen):
    """Bring the middle of what is picked onto that of another thing, or of the base, or `by` mm from it.

    by: across and down; None leaves that as it is.
    """

    do: Literal["centre"] = "centre"
    seed: Seed
    picked: PickedIds
    onto: PickedId
    by: tuple[Coordinate | None, Coordinate | None] = (0.0, 0.0)


class SetSize(Frozen):
    """Make one side of the whole art's box so many mm; its proportions are kept."""

    do: Literal["set-size"] = "set-size"
    side: Literal["width", "height"] = "width"
    mm: Annotated[float, Field(gt=0, le=MAX_SIZE, allow_inf_nan=False)]


class MakePlain(Frozen):
    """What is mirrored or repeated becomes free outlines; it is repeated no longer."""

    do: Literal["make-plain"] = "make-plain"
    picked: PickedIds


class KeepOutlines(Frozen):
    """Take a picture off the sheet while its outlines stay as drawn things."""

    do: Literal["keep-outlines"] = "keep-outlines"
    seed: Seed
    picture: Identifier


class Remove(Frozen):
    """Throw away drawn things; traced regions are left out."""

    do: Literal["remove"] = "remove"
    picked: PickedIds


class Lift(Frozen):
    """Make paths of traced outlines, shapes and lettering: their nodes are free from then on."""

    do: Literal["lift"] = "lift"
    seed: Seed
    picked: PickedIds


class Align(Frozen):
    """Put what is picked on one line, or spread it evenly."""

    do: Literal["align"] = "align"
    seed: Seed
    picked: PickedIds
    how: Literal["left", "centre", "right", "top", "middle", "bottom", "spread-across", "spread-down"]


class Loop(Frozen):
    """A key loop fused with the outline that is picked, or a hanging hole in it. Diameters and widths in mm.

    at: without it, where it hangs level. wall: round the hole.
    """

    do: Literal["loop"] = "loop"
    seed: Seed
    id: PickedId
    at: Point | None = None
    inner: Length = 4.0
    wall: Length = 2.5
    kind: Literal["loop", "hole"] = "loop"


class SetWords(Frozen):
    """Lettering in the place of traced letters."""

    do: Literal["set-words"] = "set-words"
    things: Annotated[tuple[Lettering, ...], Field(min_length=1, max_length=200)]
    under: Annotated[tuple[Picked, ...], Field(max_length=MAX_DRAWN)] = ()


class Replace(Frozen):
    """Lettering takes the place of what lies beneath it."""

    do: Literal["replace"] = "replace"
    id: Identifier


Operation = Annotated[
    Combine
    | Offset
    | Thicken
    | Widen
    | Tie
    | Retie
    | Pour
    | MoveNodes
    | MoveHandle
    | InsertNode
    | ChangeNodes
    | Ease
    | Stretch
    | Simplify
    | Trim
    | Split
    | JoinLines
    | Transform
    | FitInside
    | Centre
    | SetSize
    | MakePlain
    | KeepOutlines
    | Remove
    | Lift
    | Align
    | Loop
    | Replace
    | SetWords,
    Field(discriminator="do"),
]
OPERATION: TypeAdapter[Operation] = TypeAdapter(Operation)
