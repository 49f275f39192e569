//! Water as it is typed: each form changes one connection.

use crate::choices::hint;
use crate::error::AppError;
use crate::fields::Fields;
use fenlo_core::plan::{
    ChainItem, ChainPart, DesignFlowMethod, Injection, Plan, PumpPoint, Reading, ReadingKind, Store, Supply,
    WaterSource,
};
use fenlo_core::units::{Flow, Length, Minutes, Pressure, UnitSystem};

pub const SOURCE_FIELDS: [&str; 9] =
    ["name", "water", "gauge_height", "curve", "height", "cut_in", "cut_out", "pump_flow", "least"];
pub const EXTRA_FIELDS: [&str; 5] = ["stock", "over", "volume", "roof", "battery_watts"];
pub const READING_FIELDS: [&str; 7] = ["pressure", "flow", "volume", "time", "when", "instrument", "place"];
pub const PART_FIELDS: [&str; 6] = ["pipe", "length", "rise", "size", "model", "set"];

/// What the gauge's place is called until somebody says it.
pub const NOT_SAID: &str = "?";

/// Where the readings were taken, once it is said.
pub fn gauge(supply: &mut Supply, f: &mut Fields) {
    let at = f.text_if_any("read_after");
    if at.as_deref() != Some(NOT_SAID) {
        supply.read_after = at;
        supply.gauge_said = true;
    }
}

/// Where the water comes from. A source of another kind starts with usual figures: its own fields
/// were not on the page yet.
pub fn source(supply: &mut Supply, f: &mut Fields, changes_kind: bool) {
    supply.name = f.text("name");
    supply.gauge_height = f.length_or_zero("gauge_height");
    supply.water = match f.get("water") {
        "pump" if changes_kind => WaterSource::Pump { curve: first_curve(), potable: false, least: None },
        "pump" => WaterSource::Pump {
            curve: pump_points(f),
            potable: f.ticked("potable"),
            least: f.flow_if_any("least"),
        },
        "tank" if changes_kind => WaterSource::Tank { height: Length::from_m(1.5) },
        "tank" => WaterSource::Tank { height: f.length_or_zero("height") },
        "well" if changes_kind => WaterSource::Well {
            cut_in: Pressure::from_psi(40.0),
            cut_out: Pressure::from_psi(60.0),
            pump_flow: Flow::from_gpm(10.0),
            least: None,
        },
        "well" => WaterSource::Well {
            cut_in: f.pressure("cut_in"),
            cut_out: f.pressure("cut_out"),
            pump_flow: f.flow("pump_flow"),
            least: f.flow_if_any("least"),
        },
        "tap" => WaterSource::Tap,
        _ => WaterSource::Street,
    };
}

/// Fertilizer that is put in, and the store that the water comes from; empty fields: none.
pub fn extras(supply: &mut Supply, f: &mut Fields) {
    let stock = f.volume_if_any("stock");
    let over = f.minutes_if_any("over");
    supply.injection =
        stock.map(|stock| Injection { stock, over: over.unwrap_or(Minutes::from_minutes(20.0)) });
    let roof = f.surface_if_any("roof");
    let watts = f.text_if_any("battery_watts").map(|_| f.number("battery_watts"));
    supply.store = f.volume_if_any("volume").map(|volume| Store { volume, roof, battery_watts: watts });
}

/// A small booster's curve to start from; the installer types the one on the plate.
fn first_curve() -> Vec<PumpPoint> {
    [(0.0, 80.0), (10.0, 74.0), (20.0, 60.0), (30.0, 35.0)]
        .map(|(q, p)| PumpPoint { flow: Flow::from_gpm(q), pressure: Pressure::from_psi(p) })
        .into()
}

fn pump_points(f: &mut Fields) -> Vec<PumpPoint> {
    let text = f.text("curve");
    let mut points = Vec::new();
    for pair in text.split(';').map(str::trim).filter(|p| !p.is_empty()).take(51) {
        let read = pair.split_once(':').map(|(q, p)| (q.parse::<Flow>(), p.parse::<Pressure>()));
        match read {
            Some((Ok(flow), Ok(pressure))) => points.push(PumpPoint { flow, pressure }),
            Some((Err(e), _)) | Some((_, Err(e))) => f.fault("curve", e.to_string()),
            None => f.fault(
                "curve",
                format!("enter flow:pressure, such as {} (got ‘{pair}’)", hint("20 gpm:60 psi", &f.units())),
            ),
        }
    }
    points
}

/// The method that somebody holds to, or none for the least of all.
pub fn method(f: &Fields) -> Result<Option<DesignFlowMethod>, AppError> {
    match f.get("school") {
        "none" => Ok(None),
        word => {
            serde_json::from_value(word.into()).map(Some).map_err(|_| AppError::Bad("unknown method".into()))
        }
    }
}

pub fn reading(f: &mut Fields) -> Reading {
    let kind = match f.get("kind") {
        "dynamic" => ReadingKind::Dynamic { flow: f.flow("flow"), pressure: f.pressure("pressure") },
        "bucket" => ReadingKind::Bucket { volume: f.volume("volume"), time: f.minutes("time") },
        _ => ReadingKind::Static { pressure: f.pressure("pressure") },
    };
    Reading { kind, when: f.text("when"), instrument: f.text("instrument"), tap: f.text("place") }
}

/// A new part at the end of the chain, as usual for its kind.
pub fn new_part(supply: &mut Supply, f: &Fields, plan: &Plan) {
    let (pipe, length) = match plan.units {
        UnitSystem::Metric | UnitSystem::MetricBar => ("pe100-sdr11 32mm", Length::from_m(10.0)),
        UnitSystem::Us => ("copper-l 1in", Length::from_ft(30.0)),
    };
    let part = match f.get("what") {
        "pipe" => ChainPart::Pipe {
            pipe: pipe.parse().expect("choose a pipe from the catalog"),
            length,
            rise: Length::ZERO,
        },
        "meter" => ChainPart::Meter { size: "3/4in".into() },
        "regulator" => ChainPart::Regulator { set: Pressure::from_psi(70.0) },
        model => ChainPart::Device { model: model.to_owned() },
    };
    supply.chain.push(ChainItem { id: plan.fresh_id('c'), part });
}

pub fn part(supply: &mut Supply, f: &mut Fields, id: &str) {
    let Some(item) = supply.chain.iter_mut().find(|c| c.id == id) else {
        return f.fault("form", GONE_PART);
    };
    match &mut item.part {
        ChainPart::Pipe { pipe, length, rise } => {
            if let Some(picked) = f.parsed("pipe") {
                *pipe = picked;
            }
            *length = f.length("length");
            *rise = f.length_or_zero("rise");
        }
        ChainPart::Meter { size } => *size = f.text("size"),
        ChainPart::Device { model } => *model = f.text("model"),
        ChainPart::Regulator { set } => *set = f.pressure("set"),
    }
}

const GONE_PART: &str = "this component was deleted by someone else";
const GONE_READING: &str = "this reading was deleted by someone else";

/// Moves a part up or down the chain, or takes it out.
pub fn move_part(supply: &mut Supply, f: &mut Fields, id: &str, way: &str) {
    let found = match way {
        "up" => supply.move_part(id, true),
        "down" => supply.move_part(id, false),
        "remove" => supply.remove_part(id),
        _ => true,
    };
    if !found {
        f.fault("form", GONE_PART);
    }
}

pub fn save_reading(supply: &mut Supply, f: &mut Fields, index: usize) {
    let reading = reading(f);
    match supply.readings.get_mut(index) {
        Some(place) => *place = reading,
        None => f.fault("form", GONE_READING),
    }
}

pub fn remove_reading(supply: &mut Supply, f: &mut Fields, index: usize) {
    if index < supply.readings.len() {
        supply.readings.remove(index);
    } else {
        f.fault("form", GONE_READING);
    }
}
