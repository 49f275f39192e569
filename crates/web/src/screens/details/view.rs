//! Job details as they are shown.

use crate::assessed::Assessed;
use crate::choices::{self, Choice};
use crate::error::AppError;
use askama::Template;
use fenlo_core::plan::Plan;
use fenlo_core::units::UnitSystem;
use fenlo_store::LogLine;

#[derive(Template)]
#[template(path = "details.html")]
struct Details<'a> {
    u: UnitSystem,
    id: i64,
    plan: &'a Plan,
    units: Vec<Choice>,
    stations: String,
    rules: Rules,
    drip: Vec<Choice>,
    heads: Vec<Choice>,
    history: &'a [LogLine],
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

/// Which heads where several kinds would do.
const HEADS: [(&str, &str); 3] = [
    ("by-ground", "by width, plants, soil, slope and wind"),
    ("spray", "sprays wherever they reach"),
    ("rotator", "rotators wherever they reach"),
];

const DRIP: [(&str, &str); 3] = [
    ("always-both", "always filter, always regulate"),
    ("regulate-by-rating", "always filter, regulate over the rating"),
    ("filter-if-dirty", "always regulate, filter wells and tanks"),
];

pub fn body(known: &Assessed, history: &[LogLine]) -> Result<String, AppError> {
    let plan = known.job();
    let (r, u) = (&plan.rules, plan.units);
    let percent = |share: f64| format!("{}", (share * 1000.0).round() / 10.0);
    Ok(Details {
        u,
        id: known.open.id,
        plan,
        units: choices::of(&choices::UNITS, &choices::word(&u)),
        stations: plan
            .controller_stations
            .map_or_else(String::new, |n| n.to_string()),
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
        drip: choices::of(&DRIP, &choices::word(&r.drip)),
        heads: choices::of(&HEADS, &choices::word(&r.heads)),
        history,
    }
    .render()?)
}
