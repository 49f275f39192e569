//! Wire and controller, and what is used up in joining and filling.

use super::joints::Seals;
use super::line::{How, LineKind, Named, Reason, Tally, Unit};
use super::missing::Missing;
use crate::earthwork::Earthwork;
use crate::job::Job;
use crate::piping::wire;
use crate::plan::AssemblyPlace;
use crate::units::Length;

/// Wire of single strands is sold in these lengths, ft.
const SPOOLS_FT: [f64; 3] = [250.0, 500.0, 2500.0];
/// Stations that controllers are made with.
const CONTROLLERS: [u32; 9] = [4, 6, 8, 12, 16, 24, 32, 48, 64];
/// A roll of thread tape, in; a joint takes five turns round a 3/4 in thread (1.05 in).
const TAPE_ROLL_IN: f64 = 520.0;
const TAPE_JOINT_IN: f64 = 5.0 * std::f64::consts::PI * 1.05;
/// A roll of warning tape, ft.
const WARNING_FT: f64 = 1000.0;

/// Wire, connectors and controllers; what can't be counted goes to `missing`.
pub(super) fn electric(job: &Job, later: usize, waste: f64, tally: &mut Tally, missing: &mut Vec<Missing>) {
    let wired = |v: &&crate::plan::Valve| v.assembly.stands != AssemblyPlace::Tap;
    let valves: Vec<&str> = job.valves.iter().filter(wired).map(|v| v.id.as_str()).collect();
    if valves.is_empty() {
        return;
    }
    let master = u32::from(job.watering.controller.master_valve);
    let stations = job.controller_stations.unwrap_or_else(|| {
        let least = (valves.len() + later) as u32;
        CONTROLLERS.into_iter().find(|c| *c >= least).unwrap_or(least)
    });
    let how =
        How::Per { reason: Reason::Stations, count: (valves.len() + later) as f64, per: f64::from(stations) };
    let named = Named::new(LineKind::Controller, format!("controller-{stations}"), "Controller")
        .sized(format!("{stations} stations"));
    tally.add(named, Unit::Each, 1.0, how, &[]);
    match wire(job, later) {
        Some(wire) => {
            let gauge = wire.gauge.unwrap_or(12);
            let used = wire.strands;
            let least = used.ft() * (1.0 + waste);
            let made = SPOOLS_FT.map(Length::from_ft);
            let strand = Length::from_ft(least);
            // Strands are spliced at boxes only: none may be longer than a spool.
            let coils = super::cutting::cut_coils(&[], strand, &made, None);
            for (size, count) in made.iter().zip(&coils.counts).filter(|c| *c.1 > 0) {
                let named = Named::new(LineKind::Wire, format!("wire-{gauge}awg"), "Wire, single strand")
                    .sized(format!("{gauge} AWG"));
                let bought: f64 = made.iter().zip(&coils.counts).map(|(m, n)| m.m() * *n as f64).sum();
                let line = tally.line(named, Unit::Coil, Some(*size));
                line.quantity = *count as f64;
                line.used = used.m() * size.m() * *count as f64 / bought;
                line.from = valves.iter().map(|v| (*v).to_owned()).collect();
                line.how = vec![How::Coils {
                    laid: used,
                    pieces: wire.valves + wire.spares + wire.later + 1,
                    bought: Length::from_m(bought),
                    waste,
                    priced: false,
                }];
            }
            if !wire.unreached.is_empty() {
                missing.push(Missing::WireTo(wire.unreached.clone()));
            }
        }
        None => missing.push(Missing::Wire),
    }
    let how = How::Per { reason: Reason::WireEnds, count: f64::from(valves.len() as u32 + master), per: 0.5 };
    let connectors = 2.0 * f64::from(valves.len() as u32 + master);
    let named = Named::new(LineKind::Wire, "wire-connector", "Waterproof wire connector");
    let from: Vec<String> = valves.iter().map(|v| (*v).to_owned()).collect();
    tally.add(named, Unit::Each, connectors, how, &from);
    if later > 0 {
        let named = Named::new(LineKind::Wire, "wire-connector", "Waterproof wire connector");
        tally.add(named, Unit::Each, later as f64, How::Each(Reason::Spare), &[]);
    }
}

/// Cement, primer, thread tape, gravel, warning tape.
pub(super) fn used_up(seals: &Seals, gravel: f64, work: &Earthwork, job: &Job, tally: &mut Tally) {
    let glued: u32 = seals.glued.iter().map(|g| g.1).sum();
    if glued > 0 {
        let pints = tins(&seals.glued);
        for (part, label, share) in [("cement-pvc", "PVC cement", 1.0), ("primer-pvc", "PVC primer", 0.5)] {
            let n = (pints * share).ceil().max(1.0);
            let how = How::Per {
                reason: Reason::GluedEnds,
                count: f64::from(glued),
                per: f64::from(glued) / (pints * share),
            };
            tally.add(Named::new(LineKind::Sundry, part, label), Unit::Pint, n, how, &[]);
        }
    }
    if seals.taped > 0 {
        let per = (TAPE_ROLL_IN / TAPE_JOINT_IN).floor();
        let how = How::Per { reason: Reason::TapedThreads, count: f64::from(seals.taped), per };
        let rolls = (f64::from(seals.taped) / per).ceil();
        tally.add(Named::new(LineKind::Sundry, "thread-tape", "Thread tape"), Unit::Roll, rolls, how, &[]);
    }
    if gravel > 0.0 {
        let how = How::Per { reason: Reason::BoxGravel, count: gravel, per: 1.0 };
        tally.add(Named::new(LineKind::Sundry, "gravel", "Gravel"), Unit::Bag, gravel.ceil(), how, &[]);
    }
    let is_main = |id: &String| job.piping.leg(id).is_some_and(crate::plan::PipeLeg::is_main);
    let mains = work.trenches.iter().filter(|t| t.legs.iter().any(is_main));
    let length: f64 = mains.map(|t| t.length.ft()).sum();
    if length > 0.0 {
        let how = How::Per { reason: Reason::MainTrench, count: length, per: WARNING_FT };
        let named = Named::new(LineKind::Sundry, "warning-tape", "Warning tape");
        tally.add(named, Unit::Roll, (length / WARNING_FT).ceil(), how, &[]);
    }
}

/// Pints of cement for glued ends, by nominal size.
fn tins(glued: &[(String, u32)]) -> f64 {
    // Joints that a pint makes, by size: as the tins say, half a quart.
    let per_pint = |size: &str| -> f64 {
        match size {
            "1/2in" => 150.0,
            "3/4in" => 100.0,
            "1in" => 62.0,
            "1-1/4in" => 52.0,
            "1-1/2in" => 45.0,
            "2in" => 30.0,
            "2-1/2in" => 25.0,
            "3in" => 20.0,
            _ => 15.0,
        }
    };
    glued.iter().map(|(size, n)| f64::from(*n) / per_pint(size)).sum()
}
