"""A backup into an empty database: the tables made by this program's own migrations, as far as the backup's had come;
then its rows; then all of it compared."""

from collections.abc import Iterable

from django.db import DatabaseError, IntegrityError
from django.db.backends.base.base import BaseDatabaseWrapper
from django.db.migrations.executor import MigrationExecutor

from .backup import LEFT_OUT, MIGRATIONS, Sum, summing, sums_of
from .faults import Damaged
from .reading import Backup
from .tables import Table, Value, line, parameters, tables

AT_ONCE = 200  # rows handed to the server together
AT_ONCE_BYTES = 4 * 1024**2


def read_in(connection: BaseDatabaseWrapper, backup: Backup, left_out: Iterable[str] = LEFT_OUT) -> dict[str, Sum]:
    """Fill an empty database; what there then is of each table. Damaged where the backup cannot be taken: the database
    is then worth nothing."""
    lay_out(connection, backup.migrations())
    known = {name: table for name, table in tables(connection).items() if name not in left_out}
    with connection.cursor() as cursor:
        cursor.execute("SET SESSION foreign_key_checks = 0, SESSION unique_checks = 1")
        for name in known:  # what migrations put in is in the backup as well
            cursor.execute(f"DELETE FROM `{name}`")
        cursor.execute("SET autocommit = 0")
    try:
        read = _fill(connection, backup, known)
        with connection.cursor() as cursor:
            cursor.execute("COMMIT")
        connection.check_constraints(table_names=list(known))
    except IntegrityError as error:
        raise Damaged(f"is damaged: its rows do not belong together ({error})") from error
    except DatabaseError as error:
        raise Damaged(f"is damaged: the database refuses its rows ({error})") from error
    finally:
        with connection.cursor() as cursor:
            cursor.execute("SET autocommit = 1, SESSION foreign_key_checks = 1")
    there = sums_of(connection, left_out)
    for name in sorted(read.keys() | there.keys()):
        if read.get(name) != there.get(name):
            rows = [s[name].rows if name in s else 0 for s in (read, there)]
            raise Damaged(f"is damaged: of table {name} {rows[1]} rows came in of {rows[0]}, or others")
    return there


def _fill(connection: BaseDatabaseWrapper, backup: Backup, known: dict[str, Table]) -> dict[str, Sum]:
    found = summing()
    waiting: list[list[object]] = []
    of: Table | None = None
    size = 0
    for table, values in backup.rows(known):
        text = line(values)
        found[table.name].add(text)
        if of is not table or len(waiting) == AT_ONCE or size > AT_ONCE_BYTES:
            _insert(connection, of, waiting)
            of, waiting, size = table, [], 0
        waiting.append(_parameters(values, table))
        size += len(text)
    _insert(connection, of, waiting)
    return {name: s.sum for name, s in found.items()}


def _parameters(values: list[Value], table: Table) -> list[object]:
    try:
        return parameters(values, table)
    except ValueError as error:
        raise Damaged(f"is damaged: a row of {table.name} has bytes that are no base64") from error


def _insert(connection: BaseDatabaseWrapper, table: Table | None, rows: list[list[object]]) -> None:
    if table is None or not rows:
        return
    columns, places = ", ".join(f"`{c}`" for c in table.columns), ", ".join(["%s"] * len(table.columns))
    with connection.cursor() as cursor:
        cursor.executemany(f"INSERT INTO `{table.name}` ({columns}) VALUES ({places})", rows)


def lay_out(connection: BaseDatabaseWrapper, wanted: list[tuple[str, str]]) -> None:
    """Make the tables in an empty database as they are after these migrations, by this program's own; Damaged where it
    does not know one of them."""
    executor = MigrationExecutor(connection)
    loader = executor.loader
    replaced = {old: key for key, migration in loader.replacements.items() for old in migration.replaces}
    keys = {replaced.get(key, key) for key in wanted if key != ("", "")}
    if strange := sorted(key for key in keys if key not in loader.graph.nodes):
        raise Damaged(f"was written by a newer Loadstar, or by none ({'.'.join(strange[0])[:80]} is not known here): "
                      "use the version that wrote it")
    last = [key for key in keys if not any(
        child.key in keys and child.key[0] == key[0] for child in loader.graph.node_map[key].children)]
    executor.migrate(sorted(last))
    if MIGRATIONS not in tables(connection):
        raise Damaged("is damaged: it does not say what state its tables are in")
