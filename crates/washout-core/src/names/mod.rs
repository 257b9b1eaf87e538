//! Names of files: which part of one the rules see, and how many names become others without any getting lost.
//!
//! Everything here is worked out in memory: names in, plan out. Whoever carries a plan out does its steps in order.

mod natural;
mod order;
mod part;
mod plan;
mod refusal;
mod same;
mod wash;

pub use crate::rules::{NamePart, NameSettings};
pub use natural::natural_order;
pub(crate) use part::{part as part_range, stem_of};
pub use plan::{FolderPlan, NameOutcome, NameRequest, OnClash, Planner, RenameStep};
pub use refusal::Refusal;
pub use wash::{NameResult, NameWasher};
