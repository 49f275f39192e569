//! Job details as they are shown.

use super::read::feet_to_a_metre;
use crate::assessed::Assessed;
use crate::choices::{self, Choice};
use crate::error::AppError;
use askama::Template;
use fenlo_core::plan::{HouseRules, Plan};
use fenlo_core::units::UnitSystem;
use fenlo_store::{LogLine, Shelf};
use rust_decimal::Decimal;

#[derive(Template)]
#[template(path = "details.html")]
struct Details<'a> {
    u: UnitSystem,
    id: i64,
    plan: &'a Plan,
    units: Vec<Choice>,
    stations: String,
    rules: Rules,
    trench: Trench,
    drip: Vec<Choice>,
    heads: Vec<Choice>,
    around: &'a Around,
    /// Rules that differ from the company's.
    differing: Vec<String>,
}

/// What stands round a job that is not in it.
#[derive(Default)]
pub struct Around {
    pub history: Vec<LogLine>,
    pub shelf: Shelf,
    pub house: HouseRules,
    /// What could not be brought when the job file was opened.
    pub left: String,
}

struct Rules {
    flow_margin: String,
    house_demand: String,
    assumed_small: String,
    assumed_large: String,
    velocity_watch: String,
    velocity_stop: String,
    spread: String,
    regulator_room: String,
    fittings: String,
    drip_rating: String,
    peak_et: String,
    peak_weeks: String,
    prices: [String; 4],
}

struct Trench {
    /// Trench, pipe, tee, box.
    prices: [String; 4],
    rooted: String,
    paved: String,
    crossing: String,
    off_buildings: String,
    main_depth: String,
    lateral_depth: String,
    frost_depth: String,
    sizes: String,
}

/// Which heads where several kinds would do.
const HEADS: [(&str, &str); 3] = [
    ("by-ground", "choose by width, plants, soil, slope and wind"),
    ("spray", "sprays wherever they reach"),
    ("rotator", "rotators wherever they reach"),
];

const DRIP: [(&str, &str); 4] = [
    ("always-both", "always filter, always regulate"),
    ("regulate-by-rating", "always filter; regulate above the drip rating"),
    ("filter-if-dirty", "always regulate; filter wells and tanks"),
    ("open-runs", "always filter; long open runs without regulator"),
];

/// Names of the rules that are not as another's, as their files call them.
fn differing(own: &HouseRules, other: &HouseRules) -> Vec<String> {
    let fields = |rules: &HouseRules| match serde_json::to_value(rules) {
        Ok(serde_json::Value::Object(fields)) => fields,
        _ => serde_json::Map::new(),
    };
    let others = fields(other);
    let differs = |(name, value): (String, serde_json::Value)| {
        (others.get(&name) != Some(&value)).then(|| name.replace(['_', '-'], " "))
    };
    fields(own).into_iter().filter_map(differs).collect()
}

pub fn page(known: &Assessed, around: &Around) -> Result<String, AppError> {
    let plan = known.job();
    let (r, u) = (&plan.rules, plan.units);
    let percent = |share: f64| format!("{}", (share * 1000.0).round() / 10.0);
    Ok(Details {
        u,
        id: known.open.id,
        plan,
        units: choices::of(&choices::UNITS, &choices::word(&u)),
        stations: plan.controller_stations.map_or_else(String::new, |n| n.to_string()),
        rules: Rules {
            flow_margin: percent(r.flow_margin),
            house_demand: r.house_demand.field(u),
            assumed_small: r.assumed_small.field(u),
            assumed_large: r.assumed_large.field(u),
            velocity_watch: r.velocity_watch.field(u),
            velocity_stop: r.velocity_stop.field(u),
            spread: percent(r.spread),
            regulator_room: r.regulator_room.field(u),
            fittings: percent(r.fittings),
            drip_rating: r.drip_rating.field(u),
            peak_et: r.peak_et.show_depth(u),
            peak_weeks: r.peak_weeks.to_string(),
            prices: [r.price_module, r.price_preset, r.price_body, r.price_system].map(|p| p.to_string()),
        },
        trench: {
            let t = &r.trench;
            let by_length = |price: Decimal| (price * feet_to_a_metre(u)).round_dp(2).to_string();
            Trench {
                prices: [by_length(t.price), by_length(t.pipe), t.tee.to_string(), t.valve_box.to_string()],
                rooted: t.rooted.to_string(),
                paved: t.paved.to_string(),
                crossing: t.crossing.field(u),
                off_buildings: t.off_buildings.field(u),
                main_depth: t.main_depth.field(u),
                lateral_depth: t.lateral_depth.field(u),
                frost_depth: t.frost_depth.field(u),
                sizes: t.sizes.join(", "),
            }
        },
        drip: choices::of(&DRIP, &choices::word(&r.drip)),
        heads: choices::of(&HEADS, &choices::word(&r.heads)),
        around,
        differing: differing(r, &around.house),
    }
    .render()?)
}
