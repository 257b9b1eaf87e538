"""A local cluster: two executors in processes of their own give what one machine gives."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

import washout

from .conftest import cleaned_by

pytestmark = pytest.mark.spark

# A search that goes back and forth for longer than it may on `HARD`.
SLOW = "[[rule]]\nfields = 'note'\nremove.pattern = '^(a|aa)+\\1(?!c)c'\n"
HARD = "a" * 60 + "c"


@pytest.fixture(scope="session")
def spark() -> Iterator[Any]:
    """A cluster of two workers on this machine."""
    os.environ["PYSPARK_PYTHON"] = os.environ["PYSPARK_DRIVER_PYTHON"] = sys.executable
    from pyspark.sql import SparkSession

    session = (
        SparkSession.builder.master("local-cluster[2,1,1024]")
        .appName("washout tests")
        .config("spark.ui.enabled", "false")
        .config("spark.driver.host", "127.0.0.1")
        .config("spark.driver.bindAddress", "127.0.0.1")
        .config("spark.sql.shuffle.partitions", "2")
        .config("spark.sql.execution.arrow.maxRecordsPerBatch", "50")
        .config("spark.executorEnv.PYSPARK_PYTHON", sys.executable)
        .getOrCreate()
    )
    session.sparkContext.setLogLevel("OFF")
    yield session
    session.stop()


@pytest.fixture(scope="session")
def verbs() -> list[str]:
    """Rules of every kind that act on cells."""
    return [
        "remove.chars = '#'",
        "replace = { class = 'odd-space', with = ' ' }",
        "keep.class = ['letter', 'digit', 'space', 'blank']",
        "collapse = { chars = ' ', with = ' ' }",
        "trim = {}",
        "recase = { to = 'upper' }",
        "normalize = { form = 'NFC' }",
        "plain_letters = {}",
        "decode = { what = 'html-entities' }",
        "pad = { width = 3 }",
        "tabs = { to = 'spaces', width = 4 }",
    ]


def notes() -> list[str | None]:
    some = ["fog #", None, "", "caf\u0065\u0301\u00a0bar", "a&amp;b", "x\ty ", "\u200bUm", "\u00e6\u00f8"]
    return [None if note is None else f"{note}{number % 7}" for number in range(60) for note in some]


def readable(rule: str) -> bool:
    try:
        washout.rules(f"[[rule]]\n{rule}\n")
    except washout.RuleError:
        return False
    return True


def test_cells_become_what_one_machine_makes_of_them(spark: Any, verbs: list[str]) -> None:
    from washout.spark import Counts, clean

    assert [rule for rule in verbs if not readable(rule)] == []
    frame = spark.createDataFrame([(note, n) for n, note in enumerate(notes())], "note string, n int").repartition(4)
    rules = washout.rules("".join(f"[[rule]]\nfields = 'note'\n{verb}\n" for verb in verbs))
    counts = Counts(spark, rules)
    got = {row.n: row.note for row in clean(frame, rules, counts=counts).collect()}
    rules.reset_counts()
    want = rules.clean_table(__import__("pyarrow").table({"note": notes(), "n": range(len(notes()))}))
    assert got == dict(zip(want["n"].to_pylist(), want["note"].to_pylist(), strict=True))
    assert counts.value == rules.counts


def test_bytes_fields_that_are_made_and_records_that_go(spark: Any) -> None:
    from washout.spark import clean

    raw = spark.createDataFrame([(bytearray(b"a#\xff"),)], "note binary")
    assert bytes(clean(raw, washout.rules("[[rule]]\nremove.chars = '#'\n")).collect()[0].note) == b"a\xff"
    rules = washout.rules(
        "[[rule]]\nfields = 'note'\nto_field = 'code'\nkeep.pattern = '[0-9]+'\n"
        "[[rule]]\nfields = 'note'\ndrop_records = { empty = 'all' }\n[[rule]]\nrename_fields = { n = 'number' }\n"
    )
    frame = spark.createDataFrame([("a1", 1), ("", 2), (None, 3)], "note string, n int")
    assert [row.asDict() for row in clean(frame, rules).collect()] == [{"note": "a1", "code": "1", "number": 1}]


def test_a_stream_is_cleaned_as_it_comes(spark: Any, tmp_path: Path) -> None:
    from washout.spark import clean

    (tmp_path / "in").mkdir()
    (tmp_path / "in/notes.txt").write_text("fog #\noil\n")
    frame = clean(spark.readStream.text(str(tmp_path / "in")), washout.rules("[[rule]]\nremove.chars = '#'\n"))
    query = frame.writeStream.format("memory").queryName("cleaned").trigger(availableNow=True).start()
    query.awaitTermination(120)
    assert sorted(row.value for row in spark.sql("select value from cleaned").collect()) == ["fog ", "oil"]


def test_files_become_what_the_command_makes_of_them(spark: Any, demo: Path, command: str, tmp_path: Path) -> None:
    from washout.spark import clean_files

    for kind in ("notices", "stores"):
        into = tmp_path / kind
        report = clean_files(spark, str(demo / kind), demo / f"{kind}.wash.toml", str(into)).collect()
        files = sorted(path for path in (demo / kind).rglob("*") if path.is_file())
        assert sorted(row.written for row in report) == sorted(str(into / path.relative_to(demo / kind)) for path in files)
        for path in files:
            want = cleaned_by(command, demo / f"{kind}.wash.toml", path)
            assert (into / path.relative_to(demo / kind)).read_bytes() == want, path
    assert sorted(path.name for path in tmp_path.iterdir()) == ["notices", "stores"], "no staging folder is left"


# A rule of each verb that acts on text, as `docs/rules.md` lists them.
VERBS = {
    "remove": "remove = { chars = '#*', at = 'start' }",
    "replace": "replace = { class = 'odd-space', with = ' ' }",
    "keep": "keep.class = ['letter', 'digit', 'space']",
    "collapse": "collapse = { chars = ' ', with = ' ' }",
    "trim": "trim = {}",
    "recase": "recase = { to = 'title' }",
    "normalize": "normalize = { form = 'NFC' }",
    "plain_letters": "plain_letters = {}",
    "decode": "decode = { what = 'html-entities' }",
    "drop_lines": "drop_lines = { empty = 'extra' }",
    "keep_lines": "keep_lines = { class = 'letter' }",
    "drop_repeats": "drop_repeats = { scope = 'file' }",
    "join_lines": "join_lines = {}",
    "break_lines": "break_lines = { stock = 'sentence-end' }",
    "wrap_lines": "wrap_lines = { width = 12 }",
    "line_ends": "line_ends = { to = 'crlf', final = 'one', bom = 'drop' }",
    "tabs": "tabs = { to = 'spaces', width = 4 }",
    "pad": "pad = { width = 3 }",
    "number": "number = { width = 2 }",
    "include": "include = 'ready:prose'",
}
OF_TABLES = {
    "drop_records": "drop_records = { empty = 'all' }",
    "drop_fields": "drop_fields = ['note']",
    "rename_fields": "rename_fields = { note = 'Remark' }",
}


def test_every_verb_gives_files_as_the_command_gives_them(spark: Any, command: str, tmp_path: Path) -> None:
    from washout.spark import clean_files

    page = (Path(__file__).parents[2] / "docs/rules.md").read_text().split("## Verbs")[1].split("###")[0]
    assert {line.split("`")[1] for line in page.splitlines() if line.startswith("| `")} == {*VERBS, *OF_TABLES}
    text = "## Fog\t 7&amp;8\u00a0 caf\u0065\u0301.\r\n\r\n\r\n  \u00e6r\u00f8 lamp. Horn lit \r\n  \u00e6r\u00f8 lamp. Horn lit \r\nend"
    (tmp_path / "texts").mkdir()
    (tmp_path / "texts/broken.txt").write_bytes(text.encode() + b"\xff # \x00 \xe2\x82\n")
    (tmp_path / "texts/wide.txt").write_bytes(("\ufeff" + text).encode("utf-16-le"))
    (tmp_path / "texts/empty.txt").write_bytes(b"")
    (tmp_path / "tables").mkdir()
    (tmp_path / "tables/a.csv").write_bytes(b"note,n\n\"a #\",1\n,2\n\xff,3\n")
    for kind, verbs in (("texts", VERBS), ("tables", OF_TABLES)):
        for verb, rule in verbs.items():
            rules = tmp_path / f"{verb}.wash.toml"
            rules.write_text(f"[[rule]]\n{rule}\n")
            into = tmp_path / f"{kind}-{verb}"
            clean_files(spark, str(tmp_path / kind), rules, str(into))
            for path in (tmp_path / kind).iterdir():
                assert (into / path.name).read_bytes() == cleaned_by(command, rules, path), (verb, path.name)


def test_binary_files_are_left_out_as_the_command_leaves_them_out(spark: Any, tmp_path: Path) -> None:
    from washout.spark import clean_files

    (tmp_path / "in").mkdir()
    (tmp_path / "in/a.png").write_bytes(b"\x89PNG\r\n\x1a\n" + bytes(range(32)) * 8)
    (tmp_path / "in/b.txt").write_bytes(b"fog#")
    report = clean_files(spark, str(tmp_path / "in"), washout.rules("[[rule]]\nremove.chars = '#'\n"), str(tmp_path / "out"))
    rows = {row.path.rsplit("/")[-1]: (row.written is not None, row.left_out, row.error) for row in report.collect()}
    assert rows == {"a.png": (False, "binary", None), "b.txt": (True, None, None)}
    assert [path.name for path in (tmp_path / "out").iterdir()] == ["b.txt"]


def test_a_worker_that_is_killed_each_time_is_said_in_one_sentence(spark: Any, tmp_path: Path) -> None:
    from washout.spark import write

    def out_of_memory(batches: Any) -> Any:
        # What the system does to a process that takes too much.
        for _ in batches:
            os.kill(os.getpid(), signal.SIGKILL)
        yield from ()

    frame = spark.range(10).selectExpr("concat('fog #', id) as note")
    killed = frame.mapInArrow(out_of_memory, frame.schema)
    with pytest.raises(washout.CleanError, match="most likely it ran out of memory. Give executors more"):
        write(killed, washout.rules("[[rule]]\nremove.chars = '#'\n"), str(tmp_path / "out"))
    assert list(tmp_path.iterdir()) == []


def test_nothing_is_written_if_a_rule_expects_otherwise_or_a_file_fails(spark: Any, tmp_path: Path) -> None:
    from washout.spark import clean_files, write

    (tmp_path / "in").mkdir()
    for name in ("a%20 b#", "a  b"):
        (tmp_path / f"in/{name}.txt").write_bytes(b"x#\xff")
    (tmp_path / "in/c.csv").write_text("note,n\n1\n")
    into = str(tmp_path / "out")
    expects = washout.rules("[[rule]]\nremove.chars = '#'\nexpect = 3\n")
    with pytest.raises(washout.CleanError, match=r"c\.csv: record 1 .* has 1 field"):
        clean_files(spark, str(tmp_path / "in"), expects, into)
    with pytest.raises(washout.CleanError, match="expects 3 changes, and makes 2"):
        clean_files(spark, str(tmp_path / "in"), expects, into, on_error="list")
    frame = spark.createDataFrame([("#",)] * 2, "note string")
    with pytest.raises(washout.CleanError, match="expects 3 changes, and makes 2"):
        write(frame, expects, into)
    assert [path.name for path in tmp_path.iterdir()] == ["in"]
    counts = write(frame, washout.rules("[[rule]]\nremove.chars = '#'\nexpect = 2\n"), into)
    assert counts[0].changes == 2 and spark.read.parquet(into).count() == 2
    with pytest.raises(washout.CleanError, match="is there already"):
        write(frame, expects, into)
    report = clean_files(
        spark, str(tmp_path / "in"), washout.rules("[[rule]]\nremove.chars = '#'\n"), into + "2", on_error="list"
    )
    assert [(row.path.rsplit("/")[-1], row.error is None) for row in report.orderBy("path").collect()] == [
        ("a  b.txt", True),
        ("a%20 b#.txt", True),
        ("c.csv", False),
    ]


def test_what_is_wrong_is_said_in_plain_words(spark: Any, tmp_path: Path) -> None:
    from washout.spark import clean, write

    frame = spark.createDataFrame([("x",), (HARD,), ("y",)], "note string")
    with pytest.raises(washout.CleanError, match="there is no field `note`, which rule 1"):
        clean(frame.withColumnRenamed("note", "text"), washout.rules(SLOW))
    with pytest.raises(washout.CleanError, match="the field `note` holds Int64, and rule 1"):
        clean(spark.createDataFrame([(1,)], "note long"), washout.rules(SLOW))
    with pytest.raises(washout.CleanError, match="compares each record with those before it"):
        clean(frame, washout.rules("[[rule]]\ndrop_records = { repeated = 'file' }\n"))
    with pytest.raises(washout.CleanError) as error:
        write(frame, washout.rules(SLOW), str(tmp_path / "out"))
    assert str(error.value).startswith("record ") and "takes too much work" in str(error.value)
    assert "\tat " not in str(error.value) and len(str(error.value).splitlines()) < 4
    listed = clean(frame, washout.rules(SLOW), on_error="list").filter("washout_error is not null").collect()
    assert [(row.note, "takes too much work" in row.washout_error) for row in listed] == [(HARD, True)]


def test_the_result_is_the_same_when_an_executor_is_killed(spark: Any) -> None:
    from washout.spark import clean

    def slowly(batches: Any) -> Any:
        import time

        for batch in batches:
            time.sleep(0.2)
            yield batch

    frame = spark.range(3000).selectExpr("id", "concat('fog #', id) as note").repartition(12)
    cleaned = clean(frame.mapInArrow(slowly, frame.schema), washout.rules("[[rule]]\nfields = 'note'\nremove.chars = '#'\n"))
    import threading

    killed: list[int] = []

    def kill() -> None:
        found = subprocess.run(["pgrep", "-f", "CoarseGrainedExecutorBackend"], capture_output=True, text=True, check=False)
        mine = [int(pid) for pid in found.stdout.split() if _is_below(int(pid), os.getpid())]
        for pid in mine[:1]:
            os.kill(pid, signal.SIGKILL)
            killed.append(pid)

    timer = threading.Timer(2.0, kill)
    timer.start()
    rows = sorted((row.id, row.note) for row in cleaned.collect())
    timer.join()
    assert killed, "no executor was there to kill"
    assert rows == [(number, f"fog {number}") for number in range(3000)]


def _is_below(pid: int, parent: int) -> bool:
    while pid > 1:
        if pid == parent:
            return True
        try:
            pid = int(Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[1])
        except OSError:
            return False
    return False
