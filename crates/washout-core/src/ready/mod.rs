//! Whole rule sets to use by name, or to copy and edit.

/// A rule set that comes with the program.
///
/// ```
/// let prose = washout_core::ready::ReadySet::find("prose").expect("a ready set");
/// assert!(washout_core::RuleSet::read(prose.name, prose.source).is_ok());
/// ```
#[derive(Clone, Copy, Debug)]
pub struct ReadySet {
    /// Its name: rules write `ready:NAME`.
    pub name: &'static str,
    /// Its text, a TOML file like any other.
    pub source: &'static str,
}

macro_rules! ready {
    ($name:literal) => {
        ReadySet { name: $name, source: include_str!(concat!("../../ready/", $name, ".wash.toml")) }
    };
}

impl ReadySet {
    /// Every ready set, in the order they are listed to people.
    pub const ALL: &[Self] = &[
        ready!("transcript"),
        ready!("captions"),
        ready!("scanned-page"),
        ready!("prose"),
        ready!("source-code"),
        ready!("tokens"),
        ready!("people"),
        ready!("file-names"),
        ready!("armour"),
    ];

    /// What stands before the name of a ready set where a file could be named too.
    pub const PREFIX: &str = "ready:";

    /// The set of that name.
    pub fn find(name: &str) -> Option<&'static Self> {
        Self::ALL.iter().find(|set| set.name == name)
    }
}
