//! The log that a plan is folded from.

use super::edit::replay;
use super::{Edit, EditError, Plan};
use serde::{Deserialize, Serialize};

/// What an entry of the log is. Taking something back is an entry too: the log only grows.
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
