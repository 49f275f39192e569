//! Run times as they are shown.

use super::read::{ET0, RAIN, price_volume};
use crate::assessed::Assessed;
use crate::choices::{self, Choice};
use crate::error::AppError;
use askama::Template;
use fenlo_core::climate::stations as table;
use fenlo_core::plan::{Date, DayRule, Rhythm, StationWish, Usage};
use fenlo_core::progress::Progress;
use fenlo_core::runtime::{
    Night, SheetMonth, StationTimes, Times, cost, month_volume, months, most_on_one, programmes,
    saved_by_months, sheet, times, used, weeks,
};
use fenlo_core::units::{UnitSystem, Volume};
use fenlo_drawing::{fortnight, night_lanes, year_water};
use fenlo_words::{self as words, Working};
use rust_decimal::Decimal;

const SHORT: [&str; 12] =
    ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];
const DAYS: [&str; 7] = ["Mo", "Tu", "We", "Th", "Fr", "Sa", "Su"];
/// Days of the view by weeks.
const FORTNIGHT: u32 = 14;

#[derive(Template)]
#[template(path = "times.html")]
struct Page<'a> {
    u: UnitSystem,
    job: i64,
    month: u8,
    this_month: u8,
    month_name: &'static str,
    months: Vec<(u8, &'static str, bool, bool)>,
    said: Option<String>,
    empty: bool,
    answer: Answer,
    lanes: String,
    list: Vec<(String, String)>,
    warnings: Vec<String>,
    ways: Vec<(String, String, bool)>,
    fortnight: String,
    tonight: Option<Tonight>,
    stations: Vec<Row>,
    year: String,
    climate: ClimateForm,
    hours: Hours,
    usage: UsageForm<'a>,
}

/// What the night comes to, in figures.
struct Answer {
    done: String,
    says: String,
    fits: bool,
    proof: String,
    peak: String,
    peak_says: String,
    margin: String,
    water: String,
    water_year: String,
    cost_year: String,
    /// What minutes by the month save.
    by_months: String,
}

struct Tonight {
    day: String,
    lines: Vec<String>,
}

struct Row {
    valve: String,
    number: usize,
    name: String,
    runs: bool,
    later: bool,
    often: String,
    cycles: String,
    week: String,
    water: String,
    says: Vec<String>,
    workings: Vec<(&'static str, Working)>,
    factor: String,
    factor_hint: String,
    density: String,
    regimes: Vec<Choice>,
    rhythms: Vec<Choice>,
    new_planting: bool,
    leafy_shade: bool,
    controller: String,
    start: String,
    tuned: Vec<String>,
}

struct ClimateForm {
    source: String,
    table: Vec<Choice>,
    rows: Vec<(&'static str, &'static str, String, &'static str, String)>,
    bare: String,
    known: bool,
}

struct Hours {
    opens: String,
    closes: String,
    closed_from: String,
    closed_to: String,
    days: Vec<Choice>,
    weekdays: Vec<(u8, &'static str, bool)>,
    every: String,
    drip_exempt: bool,
    most_minutes: String,
    of: String,
    tune_step: String,
    at_once: u32,
    programmes: String,
    starts: u32,
    delay: String,
    least_flow: String,
    master_valve: bool,
}

struct UsageForm<'a> {
    tariff: String,
    price_unit: &'static str,
    meter_size: String,
    today: String,
    rows: Vec<Vec<String>>,
    usage: &'a Usage,
}

/// Stations up to which a night is packed while the page waits for it.
const AT_ONCE: usize = 60;

#[derive(Template)]
#[template(path = "parts/packing.html")]
struct Packing {
    job: i64,
    month: u8,
    month_name: &'static str,
    done: usize,
    of: usize,
    stopped: bool,
}

/// How far the packing of a night is.
pub fn packing(job: i64, month: u8, progress: &Progress) -> askama::Result<String> {
    let (done, of) = progress.now();
    Packing { job, month, month_name: words::month(month), done, of: of.max(1), stopped: progress.stopped() }
        .render()
}

pub fn body(known: &Assessed, month: u8, today: Date) -> Result<String, AppError> {
    let job = known.job();
    let u = job.units;
    let waited = known.night(month);
    let packed = waited.as_ref().and_then(|w| w.found.get());
    let now;
    let found = match packed {
        Some(packed) => packed,
        None if job.valves.len() > AT_ONCE => {
            return Ok(packing(known.open.id, month, &Progress::default())?);
        }
        None => {
            now = times(job, &known.assessment, known.even(), month, today.year());
            &now
        }
    };
    let year = months(job, &known.assessment, known.even(), today.year());
    let wet = |m: u8| year[usize::from(m) - 1].stations.iter().any(StationTimes::runs);
    let strip = (1..=12u8).map(|m| (m, SHORT[usize::from(m) - 1], m == month, wet(m)));
    let night = &found.night;
    Ok(Page {
        u,
        job: known.open.id,
        month,
        this_month: today.month(),
        month_name: words::month(month),
        months: strip.collect(),
        said: words::water_from(found.from, month),
        empty: job.valves.is_empty(),
        answer: answer(known, found, &year),
        lanes: night_lanes(job, &found.stations, night, u),
        list: list(night, &found.stations, job.units),
        warnings: warnings(known, found),
        ways: ways(night, job.units),
        fortnight: days_view(found, today.year(), month),
        tonight: tonight(found, today, job.units),
        stations: found.stations.iter().map(|s| row(known, s, month)).collect(),
        year: year_chart(known, &year, month),
        climate: climate_form(known),
        hours: hours_form(known),
        usage: usage_form(known, &year, today),
    }
    .render()?)
}

fn answer(known: &Assessed, found: &Times, year: &[SheetMonth]) -> Answer {
    let (job, night) = (known.job(), &found.night);
    let u = job.units;
    let month: Volume = found.stations.iter().map(|s| month_volume(s, found.month)).sum();
    let runs = !night.runs.is_empty();
    let most = night.flows.iter().max_by(|a, b| a.peak.lpm().total_cmp(&b.peak.lpm()));
    let currency = &job.rules.buying.currency;
    let money = |cost: Option<Decimal>| {
        cost.map_or(String::new(), |c| format!("{} at your water rate", fenlo_words::money(c, currency)))
    };
    Answer {
        done: if runs { words::span(night.finish) } else { "no watering".into() },
        says: if runs {
            format!(
                "from {} to {}; window {}",
                night.window.opens.show(u),
                night.window.clock(night.finish).show(u),
                words::span(night.window.length)
            )
        } else {
            "no station needs to run".into()
        },
        fits: night.fits(),
        proof: if !runs {
            String::new()
        } else if night.is_proven() {
            format!(
                "Shortest possible schedule. Limited by {}.",
                words::bound_by(night, &found.stations, job)
            )
        } else {
            format!(
                "Lower bound {} ({}); this schedule is within {:.0}% of it.",
                words::span(night.bound.minutes),
                words::bound_by(night, &found.stations, job),
                (f64::from(night.finish) / f64::from(night.bound.minutes.max(1)) - 1.0) * 100.0
            )
        },
        peak: most.map_or(String::new(), |m| m.peak.show(u)),
        peak_says: most.map_or(String::new(), |m| match m.design {
            Some(design) => format!("peak flow; design flow {}", design.show(u)),
            None => "peak flow; design flow unknown, so stations run one at a time".into(),
        }),
        margin: words::margin_said(night, &found.stations, u),
        water: words::round_water(month, u),
        water_year: words::round_water(year.iter().map(|m| m.water).sum(), u),
        cost_year: money(year.iter().map(|m| m.cost).sum()),
        by_months: words::saved_by_months(saved_by_months(job, year), u, currency),
    }
}

fn list(night: &Night, stations: &[StationTimes], u: UnitSystem) -> Vec<(String, String)> {
    let line = |r: &fenlo_core::runtime::NightRun| {
        let station = &stations[r.station];
        let cycle = match station.cycles.count {
            1 => String::new(),
            n => format!(" ({} of {n})", r.cycle + 1),
        };
        (
            night.window.clock(r.start).show(u),
            format!("{} {}, {} min{cycle}", station.number, station.name, r.minutes),
        )
    };
    night.runs.iter().map(line).collect()
}

fn warnings(known: &Assessed, found: &Times) -> Vec<String> {
    let (job, night) = (known.job(), &found.night);
    let mut all = Vec::new();
    for broken in &night.broken {
        all.push(words::broken(broken, night, &found.stations, job.units));
    }
    if night.under_least > 0 {
        all.push(format!(
            "For {} the flow is below the pump minimum and it will cycle. Run small stations together or \
                add a pressure tank.",
            words::span(night.under_least)
        ));
    }
    let kept = job.watering.controller.programmes;
    let programmes = programmes(job, &found.stations, night);
    let wants = most_on_one(&programmes);
    if kept.is_some_and(|most| wants > most as usize) {
        all.push(format!(
            "The schedule needs {} programs; the controller has {}. Give stations with short run times the \
                same frequency and cycles, or use a controller with independent station start times.",
            wants,
            kept.unwrap_or_default()
        ));
    }
    let starts = programmes.iter().map(|p| p.starts.len()).max().unwrap_or(0);
    if kept.is_some() && starts > job.watering.controller.starts as usize {
        all.push(format!(
            "One program needs {starts} start times; the controller has {}.",
            job.watering.controller.starts
        ));
    }
    all
}

fn ways(night: &Night, u: UnitSystem) -> Vec<(String, String, bool)> {
    let way =
        |w: &fenlo_core::runtime::WayToFit| (words::way_to_fit(w.way, u), words::span(w.finish), w.fits);
    night.ways.iter().map(way).collect()
}

fn days_view(found: &Times, year: i32, month: u8) -> String {
    let name = |day: u32| {
        let date = Date::of(year, month, day)?;
        Some(format!("{} {day}", DAYS[date.weekday()]))
    };
    let names: Vec<String> = (1..=FORTNIGHT).filter_map(name).collect();
    let names: Vec<&str> = names.iter().map(String::as_str).collect();
    if found.stations.iter().any(StationTimes::runs) {
        fortnight(&found.stations, &names)
    } else {
        String::new()
    }
}

/// What runs on the night of this day, where the month shown is this one.
fn tonight(found: &Times, today: Date, units: UnitSystem) -> Option<Tonight> {
    if Date::of(found.year, found.month, today.day_of_month()) != Some(today) {
        return None;
    }
    let night = &found.night;
    let on = |s: &StationTimes| s.days.as_ref().is_some_and(|d| d.in_month.contains(&today));
    let runs = night.runs.iter().filter(|r| on(&found.stations[r.station]));
    let lines = runs.map(|r| {
        let station = &found.stations[r.station];
        format!(
            "{} {} {}, {} min",
            night.window.clock(r.start).show(units),
            station.number,
            station.name,
            r.minutes
        )
    });
    Some(Tonight {
        day: format!("{} {}", DAYS[today.weekday()], fenlo_words::day(today)),
        lines: lines.collect(),
    })
}

fn row(known: &Assessed, s: &StationTimes, month: u8) -> Row {
    let job = known.job();
    let u = job.units;
    let plain = StationWish::new(&s.valve);
    let wish = job.watering.station(&s.valve).unwrap_or(&plain);
    let number = |share: Option<f64>| share.map_or(String::new(), |n| n.to_string());
    let mut workings = Vec::new();
    if let Some(need) = &s.need {
        workings.push(("Need", words::need_working(need, u)));
        if s.runs() {
            workings.push(("Minutes", words::minutes_working(s, need, u)));
            workings.push(("Frequency", words::interval_working(job, s, need, u)));
            workings.push(("Cycles", words::cycles_working(job, s, need, u)));
        }
    }
    let clock = |start: u32| job.watering.rules.opens.later(start).show(job.units);
    let rhythm = wish.rhythm.map_or("", |r| match r {
        Rhythm::Often => "often",
        Rhythm::Deep => "deep",
    });
    let regime = wish.regime.map_or(String::new(), |r| r.to_string());
    Row {
        valve: s.valve.clone(),
        number: s.number,
        name: s.name.clone(),
        runs: s.runs(),
        later: s.later,
        often: words::how_often(s),
        cycles: words::cycles(s),
        week: format!("{:.0}", s.given_week().minutes()),
        water: words::round_water(month_volume(s, month) / weeks(month), u),
        says: s.says.iter().map(|x| words::station_says(x, u)).collect(),
        workings,
        factor: number(wish.factor),
        factor_hint: s.need.as_ref().map_or(String::new(), |n| format!("{:.2}", n.thirst.plants)),
        density: number(wish.density),
        regimes: choices::of(
            &[("", "by plant type"), ("1", "1: low"), ("2", "2: medium (2×)"), ("3", "3: high (3×)")],
            &regime,
        ),
        rhythms: choices::of(
            &[("", "by its plants"), ("often", "daily, light"), ("deep", "deep, infrequent")],
            rhythm,
        ),
        new_planting: wish.new_planting,
        leafy_shade: wish.leafy_shade,
        controller: wish.controller.to_string(),
        start: wish.start.map_or(String::new(), clock),
        tuned: wish
            .tuned
            .iter()
            .map(|t| {
                let found = match t.found {
                    fenlo_core::plan::GroundState::TooWet => "too wet",
                    fenlo_core::plan::GroundState::TooDry => "too dry",
                    fenlo_core::plan::GroundState::Rained => "rain",
                };
                if let Some(days) = t.rests {
                    let who = if t.who.is_empty() { "no name" } else { &t.who };
                    let plural = if days == 1 { "" } else { "s" };
                    return format!("{}: rain read by {who}, skip {days} day{plural}", t.when);
                }
                let who = if t.who.is_empty() { "no name" } else { &t.who };
                format!("{}: {found} ({who}), run time × {:.2}", t.when, t.share)
            })
            .collect(),
    }
}

/// Needed and given by month, in gallons or litres.
fn year_chart(known: &Assessed, year: &[SheetMonth], month: u8) -> String {
    let u = known.job().units;
    let unit = if u.is_metric() { "m³" } else { "1,000 gal" };
    let value = |v: Volume| {
        if u.is_metric() { v.litres() / 1000.0 } else { v.gal() / 1000.0 }
    };
    let of = |m: &SheetMonth| {
        let need = m
            .stations
            .iter()
            .map(|s| Volume::from_litres(s.flow.lpm() * s.minutes_week.minutes() * weeks(m.month)));
        let name = &SHORT[usize::from(m.month) - 1][..1];
        (name, value(need.sum()), value(m.water))
    };
    let months: Vec<(&str, f64, f64)> = year.iter().map(of).collect();
    year_water(&months, unit, usize::from(month) - 1)
}

fn climate_form(known: &Assessed) -> ClimateForm {
    let job = known.job();
    let u = job.units;
    let climate = job.watering.climate.as_ref();
    let names: Vec<(&str, &str)> = std::iter::once(("", "choose one"))
        .chain(table().iter().map(|s| (s.name.as_str(), s.name.as_str())))
        .collect();
    let source = climate.map_or("", |c| c.source.as_str());
    let chosen = table().iter().find(|s| source.starts_with(&s.name));
    ClimateForm {
        source: source.to_owned(),
        table: choices::of(&names, chosen.map_or("", |s| s.name.as_str())),
        rows: (0..12)
            .map(|m| {
                let known = climate.and_then(|c| c.month(m as u8 + 1));
                let field = |depth: Option<fenlo_core::units::Length>| {
                    depth.map_or(String::new(), |d| d.field_depth(u))
                };
                let (et0, rain) = (known.map(|k| k.et0), known.map(|k| k.rain));
                (SHORT[m], ET0[m], field(et0), RAIN[m], field(rain))
            })
            .collect(),
        bare: climate.map_or(String::new(), |c| {
            let all: Vec<String> = c.bare.iter().map(ToString::to_string).collect();
            all.join(", ")
        }),
        known: climate.is_some(),
    }
}

fn hours_form(known: &Assessed) -> Hours {
    let watering = &known.job().watering;
    let (rules, controller) = (&watering.rules, &watering.controller);
    let u = known.job().units;
    let (word, ticked, every) = match &rules.days {
        DayRule::Any => ("any", vec![], String::new()),
        DayRule::Odd => ("odd", vec![], String::new()),
        DayRule::Even => ("even", vec![], String::new()),
        DayRule::Weekdays { days } => ("weekdays", days.clone(), String::new()),
        DayRule::Every { days } => ("every", vec![], days.to_string()),
    };
    let optional = |n: Option<u32>| n.map_or(String::new(), |n| n.to_string());
    Hours {
        opens: rules.opens.show(u),
        closes: rules.closes.to_string(),
        closed_from: rules.closed.map_or(String::new(), |c| c.from.to_string()),
        closed_to: rules.closed.map_or(String::new(), |c| c.to.to_string()),
        days: choices::of(
            &[
                ("any", "every day"),
                ("odd", "odd dates, except the 31st"),
                ("even", "even dates"),
                ("weekdays", "selected weekdays"),
                ("every", "every n days"),
            ],
            word,
        ),
        weekdays: (1..=7).map(|d: u8| (d, DAYS[usize::from(d) - 1], ticked.contains(&d))).collect(),
        every,
        drip_exempt: rules.drip_exempt,
        most_minutes: optional(rules.most_minutes),
        of: rules.of.clone(),
        tune_step: format!("{:.0}", rules.tune_step * 100.0),
        at_once: controller.at_once,
        programmes: optional(controller.programmes),
        starts: controller.starts,
        delay: if controller.delay.minutes() > 0.0 { controller.delay.field(u) } else { String::new() },
        least_flow: controller.least_flow.map_or(String::new(), |q| q.field(u)),
        master_valve: controller.master_valve,
    }
}

fn usage_form<'a>(known: &'a Assessed, year: &[SheetMonth], today: Date) -> UsageForm<'a> {
    let u = known.job().units;
    let usage = &known.job().watering.usage;
    let by = Decimal::from_f64_retain(price_volume(u) / 1000.0).unwrap_or(Decimal::ONE);
    let steps = usage.tariff.iter().map(|s| {
        let price = (s.price * by).round_dp(4).normalize();
        s.up_to.map_or(price.to_string(), |v| format!("{}: {price}", v.field(u)))
    });
    let rows = used(usage).into_iter().map(|used| {
        let days = (used.to.on.0 - used.from.on.0).num_days().max(1) as f64;
        let planned = planned(year, used.from.on, used.to.on);
        let share = if planned.litres() > 0.0 {
            format!("{:.0}%", used.water / planned * 100.0)
        } else {
            "none planned".into()
        };
        let mut says = reason(used.water, planned);
        if usage.meter_size.is_some_and(|size| planned > size) {
            says = "planned use exceeds one meter rollover. Read it more often".into();
        }
        vec![
            format!("{} to {}", used.from.on, used.to.on),
            words::round_water(used.water, u),
            format!("{} a day", words::round_water(used.water / days, u)),
            words::round_water(planned, u),
            share,
            says,
        ]
    });
    UsageForm {
        tariff: steps.collect::<Vec<_>>().join("; "),
        price_unit: if u.is_metric() { "1 m³" } else { "1,000 gal" },
        meter_size: usage.meter_size.map_or(String::new(), |v| v.field(u)),
        today: today.to_string(),
        rows: rows.collect(),
        usage,
    }
}

/// What the plan would have used from one day up to another.
fn planned(year: &[SheetMonth], from: Date, to: Date) -> Volume {
    let mut sum = Volume::ZERO;
    let mut day = from.0;
    while day < to.0 {
        let month = Date(day).month();
        let all = &year[usize::from(month) - 1];
        sum = sum + all.water / f64::from(fenlo_core::climate::DAYS_IN_MONTH[usize::from(month) - 1]);
        day = match day.succ_opt() {
            Some(next) => next,
            None => break,
        };
    }
    sum
}

/// The likely reason for using more or less than planned.
fn reason(used: Volume, planned: Volume) -> String {
    let share = used / planned.max(Volume::from_litres(1e-9));
    match share {
        _ if planned.litres() <= 0.0 && used.litres() > 0.0 => {
            "water used with nothing scheduled: look for a leak or a manual program".into()
        }
        s if s > 1.5 => "much more: leak, stuck valve, or run times longer than scheduled".into(),
        s if s > 1.15 => "more: run times not reduced for the month, or oversized nozzles".into(),
        s if s < 0.5 => "much less: a station not running, or a closed valve".into(),
        s if s < 0.85 => "less: rain, or a clogged filter".into(),
        _ => "as planned".into(),
    }
}

#[derive(Template)]
#[template(path = "times_sheet.html")]
struct Paper<'a> {
    job: i64,
    name: &'a str,
    place: &'a str,
    year: i32,
    opens: String,
    days: String,
    of: &'a str,
    month_names: [&'static str; 12],
    rows: Vec<PaperRow>,
    adjust: Vec<String>,
    water: Vec<String>,
    water_unit: &'static str,
    costs: Vec<String>,
    master_valve: bool,
    delay: String,
    peak: &'static str,
}

struct PaperRow {
    controller: u8,
    programme: String,
    number: usize,
    name: String,
    starts: String,
    soak: String,
    /// Minutes, and days between.
    months: Vec<(String, String)>,
    water: String,
}

/// The year on one sheet.
pub fn paper(known: &Assessed, today: Date) -> Result<String, AppError> {
    let job = known.job();
    let u = job.units;
    let year = sheet(job, &known.assessment, known.even(), today.year());
    let window = &year.peak.night.window;
    // Each month has its own rhythm: minutes of one watering mean nothing without the days between.
    let cell = |s: &StationTimes| {
        let Some(days) = s.days.as_ref().filter(|_| s.runs()) else {
            return ("–".to_owned(), String::new());
        };
        let minutes = match s.cycles.count {
            1 => s.cycles.minutes.to_string(),
            n => format!("{n}×{}", s.cycles.minutes),
        };
        let gap = format!("{:.1}", days.mean_gap);
        (minutes, format!("{} d", gap.trim_end_matches(".0")))
    };
    let there = year.peak.stations.iter().enumerate().filter(|(_, s)| !s.later);
    let rows = there.map(|(i, s)| {
        let programme = year.programme(i);
        let starts = programme.map_or_else(Vec::new, |(_, p)| {
            p.starts.iter().map(|m| window.clock(*m).show(u)).collect::<Vec<_>>()
        });
        let wish = job.watering.station(&s.valve);
        PaperRow {
            controller: wish.map_or(1, |w| w.controller),
            programme: programme.map_or(String::new(), |p| p.0.to_string()),
            number: s.number,
            name: s.name.clone(),
            starts: starts.join(" "),
            soak: if s.cycles.count > 1 { s.cycles.soak.to_string() } else { String::new() },
            months: year.months.iter().map(|m| cell(&m.stations[i])).collect(),
            water: words::round_water(year.water_of(i), u),
        }
    });
    let tariff = &job.watering.usage.tariff;
    Ok(Paper {
        job: known.open.id,
        name: &job.name,
        place: &job.location,
        year: today.year(),
        opens: format!("{} to {}", window.opens.show(u), job.watering.rules.closes.show(u)),
        days: words::day_rule(&job.watering.rules.days),
        of: &job.watering.rules.of,
        month_names: SHORT,
        rows: rows.collect(),
        adjust: year.months.iter().map(|m| format!("{:.0}%", m.adjust * 100.0)).collect(),
        water: year
            .months
            .iter()
            .map(|m| {
                let thousands = m.water.litres() / price_volume(u);
                format!("{thousands:.1}")
            })
            .collect(),
        water_unit: if u.is_metric() { "m³" } else { "1,000 gal" },
        costs: if tariff.is_empty() {
            Vec::new()
        } else {
            let money = |m: &fenlo_core::runtime::SheetMonth| cost(tariff, m.water);
            year.months
                .iter()
                .map(|m| {
                    money(m).map_or("no price".into(), |c| fenlo_words::money(c, &job.rules.buying.currency))
                })
                .collect()
        },
        master_valve: job.watering.controller.master_valve,
        delay: if job.watering.controller.delay.minutes() > 0.0 {
            job.watering.controller.delay.show(u)
        } else {
            String::new()
        },
        peak: words::month(year.peak.month),
    }
    .render()?)
}
