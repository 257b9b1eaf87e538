//! `[names]`: what rules see of the names of files.

use super::fields::Fields;
use super::problem::Problems;
use crate::rules::{NamePart, NameSettings};

pub(super) fn names(fields: &mut Fields<'_>, problems: &mut Problems) -> NameSettings {
    if fields.place_of("names").is_none() {
        fields.present(&["names"]);
        return NameSettings::default();
    }
    let Some(mut names) = fields.table("names", "[names] on a line of its own, and its keys below", problems) else {
        return NameSettings::default();
    };
    let parts = [("stem", NamePart::Stem), ("extension", NamePart::Extension), ("whole", NamePart::Whole)];
    let part = names.choice("part", &parts, problems);
    let blanks = names.string_at("blanks", problems);
    if let Some(other) = blanks.as_ref().and_then(|blanks| blanks.value.chars().find(|c| !is_plain(*c))) {
        let place = blanks.as_ref().map_or(0..0, |blanks| blanks.place.clone());
        let message = format!("`{}` cannot count as a blank", other.escape_default());
        let help = "blanks are ASCII marks such as _ + -; replace others by a blank with a rule first";
        problems.add_helped(place, message, "not one of them", help);
    }
    names.refuse_rest(problems, |_| None);
    NameSettings { part, blanks: blanks.map(|blanks| blanks.value) }
}

fn is_plain(character: char) -> bool {
    character == ' ' || character.is_ascii_punctuation()
}
