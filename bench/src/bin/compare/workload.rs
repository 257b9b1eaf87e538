//! The texts, and what is done to them.

use std::error::Error;
use std::fs::{self, File};
use std::io::{BufRead, BufReader};
use std::path::Path;
use std::process::Stdio;

use washout_bench::{Dirt, Script, TABLE_RULES, TWELVE_RULES, log, log_in, made_up_words, stores};

use crate::goals::{Goal, table};
use crate::process::{Cost, Ways, best, fed, run, times_as_long};

type Done = Result<(), Box<dyn Error>>;

const ROUNDS: usize = 5;
/// Where a round takes no time to speak of, or a goal depends on it.
const MANY_ROUNDS: usize = 15;
/// In bytes. Python is so much slower that it gets less.
const TEXT: usize = 64 << 20;
const PYTHON_TEXT: usize = 4 << 20;

pub(crate) fn rate(bytes: usize, cost: Cost) -> f64 {
    #[expect(clippy::cast_precision_loss, reason = "a rate")]
    let megabytes = bytes as f64 / 1e6;
    megabytes / cost.time.as_secs_f64()
}

pub(crate) fn megabytes(bytes: u64) -> String {
    format!("{} MiB", bytes.div_ceil(1 << 20))
}

fn same(one: &Path, other: &Path) -> Done {
    let (mut left, mut right) = (BufReader::new(File::open(one)?), BufReader::new(File::open(other)?));
    loop {
        let (a, b) = (left.fill_buf()?, right.fill_buf()?);
        let len = a.len().min(b.len());
        if a[..len] != b[..len] || a.is_empty() != b.is_empty() {
            break;
        }
        if len == 0 {
            return Ok(());
        }
        left.consume(len);
        right.consume(len);
    }
    Err(format!("{} and {} differ", one.display(), other.display()).into())
}

/// A table of which two fields of seven are cleaned.
pub(crate) fn tables(ways: &Ways, goals: &mut Vec<Goal>) -> Done {
    fs::write(ways.path("stores.wash.toml"), TABLE_RULES)?;
    let mut shown = table(&["MB/s, eight rules", "1 thread", "2 threads", "plain loop", "copy", "peak, 2 threads"]);
    for dirt in [Dirt::None, Dirt::Little, Dirt::Some, Dirt::All] {
        let text = ways.path("stores.csv");
        ways.text(&text, "stores", TEXT, name_of(dirt))?;
        let outs = ["one", "two", "loop", "copy"].map(|name| ways.path(name));
        let [one_out, two_out, loop_out, copy_out] = &outs;
        let mut costs: [Vec<Cost>; 4] = Default::default();
        for _ in 0..ROUNDS {
            costs[0].push(ways.washout("stores.wash.toml", 1, &text, one_out)?);
            costs[1].push(ways.washout("stores.wash.toml", 2, &text, two_out)?);
            costs[2].push(ways.plain("plain-table", &[&text, loop_out])?);
            costs[3].push(ways.plain("copy", &[&text, copy_out])?);
        }
        same(one_out, loop_out)?;
        same(two_out, loop_out)?;
        if let Dirt::Little | Dirt::All = dirt {
            let faster = times_as_long(&costs[2], &costs[1]);
            let share = name_of(dirt).replace("lines", "records");
            goals.push(Goal::at_least(&format!("table, {share}, 2 threads, against a CSV loop"), 5.0, faster));
        }
        let [one, two, plain, copy] = costs.map(|costs| best(costs).expect("OK because there are rounds"));
        let cells = [one, two, plain, copy].map(|cost| format!("{:.0}", rate(TEXT, cost)));
        let name = format!("table, {}", name_of(dirt));
        shown.add_row([name].into_iter().chain(cells).chain([megabytes(two.memory)]));
    }
    println!("{shown}\n");
    Ok(())
}

/// Texts of which more and more lines are dirty, through every way.
pub(crate) fn dirt(ways: &Ways, goals: &mut Vec<Goal>) -> Done {
    fs::write(ways.path("twelve.wash.toml"), TWELVE_RULES)?;
    let header = ["MB/s, twelve rules", "1 thread", "2 threads", "plain loop", "Python", "copy", "peak, 2 threads"];
    let mut shown = table(&header);
    for (script, dirt) in [Script::Ascii, Script::Mixed]
        .into_iter()
        .flat_map(|script| [Dirt::None, Dirt::Little, Dirt::Some, Dirt::All].map(|dirt| (script, dirt)))
    {
        let (text, short) = (ways.path("text"), ways.path("short"));
        let what = format!("{script:?}").to_lowercase();
        ways.text(&text, &what, TEXT, name_of(dirt))?;
        ways.text(&short, &what, PYTHON_TEXT, name_of(dirt))?;
        let outs = ["one", "two", "loop", "python", "short-loop", "copy"].map(|name| ways.path(name));
        let [one_out, two_out, loop_out, python_out, short_out, copy_out] = &outs;
        let mut costs: [Vec<Cost>; 5] = Default::default();
        let is_judged = matches!((script, dirt), (Script::Ascii, Dirt::None | Dirt::All));
        for _ in 0..if is_judged { MANY_ROUNDS } else { ROUNDS } {
            costs[0].push(ways.washout("twelve.wash.toml", 1, &text, one_out)?);
            costs[1].push(ways.washout("twelve.wash.toml", 2, &text, two_out)?);
            costs[2].push(ways.plain("plain", &[&text, loop_out])?);
            costs[3].push(ways.python("plain.py", &[&short, python_out])?);
            costs[4].push(ways.plain("copy", &[&text, copy_out])?);
        }
        ways.plain("plain", &[&short, short_out])?;
        same(one_out, loop_out)?;
        same(two_out, loop_out)?;
        same(python_out, short_out)?;
        let faster = |than: usize, way: usize| times_as_long(&costs[than], &costs[way]);
        #[expect(clippy::cast_precision_loss, reason = "a rate")]
        let than_python = faster(3, 0) * (TEXT as f64 / PYTHON_TEXT as f64);
        match (script, dirt) {
            (Script::Ascii, Dirt::None) => {
                goals.push(Goal::at_least("clean text, one thread, against the plain loop", 10.0, faster(2, 0)));
                goals.push(Goal::at_least("clean text, one thread, against Python", 60.0, than_python));
                goals.push(Goal::at_least("clean text, two threads, against copying", 0.7, faster(4, 1)));
            }
            (Script::Ascii, Dirt::All) => {
                goals.push(Goal::at_least("all lines dirty, one thread, against the plain loop", 5.0, faster(2, 0)));
                goals.push(Goal::at_least("all lines dirty, one thread, against Python", 40.0, than_python));
            }
            _ => {}
        }
        let [one, two, plain, python, copy] = costs.map(|costs| best(costs).expect("OK because there are rounds"));
        let rates = [(one, TEXT), (two, TEXT), (plain, TEXT), (python, PYTHON_TEXT), (copy, TEXT)];
        let cells = rates.map(|(cost, bytes)| format!("{:.0}", rate(bytes, cost)));
        let name = format!("{script:?}, {}", name_of(dirt)).to_lowercase();
        shown.add_row([name].into_iter().chain(cells).chain([megabytes(two.memory)]));
    }
    println!("{shown}");
    Ok(())
}

/// Two threads on one text, beside what two commands at once show that the machine can do.
pub(crate) fn threads(ways: &Ways, goals: &mut Vec<Goal>) -> Done {
    let (text, outs) = (ways.path("text"), ["one", "two", "first", "second"].map(|name| ways.path(name)));
    let [one_out, two_out, first_out, second_out] = &outs;
    ways.text(&text, "ascii", TEXT, name_of(Dirt::All))?;
    let mut costs: [Vec<Cost>; 3] = Default::default();
    for _ in 0..MANY_ROUNDS {
        costs[0].push(ways.washout("twelve.wash.toml", 1, &text, one_out)?);
        costs[1].push(ways.washout("twelve.wash.toml", 2, &text, two_out)?);
        costs[2].push(ways.washout_twice("twelve.wash.toml", &text, [first_out, second_out])?);
    }
    for out in [two_out, first_out, second_out] {
        same(out, one_out)?;
    }
    let (threads, commands) = (times_as_long(&costs[0], &costs[1]), 2.0 * times_as_long(&costs[0], &costs[2]));
    goals.push(Goal::at_least("all lines dirty, two threads against one", 1.8, threads));
    goals.push(Goal::at_least("all lines dirty, two threads against two commands at once", 1.0, threads / commands));
    let mut shown = table(&["twelve rules, all lines dirty", "times the work of one thread in its time"]);
    shown.add_row(["one command, two threads".to_owned(), format!("{threads:.2}")]);
    shown.add_row(["two commands at once, one thread each".to_owned(), format!("{commands:.2}")]);
    println!("\n{shown}\n");
    Ok(())
}

pub(crate) fn name_of(dirt: Dirt) -> &'static str {
    match dirt {
        Dirt::None => "clean",
        Dirt::Little => "1 % of lines dirty",
        Dirt::Tenth => "10 % of lines dirty",
        Dirt::Some => "30 % of lines dirty",
        Dirt::All => "all lines dirty",
    }
}

/// One line without an end, as long as a text, through every way.
pub(crate) fn long_line(ways: &Ways) -> Done {
    let rules = "[[rule]]\nremove = { class = 'control' }\n[[rule]]\nreplace = { text = 'um', with = 'hm' }\n\
                 [[rule]]\nremove = { words = ['relief'], gap = 'leave' }\n";
    fs::write(ways.path("long.wash.toml"), rules)?;
    let header =
        ["MB/s, one line, three rules", "1 thread", "2 threads", "plain loop", "Python", "copy", "peak, 2 threads"];
    let mut shown = table(&header);
    let (line, short) = (ways.path("line"), ways.path("short"));
    let outs = ["one", "two", "loop", "python", "short-loop", "copy"].map(|name| ways.path(name));
    let [one_out, two_out, loop_out, python_out, short_out, copy_out] = &outs;
    ways.text(&short, "line", PYTHON_TEXT, name_of(Dirt::Some))?;
    for size in [TEXT / 4, TEXT, TEXT * 4] {
        ways.text(&line, "line", size, name_of(Dirt::Some))?;
        let mut costs: [Vec<Cost>; 5] = Default::default();
        for _ in 0..2 {
            costs[0].push(ways.washout("long.wash.toml", 1, &line, one_out)?);
            costs[1].push(ways.washout("long.wash.toml", 2, &line, two_out)?);
            costs[2].push(ways.plain("plain-line", &[&line, loop_out])?);
            costs[3].push(ways.python("plain-line.py", &[&short, python_out])?);
            costs[4].push(ways.plain("copy", &[&line, copy_out])?);
        }
        ways.plain("plain-line", &[&short, short_out])?;
        same(one_out, loop_out)?;
        same(two_out, loop_out)?;
        same(python_out, short_out)?;
        let [one, two, plain, python, copy] = costs.map(|costs| best(costs).expect("OK because there are rounds"));
        let rates = [(one, size), (two, size), (plain, size), (python, PYTHON_TEXT), (copy, size)];
        let cells = rates.map(|(cost, bytes)| format!("{:.0}", rate(bytes, cost)));
        shown.add_row([megabytes(size as u64)].into_iter().chain(cells).chain([megabytes(two.memory)]));
    }
    println!("\n{shown}");
    Ok(())
}

/// Lists of words, and rules that cannot match.
pub(crate) fn lists(ways: &Ways, goals: &mut Vec<Goal>) -> Done {
    ways.text(&ways.path("text"), "ascii", TEXT, name_of(Dirt::Some))?;
    let words = |count: usize| {
        let words: Vec<String> = made_up_words(count).map(|word| format!("'{word}'")).collect();
        format!("[[rule]]\nremove = {{ words = [{}] }}\n", words.join(","))
    };
    let rules = |count: usize| -> String {
        let rules: Vec<String> =
            made_up_words(count).map(|word| format!("[[rule]]\nremove = {{ text = '{word}' }}\n")).collect();
        rules.concat()
    };
    let seconds = |few: String, many: String| -> Result<f64, Box<dyn Error>> {
        fs::write(ways.path("few.wash.toml"), few)?;
        fs::write(ways.path("many.wash.toml"), many)?;
        let mut costs: [Vec<Cost>; 2] = Default::default();
        for _ in 0..MANY_ROUNDS {
            for (costs, rules) in costs.iter_mut().zip(["few.wash.toml", "many.wash.toml"]) {
                costs.push(ways.washout(rules, 1, &ways.path("text"), &ways.path("out"))?);
            }
        }
        Ok(times_as_long(&costs[1], &costs[0]))
    };
    goals.push(Goal::at_most("10,000 words against 10, loading included", 1.2, seconds(words(10), words(10_000))?));
    goals.push(Goal::at_most("100 rules that cannot match against 10", 1.5, seconds(rules(10), rules(100))?));
    Ok(())
}

/// Many small files in which there is nothing to change.
pub(crate) fn small_files(ways: &Ways, goals: &mut Vec<Goal>) -> Done {
    let folder = ways.path("files");
    fs::create_dir(&folder)?;
    let text = log(2_000, Dirt::None);
    for number in 0..20_000 {
        fs::write(folder.join(format!("watch-{number}.txt")), &text)?;
    }
    let copies = ways.path("copies");
    run(ways
        .washout_command("twelve.wash.toml", 2)
        .arg("--into")
        .arg(&copies)
        .arg(&folder)
        .stdout(Stdio::null())
        .stderr(Stdio::null()))?;
    for entry in fs::read_dir(&folder)? {
        let entry = entry?;
        same(&entry.path(), &copies.join("files").join(entry.file_name()))?;
    }
    let preview = |threads: usize| {
        let mut command = ways.washout_command("twelve.wash.toml", threads);
        run(command.arg(&folder).stdout(Stdio::null()).stderr(Stdio::null()))
    };
    let mut costs: [Vec<Cost>; 5] = Default::default();
    for round in 0..MANY_ROUNDS {
        costs[0].push(preview(2)?);
        costs[1].push(ways.plain("read", &[&folder])?);
        if round == 0 {
            costs[2].push(preview(1)?);
            costs[3].push(ways.plain("plain-files", &[&folder])?);
            costs[4].push(ways.python("plain.py", &[&folder])?);
        }
    }
    let longer = times_as_long(&costs[0], &costs[1]);
    goals.push(Goal::at_most("20,000 small clean files against reading them all", 1.5, longer));
    let [two, read, one, plain, python] = costs.map(|costs| best(costs).expect("OK because there are rounds"));
    let mut shown = table(&[
        "seconds, 20,000 files",
        "1 thread",
        "2 threads",
        "plain loop",
        "Python",
        "reading",
        "peak, 2 threads",
    ]);
    let cells = [one, two, plain, python, read].map(|cost| format!("{:.3}", cost.time.as_secs_f64()));
    shown.add_row(["of 2,000 bytes, clean".to_owned()].into_iter().chain(cells).chain([megabytes(two.memory)]));
    println!("\n{shown}");
    Ok(())
}

/// How long it takes to get going.
pub(crate) fn start(ways: &Ways) -> Done {
    fs::write(ways.path("ten-lines"), log(600, Dirt::Some))?;
    let mut costs: [Vec<Cost>; 3] = Default::default();
    for _ in 0..20 {
        costs[0].push(ways.plain("hello", &[])?);
        costs[1].push(ways.washout_version()?);
        costs[2].push(ways.washout("twelve.wash.toml", 2, &ways.path("ten-lines"), &ways.path("out"))?);
    }
    let mut shown = table(&["start", "milliseconds"]);
    for (name, costs) in ["a program that prints a line", "--version", "ten lines, twelve rules"].iter().zip(costs) {
        let cost = best(costs).expect("OK because there are rounds");
        shown.add_row([(*name).to_owned(), format!("{:.1}", cost.time.as_secs_f64() * 1e3)]);
    }
    println!("\n{shown}");
    Ok(())
}

/// Long streams, lines joined and dropped among the rest.
pub(crate) fn memory(ways: &Ways, large: u64, goals: &mut Vec<Goal>) -> Done {
    let rules = format!(
        "{TWELVE_RULES}\n[[rule]]\njoin_lines = {{ with = ' ', paragraphs = 'keep' }}\n[[rule]]\ndrop_lines = {{ text = 'um' }}\n"
    );
    fs::write(ways.path("joined.wash.toml"), rules)?;
    // A paragraph every few hundred bytes: what is joined is one line.
    let lines = log(1 << 20, Dirt::Some);
    let mut text = Vec::with_capacity(lines.len() * 2);
    for (index, line) in lines.split_inclusive(|byte| *byte == b'\n').enumerate() {
        text.extend_from_slice(line);
        if index % 10 == 9 {
            text.push(b'\n');
        }
    }
    let peak = |bytes: u64| -> Result<Cost, Box<dyn Error>> {
        let mut command = ways.washout_command("joined.wash.toml", 2);
        fed(command.stdout(Stdio::null()).stderr(Stdio::null()), |input| {
            let mut left = bytes;
            while left > 0 {
                let part = usize::try_from(left).unwrap_or(usize::MAX).min(text.len());
                input.write_all(&text[..part])?;
                left -= part as u64;
            }
            Ok(())
        })
    };
    let (small, big) = (peak(10 << 20)?, peak(large)?);
    let mut shown = table(&["stream, fourteen rules, lines joined and dropped", "seconds", "peak"]);
    for (bytes, cost) in [(10 << 20, small), (large, big)] {
        shown.add_row([megabytes(bytes), format!("{:.1}", cost.time.as_secs_f64()), megabytes(cost.memory)]);
    }
    println!("\n{shown}");
    #[expect(clippy::cast_precision_loss, reason = "a figure to show")]
    let mib = big.memory as f64 / f64::from(1 << 20);
    goals.push(Goal::at_most(&format!("peak memory of a stream of {}, MiB", megabytes(large)), 64.0, mib));
    Ok(())
}

/// Makes a text. In a process of its own: what this one holds would count as theirs for those it starts.
pub(crate) fn write_text(to: &Path, what: &str, bytes: usize, dirt: &str) -> Result<(), Box<dyn Error>> {
    let all = [Dirt::None, Dirt::Little, Dirt::Tenth, Dirt::Some, Dirt::All];
    let dirt = all.into_iter().find(|one| name_of(*one) == dirt).ok_or("no such dirt")?;
    if what == "stores" {
        return Ok(fs::write(to, stores(bytes, dirt))?);
    }
    let mut text = log_in(if what == "mixed" { Script::Mixed } else { Script::Ascii }, bytes, dirt);
    if what == "line" {
        text.iter_mut().filter(|byte| **byte == b'\n').for_each(|byte| *byte = b' ');
    }
    Ok(fs::write(to, text)?)
}

/// Rules and texts that make naive searches take quadratic time: each text is this, over and over, on one line.
const HARD: &[(&str, &str)] = &[
    ("remove.between = ['[', ']']", "["),
    ("remove.between = ['\"', '\"']", "[\" "),
    ("trim.at = 'end'", " "),
    ("remove = { words = ['um'], gap = 'mend' }", "um "),
    ("remove = { words = ['um um um x'] }", "um  "),
    ("remove = { text = ['aaaaaaaaab'] }", "a"),
    (r"remove.pattern = '\s+$'", " "),
    ("remove.pattern = '(a+)+b'", "a"),
    ("remove.pattern = '(x+x+)+y'", "x"),
    ("remove.pattern = '[a-y]{2000}z'", "a"),
    ("remove.pattern = '[a-z]{1,1000}1'", "lamp "),
    ("remove.pattern = '(?<=z)a'", "a"),
    (r"remove.pattern = '(\w+) \1 '", "fog "),
    ("remove.stock = 'timestamp'", "1:02:"),
    ("remove.stock = 'email'", "a@"),
    ("remove.stock = 'url'", "http://"),
    ("remove.stock = 'tag'", "<a "),
    ("remove.stock = 'bracketed'", "([{"),
    ("remove.stock = 'line-number'", "12 "),
    ("collapse = { class = 'blank', with = ' ' }", " \t"),
    ("join_lines.with = ' '", "a-"),
    ("break_lines = { text = '.', tight = true }", "."),
];

/// Rules that no search can be quick for, on the same kind of text: they are to end with an error before long.
const TOO_HARD: &[(&str, &str)] = &[
    ("remove.pattern = 'q[a-q]{10000}x'", "q"),
    ("remove.pattern = '.*[^A-Zx]|[A-Z]'", "A"),
    ("remove = { pattern = '(?s:.)*[^A-Zx\\n]|[A-Z]', across_lines = true }", "A"),
    ("remove.pattern = '(?=.*z)a'", "a"),
    ("remove.pattern = '(?<!x)a.*z'", "a"),
    (r"remove.pattern = '^(a|aa)+\1c'", "a"),
];

/// Hard texts and texts four times as long.
pub(crate) fn linear(ways: &Ways) -> Done {
    const SHORT: usize = 1 << 20;
    let mut shown = table(&["one line of this over and over", "rule", "seconds, 1 MiB", "4 MiB", "times", "ends"]);
    let all = HARD.iter().map(|hard| (hard, false)).chain(TOO_HARD.iter().map(|hard| (hard, true)));
    for ((rule, unit), too_hard) in all {
        fs::write(ways.path("hard.wash.toml"), format!("[[rule]]\n{rule}\n"))?;
        let mut seconds = [0.0; 2];
        for (seconds, len) in seconds.iter_mut().zip([SHORT, 4 * SHORT]) {
            fs::write(ways.path("hard"), unit.repeat(len / unit.len()) + "x\n")?;
            let rounds = (0..ROUNDS).map(|_| ways.washout_ends("hard.wash.toml", &ways.path("hard"), too_hard));
            let costs = rounds.collect::<Result<Vec<_>, _>>()?;
            *seconds = best(costs).expect("OK because there are rounds").time.as_secs_f64();
        }
        let [short, long] = seconds;
        let ends = if too_hard { "error" } else { "done" };
        let cells = [format!("{short:.3}"), format!("{long:.3}"), format!("{:.1}", long / short), ends.to_owned()];
        shown.add_row([format!("`{unit}`"), format!("`{rule}`")].into_iter().chain(cells));
        if long > 12.0 * short && long > 0.5 {
            return Err(
                format!("{rule} takes more than linear time on a row of {unit:?}: {short:.3} s, {long:.3} s").into()
            );
        }
    }
    println!("\n{shown}");
    Ok(())
}
