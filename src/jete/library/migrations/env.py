"""Run by Alembic: migrates the connection it is handed."""

from __future__ import annotations

from alembic import context

from jete.library.models import Base

context.configure(
    connection=context.config.attributes["connection"], target_metadata=Base.metadata, render_as_batch=True
)
with context.begin_transaction():
    context.run_migrations()
