//! The arguments of `learn`.

use std::path::PathBuf;

use clap::Args;

/// Learn a rule set from texts as they are and as they should be
///
/// Finds few and simple rules that make every pair, and prints them as a rule set with the pairs as its examples. Where the pairs
/// can be read in several ways that differ on other lines, it says so and shows such a line.
#[derive(Args, Debug)]
#[expect(clippy::struct_excessive_bools, reason = "each is a flag of the command line")]
#[command(after_help = LEARN_EXAMPLES)]
pub(crate) struct LearnArgs {
    /// A table of two columns (CSV, or TSV by its name), as they are and as they should be; or two texts, read line by line, or
    /// as a whole if they have not as many lines
    #[arg(value_name = "FILE", num_args = 0..=2)]
    pub(crate) files: Vec<PathBuf>,

    /// A text as it is and as it should be; repeatable
    #[arg(long, num_args = 2, value_names = ["BEFORE", "AFTER"], allow_hyphen_values = true)]
    pub(crate) pair: Vec<String>,

    /// The texts are names of files: learn a rule set for `washout names`
    #[arg(long)]
    pub(crate) names: bool,

    /// Also show what the rules make of the lines of these files, or with --names of the names of files in these folders;
    /// repeatable. Readings that spoil those lines are less likely
    #[arg(long = "for", value_name = "PATH")]
    pub(crate) others: Vec<PathBuf>,

    /// Ask about each line on which readings differ, until they agree
    #[arg(long, conflicts_with = "json")]
    pub(crate) ask: bool,

    /// Where no rules are found, make a table of the pairs
    #[arg(long)]
    pub(crate) literal: bool,

    /// Write the rule set to FILE instead of printing it
    #[arg(long, value_name = "FILE")]
    pub(crate) save: Option<PathBuf>,

    /// With --save: replace an existing file
    #[arg(long, requires = "save")]
    pub(crate) overwrite: bool,

    /// Stop the search after N seconds, with the best rules so far
    #[arg(long, value_name = "N", default_value_t = 10)]
    pub(crate) seconds: u64,

    /// Print one JSON value
    #[arg(long)]
    pub(crate) json: bool,
}

const LEARN_EXAMPLES: &str = "\
Examples:
  washout learn --pair '00:14 Marrow Point' 'Marrow Point'   print the rules
  washout learn --pair '12: Fog' Fog --for logbook/          see what they do
  washout learn --names --pair 'a 7.tif' 'a 007.tif' --for scans/ --save a.toml

Exit status: 0 rules were found, 1 there are none that make every pair, 2 the command line or a file is wrong, 130 interrupted.";
