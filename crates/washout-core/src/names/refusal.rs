//! Why a name is left alone.

use std::fmt::{self, Display, Formatter};

use bstr::ByteSlice;

/// Why a name does not become another.
#[derive(Clone, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub enum Refusal {
    /// The rules leave nothing of the part they see.
    NothingLeft,
    /// It would be `.` or `..`, which stand for folders.
    Dots,
    /// A `/` would come into it, which parts folders.
    Separator,
    /// A NUL would come into it, which ends names.
    Nul,
    /// It would be longer than 255 bytes, this many.
    TooLong(usize),
    /// A leading dot would hide it.
    Hidden,
    /// A control character or line end would come into it.
    Control,
    /// Other systems do not have such names; why, in words.
    NotPortable(&'static str),
    /// Another file has the name, and keeps it.
    Taken(Vec<u8>),
    /// Other files want the name too: this one, and that many more.
    Wanted(Vec<u8>, usize),
    /// Another name would differ in letter case or Unicode form only: this one.
    Alike(Vec<u8>),
    /// A rule cannot go on; why, in words.
    Rule(String),
}

impl Refusal {
    /// A word for programs.
    pub fn key(&self) -> &'static str {
        match self {
            Self::NothingLeft => "nothing-left",
            Self::Dots => "dots",
            Self::Separator => "separator",
            Self::Nul => "nul",
            Self::TooLong(_) => "too-long",
            Self::Hidden => "hidden",
            Self::Control => "control",
            Self::NotPortable(_) => "not-portable",
            Self::Taken(_) => "taken",
            Self::Wanted(..) => "wanted-twice",
            Self::Alike(_) => "alike",
            Self::Rule(_) => "rule",
        }
    }

    /// The name of the other file, where there is one.
    pub fn other(&self) -> Option<&[u8]> {
        match self {
            Self::Taken(other) | Self::Wanted(other, _) | Self::Alike(other) => Some(other),
            _ => None,
        }
    }
}

impl Display for Refusal {
    fn fmt(&self, formatter: &mut Formatter<'_>) -> fmt::Result {
        match self {
            Self::NothingLeft => formatter.write_str("nothing would be left of the name"),
            Self::Dots => formatter.write_str("`.` and `..` stand for folders"),
            Self::Separator => formatter.write_str("a `/` parts folders, and cannot stand in a name"),
            Self::Nul => formatter.write_str("a NUL character cannot stand in a name"),
            Self::TooLong(bytes) => write!(formatter, "it would have {bytes} bytes, and a name has 255 at most"),
            Self::Hidden => formatter.write_str("a leading dot would hide it"),
            Self::Control => formatter.write_str("a control character or line end would come into it"),
            Self::NotPortable(why) => formatter.write_str(why),
            Self::Taken(other) => write!(formatter, "`{}` is there already", other.as_bstr()),
            Self::Wanted(other, 0) => write!(formatter, "`{}` would have the same name", other.as_bstr()),
            Self::Wanted(other, more) => {
                write!(formatter, "`{}` and {more} more would have the same name", other.as_bstr())
            }
            Self::Alike(other) => write!(
                formatter,
                "it would differ from `{}` only in letter case or Unicode form, and many systems take both for one",
                other.as_bstr()
            ),
            Self::Rule(why) => formatter.write_str(why),
        }
    }
}

/// How long a name may be, in bytes, on the file systems of Linux and the BSDs.
const LONGEST_NAME: usize = 255;

/// Why `new` can not be a name, whatever else is in its folder.
pub(super) fn refusal(old: &[u8], new: &[u8], portable: bool) -> Option<Refusal> {
    let fault = match new {
        b"" => Some(Refusal::NothingLeft),
        b"." | b".." => Some(Refusal::Dots),
        _ if new.contains(&b'/') => Some(Refusal::Separator),
        _ if new.contains(&0) => Some(Refusal::Nul),
        _ if new.len() > LONGEST_NAME => Some(Refusal::TooLong(new.len())),
        _ if has_control(new) && !has_control(old) => Some(Refusal::Control),
        _ => None,
    };
    fault.or_else(|| not_portable(new).filter(|_| portable).map(Refusal::NotPortable))
}

fn has_control(name: &[u8]) -> bool {
    name.chars().any(char::is_control)
}

/// Names that stand for devices (Microsoft, "Naming Files, Paths, and Namespaces", 2024), those with a digit aside.
const DEVICES: &[&str] = &["con", "prn", "aux", "nul", "conin$", "conout$"];

fn not_portable(name: &[u8]) -> Option<&'static str> {
    let before_dot = name.split(|byte| *byte == b'.').next().unwrap_or_default().trim_ascii_end();
    let base = before_dot.to_str_lossy().to_lowercase();
    let numbered = |prefix| {
        base.strip_prefix(prefix).is_some_and(|rest| {
            matches!(rest, "0" | "1" | "2" | "3" | "4" | "5" | "6" | "7" | "8" | "9" | "¹" | "²" | "³")
        })
    };
    if DEVICES.contains(&base.as_str()) || numbered("com") || numbered("lpt") {
        return Some("on other systems it stands for a device");
    }
    if name.last().is_some_and(|last| matches!(last, b'.' | b' ')) {
        return Some("other systems drop a dot or blank at the end of a name");
    }
    if name.find_byteset(b"<>:\"\\|?*").is_some() || name.iter().any(|byte| *byte < 0x20) {
        return Some(r#"other systems forbid < > : " \ | ? * and control characters in names"#);
    }
    name.to_str().is_err().then_some("it is not UTF-8, which other systems ask for")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_that_cannot_be() {
        let long = [b'x'; 256];
        for (new, want) in [
            (&b""[..], "nothing-left"),
            (b"..", "dots"),
            (b"a/b", "separator"),
            (b"a\0b", "nul"),
            (&long, "too-long"),
            (b"a\nb", "control"),
            (b"CON.txt", "not-portable"),
            (b"com7", "not-portable"),
            ("lpt².log".as_bytes(), "not-portable"),
            (b"CONIN$", "not-portable"),
            (b"log.", "not-portable"),
            (b"12:30.txt", "not-portable"),
            (b"caf\xE9", "not-portable"),
        ] {
            assert_eq!(refusal(b"old", new, true).map(|refusal| refusal.key()), Some(want), "{:?}", new.as_bstr());
        }
        for new in [&b"console.txt"[..], b"com10", &long[..255], b"...", "lamp ✓".as_bytes()] {
            assert_eq!(refusal(b"old", new, new != b"..."), None, "{:?}", new.as_bstr());
        }
        assert_eq!(refusal(b"a\tb", b"a\tc", false), None, "what is there already may stay");
        assert_eq!(refusal(b"old", b"12:30", false), None, "only where asked for");
    }
}
