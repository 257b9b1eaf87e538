//! Rules that may be part of what is learnt, each with its price.

use std::fmt::Write as _;

use crate::learn::pattern::{Pattern, size};

/// The price of any rule: one rule is cheaper than two.
const RULE: u32 = 20;

/// A rule that may be part of a set.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(in crate::learn) struct Offer {
    /// As the set writes it: `remove = { chars = "_" }`.
    pub(in crate::learn) rule: String,
    pub(in crate::learn) price: u32,
    /// To be tried where this rule touches what should stay.
    pub(in crate::learn) narrower: Vec<Offer>,
    /// It puts letters or digits that are not in the text.
    pub(in crate::learn) puts_words: bool,
}

impl Offer {
    pub(in crate::learn) fn new(rule: impl Into<String>, price: u32) -> Self {
        Self { rule: rule.into(), price: price + RULE, narrower: Vec::new(), puts_words: false }
    }

    /// The same rule, which puts this.
    pub(in crate::learn) fn putting(mut self, put: &str) -> Self {
        self.puts_words = put.chars().any(char::is_alphanumeric);
        self.narrower = self.narrower.into_iter().map(|offer| offer.putting(put)).collect();
        self
    }

    /// A verb with this target and further keys.
    pub(in crate::learn) fn on(verb: &str, target: &Target, more: &str, price: u32) -> Self {
        let narrower = target.narrower.iter().map(|target| Self::on(verb, target, more, price)).collect();
        let comma = if more.is_empty() { "" } else { ", " };
        let rule = format!("{verb} = {{ {}{comma}{more} }}", target.keys);
        Self { narrower, ..Self::new(rule, price + target.price) }
    }
}

/// What a rule acts on, as it is written: `chars = "_", at = "end"`.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(in crate::learn) struct Target {
    pub(in crate::learn) keys: String,
    pub(in crate::learn) price: u32,
    /// The `with` of a rule may refer to groups, so that a dollar sign is written twice.
    pub(in crate::learn) is_pattern: bool,
    narrower: Vec<Target>,
}

/// The price of a pattern over that of its parts.
const PATTERN: u32 = 14;

impl Target {
    pub(in crate::learn) fn new(keys: impl Into<String>, price: u32) -> Self {
        Self { keys: keys.into(), price, is_pattern: false, narrower: Vec::new() }
    }

    pub(in crate::learn) fn pattern(pattern: &Pattern) -> Self {
        let keys = format!("pattern = {}", quoted(&pattern.source));
        Self { is_pattern: true, ..Self::new(keys, PATTERN + pattern.price) }
    }

    pub(in crate::learn) fn chars(characters: &[char]) -> Self {
        let price = 6 + characters.iter().map(|character| price_of(*character)).sum::<u32>();
        Self::new(format!("chars = {}", quoted(&characters.iter().collect::<String>())), price)
    }

    /// Strings or words; each more than one costs more, and so does each letter or digit.
    pub(in crate::learn) fn list(key: &str, entries: &[String], is_shared: bool) -> Self {
        let prices = entries.iter().map(|entry| Pattern::literal(&entry.chars().collect::<Vec<_>>(), is_shared).price);
        let has_word = |entry: &&String| entry.chars().any(char::is_alphanumeric);
        let words = if entries.len() > 1 && key == "text" { entries.iter().filter(has_word).count() } else { 0 };
        let each = if key == "text" { 14 } else { 7 };
        let more = each * size(entries).saturating_sub(1) + 10 * u32::try_from(words).unwrap_or(0);
        let digits = entries.iter().flat_map(|entry| entry.chars()).filter(char::is_ascii_digit).count();
        // A number that is in one text alone is hardly the one that is meant.
        let digits = match entries.len() {
            1 if is_shared || digits == 0 => 0,
            1 => 8,
            _ => 4 * u32::try_from(digits).unwrap_or(0),
        };
        let price = 8 + prices.sum::<u32>() + more + digits;
        Self::new(format!("{key} = {}", quoted_list(entries)), price)
    }

    /// With one more key.
    pub(in crate::learn) fn with(&self, more: &str, price: u32) -> Self {
        Self {
            keys: if more.is_empty() { self.keys.clone() } else { format!("{}, {more}", self.keys) },
            price: self.price + price,
            is_pattern: self.is_pattern,
            narrower: Vec::new(),
        }
    }

    /// The same for more, and what is to be tried instead too.
    pub(in crate::learn) fn dearer(mut self, price: u32) -> Self {
        self.price += price;
        self.narrower.iter_mut().for_each(|target| target.price += price);
        self
    }

    /// With these to be tried where this one touches what should stay.
    pub(in crate::learn) fn or(self, narrower: Vec<Target>) -> Self {
        Self { narrower, ..self }
    }

    /// With the first and the last match of a line to be tried instead.
    pub(in crate::learn) fn or_one_of_line(mut self) -> Self {
        let ones = [self.with("which = \"first\"", 8), self.with("which = \"last\"", 9)];
        self.narrower.extend(ones);
        self
    }
}

/// What a character costs in a list of characters.
fn price_of(character: char) -> u32 {
    if character.is_alphanumeric() {
        9
    } else if character.is_ascii() {
        3
    } else {
        5
    }
}

/// As TOML writes a string; what cannot be seen is spelled out.
pub(in crate::learn) fn quoted(text: &str) -> String {
    let is_hidden = |character: char| {
        (character.is_control() || character.is_whitespace() && character != ' ')
            || matches!(character, '\u{AD}' | '\u{300}'..='\u{36F}' | '\u{200B}'..='\u{200F}' | '\u{2028}'..='\u{202E}' | '\u{2060}'..='\u{206F}' | '\u{FE00}'..='\u{FE0F}' | '\u{FEFF}')
    };
    if !text.chars().any(is_hidden) {
        return toml::Value::from(text).to_string();
    }
    let mut written = String::from("\"");
    for character in text.chars() {
        match character {
            '\n' => written.push_str("\\n"),
            '\r' => written.push_str("\\r"),
            '\t' => written.push_str("\\t"),
            '"' | '\\' => written.extend(['\\', character]),
            _ if is_hidden(character) => {
                let _ = write!(written, "\\u{:04X}", u32::from(character));
            }
            _ => written.push(character),
        }
    }
    written.push('"');
    written
}

/// One string, or a list of them.
pub(in crate::learn) fn quoted_list(entries: &[String]) -> String {
    match entries {
        [one] => quoted(one),
        _ => format!("[{}]", entries.iter().map(|entry| quoted(entry)).collect::<Vec<_>>().join(", ")),
    }
}

/// What takes the place of a match, as the key `with` of this target.
pub(in crate::learn) fn with(target: &Target, put: &str) -> String {
    let put = if target.is_pattern { put.replace('$', "$$") } else { put.to_owned() };
    format!("with = {}", quoted(&put))
}
