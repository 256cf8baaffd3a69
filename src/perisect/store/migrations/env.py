"""How Alembic reaches the database; run by `perisect.store.migrate`."""

from alembic import context
from sqlalchemy import create_engine

from perisect.store.models import Base

url = context.config.get_main_option("sqlalchemy.url")
assert url is not None
with create_engine(url).connect() as connection:
    context.configure(connection=connection, target_metadata=Base.metadata)
    with context.begin_transaction():
        context.run_migrations()
    connection.commit()
