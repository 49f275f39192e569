//! The parts of a zone from its water to its tube: how they follow one another, join, and what is wrong.
//!
//! | file | idea |
//! |---|---|
//! | `train` | an assembly with its catalogue parts, in order |
//! | `starts` | usual assemblies to begin with |
//! | `check` | what is wrong, part by part |
//! | `fitting` | the shortest chain of fittings between two ends |

mod check;
mod fitting;
mod starts;
#[cfg(test)]
mod tests;
mod train;

pub use check::{Around, AssemblyFault, Fault, faults};
pub use fitting::{Joined, chain_between};
pub use starts::{Start, at_tap};
pub use train::{Member, Train};
