//! `washout stock`

use std::io::{self, Write};

use washout_core::RuleSet;
use washout_core::class::{NAMED_CLASSES, NamedClass, UNICODE_VERSION};
use washout_core::read::{nearest, stop_word_lists, stop_words};
use washout_core::ready::ReadySet;
use washout_core::stock::Stock;

use crate::args::StockArgs;
use crate::exit::{Exit, Trouble};
use crate::json;
use crate::out::buffered_stdout;
use crate::rules::ready_source;
use crate::show::number::{counted, grouped};
use crate::show::screen::Screen;
use crate::show::style::{FILE, QUIET, STRONG};
use crate::show::visible::shown;
use crate::show::wrap::write_wrapped;

/// What stands before the code of a language where stop words are shown.
const STOPWORDS: &str = "stopwords:";

/// Ranges of a class that are shown.
const RANGES: usize = 12;

/// Runs the command.
pub(crate) fn run(args: &StockArgs) -> Result<Exit, Trouble> {
    let columns = Screen::of_stdout().columns;
    let mut out = buffered_stdout();
    // What has no name here gets the same message either way.
    let value = match (&args.name, args.json) {
        (_, false) => None,
        (None, true) => Some(json::rules::stock()),
        (Some(name), true) => json::rules::stock_named(name),
    };
    match (&args.name, value) {
        (_, Some(value)) => json::write(&value)?,
        (None, None) => everything(columns, &mut out)?,
        (Some(name), None) => one(name, columns, &mut out)?,
    }
    out.flush()?;
    Ok(Exit::Done)
}

fn everything(columns: usize, out: &mut impl Write) -> io::Result<()> {
    section("Stock patterns", "remove.stock = \"timestamp\"", out)?;
    Stock::ALL.iter().try_for_each(|stock| entry(stock.name(), stock.takes(), columns, out))?;
    section("Classes", "remove.class = \"invisible\"", out)?;
    NAMED_CLASSES.iter().try_for_each(|class| entry(class.name, class.members, columns, out))?;
    section("Stop words", "remove.stopwords = \"en\"", out)?;
    let lists: Vec<String> = stop_word_lists().collect();
    write_wrapped("  ", "  ", &lists.join(" "), columns, out)?;
    section("Ready sets", "washout clean -r ready:prose PATH...", out)?;
    for ready in ReadySet::ALL {
        let title = RuleSet::read(ready.name, ready.source).ok().and_then(|set| set.title).unwrap_or_default();
        entry(ready.name, &title, columns, out)?;
    }
    writeln!(
        out,
        "\n{QUIET}washout stock NAME shows one of them; a ready set is ready:NAME, a word list stopwords:en{QUIET:#}"
    )
}

fn section(title: &str, example: &str, out: &mut impl Write) -> io::Result<()> {
    writeln!(out, "\n{STRONG}{title}{STRONG:#}  {QUIET}{example}{QUIET:#}")
}

fn entry(name: &str, text: &str, columns: usize, out: &mut impl Write) -> io::Result<()> {
    write_wrapped(&format!("  {name:13} "), &" ".repeat(16), text, columns, out)
}

fn one(name: &str, columns: usize, out: &mut impl Write) -> Result<(), Trouble> {
    if let Some(ready) = name.strip_prefix(ReadySet::PREFIX) {
        return Ok(write!(out, "{}", ready_source(ready)?)?);
    }
    if let Some(language) = name.strip_prefix(STOPWORDS) {
        let Some(words) = stop_words(language) else {
            let known: Vec<String> = stop_word_lists().collect();
            return Err(Trouble::Usage(format!(
                "no stop words for `{}`\nThere are {}",
                shown(language),
                known.join(", ")
            )));
        };
        return Ok(words.iter().try_for_each(|word| writeln!(out, "{word}"))?);
    }
    if let Some(stock) = Stock::find(name) {
        return Ok(pattern(stock, columns, out)?);
    }
    if let Some(class) = NamedClass::find(name) {
        return Ok(class_members(class, columns, out)?);
    }
    if ReadySet::find(name).is_some() {
        return Ok(write!(out, "{}", ready_source(name)?)?);
    }
    let stocks = Stock::ALL.iter().map(|stock| stock.name());
    let known =
        stocks.chain(NAMED_CLASSES.iter().map(|class| class.name)).chain(ReadySet::ALL.iter().map(|set| set.name));
    let meant = nearest(name, known).map_or_else(String::new, |name| format!("; did you mean `{name}`?"));
    let message =
        format!("there is nothing called `{}` in stock{meant}\nSee what there is: washout stock", shown(name));
    Err(Trouble::Usage(message))
}

fn pattern(stock: Stock, columns: usize, out: &mut impl Write) -> io::Result<()> {
    writeln!(out, "{FILE}{}{FILE:#}  {QUIET}a stock pattern: stock = \"{0}\"{QUIET:#}\n", stock.name())?;
    write_wrapped("takes   ", "        ", stock.takes(), columns, out)?;
    write_wrapped("leaves  ", "        ", stock.leaves(), columns, out)?;
    for option in stock.options() {
        writeln!(out, "option  {option} = true")?;
    }
    writeln!(out, "\n{STRONG}Found in these lines, from « to »{STRONG:#}")?;
    stock.matching_lines().iter().try_for_each(|line| writeln!(out, "  {}", shown(line)))?;
    writeln!(out, "\n{STRONG}Not found in these{STRONG:#}")?;
    stock.near_misses().iter().try_for_each(|line| writeln!(out, "  {}", shown(line)))?;
    writeln!(out, "\n{QUIET}Try it: washout clean --rule 'remove.stock = \"{}\"' PATH...{QUIET:#}", stock.name())
}

fn class_members(class: &NamedClass, columns: usize, out: &mut impl Write) -> io::Result<()> {
    let set = class.set();
    writeln!(out, "{FILE}{}{FILE:#}  {QUIET}a class: class = \"{0}\"{QUIET:#}\n", class.name)?;
    write_wrapped("members  ", "         ", class.members, columns, out)?;
    let count = set.len() as u64;
    if count > 0 {
        writeln!(out, "count    {}, Unicode {UNICODE_VERSION}\n", counted(count, "character"))?;
    }
    let ranges: Vec<(char, char)> = set.ranges().collect();
    for (first, last) in ranges.iter().take(RANGES) {
        let code = |character: &char| format!("U+{:04X}", u32::from(*character));
        let range = if first == last { code(first) } else { format!("{}..{}", code(first), code(last)) };
        writeln!(out, "  {range:18} {}", shown(&first.to_string()))?;
    }
    if ranges.len() > RANGES {
        writeln!(out, "  … and {} more ranges", grouped((ranges.len() - RANGES) as u64))?;
    }
    Ok(())
}
