"""What is wrong with a text or with the columns of a table."""

from __future__ import annotations

from typing import Any, NamedTuple

from washout import _kinds, _washout


class Finding(NamedTuple):
    """One kind of thing that was found."""

    what: str
    times: int
    first: int
    """The line of the text, or the record of the table, where it is first, from 1."""
    rule: str
    """The rule that takes it."""


class ColumnSurvey(NamedTuple):
    """What is in one column of a table."""

    name: str
    findings: list[Finding]


class Survey(NamedTuple):
    """What is in a text or a table."""

    records: int
    """How many records the table has; 0 for a text."""
    findings: list[Finding]
    """What a text holds."""
    columns: list[ColumnSurvey]
    """The columns of a table that hold texts."""
    draft: str
    """A rule set that takes all of it: look at what it changes before it is used."""


def survey(what: Any) -> Survey:
    """Says what is wrong with a text (``str`` or ``bytes``) or with a table, and drafts a rule set.

    >>> import washout
    >>> found = washout.survey("fog  \\nfog  bank\\n")
    >>> [(finding.what, finding.times) for finding in found.findings]
    [('blank runs within lines', 1), ('trailing blanks', 1)]
    """
    if isinstance(what, str):
        what = what.encode("utf-8", "surrogateescape")
    if isinstance(what, bytes):
        found, draft = _washout._survey_text(what)
        return Survey(0, [Finding(*one) for one in found], [], draft)
    records, columns, draft = _washout._survey_table(_kinds.table_in_arrow(what))
    named = [ColumnSurvey(name, [Finding(*one) for one in found]) for name, found in columns]
    return Survey(records, [], named, draft)
