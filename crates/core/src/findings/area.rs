//! Checks of the heads on one area and of the water that they throw.

use super::{Action, Check, Effect, Finding, Found, Remedy, Severity};
use crate::catalogue::Kind;
use crate::coverage::{Coverage, REPETITIONS, Source, Verdict, aim_of, expected, verdict};
use crate::job::Job;
use crate::layout::{
    Direction, RATE_STOP, RATE_WATCH, Reaching, advise, edge_point, gaps, lay_out, propose, unreached,
};
use crate::plan::{DrawnHead, Edit};
use crate::progress::Progress;
use crate::site::Point;
use crate::units::{Length, Pressure, Rate};
use std::collections::BTreeSet;

/// Heads nearer to an edge than this are in the mower's way, metres: 2 in.
const NEAREST_EDGE: f64 = 0.0508;
/// Where they are moved to: a little over it.
const OFF_EDGE: f64 = 0.055;
/// Share of the throw from which a gap is to be mended, however few there are.
const FAR: f64 = 1.3;
/// Share of the heads up to which gaps in a direction are those of odd ground.
const FEW: f64 = 0.25;
/// Share of the water on keep-dry from which to watch, and to stop.
const DRY: (f64, f64) = (0.005, 0.03);

/// Everything to be said of an area's heads, the worst first. Computes a new layout for its
/// remedies where something is wrong: fractions of a second.
pub fn area_findings(job: &Job, area: &str, sources: &[Source<'_>], coverage: &Coverage) -> Vec<Found> {
    let check = Checker { job, area, sources, coverage };
    let mut all: Vec<Found> = [
        check.not_head_to_head(),
        check.over_dry(),
        check.beyond_adjustment(),
        check.wrong_pressure(),
        check.mixed_rates(),
        check.at_the_edge(),
        check.unwatered(),
        check.uneven(),
    ]
    .into_iter()
    .flatten()
    .collect();
    all.sort_by_key(|f| f.finding.severity);
    // One new layout serves all that placing mends.
    let mends = |f: &Found| f.remedies.is_empty() && placing(&f.finding.check);
    if all.iter().any(mends)
        && let Some(remedy) = check.anew()
    {
        all.iter_mut().filter(|f| mends(f)).for_each(|f| f.remedies.push(remedy.clone()));
    }
    all
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

fn found(severity: Severity, check: Check) -> Option<Found> {
    Some(Found { finding: Finding::new(severity, check), remedies: Vec::new() })
}

struct Checker<'a> {
    job: &'a Job,
    area: &'a str,
    sources: &'a [Source<'a>],
    coverage: &'a Coverage,
}

impl Checker<'_> {
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

    fn not_head_to_head(&self) -> Option<Found> {
        let shape = &self.job.site.area(self.area)?.shape;
        // Strips and squares stand end to end by design.
        let sectors = self.sources.iter().filter(|s| s.nozzle.pattern.is_none());
        let heads: Vec<Reaching> = sectors
            .map(|s| Reaching {
                at: s.head.at,
                throw: s.throw().reach,
                arc: s.head.arc,
                facing: s.head.facing,
            })
            .collect();
        let gaps = gaps(shape, &heads);
        // A few heads of odd ground look past their neighbours; rows that are too wide are many.
        let few = (gaps.len() as f64) < FEW * heads.len() as f64;
        if few && gaps.iter().all(|g| g.along != Direction::Nearest) {
            return None;
        }
        let widest = gaps.iter().max_by(|a, b| (a.gap / a.throw).total_cmp(&(b.gap / b.throw)))?;
        let check = Check::NotHeadToHead {
            heads: gaps.len(),
            of: heads.len(),
            gap: Length::from_m(widest.gap),
            throw: Length::from_m(widest.throw),
            along: widest.along,
        };
        let many = 2 * gaps.len() >= heads.len() || widest.gap > FAR * widest.throw;
        found(if many { Severity::Fix } else { Severity::Watch }, check)
    }

    fn over_dry(&self) -> Option<Found> {
        let share = self.coverage.on_dry();
        let spills = &self.coverage.spills;
        let worst = spills.iter().find(|s| s.dry).filter(|_| share > DRY.0)?;
        let check = Check::ThrowOverDry {
            share,
            worst: worst.name.clone(),
            on_worst: worst.flow,
            flow: self.coverage.flow,
        };
        found(if share > DRY.1 { Severity::Stop } else { Severity::Watch }, check)
    }

    fn beyond_adjustment(&self) -> Option<Found> {
        let limits = |s: &Source<'_>| Some((s.nozzle.least_throw()?, s.nozzle.radius?));
        let bad: Vec<(&Source<'_>, Length, (Length, Length))> = self
            .sources
            .iter()
            .filter_map(|s| Some((s, s.head.radius?, limits(s)?)))
            .filter(|(_, r, (low, high))| r.m() < low.m() - 1e-6 || r.m() > high.m() + 1e-6)
            .collect();
        let (first, set, (least, full)) = *bad.first()?;
        let edits = bad.iter().filter_map(|(s, r, (low, high))| {
            self.put(DrawnHead { radius: Some(r.max(*low).min(*high)), ..s.head.clone() })
        });
        let remedy =
            Remedy::new(Action::SetThrows, Effect::Throws(least, full), Edit::batch(edits.collect()));
        let nozzle = first.nozzle.id.clone();
        let check = Check::BeyondAdjustment { heads: bad.len(), set, nozzle, least, full };
        Some(Found { finding: Finding::new(Severity::Fix, check), remedies: vec![remedy] })
    }

    fn wrong_pressure(&self) -> Option<Found> {
        let out: Vec<_> = self
            .sources
            .iter()
            .filter_map(|s| Some((s, s.solved?.0)))
            .filter(|(s, p)| *p < s.class.low || *p > s.class.high)
            .collect();
        let off = |s: &Source<'_>, p: Pressure| (p / s.class.nominal).ln().abs();
        let (s, worst) = out.iter().copied().max_by(|a, b| off(a.0, a.1).total_cmp(&off(b.0, b.1)))?;
        let check = Check::WrongPressure { heads: out.len(), worst, band: s.class.band() };
        found(Severity::Fix, check)
    }

    fn mixed_rates(&self) -> Option<Found> {
        // Full-circle flow over the square that a head waters head to head.
        let rate = |s: &Source<'_>| {
            let ground = s.nozzle.pattern.map_or_else(
                || s.throw().reach.powi(2) * f64::from(s.head.arc) / 360.0,
                |p| p.width.m() * p.length.m(),
            );
            60.0 * s.nozzle.flow_set(s.head.arc, s.head.radius).lpm() / ground.max(0.01)
        };
        let mean = |kind: Kind| {
            let of: Vec<f64> = self.sources.iter().filter(|s| s.class.kind == kind).map(rate).collect();
            (of.iter().sum::<f64>() / of.len().max(1) as f64, kind)
        };
        let kinds: BTreeSet<Kind> = self.sources.iter().map(|s| s.class.kind).collect();
        let rates: Vec<(f64, Kind)> = kinds.into_iter().map(mean).collect();
        let high = rates.iter().copied().max_by(|a, b| a.0.total_cmp(&b.0))?;
        let low = rates.iter().copied().min_by(|a, b| a.0.total_cmp(&b.0))?;
        let ratio = high.0 / low.0.max(1e-9);
        if high.1 == low.1 || ratio <= RATE_WATCH {
            return None;
        }
        let check = Check::MixedRates { high: Rate::from_mmph(high.0), low: Rate::from_mmph(low.0) };
        found(if ratio > RATE_STOP { Severity::Stop } else { Severity::Watch }, check)
    }

    fn at_the_edge(&self) -> Option<Found> {
        let shape = &self.job.site.area(self.area)?.shape;
        let near: Vec<(&Source<'_>, f64, Point)> = self
            .sources
            .iter()
            .filter_map(|s| edge_point(shape, s.head.at).map(|(d, to)| (s, d, to)))
            .filter(|(_, d, _)| *d < NEAREST_EDGE - 1e-4)
            .collect();
        let nearest = near.iter().map(|n| n.1).reduce(f64::min)?;
        let edits = near.iter().filter_map(|(s, d, inward)| {
            let at = s.head.at + *inward * (OFF_EDGE - d);
            self.put(DrawnHead { at, ..s.head.clone() })
        });
        let remedy = Remedy::new(
            Action::MoveIn,
            Effect::OffEdge(Length::from_m(OFF_EDGE)),
            Edit::batch(edits.collect()),
        );
        let check = Check::AtTheEdge {
            heads: near.len(),
            of: self.sources.len(),
            nearest: Length::from_m(nearest.max(0.0)),
            wanted: Length::from_m(NEAREST_EDGE),
        };
        Some(Found { finding: Finding::new(Severity::Watch, check), remedies: vec![remedy] })
    }

    fn unwatered(&self) -> Option<Found> {
        let parts = unreached(self.coverage);
        let share = self.coverage.unreached;
        let part = parts.first().filter(|_| share > 0.002 && self.coverage.heads > 0)?;
        let check = Check::UnwateredPart { part: part.clone(), parts: parts.len(), share };
        found(Severity::Stop, check)
    }

    fn uneven(&self) -> Option<Found> {
        let ideal = self.coverage.uniformity?.du;
        let kind = self.sources.first()?.class.kind;
        let expected = expected(self.job, self.area, self.sources, REPETITIONS)?;
        let severity = match verdict(ideal, &expected, kind) {
            Verdict::Good => return None,
            Verdict::Below => Severity::Watch,
            Verdict::Poor => Severity::Fix,
        };
        let check = Check::Uneven { ideal, expected, aim: aim_of(kind), kind };
        found(severity, check)
    }
}
