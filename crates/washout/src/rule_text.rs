//! The text of a rule set made from the rules of a command line or of a run.

use std::borrow::Cow;
use std::fmt::Write as _;

use toml::de::{DeTable, DeValue};
use washout_core::read::rule_lines;

use crate::kept_rules::{KeptSet, RulePart};

/// One rule set of all these. A set stays as it is, comments and all, if it is the only one; of several, the rules alone
/// are taken.
///
/// # Errors
/// Several sets cannot be one, and why.
pub(crate) fn one_set(parts: &[RulePart]) -> Result<String, String> {
    let sets = parts.iter().filter(|part| matches!(part, RulePart::Set(_))).count();
    let mut text = match parts.first() {
        Some(RulePart::Set(set)) if sets == 1 => text_of(set)?.into_owned(),
        _ => String::new(),
    };
    let kept = usize::from(!text.is_empty());
    for part in &parts[kept..] {
        if !text.is_empty() {
            text.push_str(if text.ends_with('\n') { "\n" } else { "\n\n" });
        }
        match part {
            RulePart::Rule(rule) => {
                let _ = write!(text, "[[rule]]\n{}", rule_lines(rule));
            }
            RulePart::Set(set) => text += &rules_of(&set.name, &text_of(set)?)?,
        }
    }
    Ok(text)
}

/// The text of a set, in which the rules that were turned off say so.
fn text_of(set: &KeptSet) -> Result<Cow<'_, str>, String> {
    if set.off.is_empty() {
        return Ok(Cow::Borrowed(&set.text));
    }
    if let Some(number) = set.off.iter().find(|number| number.contains('.')) {
        return Err(format!(
            "rule {number} of {} was off, which is one of a set that it includes: no set can say that",
            set.name
        ));
    }
    let table = DeTable::parse(&set.text).map_err(|error| format!("{}: {}", set.name, error.message()))?;
    let rules = table.get_ref().get("rule").and_then(|rules| rules.get_ref().as_array());
    let mut text = set.text.clone();
    // From the last on: what is put in moves what comes after it.
    for (index, rule) in rules.into_iter().flat_map(|rules| rules.iter().enumerate()).rev() {
        if !set.off.contains(&(index + 1).to_string()) {
            continue;
        }
        let DeValue::Table(keys) = rule.get_ref() else { continue };
        match keys.get("off") {
            Some(is_off) => text.replace_range(is_off.span(), "true"),
            None if text[rule.span().start..].starts_with('{') => {
                text.insert_str(rule.span().start + 1, " off = true,");
            }
            None => text.insert_str(rule.span().end, "\noff = true"),
        }
    }
    Ok(Cow::Owned(text))
}

/// The rules of a set without what is around them.
fn rules_of(name: &str, text: &str) -> Result<String, String> {
    let table: toml::Table = toml::from_str(text).map_err(|error| format!("{name}: {}", error.message()))?;
    if let Some(key) = table.keys().find(|key| !["title", "about", "rule", "example"].contains(&key.as_str())) {
        return Err(format!("{name} has `{key}`, which is for its own rules, so it cannot be one set with others"));
    }
    let mut rules = format!("# from {name}\n");
    let no_rules = Vec::new();
    let all = table.get("rule").and_then(toml::Value::as_array).unwrap_or(&no_rules);
    for (index, rule) in all.iter().filter_map(toml::Value::as_table).enumerate() {
        rules += if index > 0 { "\n[[rule]]\n" } else { "[[rule]]\n" };
        rules.extend(rule.iter().map(|(key, value)| format!("{key} = {value}\n")));
    }
    Ok(rules)
}

#[cfg(test)]
mod tests {
    use washout_core::{Program, RuleSet};

    use super::*;

    #[test]
    fn one_set_does_what_the_rules_do_one_after_the_other() {
        let set = |name: &str, text: &str| {
            RulePart::Set(KeptSet { name: name.to_owned(), text: text.to_owned(), off: Vec::new() })
        };
        let first = "# why\ntitle = 'one'\n[[rule]]\nremove.chars = '#'\n[[example]]\ngiven = '#'\ngives = ''";
        let second = "title = 'two'\n[[rule]]\nlabel = 'a \"b\"'\nreplace = { pattern = '(\\d)', with = '<$1>' }\n";
        let text = b"# fog 7 um\tlamp \n";
        for parts in [
            vec![set("one", first)],
            vec![set("one", first), RulePart::Rule("remove.words = um".to_owned())],
            vec![set("one", first), set("two", second), RulePart::Rule("{ trim = { at = 'end' } }".to_owned())],
            vec![RulePart::Rule("remove.pattern = \\d".to_owned()), set("two", second)],
        ] {
            let mut want = text.to_vec();
            for part in &parts {
                let set = match part {
                    RulePart::Set(KeptSet { name, text, .. }) => RuleSet::read(name, text),
                    RulePart::Rule(rule) => RuleSet::read_one_rule("rule", rule),
                };
                want = Program::compile([&set.expect("rules")]).apply(&want).expect("done").into_text().into_owned();
            }
            let one = one_set(&parts).expect("one set");
            let read = RuleSet::read("one", &one).unwrap_or_else(|error| panic!("{error}\n{one}"));
            let outcome = Program::compile([&read]).apply(text).expect("done").into_text().into_owned();
            assert_eq!(String::from_utf8_lossy(&outcome), String::from_utf8_lossy(&want), "{one}");
            assert_eq!(
                one.contains("# why"),
                parts.iter().filter(|part| matches!(part, RulePart::Set(_))).count() == 1 && one.starts_with('#')
            );
        }
        let mut off = set("off", "rule = [{ trim = {} }, { off = false, remove.chars = '#' }]\n");
        let mut other = set("other", "[[rule]] # why\ntrim.at = 'end'\n[[rule]]\nremove.chars = '#'\n");
        for part in [&mut off, &mut other] {
            let RulePart::Set(set) = part else { unreachable!("it is a set") };
            set.off = vec!["1".to_owned(), "2".to_owned()];
            let text = one_set(std::slice::from_ref(part)).expect("a set");
            let read = RuleSet::read("off", &text).unwrap_or_else(|error| panic!("{error}\n{text}"));
            assert!(read.rules.len() == 2 && read.rules.iter().all(|rule| rule.off), "{text}");
        }
        let protecting = "protect.text = 'x'\n[[rule]]\nremove.chars = 'x'\n";
        assert!(one_set(&[set("one", first), set("two", protecting)]).is_err_and(|why| why.contains("`protect`")));
    }
}
