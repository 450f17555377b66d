"""Databases of every version brought to the shape that this one works with, by Alembic's steps in `migrations`."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.script import ScriptDirectory
from sqlalchemy import Connection, Engine, inspect

from ulmek.core.errors import InputError
from ulmek.store.shelf import GeometryShelf

MIGRATIONS = Path(__file__).parent / "migrations"
# The shape that 0.6.0 made without saying so in the database.
BEFORE_MIGRATIONS = "0001"


def bring_up_to_date(engine: Engine, shelf: GeometryShelf) -> None:
    """Make the tables, or change those of an earlier version into today's; all steps or none.

    shelf: takes the solids of files that documents carried in themselves until 0.7.0.

    Raises
    ------
    InputError : the database was made by a later version.
    """
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    script = ScriptDirectory.from_config(config)
    with engine.begin() as connection:
        stands = _stands_at(connection)
        if stands == script.get_current_head():
            return
        if stands is not None and stands not in {step.revision for step in script.walk_revisions()}:
            raise InputError(
                "the data folder belongs to a later version of Ulmek.", where="ulmek.db",
                hint="Open it with that version, or set ULMEK_HOME to another folder.",
            )  # fmt: skip
        config.attributes |= {"connection": connection, "shelf": shelf}
        if stands is None and inspect(connection).has_table("studyrecord"):
            command.stamp(config, BEFORE_MIGRATIONS)
        command.upgrade(config, "head")


def _stands_at(connection: Connection) -> str | None:
    if not inspect(connection).has_table("alembic_version"):
        return None
    return connection.exec_driver_sql("SELECT version_num FROM alembic_version").scalar()
