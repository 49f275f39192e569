//! What mends the heads of an area.

use super::{Action, Diagnosis, Effect, Remedy};
use crate::assess::AreaReport;
use crate::coverage::{Coverage, NEAREST_EDGE, OFF_EDGE, Source, edge_point};
use crate::findings::{Check, Finding, near_the_edge, out_of_adjustment};
use crate::job::Job;
use crate::layout::{advise, lay_out, propose};
use crate::plan::{DrawnHead, Edit};
use crate::progress::Progress;
use crate::units::Length;

/// Edges that a head may stand too near to at once: two of a square corner, and one more where it is sharp.
const EDGES_OF_A_CORNER: usize = 3;

/// Findings of an area with what would mend each. A new layout is computed once for all that it may mend:
/// fractions of a second.
pub(super) fn area_remedies(job: &Job, report: &AreaReport, sources: &[Source<'_>]) -> Vec<Diagnosis> {
    let findings = &report.findings;
    let of = AreaRemedies { job, area: &report.area, sources, coverage: &report.coverage };
    let anew = findings.iter().any(|f| placing(&f.check)).then(|| of.anew()).flatten();
    let remedies = |f: &Finding| match f.check {
        Check::BeyondAdjustment { .. } => of.set_throws(),
        Check::AtTheEdge { .. } => of.move_in(),
        ref check if placing(check) => anew.clone(),
        _ => None,
    };
    findings
        .iter()
        .map(|f| Diagnosis { finding: f.clone(), remedies: remedies(f).into_iter().collect() })
        .collect()
}

/// Findings that a new layout mends.
fn placing(check: &Check) -> bool {
    matches!(
        check,
        Check::NotHeadToHead { .. }
            | Check::ThrowOverDry { .. }
            | Check::UnwateredPart { .. }
            | Check::Uneven { .. }
    )
}

struct AreaRemedies<'a> {
    job: &'a Job,
    area: &'a str,
    sources: &'a [Source<'a>],
    coverage: &'a Coverage,
}

impl AreaRemedies<'_> {
    fn put(&self, head: DrawnHead) -> Option<Edit> {
        let (group, _) = self.job.drawn_head(&head.id)?;
        Some(Edit::put_head(group.id.clone(), head))
    }

    /// The same kind laid out anew, with what that gives.
    fn anew(&self) -> Option<Remedy> {
        let kind = self
            .sources
            .first()
            .map(|s| s.class.kind)
            .or_else(|| advise(self.job, self.area).map(|a| a.kind))?;
        let p = propose(self.job, self.area, kind, &Progress::default()).ok()?;
        let s = p.score;
        // A layout that is no better is no remedy.
        let was = self.coverage.uniformity.map_or(0.0, |u| u.du);
        let better = s.du > was + 0.02
            || s.on_dry < self.coverage.on_dry() - 0.005
            || s.unreached < self.coverage.unreached - 0.005;
        better.then(|| {
            Remedy::new(
                Action::LayOutAnew(kind),
                Effect::Layout { heads: s.heads, du: s.du, on_dry: s.on_dry },
                lay_out(self.job, &p),
            )
        })
    }

    /// Throws set to what their nozzles can.
    fn set_throws(&self) -> Option<Remedy> {
        let (_, _, (least, full)) = out_of_adjustment(self.sources).next()?;
        let edits = out_of_adjustment(self.sources).filter_map(|(s, r, (low, high))| {
            self.put(DrawnHead { radius: Some(r.max(low).min(high)), ..s.head.clone() })
        });
        Some(Remedy::new(Action::SetThrows, Effect::Throws(least, full), Edit::batch(edits.collect())))
    }

    /// Heads moved off the edge.
    fn move_in(&self) -> Option<Remedy> {
        let shape = &self.job.site.area(self.area)?.shape;
        let edits = near_the_edge(shape, self.sources).filter_map(|(s, ..)| {
            let mut at = s.head.at;
            // In a corner each edge moves it once.
            for _ in 0..EDGES_OF_A_CORNER {
                match edge_point(shape, at) {
                    Some((off, inward)) if off < NEAREST_EDGE => at = at + inward * (OFF_EDGE - off),
                    _ => break,
                }
            }
            self.put(DrawnHead { at, ..s.head.clone() })
        });
        let effect = Effect::OffEdge(Length::from_m(OFF_EDGE));
        Some(Remedy::new(Action::MoveIn, effect, Edit::batch(edits.collect())))
    }
}
