"""Prints are known by what they make, not by all that was known about it."""

from alembic import op
from psycopg import Connection

from perisect.store.made_keys import rekey_prints

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.alter_column("print", "recipe_hash", new_column_name="made_key")
    connection = op.get_bind().connection.dbapi_connection
    assert isinstance(connection, Connection)
    rekey_prints(connection)
