//! A rule's search as a whole: target, place, exceptions, and which of a line's matches.

use crate::text::matches::Permission;
use std::sync::Arc;

use super::between::BetweenFinder;
use super::except::{Spare, without};
use super::list::EntryList;
use super::{chars, positions, walker};
use crate::class::CharTable;
use crate::pattern::budget::{SharedBudget, WorkBudget};
use crate::pattern::{CompiledPattern, PatternScratch};
use crate::rules::{BetweenTarget, Case, Marks, PositionsTarget, Search, StockTarget, Target, Which};
use crate::stock::{LineNumber, Rising, Shape, ShapeCache, Stock, Timestamp, with_number};
use crate::text::At;
use crate::text::edges::Edges;
use crate::text::haystack::Haystack;
use crate::text::lines::Line;
use crate::text::matches::{Matches, Span};
use crate::text::pool::{Pool, PoolGuard};
use crate::text::stand_ins::StandIns;
use crate::words::Spelling;

/// A search made ready.
#[derive(Clone, Debug)]
pub(crate) struct Finder {
    target: PreparedTarget,
    at: At,
    spare: Option<Spare>,
    which: Which,
    with_groups: bool,
    /// What is to be chosen is chosen of the whole text, not of each line.
    as_one_line: bool,
    /// ASCII characters that the target looks for itself.
    own: StandIns,
    /// Characters that it sees as blanks.
    blanks: StandIns,
}

/// The ways to find. Each gives every match of its target, so nothing has to be checked again.
#[derive(Clone, Debug)]
enum PreparedTarget {
    Chars(CharTable),
    List(Arc<EntryList>),
    Timestamp,
    LineNumber { rising: bool },
    Shape(&'static Shape),
    CueWithNumber(&'static Shape),
    Brackets(Box<[BetweenFinder; 3]>),
    Pattern(Arc<CompiledPattern>, Arc<Pool<PatternScratch>>),
    Between(Box<BetweenFinder>),
    Positions(PositionsTarget),
}

/// The memory a finder needs; one for each thread.
#[derive(Debug, Default)]
pub(crate) struct FinderScratch {
    pub(crate) matches: Matches,
    budget: WorkBudget,
    pattern: Option<PoolGuard<PatternScratch, Arc<Pool<PatternScratch>>>>,
    shape: ShapeCache,
    /// Which line numbers go up.
    pub(crate) rising: Rising,
    /// Something that is not an empty line stands before the text.
    pub(crate) follows_text: bool,
    /// Where a search took more work than it may; what was found since then means nothing.
    pub(crate) failed_at: Option<usize>,
}

impl FinderScratch {
    /// For one of several texts that have one budget.
    pub(crate) fn sharing(shared: Option<Arc<SharedBudget>>) -> Self {
        Self { budget: WorkBudget::shared(shared), ..Self::default() }
    }

    /// Begins with another text. The memory it works in stays, and its budget if texts share one.
    pub(crate) fn start_again(&mut self) {
        self.budget.start_again();
        self.rising.start_again();
        self.follows_text = false;
        self.failed_at = None;
    }
}

impl Finder {
    /// `with_groups`: whether the groups of a pattern's matches are requested.
    pub(crate) fn new(search: &Search, which: Which, with_groups: bool) -> Self {
        let spare = match &search.target {
            // Single characters are taken out of the set; strings can still spare a run of them.
            Target::Chars(_) if search.except.words.is_empty() && search.except.text.is_empty() => None,
            _ => Spare::new(&search.except, search.case),
        };
        // The number of a page is one only where it stands alone.
        let alone = matches!(&search.target, Target::Stock(target) if target.stock == Stock::PageNumber);
        let at = if alone { At::WholeLine } else { search.at };
        Self {
            target: PreparedTarget::new(search, at),
            at,
            spare,
            which,
            with_groups,
            as_one_line: false,
            own: own_ascii(&search.target),
            blanks: StandIns::default(),
        }
    }

    /// From now on these count as blanks; not where the target looks for one of them itself, or is a pattern, which says
    /// exactly what it looks for.
    pub(crate) fn count_as_blanks(&mut self, blanks: StandIns) {
        if !self.own.shares_any_with(blanks) {
            self.blanks = blanks;
        }
    }

    /// From now on the first, the last and so on are those of the whole text.
    pub(crate) fn choose_of_text(&mut self) {
        self.as_one_line = true;
    }

    /// Finds the matches in `text`, a block of whole lines, that the guard lets the rule act on; they are left in
    /// `scratch.matches`.
    pub(crate) fn find<'s, 'h>(
        &self,
        haystack: impl Into<Haystack<'h>>,
        guard: &impl Permission,
        scratch: &'s mut FinderScratch,
    ) -> &'s Matches {
        let haystack = haystack.into();
        self.find_placed(haystack, scratch);
        let matches = &mut scratch.matches;
        if guard.refuses_some() {
            matches.retain(|found| guard.permits(found.start, found.end));
        }
        self.choose(haystack.text, matches);
        matches
    }

    /// Whether it looks only where there may be anything to find, given that.
    pub(crate) fn looks_near(&self) -> bool {
        match &self.target {
            PreparedTarget::Chars(_) | PreparedTarget::Timestamp | PreparedTarget::LineNumber { rising: false } => true,
            PreparedTarget::List(list) => list.looks_near(),
            PreparedTarget::Pattern(pattern, _) => pattern.looks_near(),
            _ => false,
        }
    }

    /// The characters, if it finds each of them wherever it stands.
    pub(crate) fn chars_anywhere(&self) -> Option<&CharTable> {
        match &self.target {
            PreparedTarget::Chars(set)
                if self.at == At::Anywhere && self.which == Which::All && self.spare.is_none() =>
            {
                Some(set)
            }
            _ => None,
        }
    }

    /// Finds all matches in `text` that are not excepted, wherever they stand.
    pub(crate) fn find_all<'s>(&self, text: &[u8], scratch: &'s mut FinderScratch) -> &'s Matches {
        self.find_placed(text.into(), scratch);
        self.choose(text, &mut scratch.matches);
        &scratch.matches
    }

    fn find_placed(&self, haystack: Haystack<'_>, scratch: &mut FinderScratch) {
        self.find_raw(haystack, scratch);
        if let Some(spare) = &self.spare {
            scratch.matches.retain(|found| !spare.spares(found.of(haystack.text)));
        }
    }

    /// The most characters a match has, each blank of an entry for any number of blanks, if the search needs to see no
    /// more of a line than what is near a match.
    pub(crate) fn longest_match(&self) -> Option<usize> {
        let everywhere = self.at == At::Anywhere && self.which == Which::All && self.spare.is_none();
        match &self.target {
            _ if !everywhere => None,
            PreparedTarget::Chars(..) => Some(1),
            PreparedTarget::List(list) => Some(list.longest()),
            _ => None,
        }
    }

    /// Which entry of its list a match is, from 0.
    pub(crate) fn entry_of(&self, text: &[u8], found: Span) -> Option<usize> {
        match &self.target {
            PreparedTarget::List(list) => list.entry_of(text, found),
            _ => None,
        }
    }

    /// Finds all matches, also those that are excepted or not chosen.
    pub(crate) fn find_raw<'s, 'h>(
        &self,
        haystack: impl Into<Haystack<'h>>,
        scratch: &'s mut FinderScratch,
    ) -> &'s Matches {
        let haystack = haystack.into();
        let text: &[u8] = &self.blanks.as_blanks(haystack.text);
        let haystack = Haystack { text, ..haystack };
        let matches = &mut scratch.matches;
        matches.reset(0);
        match &self.target {
            PreparedTarget::Chars(set) => chars::find_all(set, self.at, haystack, matches),
            PreparedTarget::List(list) => list.find_all(haystack, matches),
            PreparedTarget::Timestamp if haystack.places.is_some() => {
                walker::find_on(haystack.lines(), &Timestamp, self.at, text, matches);
            }
            PreparedTarget::Timestamp => walker::find_all(&Timestamp, self.at, text, matches),
            PreparedTarget::LineNumber { rising } => {
                line_numbers(self.at, haystack, matches);
                if *rising {
                    matches.retain(|found| scratch.rising.accepts(found.start, self.at));
                }
            }
            PreparedTarget::Shape(shape) => {
                let cache = scratch.shape.get_or_insert_with(|| shape.cache());
                walker::find_all(&shape.walk(cache), self.at, text, matches);
            }
            PreparedTarget::CueWithNumber(shape) => {
                let cache = scratch.shape.get_or_insert_with(|| shape.cache());
                let mut ranges = Matches::default();
                walker::find_all(&shape.walk(cache), At::Anywhere, text, &mut ranges);
                let mut edges = Edges::default();
                let cues = ranges.spans().iter().map(|range| with_number(text, *range, scratch.follows_text));
                cues.filter(|cue| edges.allow(self.at, text, *cue)).for_each(|cue| matches.push(cue.start, cue.end));
            }
            PreparedTarget::Brackets(kinds) => brackets(&kinds[..], self.at, text, matches),
            PreparedTarget::Between(between) => between.find_all(self.at, text, matches),
            PreparedTarget::Positions(range) => positions::find_all(*range, self.at, text, matches),
            PreparedTarget::Pattern(pattern, pool) => {
                let borrow_buffers = || PoolGuard::new(Arc::clone(pool), PatternScratch::default);
                let memory = scratch.pattern.get_or_insert_with(borrow_buffers);
                matches.reset(if self.with_groups { pattern.groups() } else { 0 });
                if let Err(failed) = pattern.find_all(haystack, self.with_groups, memory, &mut scratch.budget, matches)
                {
                    scratch.failed_at.get_or_insert(failed.at);
                }
            }
        }
        matches
    }

    fn choose(&self, text: &[u8], matches: &mut Matches) {
        if let Some(chosen) = chosen(self.which, text, matches.spans(), self.as_one_line) {
            let mut chosen = chosen.into_iter();
            matches.retain(|_| chosen.next().unwrap_or(false));
        }
    }
}

/// The ASCII characters a target looks for; all of them for a pattern.
fn own_ascii(target: &Target) -> StandIns {
    let of_entries = |entries: &[String]| StandIns::of_bytes(entries.iter().flat_map(|entry| entry.bytes()));
    match target {
        Target::Chars(chars) => StandIns::of_bytes((0..0x80).filter(|byte| chars.set.contains(char::from(*byte)))),
        Target::Text(entries) => of_entries(entries),
        Target::Words(words) => of_entries(&words.entries),
        Target::Between(between) => StandIns::of_bytes(between.open.bytes().chain(between.close.bytes())),
        Target::Stock(_) | Target::Positions(_) => StandIns::default(),
        Target::Pattern(_) => StandIns::ALL,
    }
}

/// For each of these, in order, whether it is one of those of its line that `which` says; `None`: all are.
/// `as_one_line`: of the whole text.
pub(crate) fn chosen(which: Which, text: &[u8], spans: &[Span], as_one_line: bool) -> Option<Vec<bool>> {
    let (nth, from_end) = match which {
        Which::All => return None,
        Which::First => (1, false),
        Which::Last => (1, true),
        Which::Nth(nth) => (nth.get(), false),
    };
    let mut keep = Vec::with_capacity(spans.len());
    for line in spans.chunk_by(|first, second| as_one_line || !a_line_ends_between(text, *first, *second)) {
        let chosen = if from_end { line.len() - nth } else { nth - 1 };
        keep.extend((0..line.len()).map(|index| index == chosen));
    }
    Some(keep)
}

/// A match belongs to the line it starts on.
fn a_line_ends_between(text: &[u8], first: Span, second: Span) -> bool {
    // Looks no farther than the second match: on one long line, farther would be quadratic.
    let between = &text[first.start..second.start];
    memchr::memchr2(b'\n', b'\r', between).is_some()
}

impl PreparedTarget {
    fn new(search: &Search, at: At) -> Self {
        let ignore_case = search.case == Case::Ignore;
        match &search.target {
            Target::Chars(chars) => {
                let mut set = chars.set.clone();
                if ignore_case {
                    set.fold_case();
                }
                let mut spared = search.except.chars.set.clone();
                if ignore_case {
                    spared.fold_case();
                }
                set.subtract(&spared);
                Self::Chars(CharTable::new(set))
            }
            Target::Text(entries) => {
                let entries = without(entries, &search.except.text, Spelling { ignore_case, as_words: false });
                Self::List(Arc::new(EntryList::of_text(entries, ignore_case, at)))
            }
            Target::Words(words) => {
                let entries = without(&words.entries, &search.except.words, Spelling { ignore_case, as_words: true });
                Self::List(Arc::new(EntryList::of_words(entries, ignore_case, words.hyphen, at)))
            }
            Target::Stock(target) => Self::stock(*target),
            Target::Pattern(pattern) => Self::Pattern(pattern.compiled(), Arc::new(Pool::new())),
            Target::Between(between) => Self::Between(Box::new(BetweenFinder::new(between, ignore_case))),
            Target::Positions(range) => Self::Positions(*range),
        }
    }

    fn stock(target: StockTarget) -> Self {
        match (target.stock, target.stock.shape()) {
            (Stock::CueRange, Some(shape)) if target.number => Self::CueWithNumber(shape),
            (_, Some(shape)) => Self::Shape(shape),
            (Stock::LineNumber, None) => Self::LineNumber { rising: target.rising },
            (Stock::Bracketed, None) => Self::Brackets(Box::new([("(", ")"), ("[", "]"), ("{", "}")].map(between))),
            (_, None) => Self::Timestamp,
        }
    }
}

fn between((open, close): (&str, &str)) -> BetweenFinder {
    let target = BetweenTarget { open: open.to_owned(), close: close.to_owned(), marks: Marks::Take };
    BetweenFinder::new(&target, false)
}

/// What stands in brackets of any of these kinds; of two that overlap, the one that opens first.
fn brackets(kinds: &[BetweenFinder], at: At, text: &[u8], matches: &mut Matches) {
    let mut all: Vec<Span> = Vec::new();
    for kind in kinds {
        let mut found = Matches::default();
        kind.find_all(At::Anywhere, text, &mut found);
        all.extend_from_slice(found.spans());
    }
    all.sort_unstable_by_key(|span| span.start);
    let mut edges = Edges::default();
    let mut from = 0;
    for span in all {
        if span.start >= from {
            from = span.end;
            if edges.allow(at, text, span) {
                matches.push(span.start, span.end);
            }
        }
    }
}

/// A line number stands at an edge of its line, so `anywhere` means either edge.
fn line_numbers(at: At, haystack: Haystack<'_>, matches: &mut Matches) {
    for line in haystack.lines() {
        line_number(at, haystack.text, line, matches);
    }
}

fn line_number(at: At, text: &[u8], line: Line, matches: &mut Matches) {
    if at == At::WholeLine {
        if let Some(span) = LineNumber::whole_line(text, line) {
            matches.push(span.start, span.end);
        }
        return;
    }
    let mut rest = line.start;
    if at != At::End
        && let Some(span) = LineNumber::at_start(text, line)
    {
        rest = span.end;
        matches.push(span.start, span.end);
    }
    if at != At::Start
        && let Some(span) = LineNumber::at_end(text, line, rest)
    {
        matches.push(span.start, span.end);
    }
}
