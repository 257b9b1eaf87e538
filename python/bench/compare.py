"""How fast a column is cleaned, beside plain loops and chains over the regular expressions of other libraries.

    python python/bench/compare.py            # columns
    python python/bench/compare.py --spark    # a local cluster too (Java 17)

Each figure is processor time on one core, the best of three turns; ways are compared within one run. Results are compared too.
"""

from __future__ import annotations

import argparse
import os
import random
import re
import sys
import time
from collections.abc import Callable
from typing import Any

os.environ.setdefault("RAYON_NUM_THREADS", "1")
os.environ.setdefault("POLARS_MAX_THREADS", "1")

import polars as pl  # noqa: E402
import pyarrow as pa  # noqa: E402
import pyarrow.compute as pc  # noqa: E402

import washout  # noqa: E402

ROWS = 1_000_000
SPARK_TURNS = 8

# A rule, the same as a pattern, and what is put in its place.
TEN: list[tuple[str, str, str]] = [
    ('remove.class = ["control", "invisible"]', r"[\x00-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\u00ad\u200b\u200e\u200f\u202a-\u202e\u2060-\u206f\ufeff]", ""),
    ('replace = { class = "odd-space", with = " " }', r"[\u00a0\u1680\u2000-\u200a\u2028\u2029\u202f\u205f\u3000]", " "),
    ('remove.text = ["-copy", "(draft)", "[sic]"]', r"-copy|\(draft\)|\[sic\]", ""),
    (r"replace = { pattern = '(\d{2})\.(\d{2})\.(\d{4})', with = '$3-$2-$1' }", r"(\d{2})\.(\d{2})\.(\d{4})", r"\3-\2-\1"),
    ('remove.chars = "*#"', r"[*#]", ""),
    ('collapse = { chars = " ", with = " " }', r" {2,}", " "),
    (r"remove.pattern = ', (?:Jr|Asst|P\.K)\.$'", r", (?:Jr|Asst|P\.K)\.$", ""),
    ('remove.text = "see overleaf"', r"see overleaf", ""),
    ("replace = { chars = '“”', with = '\"' }", "[“”]", '"'),
    ("trim = {}", r"^[ \t]+|[ \t]+$", ""),
]
WORDS = "lamp oil wicks fog horn landing keeper boat gulls dawn gallery relief wind glass".split()
# What cells are called, and how many words they have.
KINDS_OF_CELLS = [("short", 3), ("200-byte", 35)]
DIRT = [" ", "\u200b", "#", "(draft)", "-copy", "  ", "“", ", Jr.", " 05.11.1936", "see overleaf"]


def cells(dirty: float, words: int) -> list[str]:
    """Cells of that many words each, that share of them with some dirt."""
    chance = random.Random(1936)
    made = []
    for _ in range(ROWS):
        cell = " ".join(chance.choices(WORDS, k=words))
        made.append(cell + chance.choice(DIRT) if chance.random() < dirty else cell)
    return made


def cost(way: Callable[[], Any]) -> tuple[float, Any]:
    """The processor time of a way in seconds, and what it gives."""
    best, given = float("inf"), None
    for _ in range(3):
        start = time.process_time()
        given = way()
        best = min(best, time.process_time() - start)
    return best, given


def columns() -> None:
    rules = washout.rules("".join(f"[[rule]]\n{rule}\n" for rule, _, _ in TEN))
    patterns = [(re.compile(pattern), put) for _, pattern, put in TEN]
    print(f"{ROWS:,} cells, ten rules, one core | seconds | cells/s | times as fast as that")
    for what, dirty, words in [("short, 30 % dirty", 0.3, 3), ("long (200 bytes), 30 % dirty", 0.3, 35), ("short, clean", 0.0, 3)]:
        texts = cells(dirty, words)
        column = pa.array(texts)
        series = pl.Series(texts)

        def with_re() -> list[str]:
            cleaned = []
            for text in texts:  # noqa: B023
                for pattern, put in patterns:
                    text = pattern.sub(put, text)
                cleaned.append(text)
            return cleaned

        def with_pyarrow() -> pa.Array:
            given = column  # noqa: B023
            for _, pattern, put in TEN:
                given = pc.replace_substring_regex(given, pattern=_for_re2(pattern), replacement=put)
            return given

        def with_polars() -> pl.Series:
            given = pl.DataFrame({"cell": series})  # noqa: B023
            chain = pl.col("cell")
            for _, pattern, put in TEN:
                chain = chain.str.replace_all(_for_rust(pattern), re.sub(r"\\(\d)", r"$${\1}", put).replace("$${", "${"))
            return given.select(chain)["cell"]

        own, got = cost(lambda: rules.clean_column(column))  # noqa: B023
        print(f"{what}: washout | {own:.2f} | {ROWS / own:,.0f} |")
        for name, way in [("loop over re", with_re), ("chained pyarrow.compute", with_pyarrow), ("chained Polars", with_polars)]:
            seconds, given = cost(way)
            given = given if isinstance(given, list) else given.to_pylist() if hasattr(given, "to_pylist") else given.to_list()
            same = sum(one != other for one, other in zip(given, got.to_pylist(), strict=True))
            print(f"  {name} | {seconds:.2f} | {ROWS / seconds:,.0f} | {seconds / own:.1f}" + (f" | {same} differ" if same else ""))


def _for_re2(pattern: str) -> str:
    return re.sub(r"\\u([0-9a-f]{4})", r"\\x{\1}", pattern)


def _for_rust(pattern: str) -> str:
    return re.sub(r"\\u([0-9a-f]{4})", r"\\u{\1}", pattern)


def spark() -> None:
    """The same in Spark: beside a pass of Arrow that does nothing, and a chain of regexp_replace."""
    os.environ["PYSPARK_PYTHON"] = sys.executable
    import tempfile

    from pyspark.sql import SparkSession
    from pyspark.sql import functions as fn

    from washout.spark import clean

    session = (
        SparkSession.builder.master("local[1]")
        .config("spark.ui.enabled", "false")
        .config("spark.driver.host", "127.0.0.1")
        .config("spark.driver.bindAddress", "127.0.0.1")
        .config("spark.driver.memory", "4g")
        .getOrCreate()
    )
    session.sparkContext.setLogLevel("ERROR")
    rules = washout.rules("".join(f"[[rule]]\n{rule}\n" for rule, _, _ in TEN))
    chain = fn.col("cell")
    for _, pattern, put in TEN:
        chain = fn.regexp_replace(chain, pattern, re.sub(r"\\(\d)", r"$\1", put))

    def same(batches: Any) -> Any:
        yield from batches

    with tempfile.TemporaryDirectory() as folder:
        for kind, words in KINDS_OF_CELLS:
            path = f"{folder}/{words}.parquet"
            pl.DataFrame({"cell": cells(0.3, words)}).write_parquet(path)
            frame = session.read.parquet(path)
            ways = {
                "identity mapInArrow": lambda frame=frame: frame.mapInArrow(same, frame.schema),
                "washout.spark.clean": lambda frame=frame: clean(frame, rules),
                "chained regexp_replace": lambda frame=frame: frame.select(chain.alias("cell")),
            }
            print(f"Spark, local[1], {ROWS:,} {kind} cells, 30 % dirty | seconds | processor seconds | in turns of clean")
            turns: dict[str, list[tuple[float, float]]] = {name: [] for name in ways}
            # One after the other, again and again: the virtual machine gets faster for a while. The chain takes minutes.
            for turn in range(SPARK_TURNS):
                for name, way in ways.items():
                    if name.startswith("chained") and turn < SPARK_TURNS - 2:
                        continue
                    start, used = time.perf_counter(), _used()
                    way().write.format("noop").mode("overwrite").save()
                    turns[name].append((time.perf_counter() - start, _used() - used))
            least = {name: (min(time for time, _ in of), min(used for _, used in of)) for name, of in turns.items()}
            of_clean = least["washout.spark.clean"][1]
            for name, (seconds, used) in least.items():
                print(f"  {name} | {seconds:.2f} | {used:.2f} | {used / of_clean:.1f}")
    session.stop()


def _used() -> float:
    """Processor time of this process and all below it, in seconds."""
    ticks = 0
    below = {os.getpid()}
    stats = {}
    for name in filter(str.isdigit, os.listdir("/proc")):
        try:
            fields = open(f"/proc/{name}/stat").read().rsplit(")", 1)[1].split()
        except OSError:
            continue
        stats[int(name)] = (int(fields[1]), sum(map(int, fields[11:15])))
    changed = True
    while changed:
        more = {pid for pid, (parent, _) in stats.items() if parent in below} - below
        changed = bool(more)
        below |= more
    for pid in below:
        ticks += stats.get(pid, (0, 0))[1]
    return ticks / os.sysconf("SC_CLK_TCK")


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--spark", action="store_true", help="compare in a local Spark too")
    asked = parser.parse_args()
    columns()
    if asked.spark:
        spark()
