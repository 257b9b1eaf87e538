//! A rule set made from what a survey found.

use std::fmt::Write as _;

use super::litter::Litter;
use crate::text::shown::{quoted, visible};

/// A rule set that takes this litter, in order, with a comment at each rule: a text in TOML that can be run as it is.
///
/// `names` are those of the texts, in the order of the survey. Rules that may take more than litter are off, and say why.
pub fn draft(litter: &[Litter], names: &[String]) -> String {
    let mut set = String::from(
        "# Drafted from a survey. Look at what it changes before anything is written:\n\
         #   washout clean -r THIS_FILE PATH...\n\
         # Rules run in this order; each sees what the ones before it have left.\n\
         title = \"Draft from a survey\"\n",
    );
    if litter.is_empty() {
        set.push_str("\n# The survey found no litter, so there is no rule here yet.\n");
    }
    for litter in litter {
        let _ = write!(set, "\n# {}\n", comment(litter, names));
        if let Some(doubt) = litter.doubt {
            let _ = writeln!(set, "# Off, because {doubt}. To run it, remove the line `off = true`.");
        }
        let _ = write!(set, "[[rule]]\nlabel = \"no {}\"\n", litter.kind.caption());
        if litter.doubt.is_some() {
            set.push_str("off = true\n");
        }
        let _ = writeln!(set, "{}", litter.rule);
    }
    set
}

fn comment(litter: &Litter, names: &[String]) -> String {
    let counted = |count: u64, thing: &str| format!("{count} {thing}{}", if count == 1 { "" } else { "s" });
    let places = counted(litter.count, "place");
    let files = counted(litter.texts as u64, "file");
    let first = litter.sightings.first().map(|sighting| {
        let excerpt: String = String::from_utf8_lossy(&sighting.excerpt).chars().take(60).collect();
        // A comment must not hold what the rule is to take out of texts.
        let plain: String = excerpt.chars().map(|c| if c.is_control() { ' ' } else { c }).collect();
        let name = names.get(sighting.place.text).map_or("text", String::as_str);
        format!(", first in {}:{}: {}", visible(name), sighting.place.line, quoted(plain.trim()))
    });
    format!("{places} in {files}{}", first.unwrap_or_default())
}
