"""Rules, ready to run."""

from __future__ import annotations

import os
from collections.abc import Sequence
from typing import Any, NamedTuple, TypeVar, overload

from washout import _kinds, _washout

T = TypeVar("T")


class RuleCount(NamedTuple):
    """How often a rule has changed something."""

    rule: str
    """Its number, from 1; ``3.2`` for the second rule of the set that rule 3 includes."""
    label: str
    """What it does, in words."""
    changes: int
    """How often it has changed something."""


class Step(NamedTuple):
    """What one rule made of a text."""

    rule: str
    label: str
    changes: int
    text: str
    """The text it left."""


class Proof(NamedTuple):
    """What became of an example of a rule set."""

    label: str | None
    given: str
    gives: str
    """What the example says it becomes."""
    got: str | None
    """What it becomes. ``None``: a rule could not go on."""
    failed: str | None
    """Why it could not."""

    @property
    def holds(self) -> bool:
        """Whether the rules do what the example says."""
        return self.got == self.gives


class Rules:
    """A rule set, ready to run. Make one with :func:`load` or :func:`rules`.

    It can be pickled, with the word lists and the sets that it names, and used by several threads at once.
    """

    __slots__ = ("_native",)

    def __init__(self, native: _washout.Rules) -> None:
        self._native = native

    @overload
    def clean(self, text: str) -> str: ...
    @overload
    def clean(self, text: bytes) -> bytes: ...
    def clean(self, text: str | bytes) -> str | bytes:
        """Cleans one text.

        >>> import washout
        >>> washout.rules('[[rule]]\\nremove.words = ["um"]').clean("at um dusk")
        'at dusk'

        :raises CleanError: A rule cannot go on, or is for the fields of a table.
        """
        cleaned: str | bytes = self._native.clean(text)
        return cleaned

    def clean_column(self, column: T) -> T:
        """Cleans the cells of a column, each as a text of its own. Missing cells stay missing.

        The same kind comes back: an array or chunked array of pyarrow, a series of pandas or Polars, a list. A column in
        which nothing changes is given back as it is, without a copy.

        >>> import washout
        >>> washout.rules('[[rule]]\\ntrim = {}').clean_column([" fog", None])
        ['fog', None]

        :raises CleanError: The column holds no texts; a rule is for fields or records of a table, or about lines.
        """
        cleaned: T = _kinds.clean_column(self._native, column)
        return cleaned

    def clean_table(self, table: T) -> T:
        """Cleans a table: each rule in the fields it names, or in all that hold text.

        Rules may judge a record by other fields, put their result in a new field, drop records, and drop or rename fields.
        The same kind comes back: a table or record batch of pyarrow, a data frame of pandas or Polars.

        :raises CleanError: A field is not there or holds no text; a rule cannot go on.
        """
        cleaned: T = _kinds.clean_table(self._native, table)
        return cleaned

    def clean_file(self, content: bytes, name: str | os.PathLike[str], kind: str | None = None) -> bytes:
        """Cleans what is in a file. By its name it is a table or a text, unless ``kind`` says which: ``csv``, ``tsv``,
        ``jsonl``, ``json`` or ``text``."""
        return self._native.clean_file(content, name, kind)[0]

    @property
    def counts(self) -> list[RuleCount]:
        """How often each rule has changed something since the rules were made, or since :meth:`reset_counts`."""
        return [RuleCount(*count) for count in self._native._counts()]

    def reset_counts(self) -> None:
        """Counts from 0 again."""
        self._native.reset_counts()

    def unmet(self, counts: Sequence[int] | None = None) -> list[str]:
        """Which ``expect`` of the rules does not hold for these counts, in sentences. Without ``counts``: for those so
        far."""
        made = [count.changes for count in self.counts] if counts is None else list(counts)
        return self._native.unmet(made)

    def explain(self) -> str:
        """What each rule does, in words."""
        return self._native.explain()

    def test(self) -> list[Proof]:
        """Runs the examples of the set. ``all(proof.holds for proof in rules.test())`` says whether all of them hold."""
        return [
            Proof(label, _text(given), _text(gives), None if got is None else _text(got), failed)
            for label, given, gives, got, failed in self._native._test()
        ]

    def trace(self, text: str) -> list[Step]:
        """Sends a text through the rules one by one: how often each changed it, and what it left."""
        return [Step(rule, label, changes, _text(after)) for rule, label, changes, after in self._native._trace(text)]

    @property
    def cut(self) -> str:
        """Between which parts a text or table may be cut to be cleaned piece by piece: ``lines``, ``texts``, ``records``
        or ``tables``."""
        return self._native.cut

    @property
    def cut_reason(self) -> str:
        """The same in a sentence, with the rule that is the reason."""
        return self._native.cut_reason

    @property
    def name(self) -> str:
        """What messages call the set."""
        return self._native.name

    @property
    def text(self) -> str:
        """The text of the set."""
        return self._native.text

    def __repr__(self) -> str:
        return repr(self._native)

    def __reduce__(self) -> tuple[Any, tuple[Any, ...]]:
        return Rules, (self._native,)


def _text(content: bytes) -> str:
    return content.decode("utf-8", "backslashreplace")


def load(path: str | os.PathLike[str]) -> Rules:
    """Reads a rule set from a file, with the lists and the sets it names. ``ready:NAME`` is a set that comes with washout.

    >>> import washout
    >>> washout.load("ready:prose").clean("fog  \\n")
    'fog\\n'

    :raises RuleError: The set cannot be read, with everything that is wrong with it.
    """
    return Rules(_washout.load(os.fspath(path)))


def rules(text: str) -> Rules:
    """Reads a rule set from its text.

    :raises RuleError: The set cannot be read, with everything that is wrong with it.
    """
    return Rules(_washout.rules(text))
