//! Drip as it is laid: tube in pieces, emitters, micro tube, stakes, plugs.

use super::lengths::{Emitting, Lengths};
use super::line::{How, LineKind, Named, Reason, Tally, Unit};
use super::net::{LaidPart, Nets, is_buried, is_snake};
use crate::catalogue::Kind;
use crate::drip::{Part, tube_of};
use crate::job::Job;
use crate::plan::{DripLaying, EmitterJoin, HeadGroup};
use crate::units::Length;

/// What a tee takes of a header between two rows: half of its length on either side, in.
const TEE_IN: f64 = 1.25;
/// Plugs for holes that were punched wrong: one in ten, at least five.
const PLUGS_SHARE: f64 = 0.1;
const LEAST_PLUGS: f64 = 5.0;

/// Rows of one length with the same first emitter.
#[derive(Debug, Clone, PartialEq)]
pub struct RowCut {
    /// Group.
    pub group: String,
    /// From end to end.
    pub length: Length,
    /// From the beginning to the first emitter.
    pub first: Length,
    /// Emitters on each.
    pub emitters: u32,
    /// How many.
    pub count: usize,
}

/// Micro tubes of one length.
#[derive(Debug, Clone, PartialEq)]
pub struct MicroTube {
    /// Group.
    pub group: String,
    /// Cut to.
    pub length: Length,
    /// How many.
    pub count: usize,
}

#[derive(Debug, Default)]
pub(super) struct DripCuts {
    pub rows: Vec<RowCut>,
    pub micro: Vec<MicroTube>,
}

/// Everything of laid and listed drip but its fittings.
pub(super) fn drip(job: &Job, nets: &Nets<'_>, lengths: &mut Lengths, tally: &mut Tally) -> DripCuts {
    let mut cuts = DripCuts::default();
    let mut holes = 0usize;
    for part in &nets.drip {
        tubes(job, part, lengths, &mut cuts);
        holes += emitters(job, part, tally);
        rings(job, part, lengths, tally);
        micro(job, part, lengths, tally, &mut cuts);
        stakes(job, part, tally);
    }
    for group in job.groups.iter().filter(|g| g.drip.is_none()) {
        let Some(nozzle) = job.catalogue().nozzle(&group.nozzle) else {
            continue;
        };
        // Listed emitters sit one by one along their line.
        if nozzle.kind == Kind::Emitter {
            let n = f64::from(group.count());
            let named = Named::new(LineKind::Drip, nozzle.id.clone(), nozzle.label.clone());
            tally.each(named, n, Reason::Emitters, &group.id);
            holes += group.count() as usize;
        }
        if let Some(row) = group.row {
            // The first emitter stands one spacing from the header, the end is closed behind the last.
            let length = row.emitter_spacing * f64::from(row.emitters);
            if let Some(made) = emitting(job, group, row.emitter_spacing) {
                let (tube, count) = (tube_of(job.catalogue(), nozzle), group.count());
                let piece = (length, group.id.as_str(), Some(row.emitter_spacing));
                (0..count).for_each(|_| lengths.emitting(&tube, made, job.units, piece));
                if count > 0 {
                    cuts.rows.push(RowCut {
                        group: group.id.clone(),
                        length,
                        first: row.emitter_spacing,
                        emitters: row.emitters,
                        count: count as usize,
                    });
                }
            }
            let laid = length.m() * f64::from(group.count());
            pin(job, laid, 0, &group.id, tally);
        }
    }
    if holes > 0 {
        let plugs = (holes as f64 * PLUGS_SHARE).ceil().max(LEAST_PLUGS);
        let how = How::Per { reason: Reason::Holes, count: holes as f64, per: 1.0 / PLUGS_SHARE };
        tally.add(Named::new(LineKind::Drip, "hole-plug", "Hole plug"), Unit::Each, plugs, how, &[]);
    }
    cuts
}

/// What the rows of a group are cut from.
fn emitting<'j>(job: &'j Job, group: &HeadGroup, every: Length) -> Option<Emitting<'j>> {
    let nozzle = job.catalogue().nozzle(&group.nozzle)?;
    Some(Emitting { nozzle, every })
}

/// Rows in pieces of their own, a snake or a line past plants in one, headers between their tees.
fn tubes(job: &Job, part: &LaidPart<'_>, lengths: &mut Lengths, cuts: &mut DripCuts) {
    let (laid, id) = (&part.laid, part.group.id.as_str());
    let made = match &part.group.drip {
        Some(DripLaying::Rows(rows)) => emitting(job, part.group, rows.emitter_spacing),
        _ => None,
    };
    let mut rows = |length, first| match made {
        Some(made) => lengths.emitting(&laid.stuff.tube, made, job.units, (length, id, first)),
        None => lengths.piece(&laid.stuff.tube, length, id),
    };
    let sum = |wanted: &dyn Fn(Part) -> bool| laid.length_of(wanted);
    if is_snake(part.group) {
        rows(laid.dripline(), None);
    } else {
        for row in &laid.rows {
            rows(row.length(), Some(row.first));
            let tenth = |l: Length| (l.m() * 100.0).round();
            let same = |c: &&mut RowCut| {
                c.group == id && tenth(c.length) == tenth(row.length()) && tenth(c.first) == tenth(row.first)
            };
            match cuts.rows.iter_mut().find(same) {
                Some(known) => known.count += 1,
                None => cuts.rows.push(RowCut {
                    group: id.to_owned(),
                    length: row.length(),
                    first: row.first,
                    emitters: row.emitters,
                    count: 1,
                }),
            }
        }
    }
    lengths.piece(&laid.stuff.header, sum(&|p| p == Part::Line), id);
    lengths.piece(&laid.stuff.header, sum(&|p| p == Part::Return), id);
    for tube in &laid.tubes {
        match tube.part {
            Part::Header => {
                let piece = (tube.length.inches() - TEE_IN).max(1.0);
                lengths.piece(&laid.stuff.header, Length::from_in(piece), id);
            }
            Part::Feed | Part::Link => lengths.piece(&laid.stuff.header, tube.length, id),
            _ => {}
        }
    }
}

/// Emitters at plants; those of dripline and tape are in the tube. Gives the holes that are punched.
fn emitters(job: &Job, part: &LaidPart<'_>, tally: &mut Tally) -> usize {
    let Some(DripLaying::Plants(laying)) = &part.group.drip else {
        return 0;
    };
    let id = part.group.id.as_str();
    let count = part.laid.emitters.len();
    if laying.joined != EmitterJoin::OpenEnd {
        for plant in &part.laid.plants {
            let other = laying.other.iter().find(|o| o.plant == plant.plant);
            let nozzle = other.and_then(|o| o.nozzle.as_deref()).unwrap_or(&part.group.nozzle);
            let Some(nozzle) = job.catalogue().nozzle(nozzle) else {
                continue;
            };
            let named = Named::new(LineKind::Drip, nozzle.id.clone(), nozzle.label.clone());
            let feeding = plant.ring.as_ref().map_or(plant.emitters.len(), |_| 1);
            tally.each(named, feeding as f64, Reason::Emitters, &plant.plant);
        }
    }
    if let Some(outlets) = laying.joined.outlets() {
        let named = Named::new(
            LineKind::Drip,
            format!("outlets-{outlets}-on-tube"),
            format!("Manifold of {outlets} outlets"),
        );
        tally.each(named, part.laid.manifolds as f64, Reason::Emitters, id);
        return part.laid.manifolds;
    }
    if laying.joined == EmitterJoin::FedRing {
        return part.laid.plants.len();
    }
    if matches!(laying.joined, EmitterJoin::AtPlant | EmitterJoin::OpenEnd) {
        let barb = Named::new(LineKind::Drip, "barb-1/4in", "Micro tubing barb");
        tally.each(barb, part.laid.micro_tubes.len() as f64, Reason::MicroTubes, id);
        return part.laid.micro_tubes.len();
    }
    count
}

/// Rings that an emitter feeds: their tube, closed in a tee on the micro tube from the emitter, pinned down.
fn rings(job: &Job, part: &LaidPart<'_>, lengths: &mut Lengths, tally: &mut Tally) {
    for plant in &part.laid.plants {
        let Some(ring) = &plant.ring else { continue };
        let Some(nozzle) = job.catalogue().nozzle(&ring.tube) else {
            continue;
        };
        let made = Emitting { nozzle, every: ring.every };
        let piece = (ring.length(), plant.plant.as_str(), None);
        lengths.emitting(&part.laid.stuff.micro, made, job.units, piece);
        let tee = Named::new(LineKind::Drip, "micro-tee", "Micro tubing tee");
        tally.each(tee, 1.0, Reason::Rings, &plant.plant);
        let stakes = (ring.length().m() / job.rules.buying.stakes.m()).ceil();
        let stake = Named::new(LineKind::Drip, "micro-stake", "Micro tubing stake");
        tally.each(stake, stakes, Reason::Rings, &plant.plant);
    }
}

fn micro(job: &Job, part: &LaidPart<'_>, lengths: &mut Lengths, tally: &mut Tally, cuts: &mut DripCuts) {
    let id = part.group.id.as_str();
    for tube in &part.laid.micro_tubes {
        // Cut to the whole inch or centimetre above.
        let length = match job.units {
            crate::units::UnitSystem::Us => Length::from_in((tube.inches() - 1e-6).ceil()),
            _ => Length::from_m((tube.m() * 100.0 - 1e-6).ceil() / 100.0),
        };
        lengths.piece(&part.laid.stuff.micro, length, id);
        let same = |c: &&mut MicroTube| c.group == id && (c.length.m() - length.m()).abs() < 1e-6;
        match cuts.micro.iter_mut().find(same) {
            Some(known) => known.count += 1,
            None => cuts.micro.push(MicroTube { group: id.to_owned(), length, count: 1 }),
        }
    }
    let n = part.laid.micro_tubes.len() as f64;
    let stake = Named::new(LineKind::Drip, "micro-stake", "Micro tubing stake");
    tally.each(stake, n, Reason::MicroTubes, id);
}

fn stakes(job: &Job, part: &LaidPart<'_>, tally: &mut Tally) {
    if is_buried(part.group) {
        return;
    }
    let laid = part.laid.length_of(|p| p != Part::Micro);
    let turns = part.laid.tubes.iter().filter(|t| t.part == Part::Turn).count() * 2;
    let corners = part.laid.fittings(Length::ZERO).elbows;
    pin(job, laid.m(), turns.max(corners), &part.group.id, tally);
}

fn pin(job: &Job, laid: f64, bends: usize, id: &str, tally: &mut Tally) {
    let every = job.rules.buying.stakes;
    let n = (laid / every.m()).ceil() + bends as f64;
    let how = How::Per { reason: Reason::Pinned, count: Length::from_m(laid).ft(), per: every.ft() };
    let stake = Named::new(LineKind::Drip, "tube-stake", "Tubing stake");
    tally.add(stake, Unit::Each, n, how, &[id.to_owned()]);
}
