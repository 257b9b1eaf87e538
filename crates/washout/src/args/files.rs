//! Arguments that say which files, and how they are encoded.

use std::num::NonZeroUsize;
use std::path::PathBuf;

use clap::Args;
use washout_files::{Charsets, Label};

/// Which files.
#[derive(Args, Debug)]
#[expect(clippy::struct_excessive_bools, reason = "each is a flag of the command line")]
#[command(next_help_heading = "Which files")]
pub(crate) struct ChoiceArgs {
    /// Below folders, only files whose name (or, with a `/`, path) matches GLOB; may be given several times
    #[arg(long, value_name = "GLOB")]
    pub(crate) only: Vec<String>,

    /// Below folders, no files that match GLOB; may be given several times
    #[arg(long, value_name = "GLOB")]
    pub(crate) except: Vec<String>,

    /// Below folders, also files and folders whose name starts with a dot
    #[arg(long)]
    pub(crate) with_hidden: bool,

    /// Below folders, also files that .gitignore or .ignore leave out
    #[arg(long)]
    pub(crate) with_ignored: bool,

    /// Below folders, also files that look binary; a file that is named is always included
    #[arg(long)]
    pub(crate) with_binary: bool,

    /// Also the paths in this list, a line each; `-` is standard input
    #[arg(long, value_name = "LIST")]
    pub(crate) files_from: Option<PathBuf>,

    /// With --files-from: paths end at NUL bytes, not at line ends
    #[arg(short = '0', long, requires = "files_from")]
    pub(crate) nul: bool,

    /// How many threads work, on files and on parts of large ones; by default one for each processor
    #[arg(long, value_name = "N")]
    pub(crate) jobs: Option<NonZeroUsize>,
}

/// How texts are encoded.
#[derive(Args, Debug)]
#[command(next_help_heading = "Encodings")]
pub(crate) struct CharsetArgs {
    /// What files are in, such as windows-1252 or gb18030; by default UTF-8, or UTF-16 where a byte order mark says so
    #[arg(long, value_name = "LABEL", value_parser = charset)]
    pub(crate) encoding: Option<Label>,
}

/// What files and results are in.
#[derive(Args, Debug)]
#[command(next_help_heading = "Encodings")]
pub(crate) struct CharsetsArgs {
    #[command(flatten)]
    pub(crate) from: CharsetArgs,

    /// What results are in; by default what the file was in
    #[arg(long, value_name = "LABEL", value_parser = charset)]
    pub(crate) to_encoding: Option<Label>,
}

fn charset(label: &str) -> Result<Label, String> {
    Label::named(label).ok_or_else(|| {
        "it is no label of the WHATWG Encoding Standard, such as windows-1252, iso-8859-2, shift_jis, gb18030 or utf-16le"
            .to_owned()
    })
}

impl CharsetsArgs {
    pub(crate) fn charsets(&self) -> Charsets {
        Charsets { from: self.from.encoding, to: self.to_encoding }
    }
}
