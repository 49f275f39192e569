//! Where to regulate a zone, each way computed by solving the zone with it.
//!
//! | file | idea |
//! |---|---|
//! | `option` | one way to regulate: its zone, what it can't do, what it does elsewhere |
//! | `candidates` | set points worth trying |
//! | `system` | one reducing valve for the whole connection |
//! | `compare` | all ways side by side, and the one to take |

mod candidates;
mod compare;
mod option;
mod system;
#[cfg(test)]
mod tests;

pub use compare::{Comparison, Why, compare, recommended};
pub use option::{OptionNote, RegulationOption, Way};
pub use system::{wants_system_regulator, with_system_regulator};
