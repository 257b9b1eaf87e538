"""What can go wrong, as exceptions."""

from __future__ import annotations

from typing import NamedTuple


class Problem(NamedTuple):
    """One thing that is wrong with a rule set."""

    file: str
    """What the set is called: its path, or ``rules`` if it was given as text."""
    line: int
    """The line, from 1."""
    column: int
    """The column, from 1, in characters."""
    message: str
    """What is wrong."""
    help: str | None
    """What to write instead, if that can be said."""


class WashoutError(ValueError):
    """Anything that goes wrong with rules or with what they clean."""


class RuleError(WashoutError):
    """A rule set that cannot be read. ``problems`` has everything that is wrong, with its place."""

    problems: list[Problem]

    def __init__(self, message: str, problems: list[dict[str, object]] | None = None) -> None:
        super().__init__(message)
        self.problems = [Problem(**problem) for problem in problems or []]  # type: ignore[arg-type]

    def __reduce__(self) -> tuple[object, tuple[object, ...]]:
        return type(self), (str(self), [problem._asdict() for problem in self.problems])


class CleanError(WashoutError):
    """Rules that cannot clean what they were given: the message names the rule, the record and what to do."""


class LearnError(WashoutError):
    """Pairs that no rules make. ``pairs`` has the numbers of those that are in the way, from 0."""

    pairs: list[int]

    def __init__(self, message: str, pairs: list[int] | None = None) -> None:
        super().__init__(message)
        self.pairs = list(pairs or [])

    def __reduce__(self) -> tuple[object, tuple[object, ...]]:
        return type(self), (str(self), self.pairs)
