use crate::names::{kind, regulation};
use fenlo_core::units::{Length, UnitSystem};
use fenlo_core::zoning::{
    ApartReason, ClassBound, HEIGHT_APART_FT, Hopeless, LaterArea, MoreValves, NoHope, Unfit, ValveChange,
    ValveState,
};

/// Why two areas should not share a valve.
pub fn apart(reason: ApartReason, u: UnitSystem) -> String {
    match reason {
        ApartReason::Drip => {
            "sprinklers and drip never share a valve; one part drowns before the other is wet".into()
        }
        ApartReason::Kinds(a, b) => format!(
            "{} and {} apply water at different rates",
            kind(a).to_lowercase(),
            kind(b).to_lowercase()
        ),
        ApartReason::Rates(ratio) => format!("one gets {ratio:.2} times the rate of the other"),
        ApartReason::Containers => "containers dry out sooner than ground".into(),
        ApartReason::Trees => "trees want water deep and seldom, shallow roots often".into(),
        ApartReason::Lawn => "lawn and planting want different amounts".into(),
        ApartReason::Plants => "different plants want different amounts".into(),
        ApartReason::Sun => "one is in the sun, the other in the shade".into(),
        ApartReason::Slope => "slope and flat: water runs off the one while it soaks into the other".into(),
        ApartReason::Height => format!(
            "over {} of height between them: low heads drain, high ones starve",
            Length::from_ft(HEIGHT_APART_FT).show(u)
        ),
        ApartReason::Soil => "sand and clay take water at different rates".into(),
    }
}

/// How the least number of valves of a class comes about.
pub fn class_bound(class: &ClassBound, u: UnitSystem) -> String {
    let limit = class
        .limit
        .map_or_else(|| "design flow not known".to_owned(), |d| d.show(u));
    format!(
        "{}: {} at the aim / {limit} → {}",
        class.areas.join(", "),
        class.flow.show(u),
        class.valves
    )
}

/// Why a class took more valves than the least.
pub fn more_valves(more: &MoreValves, u: UnitSystem) -> String {
    let since = more.since.as_ref().map_or_else(String::new, |s| unfit(s, u));
    format!(
        "{}: {} instead of {}, since {since}",
        more.area, more.valves, more.least
    )
}

/// What is said of heads that no number of valves helps.
pub fn no_hope(hopeless: &Hopeless, u: UnitSystem) -> String {
    let area = &hopeless.area;
    match hopeless.why {
        NoHope::NoFlow => format!(
            "{area}: at the pressure that these heads want next to no water is left, on however many valves: \
             lower-pressure heads, drip, or a booster pump"
        ),
        NoHope::Starves { gets, needs } => format!(
            "{area}: a head alone on a valve gets {} at its nozzle and needs {}, so more valves don't help: \
             lower-pressure heads, drip, less loss on the way, or a booster pump",
            gets.show(u),
            needs.show(u)
        ),
    }
}

fn unfit(unfit: &Unfit, u: UnitSystem) -> String {
    match unfit {
        Unfit::Flow(flow) => format!("the heads really take {} at the pressure they get", flow.show(u)),
        Unfit::Pipe { pipe, carries, at } => {
            format!(
                "{pipe} carries no more than {} at {}",
                carries.show(u),
                at.show(u)
            )
        }
        Unfit::BelowAim { gets, aim } => {
            format!(
                "the last head would get {} where {} are aimed at",
                gets.show(u),
                aim.show(u)
            )
        }
        Unfit::Starves { gets, needs } => {
            format!(
                "the last head would get {} of the {} it needs",
                gets.show(u),
                needs.show_round(u)
            )
        }
    }
}

/// What is kept back for an area that comes later.
pub fn later_said(later: &LaterArea, u: UnitSystem) -> String {
    let stations = match later.stations {
        1 => "a station and a strand of wire".to_owned(),
        n => format!("{n} stations and {n} strands of wire"),
    };
    let stub = later.stub.as_ref().map_or(String::new(), |stub| {
        format!("; a capped stub from the main, {} long", stub.length().show(u))
    });
    format!(
        "{}: {} for {} at {} ({}), {stations} kept back{stub}; nothing is bought",
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
            format!(", {}, {} at its last head", flow.show(u), low.show(u))
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
                0 => "goes: no head is on it".to_owned(),
                n => format!("goes: its {} come to other valves", heads(n)),
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
                lines.push("its drawn lateral is taken up: route it again".into());
            }
            if lines.is_empty() {
                lines.push("other heads, as many as before".into());
            }
            (was.name.clone(), lines)
        }
        (None, None) => (String::new(), Vec::new()),
    }
}
