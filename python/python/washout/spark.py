"""Rules in a cluster: data frames and files of Apache Spark.

The rules are read on the driver and travel as text, with the lists and the sets they name; each Python worker loads them once.
"""

from __future__ import annotations

import contextlib
import functools
import os
import pickle
import posixpath
import re
import uuid
from collections.abc import Iterator
from typing import TYPE_CHECKING, Any, Literal
from urllib.parse import unquote

from washout import _washout
from washout._rules import RuleCount, Rules, load
from washout.errors import CleanError

if TYPE_CHECKING:
    import pyarrow
    from pyspark.accumulators import Accumulator
    from pyspark.sql import DataFrame, SparkSession

__all__ = ["Counts", "clean", "clean_files", "write"]

OnError = Literal["fail", "list"]

ERROR_COLUMN = "washout_error"
"""The column that says what is wrong with a record, with ``on_error="list"``."""


class Counts:
    """Counts of changes per rule, added up over the tasks of a cluster. They are there once an action has run.

    Spark may run a task twice, for one that was slow or lost; what both count is in here then. Counts of
    :func:`clean_files` are exact.
    """

    def __init__(self, spark: SparkSession, rules: Rules | str | os.PathLike[str]) -> None:
        from pyspark.accumulators import AccumulatorParam

        class Sum(AccumulatorParam[list[int]]):
            def zero(self, value: list[int]) -> list[int]:
                return [0] * len(value)

            def addInPlace(self, value1: list[int], value2: list[int]) -> list[int]:
                return [one + other for one, other in zip(value1, value2, strict=True)]

        self._rules = _rules(rules)
        start = [0] * len(self._rules.counts)
        self._sum: Accumulator[list[int]] = spark.sparkContext.accumulator(start, Sum())

    @property
    def value(self) -> list[RuleCount]:
        """How often each rule has changed something."""
        counted = zip(self._rules.counts, self._sum.value, strict=True)
        return [RuleCount(count.rule, count.label, changes) for count, changes in counted]


def _rules(rules: Rules | str | os.PathLike[str]) -> Rules:
    return rules if isinstance(rules, Rules) else load(rules)


@functools.lru_cache(maxsize=8)
def _loaded(pickled: bytes) -> Rules:
    """The rules in this worker: made once, however many tasks it runs."""
    rules: Rules = pickle.loads(pickled)
    return rules


def clean(
    df: DataFrame,
    rules: Rules | str | os.PathLike[str],
    *,
    on_error: OnError = "fail",
    counts: Counts | None = None,
) -> DataFrame:
    """A data frame whose cells are cleaned: each rule in the columns it names, or in all that hold text.

    It works on a stream too. ``on_error="list"`` lets records that cannot be cleaned stay as they are, and says why in a
    column ``washout_error``. ``counts`` adds up how often each rule changes something.

    :raises CleanError: The rules do not go with these columns; they compare records with others, which no part of a
        data frame has all of.
    """
    import pyarrow
    from pyspark.sql.pandas.types import from_arrow_schema, to_arrow_schema

    ready = _rules(rules)
    if ready.cut == "tables":
        raise CleanError(
            f"{ready.cut_reason} A data frame is cleaned in parts: use dropDuplicates for that, and take the rule out"
        )
    before = to_arrow_schema(df.schema)
    after = pyarrow.schema(ready._native._clean_schema(before))
    if on_error == "list":
        if after.names != before.names:
            raise CleanError('on_error="list" keeps records as they are, and these rules make, drop or rename fields')
        after = after.append(pyarrow.field(ERROR_COLUMN, pyarrow.string()))
    pickled = pickle.dumps(ready)
    total = None if counts is None else counts._sum

    def clean_part(batches: Iterator[pyarrow.RecordBatch]) -> Iterator[pyarrow.RecordBatch]:
        loaded = _loaded(pickled)
        loaded.reset_counts()
        for batch in batches:
            yield _list_errors(loaded, batch) if on_error == "list" else loaded.clean_table(batch)
        if total is not None:
            total.add([count.changes for count in loaded.counts])

    return df.mapInArrow(clean_part, from_arrow_schema(after))


def _list_errors(rules: Rules, batch: pyarrow.RecordBatch) -> pyarrow.RecordBatch:
    """Cleans a batch; a record that cannot be cleaned stays as it is, with what is wrong in a column of its own."""
    import pyarrow

    parts: list[pyarrow.RecordBatch] = []
    errors: list[str | None] = []

    def part(records: pyarrow.RecordBatch) -> None:
        try:
            parts.append(rules.clean_table(records))
            errors.extend([None] * parts[-1].num_rows)
        except CleanError as error:
            if records.num_rows < 2:
                parts.append(records)
                # Which record it is of the few that were tried together means nothing.
                errors.extend([re.sub(r"^record \d+, ", "", str(error))] * records.num_rows)
                return
            half = records.num_rows // 2
            part(records.slice(0, half))
            part(records.slice(half))

    part(batch)
    table = pyarrow.Table.from_batches(parts).combine_chunks()
    table = table.append_column(ERROR_COLUMN, pyarrow.array(errors, pyarrow.string()))
    return pyarrow.RecordBatch.from_arrays([column.combine_chunks() for column in table.columns], table.column_names)


def write(
    df: DataFrame,
    rules: Rules | str | os.PathLike[str],
    into: str,
    *,
    format: str = "parquet",
    on_error: OnError = "fail",
) -> list[RuleCount]:
    """Cleans a data frame and writes it to a folder that is not there yet. Gives how often each rule changed something.

    What is written goes to a folder beside it first. If the rules ``expect`` other counts, that folder is removed and
    nothing is written.

    :raises CleanError: Something that cannot be cleaned; an ``expect`` that does not hold; the folder is there already.
    """
    ready = _rules(rules)
    spark = df.sparkSession
    target = _Target(into)
    counts = Counts(spark, ready)
    with target.staging() as staging:
        with _plain_errors():
            clean(df, ready, on_error=on_error, counts=counts).write.format(format).save(staging)
        made = counts.value
        _judge(ready, [count.changes for count in made])
        target.commit()
    return made


def clean_files(
    spark: SparkSession,
    paths: str | list[str],
    rules: Rules | str | os.PathLike[str],
    into: str,
    *,
    on_error: OnError = "fail",
) -> DataFrame:
    """Cleans whole files, bytes in and bytes out, and writes them under their own names to a folder that is not there yet.

    ``paths`` are those of files, folders or patterns as Spark reads them. A file that its name says is a table is cleaned
    as one. One task cleans one file, which has 2 GiB at most. Gives a data frame with a row for each file: ``path``,
    ``written`` (where it is now), ``changes`` (of each rule, in their order), ``error``, and ``left_out``: why it was not
    cleaned, though nothing is wrong with it; binary files are not.

    Files are written to a folder beside ``into`` first. If a file cannot be cleaned, or the rules ``expect`` other counts,
    that folder is removed and nothing is written; with ``on_error="list"`` files that cannot be cleaned are left out, and
    the row says why.

    :raises CleanError: What goes wrong, with the name of the file.
    """
    from pyspark.sql import Row

    ready = _rules(rules)
    pickled = pickle.dumps(ready)
    target = _Target(into)
    schema = "path string, written string, changes array<long>, error string, left_out string"
    files = spark.read.format("binaryFile").option("recursiveFileLookup", "true").load(paths)
    found = [row.path for row in files.select("path").collect()]
    # Spark reads no rows from empty files, and they are files all the same.
    known = {_without_scheme(path) for path in found}
    listed = [unquote(uri) for uri in files.inputFiles()]
    empty = [path for path in listed if _without_scheme(path) not in known]
    names = _names([*found, *empty])
    with target.staging() as staging:

        def clean_part(batches: Iterator[pyarrow.RecordBatch]) -> Iterator[pyarrow.RecordBatch]:
            import pyarrow

            loaded = _loaded(pickled)
            for batch in batches:
                for row in batch.to_pylist():
                    name = names[row["path"]]
                    written = _wash_file(loaded, row["content"], name, staging)
                    written["path"] = row["path"]
                    if written["written"] is not None:
                        written["written"] = posixpath.join(into, name)
                    yield pyarrow.RecordBatch.from_pylist([written], schema=_FILE_SCHEMA())

        with _plain_errors():
            rows = files.select("path", "content").mapInArrow(clean_part, schema).collect()
        for path in empty:
            washed = _wash_file(ready, b"", names[path], staging) | {"path": path}
            if washed["written"] is not None:
                washed["written"] = posixpath.join(into, names[path])
            rows.append(Row(**washed))
        failed = [row for row in rows if row.error is not None]
        if failed and on_error == "fail":
            more = f"\nand {len(failed) - 1} more" if len(failed) > 1 else ""
            raise CleanError(f"{failed[0].path}: {failed[0].error}{more}\nNothing was written.")
        changes = [sum(of) for of in zip(*(row.changes for row in rows if row.written is not None), strict=True)]
        _judge(ready, changes or [0] * len(ready.counts))
        target.commit(only={names[row.path] for row in rows if row.written is not None})
    columns = ("path", "written", "changes", "error", "left_out")
    return spark.createDataFrame([tuple(row[column] for column in columns) for row in rows], schema)


def _FILE_SCHEMA() -> pyarrow.Schema:
    import pyarrow

    text = pyarrow.string()
    fields = [("path", text), ("written", text), ("changes", pyarrow.list_(pyarrow.int64())), ("error", text), ("left_out", text)]
    return pyarrow.schema(fields)


def _wash_file(rules: Rules, content: bytes, name: str, staging: str) -> dict[str, Any]:
    if _washout._looks_binary(content):
        return {"written": None, "changes": [], "error": None, "left_out": "binary"}
    try:
        cleaned, changes = rules._native.clean_file(content, name)
    except CleanError as error:
        return {"written": None, "changes": [], "error": str(error), "left_out": None}
    system, folder = _file_system(staging)
    path = posixpath.join(folder, name)
    system.create_dir(posixpath.dirname(path), recursive=True)
    # A task may run twice at the same time: each writes a file of its own, and the last is in place as a whole.
    part = f"{path}.{uuid.uuid4().hex}.part"
    with system.open_output_stream(part, compression=None) as out:
        out.write(cleaned)
    system.move(part, path)
    return {"written": path, "changes": changes, "error": None, "left_out": None}


def _without_scheme(path: str) -> str:
    # Spark gives paths as they are: `%20` and `#` are part of a name.
    return re.sub(r"^[A-Za-z][A-Za-z0-9+.-]*:(//[^/]*)?", "", path)


def _names(paths: list[str]) -> dict[str, str]:
    """For each path its name below the folder that all of them are in."""
    plain = {path: _without_scheme(path) for path in paths}
    folders = {posixpath.dirname(path) for path in plain.values()}
    common = posixpath.commonpath(folders) if folders else ""
    names = {path: posixpath.relpath(name, common) for path, name in plain.items()}
    taken: dict[str, str] = {}
    for path, name in names.items():
        if taken.setdefault(name, path) != path:
            raise CleanError(f"{taken[name]} and {path} would both become {name}; clean them into different folders")
    return names


def _file_system(path: str) -> tuple[Any, str]:
    from pyarrow import fs

    if "://" not in path and not path.startswith("file:"):
        return fs.LocalFileSystem(), os.path.abspath(path)
    # Hadoop has names of its own for what Arrow calls s3 and abfs.
    system, folder = fs.FileSystem.from_uri(re.sub(r"^(s3|abfs)[ans]+://", r"\1://", path))
    return system, folder


def _move_folder(system: Any, folder: str, into: str) -> None:
    """Moves a folder to a place where nothing is: in one step where there are folders, else object by object."""
    from pyarrow import fs

    if system.type_name in ("local", "hdfs"):
        system.move(folder, into)
        return
    for entry in system.get_file_info(fs.FileSelector(folder, recursive=True)):
        if entry.type == fs.FileType.File:
            to = posixpath.join(into, posixpath.relpath(entry.path, folder))
            system.create_dir(posixpath.dirname(to), recursive=True)
            system.move(entry.path, to)
    system.delete_dir(folder)


class _Target:
    """A folder that is written beside its place, and moved there when all is well."""

    def __init__(self, into: str) -> None:
        from pyarrow import fs

        self._into = into.rstrip("/")
        system, folder = _file_system(self._into)
        if system.get_file_info(folder).type != fs.FileType.NotFound:
            raise CleanError(f"{into} is there already; name a folder that is not, or remove it first")
        self._staging = f"{self._into}.washout-{uuid.uuid4().hex[:12]}"
        self._is_committed = False

    @contextlib.contextmanager
    def staging(self) -> Iterator[str]:
        local = "://" not in self._staging and not self._staging.startswith("file:")
        system, folder = _file_system(self._staging)
        try:
            yield os.path.abspath(self._staging) if local else self._staging
        finally:
            if not self._is_committed:
                from pyarrow import fs

                if system.get_file_info(folder).type != fs.FileType.NotFound:
                    system.delete_dir(folder)

    def commit(self, only: set[str] | None = None) -> None:
        """Puts the folder in place. ``only``: the files in it that are whole; others are of tasks that were killed."""
        from pyarrow import fs

        system, folder = _file_system(self._staging)
        if only is not None:
            for entry in system.get_file_info(fs.FileSelector(folder, allow_not_found=True, recursive=True)):
                if entry.type == fs.FileType.File and posixpath.relpath(entry.path, folder) not in only:
                    system.delete_file(entry.path)
        _, into = _file_system(self._into)
        system.create_dir(folder, recursive=True)
        _move_folder(system, folder, into)
        self._is_committed = True


def _judge(rules: Rules, changes: list[int]) -> None:
    unmet = rules.unmet(changes)
    if unmet:
        raise CleanError("\n".join([*unmet, "Nothing was written. Change the rules, or what they expect."]))


@contextlib.contextmanager
def _plain_errors() -> Iterator[None]:
    """Errors of rules in a task, in their own words instead of a trace of the cluster."""
    try:
        yield
    except Exception as error:
        message = _rule_error_in(str(error))
        if message is None:
            raise
        raise CleanError(message) from None


# What Spark says of a Python worker or an executor that ended without a word.
_SIGNS_OF_LOSS = ("Python worker exited unexpectedly", "ExecutorLostFailure", "java.lang.OutOfMemoryError", "MemoryError")

_LOST = (
    "a worker ended without a word, several times: most likely it ran out of memory. Give executors more "
    "(spark.executor.memory, spark.executor.memoryOverhead, spark.executor.pyspark.memory), or each task less: smaller "
    "batches (spark.sql.execution.arrow.maxRecordsPerBatch), smaller files. Nothing was written."
)


def _rule_error_in(text: str) -> str | None:
    marker = "washout.errors.CleanError: "
    at = text.find(marker)
    if at < 0:
        return _LOST if any(sign in text for sign in _SIGNS_OF_LOSS) else None
    return text[at + len(marker) :].split("\n\n")[0].split("\n\tat ")[0].strip()
