"""Alembic's entry: run the migrations on the connection that the store hands over."""

from alembic import context

from plinth.workshop.schema import Base

context.configure(connection=context.config.attributes["connection"], target_metadata=Base.metadata)
with context.begin_transaction():
    context.run_migrations()
