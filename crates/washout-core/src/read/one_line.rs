//! Rules given on a command line: raw text where TOML would want quotes that the shell has eaten.

use std::fmt::Write as _;

use toml::de::{DeTable, DeValue};

/// The rule as TOML, if it only becomes TOML by taking its right side as raw text.
pub(super) fn as_toml(source: &str) -> Option<String> {
    if source.starts_with('{') || DeTable::parse(source).is_ok() {
        return None;
    }
    let (key, raw) = source.split_once('=')?;
    let key = key.trim();
    let dotted =
        key.contains('.') && key.bytes().all(|byte| byte.is_ascii_alphanumeric() || matches!(byte, b'_' | b'-' | b'.'));
    let raw = raw.strip_prefix(' ').unwrap_or(raw);
    // Where quotes are there, or one of them, and something is wrong with them, a message helps more.
    let opened = raw.trim().len() > 1 && raw.starts_with(['"', '\'', '“', '„', '«', '‘']);
    let quoted = opened && (raw.starts_with(['"', '\'']) || raw.trim().chars().count() > 2);
    (dotted && !raw.trim().is_empty() && !quoted).then(|| format!("{key} = {}", toml_string(raw)))
}

/// The keys of a rule as they stand in a file, after `[[rule]]`: a rule that can be read on a command line, in lines of TOML.
///
/// ```
/// use washout_core::read::rule_lines;
///
/// assert_eq!(rule_lines(r"remove.pattern = \d+$"), "remove.pattern = '\\d+$'\n");
/// assert_eq!(rule_lines("{ fields = 'Keeper', trim = {} }"), "fields = \"Keeper\"\ntrim = {}\n");
/// ```
pub fn rule_lines(source: &str) -> String {
    if source.starts_with('{')
        && let Ok(table) = toml::from_str::<toml::Table>(&format!("rule = {source}"))
        && let Some(toml::Value::Table(rule)) = table.get("rule")
    {
        return rule.iter().fold(String::new(), |mut lines, (key, value)| {
            let _ = writeln!(lines, "{key} = {value}");
            lines
        });
    }
    as_toml(source).unwrap_or_else(|| source.trim_end().to_owned()) + "\n"
}

/// The keys of a rule: as in a file, or within braces.
pub(super) fn parse(source: &str) -> (DeTable<'_>, Vec<toml::de::Error>) {
    if source.starts_with('{') {
        let (value, errors) = DeValue::parse_recoverable(source.trim_end());
        if let DeValue::Table(table) = value.into_inner() {
            return (table, errors);
        }
    }
    let (table, errors) = DeTable::parse_recoverable(source);
    (table.into_inner(), errors)
}

/// A TOML string of this value: literal where that can be, since then messages show the text as it was given.
fn toml_string(value: &str) -> String {
    if !value.contains('\'') && !value.chars().any(|character| character.is_control() && character != '\t') {
        return format!("'{value}'");
    }
    let mut string = String::from('"');
    for character in value.chars() {
        match character {
            '"' | '\\' => string.extend(['\\', character]),
            _ if character.is_control() => drop(write!(string, "\\U{:08X}", u32::from(character))),
            _ => string.push(character),
        }
    }
    string.push('"');
    string
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn only_what_is_no_toml_is_taken_as_raw_text() {
        for (source, want) in [
            (r##"remove.chars = "#-""##, None),
            (r"remove.pattern = \d+$", Some(r"remove.pattern = '\d+$'")),
            ("remove.pattern = [a-z]+", Some("remove.pattern = '[a-z]+'")),
            ("remove.chars = #-", Some("remove.chars = '#-'")),
            ("remove.chars='", Some(r#"remove.chars = "'""#)),
            ("remove.text =  a = b", Some("remove.text = ' a = b'")),
            ("remove.text = it's \"so\\\"", Some(r#"remove.text = "it's \"so\\\"""#)),
            ("remove = { chars = \"#", None),
            ("remove.chars = \"#-", None),
            ("remove.chars = “#-”", None),
            ("remove.chars = “”", Some("remove.chars = '“”'")),
            (r#"remove.pattern = "\d""#, None),
            ("remove.chars =", None),
            ("nonsense", None),
        ] {
            assert_eq!(as_toml(source).as_deref(), want, "{source}");
        }
    }
}
