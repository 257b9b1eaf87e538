//! What Washout is measured by.

use std::fs::{self, File};
use std::io::{self, Read, Write};
use std::path::Path;

use regex::bytes::Regex;
use washout_bench::TWELVE_PATTERNS;

/// Patterns, and what is put in place of what they match.
type Rules = &'static [(&'static str, &'static str)];

/// The three rules for one line as patterns.
pub(crate) const LINE_PATTERNS: Rules =
    &[(r"[\x00-\x08\x0B\x0C\x0E-\x1F\x7F\u{80}-\u{9F}]", ""), ("um", "hm"), (r"\brelief\b", "")];

/// One `replace_all` for each rule over the whole text.
pub(crate) fn plain_loop(rules: Rules, from: &Path, to: &Path) -> io::Result<()> {
    let mut text = fs::read(from)?;
    for (pattern, with) in rules {
        let regex = Regex::new(pattern).map_err(io::Error::other)?;
        text = regex.replace_all(&text, with.as_bytes()).into_owned();
    }
    fs::write(to, text)
}

/// The same with the twelve rules for every file of a folder; an error if any of them is to be changed.
pub(crate) fn plain_files(folder: &Path) -> io::Result<()> {
    let compile = |(pattern, with): &(&'static str, &'static str)| Ok((Regex::new(pattern)?, *with));
    let rules: Vec<(Regex, &str)> =
        TWELVE_PATTERNS.iter().map(compile).collect::<Result<_, regex::Error>>().map_err(io::Error::other)?;
    for entry in fs::read_dir(folder)? {
        let text = fs::read(entry?.path())?;
        for (regex, with) in &rules {
            if let std::borrow::Cow::Owned(_) = regex.replace_all(&text, with.as_bytes()) {
                return Err(io::Error::other("a file is not clean"));
            }
        }
    }
    Ok(())
}

/// The plain loop for a table.
pub(crate) fn plain_table(from: &Path, to: &Path) -> Result<(), Box<dyn std::error::Error>> {
    washout_bench::plain_table_loop(File::open(from)?, File::create(to)?)
}

/// Reads and writes, and does nothing besides.
pub(crate) fn copy(from: &Path, to: &Path) -> io::Result<()> {
    let (mut from, mut to) = (File::open(from)?, File::create(to)?);
    let mut chunk = vec![0; 256 << 10];
    loop {
        match from.read(&mut chunk)? {
            0 => return Ok(()),
            read => to.write_all(&chunk[..read])?,
        }
    }
}

/// Reads every file of a folder.
pub(crate) fn read_all(folder: &Path) -> io::Result<()> {
    let mut text = Vec::new();
    for entry in fs::read_dir(folder)? {
        text.clear();
        File::open(entry?.path())?.read_to_end(&mut text)?;
    }
    Ok(())
}

/// The same loops in Python: over a file, or over a folder, where it is an error if any file is to be changed.
pub(crate) fn python(rules: Rules) -> String {
    let mut script = String::from("import os, re, sys\nrules = [\n");
    for (pattern, with) in rules {
        // Python writes code points without braces, and groups with a backslash.
        let (mut python, mut rest) = (String::new(), *pattern);
        while let Some((before, after)) = rest.split_once(r"\u{") {
            let (code, behind) = after.split_once('}').unwrap_or((after, ""));
            python.push_str(before);
            python.push_str(r"\u");
            python.extend(std::iter::repeat_n('0', 4_usize.saturating_sub(code.len())));
            python.push_str(code);
            rest = behind;
        }
        python.push_str(rest);
        let put = with.replace('$', "\\");
        script.extend(["    (", &format!("{python:?}"), ", ", &format!("{put:?}"), "),\n"]);
    }
    script.push_str(
        "]\n\
         def read(path):\n\
         \x20   return open(path, encoding='utf-8', newline='').read()\n\
         def washed(text):\n\
         \x20   for pattern, put in rules:\n\
         \x20       text = re.sub(pattern, put, text)\n\
         \x20   return text\n\
         if os.path.isdir(sys.argv[1]):\n\
         \x20   for entry in os.scandir(sys.argv[1]):\n\
         \x20       text = read(entry.path)\n\
         \x20       if washed(text) != text:\n\
         \x20           sys.exit(entry.path + ' is not clean')\n\
         else:\n\
         \x20   open(sys.argv[2], 'w', encoding='utf-8', newline='').write(washed(read(sys.argv[1])))\n",
    );
    script
}
