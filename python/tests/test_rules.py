"""Rule sets: reading, sending elsewhere, explaining; and the same results as the command."""

from __future__ import annotations

import doctest
import pickle
import subprocess
import sys
import threading
from pathlib import Path

import pyarrow as pa
import pyarrow.csv
import pytest

import washout

from .conftest import cleaned_by

DOCS = Path(__file__).parents[2] / "docs"


def test_a_set_goes_elsewhere_with_all_that_it_names(tmp_path: Path) -> None:
    (tmp_path / "lists").mkdir()
    (tmp_path / "lists/fillers.txt").write_text("um\nuh\n")
    (tmp_path / "inner.wash.toml").write_text("[[rule]]\nremove.words_from = 'lists/fillers.txt'\n")
    (tmp_path / "outer.wash.toml").write_text("[[rule]]\ninclude = 'inner.wash.toml'\n[[rule]]\ntrim = {}\n")
    pickled = pickle.dumps(washout.load(tmp_path / "outer.wash.toml"))
    for file in tmp_path.rglob("*.*"):
        file.unlink()
    assert pickle.loads(pickled).clean("at um dusk ") == "at dusk"


def test_a_set_names_files_beside_it_whatever_its_folder_is_called(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(tmp_path)
    (tmp_path / "rules").mkdir()
    (tmp_path / "rules/fillers.txt").write_text("um\n")
    (tmp_path / "rules/set.wash.toml").write_text("[[rule]]\nremove.words_from = 'fillers.txt'\n")
    assert washout.load("rules/set.wash.toml").clean("at um dusk") == "at dusk"
    set_ = washout.load("rules/set.wash.toml")
    assert set_.clean_file("\ufeffum fog\r\n".encode("utf-16-be"), "a.txt") == "\ufefffog\r\n".encode("utf-16-be")
    with pytest.raises(washout.CleanError, match="read as UTF-16LE, and holds bytes that mean nothing in it, at line 2"):
        set_.clean_file("\ufeffum\n".encode("utf-16-le") + b"\x00\xd8", "a.txt")


def test_what_is_wrong_with_a_set_comes_with_its_place(tmp_path: Path) -> None:
    path = tmp_path / "slip.wash.toml"
    path.write_text("[[rule]]\nremov.chars = '#'\n[[rule]]\ntrim = { at = 'top' }\n")
    with pytest.raises(washout.RuleError) as error:
        washout.load(path)
    problems = error.value.problems
    assert [(problem.file, problem.line) for problem in problems] == [(str(path), 2), (str(path), 4)]
    assert "did you mean `remove`?" in problems[0].message
    assert pickle.loads(pickle.dumps(error.value)).problems == problems
    with pytest.raises(washout.RuleError, match="cannot be read: no such file"):
        washout.load(tmp_path / "nothing.toml")
    with pytest.raises(washout.RuleError, match="there are ready:"):
        washout.load("ready:nothing")


def test_texts_keep_their_kind() -> None:
    rules = washout.rules("[[rule]]\nremove.chars = '#'\n")
    assert rules.clean("a#") == "a"
    assert rules.clean(b"a#\xff") == b"a\xff"
    with pytest.raises(TypeError, match="clean_column"):
        rules.clean(["a"])  # type: ignore[call-overload]


def test_counts_examples_steps_and_words() -> None:
    rules = washout.rules("[[rule]]\nremove.chars = '#'\n[[rule]]\ntrim = {}\n[[example]]\ngiven = '# a'\ngives = 'a'\n")
    assert [proof.holds for proof in rules.test()] == [True]
    assert [(step.changes, step.text) for step in rules.trace("# a")] == [(1, " a"), (1, "a")]
    assert "Removes" in rules.explain() and rules.cut == "lines"
    rules.clean("##")
    assert [(count.rule, count.changes) for count in rules.counts] == [("1", 1), ("2", 0)] or rules.counts[0].changes == 2
    rules.reset_counts()
    assert all(count.changes == 0 for count in rules.counts)
    expects = washout.rules("[[rule]]\nremove.chars = '#'\nexpect = 2\n")
    assert expects.unmet([2]) == [] and "expects 2 changes" in expects.unmet([1])[0]


def test_threads_share_rules() -> None:
    rules = washout.rules("[[rule]]\nremove.chars = '#'\n")
    column = pa.array(["a#"] * 50_000)
    results: list[list[str]] = []
    work = [threading.Thread(target=lambda: results.append(rules.clean_column(column).to_pylist())) for _ in range(4)]
    for thread in work:
        thread.start()
    for thread in work:
        thread.join()
    assert results == [["a"] * 50_000] * 4 and rules.counts[0].changes == 200_000


def test_a_forked_process_has_threads_of_its_own() -> None:
    import multiprocessing

    rules = washout.rules("[[rule]]\nremove.chars = '#'\n")
    column = pa.array(["a#"] * 200_000)
    assert rules.clean_column(column)[0].as_py() == "a"
    with multiprocessing.get_context("fork").Pool(2) as pool:
        waiting = pool.apply_async(_first_of, (rules, 200_000))
        assert waiting.get(timeout=60) == "a"


def _first_of(rules: washout.Rules, cells: int) -> str:
    return rules.clean_column(pa.array(["a#"] * cells))[0].as_py()


def table_of(path: Path) -> pa.Table:
    """A CSV file, every field a text."""
    parse = pyarrow.csv.ParseOptions(newlines_in_values=True)
    names = pyarrow.csv.read_csv(path, parse_options=parse).column_names
    convert = pyarrow.csv.ConvertOptions(column_types=dict.fromkeys(names, pa.string()), strings_can_be_null=False)
    return pyarrow.csv.read_csv(path, parse_options=parse, convert_options=convert)


def test_the_demo_ledger_becomes_what_the_command_makes_of_it(demo: Path, command: str, tmp_path: Path) -> None:
    rules = washout.load(demo / "stores.wash.toml")
    for file in sorted((demo / "stores").glob("*.csv")):
        want = cleaned_by(command, demo / "stores.wash.toml", file)
        assert rules.clean_file(file.read_bytes(), file.name) == want, file
        (tmp_path / "want.csv").write_bytes(want)
        assert rules.clean_table(table_of(file)).to_pydict() == table_of(tmp_path / "want.csv").to_pydict(), file


def test_a_survey_drafts_rules_that_take_what_it_finds() -> None:
    table = pa.table({"note": ["oil ", "oil", "wicks\u200b"], "n": [1, 2, 3]})
    survey = washout.survey(table)
    assert survey.records == 3
    assert [(column.name, [finding.what for finding in column.findings]) for column in survey.columns] == [
        ("note", ["characters nobody sees", "white space at an edge"])
    ]
    assert washout.rules(survey.draft).clean_table(table)["note"].to_pylist() == ["oil", "oil", "wicks"]


def test_rules_are_learnt_from_pairs() -> None:
    learnt = washout.learn([("Ferrow, Tom", "Tom Ferrow"), ("Vane, Ilse", "Ilse Vane")])
    assert learnt.rules.clean_column(["Lund, Ana Maria", "Hale", None]) == ["Ana Maria Lund", "Hale", None]
    assert all(proof.holds for proof in learnt.rules.test())
    differs = learnt.readings[1].differs
    assert differs is not None and washout.rules(learnt.readings[1].text).clean(differs.line) == differs.this != differs.first
    names = washout.learn([("scan 7.tif", "scan 007.tif")], names=True, others=["a 1 of 2.tif"])
    assert names.text.startswith("[names]") and names.readings[1].differs is not None
    assert names.readings[1].differs.line == "a 1 of 2.tif"
    with pytest.raises(washout.LearnError, match="no rules make pair 2") as error:
        washout.learn([("lamp", "Lampe"), ("fog", "Nebel")])
    assert error.value.pairs == [1] and pickle.loads(pickle.dumps(error.value)).pairs == [1]
    assert "pairs = [" in washout.learn([("lamp", "Lampe"), ("fog", "Nebel")], literal=True).text
    with pytest.raises(washout.LearnError, match="the time was over"):
        washout.learn([("a 1", "1 a")], seconds=0)


def test_the_examples_of_the_docs_run() -> None:
    for page in ("python.md", "clusters.md"):
        results = doctest.testfile(str(DOCS / page), module_relative=False, optionflags=doctest.NORMALIZE_WHITESPACE)
        assert results.failed == 0, page


def test_the_types_are_complete_and_those_of_the_native_part_true() -> None:
    root = Path(__file__).parents[1]
    for words in (["mypy"], ["mypy.stubtest", "washout._washout", "--ignore-disjoint-bases"]):
        done = subprocess.run([sys.executable, "-m", *words], cwd=root, check=False, capture_output=True, text=True)
        assert done.returncode == 0, done.stdout + done.stderr
