//! All kinds of head side by side for an area: the same figures for each.

use super::{LayoutFault, Progress, Proposal, propose};
use crate::assess::Assessment;
use crate::catalogue::{Catalogue, Kind};
use crate::plan::{Exposure, Plan, Soil};
use crate::site::{Area, AreaKind, WaterUse};
use crate::units::{Flow, Length, Minutes, Pressure, Rate, Surface, Volume};
use crate::working::Working;
use rust_decimal::Decimal;

/// One way to water an area.
#[derive(Debug, Clone)]
pub struct Alternative {
    /// Id of the area.
    pub area: String,
    /// Kind of head.
    pub kind: Kind,
    /// Its heads, or why there are none.
    pub heads: Result<Proposal, LayoutFault>,
    /// Flow; none where there is no proposal.
    pub flow: Option<Flow>,
    /// Valves at least, at the design flow; none where that is not known.
    pub valves: Option<usize>,
    /// What its heads cost, where every nozzle of it has a price.
    pub cost: Option<Decimal>,
    /// Running time that the peak week wants, with its working.
    pub minutes: Option<(Minutes, Working)>,
    /// Water in a year.
    pub year: Option<Volume>,
    /// Pressure that the nozzles want, and what is left for them at the design flow at the
    /// connection, before valve and laterals.
    pub pressure: (Pressure, Option<Pressure>),
    /// For drip, the lines it is estimated by.
    pub drip: Option<Drip>,
}

/// Drip over an area, as an estimate from its ground alone.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Drip {
    /// Of one emitter.
    pub emitter: Flow,
    /// Between emitters on a row.
    pub emitters_apart: Length,
    /// Between rows.
    pub rows_apart: Length,
    /// Tubing in all.
    pub tubing: Length,
    /// Emitters in all.
    pub emitters: usize,
    /// Application rate.
    pub rate: Rate,
}

const KINDS: [Kind; 3] = [Kind::Spray, Kind::RotatorShort, Kind::Rotator];
const ROTORS: [Kind; 3] = [Kind::RotorShort, Kind::RotorMid, Kind::RotorLarge];

/// Spray, short rotator, standard rotator, the best of the rotors, and drip for an area. Each kind
/// is one step of progress, the rotors three. Ends early when stopped.
pub fn alternatives(
    plan: &Plan,
    assessment: &Assessment,
    area: &str,
    catalogue: &Catalogue,
    progress: &Progress,
) -> Vec<Alternative> {
    let catalogue = plan.with_own(catalogue);
    let Some(ground) = plan.site.area(area) else {
        return Vec::new();
    };
    // A kind that does not fit is a step done too.
    let try_kind = |kind: Kind| {
        let found = propose(plan, area, kind, catalogue, progress);
        progress.step();
        found
    };
    let mut out: Vec<Alternative> = KINDS
        .iter()
        .map(|kind| of_heads(plan, assessment, ground, *kind, try_kind(*kind), area, catalogue))
        .collect();
    let worth = |p: &Result<Proposal, LayoutFault>| p.as_ref().map_or(f64::NEG_INFINITY, |p| p.score.worth);
    let rotors = ROTORS.iter().map(|kind| (*kind, try_kind(*kind)));
    // Of equals the first: the smallest.
    if let Some((kind, best)) = rotors.reduce(|best, next| {
        if worth(&next.1) > worth(&best.1) {
            next
        } else {
            best
        }
    }) {
        out.push(of_heads(plan, assessment, ground, kind, best, area, catalogue));
    }
    out.push(of_drip(plan, assessment, ground, area, catalogue));
    out
}

/// The peak week's need of an area, a depth: ET0 by plant factor by exposure.
///
/// # Source
/// Landscape coefficients as planning figures (after Costello and others 2000, WUCOLS).
pub fn need_per_week(plan: &Plan, area: &Area) -> (Length, Working) {
    let by_use = |high: f64, medium: f64, low: f64| match area.water_use {
        WaterUse::High => high,
        WaterUse::Medium => medium,
        WaterUse::Low => low,
    };
    let factor = match area.kind {
        // Much for cool-season turf, little for warm-season turf.
        AreaKind::Lawn => by_use(0.8, 0.7, 0.6),
        AreaKind::Vegetables => 0.9,
        AreaKind::Containers => 1.0,
        AreaKind::Trees => 0.5,
        AreaKind::Bed | AreaKind::Hedge | AreaKind::Slope => by_use(0.7, 0.5, 0.25),
    };
    let exposure = match area.exposure {
        Exposure::ReflectedHeat => 1.2,
        Exposure::FullSun => 1.0,
        Exposure::PartShade => 0.8,
        Exposure::Shade => 0.65,
    };
    let need = plan.rules.peak_et * (factor * exposure);
    let u = plan.units;
    let working = Working::new(
        "need = peak ET0 × plant factor × exposure, a week without rain",
        "planning figures of the house rules until run times are set",
    )
    .with("peak ET0", plan.rules.peak_et.show_depth(u))
    .with("plant factor", format!("{factor}"))
    .with("exposure", format!("{exposure}"))
    .gives(need.show_depth(u));
    (need, working)
}

/// Minutes a week: need over rate, more where the water lies unevenly (run-time multiplier
/// 1 / (0.4 + 0.6 DU), at most 1.67).
fn minutes(plan: &Plan, area: &Area, rate: Rate, du: f64) -> Option<(Minutes, Working)> {
    if rate.mmph() <= 0.0 {
        return None;
    }
    let (need, working) = need_per_week(plan, area);
    let more = (1.0 / (0.4 + 0.6 * du.clamp(0.0, 1.0))).min(1.67);
    let minutes = Minutes::from_minutes(60.0 * need.mm() / rate.mmph() * more);
    let u = plan.units;
    let working = Working {
        formula: format!(
            "{}; minutes = 60 × need ÷ rate × 1 ÷ (0.4 + 0.6 DU)",
            working.formula
        ),
        ..working
    }
    .with("need", need.show_depth(u))
    .with("rate", rate.show(u))
    .with("DU", format!("{du:.2}"))
    .with("multiplier", format!("{more:.2}"))
    .gives(format!("{:.0} min a week", minutes.minutes()));
    Some((minutes, working))
}

fn available(
    plan: &Plan,
    assessment: &Assessment,
    catalogue: &Catalogue,
) -> (Option<Flow>, Option<Pressure>) {
    let best = assessment
        .supplies
        .iter()
        .filter_map(|s| Some((s, s.design.flow?)))
        .max_by(|a, b| a.1.lpm().total_cmp(&b.1.lpm()));
    let Some((known, flow)) = best else {
        return (None, None);
    };
    let left = plan
        .supply(&known.id)
        .zip(known.curve.as_ref().ok())
        .map(|(supply, curve)| {
            crate::zone::at_connection(plan, supply, catalogue, curve.pressure_at(flow), flow)
        });
    (Some(flow), left)
}

fn of_heads(
    plan: &Plan,
    assessment: &Assessment,
    ground: &Area,
    kind: Kind,
    heads: Result<Proposal, LayoutFault>,
    area: &str,
    catalogue: &Catalogue,
) -> Alternative {
    let (design, left) = available(plan, assessment, catalogue);
    let score = heads.as_ref().ok().map(|p| p.score);
    let minutes = score.and_then(|s| minutes(plan, ground, s.rate, s.du));
    let flow = score.map(|s| s.flow);
    Alternative {
        area: area.to_owned(),
        kind,
        valves: valves(flow, design),
        cost: heads.as_ref().ok().and_then(|p| cost(plan, p)),
        year: year(plan, flow, &minutes),
        pressure: (catalogue.kind(kind).nominal, left),
        heads,
        flow,
        minutes,
        drip: None,
    }
}

/// Prices of the nozzles together; none if one of them has none.
fn cost(plan: &Plan, proposal: &Proposal) -> Option<Decimal> {
    let price = |id: &str| plan.nozzles.iter().find(|n| n.id == id)?.price;
    proposal.heads.iter().map(|h| price(&h.nozzle)).sum()
}

fn valves(flow: Option<Flow>, design: Option<Flow>) -> Option<usize> {
    flow.zip(design)
        .filter(|(_, d)| d.lpm() > 0.0)
        .map(|(f, d)| ((f / d - 1e-6).ceil() as usize).max(1))
}

fn year(plan: &Plan, flow: Option<Flow>, minutes: &Option<(Minutes, Working)>) -> Option<Volume> {
    flow.zip(minutes.as_ref())
        .map(|(f, (m, _))| Volume::from_litres(f.lpm() * m.minutes() * plan.rules.peak_weeks))
}

/// Dripline by the soil: emitters closer and faster on sand, wider and slower on clay.
fn of_drip(
    plan: &Plan,
    assessment: &Assessment,
    ground: &Area,
    area: &str,
    catalogue: &Catalogue,
) -> Alternative {
    let (gph, emitters_in, rows_in) = match ground.soil {
        Soil::Sand | Soil::LoamySand => (0.9, 12.0, 12.0),
        Soil::Loam | Soil::SandyLoam => (0.6, 18.0, 16.0),
        Soil::Clay | Soil::SiltyClay | Soil::ClayLoam => (0.26, 18.0, 18.0),
    };
    let m2 = ground.shape.area_m2();
    let (emitters_apart, rows_apart) = (Length::from_in(emitters_in), Length::from_in(rows_in));
    let tubing = Length::from_m(m2 / rows_apart.m());
    let emitters = (tubing / emitters_apart).round().max(1.0) as usize;
    let emitter = Flow::from_gpm(gph / 60.0);
    let flow = emitter * emitters as f64;
    let rate = Rate::from_mmph(emitter.lpm() * 60.0 / (emitters_apart.m() * rows_apart.m()));
    let (design, left) = available(plan, assessment, catalogue);
    // Emitters that compensate give nearly the same everywhere.
    let minutes = minutes(plan, ground, rate, 0.9);
    Alternative {
        area: area.to_owned(),
        kind: Kind::Dripline,
        heads: Err(LayoutFault::NoNozzle),
        valves: valves(Some(flow), design),
        cost: None,
        year: year(plan, Some(flow), &minutes),
        pressure: (catalogue.kind(Kind::Dripline).nominal, left),
        flow: Some(flow),
        minutes,
        drip: Some(Drip {
            emitter,
            emitters_apart,
            rows_apart,
            tubing,
            emitters,
            rate,
        }),
    }
}

impl Drip {
    /// The estimate, in words.
    pub fn working(&self, area: Surface, u: crate::units::UnitSystem) -> Working {
        Working::new(
            "tubing = area ÷ row spacing; emitters = tubing ÷ emitter spacing; flow = emitters × flow of \
                one",
            "dripline rows by soil texture; an estimate until rows are laid",
        )
        .with("area", area.show(u))
        .with("rows", self.rows_apart.show_tape(u))
        .with("emitters", self.emitters_apart.show_tape(u))
        .with("one emitter", self.emitter.show(u))
        .gives(format!(
            "{} of tubing, {} emitters",
            self.tubing.show(u),
            self.emitters
        ))
    }
}
