//! A night as lanes by station, with the water beneath; and the days of a fortnight.

use crate::colour;
use crate::svg::{Anchor, Svg, Type, escape, nice_step, tick};
use fenlo_core::job::Job;
use fenlo_core::runtime::{Night, NightRun, StationTimes};
use fenlo_core::units::{Flow, UnitSystem};
use std::fmt::Write;

const WIDTH: f64 = 960.0;
const LEFT: f64 = 196.0;
const RIGHT: f64 = 14.0;
const TOP: f64 = 26.0;
const LANE: f64 = 24.0;
const WATER: f64 = 74.0;
const GAP: f64 = 34.0;
/// Names longer than this are cut.
const NAME: usize = 23;

const SMALL: Type = Type { size: 12.0, bold: false, fill: colour::SOFT };
const PLAIN: Type = Type { size: 13.0, bold: false, fill: colour::INK };

/// The drawing's minutes to its own units.
struct Axis {
    minutes: f64,
}

impl Axis {
    fn x(&self, minute: u32) -> f64 {
        LEFT + (WIDTH - LEFT - RIGHT) * f64::from(minute) / self.minutes
    }
}

/// Lanes of a night: a bar for every run, a thin line where a station soaks, what is closed hatched, and
/// beneath for each connection the water by the minute against its design flow. A bar carries what a page
/// needs to drag it: `data-run` (valve), `data-start`, and on the drawing `data-minute`, the width of a
/// minute.
pub fn night_lanes(job: &Job, stations: &[StationTimes], night: &Night, u: UnitSystem) -> String {
    let mut lanes: Vec<usize> = Vec::new();
    for run in &night.runs {
        if !lanes.contains(&run.station) {
            lanes.push(run.station);
        }
    }
    let used: Vec<_> = night.flows.iter().filter(|f| f.peak > Flow::ZERO).collect();
    let span = night.window.length.max(night.all_done) + 10;
    let axis = Axis { minutes: f64::from(span) };
    let base = TOP + LANE * lanes.len() as f64;
    let height = base + used.len() as f64 * (WATER + GAP) + 12.0;
    let mut svg = Svg::new(WIDTH, height, "night", "Runs of the night by station");
    let _ = write!(
        Attributes(&mut svg),
        r#"<g class="lanes" data-minute="{:.4}" data-left="{LEFT}">"#,
        (WIDTH - LEFT - RIGHT) / axis.minutes
    );
    ground(&mut svg, night, &axis, base, u);
    for (row, place) in lanes.iter().enumerate() {
        lane(&mut svg, job, &stations[*place], *place, night, &axis, TOP + LANE * row as f64);
    }
    svg.raw("</g>");
    for (n, flow) in used.iter().enumerate() {
        let top = base + GAP + (WATER + GAP) * n as f64;
        let of = |s: usize| {
            if stations[s].later {
                return flow.peak.lpm().gt(&0.0).then_some(stations[s].flow).filter(|_| n == 0);
            }
            let supply = job.valve(&stations[s].valve).map(|v| v.supply.as_str());
            (supply == Some(flow.supply.as_str())).then_some(stations[s].flow)
        };
        let name = job.supply(&flow.supply).map_or("", |s| s.name.as_str());
        water(&mut svg, night, &axis, top, name, flow.design, &of, u);
    }
    // Bars can be taken hold of: a group of things, not a picture.
    svg.finish().replacen("role=\"img\"", "role=\"group\"", 1)
}

/// Writes into a drawing as text.
struct Attributes<'a>(&'a mut Svg);

impl Write for Attributes<'_> {
    fn write_str(&mut self, text: &str) -> std::fmt::Result {
        self.0.raw(text);
        Ok(())
    }
}

/// Window, hours, what is closed.
fn ground(svg: &mut Svg, night: &Night, axis: &Axis, base: f64, units: UnitSystem) {
    let window = &night.window;
    let end = axis.x(window.length);
    svg.rect(LEFT, TOP, end - LEFT, base - TOP, colour::OK_FAINT);
    let all = axis.minutes as u32;
    for (from, to) in window.closed.iter().filter(|c| c.0 < all) {
        let to = (*to).min(all);
        svg.rect(axis.x(*from), TOP, axis.x(to) - axis.x(*from), base - TOP, colour::TROUGH);
    }
    let step = if all > 16 * 60 { 120 } else { 60 };
    let first = (60 - window.opens.minutes() % 60) % 60;
    for minute in (first..=all).step_by(step) {
        let x = axis.x(minute);
        svg.line((x, TOP), (x, base), colour::LINE, 1.0, false);
        svg.text((x, TOP - 8.0), Anchor::Middle, SMALL, &window.clock(minute).show(units));
    }
    svg.line((end, TOP), (end, base), colour::STOP, 1.5, true);
    if f64::from(window.length) < axis.minutes - 60.0 {
        svg.text((end + 4.0, base - 4.0), Anchor::Start, SMALL, "window ends");
    }
}

fn lane(
    svg: &mut Svg,
    job: &Job,
    station: &StationTimes,
    place: usize,
    night: &Night,
    axis: &Axis,
    top: f64,
) {
    let middle = top + LANE / 2.0;
    svg.line((8.0, top + LANE), (WIDTH - RIGHT, top + LANE), colour::LINE, 0.6, false);
    let number = Type { bold: true, ..PLAIN };
    svg.text((28.0, middle + 4.5), Anchor::End, number, &station.number.to_string());
    svg.text((36.0, middle + 4.5), Anchor::Start, PLAIN, &cut(&station.name));
    let runs: Vec<&NightRun> = night.runs.iter().filter(|r| r.station == place).collect();
    let shade = colour::ZONES[(station.number.max(1) - 1) % colour::ZONES.len()];
    for pair in runs.windows(2) {
        svg.line((axis.x(pair[0].end()), middle), (axis.x(pair[1].start), middle), shade, 1.5, true);
    }
    let wish = job.watering.station(&station.valve);
    let kept = wish.is_some_and(|w| w.start.is_some());
    for run in &runs {
        let (from, to) = (axis.x(run.start), axis.x(run.end()));
        let wide = (to - from).max(2.0);
        let said = format!(
            "{} {}: {} min from {}{}",
            station.number,
            station.name,
            run.minutes,
            night.window.clock(run.start).show(job.units),
            if kept { ", start set by hand" } else { "" }
        );
        let first = run.cycle == 0;
        let grip = if first && !station.later {
            format!(
                r#" class="run grip" tabindex="0" role="slider" aria-valuemin="0" aria-valuemax="1439"
                  aria-valuenow="{}" aria-valuetext="{}" data-run="{}" data-start="{}""#,
                run.start,
                night.window.clock(run.start).show(job.units),
                escape(&station.valve),
                run.start
            )
        } else {
            r#" class="run""#.to_owned()
        };
        let _ = write!(
            Attributes(svg),
            r#"<g{grip} aria-label="{0}"><title>{0}</title><rect x="{from:.1}" y="{1:.1}"
              width="{wide:.1}" height="{2}" rx="2" fill="{shade}"/>"#,
            escape(&said),
            top + 4.0,
            LANE - 8.0
        );
        if kept && first {
            let _ = write!(
                Attributes(svg),
                r#"<circle cx="{from:.1}" cy="{middle:.1}" r="4" fill="{}" stroke="{shade}" stroke-width="2"/>"#,
                colour::CARD
            );
        }
        if wide > 26.0 {
            let inside = Type { size: 12.0, bold: true, fill: colour::WHITE };
            svg.text((from + wide / 2.0, middle + 4.5), Anchor::Middle, inside, &run.minutes.to_string());
        }
        svg.raw("</g>");
    }
}

/// Water by the minute against the design flow.
#[allow(clippy::too_many_arguments, reason = "a drawing's measures, each plain")]
fn water(
    svg: &mut Svg,
    night: &Night,
    axis: &Axis,
    top: f64,
    name: &str,
    design: Option<Flow>,
    of: &dyn Fn(usize) -> Option<Flow>,
    u: UnitSystem,
) {
    let base = top + WATER;
    let value = |q: Flow| if u.is_metric() { q.lpm() } else { q.gpm() };
    let mut steps: Vec<(u32, f64)> = Vec::new();
    for minute in night.steps() {
        let now: Flow = night.running(minute).into_iter().filter_map(of).sum();
        steps.push((minute, value(now)));
    }
    let most = steps.iter().map(|s| s.1).fold(design.map_or(0.0, value), f64::max) * 1.12;
    let y = |q: f64| base - WATER * q / most.max(1e-9);
    let step = nice_step(most, 3.0);
    let mut mark = step;
    while mark < most {
        svg.line((LEFT, y(mark)), (WIDTH - RIGHT, y(mark)), colour::LINE, 0.6, false);
        svg.text((LEFT - 6.0, y(mark) + 4.0), Anchor::End, SMALL, &tick(mark, step));
        mark += step;
    }
    let mut points = vec![(LEFT, base)];
    let mut last = 0.0;
    for (minute, q) in &steps {
        points.push((axis.x(*minute), y(last)));
        points.push((axis.x(*minute), y(*q)));
        last = *q;
    }
    points.push((points[points.len() - 1].0, base));
    svg.path(&points, colour::WATER, 1.2, colour::WATER_THIN, false);
    svg.line((LEFT, base), (WIDTH - RIGHT, base), colour::INK, 1.0, false);
    svg.text((8.0, top + 14.0), Anchor::Start, PLAIN, &cut(name));
    svg.text((8.0, top + 31.0), Anchor::Start, SMALL, &format!("water, {}", Flow::unit(u)));
    if let Some(design) = design {
        let at = y(value(design));
        svg.line((LEFT, at), (WIDTH - RIGHT, at), colour::EARTH, 1.4, true);
        let said = Type { fill: colour::EARTH_DEEP, ..SMALL };
        let text = format!("design flow {}", design.show(u));
        svg.text((WIDTH - RIGHT - 4.0, at - 4.0), Anchor::End, said, &text);
    }
}

fn cut(name: &str) -> String {
    let short: String = name.chars().take(NAME).collect();
    if name.chars().count() > NAME { short + "…" } else { short }
}

/// The first two weeks of a month: which stations run on which night, with their minutes.
pub fn fortnight(stations: &[StationTimes], weekdays: &[&str]) -> String {
    let shown: Vec<&StationTimes> = stations.iter().filter(|s| s.runs()).collect();
    let days = weekdays.len().max(1);
    let base = TOP + LANE * shown.len() as f64;
    let mut svg = Svg::new(WIDTH, base + 10.0, "night", "Nights on which stations run");
    let wide = (WIDTH - LEFT - RIGHT) / days as f64;
    for (day, name) in weekdays.iter().enumerate() {
        let x = LEFT + wide * day as f64;
        svg.text((x + wide / 2.0, TOP - 8.0), Anchor::Middle, SMALL, name);
        svg.line((x, TOP), (x, base), colour::LINE, 0.6, false);
    }
    for (row, station) in shown.iter().enumerate() {
        let top = TOP + LANE * row as f64;
        let middle = top + LANE / 2.0 + 4.5;
        svg.line((8.0, top + LANE), (WIDTH - RIGHT, top + LANE), colour::LINE, 0.6, false);
        let number = Type { bold: true, ..PLAIN };
        svg.text((28.0, middle), Anchor::End, number, &station.number.to_string());
        svg.text((36.0, middle), Anchor::Start, PLAIN, &cut(&station.name));
        let shade = colour::ZONES[(station.number.max(1) - 1) % colour::ZONES.len()];
        let on = station.days.iter().flat_map(|d| &d.in_month);
        for date in on {
            let day = date.day_of_month() as usize - 1;
            if day >= days {
                continue;
            }
            let x = LEFT + wide * day as f64;
            svg.rect(x + 2.0, top + 4.0, wide - 4.0, LANE - 8.0, shade);
            let inside = Type { size: 12.0, bold: true, fill: colour::WHITE };
            let minutes = station.cycles.running().to_string();
            svg.text((x + wide / 2.0, middle), Anchor::Middle, inside, &minutes);
        }
    }
    svg.finish()
}

/// Water of a year by month: what plants need as lines, what is given as bars.
pub fn year_water(months: &[(&str, f64, f64)], unit: &str, chosen: usize) -> String {
    let (w, h, left, top, base) = (300.0, 180.0, 40.0, 24.0, 154.0);
    let mut svg = Svg::new(w, h, "curve", "Water needed and applied by month");
    let most = months.iter().map(|m| m.1.max(m.2)).fold(0.0, f64::max).max(1e-9) * 1.1;
    let y = |v: f64| base - (base - top) * v / most;
    let step = nice_step(most, 4.0);
    let mut mark = 0.0;
    while mark <= most {
        svg.line((left, y(mark)), (w - 6.0, y(mark)), colour::LINE, 0.6, false);
        svg.text((left - 5.0, y(mark) + 4.0), Anchor::End, SMALL, &tick(mark, step));
        mark += step;
    }
    svg.text((6.0, 13.0), Anchor::Start, SMALL, unit);
    let wide = (w - left - 6.0) / months.len().max(1) as f64;
    for (i, (name, need, given)) in months.iter().enumerate() {
        let x = left + wide * i as f64;
        let fill = if i == chosen { colour::WATER } else { colour::MAP_WET };
        svg.rect(x + 3.0, y(*given), wide - 6.0, base - y(*given), fill);
        let ends = ((x + 1.0, y(*need)), (x + wide - 1.0, y(*need)));
        svg.line(ends.0, ends.1, colour::EARTH, 2.2, false);
        svg.text((x + wide / 2.0, base + 15.0), Anchor::Middle, SMALL, name);
    }
    svg.line((left, base), (w - 6.0, base), colour::INK, 1.0, false);
    svg.finish()
}
