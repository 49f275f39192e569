//! What a layout does on the ground, what it lacks of what it must do, and what it costs.
//!
//! Evenness is a threshold: a layout that reaches it is chosen by its price over ten years alone. Where none does,
//! what is lacking makes a layout dearer, so that the least bad comes first.

use super::Proposal;
use super::improve::CastWater;
use super::price::{Prices, pressure_at_heads};
use super::trial::Proposed;
use crate::catalogue::{ArcRule, Catalogue, Nozzle};
use crate::coverage::{
    CRUMB, Coverage, Expected, FAULT_BELOW, Ground, RATE_STOP, RATE_WATCH, Source, Throw, Under, aim_of,
    coverage, own_rate, uniformity,
};
use crate::findings::{Severity, area_findings};
use crate::job::Job;
use crate::plan::DrawnHead;
use crate::site::Point;
use crate::units::{Flow, Rate};

/// What heads do on an area, all at nominal pressure.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Score {
    /// Distribution uniformity of the lower quarter.
    pub du: f64,
    /// Christiansen's coefficient.
    pub cu: f64,
    /// Scheduling coefficient.
    pub sc: f64,
    /// Share of the water on what is kept dry.
    pub on_dry: f64,
    /// Share of the water off the area.
    pub overspray: f64,
    /// Share of the area that gets less than a tenth of the mean.
    pub unreached: f64,
    /// How many heads.
    pub heads: usize,
    /// Their flow.
    pub flow: Flow,
    /// What they give over the area: flow over ground.
    pub rate: Rate,
    /// The same of these nozzles set head to head: what the kind applies by itself.
    pub own_rate: Rate,
    /// What it lacks of what every layout must do, in findings to be mended: 0 is nothing.
    pub lacks: f64,
    /// What it costs over ten years, by planning figures, in the job's currency.
    pub cost: f64,
}

impl Score {
    /// By this one layout comes before another, the least first: its price, dearer by what it lacks.
    pub fn weighed(&self) -> f64 {
        self.cost * (1.0 + LACKING * self.lacks)
    }
}

/// A layout with one finding to be mended is as good as a sound one at five times its price: that is, hardly ever.
const LACKING: f64 = 4.0;

/// What findings weigh against one that is to be mended.
fn weight(severity: Severity) -> f64 {
    match severity {
        Severity::Stop => 3.0,
        Severity::Fix => 1.0,
        Severity::Watch => 0.05,
        _ => 0.0,
    }
}

/// What heads do on the cells that they were searched on.
pub(super) fn judge(water: &CastWater<'_, '_>, ground: &Ground, m2: f64, prices: &Prices) -> Score {
    let inside = ground.inside();
    let k = (60.0 / ground.grid.cell_m2()) as f32;
    let rate: Vec<f32> = water.lpm.iter().map(|q| q * k).collect();
    let flow: f64 = water.heads.iter().map(|h| h.flow().lpm()).sum();
    let share = |of: &dyn Fn(Under) -> bool| {
        ground.under.iter().zip(&water.lpm).filter(|(u, _)| of(**u)).map(|(_, q)| f64::from(*q)).sum::<f64>()
            / flow.max(1e-9)
    };
    let known = uniformity(&ground.grid, &inside, &rate);
    let (mean, du, cu, sc) = known.map_or((0.0, 0.0, 0.0, f64::INFINITY), |u| (u.mean, u.du, u.cu, u.sc));
    let dry = inside.iter().zip(&rate).filter(|(i, r)| **i && f64::from(**r) < 0.1 * mean).count() as f64
        / inside.iter().filter(|i| **i).count().max(1) as f64;
    let at: Vec<Point> = water.heads.iter().map(|h| h.at).collect();
    score(
        (du, cu, sc),
        (share(&|u| matches!(u, Under::Dry(_))), 1.0 - share(&|u| u == Under::Area)),
        dry,
        &Given::of(water.catalogue, water.heads.iter().map(|h| (h.nozzle, h.arc)), Flow::from_lpm(flow), m2),
        &|flow, off| prices.of_layout(&at, flow, m2, AUDITED * du, off),
    )
}

/// Share of the ideal evenness that an audit finds of it, about.
const AUDITED: f64 = 0.8;

/// What heads are, beside what their water does.
struct Given {
    heads: usize,
    flow: Flow,
    own_rate: Rate,
    unmatched: f64,
    m2: f64,
}

impl Given {
    fn of<'n>(
        catalogue: &Catalogue,
        heads: impl Iterator<Item = (&'n Nozzle, u16)> + Clone,
        flow: Flow,
        m2: f64,
    ) -> Self {
        let rate = applied(flow, m2);
        Self {
            heads: heads.clone().count(),
            flow,
            own_rate: own_rate(catalogue, heads.clone(), rate),
            unmatched: unmatched(heads),
            m2,
        }
    }
}

pub(super) fn applied(flow: Flow, m2: f64) -> Rate {
    Rate::from_mmph(60.0 * flow.lpm() / m2.max(1e-6))
}

fn score(
    (du, cu, sc): (f64, f64, f64),
    (on_dry, overspray): (f64, f64),
    unreached: f64,
    given: &Given,
    cost: &dyn Fn(Flow, f64) -> f64,
) -> Score {
    let Given { heads, flow, own_rate, unmatched, m2 } = *given;
    let rate = applied(flow, m2);
    let over = rate.mmph() / own_rate.mmph().max(1e-9);
    let lacks = past(on_dry, ON_DRY.0, ON_DRY.1)
        + past(overspray, OFF_AREA.0, OFF_AREA.1)
        + past(over, OVER_RATE.0, OVER_RATE.1)
        + past(unmatched, RATE_WATCH, RATE_STOP)
        + past(FAULT_BELOW + SOUND - du, 0.0, SOUND)
        + if unreached * m2 >= CRUMB { BARE + unreached * 20.0 } else { 0.0 };
    Score {
        du,
        cu,
        sc,
        on_dry: on_dry.clamp(0.0, 1.0),
        overspray: overspray.clamp(0.0, 1.0),
        unreached,
        heads,
        flow,
        rate,
        own_rate,
        lacks,
        cost: cost(flow, overspray),
    }
}

/// How far a figure is past what it may be, 1 where it is as far as it must never be.
fn past(is: f64, may: f64, never: f64) -> f64 {
    ((is - may) / (never - may)).max(0.0)
}

/// Share of the water on what is kept dry: from where it is told, and where it stops.
const ON_DRY: (f64, f64) = (0.005, 0.03);
/// Share of the water beside the area: on neutral ground some is borne.
const OFF_AREA: (f64, f64) = (0.06, 0.20);
/// Rate over that of the same nozzles at their own throw.
const OVER_RATE: (f64, f64) = (1.15, 1.6);
/// Expected DU under the aim of the kind.
const BELOW_AIM: (f64, f64) = (0.015, 0.3);
/// Ideal DU over the fault that still leaves room for what the field takes off.
const SOUND: f64 = 0.05;
/// Any dry spot at all.
const BARE: f64 = 0.3;

/// The same of a layout that was audited: by what its own checks find, and by how far the expected DU is below the aim
/// of its kind.
pub(super) fn audited(
    job: &Job,
    p: &Proposal,
    covered: &Coverage,
    expected: &Expected,
    prices: &Prices,
) -> Score {
    let Proposal { area, heads, score, .. } = p;
    let set = all_heads(job, area, heads);
    let sources = sources(job, &set);
    let found = area_findings(job, area, &sources, covered, Some(expected));
    let aim = sources.first().map_or(0.0, |s| aim_of(s.class.kind));
    // What one set of repetitions differs from another is no shortfall; from where the check speaks it weighs besides.
    let below = past(aim - expected.du, BELOW_AIM.0, BELOW_AIM.1);
    let over = score.rate.mmph() / score.own_rate.mmph().max(1e-9);
    let lacks = found.iter().map(|f| weight(f.severity)).sum::<f64>()
        + below
        + past(score.overspray, OFF_AREA.0, OFF_AREA.1)
        + past(over, OVER_RATE.0, OVER_RATE.1)
        + past(unmatched(set.iter().map(|(n, h)| (*n, h.arc))), RATE_WATCH, RATE_STOP);
    let at: Vec<Point> = set.iter().map(|(_, h)| h.at).collect();
    let cost = prices.of_layout(&at, score.flow, covered.area_m2(), expected.du, score.overspray);
    Score { lacks, cost, ..*score }
}

/// How far flows of nozzles that keep theirs at any arc are from following it: the most over the least that they
/// would give on a full circle, from 1 up; 1 for kinds that are matched by their make.
fn unmatched<'n>(heads: impl Iterator<Item = (&'n Nozzle, u16)>) -> f64 {
    let any = heads.filter(|(n, arc)| n.arc_rule == ArcRule::Any && *arc > 0);
    let full = any.map(|(n, arc)| n.flow.lpm() * 360.0 / f64::from(arc));
    let (least, most) = full.fold((f64::MAX, 0.0), |(a, b): (f64, f64), q| (a.min(q), b.max(q)));
    if least > 0.0 { (most / least).max(1.0) } else { 1.0 }
}

/// Heads of an area as they are looked at before they are on valves: at nominal pressure, or at what the water here leaves
/// for them if that is less.
pub(super) fn sources<'a>(job: &'a Job, set: &'a [(&'a Nozzle, DrawnHead)]) -> Vec<Source<'a>> {
    let left = pressure_at_heads(job);
    set.iter()
        .map(|(nozzle, head)| {
            let class = job.catalogue().class(nozzle.kind);
            let solved = left.filter(|p| *p < class.nominal).map(|p| {
                let p = p.max(class.low);
                let share = (p / class.nominal).powf(nozzle.exponent_with(class));
                (p, nozzle.flow_set(head.arc, head.radius) * share)
            });
            Source { head, nozzle, class, solved }
        })
        .collect()
}

/// Proposed heads of an area with its locked ones, each with its nozzle.
pub(super) fn all_heads<'j>(job: &'j Job, area: &str, heads: &[Proposed]) -> Vec<(&'j Nozzle, DrawnHead)> {
    let on_area = job.groups.iter().filter(|g| g.area.as_deref() == Some(area));
    let locked = on_area.flat_map(|g| {
        let locked = g.drawn.iter().filter(|h| h.locked);
        locked.map(|h| (g.nozzle.as_str(), h.clone()))
    });
    let new = heads.iter().map(|p| {
        let head = DrawnHead {
            id: String::new(),
            at: p.at,
            arc: p.arc,
            facing: p.facing,
            radius: p.radius,
            valve: None,
            locked: false,
        };
        (p.nozzle.as_str(), head)
    });
    locked.chain(new).filter_map(|(nozzle, head)| Some((job.catalogue().nozzle(nozzle)?, head))).collect()
}

/// What heads do on an area of a plan, with its locked ones, all at nominal pressure.
pub fn measure(job: &Job, area: &str, heads: &[Proposed]) -> Option<(Score, Coverage)> {
    let set = all_heads(job, area, heads);
    let throws: Vec<Throw> = set
        .iter()
        .map(|(nozzle, head)| {
            let kind = job.catalogue().class(nozzle.kind);
            let flow = nozzle.flow_set(head.arc, head.radius);
            Throw::of(nozzle, kind, head, kind.nominal, flow)
        })
        .collect();
    let c = coverage(job, area, &throws, None)?;
    let (du, cu, sc) = c.uniformity.map_or((0.0, 0.0, f64::INFINITY), |u| (u.du, u.cu, u.sc));
    let at: Vec<Point> = set.iter().map(|(_, h)| h.at).collect();
    let kind = set.first()?.0.kind;
    let prices = Prices::of(job, job.site.area(area)?, kind);
    let score = score(
        (du, cu, sc),
        (c.on_dry(), c.overspray()),
        c.unreached,
        &Given::of(job.catalogue(), set.iter().map(|(n, h)| (*n, h.arc)), c.flow, c.area_m2()),
        &|flow, off| prices.of_layout(&at, flow, c.area_m2(), AUDITED * du, off),
    );
    Some((score, c))
}
