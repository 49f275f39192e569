use super::score::{Score, all_heads};
use super::search::Search;
use super::trial::Proposed;
use crate::catalogue::Kind;
use crate::coverage::{Expected, REPETITIONS, Source, Unreached, expected};
use crate::job::Job;
use crate::progress::Progress;
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

/// Heads of one kind for an area. Locked heads stay and count. Deterministic.
///
/// Throws and spacings of the kind's nozzles are placed (corners, edges, inside), the nozzle whose throw
/// equals the spacing that came of it is tried too, the best are searched on, and of those the one is taken
/// that is worth most: even, on its ground, at the kind's own rate, each head in reach of its neighbours.
/// Ground from 2 ft wide, at most 2,500 heads.
///
/// # Errors
/// [`LayoutFault`], in words for the person who asked.
///
/// # Source
/// Head to head as practised; search by single changes (first improvement); Lloyd (1982) for heads strewn
/// inside.
///
/// # Example
/// 36 x 48 ft with sprays: 12 heads, about 29 gpm and 1.6 in/h, where 15 ft nozzles at 12 ft would take 45.6
/// gpm for the same evenness (a test holds it).
pub fn propose(job: &Job, area: &str, kind: Kind, progress: &Progress) -> Result<Proposal, LayoutFault> {
    // What is on the truck comes first; where it does not suit the ground, all of the kind.
    let on_truck = job.catalogue().nozzles.iter().any(|n| n.kind == kind && n.favourite);
    match propose_of(job, area, kind, progress, on_truck) {
        Err(LayoutFault::TooSmall { .. } | LayoutFault::NoNozzle | LayoutFault::TooMany(_)) if on_truck => {
            propose_of(job, area, kind, progress, false)
        }
        done => done,
    }
}

fn propose_of(
    job: &Job,
    area: &str,
    kind: Kind,
    progress: &Progress,
    on_truck: bool,
) -> Result<Proposal, LayoutFault> {
    let mut search = Search::of(job, area, kind, progress, on_truck)?;
    search.patterns(on_truck);
    search.rows()?;
    let mut best = search.best()?;
    best.expected = audit(job, area, &best.heads, REPETITIONS);
    Ok(best)
}

/// The evenness that an audit of proposed heads would find, with the locked ones of the area, at nominal.
pub(super) fn audit(job: &Job, area: &str, heads: &[Proposed], repetitions: usize) -> Option<Expected> {
    let set = all_heads(job, area, heads);
    let each = set.iter().map(|(nozzle, head)| Source {
        head,
        nozzle,
        class: job.catalogue().class(nozzle.kind),
        solved: None,
    });
    let sources: Vec<Source<'_>> = each.collect();
    expected(job, area, &sources, repetitions)
}
