//! What a layout is worth: its evenness, its water off the area, its rate, its heads.

use super::field::harm;
use super::improve::CastWater;
use super::trial::Proposed;
use crate::catalogue::{ArcRule, Catalogue, Nozzle};
use crate::coverage::{
    CRUMB, Coverage, FAULT_BELOW, Ground, RATE_STOP, RATE_WATCH, Throw, Under, coverage, over_class,
    own_rate, uniformity,
};
use crate::job::Job;
use crate::plan::DrawnHead;
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
    /// One figure to choose by: higher is better.
    pub worth: f64,
}

/// What heads do on the cells that they were searched on.
pub(super) fn judge(water: &CastWater<'_, '_>, ground: &Ground, m2: f64) -> Score {
    let inside = ground.inside();
    let k = (60.0 / ground.grid.cell_m2()) as f32;
    let rate: Vec<f32> = water.lpm.iter().map(|q| q * k).collect();
    let flow: f64 = water.heads.iter().map(|h| h.flow().lpm()).sum();
    let share = |of: &dyn Fn(Under) -> bool| {
        ground.under.iter().zip(&water.lpm).filter(|(u, _)| of(**u)).map(|(_, q)| f64::from(*q)).sum::<f64>()
            / flow.max(1e-9)
    };
    let harmed = ground.under.iter().zip(&water.lpm).map(|(u, q)| harm(*u) * f64::from(*q)).sum::<f64>()
        / flow.max(1e-9);
    let known = uniformity(&ground.grid, &inside, &rate);
    let (mean, du, cu, sc) = known.map_or((0.0, 0.0, 0.0, f64::INFINITY), |u| (u.mean, u.du, u.cu, u.sc));
    let dry = inside.iter().zip(&rate).filter(|(i, r)| **i && f64::from(**r) < 0.1 * mean).count() as f64
        / inside.iter().filter(|i| **i).count().max(1) as f64;
    score(
        (du, cu, sc),
        (share(&|u| matches!(u, Under::Dry(_))), 1.0 - share(&|u| u == Under::Area), harmed),
        dry,
        &Given::of(water.catalogue, water.heads.iter().map(|h| (h.nozzle, h.arc)), Flow::from_lpm(flow), m2),
    )
}

/// What heads are, beside what their water does.
struct Given {
    heads: usize,
    flow: Flow,
    own_rate: Rate,
    over_class: Option<f64>,
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
            over_class: over_class(catalogue, heads.clone(), rate),
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
    (on_dry, overspray, harmed): (f64, f64, f64),
    unreached: f64,
    given: &Given,
) -> Score {
    let Given { heads, flow, own_rate, over_class, unmatched, m2 } = *given;
    let rate = applied(flow, m2);
    // Evenness counts most, then water that harms or is thrown away, then what each head costs to set and
    // keep: about a hundredth for every head on 100 m2. Rate is part of the layout: more water than the
    // kind applies by itself takes more valves for the same evenness.
    let worth = du
        - 0.3 * (sc.min(10.0) - 1.0)
        - 0.45 * harmed
        - 6.0 * (overspray - OFF_AREA).max(0.0)
        - rate_cost(rate, own_rate)
        - over_class.map_or_else(|| too_far(rate, own_rate), |over| OVER * (over - 1.0))
        - unmatched_cost(unmatched)
        - 2.0 * (SOUND - du).max(0.0)
        - 5.0 * unreached
        - if unreached * m2 >= CRUMB { BARE } else { 0.0 }
        - 0.04 * heads as f64 * 25.0 / m2.max(25.0);
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
        worth,
    }
}

/// How far flows of nozzles that keep theirs at any arc are from following it: the most over the least that they
/// would give on a full circle, from 1 up; 1 for kinds that are matched by their make.
fn unmatched<'n>(heads: impl Iterator<Item = (&'n Nozzle, u16)>) -> f64 {
    let any = heads.filter(|(n, arc)| n.arc_rule == ArcRule::Any && *arc > 0);
    let full = any.map(|(n, arc)| n.flow.lpm() * 360.0 / f64::from(arc));
    let (least, most) = full.fold((f64::MAX, 0.0), |(a, b): (f64, f64), q| (a.min(q), b.max(q)));
    if least > 0.0 { (most / least).max(1.0) } else { 1.0 }
}

/// What flows that do not follow the arc cost: one run time for all of them is wrong for some.
fn unmatched_cost(ratio: f64) -> f64 {
    let finding = if ratio > RATE_STOP { 0.2 } else { 0.0 };
    finding + 0.05 * (ratio - RATE_WATCH).max(0.0)
}

/// What a rate off the kind's own costs of the worth. Over it, it takes more flow and more valves; under it,
/// more time.
pub(super) fn rate_cost(rate: Rate, own: Rate) -> f64 {
    let off = rate.mmph() / own.mmph().max(1e-9) - 1.0;
    let each = if off > 0.0 { 0.1 } else { 0.05 };
    each * off.abs() + 0.6 * (off.abs() - OFF_RATE).max(0.0)
}

/// What a rate costs beside that which is farther off the one rate of its kind than a layout should be.
fn too_far(rate: Rate, own: Rate) -> f64 {
    let off = rate.mmph() / own.mmph().max(1e-9) - 1.0;
    2.0 * (off.abs() - TOO_FAR).max(0.0)
}

/// What as much again as the most of its class costs: more flow, more valves.
const OVER: f64 = 0.1;

/// What any dry spot at all costs.
const BARE: f64 = 0.05;

/// Ideal DU under which a layout is at fault, and a little over it.
const SOUND: f64 = FAULT_BELOW + 0.03;

/// Share of the water off the area from which it weighs heavily.
const OFF_AREA: f64 = 0.025;
/// Share that a rate may be off the kind's own before it weighs heavily.
const OFF_RATE: f64 = 0.12;
/// And of kinds with one rate, from which it is hardly ever worth it.
const TOO_FAR: f64 = 0.145;

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
    let harmed = c.on_dry() * 3.0 + (c.overspray() - c.on_dry()).max(0.0) * 0.4;
    Some((
        score(
            (du, cu, sc),
            (c.on_dry(), c.overspray(), harmed),
            c.unreached,
            &Given::of(job.catalogue(), set.iter().map(|(n, h)| (*n, h.arc)), c.flow, c.area_m2()),
        ),
        c,
    ))
}
