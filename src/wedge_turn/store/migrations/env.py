"""Runs migrations on the connection that `database.open_database` hands over."""

from alembic import context

from wedge_turn.store.rows import Row

context.configure(
    connection=context.config.attributes["connection"], target_metadata=Row.metadata, render_as_batch=True
)
with context.begin_transaction():
    context.run_migrations()
