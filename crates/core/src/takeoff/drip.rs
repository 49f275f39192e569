//! Drip as it is laid: tube in pieces, emitters, micro tube, stakes, plugs.

use super::lengths::Lengths;
use super::line::{How, LineKind, Named, Reason, Tally, Unit};
use super::net::{LaidPart, Nets, is_buried, is_snake};
use crate::catalogue::Kind;
use crate::drip::Part;
use crate::job::Job;
use crate::plan::{DripLaying, EmitterJoin};
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
        tubes(part, lengths, &mut cuts);
        holes += emitters(job, part, tally);
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
            let laid = row.emitter_spacing.m() * f64::from(row.emitters) * f64::from(group.count());
            pin(job, laid, 0, &group.id, tally);
        }
    }
    if holes > 0 {
        let plugs = (holes as f64 * PLUGS_SHARE).ceil().max(LEAST_PLUGS);
        let how = How::Per {
            reason: Reason::Holes,
            count: holes as f64,
            per: 1.0 / PLUGS_SHARE,
        };
        tally.add(
            Named::new(LineKind::Drip, "hole-plug", "Hole plug"),
            Unit::Each,
            plugs,
            how,
            &[],
        );
    }
    cuts
}

/// Rows in pieces of their own, a snake or a line past plants in one, headers between their tees.
fn tubes(part: &LaidPart<'_>, lengths: &mut Lengths, cuts: &mut DripCuts) {
    let (laid, id) = (&part.laid, part.group.id.as_str());
    let sum = |wanted: &dyn Fn(Part) -> bool| laid.length_of(wanted);
    if is_snake(part.group) {
        lengths.piece(&laid.stuff.tube, laid.dripline(), id, None);
    } else {
        for row in &laid.rows {
            lengths.piece(&laid.stuff.tube, row.length(), id, Some(row.first));
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
    lengths.piece(&laid.stuff.header, sum(&|p| p == Part::Line), id, None);
    lengths.piece(&laid.stuff.header, sum(&|p| p == Part::Return), id, None);
    for tube in &laid.tubes {
        match tube.part {
            Part::Header => {
                let piece = (tube.length.inches() - TEE_IN).max(1.0);
                lengths.piece(&laid.stuff.header, Length::from_in(piece), id, None);
            }
            Part::Feed | Part::Link => lengths.piece(&laid.stuff.header, tube.length, id, None),
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
            let nozzle = other
                .and_then(|o| o.nozzle.as_deref())
                .unwrap_or(&part.group.nozzle);
            let Some(nozzle) = job.catalogue().nozzle(nozzle) else {
                continue;
            };
            let named = Named::new(LineKind::Drip, nozzle.id.clone(), nozzle.label.clone());
            tally.each(named, plant.emitters.len() as f64, Reason::Emitters, &plant.plant);
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
    if matches!(laying.joined, EmitterJoin::AtPlant | EmitterJoin::OpenEnd) {
        let barb = Named::new(LineKind::Drip, "barb-1/4in", "Barb for micro tube");
        tally.each(barb, part.laid.micro_tubes.len() as f64, Reason::MicroTubes, id);
        return part.laid.micro_tubes.len();
    }
    count
}

fn micro(job: &Job, part: &LaidPart<'_>, lengths: &mut Lengths, tally: &mut Tally, cuts: &mut DripCuts) {
    let id = part.group.id.as_str();
    for tube in &part.laid.micro_tubes {
        // Cut to the whole inch or centimetre above.
        let length = match job.units {
            crate::units::UnitSystem::Us => Length::from_in((tube.inches() - 1e-6).ceil()),
            _ => Length::from_m((tube.m() * 100.0 - 1e-6).ceil() / 100.0),
        };
        lengths.piece(&part.laid.stuff.micro, length, id, None);
        let same = |c: &&mut MicroTube| c.group == id && (c.length.m() - length.m()).abs() < 1e-6;
        match cuts.micro.iter_mut().find(same) {
            Some(known) => known.count += 1,
            None => cuts.micro.push(MicroTube {
                group: id.to_owned(),
                length,
                count: 1,
            }),
        }
    }
    let n = part.laid.micro_tubes.len() as f64;
    let stake = Named::new(LineKind::Drip, "micro-stake", "Stake for micro tube");
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
    let how = How::Per {
        reason: Reason::Pinned,
        count: Length::from_m(laid).ft(),
        per: every.ft(),
    };
    let stake = Named::new(LineKind::Drip, "tube-stake", "Stake for tube");
    tally.add(stake, Unit::Each, n, how, &[id.to_owned()]);
}
