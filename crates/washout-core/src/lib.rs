#![doc = include_str!("../README.md")]

mod class;
mod engine;
mod explain;
mod guard;
mod matching;
mod names;
mod observe;
mod operations;
mod pattern;
mod prefilter;
mod program;
mod prove;
mod read;
mod ready;
mod rules;
mod schema;
mod spell;
mod stock;
mod survey;
mod table;
mod text;
mod trace;
mod words;

pub use class::{CharSet, NAMED_CLASSES, NamedClass, UNICODE_VERSION};
pub use engine::{Given, Outcome, RunError, Washer, bytes_at_once};
pub use explain::{Caution, Explanation, PatternPiece, Sample, cautions, explain, pattern_pieces};
pub use names::{
    Fate, FolderPlan, NameWasher, Named, OnClash, Planner, Refusal, Step as RenameStep, Wish, natural_order,
};
pub use observe::{
    CellPlace, CellSource, Change, Detail, Hunk, Lineage, NoObserver, Observer, Piece, PlacedChange, Side,
};
pub use pattern::{Pattern, PatternError, PatternUse};
pub use program::{Expectation, Program};
pub use prove::Proof;
pub use read::{Files, NamedFile, NoFiles, Problem, RuleError, nearest, stop_word_lists, stop_words};
pub use ready::ReadySet;
pub use rules::{
    BetweenTarget, BreakLines, BreakPlace, Case, CellScope, CharsTarget, Collapse, Count, Decode, DropFields,
    DropLines, DropRecords, DropRepeats, EmptyFields, EmptyLines, Encoded, Example, Except, Field, FinalLineEnd, Gap,
    HyphenAtLineEnd, Include, JoinLines, Keep, KeepLines, LetterCase, LineEnds, LinePlace, LineRange, MOST_DIGITS,
    MOST_LINE_COLUMNS, Marks, NamePart, NameSettings, NewField, NewPlace, NormalForm, Normalize, Number, NumberPlace,
    Pad, Pairs, Paragraphs, Part, PositionsTarget, PossibleHeading, Ragged, Recase, Remove, RenameFields, RepeatScope,
    Replace, Replacement, RowTest, Rule, RuleId, RuleName, RuleSet, Scope, Search, StockTarget, TableFormat,
    TableSettings, Tabs, Target, Template, TemplateError, Trim, TrimAt, TrimClass, Unclosed, Unmatched, Verb, Which,
    WordsTarget, WrapLines,
};
pub use schema::schema;
pub use spell::{class_of, classes_of, describe};
pub use stock::Stock;
pub use survey::{
    CharCount, Detectors, LONGEST_LINE, LineCounts, Litter, LitterKind, Place, Sighting, Survey, Surveyed, Surveyor,
    Unusual, draft,
};
pub use table::{
    AboutTable, Alike, AnyWasher, CellCount, CellText, ColumnSurvey, Finding, Form, Formulas, TableError, TableSurvey,
    TableSurveyor, TableWasher, WashError, is_formula, table_draft,
};
pub use text::{At, Counted, LineEnd, SizeCounter, TextSize};
pub use trace::Step;
pub use words::Hyphen;
