"""Where the results of a cluster are written before they are in place."""

from __future__ import annotations

from pathlib import Path

import pytest
from pyarrow import fs

import washout
from washout import spark


def test_objects_are_moved_one_by_one_where_there_are_no_folders(tmp_path: Path) -> None:
    (tmp_path / "from/below").mkdir(parents=True)
    (tmp_path / "from/a.txt").write_text("a")
    (tmp_path / "from/below/b.txt").write_text("b")
    store = fs.SubTreeFileSystem(str(tmp_path), fs.LocalFileSystem())
    spark._move_folder(store, "from", "to")
    assert sorted(str(path.relative_to(tmp_path)) for path in tmp_path.rglob("*.txt")) == ["to/a.txt", "to/below/b.txt"]
    assert not (tmp_path / "from").exists()


def test_what_is_staged_is_put_in_place_whole_or_goes_away(tmp_path: Path) -> None:
    target = spark._Target(str(tmp_path / "out"))
    with pytest.raises(KeyError), target.staging() as staging:
        Path(staging).mkdir()
        (Path(staging) / "a.txt").write_text("a")
        raise KeyError
    assert list(tmp_path.iterdir()) == []
    with target.staging() as staging:
        Path(staging).mkdir()
        for name in ("a.txt", "a.txt.0123.part"):
            (Path(staging) / name).write_text("a")
        target.commit(only={"a.txt"})
    assert [str(path.relative_to(tmp_path)) for path in tmp_path.rglob("*")] == ["out", "out/a.txt"]
    with pytest.raises(washout.CleanError, match="is there already"):
        spark._Target(str(tmp_path / "out"))


def test_files_keep_their_names_below_the_folder_they_are_all_in() -> None:
    paths = ["file:/s/a%20b.txt", "file:/s/a b.txt", "file:/s/c/d#?.txt"]
    assert list(spark._names(paths).values()) == ["a%20b.txt", "a b.txt", "c/d#?.txt"]
    assert spark._names(["s3a://bucket/notes/x.txt"]) == {"s3a://bucket/notes/x.txt": "x.txt"}
    with pytest.raises(washout.CleanError, match="would both become x.txt"):
        spark._names(["s3a://one/notes/x.txt", "s3a://two/notes/x.txt"])
