//! Rules: proved, explained, and what comes ready-made.

use std::path::Path;

use serde_json::{Value, json};
use washout_core::class::{NAMED_CLASSES, NamedClass, UNICODE_VERSION};
use washout_core::explain::{Caution, Cut, Explanation, PatternPiece};
use washout_core::prove::Proof;
use washout_core::read::{stop_word_lists, stop_words};
use washout_core::ready::ReadySet;
use washout_core::stock::Stock;
use washout_core::{RuleId, RuleSet};

use super::{of_command, path, text};

/// `test`
pub(crate) fn proofs(sets: &[RuleSet], memory_limit: Option<u64>) -> Value {
    let example = |(index, proof): (usize, Proof<'_>)| {
        json!({
            "example": index + 1,
            "label": proof.example.label,
            "rule": proof.example.rule,
            "holds": proof.holds(),
            "given": text(&proof.example.given),
            "gives": text(&proof.example.gives),
            "got": proof.got.as_ref().ok().map(|got| text(got)),
            "failed": proof.got.as_ref().err().map(ToString::to_string),
        })
    };
    let sets: Vec<Value> = sets
        .iter()
        .map(|set| json!({"set": set.name, "examples": set.prove(memory_limit).enumerate().map(example).collect::<Vec<_>>()}))
        .collect();
    of_command("test", json!({"sets": sets}))
}

/// `explain`
pub(crate) fn explained(explanations: &[Explanation], cautions: &[Caution], cut: &Cut) -> Value {
    let piece = |piece: &PatternPiece| json!({"depth": piece.depth, "source": piece.source, "means": piece.means});
    let rule = |(index, explanation): (usize, &Explanation)| {
        let own = cautions.iter().filter(|caution| caution.rule == Some(RuleId(index)));
        json!({
            "rule": explanation.rule.number,
            "label": explanation.rule.caption,
            "does": explanation.does,
            "sees": explanation.needs,
            "pattern": explanation.pieces.iter().map(piece).collect::<Vec<_>>(),
            "cautions": own.map(|caution| caution.message.clone()).collect::<Vec<_>>(),
        })
    };
    let whole = cautions.iter().filter(|caution| caution.rule.is_none());
    of_command(
        "explain",
        json!({
            "rules": explanations.iter().enumerate().map(rule).collect::<Vec<_>>(),
            "cautions": whole.map(|caution| json!({"about": caution.about, "message": caution.message})).collect::<Vec<_>>(),
            "cut": {"between": cut.name(), "because_of": cut.because_of().map(|rule| &rule.number), "means": cut.to_string()},
        }),
    )
}

/// `stock` without a name
pub(crate) fn stock() -> Value {
    let pattern = |stock: &Stock| json!({"name": stock.name(), "takes": stock.takes(), "leaves": stock.leaves()});
    let class = |class: &NamedClass| json!({"name": class.name, "members": class.members, "count": class.set().len()});
    of_command(
        "stock",
        json!({
            "unicode": UNICODE_VERSION,
            "patterns": Stock::ALL.iter().map(pattern).collect::<Vec<_>>(),
            "classes": NAMED_CLASSES.iter().map(class).collect::<Vec<_>>(),
            "stop_words": stop_word_lists().collect::<Vec<_>>(),
            "ready_sets": ReadySet::ALL.iter().map(|set| set.name).collect::<Vec<_>>(),
        }),
    )
}

/// `stock NAME`: of what is named, `None` for all else.
pub(crate) fn stock_named(name: &str) -> Option<Value> {
    let list = name.strip_prefix("stopwords:").and_then(stop_words);
    let ready = ReadySet::find(name.strip_prefix(ReadySet::PREFIX).unwrap_or(name));
    let fields = if let Some(words) = list {
        json!({"kind": "stop words", "name": name, "words": words})
    } else if let Some(stock) = Stock::find(name) {
        json!({
            "kind": "pattern",
            "name": name,
            "takes": stock.takes(),
            "leaves": stock.leaves(),
            "options": stock.options(),
            "found": stock.matching_lines(),
            "not_found": stock.near_misses(),
        })
    } else if let Some(class) = NamedClass::find(name) {
        let code = |character: char| format!("U+{:04X}", u32::from(character));
        let set = class.set();
        json!({
            "kind": "class",
            "name": name,
            "members": class.members,
            "count": set.len(),
            "ranges": set.ranges().map(|(first, last)| [code(first), code(last)]).collect::<Vec<_>>(),
        })
    } else {
        json!({"kind": "ready set", "name": name, "text": ready?.source})
    };
    Some(of_command("stock", fields))
}

/// `demo`
pub(crate) fn demo(folder: &Path, files: &[&str]) -> Value {
    of_command("demo", json!({"folder": path(folder), "files": files}))
}
