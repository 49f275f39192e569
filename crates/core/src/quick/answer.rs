use crate::assess::{Assessment, assess};
use crate::job::Job;
use crate::regulation::{Comparison, Way, compare};
use crate::water::Aim;
use crate::zone::{ZoneAssessment, ZoneFault};
use crate::zoning::{Fit, Fits, Limit, fit};
use std::sync::Arc;

/// The answer.
#[derive(Debug, Clone)]
pub struct Answer {
    /// How many fit.
    pub fits: Fits,
    /// The aim: the first that at least one head gets.
    pub aim: Aim,
    /// What stops one more at the aim.
    pub limit: Limit,
    /// The same with the recommended regulator fitted, where that is another than the one asked.
    pub fits_regulated: Option<(Way, u32)>,
    /// The zone as asked.
    pub zone: Result<Arc<ZoneAssessment>, ZoneFault>,
    /// Ways to regulate it.
    pub regulation: Option<Comparison>,
    /// The rest: design flow, findings.
    pub assessment: Assessment,
}

/// Answers for a job with one group on one valve.
pub fn answer(job: &Job) -> Answer {
    let assessment = assess(job);
    // Pressure is asked of the solved zone itself, not of a rule about it.
    let design = assessment.supplies.first().and_then(|s| s.design.limit());
    let count = |job: &Job| {
        let valve = job.valves.first()?;
        fit(job, valve, design)
    };
    let Fit { fits, aim, limit } = count(job).unwrap_or(Fit::NOTHING);
    let zone = assessment.zones.first().map_or(Err(ZoneFault::Empty), |z| z.zone.clone());
    let regulation = job.valves.first().and_then(|v| compare(job, v));
    let fits_regulated = regulation.as_ref().and_then(|c| {
        let option = &c.options[c.recommended];
        let (regulated, _) = job.apply(option.edit.as_ref()?).ok()?;
        Some((option.way, count(&regulated)?.fits.aim?))
    });
    Answer { fits, aim, limit, fits_regulated, zone, regulation, assessment }
}
