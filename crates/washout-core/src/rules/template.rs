//! What `replace` puts in place of a match.

/// The parts of a replacement, checked against the groups of its pattern.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Template {
    source: String,
    parts: Vec<Part>,
}

/// One part of a replacement.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Part {
    /// These characters.
    Literal(String),
    /// What this group of the pattern matched, or nothing if it took no part. Group 0 is the whole match.
    Group(usize),
}

/// Why a replacement means nothing.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum TemplateError {
    /// `${` without its `}`.
    Unclosed {
        /// Where the `$` is, in bytes.
        at: usize,
    },
    /// A reference to a group the pattern does not have.
    NoGroup {
        /// Where the `$` is, in bytes.
        at: usize,
        /// The reference as read, without `$` and braces.
        name: String,
        /// The reference as it was probably meant, when there is one.
        meant: Option<String>,
    },
}

impl Template {
    /// A replacement in which nothing is special.
    pub fn literal(text: &str) -> Self {
        let parts = if text.is_empty() { Vec::new() } else { vec![Part::Literal(text.to_owned())] };
        Self { source: text.to_owned(), parts }
    }

    /// A replacement for a pattern with these groups: `$1`, `${name}`, and `$$` for a dollar sign. A `$` before
    /// anything else stands for itself.
    ///
    /// # Errors
    /// A reference to no group, or one that is not closed.
    pub fn parse(source: &str, groups: &[Option<String>]) -> Result<Self, TemplateError> {
        let mut parts = Vec::new();
        let mut literal = String::new();
        let mut at = 0;
        while let Some(found) = source[at..].find('$') {
            let dollar = at + found;
            literal.push_str(&source[at..dollar]);
            let rest = &source[dollar + 1..];
            if rest.starts_with('$') {
                literal.push('$');
                at = dollar + 2;
                continue;
            }
            let Some((name, len)) = reference(rest).map_err(|()| TemplateError::Unclosed { at: dollar })? else {
                literal.push('$');
                at = dollar + 1;
                continue;
            };
            let group = find_group(name, groups).ok_or_else(|| no_group(dollar, name, groups))?;
            push_literal(&mut parts, &mut literal);
            parts.push(Part::Group(group));
            at = dollar + 1 + len;
        }
        literal.push_str(&source[at..]);
        push_literal(&mut parts, &mut literal);
        Ok(Self { source: source.to_owned(), parts })
    }

    /// The replacement as written.
    pub fn source(&self) -> &str {
        &self.source
    }

    /// Its parts, in order.
    pub fn parts(&self) -> &[Part] {
        &self.parts
    }

    /// The replacement, if it is the same for every match.
    pub(crate) fn as_literal(&self) -> Option<&str> {
        match &self.parts[..] {
            [] => Some(""),
            [Part::Literal(literal)] => Some(literal),
            _ => None,
        }
    }
}

fn push_literal(parts: &mut Vec<Part>, literal: &mut String) {
    if !literal.is_empty() {
        parts.push(Part::Literal(std::mem::take(literal)));
    }
}

/// The name after a `$` and the bytes it covers, braces included. `Ok(None)`: the `$` refers to nothing.
fn reference(rest: &str) -> Result<Option<(&str, usize)>, ()> {
    if let Some(braced) = rest.strip_prefix('{') {
        let close = braced.find('}').ok_or(())?;
        return Ok(Some((&braced[..close], close + 2)));
    }
    let len = rest.find(|character: char| !is_name(character)).unwrap_or(rest.len());
    Ok((len > 0).then(|| (&rest[..len], len)))
}

fn is_name(character: char) -> bool {
    character == '_' || character.is_ascii_alphanumeric()
}

fn find_group(name: &str, groups: &[Option<String>]) -> Option<usize> {
    match name.parse::<usize>() {
        Ok(number) => (number < groups.len()).then_some(number),
        Err(_) => groups.iter().position(|group| group.as_deref() == Some(name)),
    }
}

/// The longest beginning of the name that is a group is what was meant: `$1_x` is `${1}_x`.
#[cold]
fn no_group(at: usize, name: &str, groups: &[Option<String>]) -> TemplateError {
    let prefixes = (1..name.len()).rev().filter(|len| name.is_char_boundary(*len));
    let meant = prefixes.map(|len| name.split_at(len)).find(|(prefix, _)| find_group(prefix, groups).is_some());
    let meant = meant.map(|(prefix, rest)| format!("${{{prefix}}}{rest}"));
    TemplateError::NoGroup { at, name: name.to_owned(), meant }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn groups() -> Vec<Option<String>> {
        vec![None, None, Some("year".to_owned())]
    }

    #[test]
    fn references_and_dollar_signs_are_told_apart() {
        use Part::{Group, Literal};
        let literal = |text: &str| Literal(text.to_owned());
        for (source, want) in [
            ("", vec![]),
            ("$1-$year", vec![Group(1), literal("-"), Group(2)]),
            ("${1}_${year}x", vec![Group(1), literal("_"), Group(2), literal("x")]),
            ("US$$ 5, $ 6, 7$", vec![literal("US$ 5, $ 6, 7$")]),
            ("$0$0", vec![Group(0), Group(0)]),
        ] {
            assert_eq!(Template::parse(source, &groups()).map(|template| template.parts), Ok(want), "{source:?}");
        }
    }

    #[test]
    fn a_reference_to_no_group_says_what_was_meant() {
        for (source, at, name, meant) in [
            ("a$1_x", 1, "1_x", Some("${1}_x")),
            ("$yearly", 0, "yearly", Some("${year}ly")),
            ("$3", 0, "3", None),
            ("${month}", 0, "month", None),
        ] {
            let error = TemplateError::NoGroup { at, name: name.into(), meant: meant.map(Into::into) };
            assert_eq!(Template::parse(source, &groups()), Err(error), "{source:?}");
        }
        assert_eq!(Template::parse("x${1", &groups()), Err(TemplateError::Unclosed { at: 1 }));
    }
}
