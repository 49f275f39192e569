//! Job details as they are typed.

use crate::fields::Fields;
use fenlo_core::plan::{HouseRules, SetJob, SetRules, TrenchRules};
use fenlo_core::units::UnitSystem;
use rust_decimal::Decimal;

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

pub const TRENCH_FIELDS: [&str; 12] = [
    "price",
    "pipe",
    "tee",
    "valve_box",
    "rooted",
    "paved",
    "crossing",
    "off_buildings",
    "main_depth",
    "lateral_depth",
    "frost_depth",
    "sizes",
];

/// Feet to a metre: prices by length are typed by the foot where feet are.
pub fn feet_to_a_metre(units: UnitSystem) -> Decimal {
    if units.is_metric() { Decimal::ONE } else { Decimal::new(3_048, 4) }
}

pub fn trench(f: &mut Fields, was: &HouseRules, units: UnitSystem) -> SetRules {
    let by_metre = |price: Decimal| (price / feet_to_a_metre(units)).round_dp(4);
    let sizes = f.text("sizes");
    let trench = TrenchRules {
        price: by_metre(f.price("price")),
        pipe: by_metre(f.price("pipe")),
        tee: f.price("tee"),
        valve_box: f.price("valve_box"),
        rooted: f.number("rooted"),
        paved: f.number("paved"),
        crossing: f.length("crossing"),
        off_buildings: f.length_or_zero("off_buildings"),
        main_depth: f.length("main_depth"),
        lateral_depth: f.length("lateral_depth"),
        frost_depth: f.length_or_zero("frost_depth"),
        sizes: sizes.split(',').map(|s| s.trim().replace(' ', "")).filter(|s| !s.is_empty()).collect(),
        ..was.trench.clone()
    };
    SetRules { rules: HouseRules { trench, ..was.clone() } }
}

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
