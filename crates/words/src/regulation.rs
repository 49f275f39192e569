use crate::pricing::whole_money;
use crate::said::counted;
use fenlo_core::plan::Regulation;
use fenlo_core::regulation::{OptionNote, RegulationOption, Way, Why};
use fenlo_core::units::UnitSystem;

/// A way to regulate, as a heading.
pub fn way(way: Way, u: UnitSystem) -> String {
    match way {
        Way::AsIs(Regulation::None) => "Keep as is".into(),
        Way::Fit(Regulation::None) => "No regulator".into(),
        Way::AsIs(Regulation::Valve { set }) | Way::Fit(Regulation::Valve { set }) => {
            format!("Regulator on valve, set {}", set.show_round(u))
        }
        Way::AsIs(Regulation::Inline { set }) | Way::Fit(Regulation::Inline { set }) => {
            format!("In-line regulator, {}", set.show_round(u))
        }
        Way::AsIs(Regulation::Body { set }) | Way::Fit(Regulation::Body { set }) => {
            format!("Regulated bodies, {}", set.show_round(u))
        }
        Way::System(set) => format!("System regulator, set {}", set.show_round(u)),
    }
}

/// What a way takes: `no parts to buy`, `1 part, $28`.
pub fn takes(option: &RegulationOption, currency: &str) -> String {
    match option.pieces {
        0 => "no parts to buy".into(),
        n => format!("{}, {}", counted(n, "part"), whole_money(option.cost, currency)),
    }
}

/// What a way does elsewhere, or can't do here.
pub fn note(note: OptionNote, u: UnitSystem) -> String {
    match note {
        OptionNote::NoRoom { inlet, set, wanted } => format!(
            "Not enough inlet pressure: {}, needs {} + {}",
            inlet.show(u),
            set.show_round(u),
            wanted.show_round(u)
        ),
        OptionNote::Room(room) => format!("{} headroom at the inlet", room.show(u)),
        OptionNote::OutsideBand { flow, least, most } => {
            format!("Flow {} is outside its range, {} to {}", flow.show(u), least.show(u), most.show(u))
        }
        OptionNote::LastHeadStarves { gets, needs } => {
            format!("Weakest head gets {}, minimum {}", gets.show(u), needs.show_round(u))
        }
        OptionNote::StillOver { pressure, water } => {
            format!("{:.0}% above rated pressure: misting, {:+.0}% water", pressure * 100.0, water * 100.0)
        }
        OptionNote::AllInBand => "All heads in range".into(),
        OptionNote::Robs(valve) => format!("Leaves the regulator of valve {valve} without headroom"),
        OptionNote::Starves(valve, p) => format!("Valve {valve} drops to {}", p.show(u)),
    }
}

/// Why a way is the one to take.
pub fn why(why: Why, u: UnitSystem) -> String {
    match why {
        Why::DripPreset => {
            "company standard: filter and regulate drip; lowest setting that supplies the weakest emitter"
                .into()
        }
        Why::DripNoRoom => "no in-line regulator has enough inlet pressure here; see the findings".into(),
        Why::Starved(p) => format!(
            "{} at the weakest head is too low, and a regulator can only reduce pressure. Use fewer heads, \
                larger pipe or lower-pressure heads",
            p.show(u)
        ),
        Why::NoneNeeded { highest, best } => format!(
            "highest nozzle pressure {} is within 15% of rated {}, so none is needed",
            highest.show(u),
            best.show_round(u)
        ),
        Why::SystemFirst(p) => format!(
            "{} at the point of connection is hard on mainline and valves. Add a system regulator first, \
                then check again",
            p.show(u)
        ),
        Why::OneModule => "one head type, level, small pressure variation: one regulator on the valve is \
            enough"
            .into(),
        Why::Bodies => "many heads, elevation change or a long lateral: regulated bodies give every head \
            the same pressure"
            .into(),
        Why::NoRoom { highest, best, water } => format!(
            "slightly high: {}, rated {}, {:+.0}% water. No regulator has enough headroom here, so adding \
                one gains nothing",
            highest.show(u),
            best.show_round(u),
            water * 100.0
        ),
    }
}
