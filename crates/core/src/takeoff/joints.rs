//! The fittings of a node: what stands there, and the pipes that meet.

use super::line::{How, LineKind, Named, Reason, Tally, Unit, size_for_people};
use super::net::{Net, NetLeg, Spot, turn_between};
use crate::catalogue::{Catalogue, FittingForm, FittingSystem, PartEnd, PipeId, Sold, thread_of};
use crate::job::Job;
use crate::site::Point;
use crate::units::Length;

/// Straight pipe is sold in lengths of 20 ft.
pub(super) const STICK_FT: f64 = 20.0;
/// Rigid pipe takes an elbow where it turns by more, degrees; an elbow of 45 up to the next, two beyond all.
const STRAIGHT: f64 = 20.0;
const HALF_TURN: f64 = 67.5;
/// Pipe that gives is elbowed from here on.
const BENDS_TO: f64 = 60.0;
/// Clamps are doubled from this bore on, in.
const TWO_CLAMPS_IN: f64 = 1.3;

/// A joint that the catalogue has no fitting for.
#[derive(Debug, Clone, PartialEq)]
pub struct Unmade {
    /// Where: the id of a node, leg or valve on the plan.
    pub at: String,
    /// What would be wanted, for people.
    pub wanted: String,
}

/// Joints that want something to seal them.
#[derive(Debug, Clone, Default)]
pub(super) struct Seals {
    /// Glued ends by nominal size.
    pub glued: Vec<(String, u32)>,
    /// Threads that are taped.
    pub taped: u32,
}

impl Seals {
    fn glue(&mut self, size: &str, ends: u32) {
        match self.glued.iter_mut().find(|g| g.0 == size) {
            Some(known) => known.1 += ends,
            None => self.glued.push((size.to_owned(), ends)),
        }
    }
}

/// Puts fittings into the tally.
pub(super) struct Fitter<'a> {
    pub job: &'a Job,
    pub tally: &'a mut Tally,
    pub seals: Seals,
    pub unmade: Vec<Unmade>,
}

/// A pipe's end at a node.
struct End<'n> {
    pipe: &'n PipeId,
    /// Its nominal size, in the system that it is joined in.
    size: String,
    system: FittingSystem,
    inside: Length,
    away: Option<Point>,
    bow: bool,
}

impl Fitter<'_> {
    fn catalogue(&self) -> &Catalogue {
        self.job.catalogue()
    }

    /// A fitting, if it is made; else that it is not is noted.
    fn fitting(
        &mut self,
        (system, form): (FittingSystem, FittingForm),
        size: &str,
        smaller: Option<&str>,
        thread: Option<&str>,
        (n, reason, from): (f64, Reason, &str),
    ) -> bool {
        let row = self.catalogue().fitting(system, form, size, thread);
        let Some(label) = row.map(|r| r.label.clone()) else {
            let mut wanted = format!("{} {} {}", system.word(), form.word(), size_for_people(size));
            if let Some(thread) = thread {
                wanted += &format!(", thread {}", size_for_people(thread));
            }
            self.unmade.push(Unmade { at: from.to_owned(), wanted });
            return false;
        };
        let mut part = format!("{}-{}-{size}", system.word(), form.word());
        let mut sizes = size_for_people(size);
        for (word, more) in [(" to ", smaller), (" × ", thread)] {
            if let Some(more) = more {
                part += &format!("-{more}");
                sizes += word;
                sizes += &size_for_people(more);
            }
        }
        let kind = match form {
            FittingForm::BallValve => LineKind::Valve,
            _ => LineKind::Fitting,
        };
        self.tally.each(Named::new(kind, part, label).sized(sizes), n, reason, from);
        self.seals.taped += u32::from(thread.is_some()) * n as u32;
        let ends = form.pipe_ends() * n as u32;
        match system {
            FittingSystem::Glued => self.seals.glue(size, ends),
            FittingSystem::Insert => self.clamps(size, ends, from),
            FittingSystem::Threaded => self.seals.taped += ends,
            FittingSystem::Compression | FittingSystem::Soldered | FittingSystem::Drip => {}
        }
        true
    }

    fn clamps(&mut self, size: &str, ends: u32, from: &str) {
        let id = PipeId { material: "pe-sidr-15".into(), size: size.to_owned() };
        let wide = self.catalogue().pipe(&id).is_some_and(|p| p.inside.inches() > TWO_CLAMPS_IN);
        let each = if wide { 2 } else { 1 };
        let clamp =
            Named::new(LineKind::Fitting, format!("clamp-{size}"), "Clamp").sized(size_for_people(size));
        self.tally.each(clamp, f64::from(ends * each), Reason::Barbs, from);
    }

    /// All fittings of a graph of pipe.
    pub fn net(&mut self, net: &Net) {
        let mut ends: Vec<Vec<End<'_>>> = net.nodes.iter().map(|_| Vec::new()).collect();
        for leg in &net.legs {
            for (node, end) in self.ends_of(leg) {
                ends[node].push(end);
            }
        }
        for (what, ends) in net.nodes.iter().zip(ends) {
            self.node(&what.id, &what.spot, ends);
        }
        for leg in &net.legs {
            self.along(leg);
        }
    }

    /// Both ends of a leg, each with its node; none of pipe that the catalogue does not know.
    fn ends_of<'n>(&self, leg: &'n NetLeg) -> Vec<(usize, End<'n>)> {
        let system = FittingSystem::of_material(&leg.pipe.material);
        let (Some(system), Some(pipe)) = (system, self.catalogue().pipe(&leg.pipe)) else {
            return Vec::new();
        };
        let end = |away: Option<Point>| End {
            pipe: &leg.pipe,
            size: leg.pipe.size.clone(),
            system,
            inside: pipe.inside,
            away,
            bow: leg.bow,
        };
        vec![(leg.ends.0, end(leg.away[0])), (leg.ends.1, end(leg.away[1]))]
    }

    /// Elbows where a leg turns, couplings where it is longer than a stick.
    fn along(&mut self, leg: &NetLeg) {
        let Some(system) = FittingSystem::of_material(&leg.pipe.material) else {
            return;
        };
        let size = leg.pipe.size.clone();
        for turn in &leg.turns {
            if let Some(form) = elbow(system, *turn) {
                // A turn by more than a right angle takes two.
                let n = if *turn > 112.5 { 2.0 } else { 1.0 };
                self.fitting((system, form), &size, None, None, (n, Reason::Turn, &leg.id));
            }
        }
        let sold = self.catalogue().pipe(&leg.pipe).map(|p| p.sold);
        if sold == Some(Sold::Stick) {
            let joins: f64 = leg.straight.iter().map(|s| couplings(*s)).sum();
            if joins > 0.0 {
                let why = (joins, Reason::LongLeg, leg.id.as_str());
                self.fitting((system, FittingForm::Coupling), &size, None, None, why);
            }
        }
    }

    fn node(&mut self, id: &str, spot: &Spot, mut ends: Vec<End<'_>>) {
        if ends.is_empty() {
            return;
        }
        ends.sort_by(|a, b| b.inside.m().total_cmp(&a.inside.m()));
        self.one_system(id, &mut ends);
        match spot {
            Spot::Head(Some(thread)) => self.outlet(id, &ends, thread, Reason::HeadOnTheWay),
            Spot::Drain => {
                self.outlet(id, &ends, "1/2in", Reason::Drain);
                let valve =
                    Named::new(LineKind::Valve, "drain-1/2in", "Automatic drain valve").sized("1/2 in");
                self.tally.each(valve, 1.0, Reason::Drain, id);
                self.seals.taped += 1;
            }
            Spot::Connection => {
                self.meet(id, &ends, ends.len() + 1);
                self.thread_to_pipe(id, &ends[0].pipe.clone(), None);
            }
            Spot::Inlet(valve) | Spot::Outlet(valve) => {
                self.meet(id, &ends, ends.len() + 1);
                let inlet = matches!(spot, Spot::Inlet(_));
                self.valve_end(valve, &ends[0].pipe.clone(), inlet);
            }
            Spot::Box(valves) => {
                self.meet(id, &ends, ends.len() + valves.len());
                let pipe = ends[0].pipe.clone();
                for valve in valves {
                    self.valve_end(valve, &pipe, true);
                }
                let system = ends[0].system;
                if valves.len() > 1
                    && self.catalogue().fitting(system, FittingForm::Union, &pipe.size, None).is_some()
                {
                    let why = (1.0, Reason::Manifold, id);
                    self.fitting((system, FittingForm::Union), &pipe.size, None, None, why);
                }
            }
            Spot::Isolation => self.isolation(id, &ends),
            Spot::Flush | Spot::Air => {
                self.meet(id, &ends, ends.len() + 1);
                let (part, label, reason) = match (spot, ends[0].system) {
                    (Spot::Air, _) => ("air-relief", "Air relief", Reason::Air),
                    (_, FittingSystem::Drip) => ("flush-valve", "Flush valve", Reason::Flush),
                    _ => ("flush-plug", "Flush plug", Reason::Flush),
                };
                let size = ends[0].size.clone();
                let named = Named::new(LineKind::Drip, format!("{part}-{size}"), label);
                self.tally.each(named.sized(size_for_people(&size)), 1.0, reason, id);
            }
            Spot::Head(None) | Spot::Stub | Spot::Plain => self.meet(id, &ends, ends.len()),
        }
    }

    /// Ends of other systems are brought over by a pair of threads; they then count as ends of the first's
    /// system.
    fn one_system(&mut self, id: &str, ends: &mut [End<'_>]) {
        let own = ends[0].system;
        let ends_material = ends[0].pipe.material.clone();
        for end in ends.iter_mut().filter(|e| e.system != own) {
            let thread = thread_of(&end.pipe.size).to_owned();
            let size = size_with_thread(own, &thread);
            let why = (1.0, Reason::SystemsMeet, id);
            let (other, other_size) = (end.system, end.pipe.size.clone());
            if own != FittingSystem::Threaded {
                self.fitting((own, FittingForm::FemaleAdapter), &size, None, Some(&thread), why);
            }
            if other != FittingSystem::Threaded {
                self.fitting((other, FittingForm::MaleAdapter), &other_size, None, Some(&thread), why);
            }
            // From here on it is pipe of the adapter's size.
            end.system = own;
            end.inside = self.bore(&ends_material, &size).unwrap_or(end.inside);
            end.size = size;
        }
    }

    /// Pipes that meet: `count` ends in all, those that are no pipe with them.
    fn meet(&mut self, id: &str, ends: &[End<'_>], count: usize) {
        let (system, size) = (ends[0].system, ends[0].size.clone());
        let why = |reason| (1.0, reason, id);
        match count {
            0 => {}
            1 => {
                self.fitting((system, FittingForm::Cap), &size, None, None, why(Reason::ClosedEnd));
            }
            2 if ends.len() == 2 => self.two(id, &ends[0], &ends[1]),
            2 => {}
            4 if self.catalogue().fitting(system, FittingForm::Cross, &size, None).is_some()
                && ends.len() == 4 =>
            {
                self.fitting((system, FittingForm::Cross), &size, None, None, why(Reason::Crossing));
                self.reduce(id, ends);
            }
            more => {
                let tees = ((more - 2) as f64, Reason::Branch, id);
                self.fitting((system, FittingForm::Tee), &size, None, None, tees);
                self.reduce(id, ends);
            }
        }
    }

    /// A bush or reducing coupling for every end that is smaller than the largest.
    fn reduce(&mut self, id: &str, ends: &[End<'_>]) {
        let (system, size) = (ends[0].system, ends[0].size.clone());
        for end in &ends[1..] {
            if end.inside.m() < ends[0].inside.m() - 1e-6 && end.size != size {
                let smaller = end.size.clone();
                let why = (1.0, Reason::SizeEnds, id);
                self.fitting((system, FittingForm::Reducer), &size, Some(&smaller), None, why);
            }
        }
    }

    /// Two pipes, one end to the other.
    fn two(&mut self, id: &str, a: &End<'_>, b: &End<'_>) {
        let (system, size) = (a.system, a.size.clone());
        let turn = match (a.away, b.away) {
            (Some(a), Some(b)) => turn_between(a, b * -1.0),
            _ => 0.0,
        };
        let bow = a.bow || b.bow;
        let same = a.size == b.size;
        match elbow(system, turn).filter(|_| !bow) {
            Some(form) => {
                self.fitting((system, form), &size, None, None, (1.0, Reason::Turn, id));
            }
            // Pipe that comes in coils goes on through.
            None if same && system.bends() => {}
            None if same || system == FittingSystem::Glued || system == FittingSystem::Threaded => {
                let reason = if same { Reason::InLine } else { Reason::SizeEnds };
                self.fitting((system, FittingForm::Coupling), &size, None, None, (1.0, reason, id));
            }
            None => {}
        }
        if !same {
            let smaller = b.size.clone();
            let why = (1.0, Reason::SizeEnds, id);
            self.fitting((system, FittingForm::Reducer), &size, Some(&smaller), None, why);
        }
    }

    /// Pipes that meet at a threaded outlet.
    fn outlet(&mut self, id: &str, ends: &[End<'_>], thread: &str, reason: Reason) {
        let (system, size) = (ends[0].system, ends[0].size.clone());
        if system == FittingSystem::Threaded {
            // Steel has a thread everywhere: a plain tee or elbow, and a bush to the outlet's size.
            self.meet(id, ends, (ends.len() + 1).max(3));
            if thread != thread_of(&size) {
                let why = (1.0, Reason::SizeEnds, id);
                self.fitting((system, FittingForm::Reducer), &size, Some(thread), None, why);
            }
            return;
        }
        let (form, reason) = match (ends.len(), reason) {
            (1, Reason::HeadOnTheWay) => (FittingForm::ElbowThreaded, Reason::LastHead),
            (1, reason) => (FittingForm::ElbowThreaded, reason),
            (_, reason) => (FittingForm::TeeThreaded, reason),
        };
        let made = self.catalogue().fitting(system, form, &size, Some(thread)).is_some();
        if made {
            self.fitting((system, form), &size, None, Some(thread), (1.0, reason, id));
        } else {
            // A plain one with an adapter of the thread's size behind it.
            let plain = if ends.len() == 1 { FittingForm::Elbow90 } else { FittingForm::Tee };
            let of = size_with_thread(system, thread);
            self.fitting((system, plain), &size, None, None, (1.0, reason, id));
            if of != size {
                let why = (1.0, Reason::SizeEnds, id);
                self.fitting((system, FittingForm::Reducer), &size, Some(&of), None, why);
            }
            let why = (1.0, Reason::ThreadToPipe, id);
            self.fitting((system, FittingForm::FemaleAdapter), &of, None, Some(thread), why);
        }
        if ends.len() > 2 {
            let tees = ((ends.len() - 2) as f64, Reason::Branch, id);
            self.fitting((system, FittingForm::Tee), &size, None, None, tees);
        }
        if ends.len() == 2
            && let (Some(a), Some(b)) = (ends[0].away, ends[1].away)
            && let Some(form) = elbow(system, turn_between(a, b * -1.0))
        {
            self.fitting((system, form), &size, None, None, (1.0, Reason::Turn, id));
        }
        self.reduce(id, ends);
    }

    fn isolation(&mut self, id: &str, ends: &[End<'_>]) {
        let (system, size) = (ends[0].system, ends[0].size.clone());
        self.meet(id, ends, ends.len().max(2) + usize::from(ends.len() > 2));
        let valve = FittingForm::BallValve;
        if self.catalogue().fitting(system, valve, &size, None).is_some() {
            self.fitting((system, valve), &size, None, None, (1.0, Reason::Isolation, id));
            return;
        }
        let thread = thread_of(&size).to_owned();
        let named = Named::new(LineKind::Valve, format!("ball-valve-{thread}"), "Ball valve");
        self.tally.each(named.sized(size_for_people(&thread)), 1.0, Reason::Isolation, id);
        if system != FittingSystem::Threaded {
            let why = (2.0, Reason::ThreadToPipe, id);
            self.fitting((system, FittingForm::MaleAdapter), &size, None, Some(&thread), why);
        }
    }

    /// A pipe that begins at a thread: the adapter, and a bush where the sizes differ. `thread`: the part's,
    /// with its side; none: of the pipe's own size, inside.
    pub fn thread_to_pipe(&mut self, id: &str, pipe: &PipeId, thread: Option<(&str, bool)>) {
        let Some(system) = FittingSystem::of_material(&pipe.material) else {
            return;
        };
        let own = thread_of(&pipe.size).to_owned();
        let (thread, male) = thread.map_or((own.clone(), false), |(t, m)| (t.to_owned(), m));
        let why = (1.0, Reason::ThreadToPipe, id);
        if system == FittingSystem::Threaded {
            if thread != own {
                self.fitting(
                    (system, FittingForm::Reducer),
                    larger(&own, &thread),
                    Some(smaller(&own, &thread)),
                    None,
                    why,
                );
            }
            return;
        }
        let form = if male { FittingForm::FemaleAdapter } else { FittingForm::MaleAdapter };
        if self.catalogue().fitting(system, form, &pipe.size, Some(&thread)).is_some() {
            self.fitting((system, form), &pipe.size, None, Some(&thread), why);
            return;
        }
        // The adapter of the thread's size, and pipe of that size brought to this one.
        let of = size_with_thread(system, &thread);
        self.fitting((system, form), &of, None, Some(&thread), why);
        let wide = self.wider(&pipe.material, &of, &pipe.size);
        let (big, small) =
            if wide { (of.clone(), pipe.size.clone()) } else { (pipe.size.clone(), of.clone()) };
        let why = (1.0, Reason::SizeEnds, id);
        // A bush goes straight into the adapter's socket; pipe that is wider wants a coupling for it.
        if system == FittingSystem::Glued && !wide {
            self.fitting((system, FittingForm::Coupling), &big, None, None, why);
        }
        self.fitting((system, FittingForm::Reducer), &big, Some(&small), None, why);
    }

    /// The bore of a pipe of this material and size.
    fn bore(&self, material: &str, size: &str) -> Option<Length> {
        let id = PipeId { material: material.to_owned(), size: size.to_owned() };
        self.catalogue().pipe(&id).map(|p| p.inside)
    }

    fn wider(&self, material: &str, a: &str, b: &str) -> bool {
        let of = |size: &str| self.bore(material, size).map_or_else(|| inches(size), Length::inches);
        of(a) > of(b)
    }

    /// Main at the first inlet of a valve's parts, or lateral at their last outlet.
    fn valve_end(&mut self, valve: &str, pipe: &PipeId, inlet: bool) {
        let Some(valve) = self.job.valve(valve) else {
            return;
        };
        let train = crate::assembly::Train::of(self.catalogue(), valve);
        let end = if inlet {
            train.members.first().and_then(|m| m.inlet.clone())
        } else {
            let with_ends = train.members.iter().rev().find(|m| m.outlet.is_some());
            with_ends.and_then(|m| m.outlet.clone())
        };
        self.join_end(&valve.id, end.as_ref(), pipe);
    }

    /// Pipe at the end of a part, whatever that is.
    pub fn join_end(&mut self, id: &str, end: Option<&PartEnd>, pipe: &PipeId) {
        match end {
            Some(PartEnd::Thread { size, male }) => self.thread_to_pipe(id, pipe, Some((size, *male))),
            Some(PartEnd::Tube(outside)) => {
                let known = self.catalogue().pipe(pipe).and_then(|p| p.outside.clone());
                match known {
                    Some(known) if known == *outside => {}
                    Some(known) => self.between(id, &PartEnd::Tube(outside.clone()), &PartEnd::Tube(known)),
                    None => self.unmade.push(Unmade {
                        at: id.to_owned(),
                        wanted: format!("fitting from tubing {outside} to {pipe}"),
                    }),
                }
            }
            Some(PartEnd::Slip { size, .. })
                if FittingSystem::of_material(&pipe.material) == Some(FittingSystem::Glued) =>
            {
                if *size != pipe.size {
                    let (big, small) = (larger(size, &pipe.size), smaller(size, &pipe.size));
                    let why = (1.0, Reason::SizeEnds, id);
                    self.fitting((FittingSystem::Glued, FittingForm::Reducer), big, Some(small), None, why);
                }
            }
            Some(PartEnd::Hose { .. } | PartEnd::Slip { .. }) => self.unmade.push(Unmade {
                at: id.to_owned(),
                wanted: format!(
                    "fitting from {} to {pipe}",
                    end.map(ToString::to_string).unwrap_or_default()
                ),
            }),
            None => self.thread_to_pipe(id, pipe, None),
        }
    }

    /// What brings two parts together whose ends do not fit: the shortest chain of the catalogue.
    pub fn between(&mut self, id: &str, outlet: &PartEnd, inlet: &PartEnd) {
        let Some(chain) = crate::assembly::chain_between(self.catalogue(), outlet, inlet) else {
            self.unmade
                .push(Unmade { at: id.to_owned(), wanted: format!("fittings from {outlet} to {inlet}") });
            return;
        };
        for joined in &chain {
            self.seals.taped += u32::from(joined.seal == crate::catalogue::Seal::Tape);
            if let Some(part) = &joined.part {
                let named = Named::new(LineKind::Fitting, part.clone(), joined.label.clone());
                self.tally.add(named, Unit::Each, 1.0, How::Each(Reason::EndsApart), &[id.to_owned()]);
            }
        }
    }
}

/// The elbow for a turn; none: the pipe is laid round it.
fn elbow(system: FittingSystem, turn: f64) -> Option<FittingForm> {
    if system.bends() {
        return (turn > BENDS_TO).then_some(FittingForm::Elbow90);
    }
    match turn {
        t if t <= STRAIGHT => None,
        t if t <= HALF_TURN => Some(FittingForm::Elbow45),
        _ => Some(FittingForm::Elbow90),
    }
}

/// A coupling for every stick beyond the first of a straight leg.
fn couplings(straight: Length) -> f64 {
    ((straight.ft() / STICK_FT - 1e-6).ceil() - 1.0).max(0.0)
}

/// The size of a system's pipe that goes with a thread.
fn size_with_thread(system: FittingSystem, thread: &str) -> String {
    if system != FittingSystem::Compression {
        return thread.to_owned();
    }
    let all = ["20mm", "25mm", "32mm", "40mm", "50mm", "63mm"];
    all.into_iter().find(|s| thread_of(s) == thread).unwrap_or(thread).to_owned()
}

fn inches(size: &str) -> f64 {
    let text = size.trim_end_matches("in");
    text.split('-')
        .map(|part| match part.split_once('/') {
            Some((a, b)) => a.parse::<f64>().unwrap_or(0.0) / b.parse::<f64>().unwrap_or(1.0),
            None => part.parse().unwrap_or(0.0),
        })
        .sum()
}

fn larger<'s>(a: &'s str, b: &'s str) -> &'s str {
    if inches(a) >= inches(b) { a } else { b }
}

fn smaller<'s>(a: &'s str, b: &'s str) -> &'s str {
    if inches(a) >= inches(b) { b } else { a }
}
