use super::train::{Member, Train};
use crate::catalogue::{PartEnd, PartRole, Seal};
use crate::plan::{Assembly, AssemblyPlace};
use crate::units::{Flow, Length, Pressure};

/// Parts that hang at a hose bib without support, at most; and how long they are together.
const UNSUPPORTED: (usize, f64) = (4, 18.0);
/// A vacuum breaker stands so much over the highest outlet, in.
const OVER_OUTLETS_IN: f64 = 6.0;

/// What is known about an assembly's surroundings.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Around {
    /// The highest static where it begins.
    pub at_rest: Pressure,
    /// What it carries.
    pub flow: Flow,
    /// How high the highest outlet stands over the valve; none: not known.
    pub top: Option<Length>,
    /// What a regulator needs at its inlet over its set point.
    pub room: Pressure,
}

/// What is wrong with a part where it stands.
#[derive(Debug, Clone, PartialEq)]
pub enum AssemblyFault {
    /// The filter stands behind the regulator.
    FilterBehindRegulator,
    /// A valve stands behind a vacuum breaker that must not be shut off.
    ValveAfterBreaker,
    /// Nothing at a hose bib keeps water from being sucked back.
    NoBreaker,
    /// The breaker stands too low.
    BreakerLow {
        /// As it stands.
        stands: Length,
        /// As it must.
        wanted: Length,
    },
    /// It points against the flow.
    Reversed,
    /// The end before it and its own do not fit.
    EndsApart {
        /// The outlet before it.
        outlet: PartEnd,
        /// Its inlet.
        inlet: PartEnd,
    },
    /// Tubes of different diameter.
    Diameters {
        /// The tube before it.
        before: String,
        /// Its own.
        own: String,
    },
    /// No room beside it to open it.
    NoRoomToOpen {
        /// What it wants.
        wanted: Length,
        /// What there is.
        there: Length,
    },
    /// All parts together are longer than the room.
    TooLong {
        /// All of them.
        length: Length,
        /// What there is.
        room: Length,
    },
    /// Its flow band does not hold the zone's flow.
    OutsideBand {
        /// Least.
        least: Option<Flow>,
        /// Greatest.
        most: Option<Flow>,
        /// What it carries.
        flow: Flow,
    },
    /// A regulator whose inlet has no room over its set point, the static standing before it.
    NoPressureRoom {
        /// What stands before it.
        inlet: Pressure,
        /// What it wants.
        wanted: Pressure,
    },
    /// More stands there than it bears.
    OverRating {
        /// What stands there.
        stands: Pressure,
        /// What it bears.
        rating: Pressure,
    },
    /// Its weight hangs on the tap.
    NoSupport {
        /// Parts.
        parts: usize,
        /// All of them together.
        length: Length,
    },
    /// Tape on a joint that a washer seals.
    TapeOnWasher,
    /// Cement where tube or thread is joined.
    Glued,
    /// A thread without tape.
    NoTape,
    /// The tap comes first, and nothing before it.
    NotFirst,
}

/// A fault at its part.
#[derive(Debug, Clone, PartialEq)]
pub struct Fault {
    /// Place among the train's members.
    pub at: usize,
    /// What it is.
    pub fault: AssemblyFault,
}

/// What is wrong with an assembly, in the direction of flow.
///
/// # Source
/// Order, joints and ratings as practised (filter before regulator, nothing that shuts behind an atmospheric
/// breaker, washers without tape); the local code decides.
pub fn faults(train: &Train, assembly: &Assembly, around: &Around) -> Vec<Fault> {
    let mut check = Checking { train, assembly, around, found: Vec::new() };
    check.order();
    check.joints();
    check.pressures();
    check.place();
    check.found.sort_by_key(|f| f.at);
    check.found
}

struct Checking<'a> {
    train: &'a Train,
    assembly: &'a Assembly,
    around: &'a Around,
    found: Vec<Fault>,
}

impl Checking<'_> {
    fn members(&self) -> &[Member] {
        &self.train.members
    }
    fn say(&mut self, at: usize, fault: AssemblyFault) {
        self.found.push(Fault { at, fault });
    }
    fn first(&self, wanted: impl Fn(&Member) -> bool) -> Option<usize> {
        self.members().iter().position(wanted)
    }

    fn order(&mut self) {
        let all = self.members().to_vec();
        // An atmospheric breaker: of its own, or in an anti-siphon valve.
        let breaker = self.first(|m| matches!(m.role, PartRole::Breaker | PartRole::AntiSiphon));
        for (i, m) in all.iter().enumerate() {
            if m.reversed {
                self.say(i, AssemblyFault::Reversed);
            }
            let before = |role| all[..i].iter().any(|o| o.role == role);
            if m.role == PartRole::Filter && before(PartRole::Regulator) {
                self.say(i, AssemblyFault::FilterBehindRegulator);
            }
            let shuts = matches!(
                m.role,
                PartRole::Valve
                    | PartRole::Timer
                    | PartRole::AntiSiphon
                    | PartRole::Isolation
                    | PartRole::Splitter
            );
            if shuts && breaker.is_some_and(|b| b < i) {
                self.say(i, AssemblyFault::ValveAfterBreaker);
            }
            if m.role == PartRole::Source && i > 0 {
                self.say(i, AssemblyFault::NotFirst);
            }
        }
        let tap = self.train.stands == AssemblyPlace::Tap;
        if tap && breaker.is_none() {
            let at = self.first(|m| m.role == PartRole::Timer).unwrap_or(0);
            self.say(at, AssemblyFault::NoBreaker);
        }
        if let (Some(at), Some(top), Some(stands)) = (breaker, self.around.top, self.assembly.height) {
            let wanted = (top + Length::from_in(OVER_OUTLETS_IN)).max(Length::from_in(OVER_OUTLETS_IN));
            if stands.m() < wanted.m() - 1e-6 {
                self.say(at, AssemblyFault::BreakerLow { stands, wanted });
            }
        }
    }

    fn joints(&mut self) {
        let all = self.members().to_vec();
        let mut tube: Option<String> = None;
        for i in 0..all.len() {
            let (before, m) = (i.checked_sub(1).map(|b| &all[b]), &all[i]);
            // What hangs at the ends of tubes is joined to the tube that was laid.
            let outlet = match (m.role, before) {
                (PartRole::End, _) => tube.clone().map(PartEnd::Tube),
                (_, Some(before)) => before.outlet.clone(),
                (_, None) => None,
            };
            if let Some(PartEnd::Tube(size)) = &m.outlet {
                tube = Some(size.clone());
            }
            let (Some(outlet), Some(inlet)) = (outlet, m.inlet.clone()) else {
                continue;
            };
            let fits = outlet.seal_to(&inlet);
            match (fits, m.sealed) {
                (None, _) => match (outlet, inlet) {
                    (PartEnd::Tube(before), PartEnd::Tube(own)) => {
                        self.say(i, AssemblyFault::Diameters { before, own });
                    }
                    (outlet, inlet) => self.say(i, AssemblyFault::EndsApart { outlet, inlet }),
                },
                (Some(Seal::Washer), Some(Seal::Tape)) => self.say(i, AssemblyFault::TapeOnWasher),
                (Some(Seal::Tape), Some(Seal::Washer | Seal::Nothing)) => self.say(i, AssemblyFault::NoTape),
                (Some(seal), Some(Seal::Cement)) if seal != Seal::Cement => self.say(i, AssemblyFault::Glued),
                _ => {}
            }
        }
    }

    /// With the water standing: the static up to a regulator, its set point behind it.
    fn pressures(&mut self) {
        let mut stands = self.around.at_rest;
        let flow = self.around.flow;
        for i in 0..self.members().len() {
            let m = self.members()[i].clone();
            if stands > m.rating {
                self.say(i, AssemblyFault::OverRating { stands, rating: m.rating });
            }
            let (least, most) = m.band;
            let outside = least.is_some_and(|l| flow < l) || most.is_some_and(|x| flow > x);
            if flow > Flow::ZERO && outside {
                self.say(i, AssemblyFault::OutsideBand { least, most, flow });
            }
            if let Some(set) = m.set.filter(|_| !m.reversed) {
                let wanted = set + self.around.room;
                if stands < wanted {
                    self.say(i, AssemblyFault::NoPressureRoom { inlet: stands, wanted });
                }
                stands = stands.min(set);
            }
        }
    }

    fn place(&mut self) {
        let length: f64 = self.members().iter().map(|m| m.length.m()).sum();
        let length = Length::from_m(length);
        if let Some(room) = self.assembly.room {
            if length > room {
                self.say(self.members().len() - 1, AssemblyFault::TooLong { length, room });
            }
            for i in 0..self.members().len() {
                let wanted = self.members()[i].clear;
                // What is left beside the parts is what a bowl can be unscrewed into.
                if wanted > Length::ZERO && room - length < wanted && length <= room {
                    let there = room - length;
                    self.say(i, AssemblyFault::NoRoomToOpen { wanted, there });
                }
            }
        }
        let hanging = self.members().iter().filter(|m| m.role != PartRole::Source);
        let hanging = hanging.filter(|m| m.length > Length::ZERO).count();
        let heavy = hanging >= UNSUPPORTED.0 || length.inches() > UNSUPPORTED.1;
        if self.train.stands == AssemblyPlace::Tap && !self.assembly.supported && heavy {
            self.say(0, AssemblyFault::NoSupport { parts: hanging, length });
        }
    }
}
