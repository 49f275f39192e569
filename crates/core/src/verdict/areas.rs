use crate::assess::{AreaReport, Assessment, area_report};
use crate::coverage::{Expected, SolvedHeads, Source, sources};
use crate::findings::Finding;
use crate::job::Job;
use crate::plan::DrawnHead;
use crate::units::{Flow, Pressure};

/// What was found of an area, with the heads that it was found for.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct AreaVerdict {
    pub area: String,
    heads: Vec<KeptHead>,
    pub expected: Option<Expected>,
    pub findings: Vec<Finding>,
}

/// A head: its nozzle, how it stands, and what it gets.
type KeptHead = (String, DrawnHead, Option<(Pressure, Flow)>);

/// Areas of an earlier verdict over the same ground. Finding the evenness of one takes a tenth of a second, so
/// what is the same as before is not found again.
#[derive(Debug, Clone, Default)]
pub struct KeptAreas(Vec<AreaVerdict>);

impl KeptAreas {
    /// Those of a verdict over `then` that may serve `now`: ground, wind and nozzles are those of all areas.
    pub(super) fn of(areas: &[AreaVerdict], then: &Job, now: &Job) -> Self {
        let same = then.site == now.site && then.nozzles == now.nozzles && then.rules == now.rules;
        Self(if same { areas.to_vec() } else { Vec::new() })
    }

    fn get(&self, area: &str, heads: &[KeptHead]) -> Option<AreaVerdict> {
        self.0.iter().find(|a| a.area == area && a.heads == heads).cloned()
    }
}

fn heads(sources: &[Source<'_>]) -> Vec<KeptHead> {
    sources.iter().map(|s| (s.nozzle.id.clone(), s.head.clone(), s.solved)).collect()
}

/// Every area with drawn heads, in the plan's order.
pub(super) fn verdicts(job: &Job, known: &Assessment, kept: &KeptAreas) -> Vec<AreaVerdict> {
    let solved: SolvedHeads = known.solved_heads();
    let of = |area: &str| {
        let heads = heads(&sources(job, &solved, area));
        if heads.is_empty() {
            return None;
        }
        kept.get(area, &heads).or_else(|| Some(verdict_of(area_report(job, &solved, area)?, heads)))
    };
    job.site.areas().filter_map(|(thing, _)| of(&thing.id)).collect()
}

/// The same of areas that somebody has looked at already.
pub(super) fn of_reports(reports: &[AreaReport]) -> Vec<AreaVerdict> {
    reports.iter().map(|r| verdict_of(r.clone(), Vec::new())).collect()
}

fn verdict_of(report: AreaReport, heads: Vec<KeptHead>) -> AreaVerdict {
    AreaVerdict { area: report.area, heads, expected: report.expected, findings: report.findings }
}
