//! Run times in words and workings.

use crate::names::soil;
use crate::pricing::two_digits;
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
        DayRule::Odd => "odd days, not the 31st".into(),
        DayRule::Even => "even days".into(),
        DayRule::Weekdays { days } => {
            let names = days
                .iter()
                .filter_map(|d| WEEKDAYS.get(usize::from(*d).wrapping_sub(1)));
            names.copied().collect::<Vec<_>>().join(", ")
        }
        DayRule::Every { days: 1 } => "every day".into(),
        DayRule::Every { days } => format!("every {days} days"),
    }
}

/// How often a station runs.
pub fn how_often(station: &StationTimes) -> String {
    match &station.days {
        None => "never".into(),
        Some(days) if days.mean_gap < 1.02 => "every day".into(),
        Some(days) if (days.mean_gap - days.mean_gap.round()).abs() < 0.02 => {
            format!("every {:.0} days", days.mean_gap)
        }
        Some(days) => format!("{:.1} times a week", days.a_week()),
    }
}

/// Its cycles.
pub fn cycles(station: &StationTimes) -> String {
    let cycles = station.cycles;
    match cycles.count {
        0 => "none".into(),
        1 => format!("{} min", cycles.minutes),
        n => format!("{n} × {} min, {} min between", cycles.minutes, cycles.soak),
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
            "No climate yet: every month is reckoned as the house's peak week, without rain; take a station \
                or \
             type evaporation and rain"
                .into(),
        ),
        WaterFrom::MonthMissing => Some(format!(
            "The climate has no {}: it is reckoned as the house's peak week, without rain",
            month(asked)
        )),
    }
}

/// What is to be said of a station.
pub fn station_says(says: &StationSays, u: UnitSystem) -> String {
    match says {
        StationSays::Unsolved(fault) => format!("no times: {}", zone_fault(fault, u)),
        StationSays::RainGivesAll => "its plants want nothing beyond the rain: nothing to run".into(),
        StationSays::NothingComes(name) => format!("nothing comes out at {name}: look at its pressure"),
        StationSays::RunsOff { rate, intake } => format!(
            "even a minute runs off: {} on soil that takes {}. A slower head or drip is wanted here",
            rate.show(u),
            intake.show(u)
        ),
        StationSays::NoDay => "the rules leave no day on which it may run".into(),
        StationSays::DaysTooFar { gap, holds: 1 } => {
            format!(
                "up to {gap} days between waterings, and its roots hold one day's water: expect dry spells"
            )
        }
        StationSays::DaysTooFar { gap, holds } => format!(
            "up to {gap} days between waterings, and its roots hold {holds} days' water: expect dry spells"
        ),
        StationSays::Missing(minutes) => format!(
            "{:.0} min a week less than needed: the rules allow no more",
            minutes.minutes()
        ),
        StationSays::UsualEvenness => {
            "its heads are only listed: evenness is what audits find on sound layouts of the kind".into()
        }
        StationSays::Uneven(du) => format!(
            "evenness {du:.2} would want runs over 1.67 times as long: the cap holds; mend the layout rather \
             than water over it"
        ),
        StationSays::OthersGetMore { name, times } => format!(
            "the neediest sets the minutes: {name} on the same valve gets {times:.1} times what it needs"
        ),
        StationSays::RhythmDiffers { name, days: 1 } => {
            format!("{name} on the same valve would be watered every day")
        }
        StationSays::RhythmDiffers { name, days } => {
            format!("{name} on the same valve would be watered every {days} days")
        }
        StationSays::KeptBack => {
            "comes later: flow, station and wire are kept back, nothing is bought".into()
        }
        StationSays::Drains(volume) => format!(
            "its drain lets out {} after every run: counted; fewer and longer runs lose less",
            round_water(*volume, u)
        ),
        StationSays::LongerThanWindow { chain, window } => format!(
            "its cycles and soaks take {}, the window has {}",
            span(*chain),
            span(*window)
        ),
    }
}

/// The arithmetic of a need.
pub fn need_working(need: &Need, u: UnitSystem) -> Working {
    let thirst = &need.thirst;
    Working::new(
        "evaporation × plants × exposure × density − half of the rain",
        "FAO-56 (1998) reference evapotranspiration; plant factors and rain as planning figures",
    )
    .with("evaporation, a week", need.week.water.et0.show_depth(u))
    .with(
        if thirst.typed {
            "plants, as typed"
        } else {
            "plants"
        },
        format!("{:.2}", thirst.plants),
    )
    .with("exposure", format!("{:.2}", thirst.exposure))
    .with("density", format!("{:.2}", thirst.density))
    .with("rain, a week", need.week.water.rain.show_depth(u))
    .gives(format!("{} a week", need.depth.show_depth(u)))
}

/// The arithmetic of a week's minutes.
pub fn minutes_working(station: &StationTimes, need: &Need, u: UnitSystem) -> Working {
    let working = match &need.basis {
        Basis::Ground {
            rate,
            evenness,
            multiplier,
        } => Working::new(
            "60 × need ÷ rate × 1 ÷ (0.4 + 0.6 × evenness)",
            "the dry quarter gets enough; at most 1.67 times",
        )
        .with("need, a week", need.depth.show_depth(u))
        .with("rate, as solved", rate.show(u))
        .with(evenness_name(evenness.from), format!("{:.2}", evenness.du))
        .with("lengthened by", format!("{multiplier:.3}")),
        Basis::Plant {
            canopy, wants, gives, ..
        } => Working::new(
            "need × ground under the canopy ÷ what its emitters give",
            "emitters at single plants: no ground between them is to be evened out",
        )
        .with("need, a week", need.depth.show_depth(u))
        .with("under the canopy", canopy.show(u))
        .with("water, a week", round_water(*wants, u))
        .with("its emitters, as solved", crate::emitter_flow(*gives, u)),
    };
    let working = if (station.tuned - 1.0).abs() > 1e-9 {
        working.with("tuned after the start", percent(station.tuned))
    } else {
        working
    };
    working.gives(format!("{:.1} min a week", station.minutes_week.minutes()))
}

fn evenness_name(from: EvennessFrom) -> &'static str {
    match from {
        EvennessFrom::Simulated(_) => "evenness expected, simulated on its ground",
        EvennessFrom::Usual => "evenness, usual for the kind",
        EvennessFrom::Emitters => "evenness of emitters",
        EvennessFrom::Plants => "evenness",
    }
}

/// The arithmetic of how often.
pub fn interval_working(job: &Job, station: &StationTimes, need: &Need, u: UnitSystem) -> Working {
    let group = job.group(&need.group);
    let of = group.map_or("", |g| soil(g.soil));
    let daily = need.depth / 7.0;
    let working = Working::new(
        "root depth × available water × half ÷ need of a day, rounded down",
        "half of what roots find may be used up before they are watered again",
    )
    .with("soil", of)
    .with("half of what its roots hold", station.dose.show_depth(u))
    .with(
        "need of a day",
        if u.is_metric() {
            format!("{:.1} mm", daily.mm())
        } else {
            format!("{:.3} in", daily.inches())
        },
    );
    let working = match station.rhythm {
        Rhythm::Often => working.with("rhythm", "a little every day"),
        Rhythm::Deep => working.with("rhythm", "as seldom as roots hold"),
    };
    let working = match &station.days {
        Some(days) => working.with("so every", format!("{} days at most", days.wanted)),
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
        "longest run = 60 × surface storage ÷ (rate − intake); soak = 60 × surface storage ÷ intake",
        "allowable surface accumulation by soil and slope, planning figures",
    )
    .with(
        "soil, slope",
        format!("{}, {:.0} %", soil(group.soil), group.slope_percent),
    )
    .with(
        "held on the surface",
        held.surface_on(group.slope_percent).show_depth(u),
    )
    .with("intake", held.intake.show(u))
    .with("rate", need.rate().show(u))
    .with(
        "longest run",
        station
            .longest
            .map_or("no limit".into(), |l| format!("{:.1} min", l.minutes())),
    )
    .with(
        "wanted on the day",
        format!("{:.1} min", station.minutes_day.minutes()),
    );
    working.gives(cycles(station))
}

/// What minutes by the month save; empty where it is next to nothing.
pub fn saved_by_months((water, money): (Volume, Option<Decimal>), u: UnitSystem) -> String {
    if water.litres() < 100.0 {
        return String::new();
    }
    let money = money.filter(|sum| *sum > Decimal::ZERO);
    let money = money.map_or_else(String::new, |sum| format!(" and {} at the tariff", sum.round()));
    format!(
        "Minutes set by the month save {}{money} a year against those of the fullest month left standing.",
        round_water(two_digits(water, u), u)
    )
}

/// Why no night could be shorter.
pub fn bound_by(night: &Night, stations: &[StationTimes], job: &Job) -> String {
    match night.bound.by {
        BoundBy::Chain(station) => format!(
            "the cycles and soaks of {} alone",
            stations.get(station).map_or("one station", |s| s.name.as_str())
        ),
        BoundBy::Flow(supply) => format!(
            "the water at {} through its design flow",
            job.supplies
                .get(supply)
                .map_or("the connection", |s| s.name.as_str())
        ),
        BoundBy::Controller(_) => format!(
            "all minutes, {} at once on the controller",
            job.watering.controller.at_once
        ),
        BoundBy::Alone(n) => format!("{n} stations of which no two may run together"),
        BoundBy::Orders => "every order of its runs was tried".into(),
        BoundBy::Nothing => "nothing runs".into(),
    }
}

/// What is left at the neediest head in any minute of a night; empty where nothing runs.
pub fn margin_said(night: &Night, stations: &[StationTimes], u: UnitSystem) -> String {
    let Some((margin, who)) = &night.margin else {
        return String::new();
    };
    let names: Vec<&str> = who
        .iter()
        .filter_map(|s| stations.get(*s))
        .map(|s| s.name.as_str())
        .collect();
    let names = names.join(" with ");
    if margin.kpa() < 0.0 {
        return format!(
            "{names}: {} under what its heads need, even alone; see Pressure.",
            (-*margin).show(u)
        );
    }
    format!(
        "Every head keeps its aim in every minute, by {} at the least ({names}).",
        margin.show(u)
    )
}

/// What a night breaks.
pub fn broken(broken: &Broken, night: &Night, stations: &[StationTimes]) -> String {
    let name = |s: &usize| stations.get(*s).map_or("", |s| s.name.as_str());
    match broken {
        Broken::Together { at, stations } => format!(
            "From {} on {} run together: more than flow, pressure or the controller allow. A start that was \
                set by \
             hand does that; let it go or move it.",
            night.window.clock(*at),
            stations.iter().map(name).collect::<Vec<_>>().join(" and ")
        ),
        Broken::Closed { at, station } => format!(
            "{} runs from {} on, in closed hours: its start was set so, or no open stretch is long enough \
                for its run.",
            name(station),
            night.window.clock(*at)
        ),
    }
}

/// A way to make a night fit.
pub fn way_to_fit(way: Way) -> String {
    match way {
        Way::AtOnce(n) => format!("a controller that runs {n} at once"),
        Way::OpenAt(clock) => format!("open the window at {clock}, where the rules allow"),
        Way::TakeTurns => "stations that don't run every day take turns".into(),
        Way::DripOutside => "let drip run outside the window, where the rules exempt it".into(),
        Way::MoreFlow(share) => format!(
            "{} more design flow: larger meter, service line or pump",
            percent(share)
        ),
    }
}

/// A week's minutes, rounded.
pub fn minutes(minutes: Minutes) -> String {
    format!("{:.0} min", minutes.minutes())
}

/// What a night's readings point to.
pub fn suspect(suspect: &Suspect, job: &Job) -> String {
    let name = |valve: &str| {
        job.valve(valve)
            .map_or_else(String::new, |v| format!("{} {}", job.valve_number(valve), v.name))
    };
    match suspect {
        Suspect::StaysOpen(Some(valve)) => format!(
            "Water runs while nothing is open, as much as {} takes: its valve stays open.",
            name(valve)
        ),
        Suspect::StaysOpen(None) => {
            "Water runs while nothing is open, like no station: a leak in the main or at a valve box.".into()
        }
        Suspect::TooMuch(valve) => format!(
            "More than planned whenever {} runs: a broken lateral, a missing nozzle. Walk it while it runs.",
            name(valve)
        ),
        Suspect::TooLittle(valve) => format!(
            "Less than planned whenever {} runs: a clogged filter, a valve half open. Clean the filter \
                first.",
            name(valve)
        ),
    }
}
