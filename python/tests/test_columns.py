"""Columns in every layout that Arrow has for texts become what their cells become one by one."""

from __future__ import annotations

import json

import pyarrow as pa
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

import washout

CHARACTERS = st.sampled_from([*"ab #1\t", "é", "\u00a0", "\u200b", "\n", "\r", "\ufeff", "um", "\U0001f6a2"])
TEXTS = st.lists(CHARACTERS, max_size=8).map("".join)
CELLS = st.lists(st.none() | TEXTS, max_size=20)
RULES = st.lists(
    st.sampled_from(
        [
            'remove.chars = "#"',
            "trim = {}",
            'replace = { class = "odd-space", with = " " }',
            'remove.words = ["um"]',
            'replace = { pattern = "a+", with = "<$0>" }',
            'remove.class = ["invisible"]',
            'recase = { to = "upper" }',
            'collapse = { chars = " ", with = " " }',
        ]
    ),
    min_size=1,
    max_size=5,
)
LAYOUTS = [
    pa.string(),
    pa.large_string(),
    pa.string_view(),
    pa.binary(),
    pa.large_binary(),
    pa.binary_view(),
    pa.dictionary(pa.int8(), pa.string()),
    pa.dictionary(pa.uint32(), pa.large_string()),
]


def rules_of(rules: list[str]) -> washout.Rules:
    return washout.rules("".join(f"[[rule]]\n{rule}\n" for rule in rules))


def in_layout(cells: list[str | None], layout: pa.DataType) -> pa.Array:
    if pa.types.is_dictionary(layout):
        # A value that no cell has, and one that stands twice.
        words = [*dict.fromkeys(cell for cell in cells if cell is not None), "# unused", "# unused"]
        keys = [None if cell is None else words.index(cell) for cell in cells]
        return pa.DictionaryArray.from_arrays(pa.array(keys, layout.index_type), pa.array(words, layout.value_type))
    if "binary" in str(layout):
        return pa.array([None if cell is None else cell.encode() for cell in cells], layout)
    return pa.array(cells, layout)


def one_by_one(rules: washout.Rules, cells: list[str | None]) -> tuple[list[str | None], list[int]]:
    """Each cell as the only string of a JSON object: what a rule does there is tested against the reference."""
    before = [count.changes for count in rules.counts]
    after: list[str | None] = []
    for cell in cells:
        line = json.dumps({"cell": cell}).encode() + b"\n"
        after.append(json.loads(rules.clean_file(line, "cells.jsonl"))["cell"])
    return after, [count.changes - old for count, old in zip(rules.counts, before, strict=True)]


def as_texts(column: pa.Array | pa.ChunkedArray) -> list[str | None]:
    return [cell.decode() if isinstance(cell, bytes) else cell for cell in column.to_pylist()]


@settings(max_examples=300, deadline=None)
@given(RULES, CELLS, st.sampled_from(LAYOUTS), st.integers(0, 3), st.integers(0, 3))
def test_every_layout_gives_what_its_cells_give(
    rules: list[str], cells: list[str | None], layout: pa.DataType, cut_start: int, cut_end: int
) -> None:
    ready = rules_of(rules)
    array = in_layout(cells, layout)
    array = array.slice(min(cut_start, len(array)), max(0, len(array) - cut_start - cut_end))
    want, counts = one_by_one(ready, as_texts(array))
    ready.reset_counts()

    got = ready.clean_column(array)
    got.validate(full=True)
    assert (got.type, as_texts(got)) == (array.type, want)
    assert [count.changes for count in ready.counts] == counts

    chunked = pa.chunked_array([array.slice(0, len(array) // 2), array.slice(len(array) // 2)])
    got = ready.clean_column(chunked)
    assert isinstance(got, pa.ChunkedArray)
    assert (got.type, as_texts(got)) == (array.type, want)

    assert ready.clean_column(as_texts(array)) == want

    table = pa.table({"other": pa.array(range(len(array))), "cell": array})
    got = ready.clean_table(table)
    assert got.schema == table.schema
    assert (as_texts(got["cell"]), got["other"]) == (want, table["other"])


def test_a_column_that_stays_is_not_copied() -> None:
    ready = rules_of(['remove.chars = "#"'])
    for layout in LAYOUTS:
        array = in_layout(["lamp", None, "wick"] * 10, layout)
        got = ready.clean_column(array)
        assert got.buffers()[1].address == array.buffers()[1].address, layout
        assert as_texts(got) == as_texts(array)


def test_a_long_column_is_cleaned_by_several_threads_with_the_same_result() -> None:
    ready = rules_of(['remove.chars = "#"'])
    cells = ["lamp", None, "#wick", ""] * 60_000
    got = ready.clean_column(pa.array(cells))
    assert got.to_pylist() == ["lamp", None, "wick", ""] * 60_000
    assert ready.counts[0].changes == 60_000


def test_values_of_a_dictionary_that_become_equal_are_one() -> None:
    got = rules_of(['remove.chars = "#"']).clean_column(pa.array(["a#", "a", "#a", None]).dictionary_encode())
    assert (got.to_pylist(), got.dictionary.to_pylist()) == (["a", "a", "a", None], ["a"])


def test_bytes_that_are_not_utf8_stay_where_the_column_can_hold_them() -> None:
    ready = washout.rules("[[rule]]\nremove.chars = \"#\"\n[[rule]]\nreplace = { chars = 'x', with = \"\\u00ff\" }\n")
    assert ready.clean_column(pa.array([b"a#\xff"])).to_pylist() == [b"a\xff"]


@pytest.mark.parametrize(
    ("rules", "column", "says"),
    [
        ("trim = {}", pa.array([1, 2]), "holds Int64, and rules are for texts"),
        ("trim = {}", ["a", 1], "cell 2 is of type int"),
        ("drop_lines = { empty = 'all' }", ["a"], "rule 1 (drop"),
        ("fields = 'note'\ntrim = {}", ["a"], "clean the whole table"),
        ("trim = {}", "a text", "not str"),
        ("trim = {}", pa.table({"a": ["b"]}), "clean_table takes tables"),
    ],
)
def test_what_is_no_column_of_texts_is_refused_in_plain_words(rules: str, column: object, says: str) -> None:
    with pytest.raises((washout.CleanError, TypeError)) as error:
        rules_of([rules]).clean_column(column)
    assert says in str(error.value)
