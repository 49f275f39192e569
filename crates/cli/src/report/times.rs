//! Run times and their night, as text and as JSON.

use fenlo_core::job::Job;
use fenlo_core::runtime::{Basis, Night, SheetMonth, StationTimes, Times, month_volume, saved_by_months};
use fenlo_core::units::UnitSystem;
use fenlo_words as words;
use serde_json::{Value, json};
use std::fmt::Write;

pub fn times_json(job: &Job, times: &Times, year: &[SheetMonth]) -> String {
    let saved = saved_by_months(job, year);
    let u = job.units;
    let stations: Vec<Value> = times.stations.iter().map(|s| station(s, times.month, u)).collect();
    super::pretty(&json!({
        "month": times.month,
        "year": times.year,
        "et0_mm_week": times.week.water.et0.mm(),
        "rain_mm_week": times.week.water.rain.mm(),
        "water_from": words::water_from(times.from, times.month),
        "stations": stations,
        "night": night(job, times),
        "year": year.iter().map(month).collect::<Vec<_>>(),
        "saved_by_months": {
            "litres": saved.0.litres(),
            "cost": saved.1,
        },
    }))
}

/// A month of the controller sheet.
fn month(m: &SheetMonth) -> Value {
    let stations = m.stations.iter().filter(|s| !s.later).map(|s| {
        json!({
            "valve": s.valve,
            "cycles": s.cycles.count,
            "minutes_cycle": s.cycles.minutes,
            "days_between": s.days.as_ref().filter(|_| s.runs()).map(|d| d.mean_gap),
            "litres": month_volume(s, m.month).litres(),
        })
    });
    json!({
        "month": m.month,
        "seasonal_adjust": m.adjust,
        "litres": m.water.litres(),
        "cost": m.cost,
        "stations": stations.collect::<Vec<_>>(),
    })
}

fn station(s: &StationTimes, month: u8, u: UnitSystem) -> Value {
    let need = s.need.as_ref();
    let plant = need.and_then(|n| match &n.basis {
        Basis::Plant { plant, wants, gives, .. } => {
            Some(json!({"plant": plant, "litres_week": wants.litres(), "flow_lpm": gives.lpm()}))
        }
        Basis::Ground { .. } => None,
    });
    let multiplier = need.and_then(|n| match &n.basis {
        Basis::Ground { multiplier, .. } => Some(*multiplier),
        Basis::Plant { .. } => None,
    });
    json!({
        "valve": s.valve,
        "number": s.number,
        "name": s.name,
        "group": need.map(|n| &n.group),
        "need_mm_week": need.map(|n| n.depth.mm()),
        "factor": need.map(|n| n.thirst.factor()),
        "rate_mmph": need.map(|n| n.rate().mmph()),
        "du": need.map(|n| n.du()),
        "multiplier": multiplier,
        "by_plant": plant,
        "flow_lpm": s.flow.lpm(),
        "minutes_week": s.minutes_week.minutes(),
        "dose_mm": s.dose.mm(),
        "days": s.days.as_ref().map_or(0.0, |d| d.a_week()),
        "days_between": s.days.as_ref().map(|d| d.mean_gap),
        "minutes_day": s.minutes_day.minutes(),
        "longest_run_minutes": s.longest.map(|l| l.minutes()),
        "cycles": s.cycles.count,
        "minutes_cycle": s.cycles.minutes,
        "soak_minutes": s.cycles.soak,
        "given_minutes_week": s.given_week().minutes(),
        "missing_minutes_week": s.missing().minutes(),
        "litres_month": month_volume(s, month).litres(),
        "says": s.says.iter().map(|x| words::station_says(x, u)).collect::<Vec<_>>(),
    })
}

fn night(job: &Job, times: &Times) -> Value {
    let night = &times.night;
    let runs: Vec<Value> = night
        .runs
        .iter()
        .map(|r| {
            json!({
                "valve": times.stations[r.station].valve,
                "cycle": r.cycle + 1,
                "start": r.start,
                "minutes": r.minutes,
            })
        })
        .collect();
    let flows: Vec<Value> = night
        .flows
        .iter()
        .map(|f| json!({"supply": f.supply, "design_lpm": f.design.map(|d| d.lpm()), "peak_lpm": f.peak.lpm()}))
        .collect();
    let ways: Vec<Value> = night
        .ways
        .iter()
        .map(|w| json!({"way": words::way_to_fit(w.way, job.units), "finish": w.finish, "fits": w.fits}))
        .collect();
    json!({
        "opens": night.window.opens.to_string(),
        "window": night.window.length,
        "runs": runs,
        "finish": night.finish,
        "lower_bound": night.bound.minutes,
        "bound_by": words::bound_by(night, &times.stations, job),
        "proven": night.is_proven(),
        "fits": night.fits(),
        "peak_flow_lpm": night.peak().lpm(),
        "flows": flows,
        "lowest_margin_kpa": night.margin.as_ref().map(|m| m.0.kpa()),
        "broken": night.broken.iter().map(|b| words::broken(b, night, &times.stations, job.units)).collect::<Vec<_>>(),
        "under_least_minutes": night.under_least,
        "ways_to_fit": ways,
    })
}

pub fn times_text(job: &Job, times: &Times) -> String {
    let u = job.units;
    let mut out = String::new();
    line!(out, "{}: {} {}", job.name, words::month(times.month), times.year);
    if let Some(said) = words::water_from(times.from, times.month) {
        line!(out, "  {said}");
    }
    line!(
        out,
        "  ET {} per week, rain {}",
        times.week.water.et0.show_depth(u),
        times.week.water.rain.show_depth(u)
    );
    for s in &times.stations {
        line!(out);
        line!(out, "{:>3}  {}", s.number, s.name);
        if let Some(need) = &s.need {
            line!(
                out,
                "     need {} per week, {}, DU {:.2}: {} per week",
                need.depth.show_depth(u),
                need.rate().show(u),
                need.du(),
                words::minutes(s.minutes_week)
            );
        }
        if s.runs() {
            line!(out, "     {}: {}", words::how_often(s), words::cycles(s));
        }
        for says in &s.says {
            line!(out, "     {}", words::station_says(says, u));
        }
    }
    night_text(&mut out, job, times, &times.night, u);
    out
}

fn night_text(out: &mut String, job: &Job, times: &Times, night: &Night, u: UnitSystem) {
    line!(out);
    if night.runs.is_empty() {
        line!(out, "NIGHT  no watering");
        return;
    }
    line!(
        out,
        "NIGHT  from {}, done at {} after {} (lower bound {}: {}){}",
        night.window.opens.show(u),
        night.window.clock(night.finish).show(u),
        words::span(night.finish),
        words::span(night.bound.minutes),
        words::bound_by(night, &times.stations, job),
        if night.fits() { "" } else { "; it does not fit the window" }
    );
    for run in &night.runs {
        line!(
            out,
            "  {}  {:>3} min  {}",
            night.window.clock(run.start).show(u),
            run.minutes,
            times.stations[run.station].name
        );
    }
    for flow in &night.flows {
        let name = job.supply(&flow.supply).map_or("", |s| s.name.as_str());
        let design = flow.design.map_or("not known".into(), |d| d.show(u));
        line!(out, "  {name}: peak flow {}, design flow {design}", flow.peak.show(u));
    }
    for broken in &night.broken {
        line!(out, "  {}", words::broken(broken, night, &times.stations, u));
    }
    let margin = words::margin_said(night, &times.stations, u);
    if !margin.is_empty() {
        line!(out, "  {margin}");
    }
    for way in &night.ways {
        let fits = if way.fits { "fits" } else { "does not fit" };
        line!(out, "  option: {}: {} ({fits})", words::way_to_fit(way.way, u), words::span(way.finish));
    }
}
