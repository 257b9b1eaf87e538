//! `--ask`: each change is shown, and taken or refused.

use std::collections::HashMap;
use std::io::Write;
use std::ops::Range;

use washout_core::observe::{Detail, Hunk, Lineage, Piece, Side};
use washout_core::text::start_of_text;
use washout_core::{Program, RuleId, RuleName};
use washout_files::{Aim, Charsets, Chosen, ChosenFile, Decision, Keeper, Replacing, rewrite};

use super::way_back;
use crate::answer::{self, Answer};
use crate::exit::{Exit, Trouble};
use crate::out::print_failed;
use crate::project::Part;
use crate::show::hunk::{HunkDrawer, lines_len};
use crate::show::number::counted;
use crate::show::preview::legend;
use crate::show::screen::Screen;
use crate::show::style::{FILE, STRONG};
use crate::show::visible::{shown, shown_path};

/// What is to become of a change, and of others with it.
#[derive(Clone, Copy)]
enum ChangeVerdict {
    This { take: bool },
    Rule { take: bool },
    File { take: bool },
    Stop,
}

const ANSWERS: &[Answer<ChangeVerdict>] = &[
    Answer { words: "take", does: "make this change", means: ChangeVerdict::This { take: true } },
    Answer { words: "leave", does: "leave this place as it is", means: ChangeVerdict::This { take: false } },
    Answer { words: "take rule", does: "make all changes of this rule", means: ChangeVerdict::Rule { take: true } },
    Answer { words: "leave rule", does: "make none of this rule", means: ChangeVerdict::Rule { take: false } },
    Answer {
        words: "take file",
        does: "make this one and the rest in this file",
        means: ChangeVerdict::File { take: true },
    },
    Answer { words: "leave file", does: "leave the rest of this file", means: ChangeVerdict::File { take: false } },
    Answer {
        words: "stop",
        does: "write what was taken in this file, and look at no more",
        means: ChangeVerdict::Stop,
    },
];

/// Asks about every file.
pub(super) fn run(
    parts: &[Part],
    aim: &Aim,
    (charsets, replacing): (Charsets, Replacing),
    chosen: &Chosen,
    keeper: Option<Keeper>,
    out: &mut impl Write,
) -> Result<Exit, Trouble> {
    if matches!(aim, Aim::Preview) {
        let message = "--ask needs --write, or --into DIR: it asks what is to be written".to_owned();
        return Err(Trouble::Usage(message));
    }
    let mut asker = Asker { charsets, replacing, keeper, by_rule: HashMap::new(), taken: 0, left: 0, over: false };
    let mut failed = !chosen.failed.is_empty();
    answer::explain(ANSWERS, out)?;
    writeln!(out)?;
    legend(out)?;
    let programs = parts.iter().flat_map(|part| part.files.clone().map(|_| &part.program));
    for (file, program) in chosen.files.iter().zip(programs) {
        if asker.over {
            break;
        }
        failed |= !asker.file(file, program, aim, out)?;
    }
    let (taken, left) = (counted(asker.taken, "change"), counted(asker.left, "change"));
    writeln!(out, "{STRONG}{taken} taken, {left} left{STRONG:#}")?;
    way_back(asker.keeper, asker.taken, out)?;
    out.flush()?;
    Ok(if failed { Exit::SomeFailed } else { Exit::Done })
}

struct Asker {
    charsets: Charsets,
    replacing: Replacing,
    /// Keeps what is in files before they are replaced.
    keeper: Option<Keeper>,
    /// What was said about all changes of a rule.
    by_rule: HashMap<RuleId, bool>,
    taken: u64,
    left: u64,
    /// Nothing more is asked.
    over: bool,
}

impl Asker {
    /// Gives whether the file could be done.
    fn file(&mut self, file: &ChosenFile, program: &Program, aim: &Aim, out: &mut impl Write) -> Result<bool, Trouble> {
        let mut summary = Ok(());
        let keeper = self.keeper.take();
        let done = rewrite(file, aim, self.charsets, self.replacing, keeper.as_ref(), |text| {
            match self.decide(file, program, text, out) {
                Ok(Some(new)) => Decision::Take(new),
                Ok(None) => Decision::Leave,
                Err(error) => {
                    summary = Err(error);
                    Decision::Leave
                }
            }
        });
        self.keeper = keeper;
        summary?;
        if let Err(error) = &done {
            print_failed(&file.path, error, out)?;
        }
        Ok(done.is_ok())
    }

    /// The new text of a file, if any change is taken.
    fn decide(
        &mut self,
        file: &ChosenFile,
        program: &Program,
        text: &[u8],
        out: &mut impl Write,
    ) -> Result<Option<Vec<u8>>, Trouble> {
        let mut washer = program.washer(Lineage::new(program.names().len(), Detail::All));
        let mut result = Vec::new();
        let washed = washer.push(text, &mut result).and_then(|()| washer.finish(&mut result));
        washed.map_err(|error| Trouble::Usage(error.to_string()))?;
        let hunks = washer.into_observer().finish();
        if hunks.is_empty() {
            return Ok(None);
        }
        writeln!(out, "{FILE}{}{FILE:#}\n", shown_path(&file.path))?;
        let mark = start_of_text(text);
        let mut rest = &text[mark..];
        let mut new = text[..mark].to_vec();
        let mut line = 1;
        // What was said about the rest of this file.
        let mut whole = None;
        for hunk in &hunks {
            let (before, behind) = rest.split_at(lines_len(rest, hunk.first_line - line));
            new.extend_from_slice(before);
            rest = &behind[lines_len(behind, hunk.lines_before)..];
            line = hunk.first_line + hunk.lines_before;
            self.hunk(hunk, program.names(), &mut whole, &mut new, out)?;
        }
        new.extend_from_slice(rest);
        Ok((new != text).then_some(new))
    }

    /// Asks about each change of a hunk and appends what happens to it.
    fn hunk(
        &mut self,
        hunk: &Hunk,
        names: &[RuleName],
        whole: &mut Option<bool>,
        new: &mut Vec<u8>,
        out: &mut impl Write,
    ) -> Result<(), Trouble> {
        let pieces: Vec<Piece<'_>> = hunk.pieces().collect();
        let mut next = 0;
        // The pieces of one change together.
        for change in pieces.chunk_by(|one, next| one.side.rule().is_some() && one.side.rule() == next.side.rule()) {
            let place = next..next + change.len();
            next = place.end;
            let Some(rule) = change[0].side.rule() else {
                new.extend_from_slice(change[0].bytes);
                continue;
            };
            let known = if self.over { Some(false) } else { whole.or(self.by_rule.get(&rule).copied()) };
            let take = match known {
                Some(known) => known,
                None => self.ask(&only(hunk, &place), rule, names, whole, out)?,
            };
            *if take { &mut self.taken } else { &mut self.left } += 1;
            for piece in change {
                if matches!(piece.side, Side::Put(_)) == take {
                    new.extend_from_slice(piece.bytes);
                }
            }
        }
        Ok(())
    }

    fn ask(
        &mut self,
        change: &Hunk,
        rule: RuleId,
        names: &[RuleName],
        whole: &mut Option<bool>,
        out: &mut impl Write,
    ) -> Result<bool, Trouble> {
        HunkDrawer::new(names, Screen::of_stdout().columns).draw(change, out)?;
        let name = &names[rule.0];
        let question = format!("rule {}, {}", shown(&name.number), shown(&name.caption));
        match answer::ask(&question, ANSWERS, out)?.unwrap_or(ChangeVerdict::Stop) {
            ChangeVerdict::This { take } => Ok(take),
            ChangeVerdict::Rule { take } => {
                self.by_rule.insert(rule, take);
                Ok(take)
            }
            ChangeVerdict::File { take } => {
                *whole = Some(take);
                Ok(take)
            }
            ChangeVerdict::Stop => {
                self.over = true;
                Ok(false)
            }
        }
    }
}

/// The hunk with the change of these pieces alone: the others are as before.
fn only(hunk: &Hunk, change: &Range<usize>) -> Hunk {
    hunk.with_pieces(hunk.pieces().enumerate().filter_map(|(index, piece)| match piece.side {
        _ if change.contains(&index) => Some(piece),
        Side::Put(_) => None,
        Side::Kept | Side::Removed(_) => Some(Piece { side: Side::Kept, ..piece }),
    }))
}
