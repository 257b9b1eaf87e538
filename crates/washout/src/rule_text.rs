//! The text of a rule set made from the rules of a command line or of a run.

use std::fmt::Write as _;

use washout_core::read::rule_lines;

/// A part of the rules, in the order they run.
#[derive(Clone, Debug, PartialEq, Eq, serde::Deserialize, serde::Serialize)]
#[serde(rename_all = "lowercase")]
pub(crate) enum RulePart {
    /// A rule set: what it is called, and its text.
    Set { name: String, text: String },
    /// One rule, as it is typed.
    Rule(String),
}

/// These parts as the history keeps them.
pub(crate) fn to_keep(parts: &[RulePart]) -> Option<String> {
    serde_json::to_string(parts).ok().filter(|_| !parts.is_empty())
}

/// Parts that were kept.
pub(crate) fn kept(text: &str) -> Option<Vec<RulePart>> {
    serde_json::from_str(text).ok()
}

/// One rule set of all these. A set stays as it is, comments and all, if it is the only one; of several, the rules alone
/// are taken.
///
/// # Errors
/// Several sets cannot be one, and why.
pub(crate) fn one_set(parts: &[RulePart]) -> Result<String, String> {
    let sets = parts.iter().filter(|part| matches!(part, RulePart::Set { .. })).count();
    let mut text = match parts.first() {
        Some(RulePart::Set { text, .. }) if sets == 1 => text.clone(),
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
            RulePart::Set { name, text: set } => text += &rules_of(name, set)?,
        }
    }
    Ok(text)
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
        let set = |name: &str, text: &str| RulePart::Set { name: name.to_owned(), text: text.to_owned() };
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
                    RulePart::Set { name, text } => RuleSet::read(name, text),
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
                parts.iter().filter(|part| matches!(part, RulePart::Set { .. })).count() == 1 && one.starts_with('#')
            );
        }
        let protecting = "protect.text = 'x'\n[[rule]]\nremove.chars = 'x'\n";
        assert!(one_set(&[set("one", first), set("two", protecting)]).is_err_and(|why| why.contains("`protect`")));
    }
}
