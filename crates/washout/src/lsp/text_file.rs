//! Text files of a project: what rules would change in them.

use std::collections::HashMap;
use std::hash::{DefaultHasher, Hash, Hasher};
use std::ops::Range;
use std::sync::Arc;

use washout_core::observe::{Detail, Lineage, Piece, Side};
use washout_core::text::{LineEnd, start_of_text};
use washout_core::{Program, RuleId};

use super::document::Document;
use super::projects::FileRules;
use super::protocol::NoAnswer;
use crate::show::hunk::lines_len;

/// A part of a text that is looked at again when it changes ends with a line whose hash says so, and is no longer than this.
const CUT_MASK: u64 = 0x3F;
const MOST_LINES: usize = 1024;

/// Bytes of a text after which is asked whether what is found in it is still wanted.
const PIECE: usize = 1 << 16;

/// A place that a rule would change.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) struct PlacedEdit {
    /// In bytes of the text.
    pub(super) place: Range<usize>,
    pub(super) after: Vec<u8>,
    pub(super) rule: RuleId,
}

/// What rules would change in a text, remembered part by part.
#[derive(Default)]
pub(super) struct Changes {
    parts: HashMap<u64, Arc<Vec<PlacedEdit>>>,
    /// For which rules.
    rules: Option<Arc<Program>>,
}

impl Changes {
    /// Every place that would change, in order. Only parts of the text that are new are looked at; those that were looked at when it
    /// is not wanted any more are remembered.
    pub(super) fn of(
        &mut self,
        document: &Document,
        rules: &FileRules,
        is_wanted: &dyn Fn() -> bool,
    ) -> Result<Vec<PlacedEdit>, NoAnswer> {
        let text = document.text.as_bytes();
        if !rules.by_line {
            return edits(&rules.program, text, is_wanted);
        }
        if !self.rules.as_ref().is_some_and(|known| Arc::ptr_eq(known, &rules.program)) {
            *self = Self { rules: Some(Arc::clone(&rules.program)), ..Self::default() };
        }
        let mut parts = HashMap::new();
        let mut all = Vec::new();
        // What rules put in as a line end, on a line that has none, is the first one of the whole text.
        let line_end = first_line_end(text);
        let has_open_end = !text.ends_with(b"\n");
        for place in cuts(text) {
            let part = &text[place.clone()];
            if has_open_end && place.end == text.len() && first_line_end(part) != line_end {
                return edits(&rules.program, text, is_wanted);
            }
            let mut hasher = DefaultHasher::new();
            part.hash(&mut hasher);
            let key = hasher.finish();
            let found = match self.parts.get(&key).or_else(|| parts.get(&key)) {
                Some(known) => Arc::clone(known),
                None => match edits(&rules.program, part, is_wanted) {
                    Ok(found) => Arc::new(found),
                    Err(why) => {
                        self.parts.extend(parts);
                        return Err(why);
                    }
                },
            };
            let moved = |edit: &PlacedEdit| PlacedEdit {
                place: edit.place.start + place.start..edit.place.end + place.start,
                ..edit.clone()
            };
            all.extend(found.iter().map(moved));
            parts.insert(key, found);
        }
        self.parts = parts;
        Ok(all)
    }
}

/// The first line end of a text; `\n` if it has none.
fn first_line_end(text: &[u8]) -> &'static [u8] {
    LineEnd::first_in(text).unwrap_or(LineEnd::Lf).as_bytes()
}

/// Cuts a text after line feeds, at places that depend on the lines there: an edit moves few of them.
fn cuts(text: &[u8]) -> Vec<Range<usize>> {
    let (mut cuts, mut start, mut line_start, mut lines) = (Vec::new(), 0, 0, 0);
    for end in memchr::memchr_iter(b'\n', text).map(|at| at + 1) {
        let mut hasher = DefaultHasher::new();
        text[line_start..end].hash(&mut hasher);
        lines += 1;
        line_start = end;
        if hasher.finish() & CUT_MASK == 0 || lines >= MOST_LINES {
            cuts.push(start..end);
            (start, lines) = (end, 0);
        }
    }
    if start < text.len() {
        cuts.push(start..text.len());
    }
    cuts
}

/// Every place in a text that rules would change, worked out from scratch.
pub(super) fn edits(program: &Program, text: &[u8], is_wanted: &dyn Fn() -> bool) -> Result<Vec<PlacedEdit>, NoAnswer> {
    if program.surely_leaves(text) {
        return Ok(Vec::new());
    }
    let mut washer = program.washer(Lineage::new(program.names().len(), Detail::All));
    let mut washed = Vec::new();
    for piece in text.chunks(PIECE) {
        if !is_wanted() {
            return Err(NoAnswer::Unwanted);
        }
        washer.push(piece, &mut washed).map_err(|error| error.to_string())?;
        washed.clear();
    }
    washer.finish(&mut washed).map_err(|error| error.to_string())?;
    let mut edits = Vec::new();
    let mark = start_of_text(text);
    let (mut at, mut line) = (mark, 1);
    for hunk in washer.into_observer().finish() {
        at += lines_len(&text[at..], hunk.first_line - line);
        line = hunk.first_line + hunk.lines_before;
        let mut open: Option<PlacedEdit> = None;
        for Piece { side, bytes, .. } in hunk.pieces() {
            let rule = side.rule();
            if let Some(edit) = open.take_if(|edit| Some(edit.rule) != rule) {
                edits.push(edit);
            }
            if let Some(rule) = rule {
                let edit = open.get_or_insert_with(|| PlacedEdit { place: at..at, after: Vec::new(), rule });
                match side {
                    Side::Put(_) => edit.after.extend_from_slice(bytes),
                    _ => edit.place.end += bytes.len(),
                }
            }
            if !matches!(side, Side::Put(_)) {
                at += bytes.len();
            }
        }
        edits.extend(open);
    }
    Ok(edits)
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;
    use washout_core::RuleSet;

    use super::*;

    fn rules(text: &str) -> FileRules {
        FileRules::new(Program::compile([&RuleSet::read("rules", text).expect("rules")]))
    }

    proptest! {
        #![proptest_config(ProptestConfig { cases: 400, ..ProptestConfig::default() })]

        /// After each edit, what is remembered gives what a new look at the whole text gives; and the edits make of the text what
        /// the rules make of it.
        #[test]
        fn what_is_remembered_is_what_is_found_from_scratch(
            lines in proptest::collection::vec("[fog#\u{e9} \t]{0,6}(\r\n|\n|\r)?", 0..200),
            edits_made in proptest::collection::vec((0.0..1.0_f64, 0..9_usize, "[fog# \n]{0,5}"), 1..8),
            whole in any::<bool>(),
        ) {
            let by_line = "[[rule]]\nremove.chars = '#'\n[[rule]]\nreplace = { text = 'fog', with = 'mist\u{e9}' }\n[[rule]]\ntrim.at = 'end'\n[[rule]]\nwrap_lines = { width = 3 }\n";
            let rules = rules(&format!("{by_line}{}", if whole { "[[rule]]\ndrop_repeats = {}\n" } else { "" }));
            let mut document = Document::new(lines.concat(), None);
            let mut changes = Changes::default();
            for (at, len, new) in edits_made {
                #[expect(clippy::cast_possible_truncation, clippy::cast_sign_loss, clippy::cast_precision_loss, reason = "a place in a short text")]
                let mut start = (document.text.len() as f64 * at) as usize;
                while !document.text.is_char_boundary(start) {
                    start -= 1;
                }
                let mut end = (start + len).min(document.text.len());
                while !document.text.is_char_boundary(end) {
                    end += 1;
                }
                let mut text = document.text.clone();
                text.replace_range(start..end, &new);
                document = Document::new(text, None);
                let remembered = changes.of(&document, &rules, &|| true).expect("no pattern");
                let scratch = edits(&rules.program, document.text.as_bytes(), &|| true).expect("no pattern");
                prop_assert_eq!(&remembered, &scratch);
                let (mut made, mut from) = (Vec::new(), 0);
                for edit in &remembered {
                    made.extend_from_slice(&document.text.as_bytes()[from..edit.place.start]);
                    made.extend_from_slice(&edit.after);
                    from = edit.place.end;
                }
                made.extend_from_slice(&document.text.as_bytes()[from..]);
                let want = rules.program.apply(document.text.as_bytes()).expect("no pattern").into_text().into_owned();
                prop_assert_eq!(String::from_utf8_lossy(&made), String::from_utf8_lossy(&want));
            }
        }
    }
}
