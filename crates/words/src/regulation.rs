use fenlo_core::plan::Regulation;
use fenlo_core::regulation::{OptionNote, Way, Why};
use fenlo_core::units::UnitSystem;

/// A way to regulate, as a heading.
pub fn way(way: Way, u: UnitSystem) -> String {
    match way {
        Way::AsIs(Regulation::None) => "Leave as is".into(),
        Way::Fit(Regulation::None) => "No regulator".into(),
        Way::AsIs(Regulation::Valve { set }) | Way::Fit(Regulation::Valve { set }) => {
            format!("On the valve, set {}", set.show_round(u))
        }
        Way::AsIs(Regulation::Inline { set }) | Way::Fit(Regulation::Inline { set }) => {
            format!("Behind the valve, preset {}", set.show_round(u))
        }
        Way::AsIs(Regulation::Body { set }) | Way::Fit(Regulation::Body { set }) => {
            format!("In the bodies, {}", set.show_round(u))
        }
        Way::System(set) => format!("At the connection, set {}", set.show_round(u)),
    }
}

/// What a way does elsewhere, or can't do here.
pub fn note(note: OptionNote, u: UnitSystem) -> String {
    match note {
        OptionNote::NoRoom { inlet, set, wanted } => format!(
            "No working room: {} arrive where {} + {} are needed",
            inlet.show(u),
            set.show_round(u),
            wanted.show_round(u)
        ),
        OptionNote::Room(room) => format!("{} of room at the inlet", room.show(u)),
        OptionNote::OutsideBand { flow, least, most } => {
            format!(
                "{} is outside its {} to {}",
                flow.show(u),
                least.show(u),
                most.show(u)
            )
        }
        OptionNote::LastHeadStarves { gets, needs } => {
            format!(
                "The last head gets {}, it needs {}",
                gets.show(u),
                needs.show_round(u)
            )
        }
        OptionNote::StillOver { pressure, water } => format!(
            "{:.0} % over the nozzle's best: fog, {:+.0} % water",
            pressure * 100.0,
            water * 100.0
        ),
        OptionNote::AllInBand => "All heads in their band".into(),
        OptionNote::Robs(valve) => format!("Robs the regulator of valve {valve} of its room"),
        OptionNote::Starves(valve, p) => format!("Starves valve {valve}: {}", p.show(u)),
    }
}

/// Why a way is the one to take.
pub fn why(why: Why, u: UnitSystem) -> String {
    match why {
        Why::DripPreset => "drip is filtered and regulated by the house's rule; the lowest preset that \
            serves the last emitter"
            .into(),
        Why::DripNoRoom => "no preset regulator has its room here: see the findings".into(),
        Why::Starved(p) => format!(
            "{} at the last head is too little: not a question for a regulator, which can only take away. \
             Fewer heads, larger pipe or lower-pressure heads",
            p.show(u)
        ),
        Why::NoneNeeded { highest, best } => format!(
            "{} at the highest head is within 15 % of its best {}: none needed",
            highest.show(u),
            best.show_round(u)
        ),
        Why::SystemFirst(p) => format!(
            "{} at the connection strains main and valves: a system regulator first, then look again",
            p.show(u)
        ),
        Why::OneModule => "one kind of head, level and even: one module serves all".into(),
        Why::Bodies => "many heads, height or a long lateral: bodies give every head the same".into(),
        Why::NoRoom { highest, best, water } => format!(
            "slightly high: {} where {} are best, {:+.0} % water; no regulator has its working room here, so \
             nothing is gained by one",
            highest.show(u),
            best.show_round(u),
            water * 100.0
        ),
    }
}
