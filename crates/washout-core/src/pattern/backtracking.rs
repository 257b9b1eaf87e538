//! Patterns that look around or refer back, on an engine that tries one way after the other. Its work is counted.

use std::sync::OnceLock;

use fancy_regex::{BytesMode, Error, Regex, RegexBuilder, RegexInput, RuntimeError};

use super::cost::{CostEstimate, CostWatch};
use super::expression::SIZE_LIMIT;
use super::line_filter::LineFilter;
use super::whole_text::FoundMatch;
use crate::pattern::budget::WorkBudget;
use crate::text::At;
use crate::text::matches::Span;

/// Steps back the backtracking engine may take in a search that is tried first, and each time eight times as many: most
/// searches need few, and those that need more pay for them.
const BACKTRACKING: [usize; 8] = [1 << 10, 1 << 13, 1 << 16, 1 << 19, 1 << 22, 1 << 25, 1 << 28, 1 << 31];

/// Limits of size that are tried before [`SIZE_LIMIT`], in bytes.
const SMALLER_LIMITS: [usize; 2] = [128 << 10, 1 << 20];

/// From that many steps on, it is asked how many bytes are looked at between them.
const MANY_STEPS: usize = 1 << 19;

/// Bytes that are looked at at once in the time of a step back, which is a longer one than others.
const BYTES_A_STEP_BACK: u64 = 64;

/// A pattern for the backtracking engine.
#[derive(Debug)]
pub(super) struct BacktrackingRegex {
    source: String,
    ignore_case: bool,
    across_lines: bool,
    /// How large what it hands to the plain engine may be, in bytes.
    size_limit: usize,
    /// One for each number of steps back, made when it is needed.
    tries: [OnceLock<Regex>; BACKTRACKING.len()],
    reach: CostEstimate,
    line_filter: LineFilter,
}

impl BacktrackingRegex {
    /// `source`: by itself, without a place on the line.
    pub(super) fn new(source: &str, at: At, ignore_case: bool, across_lines: bool) -> Result<Self, Error> {
        let source = looking_form(source, at, across_lines);
        let flags = [(ignore_case, "(?i)"), (across_lines, "(?m)")];
        let flags: String = flags.into_iter().filter(|(set, _)| *set).map(|(_, flag)| flag).collect();
        let with_flags = flags + &source;
        let (reach, line_filter) = (CostEstimate::new(with_flags.clone()), LineFilter::new(with_flags));
        let (size_limit, tries) = (SIZE_LIMIT, Default::default());
        let mut backtracking = Self { source, ignore_case, across_lines, size_limit, tries, reach, line_filter };
        // The engine does not tell how large it is, but whether it is larger than that.
        for size_limit in SMALLER_LIMITS {
            backtracking.size_limit = size_limit;
            if backtracking.regex(0).is_ok() {
                return Ok(backtracking);
            }
        }
        backtracking.size_limit = SIZE_LIMIT;
        backtracking.regex(0)?;
        Ok(backtracking)
    }

    /// More than it takes compiled, in bytes.
    pub(super) fn size_bound(&self) -> u64 {
        self.size_limit as u64
    }

    pub(super) fn group_names(&self) -> Result<Vec<Option<String>>, Error> {
        Ok(self.regex(0)?.capture_names().map(|name| name.map(str::to_owned)).collect())
    }

    /// The engine that takes that many steps back.
    fn regex(&self, level: usize) -> Result<&Regex, Error> {
        if let Some(regex) = self.tries[level].get() {
            return Ok(regex);
        }
        let regex = RegexBuilder::new(&self.source)
            .case_insensitive(self.ignore_case)
            .multi_line(self.across_lines)
            .bytes_mode(BytesMode::UnicodeBytes)
            .delegate_size_limit(self.size_limit)
            .backtrack_limit(BACKTRACKING[level])
            .build()?;
        Ok(self.tries[level].get_or_init(|| regex))
    }

    /// Whether the work to search all of `text` is within bounds, except for the steps back.
    pub(super) fn allows(&self, text: &[u8], watch: &mut CostWatch, budget: &mut WorkBudget) -> bool {
        self.reach.allows(text, watch, budget)
    }

    /// Which lines it may match.
    pub(super) fn line_filter(&self) -> &LineFilter {
        &self.line_filter
    }

    /// The first match from `from` on in a text that is UTF-8; else the place of a search that takes too much work.
    pub(super) fn find(
        &self,
        text: &[u8],
        from: usize,
        watch: &mut CostWatch,
        budget: &mut WorkBudget,
    ) -> Result<Option<FoundMatch>, usize> {
        for (level, steps) in BACKTRACKING.into_iter().enumerate() {
            let far = if steps < MANY_STEPS { 1 } else { (self.reach.mean(text, watch) / BYTES_A_STEP_BACK).max(1) };
            if level > 0 && !budget.spend(far.saturating_mul(steps as u64)) {
                break;
            }
            let input = RegexInput::new(text).from_pos(from);
            let found = match self.regex(level).and_then(|regex| regex.captures_input(input)) {
                Ok(found) => found,
                Err(Error::RuntimeError(RuntimeError::BacktrackLimitExceeded)) => continue,
                Err(_) => break,
            };
            return Ok(found.and_then(|captures| {
                let span = |group| captures.get(group).map(|found| Span::new(found.start(), found.end()));
                Some((span(0)?, (0..captures.len()).map(span).collect()))
            }));
        }
        Err(from)
    }
}

/// The pattern with blanks allowed between the match and the edges `place` names. No group is added: what refers back
/// does so by number.
fn looking_form(source: &str, place: At, across_lines: bool) -> String {
    let (opens, closes) = if across_lines { ("(?m:^)", "(?m:$)") } else { (r"\A", r"\z") };
    let before = if matches!(place, At::Start | At::WholeLine) { format!(r"{opens}[ \t]*?\K") } else { String::new() };
    let after = if matches!(place, At::End | At::WholeLine) { format!(r"(?=[ \t]*{closes})") } else { String::new() };
    if before.is_empty() && after.is_empty() { source.to_owned() } else { format!("{before}(?:{source}){after}") }
}

#[cfg(test)]
mod tests {
    use crate::{Program, RuleSet};

    /// How many bytes are left; or the line on which there is too much work.
    fn washed(pattern: &str, more: &str, text: &str) -> Result<usize, Option<u64>> {
        let rule = format!("remove = {{ pattern = '{pattern}'{more} }}");
        let program = Program::compile([&RuleSet::read_one_rule("test", &rule).expect("a rule")]);
        program.apply(text.as_bytes()).map(|outcome| outcome.text().len()).map_err(|error| error.line())
    }

    #[test]
    fn searches_that_look_at_the_rest_of_a_long_line_again_and_again_are_stopped() {
        let long = format!("lamp\n{}\n", "a".repeat(200_000));
        for pattern in [
            "(?=.*z)a",
            "a(?!.*b)",
            "(?<!x)a.*z",
            "(?<=a.*)b",
            "(?:(?=.*z)a)*b",
            "(?=a)a[a-q]{10000}x",
            r"((a)\2)\1.*(?=z)",
            "(?i)(?=.*Z)A",
        ] {
            assert_eq!(washed(pattern, "", &long), Err(Some(2)), "{pattern}");
            assert!(washed(pattern, "", &"lamp aab\n".repeat(20_000)).is_ok(), "{pattern} on short lines");
        }
        let across = ", across_lines = true";
        assert_eq!(washed("(?s)lamp(?=.*gale)", across, &"lamp\n".repeat(200_000)), Err(Some(1)));
        assert_eq!(washed(r"lamp(?=\n)", across, &"lamp\n".repeat(200_000)), Ok(200_000));
    }

    #[test]
    fn long_lines_that_are_looked_at_once_are_searched_to_their_end() {
        let line = "fog at noon, ".repeat(50_000) + "fog lit lit\n";
        for (pattern, gone) in [
            ("(?<=lit )lit", 3),
            (r"(\w+) \1", 7),
            ("^(?!.*gale)fog", 3),
            (r"(?<!\w)lit(?!\w)", 6),
            ("^(?=.*gale)fog", 0),
            ("fog.*?noon(?!x)", 50_000 * 11),
        ] {
            assert_eq!(washed(pattern, "", &line), Ok(line.len() - gone), "{pattern}");
        }
        assert_eq!(washed(r"(\w+)\n\1", ", across_lines = true", &line.repeat(2)), Ok(2 * line.len()));
    }
}
