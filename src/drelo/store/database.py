"""Engine, sessions and migrations."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory
from alembic.util import CommandError
from sqlalchemy import Engine, create_engine, text
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session, sessionmaker

from drelo.store.server import ServerError

MIGRATIONS = Path(__file__).parent / "migrations"


def engine_for(url: str) -> Engine:
    """An engine whose connections are checked before use."""
    return create_engine(
        url,
        pool_pre_ping=True,
        pool_size=10,
        max_overflow=10,
        isolation_level="READ COMMITTED",
        # A failed statement must not print a maker's picture into a log.
        hide_parameters=True,
    )


@contextmanager
def one_at_a_time(engine: Engine, what: str, seconds: float) -> Iterator[bool]:
    """Whether this process, of all that share the database, is the one that does something now.

    seconds: how long to wait for another to end it.
    """
    with engine.connect() as connection:
        name = {"name": f"drelo {what}", "seconds": seconds}
        got = bool(connection.scalar(text("SELECT GET_LOCK(:name, :seconds)"), name))
        try:
            yield got
        finally:
            if got:
                connection.execute(text("SELECT RELEASE_LOCK(:name)"), name)


def sessions(engine: Engine) -> sessionmaker[Session]:
    return sessionmaker(engine, expire_on_commit=False)


def newest() -> str:
    """The revision that this version brings tables to."""
    return str(ScriptDirectory.from_config(_config()).get_current_head())


def revision_of(engine: Engine) -> str | None:
    """The revision that the tables are of; None where there are none yet."""
    with engine.connect() as connection:
        return MigrationContext.configure(connection).get_current_revision()


def migrate(engine: Engine) -> None:
    """Bring the tables to the newest revision. Raises ServerError, touching nothing, where they are newer still."""
    known = {script.revision for script in ScriptDirectory.from_config(_config()).walk_revisions()}
    was = revision_of(engine)
    if was is not None and was not in known:
        raise ServerError(
            "The data folder was written by a newer Drelo. Start it with that version; nothing was touched."
        )
    config = _config()
    try:
        with engine.begin() as connection:
            config.attributes["connection"] = connection
            command.upgrade(config, "head")
    except (SQLAlchemyError, CommandError) as error:
        raise ServerError(
            f"The database could not be upgraded to this version ({str(error).splitlines()[0]}). "
            "The backup made just before holds all pieces: restore it to a new data folder."
        ) from error


def _config() -> Config:
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    return config
