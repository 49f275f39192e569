//! Where to regulate a zone, each way computed by solving the zone with it.
//!
//! | file | idea |
//! |---|---|
//! | `option` | one way to regulate: its zone, what it can't do, what it does elsewhere |
//! | `candidates` | set points worth trying |
//! | `compare` | all ways side by side, and the one to take |

mod candidates;
mod compare;
mod option;
#[cfg(test)]
mod tests;

pub use compare::{Comparison, Why, compare, recommended};
pub use option::{OptionNote, RegulationOption, Way};

/// Pressure at the connection from which a system regulator comes first, psi.
pub const SYSTEM_REGULATOR_FROM_PSI: f64 = 100.0;
