//! The parts of a name.

use std::ops::Range;

use crate::rules::NamePart;

/// Endings that are one extension together.
const DOUBLE: &[&[u8]] =
    &[b".tar.gz", b".tar.bz2", b".tar.xz", b".tar.zst", b".tar.lz", b".tar.lzma", b".tar.br", b".tar.z"];

/// Longer than this, what follows the last dot is not an extension.
const LONGEST_EXTENSION: usize = 12;

/// Where the stem of a name is.
pub(crate) fn stem_of(name: &[u8], is_folder: bool) -> Range<usize> {
    part(name, NamePart::Stem, is_folder)
}

/// Where the part is that rules see. A folder has no extension: all after a leading dot is its stem.
pub(crate) fn part(name: &[u8], part: NamePart, is_folder: bool) -> Range<usize> {
    let start = name.iter().take_while(|byte| **byte == b'.').count();
    let end = if is_folder { name.len() } else { name.len() - extension_len(&name[start..]) };
    match part {
        NamePart::Whole => 0..name.len(),
        NamePart::Stem => start..end,
        NamePart::Extension if end < name.len() => end + 1..name.len(),
        NamePart::Extension => end..end,
    }
}

/// How long the extension is, its dot included: one to twelve letters and digits after the last dot, one of them a
/// letter; or a known double one. Something has to stand before it. `Dr. Harrow` and `draft 1.5` have none.
fn extension_len(name: &[u8]) -> usize {
    let double = DOUBLE
        .iter()
        .find(|double| name.len() > double.len() && name[name.len() - double.len()..].eq_ignore_ascii_case(double));
    if let Some(double) = double {
        return double.len();
    }
    let Some(dot) = name.iter().rposition(|byte| *byte == b'.').filter(|dot| *dot > 0) else { return 0 };
    let behind = &name[dot + 1..];
    let fits = (1..=LONGEST_EXTENSION).contains(&behind.len())
        && behind.iter().all(u8::is_ascii_alphanumeric)
        && behind.iter().any(u8::is_ascii_alphabetic);
    if fits { name.len() - dot } else { 0 }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn each_part_of_names_people_have() {
        for (name, stem, extension) in [
            ("lamp room.TIFF", "lamp room", "TIFF"),
            ("tides.1936.tar.gz", "tides.1936", "tar.gz"),
            ("TIDES.TAR.GZ", "TIDES", "TAR.GZ"),
            (".tar.gz", "tar", "gz"),
            (".profile", "profile", ""),
            (".profile.bak", "profile", "bak"),
            ("README", "README", ""),
            ("Dr. Harrow", "Dr. Harrow", ""),
            ("draft 1.5", "draft 1.5", ""),
            ("log.7z", "log", "7z"),
            ("ends with a dot.", "ends with a dot.", ""),
            ("log.a very long ending", "log.a very long ending", ""),
            ("лампа.txt", "лампа", "txt"),
        ] {
            let of = |which| std::str::from_utf8(&name.as_bytes()[part(name.as_bytes(), which, false)]).unwrap();
            assert_eq!((of(NamePart::Stem), of(NamePart::Extension)), (stem, extension), "{name}");
            assert_eq!(of(NamePart::Whole), name);
        }
        assert_eq!(part(b".old.scans", NamePart::Stem, true), 1..10, "a folder has no extension");
    }
}
