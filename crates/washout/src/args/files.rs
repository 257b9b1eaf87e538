//! Arguments that say which files, and how they are encoded.

use std::num::NonZeroUsize;
use std::path::PathBuf;

use clap::Args;
use washout_files::{Charsets, Label};

use super::values::count;

/// Which files.
#[derive(Args, Debug, Default)]
#[expect(clippy::struct_excessive_bools, reason = "each is a flag of the command line")]
#[command(next_help_heading = "Files")]
pub(crate) struct ChoiceArgs {
    /// In folders, include only files whose name (or path, if GLOB has a `/`) matches GLOB; repeatable
    #[arg(long, value_name = "GLOB")]
    pub(crate) only: Vec<String>,

    /// In folders, exclude files that match GLOB; repeatable
    #[arg(long, value_name = "GLOB")]
    pub(crate) except: Vec<String>,

    /// In folders, include files and folders whose names start with a dot
    #[arg(long)]
    pub(crate) with_hidden: bool,

    /// In folders, include files that .gitignore or .ignore exclude
    #[arg(long)]
    pub(crate) with_ignored: bool,

    /// In folders, include files that look binary; a file you name is always included
    #[arg(long)]
    pub(crate) with_binary: bool,

    /// Read more paths from LIST, one on each line; `-` is standard input
    #[arg(long, value_name = "LIST")]
    pub(crate) files_from: Option<PathBuf>,

    /// With --files-from: paths end with NUL bytes instead of line ends
    #[arg(short = '0', long, requires = "files_from")]
    pub(crate) nul: bool,

    /// Number of threads [default: one for each processor]
    #[arg(long, value_name = "N", value_parser = count)]
    pub(crate) jobs: Option<NonZeroUsize>,
}

/// How texts are encoded.
#[derive(Args, Debug)]
#[command(next_help_heading = "Encodings")]
pub(crate) struct CharsetArgs {
    /// Encoding of the files, such as windows-1252 [default: UTF-8, or UTF-16 with a byte order mark]
    #[arg(long, value_name = "LABEL", value_parser = charset)]
    pub(crate) encoding: Option<Label>,
}

/// What files and results are in.
#[derive(Args, Debug)]
#[command(next_help_heading = "Encodings")]
pub(crate) struct CharsetsArgs {
    #[command(flatten)]
    pub(crate) from: CharsetArgs,

    /// Encoding of the results [default: that of the file]
    #[arg(long, value_name = "LABEL", value_parser = charset)]
    pub(crate) to_encoding: Option<Label>,
}

fn charset(label: &str) -> Result<Label, String> {
    Label::named(label).ok_or_else(|| {
        "it is not a label of the WHATWG Encoding Standard, such as windows-1252, iso-8859-2, shift_jis, gb18030 or utf-16le"
            .to_owned()
    })
}

impl CharsetsArgs {
    pub(crate) fn charsets(&self) -> Charsets {
        Charsets { from: self.from.encoding, to: self.to_encoding }
    }
}
