use super::candidates::{candidates, is_drip, regulated};
use super::option::{OptionNote, RegulationOption, Way};
use super::system::{SYSTEM_FROM_PSI, with_system_regulator};
use crate::findings::{OVER_NOMINAL, regulator_holds};
use crate::job::Job;
use crate::plan::{Edit, Regulation, Valve};
use crate::units::Pressure;
use crate::water::SupplyPoint;
use crate::zone::{RegulatorResult, ZoneAssessment, ZoneInputs, assess_zone, zone_of};
use std::sync::Arc;

/// Spread, as a share of nominal, up to which one regulator on the valve serves all heads.
const EVEN_ENOUGH: f64 = 0.10;
/// Height difference from which bodies regulate better than one valve, feet.
const LEVEL_FT: f64 = 5.0;
/// From so many heads on, bodies are preferred.
const MANY_HEADS: usize = 16;

/// Why a way is the one to take.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Why {
    /// Drip, by the house's rule: the lowest preset that serves the last emitter.
    DripPreset,
    /// Drip, and no preset has its room.
    DripNoRoom,
    /// Too little arrives at the last head: no question for a regulator.
    Starved(Pressure),
    /// The highest head is near enough to its best.
    NoneNeeded {
        /// What it gets.
        highest: Pressure,
        /// Its best.
        best: Pressure,
    },
    /// So much at the connection strains main and valves.
    SystemFirst(Pressure),
    /// One kind of head, level and even.
    OneModule,
    /// Many heads, height or a long lateral.
    Bodies,
    /// Over its best, and no regulator has its working room.
    NoRoom {
        /// What the highest head gets.
        highest: Pressure,
        /// Its best.
        best: Pressure,
        /// Water over nominal, as a share.
        water: f64,
    },
}

/// All ways side by side.
#[derive(Debug, Clone)]
pub struct Comparison {
    /// As it is, first.
    pub options: Vec<RegulationOption>,
    /// Place of the one to take.
    pub recommended: usize,
    /// Why.
    pub why: Why,
}

fn inputs_of(job: &Job, valve: &Valve) -> Option<ZoneInputs> {
    let point = SupplyPoint::of(job, job.supply(&valve.supply)?).ok()?;
    Some(ZoneInputs::of(job, valve, Arc::new(point)))
}

/// Compares the ways to regulate a zone. None when the zone itself has no figures.
pub fn compare(job: &Job, valve: &Valve) -> Option<Comparison> {
    let inputs = inputs_of(job, valve)?;
    let bare = regulated(job, &inputs, Regulation::None)?;
    let unregulated = valve.regulation == Regulation::None;
    let as_is = if unregulated { bare.clone() } else { assess_zone(&inputs).ok()? };
    let option = |way, edit, zone, pieces| RegulationOption::of(&job.rules, way, edit, zone, pieces);
    let fit = |regulation, zone, pieces| {
        option(Way::Fit(regulation), Some(Edit::fit(valve.id.clone(), regulation)), zone, pieces)
    };
    let mut options = vec![option(Way::AsIs(valve.regulation), None, as_is, 0)];
    if !unregulated {
        options.push(fit(Regulation::None, bare.clone(), 0));
    }
    for (regulation, pieces) in candidates(job, &inputs, &bare) {
        if !same(regulation, valve.regulation)
            && let Some(zone) = regulated(job, &inputs, regulation)
        {
            options.push(fit(regulation, zone, pieces));
        }
    }
    if !is_drip(&inputs)
        && let Some(system) = system_option(job, valve, &inputs)
    {
        options.push(system);
    }
    let (recommended, why) = recommend(&inputs, &bare, &options);
    Some(Comparison { options, recommended, why })
}

/// The way the comparison recommends, for proposals that fit it at once.
pub fn recommended(job: &Job, valve: &Valve) -> Option<Regulation> {
    let inputs = inputs_of(job, valve)?;
    let bare = regulated(job, &inputs, Regulation::None)?;
    if !is_drip(&inputs) && !bare.highest().nozzle.exceeds(bare.highest().band.best * (1.0 + OVER_NOMINAL)) {
        return Some(Regulation::None);
    }
    let all = candidates(job, &inputs, &bare);
    let ways = || all.iter().map(|c| &c.0);
    let gives = |r: &Regulation, in_its_band: bool| {
        regulated(job, &inputs, *r).is_some_and(|z| {
            let room = |g: &RegulatorResult| g.room.reaches(job.rules.regulator_room);
            let holds =
                if in_its_band { regulator_holds(job, &z) } else { z.regulator.as_ref().is_none_or(room) };
            holds && z.starved().is_none()
        })
    };
    let works = |r: &Regulation| gives(r, true);
    // A regulator that creeps at a trickle still keeps the street's pressure off tubing and fittings.
    let at_least = || ways().find(|r| is_drip(&inputs) && gives(r, false));
    let preferred = |r: &&Regulation| match r {
        Regulation::Body { .. } => wanted_place(&bare) == Wanted::Body,
        _ => wanted_place(&bare) == Wanted::Valve,
    };
    let found =
        ways().filter(preferred).find(|r| works(r)).or_else(|| ways().find(|r| works(r))).or_else(at_least);
    Some(found.copied().unwrap_or(Regulation::None))
}

fn same(a: Regulation, b: Regulation) -> bool {
    match (a.set(), b.set()) {
        (Some(x), Some(y)) => {
            std::mem::discriminant(&a) == std::mem::discriminant(&b) && (x.psi() - y.psi()).abs() < 0.5
        }
        (None, None) => true,
        _ => false,
    }
}

/// A reducing valve for the whole point of connection, and what it does to the other zones.
fn system_option(job: &Job, valve: &Valve, inputs: &ZoneInputs) -> Option<RegulationOption> {
    let supply = job.supply(&valve.supply)?;
    if inputs.point.chain.regulated_to().is_some() {
        return None;
    }
    let (changed, set) = with_system_regulator(job, supply)?;
    let zones = job.valves.iter().filter(|v| v.supply == supply.id);
    let zones: Vec<(&Valve, ZoneInputs)> =
        zones.map(|v| (v, ZoneInputs::of(job, v, inputs.point.clone()))).collect();
    let edit = Edit::put(changed);
    let (after, _) = job.apply(&edit).ok()?;
    let zone = zone_of(&after, valve).ok()?;
    let mut result = RegulationOption::of(&job.rules, Way::System(set), Some(edit), zone, 1);
    for (other, inputs) in zones.iter().filter(|(v, _)| v.id != valve.id) {
        let (Ok(was), Ok(now)) = (assess_zone(inputs), zone_of(&after, other)) else {
            continue;
        };
        let number = job.valve_number(&other.id);
        let room = |z: &ZoneAssessment| {
            z.regulator.as_ref().is_none_or(|r| r.room.reaches(job.rules.regulator_room))
        };
        if room(&was) && !room(&now) {
            result.works = false;
            result.notes.push(OptionNote::Robs(number));
        } else if let (None, Some(low)) = (was.starved(), now.starved()) {
            result.works = false;
            result.notes.push(OptionNote::Starves(number, low.nozzle));
        }
    }
    Some(result)
}

#[derive(Clone, Copy, PartialEq, Eq)]
enum Wanted {
    Valve,
    Body,
}

fn wanted_place(bare: &ZoneAssessment) -> Wanted {
    let level = bare.height_range.ft().abs() <= LEVEL_FT;
    // What one regulator can't even out is what the lateral itself costs from best to worst.
    let lowest = bare.lowest();
    let uneven = bare.spread * (lowest.band.best / lowest.nozzle.max(Pressure::from_psi(1.0)));
    if level && uneven <= EVEN_ENOUGH && bare.heads.len() < MANY_HEADS { Wanted::Valve } else { Wanted::Body }
}

/// The order of deciding: drip, starved, fine, too high.
fn recommend(inputs: &ZoneInputs, bare: &ZoneAssessment, options: &[RegulationOption]) -> (usize, Why) {
    let high = bare.highest();
    let find = |wanted: fn(Regulation) -> bool| {
        options.iter().position(|o| o.works && o.regulation().is_some_and(wanted))
    };
    let none = find(|r| r == Regulation::None)
        .or_else(|| options.iter().position(|o| o.way == Way::Fit(Regulation::None)))
        .unwrap_or(0);
    if is_drip(inputs) {
        return match find(|r| matches!(r, Regulation::Inline { .. })) {
            Some(i) => (i, Why::DripPreset),
            None => (none, Why::DripNoRoom),
        };
    }
    if let Some(low) = bare.starved() {
        return (none, Why::Starved(low.nozzle));
    }
    if !high.nozzle.exceeds(high.band.best * (1.0 + OVER_NOMINAL)) {
        return (none, Why::NoneNeeded { highest: high.nozzle, best: high.band.best });
    }
    if bare.at_connection.psi() > SYSTEM_FROM_PSI
        && let Some(i) = options.iter().position(|o| matches!(o.way, Way::System(_)))
        && !options[i].notes.iter().any(|n| n.is_elsewhere())
    {
        return (i, Why::SystemFirst(bare.at_connection));
    }
    let body = find(|r| matches!(r, Regulation::Body { .. }));
    let on_valve = find(|r| matches!(r, Regulation::Valve { .. }))
        .or_else(|| find(|r| matches!(r, Regulation::Inline { .. })));
    let (wanted, why) = match wanted_place(bare) {
        Wanted::Valve => (on_valve.or(body), Why::OneModule),
        Wanted::Body => (body.or(on_valve), Why::Bodies),
    };
    match wanted.or_else(|| options.iter().position(|o| o.works)) {
        Some(i) => (i, why),
        None => (
            none,
            Why::NoRoom {
                highest: high.nozzle,
                best: high.band.best,
                water: bare.flow / bare.nominal_flow - 1.0,
            },
        ),
    }
}
