use super::score::{Score, all_heads, sources};
use super::trial::Proposed;
use crate::catalogue::Kind;
use crate::coverage::{Expected, Unreached, expected};
use crate::job::Job;
use crate::units::Length;

/// Heads for an area.
#[derive(Debug, Clone, PartialEq)]
pub struct Proposal {
    /// Id of the area.
    pub area: String,
    /// Kind of head.
    pub kind: Kind,
    /// The heads, locked ones not among them.
    pub heads: Vec<Proposed>,
    /// What they do, together with locked ones.
    pub score: Score,
    /// The evenness that an audit would find, at nominal pressure.
    pub expected: Option<Expected>,
    /// What gets no water.
    pub unreached: Vec<Unreached>,
    /// Layouts that were tried.
    pub tried: usize,
    /// Throw that was laid out for, and the farthest that a head stands from the next, metres; none for
    /// patterns.
    pub spacing: Option<(f64, f64)>,
    /// How the inside is filled.
    pub pattern: &'static str,
}

/// Why there is no proposal.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum LayoutFault {
    /// Not an area, or all of it lies under something else.
    #[error("that irrigated area does not exist")]
    NoArea,
    /// Nothing of it is left under what was drawn over it.
    #[error("all of it lies under pavement or other ground drawn later. Draw it after that, or cut that out")]
    Covered,
    /// Too narrow for anything that throws.
    #[error("too narrow for any spray or rotor")]
    TooNarrow(Length),
    /// The kind throws farther than the ground is wide.
    #[error("the shortest radius of this head type is wider than the area")]
    TooSmall {
        /// Of the ground.
        width: Length,
        /// Of this kind.
        shortest: Length,
    },
    /// No nozzle of this kind throws.
    #[error("the catalog has no nozzle of this type")]
    NoNozzle,
    /// More heads than one area may have.
    #[error("about {0} heads is too many. Split the area first")]
    TooMany(usize),
    /// Somebody asked for it.
    #[error("stopped")]
    Stopped,
}

/// The evenness that an audit of proposed heads would find, with the locked ones of the area, at nominal or at what the
/// water leaves for them.
pub(super) fn audit(job: &Job, area: &str, heads: &[Proposed], repetitions: usize) -> Option<Expected> {
    let set = all_heads(job, area, heads);
    expected(job, area, &sources(job, &set), repetitions)
}
