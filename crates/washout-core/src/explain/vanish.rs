//! Which characters no longer occur after a rule: what later rules look for in vain.

use regex_syntax::hir::{Class, Hir, HirKind};

use crate::class::{CharSet, unicode_class};
use crate::rules::{
    Case, CharsTarget, FlatRule, Keep, LetterCase, Part, Recase, Remove, Replace, Replacement, Search, Target,
    Template, Unmatched, Verb, Which,
};
use crate::stock::Stock;
use crate::text::At;

/// The characters of which none is left in the text after this rule.
pub(super) fn takes(flat: &FlatRule<'_>) -> CharSet {
    if flat.cells.is_about_tables() || !flat.protect.is_empty() || !flat.scopes.iter().all(|scope| scope.is_all()) {
        return CharSet::default();
    }
    match &flat.rule.verb {
        Verb::Remove(Remove { search, which: Which::All, .. }) => every(search),
        Verb::Replace(Replace { search, which: Which::All, with: Replacement::Template(with) }) => {
            let mut taken = every(search);
            taken.subtract(&recycle(with));
            taken
        }
        Verb::Keep(Keep { search, which: Which::All, joined_with, unmatched, .. })
            if *unmatched != Unmatched::Leave =>
        {
            let Target::Chars(kept) = &search.target else { return CharSet::default() };
            let mut taken = unicode_class(r"[\x00-\x{10FFFF}]").unwrap_or_default();
            let mut kept = kept.set.clone();
            kept.add(&CharSet::of_chars(joined_with.chars()));
            kept.fold_case();
            taken.subtract(&kept);
            taken
        }
        Verb::Recase(Recase { to: LetterCase::Lower, within: None, .. }) => {
            unicode_class(r"[\p{Changes_When_Lowercased}]").unwrap_or_default()
        }
        Verb::Recase(Recase { to: LetterCase::Upper, within: None, .. }) => {
            unicode_class(r"[\p{Changes_When_Uppercased}]").unwrap_or_default()
        }
        Verb::Tabs(_) => CharSet::of_chars(['\t']),
        _ => CharSet::default(),
    }
}

/// The characters that may be new in the text after this rule; `None`: any.
pub(super) fn gives(verb: &Verb) -> Option<CharSet> {
    let of = |text: &str| CharSet::of_chars(text.chars());
    Some(match verb {
        Verb::Replace(Replace { with: Replacement::Template(with), .. }) => recycle(with),
        Verb::Replace(Replace { with: Replacement::Pairs(pairs), .. }) => {
            let all: String = pairs.list.iter().map(|(_, to)| to.as_str()).collect();
            let mut given = of(&all);
            given.fold_case();
            given
        }
        Verb::Keep(keep) => of(&keep.joined_with),
        Verb::Collapse(collapse) => of(collapse.with.as_deref().unwrap_or_default()),
        Verb::JoinLines(join) => of(&join.with),
        Verb::Tabs(_) => of(" "),
        Verb::Pad(_) => of("0"),
        Verb::Number(number) => of(&format!("0123456789{}", number.joined_with)),
        Verb::Recase(_) => unicode_class(r"[\p{L}\p{M}\p{N}]").unwrap_or_default(),
        Verb::Normalize(_) | Verb::PlainLetters | Verb::Decode(_) => return None,
        Verb::Remove(_)
        | Verb::Trim(_)
        | Verb::DropLines(_)
        | Verb::KeepLines(_)
        | Verb::DropRepeats(_)
        | Verb::BreakLines(_)
        | Verb::WrapLines(_)
        | Verb::LineEnds(_)
        | Verb::DropRecords(_)
        | Verb::DropFields(_)
        | Verb::RenameFields(_)
        | Verb::Include(_) => CharSet::default(),
    })
}

/// The characters of a search that takes every one of them, wherever it stands.
fn every(search: &Search) -> CharSet {
    let Target::Chars(chars) = &search.target else { return CharSet::default() };
    let spares = !search.except.words.is_empty() || !search.except.text.is_empty();
    if search.at != At::Anywhere || spares {
        return CharSet::default();
    }
    members(chars, search)
}

fn members(chars: &CharsTarget, search: &Search) -> CharSet {
    let mut set = chars.set.clone();
    let mut spared = search.except.chars.set.clone();
    if search.case == Case::Ignore {
        set.fold_case();
        spared.fold_case();
    }
    set.subtract(&spared);
    set
}

/// The characters a replacement puts there by itself.
pub(super) fn recycle(template: &Template) -> CharSet {
    let literal = template.parts().iter().filter_map(|part| match part {
        Part::Literal(literal) => Some(literal.as_str()),
        Part::Group(_) => None,
    });
    CharSet::of_chars(literal.flat_map(str::chars))
}

/// Whether every match of this search holds a character of `gone`.
pub(super) fn needs(search: &Search, gone: &CharSet) -> bool {
    let has = |character: char| {
        let mut kin = CharSet::of_chars([character]);
        if search.case == Case::Ignore {
            kin.fold_case();
        }
        is_within(&kin, gone)
    };
    let entry = |entry: &String| entry.chars().any(has);
    match &search.target {
        Target::Chars(chars) => is_within(&members(chars, search), gone),
        Target::Text(entries) => entries.iter().all(entry),
        Target::Words(words) => words.entries.iter().all(entry),
        Target::Pattern(pattern) => pattern.hir().is_some_and(|hir| expression_needs(hir, gone)),
        Target::Stock(target) => stock_needs(target.stock, gone),
        Target::Between(between) => entry(&between.open) || entry(&between.close),
        Target::Positions(_) => false,
    }
}

fn stock_needs(stock: Stock, gone: &CharSet) -> bool {
    let expression = match (stock, stock.shape()) {
        (_, Some(shape)) => shape.expression,
        (Stock::Timestamp, None) => "[0-9]:[0-9]",
        (Stock::Bracketed, None) => r"\(\)|\[\]|\{\}",
        (_, None) => "[0-9]",
    };
    regex_syntax::parse(expression).is_ok_and(|hir| expression_needs(&hir, gone))
}

/// Whether all of a set is in another; an empty one is not, since it says nothing.
fn is_within(set: &CharSet, other: &CharSet) -> bool {
    let mut rest = set.clone();
    rest.subtract(other);
    !set.is_empty() && rest.is_empty()
}

fn expression_needs(hir: &Hir, gone: &CharSet) -> bool {
    match hir.kind() {
        HirKind::Literal(literal) => {
            let text = String::from_utf8_lossy(&literal.0);
            text.chars().any(|character| is_within(&CharSet::of_chars([character]), gone))
        }
        HirKind::Class(Class::Unicode(class)) => is_within(&CharSet::of_class(class.clone()), gone),
        HirKind::Concat(parts) => parts.iter().any(|part| expression_needs(part, gone)),
        HirKind::Alternation(parts) => parts.iter().all(|part| expression_needs(part, gone)),
        HirKind::Capture(capture) => expression_needs(&capture.sub, gone),
        HirKind::Repetition(repetition) => repetition.min > 0 && expression_needs(&repetition.sub, gone),
        HirKind::Empty | HirKind::Look(_) | HirKind::Class(Class::Bytes(_)) => false,
    }
}

/// Whether every match of a pattern holds one of these line ends, by a character that stands for nothing else.
pub(super) fn needs_line_end(hir: &Hir, line_ends: &[char]) -> bool {
    match hir.kind() {
        HirKind::Literal(literal) => String::from_utf8_lossy(&literal.0).contains(line_ends),
        HirKind::Class(Class::Unicode(class)) => {
            let only = |range: &regex_syntax::hir::ClassUnicodeRange| {
                (range.start()..=range.end()).all(|character| line_ends.contains(&character))
            };
            !class.ranges().is_empty() && class.ranges().iter().all(only)
        }
        HirKind::Concat(parts) => parts.iter().any(|part| needs_line_end(part, line_ends)),
        HirKind::Alternation(parts) => parts.iter().all(|part| needs_line_end(part, line_ends)),
        HirKind::Capture(capture) => needs_line_end(&capture.sub, line_ends),
        HirKind::Repetition(repetition) => repetition.min > 0 && needs_line_end(&repetition.sub, line_ends),
        HirKind::Empty | HirKind::Look(_) | HirKind::Class(Class::Bytes(_)) => false,
    }
}
