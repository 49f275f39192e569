//! What may share a valve, and the split of the heads into valves.

mod share;
mod split;
#[cfg(test)]
mod tests;

pub use share::{Apart, Weight, reasons_apart};
pub use split::{Bound, Proposal, Scope, lower_bound, propose};
