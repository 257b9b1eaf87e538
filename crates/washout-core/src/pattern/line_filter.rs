//! Which lines a pattern that looks around or refers back may match at all, by a plain expression that matches no less: the
//! plain engine is many times as fast.

use std::sync::OnceLock;

use regex_automata::meta::{Cache, Regex};
use regex_automata::{Input, util::syntax};

use super::cost::loose_form;

/// A longer line is searched in any case, in bytes: looking through it twice would not be worth it.
const LONGEST: usize = 64 << 10;

/// The largest that the plain expression may be compiled, in bytes.
const SIZE_LIMIT: usize = 1 << 20;

/// The plain expression, compiled when it is first needed; `None`: it would match everything, or be too large.
#[derive(Debug)]
pub(super) struct LineFilter {
    pattern: String,
    regex: OnceLock<Option<Regex>>,
}

impl LineFilter {
    /// `pattern`: in the syntax of the backtracking engine, its flags in it.
    pub(super) fn new(pattern: String) -> Self {
        Self { pattern, regex: OnceLock::new() }
    }

    /// Whether there may be a match in this line, which has no line end.
    pub(super) fn may_match(&self, line: &[u8], cache: &mut Option<Cache>) -> bool {
        // The other engine takes broken bytes for characters.
        if line.len() > LONGEST || std::str::from_utf8(line).is_err() {
            return true;
        }
        let Some(regex) = self.regex.get_or_init(|| compile(&self.pattern)) else { return true };
        let cache = cache.get_or_insert_with(|| regex.create_cache());
        regex.search_half_with(cache, &Input::new(line).earliest(true)).is_some()
    }
}

fn compile(pattern: &str) -> Option<Regex> {
    let config = Regex::config().utf8_empty(false).nfa_size_limit(Some(SIZE_LIMIT));
    let syntax = syntax::Config::new().utf8(false);
    let regex = Regex::builder().configure(config).syntax(syntax).build(&loose_form(pattern)?).ok()?;
    (!regex.is_match("")).then_some(regex)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lines_that_cannot_match_are_told_from_others() {
        for (pattern, may, cannot) in [
            ("(?<!x)lamp(?!room)", "a lamp", "a light"),
            (r"(\d\d)-\1", "12-34", "12 34"),
            ("(?i)fog(?=horn)", "FOG", "f o g"),
            (r"\Aum(?= )", "um", "fog um"),
            ("(?<=a)[#*]{2,}(?=b)", "##", "# #"),
            ("(lamp|horn)(?(1)x|y)", "hornx", "lampz"),
            (r"(\Aa)\1", "aa", "b"),
            (r"(?m:(^a)b?)\1", "aba", "b"),
            (r"(a)b(?i:\1)", "abA", "a"),
        ] {
            let (filter, mut cache) = (LineFilter::new(pattern.to_owned()), None);
            assert!(filter.may_match(may.as_bytes(), &mut cache), "{pattern}: {may}");
            assert!(!filter.may_match(cannot.as_bytes(), &mut cache), "{pattern}: {cannot}");
        }
        let anything = LineFilter::new("(?=.*z)a*".to_owned());
        assert!(anything.may_match(b"fog", &mut None), "an empty match is one");
    }
}
