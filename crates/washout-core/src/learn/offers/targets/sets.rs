//! Characters, classes of characters, and stock patterns.

use std::sync::LazyLock;

use super::{Edges, at_edges};
use crate::class::{CharSet, NamedClass};
use crate::learn::offers::offer::{Target, quoted};
use crate::learn::pattern::{Pattern, is_one_shape};
use crate::learn::token::{Kind, Token, tokens};
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

/// The most different characters that a rule lists.
const MOST_CHARS: usize = 8;

/// Characters and classes of characters, anywhere and at edges.
pub(in crate::learn::offers) fn sets(texts: &[&[char]], edges: Edges) -> Vec<Target> {
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

/// The stock patterns, with more keys.
pub(in crate::learn::offers) fn stock(more: &str, edges: Edges) -> Vec<Target> {
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
