//! Rule sets compiled: which rules there are, and which of them run together.

mod memory;
mod plan;

pub(crate) use memory::ShortTextMemory;
use memory::SpareMemory;
pub(crate) use plan::{Segment, Stage};

use std::ops::Range;

use crate::guard::Guard;
use crate::operations::CompiledRule;
use crate::rules::{
    Count, DropRecords, Field, FlatRule, NewField, RepeatScope, RowTest, RuleId, RuleName, RuleSet, Search,
    TableSettings, Verb, flat, line_word,
};
use crate::text::BOM;
use crate::text::pool::{Pool, PoolGuard};
use crate::text::stand_ins::StandIns;

/// The longest result, in lengths of the input,
const TIMES: u64 = 10;

/// and the bytes that are added to that, where `--max-memory` does not say otherwise.
const GROWTH: u64 = 64 << 20;

/// What rules may hold of a text, in bytes, where `--max-memory` does not say otherwise.
const HELD: u64 = 1 << 30;

/// One or more rule sets made ready to run. A program never changes and can be shared between threads.
///
/// ```
/// use washout_core::{Program, RuleSet};
///
/// let rules = RuleSet::read_one_rule("rule", "remove.words = 'um'")?;
/// let program = Program::compile([&rules]);
/// assert_eq!(program.names()[0].caption, "remove words “um”");
/// # Ok::<(), washout_core::RuleError>(())
/// ```
#[derive(Clone, Debug, Default)]
pub struct Program {
    ops: Vec<CompiledRule>,
    plan: Vec<Segment>,
    names: Vec<RuleName>,
    /// Those that drop a byte order mark, in order.
    drop_bom: Vec<RuleId>,
    expectations: Vec<Expectation>,
    memory_limit: Option<u64>,
    cells: Vec<CellRule>,
    table: TableSettings,
    spare: SpareMemory,
}

/// What a rule does in tables.
#[derive(Clone, Debug)]
pub(crate) struct CellRule {
    /// The fields it names.
    pub(crate) fields: Option<Vec<Field>>,
    /// Those its set is for.
    pub(crate) of_set: Option<Vec<Field>>,
    pub(crate) rows: Vec<RowTest>,
    pub(crate) to_field: Option<NewField>,
    pub(crate) cell_lines: bool,
    /// What it does to records or fields, where that is what it does, and what it leaves alone.
    pub(crate) on_table: Option<OnTable>,
    /// It means nothing where there are no fields.
    pub(crate) is_about_tables: bool,
    /// The word by which it speaks of lines, if it does.
    pub(crate) line_word: Option<&'static str>,
}

impl CellRule {
    /// It is for no field.
    fn off() -> Self {
        Self {
            fields: Some(Vec::new()),
            of_set: None,
            rows: Vec::new(),
            to_field: None,
            cell_lines: false,
            on_table: None,
            is_about_tables: false,
            line_word: None,
        }
    }
}

/// What a rule does that acts on records or fields.
#[derive(Clone, Debug)]
pub(crate) struct OnTable {
    pub(crate) verb: Verb,
    /// A record that holds a match of one of these stays.
    pub(crate) protect: Vec<Search>,
}

/// How many changes a rule is to make, or on how many sections it is to act.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[non_exhaustive]
pub struct Expectation {
    /// The rule.
    pub rule: RuleId,
    /// How many.
    pub count: Count,
    /// In each text by itself; else over a whole run.
    pub each: bool,
    /// It is about the sections on which the rule acts, not about its changes.
    pub sections: bool,
}

impl Program {
    /// Compiles the rules of these sets, in order. Nothing can go wrong here: reading has checked it all.
    pub fn compile<'r>(sets: impl IntoIterator<Item = &'r RuleSet>) -> Self {
        Self::compile_some(sets.into_iter().map(|set| (set, true)))
    }

    /// The same, where only some of the sets, those with `true`, do anything: [the rules of the others are
    /// off](Self::with_rules_off). So a rule has one name and one id for all files, whichever sets are for them.
    pub fn compile_some<'r>(sets: impl IntoIterator<Item = (&'r RuleSet, bool)>) -> Self {
        let (sets, is_on): (Vec<&RuleSet>, Vec<bool>) = sets.into_iter().unzip();
        let mut program = Self::default();
        for set in sets.iter().zip(&is_on).filter_map(|(set, is_on)| is_on.then_some(set)) {
            // The fields of a set are those of its own rules.
            program.table = TableSettings { fields: None, ..set.table.clone() }.or(program.table);
        }
        let mut off = Vec::new();
        for (index, flat_rule) in flat(sets).into_iter().enumerate() {
            let FlatRule { number, rule, set, scopes, cells, of_set, protect } = flat_rule;
            let id = RuleId(index);
            off.push(!is_on[set]);
            if matches!(&rule.verb, Verb::LineEnds(ends) if ends.drops_bom) {
                program.drop_bom.push(id);
            }
            let expected =
                [(rule.expect, false, false), (rule.expect_each, true, false), (rule.expect_sections, false, true)];
            for (count, each, sections) in expected {
                program.expectations.extend(count.map(|count| Expectation { rule: id, count, each, sections }));
            }
            program.ops.push(CompiledRule::new(&rule.verb, Guard::new(&scopes, &protect)));
            program.cells.push(CellRule {
                is_about_tables: cells.is_about_tables() || of_set.is_some() || rule.verb.is_about_tables(),
                fields: cells.fields,
                of_set: of_set.map(<[Field]>::to_vec),
                rows: cells.rows,
                to_field: cells.to_field,
                cell_lines: cells.cell_lines,
                on_table: rule
                    .verb
                    .is_about_tables()
                    .then(|| OnTable { verb: rule.verb.clone(), protect: protect.iter().copied().cloned().collect() }),
                line_word: line_word(&rule.verb, &rule.scope),
            });
            program.names.push(RuleName { number, caption: rule.caption() });
        }
        if off.contains(&true) {
            return program.with_rules_off(|rule| off[rule.0]);
        }
        program.plan = plan::plan(&program.ops);
        program
    }

    /// Some of the rules, in their order. They keep their names; their ids count from 0 again.
    ///
    /// # Panics
    /// If there are fewer rules.
    #[must_use]
    pub fn part(&self, rules: Range<usize>) -> Self {
        self.pick(&rules.collect::<Vec<_>>())
    }

    /// As [`part`](Self::part), for rules that need not stand side by side.
    pub(crate) fn pick(&self, rules: &[usize]) -> Self {
        let moved = |id: RuleId| rules.iter().position(|rule| *rule == id.0).map(RuleId);
        let ops: Vec<CompiledRule> = rules.iter().map(|rule| self.ops[*rule].clone()).collect();
        Self {
            memory_limit: self.memory_limit,
            plan: plan::plan(&ops),
            ops,
            names: rules.iter().map(|rule| self.names[*rule].clone()).collect(),
            drop_bom: self.drop_bom.iter().filter_map(|rule| moved(*rule)).collect(),
            expectations: self
                .expectations
                .iter()
                .filter_map(|expected| Some(Expectation { rule: moved(expected.rule)?, ..*expected }))
                .collect(),
            cells: rules.iter().map(|rule| self.cells[*rule].clone()).collect(),
            table: self.table.clone(),
            spare: SpareMemory::default(),
        }
    }

    /// The same rules, of which some do nothing and expect nothing. All keep their names and ids.
    ///
    /// ```
    /// use washout_core::{Program, RuleId, RuleSet};
    ///
    /// let set = RuleSet::read("rules", "[[rule]]\nremove.chars = '#'\n[[rule]]\nremove.chars = '-'")?;
    /// let second_only = Program::compile([&set]).with_rules_off(|rule| rule == RuleId(0));
    /// assert_eq!(second_only.apply(b"#-#")?.changes(), [0, 1]);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn with_rules_off(&self, is_off: impl Fn(RuleId) -> bool) -> Self {
        let mut program = self.clone();
        for (index, (op, cells)) in program.ops.iter_mut().zip(&mut program.cells).enumerate() {
            if is_off(RuleId(index)) {
                (*op, *cells) = (CompiledRule::off(), CellRule::off());
            }
        }
        program.drop_bom.retain(|rule| !is_off(*rule));
        program.expectations.retain(|expected| !is_off(expected.rule));
        Self { plan: plan::plan(&program.ops), spare: SpareMemory::default(), ..program }
    }

    /// For cells that hold line ends: what a rule says of a line applies to the cell, unless the rule says otherwise.
    #[must_use]
    pub(crate) fn for_whole_cells(self) -> Self {
        let ops = self.ops.into_iter().zip(&self.cells);
        let ops: Vec<CompiledRule> =
            ops.map(|(op, rule)| if rule.cell_lines { op } else { op.for_whole_cells() }).collect();
        Self { plan: plan::plan(&ops), ops, spare: SpareMemory::default(), ..self }
    }

    /// Whether this rule can be one of those [for stacked cells](Self::for_stacked_cells).
    pub(crate) fn is_for_stacked_cells(&self, rule: usize) -> bool {
        self.ops[rule].keeps_number_of_lines()
    }

    /// For cells set one below the other: every line is a text of its own. `None`: some rule might add or take lines.
    pub(crate) fn for_stacked_cells(&self) -> Option<Self> {
        let ops = self.ops.iter().map(CompiledRule::for_stacked_cells).collect::<Option<Vec<CompiledRule>>>()?;
        Some(Self { plan: plan::plan(&ops), ops, ..self.clone() })
    }

    /// Adds settings of tables to those of the rule sets; these take precedence.
    #[must_use]
    pub fn with_table(self, settings: TableSettings) -> Self {
        Self { table: settings.or(self.table.clone()), ..self }
    }

    pub(crate) fn set_table(&mut self, settings: TableSettings) {
        self.table = settings;
    }

    /// What tables are like.
    pub fn table(&self) -> &TableSettings {
        &self.table
    }

    /// What each rule does in tables.
    pub(crate) fn cell_rules(&self) -> &[CellRule] {
        &self.cells
    }

    /// The fields of a table that this rule renames: the old name of each, and the new one.
    ///
    /// # Panics
    /// If there is no such rule.
    pub fn renamed_fields(&self, rule: RuleId) -> &[(String, String)] {
        match self.cells[rule.0].on_table.as_ref().map(|on| &on.verb) {
            Some(Verb::RenameFields(rename)) => &rename.names,
            _ => &[],
        }
    }

    /// Lets rules hold that many bytes of a text at most, and of what they remember of it. Without this it is 1 GiB.
    #[must_use]
    pub fn with_memory_limit(self, bytes: u64) -> Self {
        Self { memory_limit: Some(bytes), ..self }
    }

    /// Works as on a machine without vectors from now on. For tests.
    #[doc(hidden)]
    #[must_use]
    pub fn without_vectors(mut self) -> Self {
        self.plan.iter_mut().flat_map(|segment| &mut segment.stages).for_each(Stage::forgo_vectors);
        self
    }

    /// How much rules may hold of a text, in bytes.
    pub(crate) fn memory_limit(&self) -> u64 {
        self.memory_limit.unwrap_or(HELD)
    }

    /// The most bytes that any rule may make of the text, of which `came` bytes have been received.
    pub(crate) fn longest_result(&self, came: u64) -> u64 {
        self.memory_limit.unwrap_or(GROWTH).saturating_add(came.saturating_mul(TIMES))
    }

    /// The first rule that compares each record of a table with those before it.
    pub(crate) fn remembers_records(&self) -> Option<RuleId> {
        let remembers = |rule: &CellRule| {
            let verb = rule.on_table.as_ref().map(|on| &on.verb);
            matches!(verb, Some(Verb::DropRecords(DropRecords::Repeated(_))))
        };
        self.cells.iter().position(remembers).map(RuleId)
    }

    /// What a rule has to see to do its work, in words.
    pub(crate) fn needs(&self, rule: RuleId) -> String {
        match self.cells[rule.0].on_table.as_ref().map(|on| &on.verb) {
            Some(Verb::DropRecords(DropRecords::Repeated(repeats))) => match repeats.scope {
                RepeatScope::Neighbours => "record by record, and the one before".to_owned(),
                RepeatScope::File => "record by record, and 20 to 40 bytes of memory for each different one".to_owned(),
            },
            Some(Verb::DropRecords(_)) => "record by record".to_owned(),
            Some(_) => "the names of the fields".to_owned(),
            None => self.ops[rule.0].needs(),
        }
    }

    /// For names: these characters count as blanks too, in every rule whose target does not look for one of them.
    #[must_use]
    pub(crate) fn for_names(mut self, blanks: &str) -> Self {
        let blanks = StandIns::of(blanks);
        self.ops.iter_mut().for_each(|op| op.count_as_blanks(blanks));
        self.plan = plan::plan(&self.ops);
        self.spare = SpareMemory::default();
        self
    }

    /// Whether any rule numbers what it sees.
    pub(crate) fn is_numbering(&self) -> bool {
        self.ops.iter().any(CompiledRule::is_numbering)
    }

    /// The names of the rules, in the order they run: `names()[id.0]` is the name of rule `id`.
    pub fn names(&self) -> &[RuleName] {
        &self.names
    }

    /// What rules are to change, as far as they say.
    pub fn expectations(&self) -> &[Expectation] {
        &self.expectations
    }

    /// The first rule that drops a byte order mark, which is not part of the text that rules see.
    pub(crate) fn drops_bom(&self) -> Option<RuleId> {
        self.drop_bom.first().copied()
    }

    /// How the rules run together.
    pub(crate) fn plan(&self) -> &[Segment] {
        &self.plan
    }

    pub(crate) fn ops(&self) -> &[CompiledRule] {
        &self.ops
    }

    /// Memory to wash a short text in, from one that was washed before. `make`: makes it, always in the same way.
    pub(crate) fn memory_for_short_text(
        &self,
        make: impl FnOnce() -> ShortTextMemory,
    ) -> PoolGuard<ShortTextMemory, &Pool<ShortTextMemory>> {
        PoolGuard::new(&self.spare.0, make)
    }

    /// Whether it is certain at one look that no rule changes anything in this whole text. For many short texts of which
    /// few are dirty: a `false` says nothing.
    pub fn surely_leaves(&self, text: &[u8]) -> bool {
        let mut stages = self.plan.iter().flat_map(|segment| &segment.stages);
        !text.starts_with(BOM)
            && memchr::memchr(b'\r', text).is_none()
            && stages.all(|stage| stage.prefilter.as_ref().is_some_and(|prefilter| prefilter.leaves(text)))
    }
}
