"""Rules from texts as they are and as they should be."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

from washout import _washout
from washout._rules import Rules, rules


class Difference(NamedTuple):
    """A line with which two readings do something else."""

    line: str
    first: str
    """What the first reading makes of it."""
    this: str
    """What this one makes of it."""


class Reading(NamedTuple):
    """One way to read the pairs."""

    rules: list[str]
    """Each rule as a rule set writes it."""
    text: str
    """The text of the rule set, with the pairs as its examples."""
    differs: Difference | None
    """Where it differs from the first reading; of the first one ``None``."""


class Learnt(NamedTuple):
    """What was learnt."""

    readings: list[Reading]
    """The ways to read the pairs, the likeliest first. More than one: the pairs leave it open."""

    @property
    def text(self) -> str:
        """The text of the likeliest rule set."""
        return self.readings[0].text

    @property
    def rules(self) -> Rules:
        """The likeliest rules, ready to be used."""
        return rules(self.text)


def learn(
    pairs: Iterable[tuple[str, str]],
    *,
    others: Iterable[str] = (),
    names: bool = False,
    literal: bool = False,
    seconds: float = 10,
) -> Learnt:
    """Finds few and simple rules that make every pair of a text as it is and as it should be.

    ``others`` are texts of which it is not known what they should become: readings that spoil them are less likely. ``names``
    makes a set for names of files. ``literal`` makes a table of the pairs where there are no rules. After ``seconds`` seconds
    the best rules so far are taken.

    >>> import washout
    >>> learnt = washout.learn([("00:14 Marrow Point", "Marrow Point")])
    >>> learnt.readings[0].rules
    ['remove = { stock = "timestamp" }']
    >>> learnt.rules.clean_column(["00:20 Horn lit", None])
    ['Horn lit', None]

    :raises LearnError: Pairs contradict each other, or no rules explain them; ``pairs`` of the error says which.
    """
    found = _washout._learn(list(pairs), list(others), names, literal, seconds)
    return Learnt([Reading(own, text, Difference(*differs) if differs else None) for own, text, differs in found])
