//! What is known of the drawn heads of each area.

use crate::catalogue::Kind;
use crate::coverage::own_rate;
use crate::coverage::{
    Coverage, Expected, REPETITIONS, SolvedHeads, Source, Throw, coverage, expected, sources,
};
use crate::findings::Finding;
use crate::findings::area_findings;
use crate::job::Job;
use crate::units::Rate;

/// The water on one area, of its drawn heads.
#[derive(Debug, Clone)]
pub struct AreaReport {
    /// Id of the area.
    pub area: String,
    /// Kind of its first head.
    pub kind: Kind,
    /// The catch-can grid with perfect heads in still air.
    pub coverage: Coverage,
    /// The evenness that an audit would find.
    pub expected: Option<Expected>,
    /// What its heads give over its ground.
    pub rate: Rate,
    /// The same of these nozzles set head to head: what the kind applies by itself.
    pub own_rate: Rate,
    /// Checks, the worst first.
    pub findings: Vec<Finding>,
}

/// Every area with drawn heads, in the plan's order: fractions of a second each. Heads that `solved` does not
/// know count at nominal pressure.
pub fn area_reports(job: &Job, solved: &SolvedHeads) -> Vec<AreaReport> {
    job.site.areas().filter_map(|(thing, _)| area_report(job, solved, &thing.id)).collect()
}

/// The same of one area; none where no head of it is drawn.
pub fn area_report(job: &Job, solved: &SolvedHeads, area: &str) -> Option<AreaReport> {
    let sources = sources(job, solved, area);
    let kind = sources.first()?.class.kind;
    let throws: Vec<Throw> = sources.iter().map(Source::throw).collect();
    let coverage = coverage(job, area, &throws, None)?;
    let expected = expected(job, area, &sources, REPETITIONS);
    let findings = area_findings(job, area, &sources, &coverage, expected.as_ref());
    let rate = Rate::from_mmph(60.0 * coverage.flow.lpm() / coverage.area_m2().max(1e-6));
    Some(AreaReport {
        area: area.to_owned(),
        kind,
        expected,
        rate,
        own_rate: own_rate(job.catalogue(), sources.iter().map(|s| (s.nozzle, s.head.arc)), rate),
        coverage,
        findings,
    })
}
