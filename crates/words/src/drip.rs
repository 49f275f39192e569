//! Drip as it is laid, in words and workings.

use crate::names::{either, nozzle, soil};
use crate::said::counted;
use crate::working::Working;
use fenlo_core::catalogue::Pipe;
use fenlo_core::drip::{DripFault, FlatEstimate, Laid, LongestRow, RowAsk, RowEnd, minutes_to_wet};
use fenlo_core::findings::StoreNeed;
use fenlo_core::job::Job;
use fenlo_core::plan::{DripLaying, HeadGroup, Injection, RowEnds, Store};
use fenlo_core::site::Soil;
use fenlo_core::units::{Flow, Length, Minutes, Rate, Speed, UnitSystem, Volume};
use fenlo_core::zone::{FLUSHED_FROM_FPS, Flushing};

/// Why drip can't be laid.
pub fn drip_fault(fault: &DripFault, u: UnitSystem) -> String {
    match fault {
        DripFault::TooNarrow { width, edge } => format!(
            "the area is {} wide and rows stay {} off each edge, which leaves no room. Reduce the edge \
                distance or draw a single line",
            width.show_tape(u),
            edge.show_tape(u)
        ),
        DripFault::EmittersApart { row, apart } => format!(
            "the longest row is {} but emitters are {} apart. Use closer emitter spacing",
            row.show_tape(u),
            apart.show_tape(u)
        ),
        DripFault::RingTooTight(tight) => format!(
            "a ring of {} emitters passes at most {}, but its feeding emitter gives {}. Use a smaller \
                feeding emitter or more emitters in the ring",
            tight.count,
            emitter_flow(tight.most, u),
            emitter_flow(tight.feed, u)
        ),
        other => other.to_string(),
    }
}

/// The ends of rows, for people.
pub fn row_ends(ends: RowEnds) -> &'static str {
    match ends {
        RowEnds::Headers => "headers at both ends",
        RowEnds::Snake => "one continuous line, snaked and looped back",
        RowEnds::Closed => "header at one end, row ends closed",
    }
}

/// Tubing as laid beside what the area alone says.
pub fn tubing_working(laid: &[Laid], flat: &FlatEstimate, rows: Length, u: UnitSystem) -> Working {
    let dripline: f64 = laid.iter().map(|l| l.dripline().m()).sum();
    let lines: usize = laid.iter().map(|l| l.rows.len()).sum();
    Working::new(
        "total length of all rows as laid",
        "rows laid on the drawing; estimate from area: tubing = area ÷ row spacing",
    )
    .with("rows", lines.to_string())
    .with("row spacing, maximum", rows.show_tape(u))
    .with("estimate from area", flat.tubing.show(u))
    .gives(Length::from_m(dripline).show(u))
}

/// Flow of drip.
pub fn drip_flow_working(emitters: usize, each: Flow, flow: Flow, u: UnitSystem) -> Working {
    Working::new(
        "number of emitters × flow per emitter",
        "pressure-compensating emitters keep the same flow over their range",
    )
    .with("emitters", emitters.to_string())
    .with("flow per emitter", emitter_flow(each, u))
    .gives(fine_flow(flow, u))
}

/// Flow of one emitter, in the unit that emitters are sold by.
pub fn emitter_flow(flow: Flow, u: UnitSystem) -> String {
    if u.is_metric() {
        format!("{:.1} L/h", flow.lpm() * 60.0)
    } else {
        let gph = flow.gpm() * 60.0;
        let digits = if gph < 0.995 { 2 } else { 1 };
        format!("{gph:.digits$} gph")
    }
}

/// A flow with two digits after the point: drip takes little.
pub fn fine_flow(flow: Flow, u: UnitSystem) -> String {
    if u.is_metric() { format!("{:.2} L/min", flow.lpm()) } else { format!("{:.2} gpm", flow.gpm()) }
}

/// Rate of rows and emitters.
pub fn drip_rate_working(each: Flow, rows: Length, emitters: Length, u: UnitSystem) -> (Rate, Working) {
    let rate = Rate::from_mmph(each.lpm() * 60.0 / (rows.m() * emitters.m()).max(1e-9));
    let formula = if u.is_metric() {
        "mm/h = L/h ÷ (row m × emitter m)"
    } else {
        "in/h = 231.1·gph ÷ (row in × emitter in)"
    };
    let working = Working::new(formula, "one emitter over the area it waters")
        .with("flow per emitter", emitter_flow(each, u))
        .with("row spacing, as laid", rows.show_tape(u))
        .with("emitter spacing", emitters.show_tape(u))
        .gives(rate.show(u));
    (rate, working)
}

/// When the wetted circles of neighbours meet.
pub fn wetted_working(ground: Soil, each: Flow, apart: Length, u: UnitSystem) -> (String, Working) {
    let time = minutes_to_wet(ground, each, apart);
    let working = Working::new(
        either(
            u,
            "wetted width grows with √volume: known width · √(volume applied ÷ 0.6 gal)",
            "wetted width grows with √volume: known width · √(volume applied ÷ 2.3 L)",
        ),
        either(
            u,
            "planning values for 0.6 gal: sand 10 in, loam 18 in, clay 24 in; dig and check",
            "planning values for 2.3 L: sand 25 cm, loam 46 cm, clay 61 cm; dig and check",
        ),
    )
    .with("soil", soil(ground))
    .with("flow per emitter", emitter_flow(each, u))
    .with("larger of row and emitter spacing", apart.show_tape(u))
    .gives(time.show(u));
    (time.show(u), working)
}

/// How it flushes.
pub fn flush_working(f: &Flushing, u: UnitSystem) -> Working {
    Working::new(
        "velocity at the slowest row end with the flush valve open",
        format!(
            "zone solved with the flush valve open; {} required",
            Speed::from_fps(FLUSHED_FROM_FPS).show(u)
        ),
    )
    .with("flow out of the flush valve", f.out.show(u))
    .with("total flow while flushing", f.taken.show(u))
    .with("inlet pressure", f.inlet.show(u))
    .gives(f.slowest.show(u))
}

/// The cut list: rows of the same length and first emitter together, the longest first.
pub fn cut_list(laid: &[Laid], u: UnitSystem) -> Vec<(usize, String, String, u32)> {
    let mut rows: Vec<(Length, Length, u32)> =
        laid.iter().flat_map(|l| &l.rows).map(|r| (r.length(), r.first, r.emitters)).collect();
    rows.sort_by(|a, b| b.0.m().total_cmp(&a.0.m()).then(a.1.m().total_cmp(&b.1.m())));
    let mut list: Vec<(usize, String, String, u32)> = Vec::new();
    for (length, first, emitters) in rows {
        let (length, first) = (length.show_tape(u), first.show_tape(u));
        match list.last_mut() {
            Some(last) if last.1 == length && last.2 == first => last.0 += 1,
            _ => list.push((1, length, first, emitters)),
        }
    }
    list
}

/// Why a row is no longer.
pub fn row_end(row: &LongestRow, least: &str) -> String {
    match row.end {
        RowEnd::Least => format!("one more emitter would drop the lowest below {least}"),
        RowEnd::Most => "one more emitter would exceed the maximum pressure downhill".into(),
        RowEnd::Nothing => format!("no row possible: inlet pressure is below {least}"),
        RowEnd::Longer => "longer than practical".into(),
    }
}

/// What is laid on an area, in a sentence.
pub fn drip_laid(job: &Job, group: &HeadGroup, parts: &[Laid]) -> String {
    let u = job.units;
    let emitters: usize = parts.iter().map(|p| p.emitters.len()).sum();
    let flow: Flow = parts.iter().map(Laid::flow).sum();
    let product = job.catalogue().nozzle(&group.nozzle).map_or_else(String::new, |n| nozzle(n, u));
    let longest = match &group.drip {
        Some(DripLaying::Rows(rows)) => rows.longest,
        _ => None,
    };
    let valves = match (parts.len(), longest) {
        (1, _) => String::new(),
        (n, None) => format!(", in {n} parts"),
        (n, Some(most)) => format!(", in {n} parts to keep rows under {}", most.show(u)),
    };
    match &group.drip {
        Some(DripLaying::Rows(rows)) => {
            let lines: usize = parts.iter().map(|p| p.rows.len()).sum();
            let tubing = Length::from_m(parts.iter().map(|p| p.dripline().m()).sum());
            let apart = parts.first().map_or(Length::ZERO, |p| p.row_spacing);
            format!(
                "{}, {} apart; {} of {product}, emitters every {}; {}, {}{valves}",
                counted(lines, "row"),
                apart.show_tape(u),
                tubing.show(u),
                rows.emitter_spacing.show_tape(u),
                counted(emitters, "emitter"),
                fine_flow(flow, u)
            )
        }
        _ => {
            let plants: usize = parts.iter().map(|p| p.plants.len()).sum();
            let line = Length::from_m(parts.iter().map(|p| p.plain_tube().m()).sum());
            format!(
                "{emitters} × {product} at {}, {} of supply line, {}{valves}",
                counted(plants, "plant"),
                line.show(u),
                fine_flow(flow, u)
            )
        }
    }
}

/// A line past plants beside the rule that installers go by.
pub fn line_working(flow: Flow, line: Length, u: UnitSystem) -> Working {
    let rule = if u.is_metric() {
        "1/2 in: about 60 m and 760 L/h per run; 3/4 in: from about 1,800 L/h"
    } else {
        "1/2 in: about 200 ft and 200 gph per run; 3/4 in: from about 480 gph"
    };
    Working::new(
        "shortest route found past all plants",
        "nearest plant first, then improved by 2-opt (Croes 1958); the zone is solved on this route",
    )
    .with("flow", fine_flow(flow, u))
    .with("rule of thumb", rule)
    .gives(line.show(u))
}

/// How long a row could be.
pub fn longest_working(ask: &RowAsk, most: &LongestRow, tube: &Pipe, u: UnitSystem) -> Working {
    let rule =
        if u.is_metric() { "1/2 in: about 60 m and 760 L/h" } else { "1/2 in: about 200 ft and 200 gph" };
    Working::new(
        "friction loss section by section until the last emitter is at its minimum pressure",
        "Hazen-Williams, level ground; for slopes see `fenlo rows`",
    )
    .with("tube", tube.title())
    .with("inlet pressure of the row", ask.inlet.show(u))
    .with("minimum at an emitter", ask.least.show(u))
    .with("emitters", most.emitters.to_string())
    .with("rule of thumb", rule)
    .gives(most.length.show(u))
}

/// What a store lasts for, figure by figure.
pub fn store_figures(store: &Store, need: &StoreNeed, u: UnitSystem) -> Vec<(&'static str, String, Working)> {
    let mut all = Vec::new();
    let lasts =
        if need.days.is_finite() { format!("{:.1} days", need.days) } else { "no area uses it".into() };
    all.push((
        "Supply lasts at peak",
        lasts.clone(),
        Working::new("7 × tank volume ÷ need of the peak week", "assuming no rain")
            .with("tank volume", store.volume.show(u))
            .with("need of the peak week", need.week.show(u))
            .gives(lasts),
    ));
    if let (Some(brings), Some(fills)) = (need.inch_of_rain, need.rain_to_fill) {
        let formula =
            if u.is_metric() { "L = m² · mm · 0.85" } else { "gal = 0.623 · ft² · in · 0.85" };
        all.push((
            "Rain to fill it",
            fills.show_depth(u),
            Working::new(formula, "85% of roof rainfall reaches the tank")
                .with(format!("{} of rain yields", Length::from_in(1.0).show_depth(u)), brings.show(u))
                .with("holds", store.volume.show(u))
                .gives(fills.show_depth(u)),
        ));
    }
    if let (Some(watts), Some(ah)) = (store.battery_watts, need.battery_ah) {
        all.push((
            "Battery for one week",
            format!("{ah:.0} Ah at 12 V"),
            Working::new("W · h ÷ 12 V · 1.5", "1.5 reserve, so the battery is not run flat")
                .with("pump power", format!("{watts:.0} W"))
                .with("run time per week", need.running.show(u))
                .gives(format!("{ah:.0} Ah")),
        ));
    }
    all
}

/// Fertilizer of one watering of a zone: how fast it goes in, how thin it gets, how long to rinse.
pub fn injection_working(injection: &Injection, flow: Flow, pipes: Volume, u: UnitSystem) -> Working {
    let rate = Flow::from_lpm(injection.stock.litres() / injection.over.minutes().max(1e-9));
    let thin = flow.lpm() / rate.lpm().max(1e-9);
    let rinse = Minutes::from_minutes(2.0 * pipes.litres() / flow.lpm().max(1e-9));
    Working::new(
        "injection rate = stock ÷ minutes; dilution 1 : (flow ÷ rate); rinse with twice the pipe volume",
        "fertilizer label and local code take precedence",
    )
    .with("stock", format!("{} over {}", injection.stock.show(u), injection.over.show(u)))
    .with("flow of the zone", flow.show(u))
    .with("injection rate", emitter_flow(rate, u))
    .with("pipe volume", pipes.show(u))
    .with("minimum rinse", rinse.show(u))
    .gives(format!("dilution 1:{thin:.0}"))
}

/// Rows that run at a time, and turns that it takes.
pub fn rows_at_once(rows: usize, each: Flow, available: Flow) -> (usize, usize) {
    let fit = (available.lpm() / each.lpm().max(1e-9) + 1e-9).floor() as usize;
    let at_once = fit.clamp(1, rows.max(1));
    (at_once, rows.div_ceil(at_once))
}

/// How many rows the water feeds at a time.
pub fn at_once_working(
    available: Flow,
    each: Flow,
    per_100_ft: Flow,
    (at_once, turns): (usize, usize),
    u: UnitSystem,
) -> Working {
    let per = if u.is_metric() { "tape flow per 30 m" } else { "tape flow per 100 ft" };
    Working::new("design flow ÷ flow per row, rounded down", "one shutoff per row; the others stay closed")
        .with("design flow", available.show(u))
        .with("flow of a row", fine_flow(each, u))
        .with(per, fine_flow(per_100_ft, u))
        .gives(format!("{at_once} rows at a time, {turns} group{}", if turns == 1 { "" } else { "s" }))
}

/// How long a basin takes to fill, on the mean of the plants of a zone.
pub fn basin_working(basin: Volume, flow: Flow, plants: usize, u: UnitSystem) -> Working {
    let each = flow * (1.0 / plants.max(1) as f64);
    let time = Minutes::from_minutes(basin.litres() / each.lpm().max(1e-9));
    Working::new("basin volume ÷ flow per plant", "solved flow, average over the plants")
        .with("basin volume", basin.show(u))
        .with("plants", plants.to_string())
        .with("flow per plant", fine_flow(each, u))
        .gives(time.show(u))
}
