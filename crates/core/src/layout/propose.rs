use super::proposal::{LayoutFault, Proposal, audit};
use super::search::Search;
use crate::catalogue::Kind;
use crate::coverage::REPETITIONS;
use crate::job::Job;
use crate::progress::Progress;

/// Heads of one kind for an area. Locked heads stay and count. Deterministic.
///
/// Throws and spacings of the kind's nozzles are placed (corners, edges, inside), the nozzle whose throw
/// equals the spacing that came of it is tried too, and the best are searched on. Of those that do what a layout must
/// (evenness at the aim of the kind, water on its ground, at the kind's own rate, each head in reach of its neighbours)
/// the one is taken that costs the least over ten years; where none does, the least bad.
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
