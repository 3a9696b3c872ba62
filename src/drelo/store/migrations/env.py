"""Alembic's environment: runs on the connection that `migrate` hands over."""

from alembic import context

from drelo.store.models import Base

context.configure(connection=context.config.attributes["connection"], target_metadata=Base.metadata, compare_type=True)
with context.begin_transaction():
    context.run_migrations()
