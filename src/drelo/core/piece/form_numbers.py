"""The numbers of the four forms, each with its range and default; recipes and pieces share them."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from drelo.core.form.base import MAX_MARGIN, BaseShape
from drelo.core.form.cutter import Cutter
from drelo.core.form.edges import MAX_DRAFT, MAX_EDGE, Edge
from drelo.core.form.grip import Grip
from drelo.core.form.nameplate import Fixing, Nameplate
from drelo.core.form.relief import Relief
from drelo.core.form.stamp import Stamp

Colour = Annotated[str, Field(pattern=r"^#[0-9a-fA-F]{6}$", description="A colour as #rrggbb.")]
PlateShape = Annotated[
    Literal["outline", "rectangle", "circle"] | None,
    Field(description="Of the plate; without it, as the base's."),
]


class Strict(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True, json_schema_serialization_defaults_required=True)


class BaseNumbers:
    """What the recipe's base says, for forms that have a plate of their own."""

    def __init__(self, given: dict[str, Any]) -> None:
        self._given = given

    def take(self, own: Any, name: str, otherwise: Any) -> Any:
        """The form's own number, else the base's when the recipe gives one, else the form's default."""
        return own if own is not None else self._given.get(name, otherwise)

    def shape(self, own: str | None) -> BaseShape:
        shape: BaseShape = self.take(own, "shape", "outline")
        return "rectangle" if shape == "block" else shape

    def sides(self, own: str | None) -> dict[str, Any]:
        """The size and the place that the base has of its own, where the form's plate is of the base's shape."""
        given = self._given.get("shape", "outline")
        given = "rectangle" if given == "block" else given
        if own is not None and own != given:
            return {"at": self._given.get("at")}
        return {
            "sides": self._given.get("sides") if given == "rectangle" else None,
            "diameter": self._given.get("diameter") if given == "circle" else None,
            "at": self._given.get("at"),
        }


class EdgeOptions(Strict):
    """How a region's edge falls off."""

    kind: Literal["straight", "bevel", "round", "draft"] = "straight"
    size: Annotated[float, Field(gt=0, le=MAX_EDGE, description="mm, of a bevel or round.")] = 0.6
    angle: Annotated[float, Field(gt=0, le=MAX_DRAFT, description="Degrees from upright, of a draft.")] = 8.0

    def to_core(self) -> Edge:
        return Edge(self.kind, self.size, self.angle)


class ReliefOptions(Strict):
    """Numbers of form relief; lengths in mm."""

    inlay: Annotated[float, Field(ge=0.02, le=100, description="How deep what is flush goes.")] = 0.6
    flat_top: Annotated[bool, Field(description="All that is raised ends at the greatest height.")] = False
    rim_width: Annotated[float, Field(ge=0, le=100, description="Of a rim along the base's edge; 0 for none.")] = 0.0
    rim_height: Annotated[float, Field(ge=0.02, le=100)] = 1.2
    clip: Annotated[bool, Field(description="Art that stands out over the base is cut off.")] = False

    def to_core(self, layer: float) -> Relief:
        return Relief(self.inlay, self.flat_top, self.rim_width, self.rim_height, self.clip, layer)


class GripOptions(Strict):
    """What a stamp is held by; lengths in mm."""

    kind: Literal["none", "knob", "bar", "socket"] = "none"
    diameter: Annotated[float, Field(ge=1, le=200, description="Of knob or socket; the bar's width.")] = 16.0
    height: Annotated[
        float | None, Field(ge=1, le=200, description="Of knob and bar (18); how deep a socket is (2.2).")
    ] = None
    length: Annotated[float, Field(ge=1, le=200, description="Of the bar.")] = 40.0
    joint: Annotated[
        Literal["joined", "peg"],
        Field(description="Knob and bar: one with the plate, or a part of its own with a peg that goes into it."),
    ] = "joined"
    peg: Annotated[
        float | None, Field(ge=1, le=100, description="How wide the peg is; half the grip, at most 8, unless told.")
    ] = None
    clearance: Annotated[float, Field(ge=0, le=2, description="Between a peg of its own and its hole, all round.")] = (
        0.15
    )

    def to_core(self) -> Grip:
        usual = 2.2 if self.kind == "socket" else 18.0
        height = usual if self.height is None else self.height
        return Grip(self.kind, self.diameter, height, self.length, self.joint, self.peg, self.clearance)


class StampOptions(Strict):
    """Numbers of form stamp; lengths in mm."""

    shape: PlateShape = None
    margin: Annotated[float | None, Field(ge=-MAX_MARGIN, le=MAX_MARGIN, description="3 unless the base says.")] = None
    corner_radius: Annotated[float | None, Field(ge=0, le=MAX_MARGIN)] = None
    thickness: Annotated[float, Field(ge=0.4, le=100, description="Of the backing plate.")] = 3.2
    depth: Annotated[float, Field(ge=0.2, le=50, description="From the face to the background.")] = 2.5
    draft: Annotated[float, Field(ge=0, le=45, description="Degrees by which the art widens down from its face.")] = 8.0
    grip: GripOptions = GripOptions()
    mark: Annotated[bool, Field(description="A triangle on the back that points to the print's top.")] = True
    fit: tuple[float, float, float] | None = Field(None, description="A box (x, y, z) that the whole must fit in.")

    def to_core(self, base: BaseNumbers, colour: str, layer: float) -> Stamp:
        return Stamp(
            base.shape(self.shape),
            base.take(self.margin, "margin", 3.0),
            base.take(self.corner_radius, "corner_radius", 0.0),
            self.thickness,
            self.depth,
            self.draft,
            self.grip.to_core(),
            self.mark,
            self.fit,
            colour,
            layer,
            **base.sides(self.shape),
        )


class CutterOptions(Strict):
    """Numbers of form cutter; lengths in mm."""

    edge: Annotated[float, Field(ge=0.1, le=10, description="How thick the blade is at its edge.")] = 0.5
    wall: Annotated[float, Field(ge=0.2, le=20)] = 1.2
    taper: Annotated[float, Field(ge=0, le=200, description="Over which the wall thins to the edge.")] = 3.0
    depth: Annotated[float, Field(ge=2, le=200, description="From the flange's lower side to the edge.")] = 14.0
    flange_width: Annotated[float, Field(ge=0, le=100, description="Outside the wall.")] = 4.0
    flange_height: Annotated[float, Field(ge=0.2, le=100)] = 3.0
    holes: Annotated[bool, Field(description="Large holes of the silhouette are cut as well.")] = False
    hole_area: Annotated[float, Field(ge=0, description="mm² from which on a hole is large.")] = 80.0
    ribs: Annotated[bool, Field(description="Inner lines mark the dough.")] = True
    rib_width: Annotated[float, Field(ge=0.2, le=20)] = 1.2
    rib_short: Annotated[float, Field(ge=0, le=200, description="How far below the edge the ribs end.")] = 4.0
    bar_width: Annotated[float, Field(ge=0.4, le=50, description="Of the cross-bars that tie the ribs.")] = 4.0
    flange_round: Annotated[float, Field(ge=0, le=20, description="How far the flange's outer edges slope off.")] = 0.0
    handle: Annotated[bool, Field(description="A bar across the back to hold it by.")] = False
    handle_width: Annotated[float, Field(ge=2, le=100)] = 14.0

    def to_core(self, colour: str, layer: float) -> Cutter:
        return Cutter(**self.model_dump(), colour=colour, layer=layer)


class FixingOptions(Strict):
    """What a nameplate hangs by; lengths in mm."""

    kind: Literal["none", "loop", "screws"] = "loop"
    inner: Annotated[float, Field(ge=0.5, le=50, description="Of the loop or of a screw's hole.")] = 4.0
    wall: Annotated[float, Field(ge=0.4, le=50)] = 2.5
    side: Literal["auto", "left", "right", "top", "bottom"] = "auto"

    def to_core(self) -> Fixing:
        return Fixing(self.kind, self.inner, self.wall, self.side)


class NameplateOptions(Strict):
    """Numbers of form nameplate; lengths in mm."""

    shape: PlateShape = None
    margin: Annotated[float | None, Field(ge=-MAX_MARGIN, le=MAX_MARGIN, description="3 unless the base says.")] = None
    corner_radius: Annotated[float | None, Field(ge=0, le=MAX_MARGIN)] = None
    thickness: Annotated[float | None, Field(gt=0, le=100, description="2.4 unless the base says.")] = None
    letters: Annotated[
        float, Field(ge=-100, le=100, description="Height over the backing of letters that no rule names.")
    ] = 1.8
    join: Annotated[Literal["grow", "tie"], Field(description="How loose letters become one part.")] = "grow"
    tie_width: Annotated[float, Field(ge=0.4, le=50)] = 4.0
    fixing: FixingOptions = FixingOptions()
    frame_width: Annotated[float, Field(ge=0, le=50, description="Of a rim along the edge; 0 for none.")] = 0.0
    frame_height: Annotated[float, Field(ge=0.1, le=50)] = 1.8
    foot: Annotated[
        float, Field(ge=0, le=60, description="Degrees by which the plate leans back on two feet; 0 for none.")
    ] = 0.0

    def to_core(self, base: BaseNumbers, colour: str) -> Nameplate:
        return Nameplate(
            base.shape(self.shape),
            base.take(self.margin, "margin", 3.0),
            base.take(self.corner_radius, "corner_radius", 4.0),
            base.take(self.thickness, "thickness", 2.4),
            self.letters,
            self.join,
            self.tie_width,
            self.fixing.to_core(),
            self.frame_width,
            self.frame_height,
            self.foot,
            colour,
            **base.sides(self.shape),
        )
