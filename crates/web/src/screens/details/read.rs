//! Job details as they are typed.

use crate::fields::Fields;
use fenlo_core::plan::{HouseRules, SetJob, SetRules};

pub const JOB_FIELDS: [&str; 5] = ["name", "place", "units", "stations", "local_code"];
pub const RULE_FIELDS: [&str; 18] = [
    "heads",
    "peak_et",
    "peak_weeks",
    "flow_margin",
    "house_demand",
    "assumed_small",
    "assumed_large",
    "velocity_watch",
    "velocity_stop",
    "spread",
    "regulator_room",
    "fittings",
    "drip_rating",
    "drip",
    "price_module",
    "price_preset",
    "price_body",
    "price_system",
];

pub fn job(f: &mut Fields) -> SetJob {
    SetJob {
        name: f.text("name"),
        location: f.text("place"),
        local_code: f.text("local_code"),
        units: f.choice("units"),
        controller_stations: Some(f.count("stations")).filter(|n| *n > 0),
    }
}

pub fn rules(f: &mut Fields, was: &HouseRules) -> SetRules {
    let rules = HouseRules {
        flow_margin: f.percent("flow_margin") / 100.0,
        house_demand: f.flow_if_any("house_demand").unwrap_or_default(),
        assumed_small: f.flow("assumed_small"),
        assumed_large: f.flow("assumed_large"),
        velocity_watch: f.speed("velocity_watch"),
        velocity_stop: f.speed("velocity_stop"),
        spread: f.percent("spread") / 100.0,
        regulator_room: f.pressure("regulator_room"),
        fittings: f.percent("fittings") / 100.0,
        price_module: f.price("price_module"),
        price_preset: f.price("price_preset"),
        price_body: f.price("price_body"),
        price_system: f.price("price_system"),
        drip_rating: f.pressure("drip_rating"),
        drip: f.choice("drip"),
        heads: f.choice("heads"),
        peak_et: f.length("peak_et"),
        peak_weeks: f.number("peak_weeks"),
        ..was.clone()
    };
    SetRules { rules }
}
