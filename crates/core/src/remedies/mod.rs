//! What would mend a finding. Every remedy is an edit whose effect was computed by solving the job with it
//! applied, and is tried on the whole job before it is offered.
//!
//! | file | idea |
//! |---|---|
//! | `remedy` | what is done, and what it gives |
//! | `zone`, `pipe` | remedies of a valve, of drawn pipe |
//! | `supply` | remedies of a point of connection |
//! | `area` | remedies of an area's heads |
//! | `trial` | each tried on the whole job |

mod area;
mod pipe;
mod remedy;
mod supply;
#[cfg(test)]
mod tests;
mod trial;
mod zone;

pub use remedy::{Action, Diagnosis, Effect, Remedy};

use crate::assess::{AreaReport, Assessment};
use crate::coverage::sources;
use crate::job::Job;
use crate::plan::{Supply, Valve};
use trial::Place;

/// Findings of a valve with what would mend them; none where the zone has no figures.
pub fn of_zone(job: &Job, known: &Assessment, valve: &Valve) -> Vec<Diagnosis> {
    let Some(report) = known.zone(&valve.id) else {
        return Vec::new();
    };
    let Ok(zone) = &report.zone else {
        return Vec::new();
    };
    trial::harmless(job, known, Place::Valve(valve), zone::zone_remedies(job, valve, zone, &report.findings))
}

/// Findings of a point of connection with what would mend them.
pub fn of_supply(job: &Job, known: &Assessment, supply: &Supply) -> Vec<Diagnosis> {
    let Some(report) = known.supply(&supply.id) else {
        return Vec::new();
    };
    trial::harmless(job, known, Place::Supply(supply), supply::supply_remedies(job, supply, &report.findings))
}

/// Findings of an area's heads with what would mend them: a new layout takes fractions of a second.
pub fn of_area(job: &Job, known: &Assessment, report: &AreaReport) -> Vec<Diagnosis> {
    let solved = known.solved_heads();
    let sources = sources(job, &solved, &report.area);
    trial::harmless(job, known, Place::Area(report), area::area_remedies(job, report, &sources))
}
