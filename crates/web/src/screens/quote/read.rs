//! Rules of quotes as they are typed.

use super::view::tube_per_m;
use crate::fields::Fields;
use fenlo_core::plan::{BuyingRules, HouseRules, LabourRules, SetRules};
use fenlo_core::units::{M_PER_FT, UnitSystem};

pub const FIELDS: [&str; 19] = [
    "currency",
    "hour",
    "overhead",
    "margin",
    "tax",
    "round_to",
    "valid_days",
    "waste",
    "head",
    "valve",
    "tube_ft",
    "emitter",
    "controller",
    "connection",
    "crossing",
    "lawn_rise",
    "bed_rise",
    "stakes",
    "digging",
];

pub fn rules(f: &mut Fields, was: &HouseRules, units: UnitSystem) -> SetRules {
    // Laid by the meter in metric jobs; a figure that stands as it was shown is not rounded again.
    let tube_ft = match f.number("tube_ft") {
        _ if units.is_metric() && f.get("tube_ft") == tube_per_m(&was.buying.hours) => {
            was.buying.hours.tube_ft
        }
        n if units.is_metric() => n * M_PER_FT,
        n => n,
    };
    let hours = LabourRules {
        machine: f.get("digging") != "hand",
        head: f.number("head"),
        valve: f.number("valve"),
        tube_ft,
        emitter: f.number("emitter"),
        controller: f.number("controller"),
        connection: f.number("connection"),
        crossing: f.number("crossing"),
    };
    let buying = BuyingRules {
        hours,
        currency: f.text("currency").to_uppercase(),
        hour: f.price("hour"),
        overhead: f.percent("overhead") / 100.0,
        margin: f.percent("margin") / 100.0,
        tax: f.percent("tax") / 100.0,
        round_to: f.price("round_to"),
        valid_days: f.count("valid_days"),
        waste: f.percent("waste") / 100.0,
        swing_joints: f.ticked("swing_joints"),
        lawn_rise: f.length_or_zero("lawn_rise"),
        bed_rise: f.length_or_zero("bed_rise"),
        stakes: f.length("stakes"),
    };
    SetRules { rules: HouseRules { buying, ..was.clone() } }
}
