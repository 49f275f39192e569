//! What a layout costs over ten years before any pipe is drawn: heads, the trench between them, its share of
//! valves, and its water.

use crate::catalogue::Kind;
use crate::drip::{DripDesign, Laid};
use crate::job::Job;
use crate::plan::{DripLaying, need_per_week};
use crate::site::{Area, Point};
use crate::units::{Flow, Length, Pressure};
use crate::water::{SupplyPoint, design_flow};
use rust_decimal::prelude::ToPrimitive;
use std::sync::Arc;

/// Years that ways to water are compared over.
pub const YEARS: u32 = 10;

/// Evenness of drip whose emitters compensate.
pub const DRIP_DU: f64 = 0.9;
/// Water of 1,000 litres where the job has no tariff: about 5.00 for 1,000 gal.
pub const WATER_PRICE: f64 = 1.30;
/// A foot of drip tube with its fittings.
const TUBE_FT: f64 = 0.45;
/// What a slot for a row costs of a trench, where drip lies under the ground.
const SLOT: f64 = 0.4;
/// Filter, regulator and flush valve of a drip valve.
const DRIP_KIT: f64 = 55.0;
/// A valve with its share of box, wire and controller station, before labour.
const VALVE: f64 = 95.0;
/// What a valve may take where nothing is known of the water, gpm: the house's rule for a 1 in line.
const ALLOWANCE_GPM: f64 = 15.0;

/// Prices that layouts on one area are compared at: the house's rules, and planning figures for heads.
/// In the job's currency; metres, L/min.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Prices {
    head: f64,
    metre: f64,
    valve: f64,
    allowance: Flow,
    /// Water of ten years on one square metre, if all of it landed evenly.
    water_m2: f64,
}

/// Body, nozzle and swing joint of a kind.
fn parts_of(kind: Kind) -> f64 {
    match kind {
        Kind::Spray => 11.0,
        Kind::RotatorShort | Kind::Rotator => 17.0,
        Kind::RotorShort => 19.0,
        Kind::RotorMid => 26.0,
        Kind::RotorLarge => 95.0,
        _ => 20.0,
    }
}

impl Prices {
    pub fn of(job: &Job, area: &Area, kind: Kind) -> Self {
        let buying = &job.rules.buying;
        let hour = buying.hour.to_f64().unwrap_or(0.0);
        let money = |d: rust_decimal::Decimal| d.to_f64().unwrap_or(0.0);
        // The garden's water comes on top of the house's: in the tariff's last step.
        let tariff = job.watering.usage.tariff.last().map_or(WATER_PRICE, |t| money(t.price));
        let need = need_per_week(job, area);
        Self {
            head: parts_of(kind) + buying.hours.head * hour,
            metre: money(job.rules.trench.price) + money(job.rules.trench.pipe),
            valve: VALVE + buying.hours.valve * hour,
            allowance: best_connection(job).map_or(Flow::from_gpm(ALLOWANCE_GPM), |b| b.0),
            water_m2: need.depth.m() * need.weeks * tariff * f64::from(YEARS),
        }
    }

    /// Drip as it is laid, on the ground or in slots under it, on so much ground.
    pub fn of_drip(&self, job: &Job, drip: &DripDesign, m2: f64) -> f64 {
        let tube = Length::from_m(drip.parts.iter().map(|p| p.dripline().m()).sum());
        let flow: Flow = drip.parts.iter().map(Laid::flow).sum();
        let dug = matches!(&drip.group.drip, Some(DripLaying::Rows(r)) if r.depth > Length::ZERO);
        let buying = &job.rules.buying;
        let foot = TUBE_FT + buying.hours.tube_ft * buying.hour.to_f64().unwrap_or(0.0);
        let slot = if dug { SLOT * job.rules.trench.price.to_f64().unwrap_or(0.0) } else { 0.0 };
        tube.ft() * foot
            + tube.m() * slot
            + (self.valve + DRIP_KIT) * self.valves(flow)
            + self.water_m2 * m2 * watered_with(DRIP_DU, 0.0)
    }

    /// Heads at some places with their flow, on so much ground, watered with an evenness (DU of the lower quarter as
    /// an audit would find it) and a share of the water beside it.
    pub fn of_layout(&self, at: &[Point], flow: Flow, m2: f64, du: f64, off: f64) -> f64 {
        self.head * at.len() as f64
            + self.metre * tree(at)
            + self.valve * self.valves(flow)
            + self.water_m2 * m2 * watered_with(du, off)
    }

    /// An area that one valve serves may share it; a larger one has its valves for itself.
    fn valves(&self, flow: Flow) -> f64 {
        let share = flow / self.allowance.max(Flow::from_lpm(1e-6));
        if share < 1.0 { share } else { (share - 1e-6).ceil() }
    }
}

/// Water that is given over water that is wanted: more where it lies unevenly (DU of the lower quarter), and where a share
/// of it lands beside the ground.
pub fn watered_with(du: f64, off: f64) -> f64 {
    (1.0 / (0.4 + 0.6 * du.clamp(0.0, 1.0))).min(1.67) / (1.0 - off.clamp(0.0, 0.9))
}

/// What valve and lateral cost on the way to a head, and the share of a connection's flow that a zone takes, where nothing
/// is laid yet.
const ON_THE_WAY_PSI: f64 = 6.0;
const A_ZONE: f64 = 0.5;

/// The water of the connection that lets one more valve take most, and what that is.
fn best_connection(job: &Job) -> Option<(Flow, Arc<SupplyPoint>)> {
    let known = job.supplies.iter().filter_map(|supply| {
        let point = SupplyPoint::of(job, supply).map(Arc::new);
        let flow = design_flow(job, supply, &point, &[]).for_new_valve()?;
        Some((flow, point.ok()?)).filter(|f| f.0.lpm() > 0.0)
    });
    known.max_by(|a, b| a.0.lpm().total_cmp(&b.0.lpm()))
}

/// Pressure that is left for heads before anything is laid; none where the water is not known.
pub(super) fn pressure_at_heads(job: &Job) -> Option<Pressure> {
    let (flow, point) = best_connection(job)?;
    Some(point.at_connection(flow * A_ZONE) - Pressure::from_psi(ON_THE_WAY_PSI))
}

/// Heads from which the length of pipe between them is no longer found by the least tree.
const FEW: usize = 400;

/// Metres of the least tree that joins the points (Prim 1957); of very many, each to its nearest of those before it.
fn tree(at: &[Point]) -> f64 {
    if at.len() > FEW {
        let near =
            |i: usize| at[..i].iter().rev().take(FEW).map(|p| p.distance(at[i])).fold(f64::MAX, f64::min);
        return (1..at.len()).map(near).sum();
    }
    let mut left: Vec<(f64, Point)> = at.iter().skip(1).map(|p| (p.distance(at[0]), *p)).collect();
    let mut length = 0.0;
    while let Some(i) = (0..left.len()).min_by(|a, b| left[*a].0.total_cmp(&left[*b].0)) {
        let (far, joined) = left.swap_remove(i);
        length += far;
        left.iter_mut().for_each(|(d, p)| *d = d.min(p.distance(joined)));
    }
    length
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn pipe_between_heads_is_the_least_tree() {
        let at = [(0.0, 0.0), (0.0, 3.0), (4.0, 3.0), (4.0, 9.0), (1.0, 3.0)];
        let at: Vec<Point> = at.iter().map(|&(x, y)| Point::new(x, y)).collect();
        assert!((tree(&at) - (3.0 + 1.0 + 3.0 + 6.0)).abs() < 1e-9, "{}", tree(&at));
        assert_eq!(tree(&at[..1]), 0.0);
        assert_eq!(tree(&[]), 0.0);
    }
}
