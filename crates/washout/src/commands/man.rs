//! `washout man`

use std::fmt::Write as _;
use std::io::Write as _;

use clap::CommandFactory as _;
use clap::builder::Resettable;
use washout_core::read::nearest;

use crate::args::{Cli, ManArgs};
use crate::exit::{Exit, Trouble};
use crate::out::plain_stdout;
use crate::show::visible::shown;

/// Runs the command.
pub(crate) fn run(args: &ManArgs) -> Result<Exit, Trouble> {
    let mut command = Cli::command();
    // Manual pages are wrapped where they are read, and what is set apart there is roff.
    command.build();
    for name in &args.command {
        let all: Vec<&str> = command.get_subcommands().map(clap::Command::get_name).collect();
        let Some(found) = command.find_subcommand(name).cloned() else {
            let near = nearest(name, all.iter().copied());
            let near = near.map_or_else(String::new, |near| format!("; did you mean `{near}`?"));
            let message = format!("there is no command `{}`{near}\nCommands: {}", shown(name), all.join(", "));
            return Err(Trouble::Usage(message));
        };
        command = found;
    }
    let title = command.get_display_name().unwrap_or_else(|| command.get_name()).to_owned();
    let after = command.get_after_help().map(ToString::to_string).unwrap_or_default();
    let mut out = plain_stdout();
    clap_mangen::Man::new(command.display_name(title).after_help(Resettable::Reset))
        .manual("Washout")
        .render(&mut out)?;
    out.write_all(sections(&after).as_bytes())?;
    out.flush()?;
    Ok(Exit::Done)
}

/// What help says after everything else, as sections: each paragraph begins with its heading and a colon. Lines of examples
/// stay lines.
fn sections(text: &str) -> String {
    let mut page = String::new();
    for paragraph in text.split("\n\n") {
        let Some((heading, body)) = paragraph.split_once(':') else { continue };
        let is_list = body.starts_with('\n');
        let _ = writeln!(page, ".SH \"{}\"", escaped(&heading.to_uppercase()));
        let lines: String =
            body.trim_start_matches(['\n', ' ']).lines().map(|line| escaped(line.trim_start()) + "\n").collect();
        let (start, end) = if is_list { (".nf\n", ".fi\n") } else { ("", "") };
        page.extend([start, &lines, end]);
    }
    page
}

/// A line that roff shows as it is.
fn escaped(line: &str) -> String {
    // A control character at the start would make it a request; a plain hyphen may be drawn as another character.
    format!("\\&{}", line.replace('\\', "\\e").replace('-', "\\-"))
}
