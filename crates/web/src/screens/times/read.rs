//! Run times as they are typed.

use super::today;
use crate::assessed::Assessed;
use crate::choices::hint;
use crate::error::AppError;
use crate::fields::Fields;
use fenlo_core::climate::{Climate, MonthWater, stations};
use fenlo_core::plan::{
    Clock, ClosedHours, ControllerUse, DayRule, Edit, GroundState, MeterReading, Rhythm, SetClimate,
    SetUsage, SetWatering, StationWish, TariffStep, Tuning, Usage, WateringRules,
};
use fenlo_core::runtime::stations as stations_of;
use fenlo_core::units::{LPM_PER_GPM, UnitSystem, Volume};
use fenlo_formats::foreign::Sifted;
use rust_decimal::Decimal;

/// Fields of a month's evaporation, January first.
pub const ET0: [&str; 12] = [
    "et0_1", "et0_2", "et0_3", "et0_4", "et0_5", "et0_6", "et0_7", "et0_8", "et0_9", "et0_10", "et0_11",
    "et0_12",
];
/// Fields of a month's rain.
pub const RAIN: [&str; 12] = [
    "rain_1", "rain_2", "rain_3", "rain_4", "rain_5", "rain_6", "rain_7", "rain_8", "rain_9", "rain_10",
    "rain_11", "rain_12",
];
pub const CLIMATE_FIELDS: [&str; 26] = {
    let mut all = ["source"; 26];
    let mut i = 0;
    while i < 12 {
        all[i] = ET0[i];
        all[12 + i] = RAIN[i];
        i += 1;
    }
    all[24] = "bare";
    all
};
pub const HOURS_FIELDS: [&str; 16] = [
    "opens",
    "closes",
    "closed_from",
    "closed_to",
    "days",
    "weekday",
    "every",
    "most_minutes",
    "of",
    "tune_step",
    "at_once",
    "programmes",
    "starts",
    "delay",
    "least_flow",
    "drip_exempt",
];
pub const STATION_FIELDS: [&str; 6] = ["factor", "density", "regime", "rhythm", "controller", "valve"];

pub fn climate(_: &Assessed, f: &mut Fields) -> Result<Edit, AppError> {
    let mut months = Vec::new();
    for m in 0..12 {
        let (et0, rain) = (f.depth_if_any(ET0[m]), f.depth_if_any(RAIN[m]));
        match (et0, rain) {
            (Some(et0), rain) => {
                months.push(MonthWater { month: m as u8 + 1, et0, rain: rain.unwrap_or_default() })
            }
            (None, Some(_)) => f.fault(ET0[m], "enter ET as well as rain"),
            (None, None) => {}
        }
    }
    let bare = months_of(f, "bare");
    let source = f.text("source");
    let climate = (!months.is_empty()).then_some(Climate { source, months, bare });
    Ok(SetClimate { climate }.into())
}

/// Months by their numbers, `1-3, 11, 12`.
fn months_of(f: &mut Fields, field: &str) -> Vec<u8> {
    let text = f.text(field);
    let mut all = Vec::new();
    for part in text.split(',').map(str::trim).filter(|p| !p.is_empty()) {
        let ends = part.split_once('-').unwrap_or((part, part));
        match (ends.0.trim().parse::<u8>(), ends.1.trim().parse::<u8>()) {
            (Ok(from), Ok(to)) if (1..=to).contains(&from) && to <= 12 => all.extend(from..=to),
            _ => f.fault(field, "enter months such as 1-3, 11, 12"),
        }
    }
    all.sort_unstable();
    all.dedup();
    all
}

pub fn from_table(_: &Assessed, f: &mut Fields) -> Result<Edit, AppError> {
    let name = f.text("table");
    let station = stations().iter().find(|s| s.name == name);
    if station.is_none() {
        f.fault("table", "choose from the list");
    }
    let climate = station.map(|s| s.climate());
    Ok(SetClimate { climate }.into())
}

/// The latitude of a form, degrees; none where the field is empty.
pub fn latitude(f: &mut Fields) -> Option<f64> {
    let latitude = Some(f.number("latitude")).filter(|_| !f.get("latitude").is_empty());
    if latitude.is_some_and(|l| !(-89.0..=89.0).contains(&l)) {
        f.fault("latitude", "enter −89 to 89 degrees, north positive");
    }
    latitude
}

/// A file of months or days, as its reader handed it over.
pub fn from_file(f: &mut Fields, read: Sifted<Option<Climate>>) -> Result<Edit, AppError> {
    latitude(f);
    let Sifted { found: climate, faults } = read;
    let said: Vec<String> =
        faults.iter().take(6).map(|fault| format!("line {}: {}", fault.line, fault.message)).collect();
    // A gap in some month is no reason to lose the others; a line that is no figure is.
    let only_gaps = faults.iter().all(|fault| fault.message.ends_with("is an estimate"));
    if climate.is_none() || !only_gaps {
        f.fault("text", said.join("; "));
    }
    Ok(SetClimate { climate }.into())
}

pub fn hours(known: &Assessed, f: &mut Fields) -> Result<Edit, AppError> {
    let was = &known.job().watering;
    let clock = |f: &mut Fields, field: &str| f.parsed::<Clock>(field);
    let (opens, closes) = (clock(f, "opens"), clock(f, "closes"));
    let closed = match (f.get("closed_from").is_empty(), f.get("closed_to").is_empty()) {
        (true, true) => None,
        (true, false) => {
            f.fault("closed_from", "enter the start of the no-watering hours");
            None
        }
        (false, true) => {
            f.fault("closed_to", "enter the end of the no-watering hours");
            None
        }
        (false, false) => {
            let ends = (clock(f, "closed_from"), clock(f, "closed_to"));
            ends.0.zip(ends.1).map(|(from, to)| ClosedHours { from, to })
        }
    };
    let days = match f.get("days") {
        "odd" => DayRule::Odd,
        "even" => DayRule::Even,
        "weekdays" => {
            let ticked: Vec<u8> = f.all("weekday").filter_map(|d| d.parse().ok()).collect();
            if ticked.is_empty() {
                f.fault("weekday", "select at least one day");
            }
            DayRule::Weekdays { days: ticked }
        }
        "every" => {
            let days = f.count("every");
            if !(1..=31).contains(&days) && f.is_sound("every") {
                f.fault("every", "enter 1 to 31 days");
            }
            DayRule::Every { days }
        }
        _ => DayRule::Any,
    };
    let rules = WateringRules {
        of: f.text("of"),
        opens: opens.unwrap_or(was.rules.opens),
        closes: closes.unwrap_or(was.rules.closes),
        closed,
        days,
        drip_exempt: f.ticked("drip_exempt"),
        most_minutes: Some(f.count("most_minutes")).filter(|n| *n > 0),
        tune_step: f.percent("tune_step") / 100.0,
    };
    let controller = ControllerUse {
        at_once: f.count("at_once"),
        programmes: Some(f.count("programmes")).filter(|n| *n > 0),
        starts: f.count("starts"),
        delay: f.minutes_if_any("delay").unwrap_or_default(),
        master_valve: f.ticked("master_valve"),
        least_flow: f.flow_if_any("least_flow"),
    };
    Ok(SetWatering { rules, controller }.into())
}

fn wish(known: &Assessed, f: &Fields) -> StationWish {
    let valve = f.text("valve");
    let was = known.job().watering.station(&valve);
    was.cloned().unwrap_or_else(|| StationWish::new(&valve))
}

/// The wish as an edit: none at all where nothing is wished any more.
fn wished(known: &Assessed, wish: StationWish) -> Edit {
    let there = known.job().watering.station(&wish.valve).is_some();
    if there && wish == StationWish::new(&wish.valve) {
        Edit::remove::<StationWish>(wish.valve)
    } else {
        Edit::put(wish)
    }
}

pub fn station(known: &Assessed, f: &mut Fields) -> Result<Edit, AppError> {
    let share = |f: &mut Fields, field: &str| (!f.get(field).is_empty()).then(|| f.number(field));
    let next = StationWish {
        factor: share(f, "factor"),
        density: share(f, "density"),
        regime: f.get("regime").parse().ok(),
        rhythm: match f.get("rhythm") {
            "often" => Some(Rhythm::Often),
            "deep" => Some(Rhythm::Deep),
            _ => None,
        },
        new_planting: f.ticked("new_planting"),
        leafy_shade: f.ticked("leafy_shade"),
        controller: match f.count("controller") {
            0 => 1,
            n => u8::try_from(n).unwrap_or(u8::MAX),
        },
        ..wish(known, f)
    };
    Ok(wished(known, next))
}

pub fn tune(known: &Assessed, f: &mut Fields) -> Result<Edit, AppError> {
    let step = known.job().watering.rules.tune_step;
    let mut next = wish(known, f);
    let (found, share) = match f.get("found") {
        "too-wet" => (GroundState::TooWet, 1.0 - step),
        "too-dry" => (GroundState::TooDry, 1.0 + step),
        _ => {
            next.tuned.clear();
            return Ok(wished(known, next));
        }
    };
    next.tuned.push(Tuning { when: today().to_string(), who: f.text("who"), found, share, rests: None });
    Ok(wished(known, next))
}

/// A start in minutes after the window opens, or as a time of day; empty: free again.
pub fn start(known: &Assessed, f: &mut Fields) -> Result<Edit, AppError> {
    let opens = known.job().watering.rules.opens;
    let text = f.text("start");
    let start = match text.parse::<u32>() {
        Ok(minutes) => Some(minutes),
        Err(_) if text.is_empty() => None,
        Err(_) => f.parsed::<Clock>("start").map(|clock| opens.until(clock) % fenlo_core::plan::DAY),
    };
    let next = StationWish { start, ..wish(known, f) };
    Ok(wished(known, next))
}

/// Litres that a price of the tariff is for: 1,000 gallons, or a cubic metre.
pub fn price_volume(u: UnitSystem) -> f64 {
    if u.is_metric() { 1000.0 } else { 1000.0 * LPM_PER_GPM }
}

/// Steps as they are typed: `3000 gal: 1.10; 2.40`.
pub fn usage(known: &Assessed, f: &mut Fields) -> Result<Edit, AppError> {
    let u = known.job().units;
    let by_cubic_metre = Decimal::from_f64_retain(1000.0 / price_volume(u)).unwrap_or(Decimal::ONE);
    // Bills count in thousands of gallons or in cubic metres: a bare 20 is meant so, and would be read as litres.
    let least_step = Volume::from_litres(400.0);
    let mut tariff = Vec::new();
    let text = f.text("tariff");
    for part in text.split(';').map(str::trim).filter(|p| !p.is_empty()) {
        let (up_to, price) = match part.rsplit_once(':') {
            Some((up_to, price)) => (Some(up_to.trim()), price.trim()),
            None => (None, part),
        };
        let up_to = match up_to.map(|text| Volume::typed(text, u)) {
            Some(Err(fault)) => {
                f.fault("tariff", fault.to_string());
                None
            }
            Some(Ok(volume)) if volume < least_step => {
                let example = hint("3000 gal", &u);
                f.fault(
                    "tariff",
                    format!(
                        "a tier of {} per month is very small. Enter the unit, such as {example}",
                        volume.show(u)
                    ),
                );
                None
            }
            Some(Ok(volume)) => Some(volume),
            None => None,
        };
        match price.replace(',', ".").parse::<Decimal>() {
            Ok(price) => tariff.push(TariffStep { up_to, price: (price * by_cubic_metre).round_dp(6) }),
            Err(_) => f.fault(
                "tariff",
                format!("enter tiers such as {}: 1.10; 2.40 (got ‘{price}’)", hint("3000 gal", &f.units())),
            ),
        }
    }
    let usage = Usage {
        tariff,
        meter_size: f.volume_if_any("meter_size"),
        readings: known.job().watering.usage.readings.clone(),
    };
    Ok(SetUsage { usage }.into())
}

pub fn reading(known: &Assessed, f: &mut Fields) -> Result<Edit, AppError> {
    let mut usage = known.job().watering.usage.clone();
    let (on, showed) = (f.parsed("on"), f.volume("showed"));
    if let Some(on) = on {
        usage.readings.retain(|r| r.on != on);
        usage.readings.push(MeterReading { on, showed });
        usage.readings.sort_by_key(|r| r.on);
    }
    Ok(SetUsage { usage }.into())
}

/// Rain in the gauge, noted at every station that it lets rest.
pub fn rained(known: &Assessed, f: &mut Fields) -> Result<Edit, AppError> {
    let depth = f.depth_if_any("depth").unwrap_or_default();
    let month = f.get("month").parse().ok().filter(|m| (1..=12).contains(m));
    let (job, day) = (known.job(), today());
    let month = month.unwrap_or(day.month());
    let all = stations_of(job, &known.assessment, known.even(), month, day.year());
    match fenlo_core::runtime::rained(job, &all, depth, &day.to_string(), &f.text("who")) {
        Some(edit) => Ok(edit),
        None => f.stop("too little rain to skip a station"),
    }
}
