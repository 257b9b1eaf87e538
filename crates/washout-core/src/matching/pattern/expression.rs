//! A regular expression that is compiled when it is first searched for: most texts hold nothing that most patterns look
//! for, and short runs are to be short.

use std::sync::OnceLock;

use regex_automata::util::captures::Captures;
use regex_automata::{PatternID, meta};
use regex_syntax::hir::Hir;

use super::size::upper_bound;

/// The largest a compiled pattern may be, in bytes; more is nearly always a slip such as `\w{1,5000}`.
pub(super) const SIZE_LIMIT: usize = 20 << 20;

/// An expression, checked.
#[derive(Debug)]
pub(super) struct Expression {
    hir: Hir,
    regex: OnceLock<meta::Regex>,
}

/// The memory searches for one expression need; one for each thread.
#[derive(Debug)]
pub(super) struct Search {
    pub(super) cache: meta::Cache,
    pub(super) captures: Captures,
}

impl Expression {
    /// # Errors
    /// A message, if it would be larger than it may be.
    pub(super) fn new(hir: Hir) -> Result<Self, String> {
        let regex = OnceLock::new();
        if upper_bound(&hir) > SIZE_LIMIT as u64 {
            // Only compiling it tells how large it is.
            let _ = regex.set(compile(&hir)?);
        }
        Ok(Self { hir, regex })
    }

    pub(super) fn hir(&self) -> &Hir {
        &self.hir
    }

    pub(super) fn regex(&self) -> &meta::Regex {
        self.regex
            .get_or_init(|| compile(&self.hir).expect("OK because it is not too large, and nothing else can fail"))
    }

    pub(super) fn search<'s>(&self, memory: &'s mut Option<Search>) -> &'s mut Search {
        memory.get_or_insert_with(|| {
            let regex = self.regex();
            Search { cache: regex.create_cache(), captures: regex.create_captures() }
        })
    }
}

fn compile(hir: &Hir) -> Result<meta::Regex, String> {
    let config = meta::Config::new()
        .utf8_empty(false) // texts may be broken; `is_place` filters instead
        .nfa_size_limit(Some(SIZE_LIMIT))
        .onepass_size_limit(Some(1 << 20))
        .hybrid_cache_capacity(2 << 20);
    meta::Regex::builder().configure(config).build_from_hir(hir).map_err(|error| match error.size_limit() {
        Some(limit) => format!("the pattern is too large: compiled it would take over {} MiB", limit >> 20),
        None => match error.pattern() {
            Some(PatternID::ZERO) | None => format!("the pattern cannot be compiled: {error}"),
            Some(_) => error.to_string(),
        },
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    fn expression(pattern: &str) -> Result<Expression, String> {
        Expression::new(regex_syntax::parse(pattern).expect("a pattern"))
    }

    #[test]
    fn only_what_may_be_too_large_is_compiled_before_it_is_searched_for() {
        for (pattern, at_once) in [
            (r"(\d{2})\.(\d{2})\.(\d{4})", false),
            (r"^[\w ]{0,3}\bum\b", false),
            (r"x{1,5000}", false),
            (r"\w{400}", true),
        ] {
            let expression = expression(pattern).expect("small enough");
            assert_eq!(expression.regex.get().is_some(), at_once, "{pattern}");
            let mut memory = None;
            expression.search(&mut memory);
            assert!(memory.is_some() && expression.regex.get().is_some(), "{pattern}");
        }
        assert!(expression(r"\w{1,5000}").is_err_and(|message| message.contains("over 20 MiB")));
    }
}
