//! Checks of the heads on one area and of the water that they throw.

use super::{Finding, Remedy, Severity};
use crate::catalogue::{Catalogue, TURNS_DOWN};
use crate::coverage::{Coverage, Source};
use crate::layout::{Progress, Unreached, advise, edge_point, lay_out, propose, unreached};
use crate::plan::{DrawnHead, Edit, Plan};
use crate::site::Point;
use crate::units::{Length, Rate};
use crate::working::Working;

/// Heads nearer to an edge than this are in the mower's way, metres: 2 in.
const NEAREST_EDGE: f64 = 0.0508;
/// Where they are moved to: a little over it.
const OFF_EDGE: f64 = 0.055;
/// Share of the water on keep-dry from which to watch, and to stop.
const DRY: (f64, f64) = (0.005, 0.03);
/// Ratio of the highest to the lowest rate from which to watch, and to stop.
const MIXED: (f64, f64) = (1.15, 1.5);

/// Everything to be said of an area's heads, the worst first. Computes a new layout for its
/// remedies where something is wrong: fractions of a second.
pub fn area_findings(
    plan: &Plan,
    area: &str,
    sources: &[Source<'_>],
    coverage: &Coverage,
    catalogue: &Catalogue,
) -> Vec<Finding> {
    let catalogue = plan.with_own(catalogue);
    let check = Check {
        plan,
        area,
        sources,
        coverage,
    };
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
    // One new layout serves all that placing mends.
    let placing = |f: &&mut Finding| f.remedies.is_empty() && PLACING.contains(&f.code);
    if all
        .iter()
        .any(|f| f.remedies.is_empty() && PLACING.contains(&f.code))
        && let Some(remedy) = check.anew(catalogue)
    {
        all.iter_mut()
            .filter(placing)
            .for_each(|f| f.remedies.push(remedy.clone()));
    }
    all
}

/// Findings that a new layout mends.
const PLACING: [&str; 4] = ["not-head-to-head", "throw-over-dry", "unwatered-part", "uneven"];

struct Check<'a> {
    plan: &'a Plan,
    area: &'a str,
    sources: &'a [Source<'a>],
    coverage: &'a Coverage,
}

impl Check<'_> {
    fn length(&self, m: f64) -> String {
        Length::from_m(m).show(self.plan.units)
    }

    fn put(&self, head: DrawnHead) -> Option<Edit> {
        let (group, _) = self.plan.drawn_head(&head.id)?;
        Some(Edit::PutHead {
            group: group.id.clone(),
            head,
            at: None,
        })
    }

    /// The same kind laid out anew, with what that gives.
    fn anew(&self, catalogue: &Catalogue) -> Option<Remedy> {
        let kind = self
            .sources
            .first()
            .map(|s| s.kind.kind)
            .or_else(|| advise(self.plan, self.area).map(|a| a.kind))?;
        let p = propose(self.plan, self.area, kind, catalogue, &Progress::default()).ok()?;
        let s = p.score;
        // A layout that is no better is no remedy.
        let was = self.coverage.uniformity.map_or(0.0, |u| u.du);
        let better = s.du > was + 0.02
            || s.on_dry < self.coverage.on_dry() - 0.005
            || s.unreached < self.coverage.unreached - 0.005;
        better.then(|| Remedy {
            label: format!("Lay out {} anew", catalogue.kind(kind).label.to_lowercase()),
            effect: format!(
                "{} heads, DU {:.2}, {:.1} % on keep-dry",
                s.heads,
                s.du,
                s.on_dry * 100.0
            ),
            edit: lay_out(self.plan, &p, catalogue),
        })
    }

    fn not_head_to_head(&self) -> Option<Finding> {
        // Strips and squares stand end to end by design.
        let throws: Vec<(Point, f64)> = self
            .sources
            .iter()
            .filter(|s| s.nozzle.pattern.is_none())
            .map(|s| (s.head.at, s.throw().reach))
            .collect();
        if throws.len() < 2 {
            return None;
        }
        let nearest = |i: usize| {
            (0..throws.len())
                .filter(|j| *j != i)
                .map(|j| throws[i].0.distance(throws[j].0))
                .fold(f64::MAX, f64::min)
        };
        let gaps: Vec<(f64, f64)> = (0..throws.len())
            .map(|i| (nearest(i), throws[i].1))
            .filter(|(gap, reach)| *gap > reach * 1.05)
            .collect();
        let (gap, reach) = gaps
            .iter()
            .copied()
            .max_by(|a, b| (a.0 / a.1).total_cmp(&(b.0 / b.1)))?;
        Some(Finding {
            code: "not-head-to-head",
            severity: Severity::Fix,
            title: "Not head to head".into(),
            text: format!(
                "{} of {} heads do not reach the head next to them: the widest gap is {}, the throw there \
                    {}.",
                gaps.len(),
                throws.len(),
                self.length(gap),
                self.length(reach)
            ),
            working: Working::new(
                "gap to the nearest head ≤ throw",
                "practice: the spray of each head reaches its neighbours; never stretch beyond",
            )
            .with("gap", self.length(gap))
            .with("throw", self.length(reach))
            .gives(format!("{:.0} % of the throw", 100.0 * gap / reach)),
            remedies: Vec::new(),
        })
    }

    fn over_dry(&self) -> Option<Finding> {
        let share = self.coverage.on_dry();
        let worst = self
            .coverage
            .spills
            .iter()
            .find(|s| s.dry)
            .filter(|_| share > DRY.0)?;
        let u = self.plan.units;
        Some(Finding {
            code: "throw-over-dry",
            severity: if share > DRY.1 {
                Severity::Stop
            } else {
                Severity::Watch
            },
            title: "Throws over what is kept dry".into(),
            text: format!(
                "{:.1} % of the water lands on what is to be kept dry, most of it on {}. Wet paving is \
                    slippery, wet walls rot.",
                share * 100.0,
                worst.name
            ),
            working: Working::new(
                "water on keep-dry ÷ flow of the heads, under 3 %",
                "simulated on a catch-can grid; house aim",
            )
            .with(format!("on {}", worst.name), worst.flow.show(u))
            .with("flow", self.coverage.flow.show(u))
            .gives(format!("{:.1} %", share * 100.0)),
            remedies: Vec::new(),
        })
    }

    fn beyond_adjustment(&self) -> Option<Finding> {
        let limits = |s: &Source<'_>| s.nozzle.radius.map(|r| (r * (1.0 - TURNS_DOWN), r));
        let bad: Vec<(&Source<'_>, Length, (Length, Length))> = self
            .sources
            .iter()
            .filter_map(|s| Some((s, s.head.radius?, limits(s)?)))
            .filter(|(_, r, (low, high))| r.m() < low.m() - 1e-6 || r.m() > high.m() + 1e-6)
            .collect();
        let (first, set, (low, high)) = *bad.first()?;
        let edits: Vec<Edit> = bad
            .iter()
            .filter_map(|(s, r, (low, high))| {
                self.put(DrawnHead {
                    radius: Some(r.max(*low).min(*high)),
                    ..s.head.clone()
                })
            })
            .collect();
        let u = self.plan.units;
        Some(Finding {
            code: "beyond-adjustment",
            severity: Severity::Fix,
            title: "Throw beyond the nozzle's adjustment".into(),
            text: format!(
                "{} heads are set to a throw that their nozzle can't give: {} for {}, which goes from {} \
                    to {}.",
                bad.len(),
                set.show(u),
                first.nozzle.label,
                low.show(u),
                high.show(u)
            ),
            working: Working::new(
                "0.75 × full throw ≤ throw ≤ full throw",
                "adjusting screw, typical of the class",
            )
            .with("full", high.show(u))
            .with("set", set.show(u))
            .gives(format!("{:.0} % of full", 100.0 * (set / high))),
            remedies: vec![Remedy {
                label: "Set them to what they can".into(),
                effect: format!("{} to {}", low.show(u), high.show(u)),
                edit: Edit::Batch { edits },
            }],
        })
    }

    fn wrong_pressure(&self) -> Option<Finding> {
        let out: Vec<_> = self
            .sources
            .iter()
            .filter_map(|s| Some((s, s.solved?.0)))
            .filter(|(s, p)| *p < s.kind.low || *p > s.kind.high)
            .collect();
        let off = |s: &Source<'_>, p: crate::units::Pressure| (p / s.kind.nominal).ln().abs();
        let (s, p) = out
            .iter()
            .copied()
            .max_by(|a, b| off(a.0, a.1).total_cmp(&off(b.0, b.1)))?;
        let u = self.plan.units;
        let low = p < s.kind.low;
        Some(Finding {
            code: "wrong-pressure",
            severity: Severity::Fix,
            title: "Wrong pressure for the kind".into(),
            text: format!(
                "{} heads run outside {} to {}: the worst gets {}. {}",
                out.len(),
                s.kind.low.show_round(u),
                s.kind.high.show_round(u),
                p.show(u),
                if low {
                    "Too low, the middle stays dry."
                } else {
                    "Too high, the spray turns to fog and drifts."
                }
            ),
            working: Working::new(
                "least ≤ pressure at the nozzle ≤ greatest",
                "typical of the class; pressures solved for the valve",
            )
            .with("least", s.kind.low.show_round(u))
            .with("greatest", s.kind.high.show_round(u))
            .gives(p.show(u)),
            remedies: Vec::new(),
        })
    }

    fn mixed_rates(&self) -> Option<Finding> {
        // Full-circle flow over the square that a head waters head to head.
        let rate = |s: &Source<'_>| {
            let ground = s.nozzle.pattern.map_or_else(
                || s.throw().reach.powi(2) * f64::from(s.head.arc) / 360.0,
                |p| p.width.m() * p.length.m(),
            );
            60.0 * s.nozzle.flow_for_arc(s.head.arc).lpm() / ground.max(0.01)
        };
        let all: Vec<(f64, &Source<'_>)> = self.sources.iter().map(|s| (rate(s), s)).collect();
        let kinds: std::collections::BTreeSet<_> = self.sources.iter().map(|s| s.kind.kind).collect();
        let mean = |kind| {
            let of: Vec<f64> = all
                .iter()
                .filter(|(_, s)| s.kind.kind == kind)
                .map(|(r, _)| *r)
                .collect();
            (of.iter().sum::<f64>() / of.len().max(1) as f64, kind)
        };
        let rates: Vec<_> = kinds.iter().map(|k| mean(*k)).collect();
        let high = rates.iter().copied().max_by(|a, b| a.0.total_cmp(&b.0))?;
        let low = rates.iter().copied().min_by(|a, b| a.0.total_cmp(&b.0))?;
        let ratio = high.0 / low.0.max(1e-9);
        if high.1 == low.1 || ratio <= MIXED.0 {
            return None;
        }
        let u = self.plan.units;
        let show = |r: f64| Rate::from_mmph(r).show(u);
        Some(Finding {
            code: "mixed-rates",
            severity: if ratio > MIXED.1 {
                Severity::Stop
            } else {
                Severity::Watch
            },
            title: "Mixed rates in one area".into(),
            text: format!(
                "Heads of different kinds apply {} and {}: the run time that suits one drowns or starves \
                    the other.",
                show(high.0),
                show(low.0)
            ),
            working: Working::new(
                "highest rate ÷ lowest rate of the kinds",
                "practice: over 1.15 watch, over 1.5 stop",
            )
            .with("highest", show(high.0))
            .with("lowest", show(low.0))
            .gives(format!("{ratio:.2}")),
            remedies: Vec::new(),
        })
    }

    fn at_the_edge(&self) -> Option<Finding> {
        let shape = &self.plan.site.area(self.area)?.shape;
        let near: Vec<(&Source<'_>, f64, Point)> = self
            .sources
            .iter()
            .filter_map(|s| edge_point(shape, s.head.at).map(|(d, to)| (s, d, to)))
            .filter(|(_, d, _)| *d < NEAREST_EDGE - 1e-4)
            .collect();
        let nearest = near.iter().map(|n| n.1).reduce(f64::min)?;
        let edits: Vec<Edit> = near
            .iter()
            .filter_map(|(s, d, inward)| {
                self.put(DrawnHead {
                    at: s.head.at + *inward * (OFF_EDGE - d),
                    ..s.head.clone()
                })
            })
            .collect();
        let u = self.plan.units;
        let tape = |m: f64| Length::from_m(m).show_tape(u);
        Some(Finding {
            code: "at-the-edge",
            severity: Severity::Watch,
            title: "Heads at the very edge".into(),
            text: format!(
                "{} heads stand nearer than {} to an edge, the nearest {}: mower, edger and frost get at \
                    them.",
                near.len(),
                tape(NEAREST_EDGE),
                tape(nearest.max(0.0))
            ),
            working: Working::new("distance to the edge ≥ 2 in (5 cm)", "practice: 2 to 4 in")
                .with("nearest", tape(nearest.max(0.0)))
                .gives(format!("{} of {} heads", near.len(), self.sources.len())),
            remedies: vec![Remedy {
                label: "Move them in".into(),
                effect: format!("{} off the edge", tape(OFF_EDGE)),
                edit: Edit::Batch { edits },
            }],
        })
    }

    fn unwatered(&self) -> Option<Finding> {
        let parts: Vec<Unreached> = unreached(self.coverage);
        let first = parts
            .first()
            .filter(|_| self.coverage.unreached > 0.002 && self.coverage.heads > 0)?;
        let more = if parts.len() > 1 {
            format!(" {} such parts in all.", parts.len())
        } else {
            String::new()
        };
        Some(Finding {
            code: "unwatered-part",
            severity: Severity::Stop,
            title: "A part stays dry".into(),
            text: format!("{}.{more}", first.says(self.plan.units)),
            working: Working::new(
                "cells under a tenth of the mean rate",
                "simulated on a catch-can grid",
            )
            .gives(format!("{:.1} % of the area", self.coverage.unreached * 100.0)),
            remedies: Vec::new(),
        })
    }

    fn uneven(&self) -> Option<Finding> {
        let u = self.coverage.uniformity.filter(|u| u.du < 0.65)?;
        Some(Finding {
            code: "uneven",
            severity: if u.du < 0.55 {
                Severity::Fix
            } else {
                Severity::Watch
            },
            title: "Water lies unevenly".into(),
            text: format!(
                "DU {:.2}: to bring the driest quarter what it needs, the rest gets {:.0} % too much.",
                u.du,
                100.0 * (1.0 / u.du.max(0.05) - 1.0)
            ),
            working: Working::new(
                "DU = mean of the driest quarter ÷ mean",
                "aim: 0.65 sprays, 0.75 rotators and rotors; below 0.55 say so",
            )
            .gives(format!("{:.2}", u.du)),
            remedies: Vec::new(),
        })
    }
}
