//! Something in a file or a plan that can't be computed with, and where.

use std::fmt;

/// Something in a plan that can't be computed with, and where.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Fault {
    /// Path as in the job file, e.g. `groups[0].spacing`.
    pub path: String,
    /// What is wrong and what is expected.
    pub message: String,
}

impl fmt::Display for Fault {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}: {}", self.path, self.message)
    }
}
