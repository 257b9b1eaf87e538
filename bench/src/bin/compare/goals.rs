//! What is aimed at, and what is reached.

use comfy_table::Table;

/// A goal: a ratio, and whether more of it is better.
#[derive(Debug)]
pub(crate) struct Goal {
    pub(crate) what: String,
    pub(crate) aim: f64,
    pub(crate) reached: f64,
    pub(crate) at_least: bool,
}

impl Goal {
    /// At least that many times as fast.
    pub(crate) fn at_least(what: &str, aim: f64, reached: f64) -> Self {
        Self { what: what.to_owned(), aim, reached, at_least: true }
    }

    /// At most that many times the cost.
    pub(crate) fn at_most(what: &str, aim: f64, reached: f64) -> Self {
        Self { what: what.to_owned(), aim, reached, at_least: false }
    }

    fn is_reached(&self) -> bool {
        if self.at_least { self.reached >= self.aim } else { self.reached <= self.aim }
    }
}

pub(crate) fn print(goals: &[Goal]) {
    if goals.is_empty() {
        return;
    }
    let mut table = table(&["what", "goal", "reached", ""]);
    for goal in goals {
        let sign = if goal.at_least { "≥" } else { "≤" };
        let verdict = if goal.is_reached() { "reached" } else { "MISSED" };
        table.add_row([
            goal.what.clone(),
            format!("{sign} {}", goal.aim),
            format!("{:.2}", goal.reached),
            verdict.to_owned(),
        ]);
    }
    println!("\n{table}");
}

/// A table as it stands in `docs/performance.md`.
pub(crate) fn table(header: &[&str]) -> Table {
    let mut table = Table::new();
    table.load_style(comfy_table::presets::ASCII_MARKDOWN).set_header(header.iter().copied());
    table
}
