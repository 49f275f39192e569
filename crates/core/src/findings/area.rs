//! Checks of the heads on one area and of the water that they throw.

use super::{Check, Finding, Severity};
use crate::catalogue::Kind;
use crate::coverage::{
    Coverage, Direction, Expected, NEAREST_EDGE, RATE_STOP, RATE_WATCH, Reaching, Source, Verdict, aim_of,
    edge_point, gaps, unreached, verdict,
};
use crate::job::Job;
use crate::site::{Point, Shape};
use crate::units::{Length, Pressure, Rate};
use crate::zone::HeadState;
use std::collections::BTreeSet;

/// Share of the throw from which a gap is to be mended, however few there are.
const FAR: f64 = 1.3;
/// Share of the heads up to which gaps in a direction are those of odd ground.
const FEW: f64 = 0.25;
/// Share of the water on keep-dry from which to watch, and to stop.
const DRY: (f64, f64) = (0.005, 0.03);

/// Everything to be said of an area's heads, the worst first. `expected` is the evenness that an audit would
/// find.
pub fn area_findings(
    job: &Job,
    area: &str,
    sources: &[Source<'_>],
    coverage: &Coverage,
    expected: Option<&Expected>,
) -> Vec<Finding> {
    let check = Checker { job, area, sources, coverage, expected };
    let mut all: Vec<Finding> = [
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
    all.sort_by_key(|f| f.severity);
    all
}

/// Heads whose throw is set to what their nozzle can't, each with the throw and the nozzle's least and full.
pub(crate) fn out_of_adjustment<'s, 'a>(
    sources: &'s [Source<'a>],
) -> impl Iterator<Item = (&'s Source<'a>, Length, (Length, Length))> {
    let limits = |s: &Source<'_>| Some((s.nozzle.least_throw()?, s.nozzle.radius?));
    sources
        .iter()
        .filter_map(move |s| Some((s, s.head.radius?, limits(s)?)))
        .filter(|(_, r, (low, high))| r.m() < low.m() - 1e-6 || r.m() > high.m() + 1e-6)
}

/// Heads in the mower's way, each with its distance to the edge, m, and the way in from there.
pub(crate) fn near_the_edge<'s, 'a>(
    shape: &Shape,
    sources: &'s [Source<'a>],
) -> impl Iterator<Item = (&'s Source<'a>, f64, Point)> {
    sources
        .iter()
        .filter_map(move |s| edge_point(shape, s.head.at).map(|(d, to)| (s, d, to)))
        .filter(|(_, d, _)| *d < NEAREST_EDGE - 1e-4)
}

fn finding(severity: Severity, check: Check) -> Option<Finding> {
    Some(Finding::new(severity, check))
}

struct Checker<'a> {
    job: &'a Job,
    area: &'a str,
    sources: &'a [Source<'a>],
    coverage: &'a Coverage,
    expected: Option<&'a Expected>,
}

impl Checker<'_> {
    fn not_head_to_head(&self) -> Option<Finding> {
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
        finding(if many { Severity::Fix } else { Severity::Watch }, check)
    }

    fn over_dry(&self) -> Option<Finding> {
        let share = self.coverage.on_dry();
        let spills = &self.coverage.spills;
        let worst = spills.iter().find(|s| s.dry).filter(|_| share > DRY.0)?;
        let check = Check::ThrowOverDry {
            share,
            worst: worst.name.clone(),
            on_worst: worst.flow,
            flow: self.coverage.flow,
        };
        finding(if share > DRY.1 { Severity::Stop } else { Severity::Watch }, check)
    }

    fn beyond_adjustment(&self) -> Option<Finding> {
        let mut bad = out_of_adjustment(self.sources);
        let (first, set, (least, full)) = bad.next()?;
        let nozzle = first.nozzle.id.clone();
        finding(Severity::Fix, Check::BeyondAdjustment { heads: 1 + bad.count(), set, nozzle, least, full })
    }

    fn wrong_pressure(&self) -> Option<Finding> {
        let out: Vec<_> = self
            .sources
            .iter()
            .filter_map(|s| Some((s, s.solved?.0)))
            .filter(|(s, p)| HeadState::of(s.class.kind, s.class.band(), *p) != HeadState::Works)
            .collect();
        let off = |s: &Source<'_>, p: Pressure| (p / s.class.nominal).ln().abs();
        let (s, worst) = out.iter().copied().max_by(|a, b| off(a.0, a.1).total_cmp(&off(b.0, b.1)))?;
        let check = Check::WrongPressure { heads: out.len(), worst, band: s.class.band() };
        finding(Severity::Fix, check)
    }

    fn mixed_rates(&self) -> Option<Finding> {
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
        finding(if ratio > RATE_STOP { Severity::Stop } else { Severity::Watch }, check)
    }

    fn at_the_edge(&self) -> Option<Finding> {
        let shape = &self.job.site.area(self.area)?.shape;
        let near: Vec<f64> = near_the_edge(shape, self.sources).map(|n| n.1).collect();
        let nearest = near.iter().copied().reduce(f64::min)?;
        let check = Check::AtTheEdge {
            heads: near.len(),
            of: self.sources.len(),
            nearest: Length::from_m(nearest.max(0.0)),
            wanted: Length::from_m(NEAREST_EDGE),
        };
        finding(Severity::Watch, check)
    }

    fn unwatered(&self) -> Option<Finding> {
        let parts = unreached(self.coverage);
        let share = self.coverage.unreached;
        let part = parts.first().filter(|_| share > 0.002 && self.coverage.heads > 0)?;
        let check = Check::UnwateredPart { part: part.clone(), parts: parts.len(), share };
        finding(Severity::Stop, check)
    }

    fn uneven(&self) -> Option<Finding> {
        let ideal = self.coverage.uniformity?.du;
        let kind = self.sources.first()?.class.kind;
        let expected = *self.expected?;
        let severity = match verdict(ideal, &expected, kind) {
            Verdict::Good => return None,
            Verdict::Below => Severity::Watch,
            Verdict::Poor => Severity::Fix,
        };
        let check = Check::Uneven { ideal, expected, aim: aim_of(kind), kind };
        finding(severity, check)
    }
}
