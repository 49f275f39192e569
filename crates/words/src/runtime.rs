//! Run times in words and workings.

use crate::names::soil;
use crate::pricing::two_digits;
use crate::said::{counted, in_a_row};
use crate::working::{Working, percent};
use crate::zone_fault;
use fenlo_core::job::Job;
use fenlo_core::plan::{DayRule, Rhythm};
use fenlo_core::runtime::{
    Basis, BoundBy, Broken, EvennessFrom, Need, Night, SoilWater, StationSays, StationTimes, Suspect,
    WaterFrom, Way,
};
use fenlo_core::units::{Minutes, UnitSystem, Volume};
use rust_decimal::Decimal;

const MONTHS: [&str; 12] = [
    "January",
    "February",
    "March",
    "April",
    "May",
    "June",
    "July",
    "August",
    "September",
    "October",
    "November",
    "December",
];

const WEEKDAYS: [&str; 7] = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];

/// A month from 1.
pub fn month(month: u8) -> &'static str {
    MONTHS[usize::from(month.clamp(1, 12)) - 1]
}

/// Days on which watering may begin.
pub fn day_rule(rule: &DayRule) -> String {
    match rule {
        DayRule::Any => "every day".into(),
        DayRule::Odd => "odd dates, except the 31st".into(),
        DayRule::Even => "even dates".into(),
        DayRule::Weekdays { days } => {
            let names = days.iter().filter_map(|d| WEEKDAYS.get(usize::from(*d).wrapping_sub(1)));
            names.copied().collect::<Vec<_>>().join(", ")
        }
        DayRule::Every { days: 1 } => "every day".into(),
        DayRule::Every { days } => format!("every {days} days"),
    }
}

/// How often a station runs.
pub fn how_often(station: &StationTimes) -> String {
    match &station.days {
        None => "not at all".into(),
        Some(days) if days.mean_gap < 1.02 => "every day".into(),
        Some(days) if (days.mean_gap - days.mean_gap.round()).abs() < 0.02 => {
            format!("every {:.0} days", days.mean_gap)
        }
        Some(days) => format!("{:.1} times per week", days.a_week()),
    }
}

/// Its cycles.
pub fn cycles(station: &StationTimes) -> String {
    let cycles = station.cycles;
    match cycles.count {
        0 => "none".into(),
        1 => format!("{} min", cycles.minutes),
        n => format!("{n} × {} min, {} min soak", cycles.minutes, cycles.soak),
    }
}

/// Minutes as hours and minutes.
pub fn span(minutes: u32) -> String {
    match (minutes / 60, minutes % 60) {
        (0, m) => format!("{m} min"),
        (h, 0) => format!("{h} h"),
        (h, m) => format!("{h} h {m} min"),
    }
}

/// Water in round figures: gallons or litres, thousands apart.
pub fn round_water(water: Volume, u: UnitSystem) -> String {
    let (value, unit) = if u.is_metric() {
        if water.litres() >= 10_000.0 {
            return format!("{:.1} m³", water.litres() / 1000.0);
        }
        (water.litres(), "L")
    } else {
        (water.gal(), "gal")
    };
    if value < 0.005 {
        return format!("0 {unit}");
    }
    if value < 10.0 {
        return format!("{value:.2} {unit}");
    }
    let digits = format!("{value:.0}");
    let mut grouped = String::new();
    for (i, c) in digits.chars().enumerate() {
        if i > 0 && (digits.len() - i).is_multiple_of(3) {
            grouped.push(',');
        }
        grouped.push(c);
    }
    format!("{grouped} {unit}")
}

/// Where a month's evaporation comes from, where that is not the job's climate.
pub fn water_from(from: WaterFrom, asked: u8) -> Option<String> {
    match from {
        WaterFrom::Climate => None,
        WaterFrom::PeakWeek => Some(
            "No climate data. Every month is calculated as the company's peak week without rain. Choose a \
                climate or enter ET and rain"
                .into(),
        ),
        WaterFrom::MonthMissing => Some(format!(
            "No climate data for {}: calculated as the company's peak week without rain",
            month(asked)
        )),
    }
}

/// What is to be said of a station.
pub fn station_says(says: &StationSays, u: UnitSystem) -> String {
    match says {
        StationSays::Unsolved(fault) => format!("no run times: {}", zone_fault(fault, u)),
        StationSays::RainGivesAll => "rain covers its plants; no run needed".into(),
        StationSays::NothingComes(name) => format!("no flow at {name}; check its pressure"),
        StationSays::RunsOff { rate, intake } => format!(
            "water runs off within a minute: precipitation rate {}, soil takes {}. Use lower-rate heads or \
                drip",
            rate.show(u),
            intake.show(u)
        ),
        StationSays::NoDay => "watering rules leave no day for this zone".into(),
        StationSays::DaysTooFar { gap, holds: 1 } => {
            format!(
                "up to {gap} days between waterings, but the root zone holds 1 day of water. Expect dry \
                    stress"
            )
        }
        StationSays::DaysTooFar { gap, holds } => format!(
            "up to {gap} days between waterings, but the root zone holds {holds} days of water. Expect dry \
                stress"
        ),
        StationSays::Missing(minutes) => {
            format!("{:.0} min/week short: watering rules allow no more", minutes.minutes())
        }
        StationSays::UsualEvenness => {
            "heads are listed, not drawn: DU is a typical audit value for this head type".into()
        }
        StationSays::Uneven(du) => format!(
            "DU {du:.2} would need run times over 1.67 times as long, which is capped. Fix the layout \
                instead of overwatering"
        ),
        StationSays::OthersGetMore { name, times } => format!(
            "the area that needs most sets the run time; {name} on the same valve gets {times:.1} times \
                its need"
        ),
        StationSays::RhythmDiffers { name, days: 1 } => {
            format!("{name} on the same valve needs water every day")
        }
        StationSays::RhythmDiffers { name, days } => {
            format!("{name} on the same valve needs water every {days} days")
        }
        StationSays::KeptBack => {
            "future area: flow, station and wire reserved, nothing in the parts list".into()
        }
        StationSays::Drains(volume) => format!(
            "its drain valve empties {} after every run (included). Fewer, longer runs lose less",
            round_water(*volume, u)
        ),
        StationSays::LongerThanWindow { chain, window } => {
            format!("cycles and soaks take {}; the watering window is {}", span(*chain), span(*window))
        }
    }
}

/// The arithmetic of a need.
pub fn need_working(need: &Need, u: UnitSystem) -> Working {
    let thirst = &need.thirst;
    Working::new(
        "ET₀ × plant factor × exposure × density − half of the rain",
        "FAO-56 (1998) reference ET; plant factors and effective rain are planning values",
    )
    .with("ET₀ per week", need.week.water.et0.show_depth(u))
    .with(
        if thirst.typed { "plant factor, entered" } else { "plant factor" },
        format!("{:.2}", thirst.plants),
    )
    .with("exposure", format!("{:.2}", thirst.exposure))
    .with("density", format!("{:.2}", thirst.density))
    .with("rain per week", need.week.water.rain.show_depth(u))
    .gives(format!("{} per week", need.depth.show_depth(u)))
}

/// The arithmetic of a week's minutes.
pub fn minutes_working(station: &StationTimes, need: &Need, u: UnitSystem) -> Working {
    let working = match &need.basis {
        Basis::Ground { rate, evenness, multiplier } => Working::new(
            "60 × need ÷ rate × 1 ÷ (0.4 + 0.6 × DU)",
            "so the driest quarter gets enough; capped at 1.67",
        )
        .with("need per week", need.depth.show_depth(u))
        .with("precipitation rate, solved", rate.show(u))
        .with(evenness_name(evenness.from), format!("{:.2}", evenness.du))
        .with("run-time multiplier", format!("{multiplier:.3}")),
        Basis::Plant { canopy, wants, gives, .. } => Working::new(
            "need × canopy area ÷ emitter flow",
            "emitters at single plants, so no uniformity correction",
        )
        .with("need per week", need.depth.show_depth(u))
        .with("canopy area", canopy.show(u))
        .with("water per week", round_water(*wants, u))
        .with("emitter flow, solved", crate::emitter_flow(*gives, u)),
    };
    let working = if (station.tuned - 1.0).abs() > 1e-9 {
        working.with("field adjustment", percent(station.tuned))
    } else {
        working
    };
    working.gives(format!("{:.1} min/week", station.minutes_week.minutes()))
}

fn evenness_name(from: EvennessFrom) -> &'static str {
    match from {
        EvennessFrom::Simulated(_) => "DU, expected (simulated)",
        EvennessFrom::Usual => "DU, typical for this head type",
        EvennessFrom::Emitters => "emission uniformity",
        EvennessFrom::Plants => "uniformity",
    }
}

/// The arithmetic of how often.
pub fn interval_working(job: &Job, station: &StationTimes, need: &Need, u: UnitSystem) -> Working {
    let group = job.group(&need.group);
    let of = group.map_or("", |g| soil(g.soil));
    let daily = need.depth / 7.0;
    let working = Working::new(
        "root depth × available water × 50% ÷ daily need, rounded down",
        "allowed depletion 50% of available water",
    )
    .with("soil", of)
    .with("allowed depletion", station.dose.show_depth(u))
    .with(
        "daily need",
        if u.is_metric() { format!("{:.1} mm", daily.mm()) } else { format!("{:.3} in", daily.inches()) },
    );
    let working = match station.rhythm {
        Rhythm::Often => working.with("frequency", "daily"),
        Rhythm::Deep => working.with("frequency", "as seldom as the root zone allows"),
    };
    let working = match &station.days {
        Some(days) => working.with("interval", format!("at most {}", counted(days.wanted as usize, "day"))),
        None => working,
    };
    working.gives(how_often(station))
}

/// The arithmetic of cycles.
pub fn cycles_working(job: &Job, station: &StationTimes, need: &Need, u: UnitSystem) -> Working {
    let Some(group) = job.group(&need.group) else {
        return Working::new("", "");
    };
    let held = SoilWater::of(group.soil);
    let working = Working::new(
        "longest cycle = 60 × surface storage ÷ (rate − intake rate); soak = 60 × surface storage ÷ intake \
            rate",
        "allowable surface accumulation by soil and slope, planning values",
    )
    .with("soil, slope", format!("{}, {:.0}%", soil(group.soil), group.slope_percent))
    .with("surface storage", held.surface_on(group.slope_percent).show_depth(u))
    .with("intake rate", held.intake.show(u))
    .with("rate", need.rate().show(u))
    .with("longest cycle", station.longest.map_or("no limit".into(), |l| format!("{:.1} min", l.minutes())))
    .with("needed per watering day", format!("{:.1} min", station.minutes_day.minutes()));
    working.gives(cycles(station))
}

/// What minutes by the month save; empty where it is next to nothing.
pub fn saved_by_months((water, money): (Volume, Option<Decimal>), u: UnitSystem, currency: &str) -> String {
    if water.litres() < 100.0 {
        return String::new();
    }
    let money = money.filter(|sum| *sum > Decimal::ZERO);
    let money = money.map_or_else(String::new, |sum| {
        format!(" and {} at the water rate", crate::whole_money(sum, currency))
    });
    format!(
        "Monthly run times save {}{money} per year compared with leaving the peak-month setting all year.",
        round_water(two_digits(water, u), u)
    )
}

/// Why no night could be shorter.
pub fn bound_by(night: &Night, stations: &[StationTimes], job: &Job) -> String {
    match night.bound.by {
        BoundBy::Chain(station) => format!(
            "cycle and soak of {} alone",
            stations.get(station).map_or("one station", |s| s.name.as_str())
        ),
        BoundBy::Flow(supply) => format!(
            "total water at {} within its design flow",
            job.supplies.get(supply).map_or("the point of connection", |s| s.name.as_str())
        ),
        BoundBy::Controller(_) => {
            format!("total run time with {} stations at once", job.watering.controller.at_once)
        }
        BoundBy::Alone(n) => format!("{n} stations that can only run one at a time"),
        BoundBy::Orders => "every order was tried".into(),
        BoundBy::Nothing => "no watering".into(),
    }
}

/// What is left at the neediest head in any minute of a night; empty where nothing runs.
pub fn margin_said(night: &Night, stations: &[StationTimes], u: UnitSystem) -> String {
    let Some((margin, who)) = &night.margin else {
        return String::new();
    };
    let names: Vec<&str> = who.iter().filter_map(|s| stations.get(*s)).map(|s| s.name.as_str()).collect();
    let names = in_a_row(&names);
    if margin.kpa() < 0.0 {
        return format!(
            "{names}: {} below what its heads need, even running alone. See Pressure.",
            (-*margin).show(u)
        );
    }
    format!("Every head stays at or above target all night; smallest margin {} ({names}).", margin.show(u))
}

/// What a night breaks.
pub fn broken(broken: &Broken, night: &Night, stations: &[StationTimes], u: UnitSystem) -> String {
    let name = |s: &usize| stations.get(*s).map_or("", |s| s.name.as_str());
    match broken {
        Broken::Together { at, stations } => format!(
            "From {}, {} run together, more than flow, pressure or the controller allow. A start time set \
                by hand causes this: clear it or move it.",
            night.window.clock(*at).show(u),
            in_a_row(&stations.iter().map(name).collect::<Vec<_>>())
        ),
        Broken::Closed { at, station } => format!(
            "{} runs from {}, in hours when watering is not allowed. Its start time was set by hand, or no \
                allowed period is long enough.",
            name(station),
            night.window.clock(*at).show(u)
        ),
    }
}

/// A way to make a night fit.
pub fn way_to_fit(way: Way, u: UnitSystem) -> String {
    match way {
        Way::AtOnce(n) => format!("controller that runs {n} stations at once"),
        Way::OpenAt(clock) => format!("start the watering window at {}, if allowed", clock.show(u)),
        Way::TakeTurns => "stagger stations that do not run every day".into(),
        Way::DripOutside => "run drip outside the window, if exempt".into(),
        Way::MoreFlow(share) => {
            format!("{} more design flow (larger meter, service line or pump)", percent(share))
        }
    }
}

/// A week's minutes, rounded.
pub fn minutes(minutes: Minutes) -> String {
    format!("{:.0} min", minutes.minutes())
}

/// What a night's readings point to.
pub fn suspect(suspect: &Suspect, job: &Job) -> String {
    let name = |valve: &str| {
        job.valve(valve).map_or_else(String::new, |v| format!("{} {}", job.valve_number(valve), v.name))
    };
    match suspect {
        Suspect::StaysOpen(Some(valve)) => format!(
            "Water flows with all stations off, about as much as {} uses. Its valve is stuck open.",
            name(valve)
        ),
        Suspect::StaysOpen(None) => {
            "Water flows with all stations off, not matching any station. Look for a leak in the mainline \
                or a valve box."
                .into()
        }
        Suspect::TooMuch(valve) => format!(
            "High flow whenever {} runs: broken lateral or missing nozzle. Walk the zone while it runs.",
            name(valve)
        ),
        Suspect::TooLittle(valve) => format!(
            "Low flow whenever {} runs: clogged filter or valve not fully open. Clean the filter first.",
            name(valve)
        ),
    }
}
