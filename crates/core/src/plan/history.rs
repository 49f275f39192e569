//! Undo and redo on an append-only list: taking something back is an entry too.

use super::edit::replay;
use super::{Edit, EditError, Plan};
use serde::{Deserialize, Serialize};

/// What an entry is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum EntryKind {
    /// A new edit.
    Do,
    /// Takes back the newest entry that stands.
    Undo,
    /// Does again what was taken back last.
    Redo,
}

/// One line of the log.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Entry {
    /// Number in the job's log, from 1.
    pub seq: i64,
    /// What it is.
    pub kind: EntryKind,
    /// What it does to the plan.
    pub edit: Edit,
    /// What takes it back.
    pub inverse: Edit,
}

/// Which entries undo and redo would use next, found from the kinds alone.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct History {
    done: Vec<i64>,
    undone: Vec<i64>,
}

impl History {
    /// Reads a log in order.
    pub fn of(kinds: impl IntoIterator<Item = (i64, EntryKind)>) -> Self {
        let mut history = Self::default();
        for (seq, kind) in kinds {
            match kind {
                EntryKind::Do => {
                    history.done.push(seq);
                    history.undone.clear();
                }
                // The entry's own inverse is what redo will apply.
                EntryKind::Undo => {
                    history.done.pop();
                    history.undone.push(seq);
                }
                EntryKind::Redo => {
                    history.undone.pop();
                    history.done.push(seq);
                }
            }
        }
        history
    }
    /// The entry whose inverse Undo applies.
    pub fn undo(&self) -> Option<i64> {
        self.done.last().copied()
    }
    /// The entry whose inverse Redo applies.
    pub fn redo(&self) -> Option<i64> {
        self.undone.last().copied()
    }
}

/// The plan that a log gives from a start. The figures are not looked at again: each entry was
/// accepted when it was appended, and a stricter later version must still open the job.
///
/// # Errors
/// The first entry that does not apply.
pub fn fold<'a>(mut plan: Plan, edits: impl IntoIterator<Item = &'a Edit>) -> Result<Plan, EditError> {
    for edit in edits {
        replay(&mut plan, edit)?;
    }
    Ok(plan)
}
