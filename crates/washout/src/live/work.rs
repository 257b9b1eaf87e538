//! The thread that sends a sample through the rules. Only the newest order counts: work on an older one ends.

use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::mpsc::{Receiver, Sender, channel};
use std::sync::{Arc, Condvar, Mutex, PoisonError};
use std::time::Duration;

use washout_core::names::{NameWasher, Planner};
use washout_core::observe::{Hunk, Observer};
use washout_core::table::{AnyWasher, Form};
use washout_core::text::TextSize;
use washout_core::{Program, RuleName, RuleSet};
use washout_files::{Meter, NameOrder, Plans, RequestSource};

use super::lineage_beside::LineageBeside;
use super::rows::Rows;
use super::subject::{NameSample, Subject, TableSample};
use crate::show::visible::shown;

/// Bytes after which a newer order is looked for.
const PIECE: usize = 64 << 10;

/// What is to be worked out.
#[derive(Clone)]
pub(super) struct Order {
    pub(super) sets: Arc<Vec<RuleSet>>,
    /// The numbers of rules that are off.
    pub(super) off: Vec<String>,
    pub(super) settings: washout_core::table::TableSettings,
    pub(super) memory: Option<u64>,
    pub(super) subject: Arc<Subject>,
}

/// What has come of an order.
pub(super) struct Outcome {
    pub(super) rules: Vec<RuleName>,
    /// How many changes each rule made.
    pub(super) changes: Vec<u64>,
    pub(super) rows: Rows,
    pub(super) sets: Arc<Vec<RuleSet>>,
    pub(super) program: Arc<Program>,
}

/// The sizes of a text before a rule and after it.
pub(super) type Sizes = Vec<(TextSize, TextSize)>;

/// What the thread says, each with the number of its order.
pub(super) enum Said {
    Done(u64, Box<Outcome>),
    /// Rules that cannot go on, or are not for this.
    Failed(u64, String),
    Sizes(u64, Sizes),
}

struct Shared {
    order: Mutex<Option<(u64, Order)>>,
    is_new: Condvar,
    newest: AtomicU64,
}

/// How long there has to be no newer order before work begins that takes long and can wait.
const QUIET: Duration = Duration::from_millis(150);

impl Shared {
    /// Waits for a while; gives whether no order came.
    fn is_quiet(&self) -> bool {
        let place = self.order.lock().unwrap_or_else(PoisonError::into_inner);
        let waited = self.is_new.wait_timeout_while(place, QUIET, |order| order.is_none());
        waited.unwrap_or_else(PoisonError::into_inner).1.timed_out()
    }
}

/// The thread, from outside.
pub(super) struct Worker {
    shared: Arc<Shared>,
    said: Receiver<Said>,
}

impl Worker {
    pub(super) fn start() -> Self {
        let shared = Arc::new(Shared { order: Mutex::default(), is_new: Condvar::new(), newest: AtomicU64::new(0) });
        let (sender, said) = channel();
        let theirs = Arc::clone(&shared);
        std::thread::spawn(move || work(&theirs, &sender));
        Self { shared, said }
    }

    /// Takes an order in place of all before it; gives its number.
    pub(super) fn order(&self, order: Order) -> u64 {
        let mut place = self.shared.order.lock().unwrap_or_else(PoisonError::into_inner);
        let number = self.shared.newest.fetch_add(1, Ordering::Relaxed) + 1;
        *place = Some((number, order));
        self.shared.is_new.notify_one();
        number
    }

    /// What was said and not heard yet.
    pub(super) fn heard(&self) -> impl Iterator<Item = Said> + '_ {
        self.said.try_iter()
    }
}

fn work(shared: &Shared, sender: &Sender<Said>) {
    loop {
        let mut place = shared.order.lock().unwrap_or_else(PoisonError::into_inner);
        let (number, order) = loop {
            match place.take() {
                Some(order) => break order,
                None => place = shared.is_new.wait(place).unwrap_or_else(PoisonError::into_inner),
            }
        };
        drop(place);
        let is_stale = || shared.newest.load(Ordering::Relaxed) != number;
        let program = program(&order);
        let said = match washed(&order, &program, &is_stale) {
            Ok(None) => continue,
            Ok(Some((rows, changes))) => {
                let (rules, sets) = (program.names().to_vec(), Arc::clone(&order.sets));
                Said::Done(number, Box::new(Outcome { rules, changes, rows, sets, program: Arc::new(program.clone()) }))
            }
            Err(why) => Said::Failed(number, shown(&why)),
        };
        let is_done = matches!(said, Said::Done(..));
        if sender.send(said).is_err() {
            return;
        }
        // How long the text is between two rules takes a run of each alone: that comes once no one types.
        if is_done
            && shared.is_quiet()
            && let Subject::Text(text) = &*order.subject
            && let Some(sizes) = sizes(&program, &text.bytes, &is_stale)
        {
            let _ = sender.send(Said::Sizes(number, sizes));
        }
    }
}

/// The rules of an order, with those that are off.
fn program(order: &Order) -> Program {
    let program = Program::compile(order.sets.iter()).with_table(order.settings.clone());
    let program = order.memory.map_or_else(|| program.clone(), |bytes| program.clone().with_memory_limit(bytes));
    if order.off.is_empty() {
        return program;
    }
    let is_off: Vec<bool> = program.names().iter().map(|name| order.off.contains(&name.number)).collect();
    program.with_rules_off(|rule| is_off[rule.0])
}

/// The rows, and how many changes each rule made; `None`: there is a newer order.
fn washed(order: &Order, program: &Program, is_stale: &impl Fn() -> bool) -> Result<Option<(Rows, Vec<u64>)>, String> {
    match &*order.subject {
        Subject::Text(text) => {
            let lineage = LineageBeside::start(program.names().len());
            let Some((AnyWasher::Text(washer), changes)) = pushed(program, Form::Text, lineage, &text.bytes, is_stale)?
            else {
                return Ok(None);
            };
            Ok(Some((Rows::of_text(&order.subject, washer.into_observer().finish()), changes)))
        }
        Subject::Table(TableSample { bytes, format, .. }) => {
            let form = Form::Table(*format);
            let Some((AnyWasher::Table(washer), changes)) =
                pushed(program, form, CellHunks::default(), bytes, is_stale)?
            else {
                return Ok(None);
            };
            let texts = program.cell_texts(*format, bytes).map_err(|error| error.to_string())?;
            Ok(Some((Rows::of_table(&texts, &washer.into_observer().0), changes)))
        }
        Subject::Names(NameSample { chosen, settings }) => {
            let sets = order.sets.iter().rev();
            let settings = sets.fold(settings.clone(), |settings, set| settings.or(set.names.clone()));
            let washer = NameWasher::new(program, &settings);
            let source = RequestSource::Rules(&washer);
            let plans =
                Plans::to_look_at(chosen.entries(), source, NameOrder::Name, Planner::default(), &Meter::default());
            Ok((!is_stale()).then(|| (Rows::of_names(&plans), plans.changes.clone())))
        }
    }
}

/// A washer that has seen all of it, and the changes of each rule; `None`: there is a newer order.
type Washed<'p, O> = Option<(AnyWasher<'p, O>, Vec<u64>)>;

fn pushed<'p, O: Observer>(
    program: &'p Program,
    form: Form,
    observer: O,
    bytes: &[u8],
    is_stale: &impl Fn() -> bool,
) -> Result<Washed<'p, O>, String> {
    let mut washer = program.washer_of(form, observer).map_err(|error| error.to_string())?;
    let mut out = Vec::new();
    for piece in bytes.chunks(PIECE) {
        if is_stale() {
            return Ok(None);
        }
        washer.push(piece, &mut out).map_err(|error| error.to_string())?;
        out.clear();
    }
    washer.finish(&mut out).map_err(|error| error.to_string())?;
    let changes = match &washer {
        AnyWasher::Text(washer) => washer.changes().to_vec(),
        AnyWasher::Table(washer) => washer.changes().to_vec(),
    };
    Ok((!is_stale()).then_some((washer, changes)))
}

/// Keeps what happens to cells.
#[derive(Debug, Default)]
struct CellHunks(Vec<Hunk>);

impl Observer for CellHunks {
    fn cell(&mut self, hunk: Hunk) {
        self.0.push(hunk);
    }
}

/// The sizes around each rule; `None`: there is a newer order, or a rule cannot go on.
fn sizes(program: &Program, text: &[u8], is_stale: &impl Fn() -> bool) -> Option<Sizes> {
    let mut sizes = Vec::new();
    for step in program.steps(text) {
        let step = step.ok().filter(|_| !is_stale())?;
        sizes.push((step.before, step.after));
    }
    Some(sizes)
}
