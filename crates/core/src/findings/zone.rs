use super::checker::Checker;
use super::share::{Weight, reasons_apart};
use super::{Check, Finding, Severity};
use crate::catalogue::Kind;
use crate::job::Job;
use crate::plan::{HeadGroup, Regulation, Valve, WaterSource};
use crate::units::{Flow, Length, Pressure, Speed};
use crate::water::{Aim, Allowance, DesignFlow, SharedVelocity, shared_velocities};
use crate::zone::{HeadResult, HeadState, ZoneAssessment, ZoneInputs, assess_zone};

/// Over nominal by more than this share a nozzle wastes water; less is left alone.
pub const OVER_NOMINAL: f64 = 0.15;
/// Height difference on one valve from which low heads drain and high ones starve, feet.
const HEIGHT_FT: f64 = 5.0;

/// Everything to be said of a zone, the worst first. `design` is of the connection that feeds it.
pub fn zone_findings(
    job: &Job,
    valve: &Valve,
    inputs: &ZoneInputs,
    zone: &ZoneAssessment,
    design: &DesignFlow,
) -> Vec<Finding> {
    let check = Checker { job, valve, inputs, zone, design };
    let mut all = hydraulic_findings(job, valve, zone, &design.allowance(&valve.id));
    all.extend([check.booster(), check.height(), check.dirty_filter()].into_iter().flatten());
    all.extend(check.mixed());
    all.extend(check.drip());
    all.extend(check.assembly());
    all.extend(check.arcs());
    all.extend(check.head_to_head());
    all.sort_by_key(|f| f.severity);
    all
}

/// What the pressures and flows of a solved zone say, the worst first: whether its heads work, its regulator
/// has what it wants, and no pipe is too small. Checks tell it; counts, splits, regulators and remedies are
/// chosen by it, so that no proposal is told to be wrong afterwards.
pub fn hydraulic_findings(
    job: &Job,
    valve: &Valve,
    zone: &ZoneAssessment,
    allowance: &Allowance,
) -> Vec<Finding> {
    let check = Hydraulics { job, valve, zone, allowance };
    let mut all: Vec<Finding> = [
        check.starved(),
        check.below_aim(),
        check.too_high(),
        check.over_allowance(),
        check.spread(),
        check.velocity(),
        check.shared_velocity(),
        check.no_room(),
        check.outside_band(),
        check.below_valve_minimum(),
        check.pump_cycles(),
    ]
    .into_iter()
    .flatten()
    .collect();
    all.sort_by_key(|f| f.severity);
    all
}

/// Whether the zone's regulator holds what it is set to: it has its room, and its flow.
pub fn regulator_holds(job: &Job, zone: &ZoneAssessment) -> bool {
    zone.regulator.as_ref().is_none_or(|r| {
        r.room.reaches(job.rules.regulator_room)
            && r.flow_band.is_none_or(|(least, most)| zone.flow.is_within(least, most))
    })
}

struct Hydraulics<'a> {
    job: &'a Job,
    valve: &'a Valve,
    zone: &'a ZoneAssessment,
    allowance: &'a Allowance,
}

impl Hydraulics<'_> {
    fn starved(&self) -> Option<Finding> {
        let low = self.zone.starved()?;
        let check = Check::HeadStarved {
            arrives: low.nozzle,
            inlet: low.inlet,
            band: low.band,
            before_lateral: self.zone.lateral_inlet,
        };
        Some(Finding::new(Severity::Stop, check))
    }

    fn below_aim(&self) -> Option<Finding> {
        let low = self.zone.lowest();
        let aim = self.allowance.aim.wanted(low.band, low.exponent == 0.0);
        let below = self.zone.starved().is_none() && !low.nozzle.reaches(aim);
        (below && !low.kind.is_drip()).then(|| {
            let check = Check::BelowAim { gets: low.nozzle, aim, band: low.band };
            Finding::new(Severity::Watch, check)
        })
    }

    /// Drip is held to what its tubing bears instead.
    fn too_high(&self) -> Option<Finding> {
        let share = |h: &HeadResult| h.nozzle / h.band.best;
        let sprinklers = || self.zone.heads.iter().filter(|h| !h.kind.is_drip());
        let high = sprinklers().max_by(|a, b| share(a).total_cmp(&share(b)))?;
        let over = sprinklers().find(|h| h.state() == HeadState::Over);
        if over.is_none() && !high.nozzle.exceeds(high.band.best * (1.0 + OVER_NOMINAL)) {
            return None;
        }
        // Over nominal by less than a regulator's room and within the band nothing can be fitted that would
        // hold: slightly high, and no fault.
        let room = high.band.best + self.job.rules.regulator_room;
        let bare = self.valve.regulation == Regulation::None;
        if over.is_none() && bare && !high.nozzle.exceeds(room) {
            return None;
        }
        let severity = if over.is_some() { Severity::Fix } else { Severity::Watch };
        let high = over.unwrap_or(high);
        let check = Check::PressureHigh {
            highest: high.nozzle,
            band: high.band,
            flow: self.zone.flow,
            nominal_flow: self.zone.nominal_flow,
            bubbler: high.kind == Kind::Bubbler,
        };
        Some(Finding::new(severity, check))
    }

    fn over_allowance(&self) -> Option<Finding> {
        let (design, flow) = (self.allowance.flow?, self.zone.flow);
        let heads = self.zone.heads.len();
        let assumed = self.allowance.assumed;
        let check = Check::FlowOverDesign { heads, flow, design, assumed };
        let severity = if assumed { Severity::Watch } else { Severity::Fix };
        flow.exceeds(design).then(|| Finding::new(severity, check))
    }

    fn spread(&self) -> Option<Finding> {
        let limit = self.job.rules.spread;
        let widest = self.zone.widest;
        let drip = self.zone.heads.iter().any(|h| h.kind.is_drip());
        if drip || self.zone.spread <= limit || self.zone.starved().is_some() {
            return None;
        }
        let check = Check::Spread {
            lowest: widest.lowest,
            highest: widest.highest,
            nominal: widest.nominal,
            spread: self.zone.spread,
            limit,
        };
        Some(Finding::new(Severity::Watch, check))
    }

    fn velocity(&self) -> Option<Finding> {
        let (watch, stop) = (self.job.rules.velocity_watch, self.job.rules.velocity_stop);
        let velocity = self.zone.velocity;
        if !velocity.exceeds(watch) {
            return None;
        }
        let first_leg = self.zone.fastest_first_leg;
        let check = Check::Velocity { velocity, watch, stop, first_leg, flow: self.zone.flow };
        let severity = if velocity.exceeds(stop) { Severity::Stop } else { Severity::Watch };
        Some(Finding::new(severity, check))
    }

    fn no_room(&self) -> Option<Finding> {
        let r = self.zone.regulator.as_ref()?;
        let wanted = self.job.rules.regulator_room;
        (!r.room.reaches(wanted)).then(|| {
            let check =
                Check::NoRoom { part: r.part.clone(), inlet: r.inlet, set: r.set, wanted, room: r.room };
            Finding::new(Severity::Fix, check)
        })
    }

    fn outside_band(&self) -> Option<Finding> {
        let r = self.zone.regulator.as_ref()?;
        let (least, most) = r.flow_band?;
        let flow = self.zone.flow;
        let check = Check::RegulatorFlow { part: r.part.clone(), flow, least, most };
        (!flow.is_within(least, most)).then(|| Finding::new(Severity::Watch, check))
    }

    fn below_valve_minimum(&self) -> Option<Finding> {
        let model = self.job.catalogue().device(&self.valve.model)?;
        let (least, flow) = (model.min_flow?, self.zone.flow);
        let check = Check::ValveMinFlow { valve: model.label.clone(), flow, least };
        (!flow.reaches(least)).then(|| Finding::new(Severity::Fix, check))
    }

    fn pump_cycles(&self) -> Option<Finding> {
        let least = match self.job.supply(&self.valve.supply)?.water {
            WaterSource::Pump { least, .. } | WaterSource::Well { least, .. } => least?,
            WaterSource::Street | WaterSource::Tap | WaterSource::Tank { .. } => return None,
        };
        let flow = self.zone.flow;
        (!flow.reaches(least)).then(|| Finding::new(Severity::Watch, Check::PumpCycles { flow, least }))
    }

    /// Pipes that all valves share, at this zone's flow; the fastest.
    fn shared_velocity(&self) -> Option<Finding> {
        let supply = self.job.supply(&self.valve.supply)?;
        let over = |s: &SharedVelocity| s.velocity.fps() / s.limit.fps();
        let shared = shared_velocities(self.job, supply, self.zone.flow)
            .into_iter()
            .max_by(|a, b| over(a).total_cmp(&over(b)))?;
        if !shared.velocity.exceeds(shared.limit) {
            return None;
        }
        let severity = if over(&shared) > STRIKES { Severity::Fix } else { Severity::Watch };
        let surge = surge(shared.velocity, shared.plastic);
        let flow = self.zone.flow;
        let check = Check::ServiceVelocity { shared, flow, surge };
        Some(Finding::new(severity, check))
    }
}

impl Checker<'_> {
    /// Where not even one head works nothing but pressure helps: how much, for all heads at their aim.
    fn booster(&self) -> Option<Finding> {
        let missing = self.design.of_zone(&self.valve.id)?.missing?;
        let low = self.zone.lowest();
        let aim = Aim::Best.wanted(low.band, low.exponent == 0.0);
        let (boost, flow) = duty(self.inputs, self.zone, aim)?;
        let check = Check::BoosterNeeded { missing, flow, boost, aim };
        Some(Finding::new(Severity::Stop, check))
    }

    fn mixed(&self) -> Vec<Finding> {
        let groups: Vec<&HeadGroup> = self.groups().collect();
        let mut found = Vec::new();
        for (i, a) in groups.iter().enumerate() {
            for b in &groups[i + 1..] {
                let reasons = reasons_apart(self.job, a, b);
                let Some(weight) = reasons.iter().map(|r| r.weight).max() else {
                    continue;
                };
                let rate_ratio = self.zone.rate_ratio;
                let (a, b, group) = (a.name.clone(), b.name.clone(), b.id.clone());
                found.push(if weight == Weight::Never {
                    let check = Check::MixedNever { a, b, group, reasons, rate_ratio };
                    Finding::new(Severity::Stop, check)
                } else {
                    Finding::new(Severity::Watch, Check::Mixed { a, b, group, reasons, rate_ratio })
                });
            }
        }
        found
    }

    fn height(&self) -> Option<Finding> {
        let (range, limit) = (self.zone.height_range, Length::from_ft(HEIGHT_FT));
        let check = Check::HeightOnValve {
            range,
            limit,
            bodies: matches!(self.valve.regulation, Regulation::Body { .. }) && !self.any_drip(),
            drip: self.any_drip(),
        };
        (range.ft() > HEIGHT_FT + 1e-6).then(|| Finding::new(Severity::Watch, check))
    }

    /// A dirty filter costs 3 psi more: what the last head then gets against its aim.
    fn dirty_filter(&self) -> Option<Finding> {
        let loss = self.inputs.filter_loss.as_ref()?;
        let (clean, aim) = (self.zone.lowest().nozzle, self.aim());
        let more = Pressure::from_psi(DIRTY_PSI);
        if !clean.reaches(aim) || (clean - more).reaches(aim) {
            return None;
        }
        let mut inputs = self.inputs.clone();
        inputs.filter_loss = Some(loss.with_more(more));
        let dirty = assess_zone(&inputs).ok()?.lowest().nozzle;
        let check = Check::DirtyFilter { clean, dirty, more, aim };
        (!dirty.reaches(aim)).then(|| Finding::new(Severity::Watch, check))
    }
}

/// What a dirty filter costs over a clean one, psi.
const DIRTY_PSI: f64 = 3.0;
/// So many times the limit of a shared pipe is to be mended rather than watched.
const STRIKES: f64 = 1.4;

/// Pressure that water brought to rest at once adds: Δp = ρ·a·v (Joukowsky 1898), with wave speeds of
/// 400 m/s in plastic and 1,250 m/s in metal, planning figures. Valves close slower: it is an upper bound.
pub(super) fn surge(velocity: Speed, plastic: bool) -> Pressure {
    let wave = if plastic { 400.0 } else { 1_250.0 };
    Pressure::from_kpa(wave * velocity.mps())
}

/// What a booster would have to add at the source so that the worst head gets its aim, and what would
/// run then: a few steps of fixed point, since more pressure brings more flow.
pub(super) fn duty(inputs: &ZoneInputs, zone: &ZoneAssessment, aim: Pressure) -> Option<(Pressure, Flow)> {
    let mut boost = (aim - zone.lowest().nozzle).max(Pressure::ZERO);
    let mut flow = zone.flow;
    for _ in 0..8 {
        let boosted = assess_zone(&inputs.boosted(boost)).ok()?;
        let short = aim - boosted.lowest().nozzle;
        flow = boosted.flow;
        if short.kpa().abs() < 0.5 {
            break;
        }
        boost = (boost + short * 1.2).max(Pressure::ZERO);
    }
    Some((boost, flow))
}
