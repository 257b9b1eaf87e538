//! What may describe a group of stretches: characters, a class, a stock pattern, words, marks, a place, a pattern.

use std::sync::LazyLock;

use super::clusters::{Cluster, Place};
use super::offer::{Target, quoted, quoted_list};
use crate::class::{CharSet, NamedClass};
use crate::learn::pattern::{Pattern, class_of, is_one_shape, patterns_of};
use crate::learn::token::{Kind, Token, tokens};
use crate::learn::view::View;
use crate::stock::Stock;

/// Named classes with what they cost where a member is not ASCII, and where all are.
const CLASSES: &[(&str, u32, u32)] = &[
    ("single-quote", 3, 12),
    ("double-quote", 3, 12),
    ("quote", 6, 14),
    ("dash", 4, 14),
    ("odd-space", 3, 3),
    ("invisible", 3, 3),
    ("control", 3, 3),
    ("joiner", 5, 5),
    ("bidi", 4, 4),
    ("bullet", 3, 3),
    ("emoji", 4, 4),
    ("private", 4, 4),
    ("replacement", 4, 4),
    ("mark", 6, 6),
    ("digit", 8, 8),
    ("whitespace", 9, 9),
    ("blank", 9, 9),
    ("punctuation", 16, 16),
    ("symbol", 16, 16),
    ("upper", 14, 14),
    ("lower", 14, 14),
    ("letter", 14, 14),
    ("non-ascii", 16, 16),
];

static SETS: LazyLock<Vec<(&str, u32, u32, CharSet)>> = LazyLock::new(|| {
    let set = |name: &str| NamedClass::find(name).map(NamedClass::set);
    CLASSES.iter().filter_map(|(name, odd, ascii)| Some((*name, *odd, *ascii, set(name)?))).collect()
});

/// Opening marks with those that close.
pub(super) const MARKS: &[(char, char)] = &[
    ('(', ')'),
    ('[', ']'),
    ('{', '}'),
    ('<', '>'),
    ('（', '）'),
    ('［', '］'),
    ('【', '】'),
    ('「', '」'),
    ('『', '』'),
    ('«', '»'),
    ('“', '”'),
    ('„', '“'),
    ('‘', '’'),
];

/// What it costs that a string or pattern begins or ends inside a word or number.
const CUT: u32 = 8;

/// The most different characters, strings or words that a rule lists.
const MOST_CHARS: usize = 8;
const MOST_STRINGS: usize = 4;

/// What it costs to take blanks, points and commas anywhere that stand between digits in all pairs, and how much less a pattern
/// costs there that says so.
const IN_NUMBERS: u32 = 14;

/// Whether it is about blanks, points or commas that have digits on both sides.
fn is_within_numbers(cluster: &Cluster, view: &View) -> bool {
    let is_of_digits =
        |side: Option<Vec<char>>| side.is_some_and(|side| side.iter().all(|one| Kind::of(*one) == Kind::Digits));
    cluster.texts(view).iter().all(|text| text.iter().all(|one| matches!(one, ' ' | '.' | ',' | '\'' | '\u{A0}')))
        && is_of_digits(cluster.neighbours(view, true))
        && is_of_digits(cluster.neighbours(view, false))
}

/// Where in their lines all stretches are.
#[derive(Clone, Copy, Debug, Default)]
#[expect(clippy::struct_excessive_bools, reason = "each is a question of its own")]
pub(super) struct Edges {
    starts: bool,
    ends: bool,
    /// Each at the start or at the end, and some at both.
    both: bool,
    /// More than one line changes.
    many: bool,
}

impl Edges {
    pub(super) fn of(cluster: &Cluster, view: &View) -> Self {
        let is_edge = |(line, range): &Place| range.start == 0 || range.end == view.lines[*line].before.len();
        let (starts, ends) = (cluster.is_at_start(), cluster.is_at_end(view));
        let both = !starts && !ends && cluster.places.iter().all(is_edge);
        Self { starts, ends, both, many: view.changed().count() > 1 }
    }
}

/// Every target that may take these stretches and no others.
pub(super) fn targets(cluster: &Cluster, view: &View) -> Vec<Target> {
    let texts = cluster.texts(view);
    let trimmed = cluster.trimmed(view);
    let edges = Edges::of(cluster, view);
    let mut targets = sets(&texts, edges);
    let doubt = is_within_numbers(cluster, view);
    if doubt {
        targets = targets.into_iter().map(|target| target.dearer(IN_NUMBERS)).collect();
    }
    // At an edge the blanks are said as well as characters.
    if trimmed != *cluster && !edges.starts && !edges.ends {
        let sets = sets(&trimmed.texts(view), Edges::of(&trimmed, view));
        targets.extend(sets.iter().map(|target| target.with("gap = \"close\"", 4)));
    }
    let is_number = is_number_in_marks(&trimmed.texts(view));
    targets.extend(stock("", edges).into_iter().filter(|target| !(is_number && target.keys.contains("bracketed"))));
    targets.extend(strings(&texts, &trimmed.texts(view), cluster.cuts_tokens(view), edges));
    targets.extend(between(&trimmed.texts(view), edges));
    targets.extend(positions(cluster, view));
    targets.extend(patterns(cluster, view));
    targets
}

/// Characters and classes of characters, anywhere and at edges.
pub(super) fn sets(texts: &[&[char]], edges: Edges) -> Vec<Target> {
    let mut characters: Vec<char> = texts.iter().flat_map(|text| text.iter().copied()).collect();
    characters.sort_unstable();
    characters.dedup();
    let mut found = Vec::new();
    if characters.is_empty() {
        return found;
    }
    if characters.len() <= MOST_CHARS {
        // Where the same marks follow each other in all of them, their order is as likely to be meant.
        let cut: Vec<Vec<Token>> = texts.iter().map(|text| tokens(text)).collect();
        let is_row = is_one_shape(&cut) && texts.iter().all(|text| text.len() > 1);
        let is_same = texts.iter().all(|text| *text == texts[0]);
        let is_run = is_row && cut[0].len() == 1 && matches!(cut[0][0].kind, Kind::Marks(_));
        let is_ordered = is_row && (cut[0].len() > 1 || is_same || is_run);
        found.push(Target::chars(&characters).with("", if is_ordered { 8 } else { 0 }));
    }
    let is_ascii = characters.iter().all(char::is_ascii);
    let has_all = |set: &CharSet| characters.iter().all(|character| set.contains(*character));
    for (name, odd, ascii, set) in SETS.iter() {
        if has_all(set) {
            let is_broad = matches!(*name, "letter" | "lower" | "upper") && (edges.starts || edges.ends);
            let price = if is_ascii { *ascii } else { *odd } + if is_broad { 8 } else { 0 };
            found.push(Target::new(format!("class = {}", quoted(name)), price));
        }
    }
    let is_either = |character: &char| {
        SETS.iter().any(|(name, .., set)| matches!(*name, "punctuation" | "symbol") && set.contains(*character))
    };
    if characters.len() > 1 && characters.iter().all(is_either) {
        found.push(Target::new(r#"class = ["punctuation", "symbol"]"#, 18));
    }
    if !characters.is_empty() && !characters.iter().any(|character| Kind::of(*character).is_word()) {
        let other = Target::pattern(&Pattern::new(r"[^\p{L}\p{M}\d]+", 6));
        let but_blanks = Target::pattern(&Pattern::new(r"[^\p{L}\p{M}\d\s]+", 7));
        found.extend([other, but_blanks]);
    }
    found.into_iter().flat_map(|target| at_edges(&target, edges)).collect()
}

/// A target, at the edge where all stretches are, or anywhere; and where that touches what stays, at other edges or once.
fn at_edges(target: &Target, edges: Edges) -> Vec<Target> {
    let at = |edge: &str, price: u32| target.with(&format!("at = \"{edge}\""), price);
    match edges {
        Edges { starts: true, ends: false, .. } => vec![at("start", 1), target.with("", 3)],
        Edges { starts: false, ends: true, .. } => vec![at("end", 1), target.with("", 3)],
        Edges { both: true, .. } => vec![at("edges", 1), target.with("", 3)],
        Edges { .. } => vec![target.clone().or(vec![at("start", 3), at("end", 3), at("edges", 3)]).or_one_of_line()],
    }
}

/// The stock patterns, with more keys.
pub(super) fn stock(more: &str, edges: Edges) -> Vec<Target> {
    let one = |stock: &Stock| {
        // `bracketed` and `blank-run` are nothing but marks and blanks: others say that more plainly.
        let price = match stock {
            Stock::Bracketed => 9,
            Stock::LineNumber if edges.starts || edges.ends => 8,
            Stock::BlankRun | Stock::SentenceEnd | Stock::LineNumber => 12,
            _ => 6,
        };
        let target = Target::new(format!("stock = \"{}\"{more}", stock.name()), price);
        if edges.starts != edges.ends && edges.many && *stock != Stock::LineNumber {
            let at = target.with(if edges.starts { "at = \"start\"" } else { "at = \"end\"" }, 0);
            return vec![at, target.with("", 2)];
        }
        // Those are at either edge, and the other edge is none that the pairs show.
        if *stock == Stock::LineNumber && (edges.starts || edges.ends) {
            return vec![target.with(if edges.starts { "at = \"start\"" } else { "at = \"end\"" }, 0)];
        }
        let at = [("start", 3), ("end", 3)].map(|(at, price)| target.with(&format!("at = \"{at}\""), price));
        vec![target.or(at.to_vec())]
    };
    Stock::ALL.iter().flat_map(one).collect()
}

/// The stretches themselves, as strings and as words.
fn strings(texts: &[&[char]], trimmed: &[&[char]], cuts: bool, edges: Edges) -> Vec<Target> {
    let mut found = Vec::new();
    let entries = different(texts);
    if (1..=MOST_STRINGS).contains(&entries.len()) {
        let text = Target::list("text", &entries, texts.len() > entries.len());
        let is_of_words = trimmed.iter().all(|text| text.iter().all(|one| Kind::of(*one).is_word()));
        let has_words = trimmed.iter().any(|text| text.iter().any(|one| Kind::of(*one).is_word()));
        // Words are better said as words, and marks as characters.
        let is_mark_run = entries.len() == 1 && entries[0].chars().count() > 1;
        let text = text.with(
            "",
            if is_of_words {
                5
            } else if has_words || is_mark_run {
                0
            } else {
                4
            },
        );
        let is_whole = edges.starts && edges.ends && has_words;
        let text = text.with("", if cuts || is_whole { CUT } else { 0 });
        let ignoring = text.with("case = \"ignore\"", 4);
        found.extend(at_edges(&text, edges));
        let in_small: Vec<Vec<char>> =
            texts.iter().map(|text| text.iter().flat_map(|letter| letter.to_lowercase()).collect()).collect();
        let small = different(&in_small.iter().map(|text| &text[..]).collect::<Vec<_>>());
        if small.len() < entries.len() {
            found.push(Target::list("text", &small, true).with("case = \"ignore\"", 4));
        } else if entries.len() == 1 {
            found.push(ignoring);
        }
    }
    let words = different(trimmed);
    let is_word = |word: &String| {
        let first = word.chars().next().map(Kind::of);
        first.is_some_and(Kind::is_word) && !word.contains('\n')
    };
    if (1..=MOST_STRINGS * 2).contains(&words.len()) && words.iter().all(is_word) {
        let target = Target::list("words", &words, texts.len() > words.len());
        found.push(target.with("gap = \"leave\"", 4));
        found.extend(at_edges(&target, edges));
        let small = different(
            &trimmed
                .iter()
                .map(|text| text.iter().flat_map(|letter| letter.to_lowercase()).collect::<Vec<char>>())
                .collect::<Vec<_>>()
                .iter()
                .map(|text| &text[..])
                .collect::<Vec<_>>(),
        );
        if small.len() < words.len() {
            found.push(Target::list("words", &small, true).with("case = \"ignore\"", 3));
        }
    }
    found
}

fn different(texts: &[&[char]]) -> Vec<String> {
    let mut entries: Vec<String> = Vec::new();
    for text in texts {
        let entry: String = text.iter().collect();
        if !entry.is_empty() && !entries.contains(&entry) {
            entries.push(entry);
        }
    }
    entries
}

/// Whether each is a number between two marks: then the number is as likely to be meant as the marks.
fn is_number_in_marks(texts: &[&[char]]) -> bool {
    texts.iter().all(|text| text.len() > 2 && text[1..text.len() - 1].iter().all(|one| Kind::of(*one) == Kind::Digits))
}

/// From an opening mark to the one that closes.
fn between(trimmed: &[&[char]], edges: Edges) -> Vec<Target> {
    let ends = |text: &[char]| Some((*text.first()?, *text.last()?));
    let Some(marks) = trimmed.first().and_then(|text| ends(text)) else { return Vec::new() };
    if trimmed.iter().any(|text| text.len() < 2 || ends(text) != Some(marks)) {
        return Vec::new();
    }
    let has_inside = trimmed.iter().all(|text| text[1..text.len() - 1].iter().any(|one| *one != marks.0));
    let is_pair = MARKS.contains(&marks)
        || (marks.0 == marks.1 && has_inside && !Kind::of(marks.0).is_word() && Kind::of(marks.0) != Kind::Blanks);
    if !is_pair {
        return Vec::new();
    }
    let price = if is_number_in_marks(trimmed) { 24 } else { 8 };
    let target = Target::new(format!("between = {}", quoted_list(&[marks.0.to_string(), marks.1.to_string()])), price);
    let mut found = at_edges(&target, edges);
    found.push(target.with("gap = \"leave\"", 4));
    found
}

/// As many characters at the start of each line, or all from some place on.
fn positions(cluster: &Cluster, view: &View) -> Vec<Target> {
    let Some((_, first)) = cluster.places.first() else { return Vec::new() };
    let mut found = Vec::new();
    if cluster.is_at_start() && cluster.places.iter().all(|(_, range)| range.end == first.end) {
        found.push(Target::new(format!("positions = \"1..{}\"", first.end), if first.end == 1 { 18 } else { 26 }));
    }
    if cluster.is_at_end(view) && cluster.places.iter().all(|(_, range)| range.start == first.start) {
        found.push(Target::new(format!("positions = \"{}..\"", first.start + 1), 24));
    }
    found
}

/// Regular expressions, free or at an edge; and where these touch what stays, with what is beside all stretches.
fn patterns(cluster: &Cluster, view: &View) -> Vec<Target> {
    let texts = cluster.texts(view);
    let (starts, ends) = (cluster.is_at_start(), cluster.is_at_end(view));
    let mut bare = patterns_of(&texts);
    if cluster.cuts_tokens(view) {
        bare.iter_mut().for_each(|pattern| pattern.price += CUT);
    }
    if ends {
        bare.extend(to_the_end(&texts));
    }
    if starts {
        bare.extend(from_the_start(&texts));
        bare.extend(up_to_mark(&texts, cluster, view));
    }
    let mut found = Vec::new();
    for pattern in bare {
        if pattern.source.is_empty() {
            continue;
        }
        let is_free = !pattern.source.contains(['*', '+'])
            || !(pattern.source.starts_with('.') || pattern.source.ends_with(".*"));
        let is_wide = [".*", ".+", "[^"].iter().any(|wide| pattern.source.contains(wide));
        if is_within_numbers(cluster, view) {
            found.extend(in_context(cluster, view, &pattern).pop());
        }
        let mut narrower = if is_wide { Vec::new() } else { in_context(cluster, view, &pattern) };
        let target = match (starts, ends) {
            (true, true) => pattern.between("^", "$", 2),
            (true, false) => at_start(&pattern),
            (false, true) => pattern.between("", "$", 1),
            (false, false) => pattern.clone(),
        };
        if starts != ends {
            narrower.push(Target::pattern(&if starts { at_start(&pattern) } else { pattern.between("", "$", 1) }));
        }
        if starts && ends {
            narrower.push(Target::pattern(&pattern.between("^", "", 3)));
        }
        let anchored = Target::pattern(&target).or(narrower);
        found.push(if starts || ends { anchored } else { anchored.or_one_of_line() });
        if is_free && !(starts && ends) {
            // Where it happens to stand at an edge in all pairs, it is likelier to be meant there.
            found.push(Target::pattern(&pattern.between("", "", 5)));
        }
    }
    found
}

/// With `^`; blanks before it may be fewer or none.
fn at_start(pattern: &Pattern) -> Pattern {
    match pattern.source.strip_prefix(" +") {
        Some(rest) => Pattern::new(format!("^ *{rest}"), pattern.price + 1),
        None => pattern.between("^", "", 1),
    }
}

/// From what all begin with to the end of the line.
fn to_the_end(texts: &[&[char]]) -> Vec<Pattern> {
    let same = texts.iter().skip(1).fold(texts[0].len(), |most, text| {
        most.min(text.iter().zip(texts[0]).take_while(|(one, other)| one == other).count())
    });
    let mut found = Vec::new();
    // The mark alone, and the mark with the blanks beside it.
    for length in 1..=same.min(3) {
        let (mark, is_blank) = (&texts[0][..length], texts[0][..length].iter().all(|character| *character == ' '));
        if mark.iter().any(|character| Kind::of(*character).is_word()) {
            break;
        }
        // Where all words in it are numbers, they are likelier to be meant than anything.
        let cut: Vec<Vec<Token>> = texts.iter().map(|text| tokens(text)).collect();
        let is_same_word = |at: usize| {
            cut.iter()
                .zip(texts)
                .all(|(tokens, text)| text[tokens[at].range.clone()] == texts[0][cut[0][at].range.clone()])
        };
        let is_of_numbers = is_one_shape(&cut)
            && cut[0].iter().any(|token| token.kind == Kind::Digits)
            && (0..cut[0].len()).all(|at| cut[0][at].kind != Kind::Letters || is_same_word(at));
        let price = if is_blank { 8 } else { 5 } + if is_of_numbers { 10 } else { 0 };
        found.push(Pattern::literal(mark, true).between("", ".*", price));
        if texts
            .iter()
            .all(|text| text.len() == length + text[length..].iter().filter(|other| !mark.contains(other)).count())
        {
            let class = class_of(&mark[length - 1..]);
            found.extend(class.filter(|class| class.source != " ").map(|class| {
                let inside = class.source.trim_matches(['[', ']']);
                let price = 9 + if is_of_numbers { 10 } else { 0 };
                Pattern::literal(mark, true).then(&Pattern::new(format!("[^{inside}]*"), price))
            }));
        }
    }
    found
}

/// From the start of the line to the mark that is after all of them.
fn up_to_mark(texts: &[&[char]], cluster: &Cluster, view: &View) -> Option<Pattern> {
    let marks = cluster.neighbours(view, false)?;
    let mark = *marks.first()?;
    let is_none = Kind::of(mark).is_word() || Kind::of(mark) == Kind::Blanks;
    if is_none || marks.iter().any(|other| *other != mark) || texts.iter().any(|text| text.contains(&mark)) {
        return None;
    }
    let class = class_of(&[mark])?;
    let inside = class.source.trim_matches(['[', ']']);
    Some(Pattern::new(format!("[^{inside}]+(?={})", class.source), 7))
}

/// From the start of the line to what all end with.
fn from_the_start(texts: &[&[char]]) -> Vec<Pattern> {
    let same = texts.iter().skip(1).fold(texts[0].len(), |most, text| {
        most.min(text.iter().rev().zip(texts[0].iter().rev()).take_while(|(one, other)| one == other).count())
    });
    let mut found = Vec::new();
    for length in 1..=same.min(3) {
        let mark = &texts[0][texts[0].len() - length..];
        if mark.iter().any(|character| Kind::of(*character).is_word()) {
            break;
        }
        let is_blank = mark.iter().all(|character| *character == ' ');
        let price = if is_blank { 18 } else { 12 };
        found.push(Pattern::literal(mark, true).between(".*?", "", price));
        found.push(Pattern::literal(mark, true).between(".*", "", price + 1));
    }
    found
}

/// The pattern between what all stretches have before them, or after them.
fn in_context(cluster: &Cluster, view: &View, pattern: &Pattern) -> Vec<Target> {
    let mut found = Vec::new();
    let first = cluster.texts(view).iter().all(|text| text.first().is_some_and(|first| Kind::of(*first).is_word()));
    let last = cluster.texts(view).iter().all(|text| text.last().is_some_and(|last| Kind::of(*last).is_word()));
    if first && last {
        found.push(Target::pattern(&pattern.between(r"\b", r"\b", 4)));
    }
    if let Some(after) = cluster.neighbours(view, false) {
        found.extend(
            class_of(&after)
                .map(|class| Target::pattern(&pattern.between("", &format!("(?={})", class.source), 6 + class.price))),
        );
        if cluster.is_at_start() {
            found.extend(class_of(&after).map(|class| {
                Target::pattern(&pattern.between("^", &format!("(?={})", class.source), 6 + class.price))
            }));
        }
    }
    if let Some(before) = cluster.neighbours(view, true) {
        found
            .extend(class_of(&before).map(|class| {
                Target::pattern(&pattern.between(&format!("(?<={})", class.source), "", 6 + class.price))
            }));
        if cluster.is_at_end(view) {
            found.extend(class_of(&before).map(|class| {
                Target::pattern(&pattern.between(&format!("(?<={})", class.source), "$", 6 + class.price))
            }));
        }
    }
    let is_in_numbers = is_within_numbers(cluster, view);
    let class = |is_before: bool| class_of(&cluster.neighbours(view, is_before)?);
    if let (Some(before), Some(after)) = (class(true), class(false)) {
        let price = if is_in_numbers { 2 } else { 12 + before.price + after.price };
        let (before, after) = (format!("(?<={})", before.source), format!("(?={})", after.source));
        found.push(Target::pattern(&pattern.between(&before, &after, price)));
    }
    found
}
