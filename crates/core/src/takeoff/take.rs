//! The whole list of a job.

use super::dig::{Digging, list};
use super::drip::{MicroTube, RowCut, drip};
use super::field::{electric, used_up};
use super::heads::{heads, swing};
use super::joints::{Fitter, Seals, Unmade};
use super::lengths::{CutList, Lengths, PieceCost};
use super::line::{How, Line, LineKind, Named, Tally, Unit};
use super::missing::Missing;
use super::net::{NetLeg, Nets};
use super::zones::{boxes, connection, zones};
use crate::assess::Assessment;
use crate::catalogue::FittingSystem;
use crate::earthwork::{Ground, earthwork};
use crate::findings::{Check, Finding, Severity};
use crate::job::Job;
use crate::plan::{LegOf, PipeLeg};
use crate::units::Length;
use std::collections::BTreeSet;

/// What is bought for a job, how it is cut and what is dug.
#[derive(Debug, Clone, PartialEq)]
pub struct Takeoff {
    /// By section, in the order of their list.
    pub lines: Vec<Line>,
    /// How pipe and tube are cut.
    pub cuts: Vec<CutList>,
    /// Rows of drip, by group.
    pub rows: Vec<RowCut>,
    /// Micro tubes, by group.
    pub micro: Vec<MicroTube>,
    /// Trenches.
    pub digging: Digging,
    /// Joints that the catalogue has no fitting for.
    pub unmade: Vec<Unmade>,
    /// What is not counted.
    pub missing: Vec<Missing>,
}

impl Takeoff {
    /// Joints that can't be made, as findings of the valve or the point of connection that they belong to.
    /// They are found with the list of parts, since they are read off its graph.
    pub fn findings(&self, job: &Job) -> Vec<(String, Finding)> {
        let whose = |at: &str| -> Option<String> {
            if job.valve(at).is_some() || job.supply(at).is_some() {
                return Some(at.to_owned());
            }
            let ends = |l: &&PipeLeg| l.id == at || l.from == at || l.to == at;
            if let Some(leg) = job.piping.legs.iter().find(ends) {
                return Some(match &leg.of {
                    LegOf::Main(id) | LegOf::Lateral(id) => id.clone(),
                });
            }
            if let Some((_, head)) = job.drawn_head(at) {
                return head.valve.clone();
            }
            // A listed head: its group and its number.
            let (group, n) = at.rsplit_once('.')?;
            let n: u32 = n.parse().ok()?;
            let head = job.group(group)?.heads().find(|h| h.0 + 1 == n)?;
            head.2.map(str::to_owned)
        };
        let first = || job.supplies.first().map_or_else(String::new, |s| s.id.clone());
        let mut told = BTreeSet::new();
        let mut out = Vec::new();
        for u in &self.unmade {
            let of = whose(&u.at).unwrap_or_else(first);
            // The same joint at every head of a valve is told once.
            if told.insert((of.clone(), &u.wanted)) {
                let check = Check::JointUnmade { at: u.at.clone(), wanted: u.wanted.clone() };
                out.push((of, Finding::new(Severity::Fix, check)));
            }
        }
        out
    }
    /// Lines of a section.
    pub fn section(&self, kind: LineKind) -> impl Iterator<Item = &Line> {
        self.lines.iter().filter(move |l| l.kind == kind)
    }
    /// The lines of a part, one for each length it is bought in.
    pub fn of<'t>(&'t self, part: &'t str) -> impl Iterator<Item = &'t Line> + 't {
        self.lines.iter().filter(move |l| l.part == part)
    }
}

/// What is bought for a job; coils by the least length.
pub fn takeoff(job: &Job, known: &Assessment) -> Takeoff {
    takeoff_priced(job, known, None)
}

/// The same, coils by price where prices of pieces are known. Deterministic.
///
/// # Example
/// Four heads in a chain on 3/4 in pipe: three tees and one elbow with threaded outlets, four swing joints,
/// one adapter at the valve (a test holds it).
pub fn takeoff_priced(job: &Job, known: &Assessment, costs: Option<PieceCost<'_>>) -> Takeoff {
    let nets = Nets::of(job);
    let work = earthwork(job, &Ground::of(job));
    let waste = job.rules.buying.waste;
    let mut tally = Tally::default();
    let mut lengths = Lengths::default();
    let mut missing = Vec::new();
    heads(job, &mut tally);
    let swing_threads = swing(job, &nets, &mut tally);
    for net in &nets.nets {
        for leg in &net.legs {
            pieces(leg, &mut lengths);
        }
    }
    let cuts = drip(job, &nets, &mut lengths, &mut tally);
    let mut fit = Fitter { job, tally: &mut tally, seals: Seals::default(), unmade: Vec::new() };
    fit.seals.taped += swing_threads;
    for net in &nets.nets {
        fit.net(net);
    }
    zones(&mut fit, &nets);
    let gravel = boxes(&mut fit);
    for supply in &job.supplies {
        if job.valves.iter().any(|v| v.supply == supply.id) {
            for (pipe, length, id) in connection(&mut fit, supply) {
                lengths.piece(&pipe, length, &id);
            }
        }
    }
    let digging = list(job, &work);
    for (leg, length, sleeved, count) in &digging.crossings {
        let sleeve = job.piping.leg(leg).and_then(|l| l.sleeve.clone());
        if let Some(sleeve) = sleeve.filter(|_| *sleeved) {
            for _ in 0..*count {
                lengths.piece(&sleeve, *length, leg);
            }
        }
    }
    let (seals, unmade) = (fit.seals, fit.unmade);
    let later: usize = known.later(job).iter().map(|l| l.stations).sum();
    electric(job, later, waste, &mut tally, &mut missing);
    used_up(&seals, gravel, &work, job, &mut tally);
    let cut_lists = lengths.buy(job.catalogue(), job.units, waste, costs, &mut tally);
    by_hand(job, &mut tally);
    gaps(job, &nets, &mut missing);
    let mut lines = tally.lines;
    // Fittings of a form stand together, the order in which the plan came to them says nothing.
    let alike = |l: &Line| matches!(l.kind, LineKind::Fitting | LineKind::Nozzle).then(|| l.part.clone());
    lines.sort_by_key(|l| (l.kind, alike(l)));
    Takeoff { lines, cuts: cut_lists, rows: cuts.rows, micro: cuts.micro, digging, unmade, missing }
}

/// Pieces of a leg: between fittings, or in one where the pipe is bent.
fn pieces(leg: &NetLeg, lengths: &mut Lengths) {
    if leg.in_row {
        return;
    }
    let drip = leg.id.as_str();
    let bends = FittingSystem::of_material(&leg.pipe.material).is_some_and(FittingSystem::bends);
    if bends {
        let all: f64 = leg.straight.iter().map(|s| s.m()).sum();
        lengths.piece(&leg.pipe, Length::from_m(all), drip);
    } else {
        for straight in &leg.straight {
            lengths.piece(&leg.pipe, *straight, drip);
        }
    }
}

/// What hands said: other quantities, and lines of their own.
fn by_hand(job: &Job, tally: &mut Tally) {
    for said in &job.parts.lines {
        let hand = |counted| How::ByHand { counted, note: said.text.clone() };
        match &said.part {
            Some(part) => {
                // Of a part in several lengths the longest stands for all.
                let lines = tally.lines.iter_mut().filter(|l| l.part == *part);
                let mut lines: Vec<&mut Line> = lines.collect();
                lines.sort_by(|a, b| {
                    let piece = |l: &Line| l.piece.map_or(0.0, |p| p.m());
                    piece(b).total_cmp(&piece(a))
                });
                for (i, line) in lines.into_iter().enumerate() {
                    let counted = line.quantity;
                    line.quantity = if i == 0 { said.quantity } else { 0.0 };
                    line.how.push(hand(counted));
                }
            }
            None => {
                let named = Named::new(LineKind::Sundry, format!("own-{}", said.id), said.text.clone());
                let unit = match said.unit.trim() {
                    "" => Unit::Each,
                    unit => Unit::Written(unit.to_owned()),
                };
                let line = tally.line(named, unit, None);
                line.quantity = said.quantity;
                line.used = said.quantity;
                line.how = vec![hand(0.0)];
            }
        }
    }
    tally.lines.retain(|l| l.quantity > 0.0 || l.is_by_hand());
}

fn gaps(job: &Job, nets: &Nets<'_>, missing: &mut Vec<Missing>) {
    if !nets.not_laid.is_empty() {
        missing.push(Missing::DripNotLaid(nets.not_laid.clone()));
    }
    let has_heads = |id: &str| job.groups.iter().any(|g| g.is_on(id));
    let bare = |v: &&crate::plan::Valve| {
        let tap = v.assembly.stands != crate::plan::AssemblyPlace::Box;
        !tap && v.mainline.is_none() && !crate::zone::main_reaches(job, v) && has_heads(&v.id)
    };
    let without: Vec<String> = job.valves.iter().filter(bare).map(|v| v.id.clone()).collect();
    if !without.is_empty() {
        missing.push(Missing::Main(without));
    }
    let drawn = |v: &&crate::plan::Valve| {
        let any = |g: &crate::plan::HeadGroup| g.drawn.iter().any(|h| h.valve.as_deref() == Some(&v.id));
        job.groups.iter().any(any) && job.piping.lateral(&v.id).next().is_none()
    };
    let straight: Vec<String> = job.valves.iter().filter(drawn).map(|v| v.id.clone()).collect();
    if !straight.is_empty() {
        missing.push(Missing::Straight(straight));
    }
    let unassigned = job.unassigned().len();
    if unassigned > 0 {
        missing.push(Missing::Unassigned(unassigned));
    }
}
