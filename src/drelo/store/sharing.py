"""Whose pieces are whose, and with whom they are shared."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from sqlalchemy import delete, select, update
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.orm import Session, sessionmaker

from drelo.core.people.rights import Openness, Right, Shared, Standing, right_of
from drelo.store.accounts import Person, hashed
from drelo.store.models import Account, DerivedOf, Piece, Share, ShelfPlan
from drelo.store.revisions import NotFound


@dataclass(frozen=True)
class Sharing:
    """How a piece is shared. owner: nobody's where it is from before there were people. people: by account.

    link: whether anybody who has its link may look.
    """

    owner: str | None
    openness: Openness
    people: Mapping[str, Shared]
    link: bool = False


class Shares:
    """Every method is one transaction."""

    def __init__(self, sessions: sessionmaker[Session]) -> None:
        self._sessions = sessions

    def right(self, person: Person, piece_id: str) -> Right:
        """What somebody may do with a piece; nothing where there is none."""
        with self._sessions() as session:
            piece = session.execute(select(Piece.owner, Piece.openness).where(Piece.id == piece_id)).one_or_none()
            if piece is None:
                return Right.NONE
            share = session.scalar(select(Share.right).where(Share.piece_id == piece_id, Share.account_id == person.id))
        return _right(person, piece.owner, piece.openness, share)

    def rights(self, person: Person) -> dict[str, Right]:
        """What somebody may do with every piece that they may see."""
        with self._sessions() as session:
            pieces = session.execute(select(Piece.id, Piece.owner, Piece.openness)).all()
            mine = session.execute(
                select(Share.piece_id, Share.right.label("right")).where(Share.account_id == person.id)
            ).all()
        shares = {row.piece_id: row.right for row in mine}
        found = {key: _right(person, owner, openness, shares.get(key)) for key, owner, openness in pieces}
        return {key: right for key, right in found.items() if right > Right.NONE}

    def owners(self) -> dict[str, str]:
        """What the owner of each piece is called."""
        with self._sessions() as session:
            rows = session.execute(select(Piece.id, Account.title).join(Account, Account.id == Piece.owner)).all()
        return {row.id: row.title for row in rows}

    def of(self, piece_id: str) -> Sharing:
        """How a piece is shared. Raises NotFound."""
        with self._sessions() as session:
            piece = session.get(Piece, piece_id)
            if piece is None:
                raise NotFound
            rows = session.execute(
                select(Share.account_id, Share.right.label("right")).where(Share.piece_id == piece_id)
            ).all()
            people = {row.account_id: row.right for row in rows}
            return Sharing(piece.owner, piece.openness, people, piece.link is not None)  # type: ignore[arg-type]

    def open_to(self, piece_id: str, openness: Openness) -> None:
        with self._sessions.begin() as session:
            session.execute(update(Piece).where(Piece.id == piece_id).values(openness=openness))

    def share(self, piece_id: str, account: str, right: Shared | None) -> None:
        """Share with one person, or no longer. Raises NotFound when there is no such person."""
        with self._sessions.begin() as session:
            if session.get(Account, account) is None:
                raise NotFound
            session.execute(delete(Share).where(Share.piece_id == piece_id, Share.account_id == account))
            if right is not None:
                session.add(Share(piece_id=piece_id, account_id=account, right=right))

    def give(self, piece_id: str, account: str) -> None:
        """Make a piece somebody else's; its link ends. Raises NotFound when there is no such person."""
        with self._sessions.begin() as session:
            if session.get(Account, account) is None:
                raise NotFound
            session.execute(update(Piece).where(Piece.id == piece_id).values(owner=account, link=None))
            session.execute(delete(Share).where(Share.piece_id == piece_id, Share.account_id == account))

    def set_link(self, piece_id: str, token: str | None) -> None:
        """A link by which anybody may look at a piece, in place of the one before; or none. token: what it holds."""
        link = None if token is None else hashed(token)
        with self._sessions.begin() as session:
            session.execute(update(Piece).where(Piece.id == piece_id).values(link=link))

    def linked(self, token: str) -> str:
        """The piece of a link. Raises NotFound where there is none, or it was deleted."""
        which = (Piece.link == hashed(token), Piece.deleted.is_(None), Piece.current.is_not(None))
        with self._sessions() as session:
            found = session.scalar(select(Piece.id).where(*which))
            if found is None:
                raise NotFound
            return found

    def tell(self, key: str, of: str) -> None:
        """Whoever may look at this piece, or whose bed plan this is, may have these derived bytes."""
        with self._sessions.begin() as session:
            session.execute(insert(DerivedOf).values(key=key, of=of).prefix_with("IGNORE"))

    def may_have(self, person: Person, key: str) -> bool:
        """Whether somebody may have derived bytes now, as what they were made of is shared now."""
        with self._sessions() as session:
            found = list(session.scalars(select(DerivedOf.of).where(DerivedOf.key == key)))
        return any(self.right(person, of) >= Right.LOOK for of in found) or not self.plans(person.id).isdisjoint(found)

    def plan_owner(self, plan: str) -> str | None:
        """Whose bed plan it is. Raises NotFound."""
        with self._sessions() as session:
            row = session.execute(select(ShelfPlan.owner).where(ShelfPlan.id == plan)).one_or_none()
            if row is None:
                raise NotFound
            owner: str | None = row.owner
            return owner

    def own_plan(self, plan: str, account: str) -> None:
        with self._sessions.begin() as session:
            session.execute(update(ShelfPlan).where(ShelfPlan.id == plan).values(owner=account))

    def plans(self, account: str) -> set[str]:
        """Bed plans of somebody, and those that are nobody's."""
        with self._sessions() as session:
            mine = select(ShelfPlan.id).where((ShelfPlan.owner == account) | ShelfPlan.owner.is_(None))
            return set(session.scalars(mine))


def _right(person: Person, owner: str | None, openness: str, share: str | None) -> Right:
    standing = Standing(owner == person.id, owner is not None, openness, share)  # type: ignore[arg-type]
    return right_of(person.role, standing)
