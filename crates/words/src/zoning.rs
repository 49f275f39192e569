use crate::names::{kind, regulation};
use crate::said::counted;
use fenlo_core::findings::{ApartReason, HEIGHT_APART_FT};
use fenlo_core::units::{Length, UnitSystem};
use fenlo_core::zoning::{
    ClassBound, Hopeless, LaterArea, MoreValves, NoHope, Unfit, ValveChange, ValveState,
};

/// Why two areas should not share a valve.
pub fn apart(reason: ApartReason, u: UnitSystem) -> String {
    match reason {
        ApartReason::Drip => {
            "sprinklers and drip never share a valve: their run times are too different".into()
        }
        ApartReason::Kinds(a, b) => format!(
            "{} and {} have different precipitation rates",
            kind(a).to_lowercase(),
            kind(b).to_lowercase()
        ),
        ApartReason::Rates(ratio) => format!("one has {ratio:.2} times the precipitation rate of the other"),
        ApartReason::Containers => "containers dry out faster than soil".into(),
        ApartReason::Trees => "trees need deep, infrequent water; shallow roots need frequent water".into(),
        ApartReason::Lawn => "lawn and plantings need different amounts".into(),
        ApartReason::Plants => "plants with different water needs".into(),
        ApartReason::Sun => "one is in the sun, the other in the shade".into(),
        ApartReason::Slope => "slope and flat ground take water at different rates".into(),
        ApartReason::Height => format!(
            "more than {} elevation difference: low heads drain, high heads get too little",
            Length::from_ft(HEIGHT_APART_FT).show(u)
        ),
        ApartReason::Soil => "sand and clay have different intake rates".into(),
    }
}

/// How the least number of valves of a class comes about.
pub fn class_bound(class: &ClassBound, u: UnitSystem) -> String {
    let limit = class.limit.map_or_else(|| "design flow unknown".to_owned(), |d| d.show(u));
    format!("{}: {} at target pressure ÷ {limit} → {}", areas(&class.areas), class.flow.show(u), class.valves)
}

/// Areas of one name are told once, with how many there are.
fn areas(names: &[String]) -> String {
    let mut told: Vec<(&str, usize)> = Vec::new();
    for name in names {
        match told.iter_mut().find(|t| t.0 == name) {
            Some(known) => known.1 += 1,
            None => told.push((name, 1)),
        }
    }
    let text = |(name, n): (&str, usize)| match n {
        1 => name.to_owned(),
        n => format!("{name} ({n} areas)"),
    };
    told.into_iter().map(text).collect::<Vec<_>>().join(", ")
}

/// Why a class took more valves than the least.
pub fn more_valves(more: &MoreValves, u: UnitSystem) -> String {
    let since = more.since.as_ref().map_or_else(String::new, |s| unfit(s, u));
    format!("{}: {} instead of {}, because {since}", more.area, counted(more.valves, "valve"), more.least)
}

/// What is said of heads that no number of valves helps.
pub fn no_hope(hopeless: &Hopeless, u: UnitSystem) -> String {
    let area = &hopeless.area;
    match hopeless.why {
        NoHope::NoFlow => format!(
            "{area}: at the pressure these heads need, almost no flow is left, however many valves are \
                used. Use lower-pressure heads or drip, or a booster pump"
        ),
        NoHope::Starves { gets, needs } => format!(
            "{area}: a single head on a valve gets {} and needs {}, so more valves will not help. Use \
                lower-pressure heads or drip, reduce losses, or add a booster pump",
            gets.show(u),
            needs.show(u)
        ),
    }
}

fn unfit(unfit: &Unfit, u: UnitSystem) -> String {
    match unfit {
        Unfit::Flow(flow) => format!("the heads use {} at their actual pressure", flow.show(u)),
        Unfit::Pipe { pipe, carries, at } => {
            format!("{pipe} carries at most {} at {}", carries.show(u), at.show(u))
        }
        Unfit::BelowAim { gets, aim } => {
            format!("the weakest head would get {}, target {}", gets.show(u), aim.show(u))
        }
        Unfit::Starves { gets, needs } => {
            format!("the weakest head would get {}, minimum {}", gets.show(u), needs.show_round(u))
        }
    }
}

/// What is kept back for an area that comes later.
pub fn later_said(later: &LaterArea, u: UnitSystem) -> String {
    let stations = match later.stations {
        1 => "1 station and 1 wire".to_owned(),
        n => format!("{n} stations and {n} wires"),
    };
    let stub = later.stub.as_ref().map_or(String::new(), |stub| {
        format!("; capped stub from the mainline, {} long", stub.length().show(u))
    });
    format!(
        "{}: {} for {} at {} ({}); {stations} reserved{stub}; not in the parts list",
        later.name,
        later.flow.show(u),
        later.ground.show(u),
        later.rate.show(u),
        kind(later.kind)
    )
}

/// A valve that a split would make, change or take away: what it is called, and what would become of it.
pub fn valve_change(change: &ValveChange, u: UnitSystem) -> (String, Vec<String>) {
    let heads = |n: usize| format!("{n} head{}", if n == 1 { "" } else { "s" });
    let solved = |s: &ValveState| {
        s.solved.map_or(String::new(), |(flow, low)| {
            format!(", {}, {} at the weakest head", flow.show(u), low.show(u))
        })
    };
    let whole = |s: &ValveState| format!("{} of {}{}", heads(s.heads), s.areas, solved(s));
    match (&change.was, &change.now) {
        (None, Some(now)) => {
            let mut lines = vec![format!("new: {}", whole(now))];
            lines.push(format!("{}, {}", now.model, regulation(now.regulation, u)));
            (now.name.clone(), lines)
        }
        (Some(was), None) => {
            let gone = match was.heads {
                0 => "removed: no heads".to_owned(),
                n => format!("removed: its {} move to other valves", heads(n)),
            };
            (was.name.clone(), vec![gone])
        }
        (Some(was), Some(now)) => {
            let mut lines = Vec::new();
            if (was.heads, &was.areas) != (now.heads, &now.areas) || was.solved != now.solved {
                lines.push(format!("{} → {}", whole(was), whole(now)));
            }
            let mut pair = |what: &str, was: &str, now: &str| {
                if was != now {
                    lines.push(format!("{what}: {was} → {now}"));
                }
            };
            pair("name", &was.name, &now.name);
            pair("model", &was.model, &now.model);
            let filter = |s: &ValveState| s.filter.clone().unwrap_or_else(|| "none".into());
            pair("filter", &filter(was), &filter(now));
            let regulated = |s: &ValveState| regulation(s.regulation, u);
            pair("regulator", &regulated(was), &regulated(now));
            if change.lateral {
                lines.push("its drawn lateral is deleted; reroute it".into());
            }
            if lines.is_empty() {
                lines.push("same number of heads, different ones".into());
            }
            (was.name.clone(), lines)
        }
        (None, None) => (String::new(), Vec::new()),
    }
}
