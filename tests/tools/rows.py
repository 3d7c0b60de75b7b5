"""Keep the rows of a database that was costly to fill, and put them back into an empty one."""

from __future__ import annotations

from typing import Any

from django.apps import apps
from django.db import connection, transaction
from psycopg import sql

Kept = dict[str, tuple[list[str], bytes]]  # table -> its columns, its rows as COPY writes them
OURS = "inchmark."


def _tables() -> dict[str, list[str]]:
    """Return the tables of the product's own models and their columns, those made by the ORM too."""
    models: list[Any] = [
        model
        for config in apps.get_app_configs()
        if config.name.startswith(OURS)
        for model in config.get_models(include_auto_created=True)
    ]
    return {
        model._meta.db_table: [field.column for field in model._meta.local_concrete_fields]
        for model in models
        if model._meta.managed and not model._meta.proxy
    }


def _copy(table: str, columns: list[str], way: str) -> sql.Composed:
    names = sql.SQL(", ").join(map(sql.Identifier, columns))
    return sql.SQL("COPY {} ({}) " + way).format(sql.Identifier(table), names)


def keep() -> Kept:
    """Return every row of the product's tables."""
    kept: Kept = {}
    with connection.cursor() as cursor:
        for table, columns in _tables().items():
            with cursor.copy(_copy(table, columns, "TO STDOUT")) as coming:
                kept[table] = columns, b"".join(bytes(block) for block in coming)
    return kept


def put_back(kept: Kept) -> None:
    """Fill the empty tables; foreign keys are checked when all rows are there."""
    with transaction.atomic(), connection.cursor() as cursor:
        for table, (columns, rows) in kept.items():
            with cursor.copy(_copy(table, columns, "FROM STDIN")) as going:
                going.write(rows)
