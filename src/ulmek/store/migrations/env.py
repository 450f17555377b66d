"""What Alembic runs for every step: on the connection that `store.migrate` gives it."""

from alembic import context

context.configure(connection=context.config.attributes["connection"])
with context.begin_transaction():
    context.run_migrations()
