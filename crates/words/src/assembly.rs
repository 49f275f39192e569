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
        Start::Box => "Valve, filter and regulator in a box",
        Start::AntiSiphon => "Anti-siphon valve above ground",
        Start::FarBed => "Far bed: filter and regulator there",
        Start::HoseBib => "Hose bib with a timer",
        Start::Tank => "Rain tank with a pump",
        Start::SubSurface => "Lawn watered below ground",
        Start::Riser => "On the riser of an old sprinkler",
        Start::Cascade => "Two regulators, one after the other",
        Start::StubUps => "Several beds, regulated where they come up",
        Start::RaisedBed => "Tape in a raised bed, on a manifold that lifts off",
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
        PartRole::Source => "Here the water comes from.",
        PartRole::Valve => "Opens and shuts the zone; behind the device that protects the drinking water.",
        PartRole::AntiSiphon => {
            "Opens and shuts the zone and lets air in when it shuts, so nothing is sucked back: above every \
                outlet, \
             and no valve behind it."
        }
        PartRole::Timer => "Opens and shuts the zone on its battery; indoors before it freezes.",
        PartRole::Breaker => {
            "Lets air in when the tap is shut, so nothing is sucked back: behind the last valve, above \
                every outlet."
        }
        PartRole::Isolation => "Shuts by hand, so that the rest can be taken apart.",
        PartRole::Splitter => "Keeps an outlet for the hose.",
        PartRole::Arrester => "Takes the knock when the timer's valve shuts fast on the pipes of a house.",
        PartRole::Cartridge => "Takes chlorine out where soil life matters; it has a life in gallons.",
        PartRole::Filter if matches!(place, AssemblyPlace::Tank) => {
            "A tank's water is never clean: more than ever, and before the regulator."
        }
        PartRole::Filter => {
            "Emitters clog from what no eye sees; before the regulator, so that grit does not sit in it."
        }
        PartRole::Regulator => {
            "Holds what tube and fittings bear, also when an end is closed and nothing flows."
        }
        PartRole::Pump => "Height alone gives next to nothing: the emitters want more.",
        PartRole::Run => "Hard pipe from the valve; what follows stands at the bed.",
        PartRole::SwingJoint => "Can be turned to height and gives when it is stepped on.",
        PartRole::Joint => "Joins ends that do not fit by themselves.",
        PartRole::Transition => "From thread to tube with a nut: it can be undone. Tube is never glued.",
        PartRole::Header => "Feeds the rows from one side.",
        PartRole::Manifold => "Several outlets on one riser, each with its own emitter or a plug.",
        PartRole::End => "At the ends of the rows: air in at the top, silt out at the bottom.",
    }
}

/// How a joint is made.
pub fn seal(seal: Seal) -> &'static str {
    match seal {
        Seal::Tape => "tape, 4 to 5 turns with the thread; by hand and a little",
        Seal::Washer => "its washer, by hand; no tape",
        Seal::Nothing => "pushed on or nut by hand; no tape, no cement",
        Seal::Cement => "primer and cement",
    }
}

/// An end, for people.
pub fn part_end(end: &PartEnd) -> String {
    let side = |male: &bool| if *male { "outside" } else { "inside" };
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
            "Filter behind the regulator",
            "Grit then sits in the regulator and holds it open. The filter comes first.".to_owned(),
        ),
        AssemblyFault::ValveAfterBreaker => (
            "A valve behind the vacuum breaker",
            "Shut, it keeps the breaker under pressure and it no longer opens: it protects nothing. Every \
                valve comes \
             before it."
                .to_owned(),
        ),
        AssemblyFault::NoBreaker => (
            "Nothing keeps water from being sucked back",
            "At a tap a vacuum breaker stands behind the timer, and one behind every other outlet. The \
                local code says \
             which."
                .to_owned(),
        ),
        AssemblyFault::BreakerLow { stands, wanted } => (
            "Vacuum breaker too low",
            format!(
                "It stands {} over the ground; 6 in (15 cm) over the highest outlet are {}. The local code \
                    may ask for \
                 more.",
                over(stands),
                over(wanted)
            ),
        ),
        AssemblyFault::Reversed => (
            "Against the flow",
            "Its arrow points back: turn it round.".to_owned(),
        ),
        AssemblyFault::EndsApart { outlet, inlet } => (
            "Ends that do not fit",
            format!(
                "{} before it, {} of its own: a fitting is missing between.",
                part_end(outlet),
                part_end(inlet)
            ),
        ),
        AssemblyFault::Diameters { before, own } => (
            "Tubes of different diameter",
            format!("{before} before it, {own} of its own: fittings hold on one diameter only."),
        ),
        AssemblyFault::NoRoomToOpen { wanted, there } => (
            "No room to open it",
            format!(
                "Its bowl wants {} to come off; {} are left.",
                over(wanted),
                over(there)
            ),
        ),
        AssemblyFault::TooLong { length, room } => (
            "Longer than the room",
            format!(
                "All parts together are {} long; there are {}.",
                over(length),
                over(room)
            ),
        ),
        AssemblyFault::OutsideBand { least, most, flow } => (
            "Outside its flow",
            format!(
                "It is made for {} to {}; the zone takes {}.",
                least.map_or("nothing".into(), |l| l.show(u)),
                most.map_or("any flow".into(), |m| m.show(u)),
                flow.show(u)
            ),
        ),
        AssemblyFault::NoPressureRoom { inlet, wanted } => (
            "No room to regulate",
            format!("{} stand before it; it wants {}.", inlet.show(u), wanted.show(u)),
        ),
        AssemblyFault::OverRating { stands, rating } => (
            "More than it bears",
            format!(
                "{} stand there with the water shut; it bears {}.",
                stands.show(u),
                rating.show(u)
            ),
        ),
        AssemblyFault::NoSupport { parts, length } => (
            "Its weight hangs on the tap",
            format!(
                "{parts} parts, {} long: prop them up with a bracket, a stake or a block.",
                over(length)
            ),
        ),
        AssemblyFault::TapeOnWasher => (
            "Tape where a washer seals",
            "Tape keeps the washer from closing: it drips. Take it off.".to_owned(),
        ),
        AssemblyFault::Glued => (
            "Cement where none belongs",
            "Cement dissolves neither tube nor thread: it lets go, and nothing comes apart again.".to_owned(),
        ),
        AssemblyFault::NoTape => (
            "A thread without tape",
            "Tapered threads leak without tape: 4 to 5 turns in the direction of tightening.".to_owned(),
        ),
        AssemblyFault::NotFirst => (
            "The source is not first",
            "Water comes from it: it begins the \
            row."
                .to_owned(),
        ),
    };
    (title.to_owned(), text)
}

pub(crate) fn of_assembly(check: &Check, u: UnitSystem) -> Option<Said> {
    let Check::Assembly { part, fault } = check else {
        return None;
    };
    let (title, text) = assembly_fault(fault, u);
    let working = Working::new(
        "the parts in the direction of flow, joint by joint",
        "practice; the local code decides",
    )
    .with("part", part.clone())
    .gives(title.clone());
    Some(said(title, format!("{part}: {text}"), working))
}
