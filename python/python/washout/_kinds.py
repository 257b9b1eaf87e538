"""Columns and tables of other libraries: into Arrow memory, and back as the same kind.

No library is imported but the one that a column or table is of.
"""

from __future__ import annotations

from typing import Any

from washout import _washout


def _library(thing: Any) -> str:
    """The library that a thing is of."""
    return type(thing).__module__.partition(".")[0]


def _is_arrow(thing: Any) -> bool:
    return hasattr(thing, "__arrow_c_array__") or hasattr(thing, "__arrow_c_stream__")


def clean_column(rules: _washout.Rules, column: Any) -> Any:
    if isinstance(column, list):
        return rules._clean_list(column)
    if isinstance(column, tuple):
        return tuple(rules._clean_list(list(column)))
    library = _library(column)
    if library == "pandas":
        return _clean_pandas_series(rules, column)
    if not _is_arrow(column) or (library in ("polars", "pyarrow") and hasattr(column, "columns")):
        raise TypeError(
            f"clean_column takes a column: a list, an Arrow array, a series of pandas or Polars, not {_name(column)}"
            + ("; clean_table takes tables" if hasattr(column, "columns") else "")
        )
    if library == "polars":
        return _clean_polars_series(rules, column)
    cleaned = rules._clean_arrow(column)
    if library == "pyarrow":
        import pyarrow

        is_chunked = isinstance(column, pyarrow.ChunkedArray)
        return pyarrow.chunked_array(cleaned) if is_chunked else pyarrow.array(cleaned)
    return cleaned


def clean_table(rules: _washout.Rules, table: Any) -> Any:
    library = _library(table)
    cleaned, kept = rules._clean_table(table_in_arrow(table))
    if library == "pyarrow":
        import pyarrow

        is_batch = isinstance(table, pyarrow.RecordBatch)
        return pyarrow.record_batch(cleaned) if is_batch else pyarrow.table(cleaned)
    if library == "polars":
        import polars

        frame = polars.DataFrame(cleaned)
        for name, kind in table.collect_schema().items():
            if isinstance(kind, polars.Enum) and name in frame.columns:
                frame = frame.with_columns(_polars_enum(frame[name], kind))
        return frame.lazy() if isinstance(table, polars.LazyFrame) else frame
    if library == "pandas":
        return _pandas_frame(table, cleaned, kept)
    return cleaned


def table_in_arrow(table: Any) -> Any:
    """Something with Arrow's interface that holds the table."""
    library = _library(table)
    if library == "pandas":
        import pyarrow

        if not hasattr(table, "columns"):
            raise TypeError("clean_table takes tables, and this is a series; clean_column takes it")
        for name in table.columns:
            if not isinstance(name, str):
                raise TypeError(f"the columns of a table are called by texts, and one of these is {name!r}")
        if not table.columns.is_unique:
            twice = table.columns[table.columns.duplicated()][0]
            raise TypeError(f"several columns of this table are called {twice!r}; give each a name of its own")
        return pyarrow.Table.from_pandas(table, preserve_index=False)
    if library == "polars":
        import polars

        if isinstance(table, polars.Series):
            raise TypeError("clean_table takes tables, and this is a series; clean_column takes it")
        # In Arrow, an enumeration has no words but its own: what a word becomes may be a new one.
        table = table.lazy().with_columns(polars.selectors.enum().cast(polars.String)).collect()
    if not _is_arrow(table) or (library == "pyarrow" and not hasattr(table, "schema")):
        raise TypeError(f"a table of Arrow, pandas, Polars or DuckDB is wanted, not {_name(table)}")
    return table


def _name(thing: Any) -> str:
    kind = type(thing)
    return kind.__name__ if kind.__module__ == "builtins" else f"{kind.__module__}.{kind.__name__}"


def _clean_pandas_series(rules: _washout.Rules, series: Any) -> Any:
    if not hasattr(series, "array") or not hasattr(series, "index"):
        more = "; clean_table takes tables" if hasattr(series, "columns") else ""
        raise TypeError(f"clean_column takes a column: of pandas a Series, not {_name(series)}{more}")
    if series.dtype == object:
        # What stands for a missing cell stays as it is: None, NaN or NA.
        missing = series.isna().to_numpy()
        before = [None if gone else cell for cell, gone in zip(series, missing, strict=True)]
        after = rules._clean_list(before)
        if all(new is old for new, old in zip(after, before, strict=True)):
            return series
        cells = [old if gone else new for new, old, gone in zip(after, series, missing, strict=True)]
        return series._constructor(cells, index=series.index, name=series.name, dtype=object)
    import pandas
    import pyarrow

    before_arrow = pyarrow.Array.from_pandas(series)
    cleaned = rules._clean_arrow(before_arrow)
    is_chunked = isinstance(before_arrow, pyarrow.ChunkedArray)
    after_arrow = pyarrow.chunked_array(cleaned) if is_chunked else pyarrow.array(cleaned)
    return series._constructor(_pandas_array(pandas, after_arrow, series.dtype), index=series.index, name=series.name)


def _pandas_array(pandas: Any, column: Any, dtype: Any) -> Any:
    """A column of Arrow as an array of this type of pandas."""
    if isinstance(dtype, pandas.CategoricalDtype):
        after = column.to_pandas()
        return pandas.Categorical(after, ordered=dtype.ordered) if not hasattr(after, "array") else after.array
    if isinstance(dtype, pandas.ArrowDtype):
        return pandas.arrays.ArrowExtensionArray(column)
    return pandas.array(column.to_pylist(), dtype=dtype)


def _pandas_frame(before: Any, cleaned: Any, kept: Any) -> Any:
    import pandas
    import pyarrow

    table = pyarrow.table(cleaned)
    index = before.index if kept is None else before.index.take(pyarrow.array(kept).to_numpy())
    columns = {}
    for name in table.column_names:
        column = table[name]
        kind = before.dtypes[name] if name in before.columns else None
        if kind is not None and kind != object and _holds_text(pyarrow, column.type):
            columns[name] = _pandas_array(pandas, column, kind)
            continue
        cells = _as_before(before, name, column, kept)
        columns[name] = pandas.Series(cells, index=index, dtype=object) if isinstance(cells, list) else cells
    frame = before._constructor(columns, index=index, columns=table.column_names)
    frame.attrs = before.attrs
    return frame


def _holds_text(pyarrow: Any, kind: Any) -> bool:
    kind = kind.value_type if pyarrow.types.is_dictionary(kind) else kind
    return bool(pyarrow.types.is_string(kind) or pyarrow.types.is_large_string(kind) or pyarrow.types.is_binary(kind))


def _as_before(before: Any, name: str, column: Any, kept: Any) -> Any:
    """The cells of a column of a frame: what has not changed is what it was, missing cells included."""
    import pyarrow

    if name not in before.columns:
        return column.to_pylist()
    was = before[name] if kept is None else before[name].take(pyarrow.array(kept).to_numpy())
    if was.dtype != object:
        return was.array
    missing = was.isna().to_numpy()
    return [old if gone else new for old, new, gone in zip(was, column.to_pylist(), missing, strict=True)]


def _clean_polars_series(rules: _washout.Rules, series: Any) -> Any:
    import polars

    if not isinstance(series.dtype, polars.Enum):
        return polars.Series(series.name, rules._clean_arrow(series), dtype=series.dtype)
    # In Arrow, an enumeration has no words but its own: what a word becomes may be a new one.
    cleaned = polars.Series(series.name, rules._clean_arrow(series.cast(polars.String)))
    return _polars_enum(cleaned, series.dtype)


def _polars_enum(words: Any, before: Any) -> Any:
    """Words as an enumeration that has those of the one before, and the new ones."""
    import polars

    known = dict.fromkeys([*before.categories, *words.drop_nulls().unique(maintain_order=True)])
    return words.cast(polars.Enum(list(known)))
