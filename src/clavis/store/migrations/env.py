"""Alembic's way in: runs on the connection that ``database.migrate`` hands over."""

from alembic import context

from clavis.store.tables import Base

connection = context.config.attributes.get("connection")
if connection is None:
    raise SystemExit("run migrations through clavis.store.database.migrate")
context.configure(connection=connection, target_metadata=Base.metadata, render_as_batch=True)
with context.begin_transaction():
    context.run_migrations()
