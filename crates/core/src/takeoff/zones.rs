//! Valves with what is fitted to them, boxes, and the connection.

use super::joints::Fitter;
use super::line::{LineKind, Named, Reason};
use super::net::Nets;
use crate::assembly::Train;
use crate::catalogue::{Mounting, PartEnd, PartRole, PipeId, Role};
use crate::earthwork::{BoxSize, Contents, is_boxed, shared_out};
use crate::plan::{ChainPart, LegOf, PartIs, Regulation, Supply, Valve};
use std::collections::BTreeMap;

fn kind_of(role: PartRole) -> LineKind {
    match role {
        PartRole::Valve | PartRole::AntiSiphon | PartRole::Timer | PartRole::Isolation => LineKind::Valve,
        PartRole::Breaker => LineKind::Backflow,
        PartRole::Filter | PartRole::Cartridge => LineKind::Filter,
        PartRole::Regulator => LineKind::Regulator,
        PartRole::Transition
        | PartRole::Joint
        | PartRole::SwingJoint
        | PartRole::Splitter
        | PartRole::Arrester
        | PartRole::Run => LineKind::Fitting,
        PartRole::Header | PartRole::Manifold | PartRole::End => LineKind::Drip,
        PartRole::Source | PartRole::Pump => LineKind::Sundry,
    }
}

/// Every zone: its valve, filter, regulator and parts, and what joins them where their ends do not fit.
pub(super) fn zones(fit: &mut Fitter<'_>, laid: &Nets<'_>) {
    let job = fit.job;
    for valve in &job.valves {
        let train = Train::of(job.catalogue(), valve);
        let has_laid = laid.drip.iter().any(|p| p.valve.as_deref() == Some(&valve.id));
        let mut outlet: Option<PartEnd> = None;
        for member in &train.members {
            if let (Some(outlet), Some(inlet)) = (&outlet, &member.inlet)
                && member.role != PartRole::End
            {
                match outlet.seal_to(inlet) {
                    Some(seal) => fit.seals.taped += u32::from(seal == crate::catalogue::Seal::Tape),
                    None => fit.between(&valve.id, outlet, inlet),
                }
            }
            if member.outlet.is_some() {
                outlet.clone_from(&member.outlet);
            }
            // Water is there already; tubes and their ends are counted as they are laid.
            let counted = has_laid && matches!(member.role, PartRole::Header | PartRole::End);
            if member.role == PartRole::Source || counted && !is_indicator(&member.is) {
                continue;
            }
            let id = match &member.is {
                PartIs::Regulator => in_price_book(&member.part),
                _ => &member.part,
            };
            let mut named = Named::new(kind_of(member.role), id, member.label.clone());
            if let Some(set) = member.set {
                let shown = set.show_round(job.units);
                named.part += &format!("-{}", shown.replace(' ', ""));
                named.size = shown;
            }
            let reason = match member.is {
                PartIs::Part(_) => Reason::Assembly,
                _ => Reason::Zone,
            };
            fit.tally.each(named, 1.0, reason, &valve.id);
        }
        // A module is turned to its set point on site: one part for all of them.
        if let Regulation::Valve { .. } = valve.regulation {
            let model = job.catalogue().regulators_at(Mounting::Valve).next();
            let label = model.map_or("Pressure regulator, valve-mounted", |m| m.label.as_str()).to_owned();
            let id = model.map_or("valve-module", |m| m.id.as_str()).to_owned();
            let named = Named::new(LineKind::Regulator, id, label);
            fit.tally.each(named, 1.0, Reason::Zone, &valve.id);
        }
    }
}

fn is_indicator(is: &PartIs) -> bool {
    matches!(is, PartIs::Part(id) if id == "indicator")
}

/// Price books know the regulator that a zone sets itself under ids of its own.
fn in_price_book(part: &str) -> &str {
    match part {
        "preset-hose" => "hose-preset",
        "preset-1in" => "in-line-preset-1-in",
        "preset-low" => "in-line-preset--low-flow",
        other => other,
    }
}

/// A box as it is bought, and its gravel in bags of half a cubic foot.
fn box_part(size: BoxSize) -> (&'static str, &'static str, f64) {
    match size {
        BoxSize::Round6 => ("box-round-6in", "Round valve box 6 in", 0.5),
        BoxSize::Round10 => ("box-round-10in", "Round valve box 10 in", 0.5),
        BoxSize::Standard => ("box-standard", "Standard valve box 14 × 19 in", 2.0),
        BoxSize::Jumbo => ("box-jumbo", "Jumbo valve box 20 × 26 in", 3.0),
    }
}

/// Boxes by the valves that stand in them. Valves at a tap or on a riser stand in none. Gives the bags of
/// gravel.
pub(super) fn boxes(fit: &mut Fitter<'_>) -> f64 {
    let job = fit.job;
    let mut by_box: BTreeMap<String, Vec<&Valve>> = BTreeMap::new();
    for valve in job.valves.iter().filter(|v| is_boxed(v)) {
        let own = job.box_of(valve).map(str::to_owned);
        by_box.entry(own.unwrap_or_else(|| valve.id.clone())).or_default().push(valve);
    }
    let mut gravel = 0.0;
    for (id, valves) in by_box {
        for some in shared_out(&valves) {
            let size = Contents::of(some).size().unwrap_or(BoxSize::Jumbo);
            let (part, label, bags) = box_part(size);
            fit.tally.each(Named::new(LineKind::Box, part, label), 1.0, Reason::ValvesOfBox, &id);
            gravel += bags;
        }
    }
    gravel
}

/// The parts of a point of connection that are bought. The meter is the water supplier's; pipe before the
/// first device is there already.
pub(super) fn connection(
    fit: &mut Fitter<'_>,
    supply: &Supply,
) -> Vec<(PipeId, crate::units::Length, String)> {
    let job = fit.job;
    let mut pipes = Vec::new();
    let mut behind = !supply.water.is_mains();
    for item in &supply.chain {
        match &item.part {
            ChainPart::Device { model } => {
                behind = true;
                let Some(device) = job.catalogue().device(model) else {
                    continue;
                };
                let kind = match device.role {
                    Role::Backflow => LineKind::Backflow,
                    Role::Filter => LineKind::Filter,
                    Role::Isolation | Role::Valve => LineKind::Valve,
                };
                let named = Named::new(kind, device.id.clone(), device.label.clone());
                fit.tally.each(named, 1.0, Reason::Connection, &item.id);
                // Two threads each, to be taken out for its test.
                fit.seals.taped += 2;
            }
            ChainPart::Regulator { .. } => {
                behind = true;
                let model = job.catalogue().regulators_at(Mounting::Connection).next();
                if let Some(model) = model {
                    let named = Named::new(LineKind::Regulator, model.id.clone(), model.label.clone());
                    fit.tally.each(named, 1.0, Reason::Connection, &item.id);
                    fit.seals.taped += 2;
                }
            }
            ChainPart::Pipe { pipe, length, .. } if behind => {
                pipes.push((pipe.clone(), *length, item.id.clone()));
                // Both its ends come to a thread.
                fit.thread_to_pipe(&item.id, pipe, None);
                fit.thread_to_pipe(&item.id, pipe, None);
            }
            ChainPart::Pipe { .. } | ChainPart::Meter { .. } => {}
        }
    }
    if job.watering.controller.master_valve {
        let main =
            job.piping.legs.iter().find(|l| l.of == LegOf::Main(supply.id.clone())).map(|l| l.pipe.clone());
        let model = job.catalogue().valve_of(crate::catalogue::Duty::Standard);
        let named = Named::new(LineKind::Valve, model.id.clone(), model.label.clone());
        fit.tally.each(named, 1.0, Reason::Connection, &supply.id);
        if let Some(pipe) = main {
            fit.thread_to_pipe(&supply.id, &pipe, None);
            fit.thread_to_pipe(&supply.id, &pipe, None);
        }
    }
    pipes
}
