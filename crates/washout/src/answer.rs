//! Questions that are answered in words.

use std::io::{self, BufRead, IsTerminal, Write};

use crate::show::style::QUIET;

/// An answer to a question.
pub(crate) struct Answer<T> {
    /// One word or two. Beginnings of them do, as long as no other answer has them too.
    pub(crate) words: &'static str,
    /// What it does.
    pub(crate) does: &'static str,
    pub(crate) means: T,
}

/// Says what can be answered.
pub(crate) fn explain<T>(answers: &[Answer<T>], out: &mut impl Write) -> io::Result<()> {
    let width = answers.iter().map(|answer| answer.words.len()).max().unwrap_or(0);
    for Answer { words, does, .. } in answers {
        writeln!(out, "  {words:width$}  {does}")?;
    }
    writeln!(out, "{QUIET}Enter ends an answer; the beginnings of its words do: {}{QUIET:#}", short(answers))
}

/// `t`, `t r`: how the answers can be written in short.
fn short<T>(answers: &[Answer<T>]) -> String {
    let first = |word: &str| word.chars().next().map(String::from).unwrap_or_default();
    let of = |answer: &Answer<T>| answer.words.split(' ').map(first).collect::<Vec<_>>().join(" ");
    answers.iter().map(of).collect::<Vec<_>>().join(", ")
}

/// Asks for a line and reads it. `None`: the input is over.
pub(crate) fn typed(question: &str, out: &mut impl Write) -> io::Result<Option<String>> {
    write!(out, "{question}")?;
    out.flush()?;
    let mut typed = String::new();
    let read = io::stdin().lock().read_line(&mut typed)?;
    if !io::stdin().is_terminal() {
        writeln!(out)?;
    }
    Ok((read > 0).then_some(typed))
}

/// Asks until there is an answer. `None`: the input is over.
pub(crate) fn ask<T: Copy>(question: &str, answers: &[Answer<T>], out: &mut impl Write) -> io::Result<Option<T>> {
    loop {
        let Some(typed) = typed(&format!("{question}: {}, then Enter: ", listed(answers)), out)? else {
            return Ok(None);
        };
        match meant(&typed, answers) {
            Some(answer) => return Ok(Some(answer.means)),
            None => explain(answers, out)?,
        }
    }
}

fn listed<T>(answers: &[Answer<T>]) -> String {
    let words: Vec<&str> = answers.iter().map(|answer| answer.words).collect();
    match &words[..] {
        [before @ .., last] if !before.is_empty() => format!("{} or {last}", before.join(", ")),
        words => words.concat(),
    }
}

/// The one answer that begins with these words, each by itself.
fn meant<'a, T>(typed: &str, answers: &'a [Answer<T>]) -> Option<&'a Answer<T>> {
    let typed: Vec<String> = typed.split_whitespace().map(str::to_lowercase).collect();
    let begins = |answer: &&Answer<T>| {
        let words: Vec<&str> = answer.words.split(' ').collect();
        words.len() == typed.len() && words.iter().zip(&typed).all(|(word, typed)| word.starts_with(typed.as_str()))
    };
    let mut found = answers.iter().filter(begins);
    found.next().filter(|_| found.next().is_none())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn beginnings_that_only_one_answer_has_are_enough() {
        let answers = ["take", "leave", "take rule", "take file", "stop", "start"].map(|words| Answer {
            words,
            does: "",
            means: words,
        });
        let meant = |typed| meant(typed, &answers).map(|answer| answer.means);
        for (typed, want) in [
            ("take\n", Some("take")),
            ("t", Some("take")),
            (" L ", Some("leave")),
            ("t r", Some("take rule")),
            ("take f", Some("take file")),
            ("sto", Some("stop")),
            ("st", None),
            ("y", None),
            ("t x", None),
            ("", None),
        ] {
            assert_eq!(meant(typed), want, "{typed:?}");
        }
    }
}
