"""The repositories, the workers, and documents evaluated by them."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass, field, replace
from typing import Any, TypeVar, cast, get_args

from sqlalchemy.orm import Session, sessionmaker

from drelo.application.device import Device
from drelo.application.watching import News, Watching
from drelo.core.errors import Refusal
from drelo.core.people.rights import Right
from drelo.core.piece.applying import apply
from drelo.core.piece.difference import Difference
from drelo.core.piece.document import Document
from drelo.core.piece.edits import Edit
from drelo.core.piece.flat import Flat
from drelo.core.piece.operations import Operation
from drelo.store.accounts import Accounts
from drelo.store.author import author
from drelo.store.blobs import Assets, DerivedBytes
from drelo.store.consumption import Consumption
from drelo.store.filament_shelf import FilamentShelf
from drelo.store.history import History
from drelo.store.keeping import Keeping
from drelo.store.models import now
from drelo.store.motif_shelf import MotifShelf
from drelo.store.pieces import Pieces
from drelo.store.plan_shelf import PlanShelf
from drelo.store.presence import Presence
from drelo.store.printer_shelf import PrinterShelf
from drelo.store.prints import Prints
from drelo.store.record import Record
from drelo.store.sharing import Shares
from drelo.store.space import Space
from drelo.work import shaping, tasks
from drelo.work.parcels import DocumentMissing, Sender
from drelo.work.tasks import AssetMissing
from drelo.work.workers import Workers, lane_of

T = TypeVar("T")


OPERATIONS = tuple(get_args(get_args(Operation)[0]))


@dataclass(frozen=True)
class Step:
    """An edit, and the document that it leads to."""

    edit: Edit
    document: Document


@dataclass(frozen=True)
class Bench:
    """Everything that a request may need."""

    pieces: Pieces
    assets: Assets
    derived: DerivedBytes
    pool: Workers
    motifs: MotifShelf
    filaments: FilamentShelf
    printers: PrinterShelf
    plans: PlanShelf
    prints: Prints
    keeping: Keeping
    history: History
    accounts: Accounts
    shares: Shares
    record: Record
    presence: Presence
    consumption: Consumption
    sender: Sender = field(default_factory=Sender)
    space: Space = field(default_factory=Space)
    device: Device = field(default_factory=Device)

    watching: Watching = field(init=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "watching", Watching(self.news))
        self.pieces.revisions.brings_up(self._brought_up)

    @classmethod
    def on(
        cls, maker: sessionmaker[Session], pool: Workers, space: Space | None = None, device: Device | None = None
    ) -> Bench:
        """A bench on a database, with workers; space: the room where it lies; device: what prints."""
        pieces = Pieces(maker)
        return cls(
            pieces=pieces,
            assets=Assets(maker),
            derived=DerivedBytes(maker),
            pool=pool,
            motifs=MotifShelf(maker),
            filaments=FilamentShelf(maker),
            printers=PrinterShelf(maker),
            plans=PlanShelf(maker),
            prints=Prints(maker),
            keeping=Keeping(maker),
            history=History(maker, pieces.revisions),
            accounts=Accounts(maker),
            shares=Shares(maker),
            record=Record(maker),
            presence=Presence(maker),
            consumption=Consumption(maker),
            space=space or Space(),
            device=device or Device(),
        )

    def news(self, pieces: Collection[str]) -> Mapping[str, News]:
        """How pieces stand, and who has them open."""
        heads, here = self.history.heads(pieces), self.presence.of(pieces, now())
        return {piece: News(revision, by, here.get(piece, frozenset())) for piece, (revision, by) in heads.items()}

    def may_look(self, piece: str) -> bool:
        """Whether whose request is answered may look at a piece; everybody may where there are no people."""
        account = author.get()
        person = self.accounts.get(account) if account else None
        return account is None or (person is not None and self.shares.right(person, piece) >= Right.LOOK)

    def work(
        self,
        piece: str,
        function: Callable[..., T],
        document: Document,
        *more: Any,
        lane: str | None = None,
        aside: bool = False,
        rank: int = 0,
    ) -> T:
        """Run a task on a document in the piece's worker, sending what it does not hold of documents and pictures."""
        held = {id(d): d for d in (document, *more) if isinstance(d, Document)}
        parcels = {number: self.sender.parcel(d) for number, d in held.items()}
        sent: dict[str, bytes] = {}
        while True:
            packed = [parcels.get(id(value), value) for value in (document, *more)]
            try:
                found: T = self.pool.run(
                    piece, tasks.on_documents, sent, function, *packed, lane=lane_of(lane), aside=aside, rank=rank
                )
                return found
            except AssetMissing as missing:
                sent = self._with_asset(sent, missing.sha256)
            except DocumentMissing as missing:
                parcels = {
                    number: replace(parcel, whole=held[number]) if parcel.name == missing.name else parcel
                    for number, parcel in parcels.items()
                }

    def _with_asset(self, sent: Mapping[str, bytes], sha256: str) -> dict[str, bytes]:
        data = self.assets.get(sha256)
        if data is None or sha256 in sent:
            raise Refusal("piece.asset-missing", "pictures")
        return {**sent, sha256: data}

    def _brought_up(self, former: Mapping[str, Any]) -> Document:
        """A stored document of an earlier version, brought up by a worker."""
        sent: dict[str, bytes] = {}
        while True:
            try:
                return self.pool.run("former", tasks.bring_up, former, sent)
            except AssetMissing as missing:
                sent = self._with_asset(sent, missing.sha256)

    def step(self, piece: str, document: Document, edit: Edit | Operation, lane: str | None = None) -> Step:
        """The document after an edit; what is asked of outlines is worked out first and becomes an edit itself."""
        if isinstance(edit, OPERATIONS):
            edit = self.work(piece, shaping.shape, document, edit, lane=lane)
        plain = cast(Edit, edit)
        after = apply(document, plain)
        self.sender.changed(document, after)
        return Step(plain, after)

    def flat(self, piece: str, document: Document, lane: str | None = None, coarse: bool = False) -> Flat:
        return self.work(piece, tasks.flat, document, coarse, lane=lane)

    def flat_aside(self, piece: str, document: Document) -> Flat:
        """The flat view of a document that nobody's hand is on: made beside the piece's own worker, which goes on."""
        return self.work(piece, tasks.flat, document, False, aside=True, rank=1)

    def flat_change(
        self, piece: str, before: Document, after: Document, lane: str | None = None, coarse: bool = False
    ) -> Difference:
        return self.work(piece, tasks.flat_change, after, before, coarse, lane=lane)
