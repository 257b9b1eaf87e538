"""Columns and tables of other libraries come back as the same kind."""

from __future__ import annotations

import duckdb
import pandas as pd
import polars as pl
import polars.testing
import pyarrow as pa
import pytest

import washout

STRIP = washout.rules("[[rule]]\nremove.chars = '#'\n")


@pytest.mark.parametrize(
    "dtype",
    ["object", "string", "string[pyarrow]", "category", pd.ArrowDtype(pa.string()), pd.ArrowDtype(pa.large_string())],
)
def test_a_series_of_pandas_keeps_type_index_and_name(dtype: object) -> None:
    given = pd.Series(["a#", None, "b"], index=[7, 3, 5], name="note").astype(dtype)
    got = STRIP.clean_column(given)
    want = pd.Series(["a", None, "b"], index=[7, 3, 5], name="note").astype(dtype)
    pd.testing.assert_series_equal(got, want)


def test_what_stands_for_a_missing_cell_in_pandas_stays() -> None:
    got = STRIP.clean_column(pd.Series(["#", None, float("nan"), pd.NA]))
    assert got[0] == "" and got[1] is None and got[2] != got[2] and got[3] is pd.NA


def test_a_frame_of_pandas_keeps_its_other_columns_and_its_index() -> None:
    rules = washout.rules("[[rule]]\nremove.chars = '#'\n[[rule]]\nfields = 'note'\ndrop_records = { empty = 'all' }\n")
    when = pd.to_datetime(["1936-11-05", "1936-11-06", "1936-11-07"])
    frame = pd.DataFrame({"note": ["a#", "#", None], "n": [1, 2, 3], "when": when, "kind": pd.Categorical(["x#", "y", "x#"])})
    frame.index = pd.Index([10, 20, 30], name="id")
    got = rules.clean_table(frame)
    assert list(got.index) == [10] and got.index.name == "id"
    assert got.loc[10].to_dict() == {"note": "a", "n": 1, "when": when[0], "kind": "x"}
    assert list(got.dtypes[["n", "when"]]) == list(frame.dtypes[["n", "when"]])
    assert isinstance(got.dtypes["kind"], pd.CategoricalDtype)
    pd.testing.assert_frame_equal(rules.clean_table(frame.iloc[:0]), frame.iloc[:0], check_categorical=False)


@pytest.mark.parametrize("dtype", [pl.String, pl.Categorical, pl.Enum(["a#", "b"])])
def test_a_series_of_polars_keeps_type_and_name(dtype: object) -> None:
    got = STRIP.clean_column(pl.Series("note", ["a#", None, "b"], dtype=dtype))
    assert (got.name, got.to_list(), type(got.dtype)) == ("note", ["a", None, "b"], type(pl.Series([], dtype=dtype).dtype))


def test_a_frame_of_polars_and_a_relation_of_duckdb() -> None:
    frame = pl.DataFrame({"note": ["a#", None], "n": [1, 2]})
    polars.testing.assert_frame_equal(STRIP.clean_table(frame), pl.DataFrame({"note": ["a", None], "n": [1, 2]}))
    assert STRIP.clean_table(frame.lazy()).collect()["note"].to_list() == ["a", None]
    cleaned = STRIP.clean_table(duckdb.sql("select 'a#' as note, 1 as n"))
    assert duckdb.sql("select note, n from cleaned").fetchall() == [("a", 1)]


def test_words_that_are_new_in_an_enumeration_are_not_lost() -> None:
    frame = pl.DataFrame({"kind": ["a#", "b", None]}, schema={"kind": pl.Enum(["a#", "b"])})
    got = STRIP.clean_table(frame)["kind"]
    assert (got.to_list(), isinstance(got.dtype, pl.Enum)) == (["a", "b", None], True)
    assert STRIP.clean_column(frame["kind"]).to_list() == ["a", "b", None]


@pytest.mark.parametrize(
    ("table", "says"),
    [
        (pd.DataFrame([["a", "b"]], columns=["x", "x"]), "several columns of this table are called 'x'"),
        (pd.DataFrame([["a"]]), "called by texts, and one of these is 0"),
        (pd.Series(["a"]), "clean_column takes it"),
        (pl.Series(["a"]), "clean_column takes it"),
        (pa.array(["a"]), "a table of Arrow, pandas, Polars or DuckDB is wanted"),
        (3, "a table of Arrow, pandas, Polars or DuckDB is wanted, not int"),
    ],
)
def test_what_is_no_table_is_refused_in_plain_words(table: object, says: str) -> None:
    with pytest.raises(TypeError) as error:
        STRIP.clean_table(table)
    assert says in str(error.value)


def test_record_batches_and_tables_of_pyarrow() -> None:
    batch = pa.record_batch({"note": ["a#"], "n": [1]})
    got = STRIP.clean_table(batch)
    assert isinstance(got, pa.RecordBatch) and got.to_pydict() == {"note": ["a"], "n": [1]}
    table = pa.Table.from_batches([batch, batch])
    assert STRIP.clean_table(table).to_pydict() == {"note": ["a", "a"], "n": [1, 1]}
    assert STRIP.clean_table(table.slice(0, 0)).num_rows == 0


def test_fields_made_dropped_and_renamed_and_records_dropped() -> None:
    rules = washout.rules(
        "[[rule]]\nfields = 'note'\nto_field = 'code'\nkeep.pattern = '[0-9]+'\n"
        "[[rule]]\nfields = ['note', 'n']\ndrop_records = { repeated = 'file' }\n"
        "[[rule]]\nrename_fields = { n = 'number' }\n[[rule]]\ndrop_fields = 'x'\n"
    )
    table = pa.table({"note": ["a1", "a1", None, "b"], "n": [1, 1, 2, None], "x": [0, 0, 0, 0]})
    got = rules.clean_table(table)
    assert got.to_pydict() == {"note": ["a1", None, "b"], "code": ["1", None, ""], "number": [1, 2, None]}
    assert [count.changes for count in rules.counts] == [2, 1, 1, 1]


@pytest.mark.parametrize(
    ("table", "says"),
    [
        ({"other": ["a"]}, "there is no field `note`, which rule 1"),
        ({"note": [1]}, "the field `note` holds Int64, and rule 1"),
    ],
)
def test_a_table_that_the_rules_do_not_go_with_is_refused_in_plain_words(table: dict[str, list[object]], says: str) -> None:
    with pytest.raises(washout.CleanError) as error:
        washout.rules("[[rule]]\nfields = 'note'\ntrim = {}\n").clean_table(pa.table(table))
    assert says in str(error.value)


def test_a_call_does_not_depend_on_those_before() -> None:
    rules = washout.rules('''
        [[rule]]
        drop_records = { repeated = "file" }
        [[rule]]
        fields = "Item"
        remove.pattern = '^(a|aa)+\\1(?!c)c'
    ''')
    table = pa.table({"Item": ["oil ", "oil ", "wicks"]})
    other = pa.table({"Item": ["oil ", "oil ", "wicks"], "Keeper": ["Vey", "Vey", "Hale"]})
    hard = pa.table({"Item": ["a" * 24 + "c"] * 400, "Row": [str(row) for row in range(400)]})
    for _ in range(3):
        assert rules.clean_table(table)["Item"].to_pylist() == ["oil ", "wicks"]
        assert rules.clean_table(other).num_rows == 2
        with pytest.raises(washout.CleanError, match="too much work"):
            rules.clean_table(hard)
        # A part of it can be done, and what was done before does not count.
        assert rules.clean_table(hard.slice(0, 2)).num_rows == 2
    assert rules.counts[0].changes == 6
