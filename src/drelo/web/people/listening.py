"""News of a piece as server-sent events."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from drelo.application.bench import Bench
from drelo.application.watching import News
from drelo.core.people.rights import Right
from drelo.store.accounts import Person
from drelo.store.models import now
from drelo.web.listening import LISTENING
from drelo.web.schemas.people import HereOut

# Pages that listen at once: each keeps a thread.
MOST_LISTENING = LISTENING
# So often a page is said to be there still, and it is looked whether whoever listens still may, s.
BEAT = 6.0


def told_here(bench: Bench, news: News, account: str) -> HereOut:
    """News of a piece as one person is told: who else has it open."""
    titles = [p.title for p in bench.accounts.all() if p.id in news.here and p.id != account]
    return HereOut(others=titles, revision=news.revision, by=news.by)


def listened(bench: Bench, piece: str, me: Person, token: str, gone: Callable[[], bool]) -> Iterator[str]:
    """Events for as long as somebody listens, and may. token: of the sign-in. gone: whether the page has gone."""
    told: HereOut | None = None
    known: News | None = None
    with bench.watching.on(piece):
        while not gone() and _may(bench, piece, token):
            bench.presence.here(piece, me.id, now())
            found = bench.watching.wait(piece, known, BEAT)
            if found is None:
                return
            # Without news a sign of life, so that a page that has gone is noticed.
            event = ": still here\n\n"
            if found != known:
                news = told_here(bench, found, me.id)
                if news != told:
                    event = f"data: {news.model_dump_json()}\n\n"
                known, told = found, news
            yield event


def _may(bench: Bench, piece: str, token: str) -> bool:
    person = bench.accounts.signed_in(token, now())
    return person is not None and bench.shares.right(person, piece) >= Right.LOOK
