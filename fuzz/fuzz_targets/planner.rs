//! Plans of names: any folder and any requests. Carried out on a folder in memory, no file is lost, and the way back is exact.

#![no_main]

#[path = "../../crates/washout-core/tests/folder/mod.rs"]
mod folder;

use folder::Folder;
use libfuzzer_sys::fuzz_target;
use washout_core::names::{NameRequest, OnClash, Planner};

fuzz_target!(|input: &str| {
    let mut characters = input.chars();
    let (folds, numbers) = (characters.next() == Some('f'), characters.next() == Some('n'));
    // A line for each file: its name, and after a colon the one that is wished for.
    let lines: Vec<&str> = characters.as_str().split('\n').take(24).collect();
    let seen = |name: &str| if folds { name.to_lowercase() } else { name.to_owned() };
    let mut files: Vec<(String, Option<String>)> = Vec::new();
    for line in lines {
        let (name, wish) = line.split_once(':').map_or((line, None), |(name, wish)| (name, Some(wish.to_owned())));
        let is_name = (1..=255).contains(&name.len()) && !name.contains(['/', '\0']) && name != "." && name != "..";
        if is_name && !files.iter().any(|(other, _)| seen(other) == seen(name)) {
            files.push((name.to_owned(), wish));
        }
    }
    files.sort_by_key(|(name, _)| seen(name));
    let names: Vec<String> = files.iter().map(|(name, _)| name.clone()).collect();
    let start = Folder::of(&names, folds);
    let wish = |wanted: &Option<String>| wanted.clone().map_or(NameRequest::Stay, |name| NameRequest::Become(name.into_bytes()));
    let entries: Vec<_> = files.iter().map(|(name, wanted)| (name, false, wish(wanted))).collect();
    let on_clash = if numbers { OnClash::Number } else { OnClash::Refuse };
    let plan = Planner { on_clash, folds, ..Planner::default() }.plan(&entries);
    let mut folder = start.clone();
    folder.carry_out(&names, &plan);
    let now = folder.names();
    let back: Vec<_> = now.iter().zip(&names).map(|(now, old)| (now, false, NameRequest::Become(old.clone().into_bytes()))).collect();
    let undo = Planner { folds, restores: true, ..Planner::default() }.plan(&back);
    folder.carry_out(&now, &undo);
    assert_eq!(folder, start);
});
