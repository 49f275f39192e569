//! Assemblies in words: why a part stands there, how it is joined, what is wrong with it.

use crate::said::{Said, said};
use crate::working::Working;
use fenlo_core::assembly::{AssemblyFault, Start};
use fenlo_core::catalogue::{PartEnd, PartRole, Seal};
use fenlo_core::findings::Check;
use fenlo_core::plan::AssemblyPlace;
use fenlo_core::units::{Length, UnitSystem};

/// A usual assembly, for people.
pub fn start(start: Start) -> &'static str {
    match start {
        Start::Box => "Valve, filter and regulator in a valve box",
        Start::AntiSiphon => "Anti-siphon valve above ground",
        Start::FarBed => "Remote bed: filter and regulator at the bed",
        Start::HoseBib => "Hose bib timer",
        Start::Tank => "Rain tank and pump",
        Start::SubSurface => "Subsurface drip under lawn",
        Start::Riser => "On an existing sprinkler riser",
        Start::Cascade => "Two regulators in series",
        Start::StubUps => "Several beds, regulator at each riser",
        Start::RaisedBed => "Raised bed: drip tape on a removable manifold",
    }
}

/// Where an assembly stands.
pub fn stands(place: AssemblyPlace) -> &'static str {
    match place {
        AssemblyPlace::Box => "in a valve box",
        AssemblyPlace::Riser => "above ground",
        AssemblyPlace::Tap => "at a hose bib",
        AssemblyPlace::Tank => "at a tank",
    }
}

/// Why a part stands where it does.
pub fn part_why(role: PartRole, place: AssemblyPlace) -> &'static str {
    match role {
        PartRole::Source => "Source of the water.",
        PartRole::Valve => "Opens and closes the zone. Goes downstream of the backflow preventer.",
        PartRole::AntiSiphon => {
            "Opens and closes the zone and admits air when it closes, so nothing is siphoned back. Install \
                it above every outlet, with no valve downstream."
        }
        PartRole::Timer => "Battery timer that opens and closes the zone. Bring indoors before frost.",
        PartRole::Breaker => {
            "Admits air when the hose bib is closed, so nothing is siphoned back. Install after the last \
                valve and above every outlet."
        }
        PartRole::Isolation => "Manual shutoff for service.",
        PartRole::Splitter => "Leaves an outlet free for a hose.",
        PartRole::Arrester => "Absorbs water hammer when the timer valve closes fast.",
        PartRole::Cartridge => "Removes chlorine. Replace it after its rated gallons.",
        PartRole::Filter if matches!(place, AssemblyPlace::Tank) => {
            "Tank water is always dirty. Filter it, upstream of the regulator."
        }
        PartRole::Filter => {
            "Keeps fine grit out of the emitters. Install upstream of the regulator so grit does not lodge \
                in it."
        }
        PartRole::Regulator => {
            "Holds pressure below the rating of tubing and fittings, even with the ends closed and no flow."
        }
        PartRole::Pump => "Tank height gives too little pressure for the emitters.",
        PartRole::Run => "Rigid pipe from the valve to the bed. The parts below are installed at the bed.",
        PartRole::SwingJoint => "Sets the head to grade and flexes when stepped on.",
        PartRole::Joint => "Adapts ends that do not match.",
        PartRole::Transition => "Threaded adapter with a nut, so it can be undone. Never glue tubing.",
        PartRole::Header => "Feeds the rows from one end.",
        PartRole::Manifold => "Several outlets on one riser, each with an emitter or a plug.",
        PartRole::End => "At the row ends: air relief at the high point, flush at the low point.",
    }
}

/// How a joint is made.
pub fn seal(seal: Seal) -> &'static str {
    match seal {
        Seal::Tape => "thread tape, 4 to 5 turns in the direction of tightening; hand-tight plus a little",
        Seal::Washer => "washer seal, hand-tight, no thread tape",
        Seal::Nothing => "push-on or hand-tight nut; no thread tape, no cement",
        Seal::Cement => "primer and cement",
    }
}

/// An end, for people.
pub fn part_end(end: &PartEnd) -> String {
    let side = |male: &bool| if *male { "male" } else { "female" };
    match end {
        PartEnd::Thread { size, male } => format!("{} {} thread", size.replace("in", " in"), side(male)),
        PartEnd::Hose { male } => format!("hose thread {}", side(male)),
        PartEnd::Slip { size, .. } => format!("{} socket", size.replace("in", " in")),
        PartEnd::Tube(size) => format!("{} tube", size.replace("in", " in").replace("mm", " mm")),
    }
}

/// What is wrong with a part.
pub fn assembly_fault(fault: &AssemblyFault, u: UnitSystem) -> (String, String) {
    let over = |l: &Length| l.show_tape(u);
    let (title, text) = match fault {
        AssemblyFault::FilterBehindRegulator => (
            "Filter downstream of the regulator",
            "Grit can lodge in the regulator and hold it open. Move the filter upstream.".to_owned(),
        ),
        AssemblyFault::ValveAfterBreaker => (
            "Valve downstream of the vacuum breaker",
            "When that valve is closed the breaker stays under pressure and cannot open, so it does not \
                protect. Move every valve upstream of it."
                .to_owned(),
        ),
        AssemblyFault::NoBreaker => (
            "No backflow protection",
            "At a hose bib, fit a vacuum breaker after the timer and after every other outlet. Local code \
                says which type."
                .to_owned(),
        ),
        AssemblyFault::BreakerLow { stands, wanted } => (
            "Vacuum breaker too low",
            format!(
                "It is {} above ground and must be at least {}: 6 in (15 cm) above the highest outlet. \
                    Local code may ask for more.",
                over(stands),
                over(wanted)
            ),
        ),
        AssemblyFault::Reversed => {
            ("Installed backward", "Its arrow points against the flow. Turn it around.".to_owned())
        }
        AssemblyFault::EndsApart { outlet, inlet } => (
            "Ends do not match",
            format!(
                "Upstream end: {}. This part: {}. Add an adapter between them.",
                part_end(outlet),
                part_end(inlet)
            ),
        ),
        AssemblyFault::Diameters { before, own } => (
            "Tubing diameters do not match",
            format!("Upstream: {before}. This part: {own}. A drip fitting grips one diameter only."),
        ),
        AssemblyFault::NoRoomToOpen { wanted, there } => (
            "No room to service it",
            format!("The filter bowl needs {} of clearance; there is {}.", over(wanted), over(there)),
        ),
        AssemblyFault::TooLong { length, room } => (
            "Assembly too long",
            format!("The parts add up to {}; the space is {}.", over(length), over(room)),
        ),
        AssemblyFault::OutsideBand { least, most, flow } => (
            "Flow outside its range",
            format!(
                "Its range is {} to {}; the zone uses {}.",
                least.map_or("nothing".into(), |l| l.show(u)),
                most.map_or("any flow".into(), |m| m.show(u)),
                flow.show(u)
            ),
        ),
        AssemblyFault::NoPressureRoom { inlet, wanted } => (
            "Inlet pressure too low to regulate",
            format!("Inlet pressure is {}; it needs {}.", inlet.show(u), wanted.show(u)),
        ),
        AssemblyFault::OverRating { stands, rating } => (
            "Pressure above its rating",
            format!("Pressure with no flow is {}; rated {}.", stands.show(u), rating.show(u)),
        ),
        AssemblyFault::NoSupport { parts, length } => (
            "Hose bib carries the weight",
            format!("{parts} parts, {} long. Support them with a bracket, stake or block.", over(length)),
        ),
        AssemblyFault::TapeOnWasher => (
            "Thread tape on a washer seal",
            "Thread tape keeps the washer from sealing, so it leaks. Remove the tape.".to_owned(),
        ),
        AssemblyFault::Glued => (
            "Cement on the wrong joint",
            "Cement does not bond polyethylene tubing or threads. The joint lets go and cannot be serviced."
                .to_owned(),
        ),
        AssemblyFault::NoTape => (
            "Pipe thread without tape",
            "Tapered threads leak without tape. Use 4 to 5 turns in the direction of tightening.".to_owned(),
        ),
        AssemblyFault::NotFirst => {
            ("The source is not first", "The source must be the first part. Move it up.".to_owned())
        }
    };
    (title.to_owned(), text)
}

pub(crate) fn of_assembly(check: &Check, u: UnitSystem) -> Option<Said> {
    let Check::Assembly { part, fault } = check else {
        return None;
    };
    let (title, text) = assembly_fault(fault, u);
    let working = Working::new("each joint checked in the direction of flow", "practice; local code decides")
        .with("part", part.clone())
        .gives(title.clone());
    Some(said(title, format!("{part}: {text}"), working))
}
