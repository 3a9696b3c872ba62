"""SVG looked through once, before anything is made of it: what would cost more than its size lets one think."""

from __future__ import annotations

from dataclasses import dataclass, field
from xml.parsers import expat

from drelo.core.errors import Refusal

SVG_NAMESPACE = "http://www.w3.org/2000/svg"
_HREFS = ("href", "http://www.w3.org/1999/xlink href")
MAX_BYTES = 24 * 2**20
MAX_NESTING = 200
# Elements of a drawing, those counted again that are drawn again by a `use`; and how many of these lie in each other.
MAX_ELEMENTS = 500_000
MAX_USES = 30
# What one element may say of itself.
MAX_ATTRIBUTES = 500
# Letters of its style sheets.
MAX_STYLE = 200_000
FIELD = "art.file"


@dataclass
class _Named:
    """An element that a `use` can name: how many elements it holds itself, what it holds besides and what it uses."""

    own: int = 0
    inside: list[_Named] = field(default_factory=list)
    uses: list[str] = field(default_factory=list)


class _Looker:
    """Takes what a parser finds. Of several elements of one name the last counts, as where a drawing is read."""

    def __init__(self) -> None:
        self.document = _Named()
        self.named: dict[str, _Named] = {}
        self._owners = [self.document]
        self._in_style = 0
        self._style = 0
        self._elements = 0

    def start(self, name: str, attributes: dict[str, str]) -> None:
        space, _, plain = name.rpartition(" ")
        if len(self._owners) == 1 and (plain != "svg" or space not in ("", SVG_NAMESPACE)):
            raise Refusal("svg.first-tag", FIELD)
        if len(self._owners) > MAX_NESTING:
            raise Refusal("svg.nested-too-deep", FIELD, most=MAX_NESTING)
        if len(attributes) > MAX_ATTRIBUTES:
            raise Refusal("svg.too-many-attributes", FIELD, most=MAX_ATTRIBUTES)
        self._elements += 1
        if self._elements > MAX_ELEMENTS:
            raise Refusal("svg.too-many-elements", FIELD, most=MAX_ELEMENTS)
        owner = self._owners[-1]
        own = attributes.get("id", "")
        if own:
            self.named[own] = _Named()
            owner.inside.append(self.named[own])
            owner = self.named[own]
        self._owners.append(owner)
        owner.own += 1
        if plain == "use":
            href = next((attributes[name] for name in _HREFS if name in attributes), "")
            # Whatever its first letter is: so the drawing is read.
            owner.uses.append(href[1:])
        self._in_style += plain == "style"

    def end(self, name: str) -> None:
        self._owners.pop()
        self._in_style -= name.rpartition(" ")[2] == "style"

    def text(self, data: str) -> None:
        if self._in_style:
            self._style += len(data)
            if self._style > MAX_STYLE:
                raise Refusal("svg.style-too-long", FIELD, most=MAX_STYLE)

    def entity(self, *_: object) -> None:
        raise Refusal("svg.entities", FIELD)


def check_svg(data: bytes) -> None:
    """Raises Refusal when the bytes are no SVG, are not well formed, or would cost too much to draw."""
    if len(data) > MAX_BYTES:
        raise Refusal("svg.too-large", FIELD, megabytes=MAX_BYTES // 2**20)
    looker = _Looker()
    parser = expat.ParserCreate(namespace_separator=" ")
    parser.buffer_text = True
    parser.StartElementHandler = looker.start
    parser.EndElementHandler = looker.end
    parser.CharacterDataHandler = looker.text
    parser.EntityDeclHandler = looker.entity
    try:
        parser.Parse(data, True)
    except (expat.ExpatError, LookupError, UnicodeError) as error:
        if not looker.document.own:
            raise Refusal("svg.not-one", FIELD) from None
        raise Refusal("svg.unreadable", FIELD, reason=str(error)) from None
    _check_uses(looker.document, looker.named)


def _check_uses(document: _Named, named: dict[str, _Named]) -> None:
    """Raises Refusal when what uses what goes round in a ring, or draws more elements than a drawing has."""
    counted: dict[int, int] = {}

    def count(element: _Named, depth: int) -> int:
        if id(element) in counted:
            return counted[id(element)]
        # A ring is deeper than anything.
        if depth > MAX_USES + MAX_NESTING:
            raise Refusal("svg.endless", FIELD)
        used = [named[name] for name in element.uses if name in named]
        total = element.own + sum(count(other, depth + 1) for other in (*element.inside, *used))
        if total > MAX_ELEMENTS:
            raise Refusal("svg.too-many-elements", FIELD, most=MAX_ELEMENTS)
        counted[id(element)] = total
        return total

    count(document, 0)
