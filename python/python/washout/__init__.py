"""Ordered rules that clean text, for columns and tables in Arrow memory.

>>> import washout
>>> rules = washout.rules('''
... [[rule]]
... remove.text = " (ordered)"
... [[rule]]
... trim = {}
... ''')
>>> rules.clean("colza oil (ordered) ")
'colza oil'
>>> rules.clean_column(["lamp wicks ", None, "oil"])
['lamp wicks', None, 'oil']
>>> [(count.rule, count.changes) for count in rules.counts]
[('1', 1), ('2', 2)]

Columns and tables of pyarrow, pandas, Polars and DuckDB, and whatever else has Arrow's PyCapsule interface, are taken and
given back as the same kind. None of these libraries is needed but the one whose columns are used.
"""

from __future__ import annotations

from washout._learn import Difference, Learnt, Reading, learn
from washout._rules import Proof, RuleCount, Rules, Step, load, rules
from washout._survey import ColumnSurvey, Finding, Survey, survey
from washout.errors import CleanError, LearnError, Problem, RuleError, WashoutError

__all__ = [
    "CleanError",
    "ColumnSurvey",
    "Difference",
    "Finding",
    "LearnError",
    "Learnt",
    "Problem",
    "Proof",
    "Reading",
    "RuleCount",
    "RuleError",
    "Rules",
    "Step",
    "Survey",
    "WashoutError",
    "learn",
    "load",
    "rules",
    "survey",
]
